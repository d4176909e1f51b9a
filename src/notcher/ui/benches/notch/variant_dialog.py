"""Easing and moving a phrase: what would change stands there before it is made, and each change can be refused."""

from collections.abc import Callable
from dataclasses import replace

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from notcher.core.errors import NotcherError
from notcher.core.score import Phrase, Score, Tuning
from notcher.core.teaching import NONE_REFUSED, Refused, Varied, variation_words
from notcher.core.words import Naming, many
from notcher.painting.theme import Theme
from notcher.ui.widgets.phrase_view import PhraseView
from notcher.ui.widgets.plain import Label

Plan = Callable[[str, str, Refused], tuple[Varied, str, Tuning | None]]
"""What a way and a typed answer come to, some changes refused: the phrase made otherwise, its name, its neck."""
BREATH_S = 0.05  # before the phrase, so that its first attack is whole


class VariantDialog(QDialog):
    """A way to vary a phrase, what it comes to, before and after."""

    hear_requested = pyqtSignal(list)  # scores, one after the other
    made = pyqtSignal(object, str, object)  # Varied, name, Tuning | None

    def __init__(
        self,
        title: str,
        score: Score,
        phrase: Phrase,
        ways: dict[str, str],
        plan: Plan,
        *,
        look: tuple[Theme, float, Naming],
        parent: QWidget | None = None,
    ) -> None:
        """ways: what can be chosen, and what is typed for it at first; an empty text asks for none."""
        super().__init__(parent)
        self.setWindowTitle(f"{title}: {phrase.name or 'this phrase'}")
        self._score, self._phrase, self._ways, self._plan = score, phrase, ways, plan
        self._naming = look[2]
        self._refused: Refused = NONE_REFUSED
        self._varied: Varied | None = None
        self._name, self._tuning = "", None  # type: str, Tuning | None
        self.way, self.answer = QComboBox(), QLineEdit()
        self.way.addItems(list(ways))
        self.way.setAccessibleName(title)
        self.answer.setAccessibleName("Where to")
        self.list, self.said = QListWidget(), Label()
        self.list.setAccessibleName("Changes: the space bar refuses one, and takes it again")
        self.list.setWordWrap(True)
        self.said.setWordWrap(True)
        self.said.setProperty("soft", True)
        self.before, self.after = PhraseView(*look), PhraseView(*look)
        self.hear_before, self.hear_after = QPushButton("Hear the &original"), QPushButton("Hear &this")
        self.make = QPushButton("&Make it")
        self.make.setDefault(True)
        for button in (self.hear_before, self.hear_after):
            button.setAutoDefault(False)
        self._lay_out()
        self._span_s = (phrase.start_s, phrase.end_s)
        self._onsets_s = {note.id: note.onset_s for note in (score.notes[at] for at in score.notes_of(phrase))}
        self.before.show_phrase(score, self._span_s, onsets_s=list(self._onsets_s.values()))
        self.way.currentTextChanged.connect(self._on_way)
        self.answer.textChanged.connect(lambda _text: self._begin_anew())
        self.list.itemChanged.connect(self._on_checked)
        self.hear_before.clicked.connect(lambda: self.hear_requested.emit([self._alone(score)]))
        self.hear_after.clicked.connect(self._on_hear)
        self.make.clicked.connect(self._on_make)
        self._on_way(self.way.currentText())

    def _lay_out(self) -> None:
        top = QHBoxLayout()
        top.addWidget(self.way)
        top.addWidget(self.answer, 1)
        close = QDialogButtonBox(QDialogButtonBox.StandardButton.Cancel)
        close.rejected.connect(self.reject)
        below = QHBoxLayout()
        below.addWidget(self.hear_before)
        below.addWidget(self.hear_after)
        below.addStretch(1)
        below.addWidget(self.make)
        below.addWidget(close)
        column = QVBoxLayout(self)
        column.addLayout(top)
        column.addWidget(Label("As it is"))
        column.addWidget(self.before)
        column.addWidget(Label("As it would be"))
        column.addWidget(self.after)
        column.addWidget(self.said)
        column.addWidget(self.list, 1)
        column.addLayout(below)
        self.resize(860, 640)

    def _on_way(self, way: str) -> None:
        question = self._ways[way]
        self.answer.setVisible(bool(question))
        self.answer.blockSignals(True)
        self.answer.setText(question)
        self.answer.blockSignals(False)
        self._begin_anew()

    def _begin_anew(self) -> None:
        self._refused = NONE_REFUSED
        self._work_out()

    def _work_out(self) -> None:
        try:
            self._varied, self._name, self._tuning = self._plan(
                self.way.currentText(), self.answer.text().strip(), self._refused
            )
        except (NotcherError, ValueError) as problem:
            self._varied = None
            self.said.setText(str(problem)[:1].upper() + str(problem)[1:])
        self.make.setEnabled(self._varied is not None and bool(self._varied.notes))
        self.hear_after.setEnabled(self.make.isEnabled())
        self._show()

    def _show(self) -> None:
        varied = self._varied
        row = self.list.currentRow()
        self.list.blockSignals(True)
        by_id = {
            self.list.item(at).data(Qt.ItemDataRole.UserRole): self.list.item(at).text()  # type: ignore[union-attr]
            for at in range(self.list.count())
        }
        self.list.clear()
        if varied is None:
            self.after.show_phrase(replace(self._score, notes=()))
            self.list.blockSignals(False)
            return
        tuning = self._tuning or self._score.tuning
        texts = {change.key: variation_words(change, self._score, tuning, self._naming) for change in varied.changes}
        refused = {key: by_id[key] for key in self._refused if key in by_id}
        for key in sorted({**texts, **refused}, key=lambda key: (self._onsets_s.get(key[1], 0.0), key)):
            self._add(key, texts.get(key) or refused[key], wanted=key in texts)
        self.list.setCurrentRow(max(0, min(row, self.list.count() - 1)))
        self.list.blockSignals(False)
        changed = {change.source for change in varied.changes}
        marked = {note.id for note in varied.notes if note.source in changed}
        score = replace(self._score, notes=(), tuning=tuning).with_notes(varied.notes)
        self.after.show_phrase(score, self._span_s, onsets_s=list(self._onsets_s.values()), marked=marked)
        refused_text = f", {len(self._refused)} refused" if self._refused else ""
        if not self.list.count():
            self.said.setText("Nothing has to be changed.")
            return
        self.said.setText(
            f"{many(len(varied.changes), 'change')}{refused_text}. The space bar refuses one, and takes it again."
        )

    def _add(self, key: object, words: str, *, wanted: bool) -> None:
        item = QListWidgetItem(words)
        item.setFlags(item.flags() | Qt.ItemFlag.ItemIsUserCheckable)
        item.setCheckState(Qt.CheckState.Checked if wanted else Qt.CheckState.Unchecked)
        item.setData(Qt.ItemDataRole.UserRole, key)
        self.list.addItem(item)

    def _on_checked(self, item: QListWidgetItem) -> None:
        key = item.data(Qt.ItemDataRole.UserRole)
        if item.checkState() is Qt.CheckState.Checked:
            self._refused = self._refused - {key}
        else:
            self._refused = self._refused | {key}
        self._work_out()

    # --- sound and answer ---
    def _alone(self, score: Score) -> Score:
        """A phrase by itself, from second 0 on."""
        from notcher.core.score import excerpt

        return excerpt(score, max(0.0, self._phrase.start_s - BREATH_S), self._phrase.end_s)

    def _on_hear(self) -> None:
        if self._varied is not None:
            tuning = self._tuning or self._score.tuning
            score = replace(self._score, notes=(), tuning=tuning).with_notes(self._varied.notes)
            self.hear_requested.emit([self._alone(score)])

    def _on_make(self) -> None:
        if self._varied is not None:
            self.made.emit(self._varied, self._name, self._tuning)
            self.accept()
