"""The menu bar, drawn from the registry; what cannot run now is greyed when its menu opens."""

from collections.abc import Callable

from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import QMenu, QMenuBar

from notcher.ui.commands.command import Command
from notcher.ui.commands.menus import MENUS, plain, with_access_letters
from notcher.ui.commands.registry import Registry
from notcher.ui.commands.wording import MENU_ENTRIES, MENU_PATHS, WORDING

Fill = Callable[[QMenu], None]


class MenuBar:
    """Fills a menu bar from the registry.

    changing: menus whose entries change, such as the recent files, by the id of the command they stand after: path, and
    what fills them when they open.
    """

    def __init__(self, bar: QMenuBar, registry: Registry, changing: dict[str, tuple[str, Fill]]) -> None:
        self._bar, self._registry = bar, registry
        self._menus: dict[str, QMenu] = {}
        self._actions: dict[str, QAction] = {}
        there = {action.text(): action.menu() for action in bar.actions()}
        for name in MENUS:
            menu = there.get(name) or bar.addMenu(name)
            if menu is not None:
                self._take(plain(name), menu)
        for name in MENU_ENTRIES:
            if name not in WORDING:
                self._menu(name)
            elif name in registry:
                self._add(registry[name])
            if name in changing:
                path, fill = changing[name]
                menu = self._menu(path)
                menu.aboutToShow.connect(lambda fill=fill, menu=menu: fill(menu))
        for path in MENU_PATHS:
            self._mark_letters(path)

    def _take(self, path: str, menu: QMenu) -> None:
        self._menus[path] = menu
        menu.aboutToShow.connect(lambda: self._refresh(path))

    def _add(self, command: Command) -> None:
        menu = self._menu(command.menu)
        if WORDING[command.id].after_line:
            menu.addSeparator()
        action = QAction(command.label.replace("&", "&&"), menu)
        action.setCheckable(command.checked is not None)
        action.triggered.connect(lambda _checked=False: self._registry.run(command.id))
        menu.addAction(action)
        self._actions[command.id] = action

    def _menu(self, path: str) -> QMenu:
        """Return a menu by its path, made where it is missing: "File/Write as"."""
        if path not in self._menus:
            above, _, name = path.rpartition("/")
            if not above:
                raise ValueError(f"there is no menu {path!r}, only {', '.join(self._menus)}")
            menu = QMenu(name.replace("&", "&&"), self._bar)
            self._menu(above).addMenu(menu)
            self._take(path, menu)
        return self._menus[path]

    def _mark_letters(self, path: str) -> None:
        """Give every entry of a menu, and every menu inside it, an access letter of its own."""
        actions = [action for action in self._menus[path].actions() if not action.isSeparator()]
        for action, marked in zip(
            actions, with_access_letters(plain(action.text()) for action in actions), strict=True
        ):
            action.setText(marked)

    def _refresh(self, path: str) -> None:
        """Show the keys as they are now, what is switched on, and what can run."""
        for command in self._registry:
            if command.menu == path:
                action = self._actions[command.id]
                marked = action.text().partition("\t")[0]
                action.setText(f"{marked}\t{self._registry.keys_shown(command.id)}")
                action.setEnabled(not command.disabled_reason)
                if command.checked is not None:
                    action.setChecked(command.checked())
