"""What is noted of a solo: its title, who plays, which recording it is, who asked for it."""

from dataclasses import replace

from PyQt6.QtWidgets import QDialog, QDialogButtonBox, QFormLayout, QLineEdit, QWidget

from notcher.core.score import Facts
from notcher.core.score.limits import NAME_CHARS
from notcher.ui.state.session import Session
from notcher.ui.widgets.limited import limit_line
from notcher.ui.widgets.plain import Label

LABELS = {
    "player": ("Player of the take", "who is heard"),
    "version": ("Version", "studio, live, the year"),
    "pickup": ("Guitar pickup", "neck, middle, bridge"),
    "requested_by": ("Requested by", "student, and for when"),
}


class FactsDialog(QDialog):
    """One line each; accepted as one step that can be undone."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("About this solo")
        self._session = session
        score = session.score
        form = QFormLayout(self)
        self.title_line = QLineEdit(score.title)
        self.title_line.setAccessibleName("Title")
        form.addRow("Title", self.title_line)
        self.lines: dict[str, QLineEdit] = {}
        for name, (label, example) in LABELS.items():
            line = QLineEdit(getattr(score.facts, name))
            line.setPlaceholderText(example)
            line.setAccessibleName(label)
            form.addRow(label, line)
            self.lines[name] = line
        self.cut = Label()
        self.cut.hide()
        for line in (self.title_line, *self.lines.values()):
            limit_line(line, NAME_CHARS, self._say)
        form.addRow(self.cut)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel)
        buttons.accepted.connect(self._on_accepted)
        buttons.rejected.connect(self.reject)
        form.addRow(buttons)
        self.resize(460, self.sizeHint().height())
        self.title_line.selectAll()

    def _say(self, words: str) -> None:
        self.cut.setText(words)
        self.cut.setVisible(bool(words))

    def _on_accepted(self) -> None:
        facts = Facts(**{name: line.text().strip() for name, line in self.lines.items()})
        title = self.title_line.text().strip()
        self._session.edit("Facts of the solo", replace(self._session.score, title=title, facts=facts))
        self.accept()
