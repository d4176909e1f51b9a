"""Giving commands other keys."""

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeyEvent, QKeySequence
from PyQt6.QtWidgets import (
    QDialog,
    QDialogButtonBox,
    QHBoxLayout,
    QKeySequenceEdit,
    QLineEdit,
    QPushButton,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from notcher.ui.commands.command import Command, overlap
from notcher.ui.commands.ranking import ranked
from notcher.ui.commands.registry import Registry
from notcher.ui.commands.wording import WORDING
from notcher.ui.widgets.plain import Label
from notcher.ui.widgets.search_line import SearchLine
from notcher.ui.widgets.tables import as_list

KEYS_COLUMN = 2
KEYS_PX = 150
RETURN_KEYS = (Qt.Key.Key_Return, Qt.Key.Key_Enter)


class KeysDialog(QDialog):
    """Commands and their keys, found by words or by pressing keys; the chosen one takes the keys that are pressed.

    Two commands that work in one place cannot share keys.
    """

    def __init__(self, registry: Registry, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Keys")
        self._registry = registry
        places = {name: at for at, name in enumerate(WORDING)}
        self._commands = sorted(registry, key=lambda command: places.get(command.id, len(places)))
        self._keys = {command.id: registry.keys(command.id) for command in self._commands}
        self.words = SearchLine("Words, such as “bend up” or “loop”")
        self.pressed, self.field = (_keys_field(name) for name in ("Find by its keys", "New keys"))
        self.list = QTableWidget(len(self._commands), 3)
        self.chosen_label, self.trouble = Label(), Label()
        self.none_button, self.usual_button = QPushButton("&No keys"), QPushButton("&Usual keys")
        self._fill()
        self._lay_out()
        self.words.textChanged.connect(lambda _words: self._show_found())
        self.words.left.connect(lambda: self.list.setFocus(Qt.FocusReason.TabFocusReason))
        self.pressed.keySequenceChanged.connect(lambda _keys: self._show_found())
        self.list.currentCellChanged.connect(lambda *_: self._on_chosen())
        self.list.cellActivated.connect(lambda *_: self.field.setFocus(Qt.FocusReason.TabFocusReason))
        self.field.keySequenceChanged.connect(lambda keys: self._give(keys.toString()))
        self.none_button.clicked.connect(lambda: self._give(""))
        self.usual_button.clicked.connect(lambda: self._give(self._chosen.keys))
        self.list.setCurrentCell(0, 0)
        self.resize(820, 640)

    def _fill(self) -> None:
        self.list.setAccessibleName("Commands and their keys")
        as_list(self.list, stretched=0)
        for row, command in enumerate(self._commands):
            for column, text in enumerate((command.label, str(command.scope), _shown(self._keys[command.id]))):
                self.list.setItem(row, column, QTableWidgetItem(text))
        self.list.resizeColumnToContents(1)
        self.list.setColumnWidth(KEYS_COLUMN, max(KEYS_PX, self.list.sizeHintForColumn(KEYS_COLUMN) + 12))

    def _lay_out(self) -> None:
        for label in (self.chosen_label, self.trouble):
            label.setWordWrap(True)
        above, below = QHBoxLayout(), QHBoxLayout()
        above.addWidget(self.words, 2)
        above.addWidget(Label("or press its keys:"))
        above.addWidget(self.pressed, 1)
        below.addWidget(self.chosen_label, 1)
        below.addWidget(self.field)
        for button in (self.none_button, self.usual_button):
            button.setAutoDefault(False)
            below.addWidget(button)
        buttons = QDialogButtonBox(
            QDialogButtonBox.StandardButton.Ok
            | QDialogButtonBox.StandardButton.Cancel
            | QDialogButtonBox.StandardButton.RestoreDefaults
        )
        buttons.accepted.connect(self._on_accepted)
        buttons.rejected.connect(self.reject)
        restore = buttons.button(QDialogButtonBox.StandardButton.RestoreDefaults)
        if restore is not None:
            restore.setText("&All as usual")
            restore.clicked.connect(self._on_restored)
        column = QVBoxLayout(self)
        column.addLayout(above)
        column.addWidget(self.list, 1)
        column.addLayout(below)
        column.addWidget(self.trouble)
        column.addWidget(buttons)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Return in the list goes on to the new keys; it does not end the dialog."""
        if event is not None and event.key() in RETURN_KEYS and self.focusWidget() in (self.list, self.field):
            return
        super().keyPressEvent(event)

    @property
    def chosen(self) -> dict[str, str]:
        """The keys of every command, as text."""
        return dict(self._keys)

    @property
    def _chosen(self) -> Command:
        return self._commands[max(0, self.list.currentRow())]

    def _show_found(self) -> None:
        """Show the commands that fit the words, or that have the keys that were pressed."""
        keys = self.pressed.keySequence().toString()
        entries = [(command.label, f"{WORDING[command.id].words} {command.scope}") for command in self._commands]
        found = ranked(self.words.text(), entries)
        shown = [row for row in found if not keys or self._keys[self._commands[row].id] == keys]
        for row in range(len(self._commands)):
            self.list.setRowHidden(row, row not in shown)
        self.trouble.setText("" if shown else f"No command has {_shown(keys)}." if keys else "Nothing found.")
        if shown:
            self.list.setCurrentCell(shown[0], 0)

    def _on_chosen(self) -> None:
        command = self._chosen
        self.chosen_label.setText(f"New keys for “{command.label}”: click here and press them")
        self.field.blockSignals(True)
        self.field.setKeySequence(QKeySequence(self._keys[command.id]))
        self.field.blockSignals(False)

    def _give(self, keys: str) -> None:
        command = self._chosen
        self._set(command.id, keys)
        self._on_chosen()
        self.trouble.setText(self._clash(command.id))

    def _set(self, name: str, keys: str) -> None:
        self._keys[name] = keys
        row = next(row for row, command in enumerate(self._commands) if command.id == name)
        item = self.list.item(row, KEYS_COLUMN)
        if item is not None:
            item.setText(_shown(keys))

    def _clash(self, name: str) -> str:
        """What is wrong with the keys of a command; empty if nothing is."""
        first, keys = self._registry[name], self._keys[name]
        for other in self._commands:
            if other.id != name and keys and self._keys[other.id] == keys and overlap(first.scope, other.scope):
                both = f"both “{first.label}” and “{other.label}”"
                return f"{_shown(keys)} would do {both}: give one of them other keys."
        return ""

    def _on_restored(self) -> None:
        for command in self._commands:
            self._set(command.id, command.keys)
        self._on_chosen()
        self.trouble.setText("")

    def _on_accepted(self) -> None:
        trouble = next(filter(None, map(self._clash, self._keys)), "")
        if trouble:
            self.trouble.setText(trouble)
            return
        self._registry.set_keys(self.chosen)
        self.accept()


def _keys_field(name: str) -> QKeySequenceEdit:
    field = QKeySequenceEdit()
    if (line := field.findChild(QLineEdit)) is not None:
        line.setPlaceholderText("Press the keys")
    field.setMaximumSequenceLength(1)
    field.setClearButtonEnabled(True)
    field.setAccessibleName(name)
    field.setMinimumWidth(KEYS_PX)
    return field


def _shown(keys: str) -> str:
    """Keys as the desktop writes them."""
    return QKeySequence(keys).toString(QKeySequence.SequenceFormat.NativeText)
