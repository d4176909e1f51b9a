"""The Prove bench: the list of doubts, worst first; each row can be heard, seen against its evidence, and settled."""

from collections.abc import Callable
from dataclasses import replace
from typing import ClassVar

import numpy as np
from PyQt6.QtCore import QAbstractTableModel, QModelIndex, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QShowEvent
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QCheckBox,
    QComboBox,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QHeaderView,
    QLabel,
    QPushButton,
    QSizePolicy,
    QTableView,
    QVBoxLayout,
    QWidget,
)

from notcher.core.errors import CancelCheck, NotcherError, Progress
from notcher.core.formats.texttab import clock
from notcher.core.proving import Doubt, Known, Proof, corrected, doubts, evidence, exclude, prove, written_in
from notcher.core.score import Phrase, Score
from notcher.painting.theme import Theme
from notcher.ui.benches.prove.curve_ruler import AROUND_S, CurveRuler
from notcher.ui.state.jobs import Jobs
from notcher.ui.state.session import Session

COLUMNS = ("Time", "Place", "What the recording says", "Doubt", "State")
WAIT_MS = 150
CORRECTIONS = {
    "missing": "Take it out",
    "pitch": "Write the fret heard",
    "bend": "Write the bend heard",
    "onset": "Move to where it is heard",
    "strike": "Write the strike heard",
    "agrees": "Nothing to correct",
}
HEAR_HELP = {
    "recording": "This stretch of the recording, at the pace below.",
    "tab": "The same stretch as the tab says it.",
    "both": "The recording on the left side, the tab on the right.",
}
WRITE_IN, OVERHEAR, STANDS = "Write it in", "Not the solo's", "Checked"
EVERYTHING = "all phrases"
NOWHERE = QModelIndex()


class DoubtModel(QAbstractTableModel):
    """The rows of the list; only what is asked for is made into words."""

    def __init__(self) -> None:
        super().__init__()
        self.rows: tuple[Doubt, ...] = ()

    def show(self, rows: tuple[Doubt, ...]) -> None:
        self.beginResetModel()
        self.rows = rows
        self.endResetModel()

    def rowCount(self, parent: QModelIndex = NOWHERE) -> int:
        return 0 if parent.isValid() else len(self.rows)

    def columnCount(self, parent: QModelIndex = NOWHERE) -> int:
        return len(COLUMNS)

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        if role == Qt.ItemDataRole.DisplayRole and orientation == Qt.Orientation.Horizontal:
            return COLUMNS[section]
        return None

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        row = self.rows[index.row()]
        if role == Qt.ItemDataRole.DisplayRole:
            return (f"{row.onset_s:.2f} s", row.place, row.words, f"{row.worth:.0%}", row.state)[index.column()]
        if role == Qt.ItemDataRole.ToolTipRole:
            return row.words
        if role == Qt.ItemDataRole.TextAlignmentRole and index.column() in (0, 3):
            return Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        return None


class DoubtList(QTableView):
    """Walks by arrows; Return asks for the row to be heard, other keys are the bench's."""

    heard_requested = pyqtSignal()
    settled_requested = pyqtSignal(str)
    KEYS: ClassVar = {Qt.Key.Key_C: "correct", Qt.Key.Key_P: "slip", Qt.Key.Key_K: "checked"}

    def keyPressEvent(self, event: QKeyEvent) -> None:
        plain = event.modifiers() in (Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.KeypadModifier)
        if plain and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.heard_requested.emit()
        elif plain and event.key() in self.KEYS:
            self.settled_requested.emit(self.KEYS[Qt.Key(event.key())])
        else:
            super().keyPressEvent(event)


