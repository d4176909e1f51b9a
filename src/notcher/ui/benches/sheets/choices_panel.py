"""What the sheet is to be like: a field for each choice, made from the one table of them."""

from collections.abc import Callable
from dataclasses import fields, replace
from enum import StrEnum

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QCheckBox, QComboBox, QFormLayout, QFrame, QScrollArea, QVBoxLayout, QWidget

from notcher.core.sheets import CHOICES, SheetChoices
from notcher.ui.widgets.plain import Label


class ChoicesPanel(QWidget):
    """Shows choices; says what was chosen instead."""

    changed = pyqtSignal(object)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.choices = SheetChoices()
        self.fields: dict[str, QComboBox | QCheckBox] = {}
        self.student = Label()
        self.student.setProperty("title", True)
        self.student.setWordWrap(True)
        inside = QWidget()
        form = QFormLayout(inside)
        form.setContentsMargins(10, 8, 10, 8)
        form.setVerticalSpacing(5)
        form.addRow(self.student)
        for choice in CHOICES:
            value = getattr(self.choices, choice.name)
            field: QComboBox | QCheckBox
            if isinstance(value, bool):
                field = box = QCheckBox(choice.words)
                box.toggled.connect(self._taker(choice.name))
                form.addRow(box)
            else:
                field = several = _several(value)
                several.activated.connect(self._taker(choice.name))
                form.addRow(choice.words, several)
            field.setToolTip(choice.tells)
            field.setAccessibleName(choice.words)
            field.setAccessibleDescription(choice.tells)
            self.fields[choice.name] = field
        area = QScrollArea()
        area.setWidget(inside)
        area.setWidgetResizable(True)
        area.setFrameShape(QFrame.Shape.NoFrame)
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(area)
        self._area, self._inside = area, inside
        self.show_choices(self.choices)

    def _taker(self, name: str) -> Callable[[object], None]:
        return lambda _value: self._on_chosen(name)

    def fit_width(self) -> None:
        """Be as wide as the fields and the scroll bar need."""
        bar = self._area.verticalScrollBar()
        wide = bar.sizeHint().width() if bar is not None else 0
        self.setFixedWidth(self._inside.sizeHint().width() + wide + 4)

    def show_student(self, words: str) -> None:
        self.student.setText(words)

    def show_choices(self, choices: SheetChoices) -> None:
        """Show choices without saying so."""
        self.choices = choices
        for name, field in self.fields.items():
            value = getattr(choices, name)
            field.blockSignals(True)
            if isinstance(field, QCheckBox):
                field.setChecked(bool(value))
            else:
                field.setCurrentIndex(field.findText(str(value)))
            field.blockSignals(False)

    def _on_chosen(self, name: str) -> None:
        field = self.fields[name]
        value = field.isChecked() if isinstance(field, QCheckBox) else field.currentData()
        self._take(name, value)

    def step(self, name: str) -> None:
        """Take the next value of a choice, the first after the last."""
        value = getattr(self.choices, name)
        if isinstance(value, bool):
            self._take(name, not value)
        elif isinstance(value, StrEnum):
            members = list(type(value))
            self._take(name, members[(members.index(value) + 1) % len(members)])

    def choose(self, name: str, value: object) -> None:
        self._take(name, value)

    def _take(self, name: str, value: object) -> None:
        if name not in {field.name for field in fields(SheetChoices)} or getattr(self.choices, name) == value:
            return
        self.show_choices(replace(self.choices, **{name: value}))  # type: ignore[arg-type]
        self.changed.emit(self.choices)


def _several(value: StrEnum) -> QComboBox:
    """A field with every value of a choice."""
    field = QComboBox()
    for member in type(value):
        field.addItem(str(member), member)
    field.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
    field.setMinimumContentsLength(9)
    return field
