"""Finding by words: commands first, then settings, pages of the guide, students, phrases and recent solos."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from PyQt6.QtCore import QEvent, QObject, Qt
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QDialog, QLineEdit, QTableWidget, QTableWidgetItem, QVBoxLayout, QWidget

from notcher.ui.commands.ranking import ranked
from notcher.ui.commands.registry import Registry
from notcher.ui.widgets.plain import Label
from notcher.ui.widgets.tables import as_list

MOST_SHOWN = 60  # more is not read


@dataclass(frozen=True, slots=True)
class Findable:
    """What is no command and can be gone to. kind: what it is, such as "setting". words: others it is found by."""

    label: str
    kind: str
    words: str
    run: Callable[[], object]


class CommandFinder(QDialog):
    """A line to type in and what fits; Enter runs the first or the chosen one, or says why it cannot.

    others: what is found besides commands.
    """

    def __init__(self, registry: Registry, others: Sequence[Findable] = (), parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Find a command")
        self._registry = registry
        self._others = others
        self._shown: list[str | Findable] = []
        self.line, self.list, self.why = QLineEdit(), QTableWidget(0, 2), Label()
        self.line.setPlaceholderText("Type what you want to do, such as “bend up”, “dark mode” or “slow down”")
        self.line.setAccessibleName("What you want to do")
        self.line.textChanged.connect(self._show)
        self.line.returnPressed.connect(self._run)
        self.list.setAccessibleName("Commands that fit")
        as_list(self.list, stretched=0)
        self.list.cellActivated.connect(lambda _row, _column: self._run())
        self.list.currentCellChanged.connect(lambda *_: self._tell_why())
        self.why.setWordWrap(True)
        self.why.setProperty("soft", True)
        self.line.installEventFilter(self)
        column = QVBoxLayout(self)
        for widget in (self.line, self.list, self.why):
            column.addWidget(widget)
        self.resize(560, 440)
        self._show("")

    def _show(self, words: str) -> None:
        found = [self._others[at] for at in ranked(words, [(one.label, one.words) for one in self._others])]
        commands = [command.id for command in self._registry.found(words)]
        self._shown = [*commands, *(found if words.strip() else ())][:MOST_SHOWN]
        self.list.setRowCount(len(self._shown))
        for row, entry in enumerate(self._shown):
            if isinstance(entry, Findable):
                texts, reason = (entry.label, entry.kind), ""
            else:
                command = self._registry[entry]
                texts, reason = (command.label, self._registry.keys_shown(entry)), command.disabled_reason
            for column, text in enumerate(texts):
                item = QTableWidgetItem(text)
                if reason:
                    item.setForeground(self.palette().color(self.palette().ColorRole.PlaceholderText))
                self.list.setItem(row, column, item)
        self.list.resizeColumnToContents(1)
        self.list.setCurrentCell(0, 0)
        self._tell_why()

    @property
    def _chosen(self) -> str | Findable | None:
        row = self.list.currentRow()
        return self._shown[row] if 0 <= row < len(self._shown) else None

    def _tell_why(self) -> None:
        chosen = self._chosen
        if chosen is None:
            self.why.setText("Nothing found. Try other words, or fewer.")
        elif isinstance(chosen, Findable):
            self.why.setText(f"Return goes there: {chosen.kind}.")
        else:
            command = self._registry[chosen]
            self.why.setText(command.disabled_reason or f"In the menu {command.menu.replace('/', ', ')}.")

    def _run(self) -> None:
        chosen = self._chosen
        if isinstance(chosen, Findable):
            self.accept()
            chosen.run()
        elif chosen is not None and not self._registry[chosen].disabled_reason:
            self.accept()
            self._registry.run(chosen)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        """Up and down choose in the list while the line keeps the typing."""
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            step = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}.get(Qt.Key(event.key()), 0)
            if step:
                self.list.setCurrentCell(max(0, min(self.list.rowCount() - 1, self.list.currentRow() + step)), 0)
                return True
        return super().eventFilter(watched, event)
