"""Giving commands other keys."""

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeySequence
from PyQt6.QtWidgets import (
    QDialog,
    QDialogButtonBox,
    QHBoxLayout,
    QKeySequenceEdit,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from notcher.ui.commands.command import overlap
from notcher.ui.commands.registry import Registry
from notcher.ui.widgets.plain import Label
from notcher.ui.widgets.tables import without_row_numbers


class KeysDialog(QDialog):
    """One row a command, its keys to be changed; two commands that work in one place cannot share keys."""

    def __init__(self, registry: Registry, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Keys")
        self._registry = registry
        self.fields: dict[str, QKeySequenceEdit] = {}
        self.trouble = Label()
        self.trouble.setWordWrap(True)
        commands = list(registry)
        table = QTableWidget(len(commands), 3)
        table.setAccessibleName("Commands and their keys")
        table.setHorizontalHeaderLabels(["Command", "Works on", "Keys"])
        without_row_numbers(table, stretched=0)
        table.setColumnWidth(1, 130)
        table.setColumnWidth(2, 190)
        for row, command in enumerate(commands):
            field = QKeySequenceEdit(QKeySequence(registry.keys(command.id)))
            field.setMaximumSequenceLength(1)
            field.setClearButtonEnabled(True)
            field.setAccessibleName(f"Keys for {command.label}")
            self.fields[command.id] = field
            for column, text in enumerate((command.label, str(command.scope))):
                shown = QTableWidgetItem(text)
                shown.setFlags(Qt.ItemFlag.ItemIsEnabled)
                table.setItem(row, column, shown)
            table.setCellWidget(row, 2, field)
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
        column_of_all = QVBoxLayout(self)
        column_of_all.addWidget(table)
        column_of_all.addLayout(row_below)
        self.resize(760, 640)

    @property
    def chosen(self) -> dict[str, str]:
        """The keys of every command, as text."""
        return {name: field.keySequence().toString() for name, field in self.fields.items()}

    def _on_restored(self) -> None:
        for name, field in self.fields.items():
            field.setKeySequence(QKeySequence(self._registry[name].keys))

    def _on_accepted(self) -> None:
        chosen = {name: keys for name, keys in self.chosen.items() if keys}
        for name, keys in chosen.items():
            for other, other_keys in chosen.items():
                first, second = self._registry[name], self._registry[other]
                if name < other and keys == other_keys and overlap(first.scope, second.scope):
                    self.trouble.setText(
                        f"{keys} would do both “{first.label}” and “{second.label}”: give one of them other keys."
                    )
                    return
        self._registry.set_keys(self.chosen)
        self.accept()
