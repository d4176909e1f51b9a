"""The Prove bench: the list of doubts, worst first; each row can be heard, seen against its evidence, and settled."""

from dataclasses import replace

from PyQt6.QtCore import Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QResizeEvent, QShowEvent
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QCheckBox,
    QComboBox,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QPushButton,
    QTableView,
    QVBoxLayout,
    QWidget,
)

from notcher.core.errors import CancelCheck, NotcherError, Progress
from notcher.core.hearing import Draft, evidence
from notcher.core.proving import (
    Finding,
    ListedDoubt,
    Mention,
    PhraseState,
    Proof,
    Status,
    corrected,
    doubts,
    exclude,
    phrase_states,
    prove,
    taken_in,
    written_in,
)
from notcher.core.score import EMPTY_SCORE, Note, Phrase, Score
from notcher.core.words import USUAL, Naming, doubt_words, finding_facts, many, row_place, row_words, seconds
from notcher.painting.theme import Theme
from notcher.ui.benches.prove.curve_ruler import AROUND_S, CurveRuler
from notcher.ui.benches.prove.doubt_model import DoubtModel
from notcher.ui.playback.sources import PlaybackSource
from notcher.ui.state.jobs import Jobs
from notcher.ui.state.session import Session
from notcher.ui.widgets.flow import FlowLayout
from notcher.ui.widgets.plain import Label
from notcher.ui.widgets.tables import without_row_numbers

WAIT_MS = 150  # a run of edits is proved once, and no pause is felt
NARROW_PX = 1000  # at scale 1
CORRECTIONS = {
    Status.MISSING: "Take it out",
    Status.PITCH: "Write the fret heard",
    Status.BEND: "Write the bend heard",
    Status.ONSET: "Move to where it is heard",
    Status.ATTACK: "Write the attack heard",
    Status.AGREES: "Nothing to correct",
}
RELEASES = {Mention.RELEASED: "Write the release", Mention.HELD: "Take the release out"}
SOURCES = {
    PlaybackSource.RECORDING: ("Recording", "This stretch of the recording, at the pace below."),
    PlaybackSource.TAB: ("Tab", "The same stretch as the tab says it."),
    PlaybackSource.BOTH: ("Left and right", "The recording on the left side, the tab on the right."),
}
WRITE_IN, EXCLUDE, STANDS = "Write it in", "Not the solo's", "The tab is right"
EVERYTHING = "all phrases"


