"""Finding a command by words."""

from PyQt6.QtCore import QEvent, QObject, Qt
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QDialog, QLineEdit, QTableWidget, QTableWidgetItem, QVBoxLayout, QWidget

from notcher.ui.commands.registry import Registry
from notcher.ui.widgets.plain import Label
from notcher.ui.widgets.tables import as_list

MOST_SHOWN = 60  # more is not read


class CommandFinder(QDialog):
    """A line to type in and the commands that fit; Enter runs the first or the chosen one, or says why it cannot."""

    def __init__(self, registry: Registry, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Find a command")
        self._registry = registry
        self._shown: list[str] = []
        self.line, self.list, self.why = QLineEdit(), QTableWidget(0, 2), Label()
        self.line.setPlaceholderText("Type what you want to do, such as “choke”, “erase” or “snap phrase”")
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
        commands = self._registry.found(words)[:MOST_SHOWN]
        self._shown = [command.id for command in commands]
        self.list.setRowCount(len(commands))
        for row, command in enumerate(commands):
            items = (QTableWidgetItem(command.label), QTableWidgetItem(self._registry.keys_shown(command.id)))
            for column, item in enumerate(items):
                if command.disabled_reason:
                    item.setForeground(self.palette().color(self.palette().ColorRole.PlaceholderText))
                self.list.setItem(row, column, item)
        self.list.resizeColumnToContents(1)
        self.list.setCurrentCell(0, 0)
        self._tell_why()

    @property
    def _chosen(self) -> str | None:
        row = self.list.currentRow()
        return self._shown[row] if 0 <= row < len(self._shown) else None

    def _tell_why(self) -> None:
        chosen = self._chosen
        self.why.setText(self._registry[chosen].disabled_reason if chosen is not None else "Nothing is called so.")

    def _run(self) -> None:
        chosen = self._chosen
        if chosen is not None and not self._registry[chosen].disabled_reason:
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
