"""A dialog of labelled fields, made from a table; what is wrong is told in it, and it stays open."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from typing import Any

from PyQt6.QtCore import QLocale, Qt
from PyQt6.QtWidgets import (
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QDoubleSpinBox,
    QFormLayout,
    QLineEdit,
    QPlainTextEdit,
    QWidget,
)

from notcher.core.errors import NotcherError
from notcher.core.parsing import day_from_text
from notcher.core.score.limits import NAME_CHARS, REMARK_CHARS
from notcher.core.teaching import due_words
from notcher.core.words import day_words
from notcher.ui.widgets.limited import limit_box, limit_line
from notcher.ui.widgets.plain import Label

FIELD_PX = 280
DAY_HINT = "Friday, next week, 5 Mar, 12/12 …"


@dataclass(frozen=True)
class Field:
    """One field. value: a text, a number, or a day as ISO 8601, by its kind; empty where there is none.

    kind: "text", "long", "number", "day", "choice" or "choice or new". choices: of the last two, (words, value); what
    is typed new is its own value. hint: shown while it is
    empty. low, high, decimals, unit: of a number; low_words: what the lowest one means. most: characters of a text.
    """

    name: str
    label: str
    value: Any = ""
    kind: str = "text"
    choices: Sequence[tuple[str, Any]] = ()
    hint: str = ""
    low: float = 0.0
    high: float = 100_000.0
    decimals: int = 0
    unit: str = ""
    low_words: str = ""
    most: int = NAME_CHARS


class Form(QDialog):
    """Asks for several things at once. then: given their values by name in the end; may raise NotcherError."""

    def __init__(
        self,
        parent: QWidget,
        title: str,
        fields: Sequence[Field],
        then: Callable[[Mapping[str, Any]], None],
        today: date | None = None,
    ) -> None:
        """today: from which days are told; None for what it is."""
        super().__init__(parent)
        self.setWindowTitle(title)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self._today, self._kinds = today or date.today(), {field.name: field.kind for field in fields}
        self._then, self.fields = then, {field.name: _widget(field) for field in fields}
        form = QFormLayout(self)
        form.setHorizontalSpacing(12)
        self.trouble = Label()
        for field in fields:
            widget = self.fields[field.name]
            _limit(widget, field, self._say)
            widget.setAccessibleName(field.label)
            if not isinstance(widget, QComboBox):
                widget.setMinimumWidth(FIELD_PX)
            for inner in widget.findChildren(QLineEdit):  # what is typed into: it has the keys, and is read out
                inner.setAccessibleName(field.label)
            form.addRow(field.label, widget)
            if field.kind == "day" and isinstance(widget, QLineEdit):
                form.addRow("", self._understood(widget))
        self.trouble.setWordWrap(True)
        self.trouble.hide()
        form.addRow(self.trouble)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel)
        buttons.accepted.connect(self._on_accepted)
        buttons.rejected.connect(self.reject)
        form.addRow(buttons)

    def _understood(self, line: QLineEdit) -> QWidget:
        """What is understood of a day that is typed, below it."""
        label = Label()
        label.setProperty("soft", True)

        def tell() -> None:
            try:
                day = day_from_text(line.text(), self._today, day_first=day_first())
                label.setText("" if day is None else f"{day:%A} {day_words(day)}, {due_words(day, self._today)}")
            except NotcherError as problem:
                label.setText(problem.problem)

        line.textChanged.connect(tell)
        tell()
        return label

    def _say(self, words: str) -> None:
        self.trouble.setText(words)
        self.trouble.setVisible(bool(words))
        fit_height(self)

    def _on_accepted(self) -> None:
        try:
            kinds = self._kinds
            self._then({name: _value(widget, kinds[name], self._today) for name, widget in self.fields.items()})
        except NotcherError as problem:
            self._say(str(problem))
            return
        self.accept()


def day_first() -> bool:
    """Whether people here write the day before the month."""
    written = QLocale().dateFormat(QLocale.FormatType.ShortFormat)
    return not ("M" in written and "d" in written) or written.index("d") < written.index("M")


def fit_height(dialog: QDialog) -> None:
    """Make a dialog as high as its words need: those that break into lines do not ask for room by themselves."""
    layout = dialog.layout()
    if layout is not None:
        layout.activate()
        dialog.resize(dialog.width(), max(dialog.height(), layout.totalHeightForWidth(dialog.width())))


def ask_form(
    parent: QWidget,
    title: str,
    fields: Sequence[Field],
    then: Callable[[Mapping[str, Any]], None],
    today: date | None = None,
) -> None:
    """Ask for several things at once."""
    Form(parent, title, fields, then, today).open()


def _widget(field: Field) -> QWidget:
    if field.kind in ("choice", "choice or new"):
        box = QComboBox()
        box.setEditable(field.kind == "choice or new")
        box.setInsertPolicy(QComboBox.InsertPolicy.NoInsert)
        for words, value in field.choices:
            box.addItem(words, value)
        box.setCurrentIndex(max(0, box.findData(field.value)))
        return box
    if field.kind == "number":
        number = QDoubleSpinBox()
        number.setRange(field.low, field.high)
        number.setDecimals(field.decimals)
        number.setSuffix(field.unit)
        number.setSpecialValueText(field.low_words)
        number.setValue(float(field.value or 0.0))
        return number
    if field.kind == "long":
        text = QPlainTextEdit(str(field.value))
        text.setTabChangesFocus(True)
        text.setFixedHeight(text.fontMetrics().lineSpacing() * 4 + 14)
        return text
    day = field.kind == "day"
    line = QLineEdit(day_words(date.fromisoformat(field.value[:10])) if day and field.value else str(field.value))
    line.setPlaceholderText(DAY_HINT if day else field.hint)
    return line


def _limit(widget: QWidget, field: Field, say: Callable[[str], None]) -> None:
    """Let what is typed into a field be as long as what it is kept in."""
    line = widget.lineEdit() if isinstance(widget, QComboBox) else widget
    if isinstance(line, QPlainTextEdit):
        limit_box(line, max(field.most, REMARK_CHARS), say)
    elif isinstance(line, QLineEdit):
        limit_line(line, field.most, say)


def _value(widget: QWidget, kind: str, today: date) -> Any:
    """What a field holds. Raises: DayError for words that are no day."""
    if isinstance(widget, QComboBox):
        at = widget.findText(widget.currentText().strip())
        return widget.itemData(at) if at >= 0 else widget.currentText().strip()
    if isinstance(widget, QDoubleSpinBox):
        return widget.value()
    if isinstance(widget, QPlainTextEdit):
        return widget.toPlainText().strip()
    text = widget.text().strip() if isinstance(widget, QLineEdit) else ""
    if kind == "day":
        day = day_from_text(text, today, day_first=day_first())
        return "" if day is None else day.isoformat()
    return text
