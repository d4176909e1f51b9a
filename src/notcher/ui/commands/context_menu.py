"""What a right click, or the menu key, offers on what lies under it: commands of the registry, a few for each thing."""

from collections.abc import Callable, Sequence

from PyQt6.QtCore import QEvent, QObject, QPoint
from PyQt6.QtGui import QAction, QContextMenuEvent
from PyQt6.QtWidgets import QMenu, QWidget

from notcher.ui.commands.menus import with_access_letters
from notcher.ui.commands.registry import Registry

LINE = ""
"""A separator among ids."""
NOTE = (
    "play.selection", LINE, "note.accept", "note.otherwise", "note.snap", "note.doubt", "note.slip", LINE,
    "bend.further", "bend.less", "note.vibrato", "place.higher_string", "place.lower_string", "note.garnish",
    "note.remark", LINE, "notes.copy", "notes.paste", "note.split", "note.join", "note.delete",
)  # fmt: skip
PHRASE = (
    "loop.toggle", "view.phrase", LINE, "phrase.accept", "phrase.snap", "phrase.name", "phrase.split", "phrase.join",
    LINE, "phrase.copy", "phrase.copy_text", "phrase.copy_picture", "notes.paste", LINE, "variant.ease", "variant.move",
    "catalogue.like",
)  # fmt: skip
CELL = (
    "board.play", LINE, "board.clean", "board.shaky", "board.missed", "board.clear", LINE, "take.record",
    "mirror.toggle",
)  # fmt: skip
ROW = ("ledger.open", "ledger.change", "lesson.was_held", "request.hours", "request.done", LINE, "ledger.take_away")
REEL = (
    "play.toggle", "loop.toggle", "pace.slower", "pace.faster", "count_in.toggle", LINE, "view.phrase", "view.all",
    "file.keep_stretch", LINE, "play.rounds", "play.volumes",
)  # fmt: skip

Offered = Callable[[QPoint | None], Sequence[str]]
"""Given where was clicked in the widget, or None for the menu key: the ids that are offered there."""


class ContextMenus(QObject):
    """Gives widgets their menus."""

    def __init__(self, registry: Registry, parent: QObject) -> None:
        super().__init__(parent)
        self._registry = registry
        self._offered: dict[QObject, Offered] = {}

    def give(self, widget: QWidget, offered: Offered) -> None:
        """Let a widget offer commands."""
        self._offered[widget] = offered
        widget.installEventFilter(self)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if not isinstance(event, QContextMenuEvent) or not isinstance(watched, QWidget):
            return False
        by_mouse = event.reason() == QContextMenuEvent.Reason.Mouse
        ids = self._offered[watched](event.pos() if by_mouse else None)
        if ids:
            self._menu(watched, ids).popup(event.globalPos())
        return bool(ids)

    def _menu(self, widget: QWidget, ids: Sequence[str]) -> QMenu:
        menu = QMenu(widget)
        menu.setToolTipsVisible(True)
        names = [name for name in ids if name != LINE]
        labels = dict(zip(names, with_access_letters(self._registry[name].label for name in names), strict=True))
        for name in ids:
            if name == LINE:
                menu.addSeparator()
                continue
            command = self._registry[name]
            action = QAction(f"{labels[name]}\t{self._registry.keys_shown(name)}", menu)
            action.setEnabled(not command.disabled_reason)
            action.setToolTip(command.disabled_reason)
            if command.checked is not None:
                action.setCheckable(True)
                action.setChecked(command.checked())
            action.triggered.connect(lambda _checked=False, name=name: self._registry.run(name))
            menu.addAction(action)
        menu.aboutToHide.connect(menu.deleteLater)
        return menu