class ProveBench(QWidget):
    """Keeps a proof of the open score up to date and shows what it leaves open."""

    play_requested = pyqtSignal(float, float, object)  # from, to, the source; None for the same again
    analysis_requested = pyqtSignal()
    notice = pyqtSignal(str)

    def __init__(self, session: Session, jobs: Jobs, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session, self._jobs = session, jobs
        self.proof: Proof | None = None
        self._score: Score | None = None  # what the proof is of
        self._states: dict[str, PhraseState] = {}
        self._before: Proof | None = None  # of the same draft, for the next proof
        self._doubts: tuple[ListedDoubt, ...] = ()  # of the proof
        self._naming, self._scale = USUAL, 1.0
        self.model = DoubtModel()
        self.list = QTableView()
        self.ruler = CurveRuler()
        self.summary, self.verdict, self.facts = Label(), Label(), Label()
        self.phrase_box, self.all_box = QComboBox(), QCheckBox("Show what matches, too")
        self.analyse_button = QPushButton("Compare with the recording")
        self.play_buttons = {source: QPushButton(label) for source, (label, _) in SOURCES.items()}
        self.correct_button, self.slip_button = QPushButton(), QPushButton("Player's mistake")
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
        without_row_numbers(view, stretched=2)
        across = view.horizontalHeader()
        if across is not None:
            across.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        head = FlowLayout()
        self.phrase_box.setAccessibleName("Phrase")
        self.phrase_box.setMinimumWidth(150)
        self.summary.setWordWrap(True)
        self.all_box.setToolTip("List the notes on which tab and recording agree as well")
        for widget in (self.phrase_box, self.all_box, self.analyse_button):
            head.addWidget(widget)
        left = QVBoxLayout()
        left.addLayout(head)
        left.addWidget(self.summary)
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
        grid.addWidget(Label("Play"), 0, 0)
        for column, (source, button) in enumerate(self.play_buttons.items(), start=1):
            button.clicked.connect(lambda _checked=False, source=source: self.play(source))
            button.setToolTip(SOURCES[source][1])
            grid.addWidget(button, 0, column)
        grid.addWidget(Label("Settle"), 1, 0)
        for column, button in enumerate((self.correct_button, self.slip_button, self.checked_button), start=1):
            grid.addWidget(button, 1, column)
            grid.setColumnStretch(column, 1)
        inside.addLayout(grid)
        hint = Label("Return plays the row, C corrects, P is the player's mistake, K means the tab is right.")
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
        self.analyse_button.clicked.connect(self.compare)
        chosen = self.list.selectionModel()
        if chosen is not None:
            chosen.currentRowChanged.connect(lambda _now, _before: self._on_row_changed())
        self.correct_button.clicked.connect(self.correct)
        self.slip_button.clicked.connect(self.mark_slip)
        self.checked_button.clicked.connect(self.mark_checked)

    def show_theme(self, theme: Theme, scale: float) -> None:
        self._scale = scale
        self.ruler.show_theme(theme, scale)
        without_row_numbers(self.list, stretched=2, row_height=round(26 * scale))
        for column, width in ((0, 70), (1, 116), (3, 58), (4, 70)):
            self.list.setColumnWidth(column, round(width * scale))
        self._fit_columns()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._fit_columns()

    def _fit_columns(self) -> None:
        """Leave the words their room: on a narrow screen how much each is doubted, and its state, give way."""
        narrow = self.width() < NARROW_PX * self._scale
        for column in (3, 4):
            self.list.setColumnHidden(column, narrow)

    def set_naming(self, naming: Naming) -> None:
        self._naming = naming
        self.model.set_naming(naming)
        self._show_rows()

    # --- the proof ---
    @property
    def row(self) -> ListedDoubt | None:
        """The chosen row."""
        index = self.list.currentIndex()
        return self.model.rows[index.row()] if index.isValid() and index.row() < len(self.model.rows) else None

    def _on_opened(self) -> None:
        self.proof = self._score = self._before = None
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
        self._before = None  # another draft: all is measured again
        self._wait.start()

    def _prove(self) -> None:
        """Hold the score against what was heard, off the UI thread; a newer score takes an older one's place."""
        score, drafted = self._session.score, self._session.heard
        if drafted is None or not score.notes:
            self.proof = self._score = None
            self._show_rows()
            return

        before = self._before

        def work(_progress: Progress, cancelled: CancelCheck) -> tuple[Proof, tuple[ListedDoubt, ...]]:
            proof = prove(score, drafted, before=before, cancelled=cancelled)
            return proof, tuple(doubts(proof, score))

        def done(result: tuple[Proof, tuple[ListedDoubt, ...]]) -> None:
            (self.proof, self._doubts), self._score = result, score
            if self._session.heard is drafted:
                self._before = self.proof
            self._show_rows()

        self._jobs.start("prove", work, finished=done, failed=self._on_failed, document_id=self._session.document.id)

    def _on_failed(self, problem: Exception) -> None:
        self.notice.emit(f"The tab could not be held against the recording ({problem}). Nothing was changed.")

    # --- showing ---
    def _show_rows(self) -> None:
        """Fill the list anew; the row that was chosen stays chosen while it is there, else the next one is."""
        index = self.list.currentIndex()
        before, at = self.row, index.row() if index.isValid() else 0
        known = self.proof is not None and self._score is not None
        self._states = phrase_states(self._doubts, self._score) if known and self._score is not None else {}
        self._show_phrases()
        rows = self._rows()
        self.model.show(rows, self._score or EMPTY_SCORE)
        self._show_summary()
        if rows:
            same = [number for number, row in enumerate(rows) if before is not None and _same(row, before)]
            self.list.selectRow(same[0] if same else min(max(at, 0), len(rows) - 1))  # which shows the row
        else:
            self._on_row_changed()

    def _rows(self) -> tuple[ListedDoubt, ...]:
        if self.proof is None or self._score is None:
            return ()
        phrase = self._score.phrase_of(self.phrase_box.currentData() or "")
        rows = self._doubts
        if phrase is not None:
            rows = tuple(row for row in rows if phrase.holds(row.onset_s))
        return rows if self.all_box.isChecked() else tuple(row for row in rows if row.waiting)

    def _show_phrases(self) -> None:
        """Each phrase with how much of it waits, or whether it is proved."""
        chosen = self.phrase_box.currentData()
        self.phrase_box.clear()
        self.phrase_box.addItem(EVERYTHING, None)
        for phrase in self._score.phrases if self._score is not None and self._states else ():
            state = self._states[phrase.id]
            far = f"{state.open} open" if state.open else "checked" if state.proved else "not looked at"
            self.phrase_box.addItem(f"{phrase.name}: {far}", phrase.id)
            if chosen == phrase.id:
                self.phrase_box.setCurrentIndex(self.phrase_box.count() - 1)

    def compare_need(self) -> str:
        """Why there is nothing to compare the tab with; empty when there is."""
        document = self._session.document
        return "" if document.clip is not None and document.score.notes else "There is no tab with a recording here."

    def compare(self) -> None:
        """Ask for the recording to be heard anew, and the tab compared with it."""
        self.analysis_requested.emit()

    def _show_summary(self) -> None:
        proof = self.proof
        self.analyse_button.setVisible(proof is None and self._session.document.clip is not None)
        if proof is None:
            self.summary.setText("")
            return
        proved = sum(state.proved for state in self._states.values())
        open_count = sum(row.waiting for row in self._doubts)
        phrases, findings = many(len(self._states), "phrase"), many(open_count, "finding")
        text = f"{proved} of {phrases} checked, {findings} open"
        doubt = self._session.score.lead_doubt
        self.summary.setText(text if doubt is None else f"{text} · {doubt_words(doubt, self._session.score.tuning)}")

    def _on_row_changed(self) -> None:
        row, score = self.row, self._score
        usable = row is not None and score is not None
        for button in (*self.play_buttons.values(), self.correct_button, self.slip_button, self.checked_button):
            button.setEnabled(usable)
        if row is None or score is None:
            self.verdict.setText(self._nothing_words())
            self.facts.setText("")
            self.correct_button.setText(CORRECTIONS[Status.AGREES])
            self.ruler.show_note(None, None, None)
            return
        self.verdict.setText(f"{row_place(row, score, self._naming)}: {row_words(row, score, self._naming)}")
        self.ruler.setAccessibleDescription(self.verdict.text())
        written = row.finding is not None
        self.slip_button.setEnabled(written)
        self.checked_button.setText(STANDS if written else EXCLUDE)
        self.correct_button.setText(_correction(row.finding) if row.finding is not None else WRITE_IN)
        self.correct_button.setEnabled(row.finding is None or row.finding.status is not Status.AGREES)
        self._show_curves(row, score)
        # on another bench the selection belongs to what is done there
        if row.finding is not None and self._session.score is score and self.isVisible():
            self._session.select(row.finding.note_id)

    def _show_curves(self, row: ListedDoubt, score: Score) -> None:
        drafted = self._session.heard
        if drafted is None:
            return
        if row.finding is not None:
            note = score.notes[row.finding.index]
            under = evidence(score, note, drafted.measured, shift_s=row.finding.shift_s, around_s=AROUND_S)
            self.ruler.show_note(note, row.finding, under)
            self.facts.setText(finding_facts(row.finding, score, self._naming))
        elif row.excluded is not None and row.excluded.note is None:
            self.ruler.show_note(None, None, None)
            self.facts.setText("")
        elif (heard_note := _heard_note(row, drafted)) is not None:
            note = heard_note
            under = evidence(drafted.score, note, drafted.measured, around_s=AROUND_S)
            # what nobody wrote has no claim: only the evidence is drawn
            self.ruler.show_note(replace(note, vibrato=None), None, under)
            from_s = seconds(note.onset_s, 3, self._naming)
            self.facts.setText(f"Heard from {from_s} on, for {note.duration_s * 1000:.0f} ms.")

    def _nothing_words(self) -> str:
        if self._session.document.clip is None:
            return "There is no recording to hold the tab against."
        if self._session.heard is None:
            return "The recording has not been heard since this document was opened."
        if self.proof is None:
            return "Holding the tab against the recording…"
        return "Nothing is left open here."

    # --- what can be done with a row ---
    def row_need(self) -> str:
        """Why nothing can be done with a row; empty when something can."""
        return "" if self.row is not None else self._nothing_words()

    def written_need(self) -> str:
        """Why a row cannot be the player's slip; empty when it can."""
        row = self.row
        if row is None:
            return self._nothing_words()
        return "" if row.finding is not None else "Only a written note can be the player's mistake; write it in first."

    def play(self, source: PlaybackSource | None = None) -> None:
        """Ask for the row to be played from a source; None for the same again."""
        row = self.row
        if row is not None:
            self.play_requested.emit(max(0.0, row.onset_s - AROUND_S), row.end_s + AROUND_S, source)

    def correct(self) -> None:
        """Make the claim what was heard, or write in what nobody wrote."""
        row, score, drafted = self.row, self._session.score, self._session.heard
        if row is None or drafted is None or self._score is not score:
            return
        try:
            if row.finding is not None:
                after = corrected(score, row.finding, drafted)
                self._edit_looked_at(_correction(row.finding), after, row.finding.note_id)
            elif row.unwritten is not None:
                after, written = written_in(score, row.unwritten, drafted)
                self._edit_looked_at("Write in what was heard", after, written)
            elif row.excluded is not None:
                after, written = taken_in(score, row.excluded)
                self._edit_looked_at("Write in after all", after, written)
        except (ValueError, NotcherError) as problem:
            self.notice.emit(f"Not changed: {str(problem).rstrip('.')}.")

    def _edit_looked_at(self, name: str, after: Score, note_id: str) -> None:
        """Make a change to a note that is checked by it: who corrects it has looked at it."""
        if after.note_of(note_id) is not None:
            after = after.with_note(note_id, checked=True)
        self._session.edit(name, after, looked_at=(note_id,))

    def mark_slip(self) -> None:
        """Call the row the player's slip, or take that back."""
        row, score = self.row, self._session.score
        if row is not None and row.finding is not None and self._score is score:
            note = score.note(row.finding.note_id)
            name = "No slip" if note.slip else "Slip"
            self._session.edit(name, score.with_note(note.id, slip=not note.slip))

    def mark_checked(self) -> None:
        """Let the row stand as it is, or take that back; what nobody wrote is said not to be the solo's."""
        row, score, drafted = self.row, self._session.score, self._session.heard
        if row is None or drafted is None or self._score is not score:
            return
        if row.finding is not None:
            note = score.note(row.finding.note_id)
            doubt = note.doubt if note.checked else None
            name = "Not checked" if note.checked else "Checked"
            self._session.edit(name, score.with_note(note.id, checked=not note.checked, doubt=doubt))
        elif row.unwritten is not None:
            self._session.edit("Not the solo's", exclude(score, row.unwritten, drafted))

    def phrase_need(self) -> str:
        """Why no phrase can be proved; empty when one can."""
        phrase = self._phrase
        if phrase is None or self.proof is None:
            return "No phrase is chosen here: choose a row or a phrase."
        waiting = self._states[phrase.id].open if phrase.id in self._states else 0
        return f"{many(waiting, 'finding')} of this phrase are open: settle them first." if waiting else ""

    @property
    def _phrase(self) -> Phrase | None:
        """The phrase that is chosen above the list, else that of the row, else that of the selected note."""
        score = self._session.score
        chosen = score.phrase_of(self.phrase_box.currentData() or "")
        at_s = self.row.onset_s if self.row is not None else None
        return chosen or (score.phrase_at(at_s) if at_s is not None else self._session.phrase)

    def mark_phrase(self) -> None:
        """Say that the whole phrase was held against the recording and is right, or take that back."""
        phrase, score = self._phrase, self._session.score
        if phrase is not None:
            changed = replace(phrase, proved=not phrase.proved)
            phrases = tuple(changed if other.id == phrase.id else other for other in score.phrases)
            name = "Phrase checked" if changed.proved else "Phrase not checked"
            self._session.edit(name, replace(score, phrases=phrases))


def _correction(finding: Finding) -> str:
    """What makes the claim what was heard."""
    return next((RELEASES[mention] for mention in finding.mentions if mention in RELEASES), CORRECTIONS[finding.status])


def _same(row: ListedDoubt, other: ListedDoubt) -> bool:
    """Whether two rows are of one note: what is written by its id, what is not is the same heard note."""
    if row.finding is not None and other.finding is not None:
        return row.finding.note_id == other.finding.note_id
    if row.excluded is not None:
        return row.excluded == other.excluded
    return row.unwritten is not None and row.unwritten == other.unwritten


def _heard_note(row: ListedDoubt, drafted: Draft) -> Note | None:
    """The note that was heard where nobody wrote one."""
    if row.unwritten is not None:
        return drafted.score.notes[row.unwritten.partner]
    return row.excluded.note if row.excluded is not None else None
