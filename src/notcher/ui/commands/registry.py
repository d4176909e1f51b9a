"""All commands by their ids, and their keys on the widgets where they belong."""

from collections.abc import Callable, Iterable, Iterator, Mapping

from PyQt6.QtCore import QObject, Qt
from PyQt6.QtGui import QKeySequence, QShortcut
from PyQt6.QtWidgets import QApplication, QWidget

from notcher.ui.commands.command import SHADOWS, Command, Scope, overlap
from notcher.ui.commands.ranking import ranked
from notcher.ui.commands.wording import WORDING
from notcher.ui.state.settings import Settings

CONTEXTS = {
    Scope.EVERYWHERE: Qt.ShortcutContext.WindowShortcut,
    Scope.TAB: Qt.ShortcutContext.WidgetShortcut,
    Scope.WRITING: Qt.ShortcutContext.WidgetShortcut,
    Scope.PROVE: Qt.ShortcutContext.WidgetWithChildrenShortcut,
    Scope.SHAPES: Qt.ShortcutContext.WidgetWithChildrenShortcut,
    Scope.BOARD: Qt.ShortcutContext.WidgetWithChildrenShortcut,
    Scope.CATALOGUE: Qt.ShortcutContext.WidgetWithChildrenShortcut,
    Scope.VERSIONS: Qt.ShortcutContext.WidgetWithChildrenShortcut,
    Scope.SHEETS: Qt.ShortcutContext.WidgetWithChildrenShortcut,
    Scope.LEDGER: Qt.ShortcutContext.WidgetWithChildrenShortcut,
    Scope.TAKES: Qt.ShortcutContext.WidgetWithChildrenShortcut,
}


class Registry(QObject):
    """Knows every command, runs it, and gives it its keys.

    refused: told why a command cannot run now. overtaken: called before one runs: what was said is no longer news.
    """

    def __init__(
        self,
        settings: Settings,
        refused: Callable[[str], None],
        overtaken: Callable[[], None],
        parent: QObject | None = None,
    ) -> None:
        super().__init__(parent)
        self._settings, self._refused, self._overtaken = settings, refused, overtaken
        self._commands: dict[str, Command] = {}
        self._shortcuts: dict[str, QShortcut] = {}
        self._resting = set(SHADOWS)
        self._tipped: dict[QWidget, str] = {}

    def add(self, commands: Iterable[Command], owners: dict[Scope, QWidget]) -> None:
        """Take commands in, each with its keys on the widget of its scope: all at once, as they look at each other.

        Raises: ValueError for an id that is taken.
        """
        for command in commands:
            if command.id in self._commands:
                raise ValueError(f"two commands are called {command.id}")
            self._commands[command.id] = command
            shortcut = QShortcut(owners[command.scope])
            shortcut.setContext(CONTEXTS[command.scope])
            shortcut.activated.connect(lambda name=command.id: self._run_by_key(name))
            self._shortcuts[command.id] = shortcut
            shortcut.setKey(QKeySequence(self.keys(command.id)))
        self._give_other_keys()
        self._let_keys_rest()

    def set_active(self, scope: Scope, wanted: bool) -> None:
        """Let the keys of a scope that is active only at times work, before those that they stand in front of."""
        if wanted == (scope in self._resting):
            self._resting ^= {scope}
            self._let_keys_rest()

    def _let_keys_rest(self) -> None:
        used = {
            (SHADOWS[command.scope], self.keys(command.id))
            for command in self
            if command.scope in SHADOWS and command.scope not in self._resting
        }
        for command in self:
            resting = command.scope in self._resting or (command.scope, self.keys(command.id)) in used
            self._shortcuts[command.id].setEnabled(not resting)

    def _give_other_keys(self) -> None:
        """Let commands be reached by the other keys they are known by as well, where nobody else wants those."""
        scopes: dict[str, set[Scope]] = {}
        for command in self:
            scopes.setdefault(self.keys(command.id), set()).add(command.scope)
        for command in self:
            if command.also:
                free = not any(overlap(scope, command.scope) for scope in scopes.get(command.also, ()))
                keys = [self.keys(command.id), *([command.also] if free else [])]
                self._shortcuts[command.id].setKeys([QKeySequence(some) for some in keys])

    def __iter__(self) -> Iterator[Command]:
        return iter(self._commands.values())

    def __getitem__(self, name: str) -> Command:
        return self._commands[name]

    def __contains__(self, name: str) -> bool:
        return name in self._commands

    def run(self, name: str) -> None:
        """Run a command, or say why it cannot run now."""
        command = self._commands[name]
        if reason := command.disabled_reason:
            self._refused(reason)
        else:
            self._overtaken()
            command.run()

    def _run_by_key(self, name: str) -> None:
        if QApplication.activePopupWidget() is None:  # else it was meant for the list or menu that is open
            self.run(name)

    def run_keys(self, keys: QKeySequence) -> None:
        """Run the command that has these keys everywhere, if there is one."""
        for command in self:
            keys_of = self._shortcuts[command.id].keys()
            if command.scope is Scope.EVERYWHERE and keys in keys_of:
                self.run(command.id)
                return

    def keys(self, name: str) -> str:
        """Return the keys of a command as they are now."""
        chosen = self._settings.keys(name)
        return self._commands[name].keys if chosen is None else chosen

    def keys_shown(self, name: str) -> str:
        """Return the keys of a command as the desktop writes them."""
        return QKeySequence(self.keys(name)).toString(QKeySequence.SequenceFormat.NativeText)

    def set_keys(self, chosen: dict[str, str]) -> None:
        """Give commands these keys from now on; those that equal the usual ones need not be remembered."""
        for name, keys in chosen.items():
            self._settings.set_keys(name, None if keys == self._commands[name].keys else keys)
            self._shortcuts[name].setKey(QKeySequence(keys))
        self._give_other_keys()
        self._let_keys_rest()
        self._show_tips()

    def tip(self, widgets: Mapping[QWidget, str]) -> None:
        """Let buttons say their command and its keys. widgets: each with the command's id."""
        self._tipped.update(widgets)
        self._show_tips()

    def _show_tips(self) -> None:
        for widget, name in self._tipped.items():
            keys = self.keys_shown(name)
            widget.setToolTip(f"{self[name].label} ({keys})" if keys else self[name].label)

    def in_menu_order(self) -> list[Command]:
        place = {name: at for at, name in enumerate(WORDING)}
        return sorted(self, key=lambda command: place[command.id])

    def found(self, words: str) -> list[Command]:
        """Return the commands that fit what a person types, the closest first; see `ranked`."""
        commands = self.in_menu_order()
        return [commands[at] for at in ranked(words, [(command.label, command.words) for command in commands])]
