"""The settings in groups, one row each, made from their table; found by words."""

from collections.abc import Mapping, Sequence
from typing import Any

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QDoubleSpinBox,
    QHBoxLayout,
    QVBoxLayout,
    QWidget,
)

from notcher.ui.commands.ranking import ranked
from notcher.ui.state.settings import SETTINGS, Setting, Settings
from notcher.ui.widgets.cards import scrolling
from notcher.ui.widgets.field_guard import FieldGuard
from notcher.ui.widgets.plain import Label
from notcher.ui.widgets.search_line import SearchLine

USUAL_ROWS = tuple(setting for setting in SETTINGS if setting.group)
"""What has no dialog of its own."""

FEW_ROWS = 16  # are seen at once: nothing need be searched
FIELD_PX, WORDS_PX = 200, 420
MARGIN_PX = 40


class SettingsDialog(QDialog):
    """One row a setting, made from the table: its name and what it does on the left, its field on the right."""

    def __init__(
        self,
        settings: Settings,
        commands: Mapping[str, str],
        parent: QWidget | None = None,
        *,
        title: str = "Settings",
        rows: Sequence[Setting] = USUAL_ROWS,
    ) -> None:
        """commands: the label of every command that a foot may choose, by its id."""
        super().__init__(parent)
        self.setWindowTitle(title)
        self._settings, self._shown_rows = settings, rows
        self._fields: dict[str, QWidget] = {}
        self._rows: dict[str, QWidget] = {}
        self._titles: dict[str, QWidget] = {}
        self.changed: set[str] = set()  # once it was accepted
        self.search = SearchLine("Words, such as “dark”, “count-in” or “left-handed”", self)
        self.search.setVisible(len(rows) > FEW_ROWS)
        self.nothing = Label("Nothing found. Try other words, or fewer.")
        self.nothing.hide()
        inside = QWidget()
        column = QVBoxLayout(inside)
        column.setSpacing(2)
        column.addWidget(self.nothing)
        for setting in rows:
            if setting.group and setting.group not in self._titles:
                heading = self._titles[setting.group] = Label(setting.group)
                heading.setProperty("title", True)
                heading.setContentsMargins(0, 8 if len(self._titles) > 1 else 0, 0, 0)
                column.addWidget(heading)
            labels = commands if setting.is_command else setting.labels
            field = self._fields[setting.name] = _field(setting, labels, settings.get(setting.name))
            row = self._rows[setting.name] = _row(setting, field)
            column.addWidget(row)
        column.addStretch(1)
        self._shown = {name: _value(field) for name, field in self._fields.items()}
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel)
        buttons.accepted.connect(self._on_accepted)
        buttons.rejected.connect(self.reject)
        FieldGuard(self).watch(inside)
        area = self._area = scrolling(inside)
        whole = QVBoxLayout(self)
        whole.addWidget(self.search)
        whole.addWidget(area, 1)
        whole.addWidget(buttons)
        self.search.textChanged.connect(self._show_found)
        self.search.left.connect(self._go_to_first)
        first = self.search if len(rows) > FEW_ROWS else next(iter(self._fields.values()))
        first.setFocus(Qt.FocusReason.OtherFocusReason)
        self._fit(inside, self.sizeHint().height() - area.sizeHint().height())

    def _fit(self, inside: QWidget, around_px: int) -> None:
        """Take the room that is wanted, as far as the window or the screen has it."""
        parent, screen = self.parentWidget(), self.screen()
        width = _wanted_width(self)
        height = inside.sizeHint().height() + around_px + 10
        if screen is not None:
            height = min(height, screen.availableSize().height() - 2 * MARGIN_PX)
        if parent is not None and parent.isVisible():
            width, height = min(width, parent.width() - MARGIN_PX), min(height, parent.height() - MARGIN_PX)
        self.resize(width, height)

    def go_to(self, name: str) -> None:
        """Give a setting the keys, in view."""
        if name in self._fields:
            self._fields[name].setFocus(Qt.FocusReason.OtherFocusReason)
            self._area.ensureWidgetVisible(self._rows[name])

    def _show_found(self, words: str) -> None:
        """Show the settings that fit the words, under the groups that they stand in."""
        texts = [(setting.label, f"{setting.group} {setting.help}") for setting in self._shown_rows]
        found = [self._shown_rows[at] for at in ranked(words, texts)]
        for name, row in self._rows.items():
            row.setVisible(any(setting.name == name for setting in found))
        for group, heading in self._titles.items():
            heading.setVisible(any(setting.group == group for setting in found))
        self.nothing.setVisible(not found)

    def _go_to_first(self) -> None:
        shown = [name for name, row in self._rows.items() if not row.isHidden()]
        if shown:
            self.go_to(shown[0])

    def _on_accepted(self) -> None:
        shown = {name: _value(field) for name, field in self._fields.items()}
        self.changed = {name for name, value in shown.items() if value != self._shown[name]}
        for name in self.changed:
            self._settings.set(name, shown[name])
        self.accept()


def _wanted_width(dialog: QDialog) -> int:
    """Of a dialog, px: as wide as its sentences are well read, more with large text."""
    scale = dialog.fontMetrics().averageCharWidth() / 7.0
    return round((WORDS_PX + FIELD_PX) * scale) + 80


def _row(setting: Setting, field: QWidget) -> QWidget:
    """A setting's name and sentence beside its field."""
    name, words, row, texts = Label(setting.label), Label(setting.help), QWidget(), QVBoxLayout()
    words.setWordWrap(True)
    words.setProperty("soft", True)
    field.setAccessibleName(setting.label)
    field.setAccessibleDescription(setting.help)
    field.setMinimumWidth(0 if isinstance(field, QCheckBox) else FIELD_PX)
    texts.setSpacing(0)
    texts.addWidget(name)
    texts.addWidget(words)
    box = QHBoxLayout(row)
    box.setContentsMargins(12, 4, 4, 4)
    box.addLayout(texts, 1)
    box.addWidget(field)
    return row


def _field(setting: Setting, labels: Mapping[str, str], value: Any) -> QWidget:
    if isinstance(setting.default, bool):
        box = QCheckBox()
        box.setChecked(value)
        return box
    if labels:
        choice = QComboBox()
        for name, label in labels.items():
            choice.addItem(label, name)
        choice.setCurrentIndex(max(0, choice.findData(value)))
        return choice
    number = QDoubleSpinBox()
    number.setRange(setting.low, setting.high)
    number.setSingleStep(0.1 if setting.high <= 2 else 1.0)
    number.setDecimals(2 if setting.high <= 2 else 0)
    number.setSuffix(setting.unit)
    number.setSpecialValueText(setting.low_words)
    number.setValue(value)
    return number


def _value(field: QWidget) -> Any:
    if isinstance(field, QCheckBox):
        return field.isChecked()
    if isinstance(field, QComboBox):
        return field.currentData()
    return field.value() if isinstance(field, QDoubleSpinBox) else None
