"""Finding an action by its name, and giving actions other keys."""

from collections.abc import Mapping

from PyQt6.QtCore import QEvent, QObject, Qt
from PyQt6.QtGui import QAction, QKeyEvent, QKeySequence
from PyQt6.QtWidgets import (
    QDialog,
    QDialogButtonBox,
    QHBoxLayout,
    QHeaderView,
    QKeySequenceEdit,
    QLabel,
    QLineEdit,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

MOST_SHOWN = 60


def found_actions(actions: Mapping[str, QAction], words: str) -> list[str]:
    """Return the names that hold every typed word, those that begin with the first word in front."""
    wanted = words.lower().split()
    names = [name for name, action in actions.items() if action.isEnabled() and all(w in name.lower() for w in wanted)]
    return sorted(names, key=lambda name: not wanted or not name.lower().startswith(wanted[0]))


class ActionFinder(QDialog):
    """A line to type in and the actions that fit; Enter does the first or the chosen one."""

    def __init__(self, actions: Mapping[str, QAction], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Find an action")
        self._actions = actions
        self.line, self.list = QLineEdit(), QTableWidget(0, 2)
        self.line.setPlaceholderText("Type a part of its name, such as “choke” or “snap phrase”")
        self.line.setAccessibleName("Name of the action")
        self.line.textChanged.connect(self._show)
        self.line.returnPressed.connect(self._do)
        self.list.setSelectionBehavior(QTableWidget.SelectionBehavior.SelectRows)
        self.list.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        self.list.setShowGrid(False)
        self.list.verticalHeader().hide()
        self.list.horizontalHeader().hide()
        self.list.horizontalHeader().setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
        self.list.cellActivated.connect(lambda _row, _column: self._do())
        self.line.installEventFilter(self)
        column = QVBoxLayout(self)
        column.addWidget(self.line)
        column.addWidget(self.list)
        self.resize(520, 420)
        self._show("")

    def _show(self, words: str) -> None:
        names = found_actions(self._actions, words)[:MOST_SHOWN]
        self.list.setRowCount(len(names))
        for row, name in enumerate(names):
            keys = self._actions[name].shortcut().toString(QKeySequence.SequenceFormat.NativeText)
            self.list.setItem(row, 0, QTableWidgetItem(name))
            self.list.setItem(row, 1, QTableWidgetItem(keys))
        self.list.resizeColumnToContents(1)
        self.list.setCurrentCell(0, 0)

    def _do(self) -> None:
        item = self.list.item(self.list.currentRow(), 0)
        if item is not None:
            self.accept()
            self._actions[item.text()].trigger()

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        """Up and down choose in the list while the line keeps the typing."""
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            step = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}.get(Qt.Key(event.key()), 0)
            if step:
                self.list.setCurrentCell(max(0, min(self.list.rowCount() - 1, self.list.currentRow() + step)), 0)
                return True
        return super().eventFilter(watched, event)


class KeysDialog(QDialog):
    """One row an action, its keys to be changed; two actions cannot share keys."""

    def __init__(
        self, actions: Mapping[str, QAction], defaults: Mapping[str, str], parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle("Keys")
        self._defaults = defaults
        self.fields: dict[str, QKeySequenceEdit] = {}
        self.trouble = QLabel()
        self.trouble.setWordWrap(True)
        table = QTableWidget(len(actions), 2)
        table.setHorizontalHeaderLabels(["Action", "Keys"])
        table.verticalHeader().hide()
        table.horizontalHeader().setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
        table.setColumnWidth(1, 190)
        for row, (name, action) in enumerate(actions.items()):
            field = QKeySequenceEdit(action.shortcut())
            field.setMaximumSequenceLength(1)
            field.setClearButtonEnabled(True)
            field.setAccessibleName(f"Keys for {name}")
            self.fields[name] = field
            shown = QTableWidgetItem(name)
            shown.setFlags(Qt.ItemFlag.ItemIsEnabled)
            table.setItem(row, 0, shown)
            table.setCellWidget(row, 1, field)
        buttons = QDialogButtonBox(
            QDialogButtonBox.StandardButton.Ok
            | QDialogButtonBox.StandardButton.Cancel
            | QDialogButtonBox.StandardButton.RestoreDefaults
        )
        buttons.accepted.connect(self._on_accepted)
        buttons.rejected.connect(self.reject)
        restore = buttons.button(QDialogButtonBox.StandardButton.RestoreDefaults)
        if restore is not None:
            restore.clicked.connect(self._on_restored)
        row_below = QHBoxLayout()
        row_below.addWidget(self.trouble, 1)
        row_below.addWidget(buttons)
        column = QVBoxLayout(self)
        column.addWidget(table)
        column.addLayout(row_below)
        self.resize(640, 640)

    @property
    def chosen(self) -> dict[str, str]:
        """The keys of every action, as text."""
        return {name: field.keySequence().toString() for name, field in self.fields.items()}

    def _on_restored(self) -> None:
        for name, field in self.fields.items():
            field.setKeySequence(QKeySequence(self._defaults.get(name, "")))

    def _on_accepted(self) -> None:
        owner: dict[str, str] = {}
        for name, keys in self.chosen.items():
            if keys and keys in owner:
                self.trouble.setText(f"{keys} would do both “{owner[keys]}” and “{name}”: give one of them other keys.")
                return
            owner[keys] = name
        self.accept()