class ProveBench(QWidget):
    """Keeps a proof of the open score up to date and shows what it leaves open."""

    hear_requested = pyqtSignal(float, float, str)
    analysis_requested = pyqtSignal()
    refused = pyqtSignal(str)

    def __init__(self, session: Session, jobs: Jobs, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session, self._jobs = session, jobs
        self.proof: Proof | None = None
        self._score: Score | None = None  # what the proof is of
        self._known: Known = {}
        self.model = DoubtModel()
        self.list = DoubtList()
        self.ruler = CurveRuler()
        self.summary, self.verdict, self.facts = QLabel(), QLabel(), QLabel()
        self.phrase_box, self.all_box = QComboBox(), QCheckBox("Also what agrees")
        self.analyse_button = QPushButton("Hold against the recording")
        self.hear_buttons = {
            voice: QPushButton(words)
            for voice, words in (("recording", "Recording"), ("tab", "Tab"), ("both", "Left and right"))
        }
        self.correct_button, self.slip_button = QPushButton(), QPushButton("Player's slip")
        self.checked_button = QPushButton(STANDS)
        self._wait = QTimer(self)
        self._wait.setSingleShot(True)
        self._wait.setInterval(WAIT_MS)
        self._wait.timeout.connect(self._prove)
        self._lay_out()
        self._connect()

    # --- building ---
    def _lay_out(self) -> None:
        view = self.list
        view.setModel(self.model)
        view.setAccessibleName("Doubts, worst first")
        view.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        view.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        view.setTabKeyNavigation(False)
        view.setShowGrid(False)
        view.setAlternatingRowColors(True)
        view.setWordWrap(False)
        vertical, across = view.verticalHeader(), view.horizontalHeader()
        vertical.hide()
        across.setSectionResizeMode(2, QHeaderView.ResizeMode.Stretch)
        across.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        head = QHBoxLayout()
        self.phrase_box.setAccessibleName("Phrase")
        self.phrase_box.setMinimumWidth(150)
        self.summary.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        for widget in (self.phrase_box, self.all_box):
            head.addWidget(widget)
        head.addWidget(self.summary, 1)
        head.addWidget(self.analyse_button)
        left = QVBoxLayout()
        left.addLayout(head)
        left.addWidget(view, 1)
        row = QHBoxLayout(self)
        row.setContentsMargins(8, 8, 8, 8)
        row.addLayout(left, 11)
        row.addWidget(self._card(), 8)

    def _card(self) -> QFrame:
        card = QFrame()
        card.setProperty("card", True)
        inside = QVBoxLayout(card)
        inside.setContentsMargins(12, 8, 12, 10)
        for label in (self.verdict, self.facts):
            label.setWordWrap(True)
            label.setTextFormat(Qt.TextFormat.PlainText)
        self.verdict.setProperty("title", True)
        inside.addWidget(self.verdict)
        inside.addWidget(self.ruler, 1)
        inside.addWidget(self.facts)
        grid = QGridLayout()
        grid.addWidget(QLabel("Hear"), 0, 0)
        for column, (voice, button) in enumerate(self.hear_buttons.items(), start=1):
            button.clicked.connect(lambda _checked=False, voice=voice: self.hear(voice))
            button.setToolTip(HEAR_HELP[voice])
            grid.addWidget(button, 0, column)
        grid.addWidget(QLabel("Settle"), 1, 0)
        for column, button in enumerate((self.correct_button, self.slip_button, self.checked_button), start=1):
            grid.addWidget(button, 1, column)
            grid.setColumnStretch(column, 1)
        inside.addLayout(grid)
        hint = QLabel("Return hears the row, C corrects, P is the player's slip, K is checked.")
        hint.setProperty("soft", True)
        hint.setWordWrap(True)
        inside.addWidget(hint)
        return card

    def _connect(self) -> None:
        session = self._session
        session.opened.connect(self._on_opened)
        session.evidence_changed.connect(self._on_evidence_changed)
        session.score_changed.connect(self._wait.start)
        self.phrase_box.activated.connect(lambda _index: self._show_rows())
        self.all_box.toggled.connect(lambda _on: self._show_rows())
        self.analyse_button.clicked.connect(self.analysis_requested)
        self.list.heard_requested.connect(lambda: self.hear(None))
        self.list.settled_requested.connect(self._on_settled)
        chosen = self.list.selectionModel()
        chosen.currentRowChanged.connect(lambda _now, _before: self._on_row_changed())
        self.correct_button.clicked.connect(lambda: self._on_settled("correct"))
        self.slip_button.clicked.connect(lambda: self._on_settled("slip"))
        self.checked_button.clicked.connect(lambda: self._on_settled("checked"))

    def show_theme(self, theme: Theme, scale: float) -> None:
        self.ruler.show_theme(theme, scale)
        vertical = self.list.verticalHeader()
        vertical.setDefaultSectionSize(round(26 * scale))
        for column, width in ((0, 70), (1, 116), (3, 58), (4, 70)):
            self.list.setColumnWidth(column, round(width * scale))

    # --- the proof ---
    @property
    def row(self) -> Doubt | None:
        """The chosen row."""
        index = self.list.currentIndex()
        return self.model.rows[index.row()] if index.isValid() and index.row() < len(self.model.rows) else None

    def _on_opened(self) -> None:
        self.proof = self._score = None
        self._known = {}
        self._jobs.cancel("prove")
        self._show_rows()
        self._wait.start()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._on_row_changed()

    def stop(self) -> None:
        """Prove nothing more; the window closes."""
        self._wait.stop()

    def _on_evidence_changed(self) -> None:
        self._known = {}  # another draft: all is measured again
        self._wait.start()

    def _prove(self) -> None:
        """Hold the score against what was heard, off the UI thread; a newer score takes an older one's place."""
        score, heard = self._session.score, self._session.heard
        if heard is None or not score.notes:
            self.proof = self._score = None
            self._show_rows()
            return

        known = self._known

        def work(_progress: Progress, _cancelled: CancelCheck) -> Proof:
            return prove(score, heard, known=known)

        def done(proof: Proof) -> None:
            self.proof, self._score = proof, score
            self._show_rows()

        self._jobs.start("prove", work, finished=done, failed=self._on_failed)

    def _on_failed(self, problem: Exception) -> None:
        self.refused.emit(f"The tab could not be held against the recording ({problem}). Nothing was changed.")

    # --- showing ---
    def _show_rows(self) -> None:
        """Fill the list anew; the row that was chosen stays chosen while it is there, else the next one is."""
        index = self.list.currentIndex()
        before, at = self.row, index.row() if index.isValid() else 0
        left = self.proof.left_open(self._score) if self.proof is not None and self._score is not None else {}
        self._show_phrases(left)
        rows = self._rows()
        self.model.show(rows)
        self._show_summary(left)
        if rows:
            same = [number for number, row in enumerate(rows) if before is not None and _same(row, before)]
            self.list.selectRow(same[0] if same else min(max(at, 0), len(rows) - 1))  # which shows the row
        else:
            self._on_row_changed()

    def _rows(self) -> tuple[Doubt, ...]:
        if self.proof is None or self._score is None:
            return ()
        phrase = self.phrase_box.currentData()
        rows = doubts(self.proof, self._score)
        if isinstance(phrase, Phrase):
            rows = tuple(row for row in rows if phrase.start_s <= row.onset_s < phrase.end_s)
        return rows if self.all_box.isChecked() else tuple(row for row in rows if row.waiting)

    def _show_phrases(self, left_open: dict[Phrase, int]) -> None:
        """Each phrase with how many of its findings are open; one without any is proved."""
        chosen = self.phrase_box.currentData()
        self.phrase_box.clear()
        self.phrase_box.addItem(EVERYTHING, None)
        for phrase, left in left_open.items():
            self.phrase_box.addItem(f"{phrase.name}: {f'{left} open' if left else 'proved'}", phrase)
            if isinstance(chosen, Phrase) and (chosen.start_s, chosen.name) == (phrase.start_s, phrase.name):
                self.phrase_box.setCurrentIndex(self.phrase_box.count() - 1)

    def _show_summary(self, left_open: dict[Phrase, int]) -> None:
        proof = self.proof
        self.analyse_button.setVisible(proof is None and self._session.document.clip is not None)
        if proof is None:
            self.summary.setText("")
            return
        proved = sum(left == 0 for left in left_open.values())
        left = sum(finding.open for finding in proof.notes) + len(proof.unwritten)
        self.summary.setText(f"{proved} of {len(left_open)} phrases proved, {left} findings open")

    def _on_row_changed(self) -> None:
        row, score = self.row, self._score
        usable = row is not None and score is not None
        for button in (*self.hear_buttons.values(), self.correct_button, self.slip_button, self.checked_button):
            button.setEnabled(usable)
        if row is None or score is None:
            self.verdict.setText(self._nothing_words())
            self.facts.setText("")
            self.correct_button.setText(CORRECTIONS["agrees"])
            self.ruler.show_note(None, None, np.zeros(0), np.zeros(0))
            return
        self.verdict.setText(f"{row.place}: {row.words}")
        written = row.finding is not None
        self.slip_button.setEnabled(written)
        self.checked_button.setText(STANDS if written else OVERHEAR)
        self.correct_button.setText(CORRECTIONS[row.finding.status] if row.finding is not None else WRITE_IN)
        self.correct_button.setEnabled(row.finding is None or row.finding.status != "agrees")
        self._show_curves(row, score)
        # on another bench the selection belongs to what is done there
        if row.finding is not None and self._session.score is score and self.isVisible():
            self._session.select(row.finding.index)

    def _show_curves(self, row: Doubt, score: Score) -> None:
        heard = self._session.heard
        if heard is None:
            return
        if row.finding is not None:
            note = score.notes[row.finding.index]
            self.ruler.show_note(note, row.finding, *evidence(score, note, heard, around_s=AROUND_S))
            self.facts.setText(_facts_words(row, score))
        elif row.unwritten is not None:
            note = heard.score.notes[row.unwritten.partner]
            times_s, semitones = evidence(heard.score, note, heard, around_s=AROUND_S)
            # what nobody wrote has no claim: only the evidence is drawn
            self.ruler.show_note(replace(note, vibrato=None), None, times_s, semitones)
            self.facts.setText(f"Heard from {note.onset_s:.3f} s on, for {note.duration_s * 1000:.0f} ms.")

    def _nothing_words(self) -> str:
        if self._session.document.clip is None:
            return "There is no recording to hold the tab against."
        if self._session.heard is None:
            return "The recording has not been heard since this document was opened."
        if self.proof is None:
            return "Holding the tab against the recording…"
        return "Nothing is left open here."

    # --- what can be done with a row ---
    def hear(self, voice: str | None) -> None:
        """Ask for the row to be played: the recording, the tab, both; None for the same again."""
        row = self.row
        if row is not None:
            self.hear_requested.emit(max(0.0, row.onset_s - AROUND_S), row.end_s + AROUND_S, voice or "")

    def _on_settled(self, how: str) -> None:
        row, heard, session = self.row, self._session.heard, self._session
        if row is None or heard is None or self._score is not session.score:
            return
        edits: dict[str, Callable[[], tuple[str, Score]]] = {
            "correct": lambda: self._corrected(row),
            "slip": lambda: self._marked(row, "slip"),
            "checked": lambda: self._marked(row, "checked"),
        }
        try:
            name, after = edits[how]()
        except (ValueError, NotcherError) as problem:
            self.refused.emit(f"Not changed: {str(problem).rstrip('.')}.")
            return
        session.edit(name, after)

    def _corrected(self, row: Doubt) -> tuple[str, Score]:
        score, heard = self._session.score, self._session.heard
        if row.finding is not None:
            return CORRECTIONS[row.finding.status], corrected(score, row.finding, heard)
        return "Write in what was heard", written_in(score, row.unwritten, heard)[0]

    def _marked(self, row: Doubt, mark: str) -> tuple[str, Score]:
        score, heard = self._session.score, self._session.heard
        if row.finding is None:
            if mark == "slip":
                raise ValueError("only a written note can be the player's slip; write it in first")
            return "Not the solo's", exclude(score, row.unwritten, heard)
        index, note = row.finding.index, score.notes[row.finding.index]
        if mark == "slip":
            return "Slip", score.with_note(index, slip=not note.slip)
        return "Checked", score.with_note(index, checked=not note.checked, doubt="" if not note.checked else note.doubt)


def _same(row: Doubt, other: Doubt) -> bool:
    return abs(row.onset_s - other.onset_s) < 1e-6 and row.place == other.place


def _facts_words(row: Doubt, score: Score) -> str:
    """Start, top and end in cents, the onset in milliseconds, the vibrato: claimed and heard."""
    finding = row.finding
    note = score.notes[finding.index]
    lines = []
    if finding.reached:
        parts = [f"{r.where} {r.claimed_cents:.0f} → {r.measured_cents:.0f}" for r in finding.reached]
        lines.append("Claimed → measured, in cents: " + ", ".join(parts))
    if finding.onset_error_ms is not None:
        late_ms = round(finding.onset_error_ms)
        lines.append(f"Onset: {abs(late_ms)} ms {'late' if late_ms > 0 else 'early'}" if late_ms else "Onset: on time")
    if note.vibrato is not None or finding.vibrato is not None:
        claimed = f"{note.vibrato.rate_hz:.1f} Hz ±{note.vibrato.extent_cents:.0f} cents" if note.vibrato else "none"
        heard = (
            f"{finding.vibrato.rate_hz:.1f} Hz ±{finding.vibrato.extent_cents:.0f} cents" if finding.vibrato else "none"
        )
        lines.append(f"Vibrato: claimed {claimed}, heard {heard}")
    phrase = score.phrase_at(note.onset_s)
    if phrase is not None:
        lines.append(f"In “{phrase.name}”, {clock(phrase.start_s)} to {clock(phrase.end_s)}")
    return "\n".join(lines)
