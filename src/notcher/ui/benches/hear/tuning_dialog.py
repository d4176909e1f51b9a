"""Tuning and capo of the open solo: one of the usual tunings, one's own, and what of the solo stays."""

from collections.abc import Callable
from dataclasses import replace

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QDoubleSpinBox,
    QFormLayout,
    QLineEdit,
    QPushButton,
    QSpinBox,
    QWidget,
)

from notcher.core.neck import Keeps
from notcher.core.score import USUAL_TUNINGS, Tuning, TuningError, tuning_from_text
from notcher.core.score.limits import NAME_CHARS
from notcher.core.words import Naming, open_strings, strings_said, tuning_name
from notcher.ui.benches.context import Context
from notcher.ui.widgets.form import fit_height
from notcher.ui.widgets.limited import limit_line
from notcher.ui.widgets.plain import Label

FIELD_PX = 340
OWN_WORDS = "Other: as typed below"
KEEPS_WORDS = {
    Keeps.PITCHES: "The sound: notes move to other frets",
    Keeps.FRETS: "The frets as played: the solo sounds different",
}


class TuningDialog(QDialog):
    """Asks for a tuned neck. then: given the tuning and what stays."""

    def __init__(
        self,
        parent: QWidget,
        now: Tuning,
        own: dict[str, Tuning],
        keep_own: Callable[[str, Tuning | None], None],
        *,
        keeps: Keeps,
        naming: Naming,
        then: Callable[[Tuning, Keeps], None],
    ) -> None:
        """own: the tunings that were kept, by their names. keep_own: keeps one, or forgets it where it is None."""
        super().__init__(parent)
        self.setWindowTitle("Tuning and capo")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self._keep_own, self._then = keep_own, then
        self.box = QComboBox()
        for name, tuning in USUAL_TUNINGS.items():
            self.box.addItem(f"{tuning_name(name)}   {strings_said(tuning, naming)}", tuning.open_midi)
        for name, tuning in own.items():
            self.box.addItem(f"{name}   {strings_said(tuning, naming)}", tuning.open_midi)
            self.box.setItemData(self.box.count() - 1, name, Qt.ItemDataRole.UserRole + 1)
        self.box.addItem(OWN_WORDS, None)
        self.box.setMinimumContentsLength(24)
        self.strings, self.name = QLineEdit(), QLineEdit()
        self.strings.setPlaceholderText("D A D G A D, or with octaves D2 A2 D3 G3 A3 D4")
        self.name.setPlaceholderText("not kept")
        self.capo, self.cents = QSpinBox(), QDoubleSpinBox()
        self.capo.setRange(0, 12)
        self.capo.setSpecialValueText("none")
        self.capo.setPrefix("fret ")
        self.cents.setRange(-100.0, 100.0)
        self.cents.setDecimals(1)
        self.cents.setSuffix(" cents")
        self.stays = QComboBox()
        for kept, words in KEEPS_WORDS.items():
            self.stays.addItem(words, kept)
        self.forget = QPushButton("Remove from the list")
        self.trouble = Label()
        self._lay_out()
        self.stays.setCurrentIndex(list(KEEPS_WORDS).index(keeps))
        self.capo.setValue(now.capo)
        self.cents.setValue(now.offset_cents)
        known = [at for at in range(self.box.count()) if self.box.itemData(at) == tuple(now.open_midi)]
        self.box.setCurrentIndex(known[0] if known else self.box.count() - 1)
        self.strings.setText(_with_octaves(now))
        self.box.activated.connect(self._on_chosen)
        self.strings.textEdited.connect(self._on_typed)
        self._on_chosen()

    def _lay_out(self) -> None:
        form = QFormLayout(self)
        form.setHorizontalSpacing(12)
        rows = (
            ("Tuning", self.box), ("Open strings, lowest first", self.strings), ("Keep it as", self.name),
            ("", self.forget), ("Capo", self.capo), ("Off concert pitch", self.cents),
            ("What stays", self.stays),
        )  # fmt: skip
        for words, field in rows:
            form.addRow(words, field)
            field.setAccessibleName(field.text() if isinstance(field, QPushButton) else words)
        limit_line(self.name, NAME_CHARS, self._say)
        limit_line(self.strings, NAME_CHARS, self._say)
        self.trouble.setWordWrap(True)
        self.trouble.hide()
        form.addRow(self.trouble)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel)
        buttons.accepted.connect(self._on_accepted)
        buttons.rejected.connect(self.reject)
        form.addRow(buttons)
        self.forget.setAutoDefault(False)
        self.forget.clicked.connect(self._on_forget)
        self.strings.setMinimumWidth(FIELD_PX)

    def _say(self, words: str) -> None:
        self.trouble.setText(words)
        self.trouble.setVisible(bool(words))
        fit_height(self)

    def _on_chosen(self) -> None:
        opens = self.box.currentData()
        own = self.box.currentData(Qt.ItemDataRole.UserRole + 1)
        if opens is not None:
            self.strings.setText(_with_octaves(Tuning(opens)))
            self.name.setText(own or "")
        self.name.setEnabled(opens is None)
        self.forget.setVisible(own is not None)

    def _on_typed(self) -> None:
        self.box.setCurrentIndex(self.box.count() - 1)
        self.name.setEnabled(True)
        self.forget.hide()

    def _on_forget(self) -> None:
        self._keep_own(self.name.text(), None)
        typed = self.strings.text()
        self.box.removeItem(self.box.currentIndex())
        self.strings.setText(typed)
        self._on_typed()

    def _on_accepted(self) -> None:
        try:
            opens = self.box.currentData()
            tuned = Tuning(opens) if opens is not None else tuning_from_text(self.strings.text().strip())
            if opens is None and (name := self.name.text().strip()):
                self._keep_own(name, tuned)
        except TuningError as problem:
            self._say(str(problem))
            return
        keeps = Keeps(self.stays.currentData())
        self.accept()
        self._then(replace(tuned, capo=self.capo.value(), offset_cents=self.cents.value()), keeps)


def _with_octaves(tuning: Tuning) -> str:
    """The open strings, the lowest first, as `tuning_from_text` reads them."""
    return " ".join(reversed(open_strings(tuning).split()))


def ask_tuning(context: Context) -> None:
    """Ask for the tuning and capo of the open solo, and tune it."""
    settings, recorded = context.settings, context.session.document.clip is not None
    TuningDialog(
        context.parent,
        context.session.score.tuning,
        settings.own_tunings,
        settings.keep_tuning,
        keeps=Keeps.PITCHES if recorded else Keeps.FRETS,
        naming=settings.naming,
        then=context.session.retune,
    ).open()
