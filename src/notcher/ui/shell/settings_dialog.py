"""The settings, one row each, made from their table."""

from collections.abc import Mapping, Sequence
from typing import Any

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QDoubleSpinBox,
    QFormLayout,
    QHBoxLayout,
    QVBoxLayout,
    QWidget,
)

from notcher.ui.state.settings import SETTINGS, SIDE_SETTINGS, VOLUMES, WEIGHT_SETTINGS, Setting, Settings
from notcher.ui.widgets.cards import scrolling
from notcher.ui.widgets.field_guard import FieldGuard

USUAL_ROWS = tuple(
    setting for setting in SETTINGS if setting.name not in VOLUMES and setting not in (*WEIGHT_SETTINGS, *SIDE_SETTINGS)
)
"""What has no dialog of its own."""


MARGIN_PX = 20


class SettingsDialog(QDialog):
    """One row a setting, made from the table."""

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
        self._settings = settings
        self._fields: dict[str, QWidget] = {}
        self.changed: set[str] = set()  # once it was accepted
        shown = list(rows)
        inside = QWidget()
        columns = QHBoxLayout(inside)
        columns.setSpacing(24)
        forms = QFormLayout(), QFormLayout()
        for form in forms:
            form.setHorizontalSpacing(10)
            form.setVerticalSpacing(6)
            columns.addLayout(form)
            columns.setAlignment(form, Qt.AlignmentFlag.AlignTop)
        for number, setting in enumerate(shown):
            form = forms[number > len(shown) // 2]
            labels = commands if setting.is_command else setting.labels
            field = _field(setting, labels, settings.get(setting.name))
            field.setToolTip(setting.help)
            field.setAccessibleName(setting.label)
            self._fields[setting.name] = field
            form.addRow(setting.label, field)
        self._shown = {name: _value(field) for name, field in self._fields.items()}
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel)
        buttons.accepted.connect(self._on_accepted)
        buttons.rejected.connect(self.reject)
        FieldGuard(self).watch(inside)
        area = self._area = scrolling(inside)
        widest = max(widget.width() for widget in (parent, self) if widget is not None) - 2 * MARGIN_PX
        if inside.sizeHint().width() > widest:  # with large text below each other
            columns.setDirection(QHBoxLayout.Direction.TopToBottom)
        wanted = inside.sizeHint()
        area.setMinimumWidth(min(wanted.width() + 20, widest))
        column = QVBoxLayout(self)
        column.addWidget(area)
        column.addWidget(buttons)
        screen = self.screen()
        room = screen.availableSize().height() - 80 if screen is not None else wanted.height()
        self.resize(self.sizeHint().width(), min(wanted.height() + buttons.sizeHint().height() + 40, room))

    def go_to(self, name: str) -> None:
        """Give a setting the keys, in view."""
        if name in self._fields:
            self._fields[name].setFocus(Qt.FocusReason.OtherFocusReason)
            self._area.ensureWidgetVisible(self._fields[name])

    def _on_accepted(self) -> None:
        shown = {name: _value(field) for name, field in self._fields.items()}
        self.changed = {name for name, value in shown.items() if value != self._shown[name]}
        for name in self.changed:
            self._settings.set(name, shown[name])
        self.accept()


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
