"""The Teach bench: the practice board and what to do in its chosen cell, and the takes."""

from collections.abc import Mapping

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QComboBox,
    QFrame,
    QHBoxLayout,
    QPushButton,
    QSplitter,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from notcher.core.mixing import ALONG
from notcher.core.proving import Result
from notcher.core.score import NO_SELECTION
from notcher.core.teaching import (
    USUAL_BPM,
    USUAL_LADDER,
    BoardRow,
    Difficulty,
    Ladder,
    LessonOrder,
    Mirror,
    PaceEstimate,
    Progress,
    Step,
    StudentModel,
    board_rows,
    difficulty_words,
    estimate_of,
    nearest,
    next_words,
    progress,
    results,
    row_name,
    student_of,
)
from notcher.core.words import USUAL, Naming, clock, many, seconds
from notcher.painting.theme import Theme
from notcher.ui.benches.teach.ladder_view import LadderView
from notcher.ui.benches.teach.mirror_view import MirrorView
from notcher.ui.benches.teach.plan_panel import PlanPanel
from notcher.ui.benches.teach.rung_board import SIGNS, RungBoard
from notcher.ui.benches.teach.take_recorder import TakeRecorder
from notcher.ui.benches.teach.take_view import TakeView
from notcher.ui.commands.preconditions import no_phrase
from notcher.ui.state.practice import Practice
from notcher.ui.state.session import Session
from notcher.ui.tab.tab_view import TabView
from notcher.ui.widgets.cards import scrolling
from notcher.ui.widgets.level_meter import LevelMeter
from notcher.ui.widgets.plain import Label

ALONG_WORDS = {
    "click": "a click",
    "band": "the chords' band",
    "recording": "the slowed recording",
    "nothing": "nothing",
}
BOARD, TAKES = range(2)


class TeachBench(QWidget):
    """The board, and what to do in the chosen cell."""

    loop_requested = pyqtSignal(float, float, float)
    take_requested = pyqtSignal()
    file_requested = pyqtSignal()
    why_requested = pyqtSignal()
    pace_changed = pyqtSignal(float)  # the ladder leads to another rung

    def __init__(
        self, session: Session, practice: Practice, recorder: TakeRecorder, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self._session, self._practice, self._recorder = session, practice, recorder
        self.climbs = False  # to the next rung by itself
        self._ladder, self._lesson_order = USUAL_LADDER, LessonOrder.BUILD_UP
        self._rows: tuple[BoardRow, ...] = ()
        self._paces = USUAL_LADDER.paces(USUAL_BPM)
        self.student_box, self.ladder_view = QComboBox(), LadderView()
        self._naming = USUAL
        self._difficulty: Mapping[str, Difficulty] | None = None
        self.student: StudentModel | None = None
        self.pages, self.takes = QStackedWidget(), TakeView()
        self.along_box, self.take_button = QComboBox(), QPushButton()
        self.file_button, self.takes_button = QPushButton("From a file…"), QPushButton("Takes")
        self.level_meter, self.take_words = LevelMeter(), Label()
        self.tab = TabView()  # in the board's place while a take is recorded
        self.board, self.plan = RungBoard(self), PlanPanel(self)
        self.mirror = MirrorView(Mirror())
        self._step: Step | None = None  # of the plan; None while the board's own cell is the chosen one
        self.advice = Label()
        self.advice.setWordWrap(True)
        self.advice.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.why_button = QPushButton("?")
        self.why_button.setProperty("small", True)
        self.why_button.setAccessibleName("Why these figures?")
        self.why_button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.why_button.clicked.connect(self.why_requested)
        self.play_button = QPushButton("Loop this")
        self.play_button.clicked.connect(self.play_cell)
        self.mark_buttons = {result: QPushButton(words.capitalize()) for result, words in SIGNS.items()}
        self.clear_button = QPushButton("Remove mark")
        self._lay_out()
        self.board.play_requested.connect(self.play_cell)
        self.board.cell_changed.connect(self._on_cell_changed)
        self.plan.step_chosen.connect(self._on_step_chosen)
        session.score_changed.connect(self._on_score_changed)
        practice.changed.connect(self._on_practice_changed)
        practice.ledger.changed.connect(self._show_students)
        self.student_box.activated.connect(self._on_student_chosen)
        session.opened.connect(self._on_opened)
        recorder.state_changed.connect(self._on_recorder)
        self.takes.back_requested.connect(lambda: self.show_takes(False))
        self._on_recorder()

    def _lay_out(self) -> None:
        card = QFrame()
        card.setProperty("card", True)
        column = QVBoxLayout(card)
        self.student_box.setAccessibleName("Who is taught")
        self.student_box.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        who = QHBoxLayout()
        who.addWidget(Label("Student"))
        who.addWidget(self.student_box, 1)
        column.addLayout(who)
        title = Label("This tempo step")
        title.setProperty("title", True)
        head = QHBoxLayout()
        head.addWidget(title, 1)
        head.addWidget(self.why_button)
        column.addLayout(head)
        scroll = scrolling(self.advice)
        scroll.setMinimumHeight(40)
        column.addWidget(scroll, 1)
        column.addWidget(self.ladder_view)
        acts = QHBoxLayout()
        acts.setSpacing(4)
        acts.addWidget(self.play_button)
        acts.addWidget(self.clear_button)
        column.addLayout(acts)
        marks = QHBoxLayout()
        marks.setSpacing(4)
        for result, button in self.mark_buttons.items():
            button.clicked.connect(lambda _=False, mark=result: self.mark(mark))
            marks.addWidget(button)
        column.addLayout(marks)
        self.clear_button.clicked.connect(lambda: self.mark(None))
        self._lay_out_takes(column)
        card.setFixedWidth(280)
        self._card = card
        page = self.board_page = QWidget()  # the marks' keys work on it, and so not while the takes are shown
        row = QHBoxLayout(page)
        row.setContentsMargins(0, 0, 0, 0)
        self.left = QStackedWidget()
        self.practice = QSplitter(Qt.Orientation.Vertical)
        for part in (self.board, self.plan):
            self.practice.addWidget(part)
            self.practice.setStretchFactor(self.practice.indexOf(part), 1)
        self.practice.setChildrenCollapsible(False)
        self.practice.setSizes([330, 300])
        self.left.addWidget(self.practice)
        self.left.addWidget(self.tab)
        self.left.addWidget(self.mirror)
        row.addWidget(self.left, 1)
        row.addWidget(card)
        self.pages.addWidget(page)
        self.pages.addWidget(self.takes)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(8, 8, 8, 8)
        whole.addWidget(self.pages)

    def _lay_out_takes(self, column: QVBoxLayout) -> None:
        title = Label("A student's take")
        title.setProperty("title", True)
        column.addWidget(title)
        along = QHBoxLayout()
        along.addWidget(Label("Along with"))
        self.along_box.setAccessibleName("Play along with")
        for kind in ALONG:
            self.along_box.addItem(ALONG_WORDS[kind], kind)
        along.addWidget(self.along_box, 1)
        column.addLayout(along)
        self.level_meter.setAccessibleName("How loud the guitar is")
        self.take_words.setWordWrap(True)
        self.take_words.setProperty("soft", True)
        record = QHBoxLayout()
        record.setSpacing(4)
        record.addWidget(self.take_button, 1)
        record.addWidget(self.file_button)
        column.addLayout(record)
        for widget in (self.level_meter, self.take_words, self.takes_button):
            column.addWidget(widget)
        self.take_button.clicked.connect(self.take_requested)
        self.file_button.clicked.connect(self.file_requested)
        self.takes_button.clicked.connect(lambda: self.show_takes(True))

    def show_takes(self, wanted: bool) -> None:
        """Show the takes in place of the board, or the board again."""
        self.pages.setCurrentIndex(TAKES if wanted else BOARD)
        if self.isVisible():  # what is hidden takes no keys
            (self.takes.phrase_list if wanted else self.board).setFocus()

    def takes_need(self) -> str:
        """Why there are no takes to show; empty when there are."""
        return "" if self._practice.takes else "There is no take of this solo yet: F8 records one."

    def leave_page(self) -> bool:
        """Go back from the takes to the board; return whether they were in view."""
        if not self.takes.isVisible():
            return False
        self.show_takes(False)
        return True

    @property
    def along(self) -> str:
        """What a take is played along with."""
        return str(self.along_box.currentData())

    def set_along(self, kind: str) -> None:
        self.along_box.setCurrentIndex(ALONG.index(kind))

    def set_naming(self, naming: Naming) -> None:
        self._naming = naming
        self.board.set_naming(naming)
        self.ladder_view.set_naming(naming)
        self.plan.set_naming(naming)
        self.tab.set_naming(naming)
        self.mirror.set_naming(naming)
        self.takes.set_naming(naming)

    @property
    def cell(self) -> tuple[BoardRow, float] | None:
        """The stretch and the pace of the chosen step of the plan, else of the board's chosen cell."""
        if self._step is not None and (row := self.row_of(self._step)) is not None:
            return row, self._step.pace
        rows = self._rows
        return (rows[self.board.row], self.board.pace) if self.board.row < len(rows) else None

    def row_of(self, step: Step) -> BoardRow | None:
        """The row that a step is about; one of its own where the board has none."""
        by_id = {phrase.id: phrase for phrase in self._session.score.phrases}
        if not all(name in by_id for name in step.phrases):
            return None
        mine = tuple(by_id[name] for name in step.phrases)
        same = (row for row in self._rows if row.phrases == mine and row.piece == step.piece)
        return next(same, BoardRow(mine) if step.piece is None else None)

    def _on_opened(self) -> None:
        self.show_takes(False)
        self._on_recorder()

    def _on_recorder(self) -> None:
        """Show what the recorder is about."""
        recorder = self._recorder
        idle, recording = recorder.state == "idle", recorder.state == "recording"
        self.take_button.setText("Record a take" if idle else "End the take" if recording else "Cancel")
        self.level_meter.show_level(recorder.level)
        self.level_meter.setVisible(not idle)  # in silence there is nothing to be seen of it
        self._show_played(recorder.state in ("getting ready", "recording"))
        words = {
            "idle": recorder.guitar.description if recorder.guitar.simulated else "",
            "getting ready": "Getting ready…",
            "recording": f"Recording: {recorder.share:.0%}",
            "hearing": f"Hearing the take: {recorder.share:.0%}",
        }
        self.take_words.setText(words[recorder.state])
        self.file_button.setEnabled(idle)
        self.takes_button.setEnabled(bool(self._practice.takes))

    def _show_played(self, wanted: bool) -> None:
        """Show the tab of what is played while a take is recorded, else the board."""
        shown = self.left.currentWidget() is self.tab
        if wanted == shown:
            return
        self.left.setCurrentWidget(self.tab if wanted else self.practice)
        if wanted and self.cell is not None:
            session, (span, _) = self._session, self.cell
            self.tab.show_measured(session.measured, 0.0)
            self.tab.show_score(session.score, NO_SELECTION)
            self.tab.show_span(span.start_s, span.end_s)

    def show_mirror(self, wanted: bool) -> None:
        """Show the mirror in the board's place, or the board again; the keys stay where they were."""
        self.left.setCurrentWidget(self.mirror if wanted else self.practice)
        if self.isVisible():
            (self.mirror if wanted else self.board).setFocus()

    def show_time(self, time_s: float) -> None:
        """Put the playhead of the tab that is played at a time."""
        if self.left.currentWidget() is self.tab:
            self.tab.show_playhead(time_s, follow=True)

    def show_theme(self, theme: Theme, scale: float) -> None:
        self.board.show_theme(theme, scale)
        self.plan.show_theme(theme, scale)
        self.tab.show_theme(theme, scale)
        self.mirror.show_theme(theme, scale)
        self.level_meter.show_theme(theme)
        self.ladder_view.show_theme(theme, scale)
        self.takes.show_theme(theme, scale)
        self._card.setFixedWidth(round(160 + 130 * scale))

    def set_difficulty(self, difficulty: Mapping[str, Difficulty] | None) -> None:
        """Take how hard each phrase is, by its id; None until that is known. The estimates rest on it."""
        self._difficulty = difficulty
        self._on_practice_changed()

    def difficulty_of(self, row: BoardRow) -> Difficulty | None:
        """How hard a phrase is; None of a join, and until that is known."""
        return None if self._difficulty is None or row.is_join else self._difficulty.get(row.ids[0])

    def estimate(self, row: BoardRow) -> PaceEstimate | None:
        """What the student plays clean of a row; None until the phrases' difficulty is known."""
        if self.student is None:
            return None
        return estimate_of(row, self.student, self._practice.passes, self._paces)

    def set_lesson_order(self, lesson_order: LessonOrder) -> None:
        """Take the order in which phrases are taught."""
        if lesson_order != self._lesson_order:
            self._lesson_order = lesson_order
            self._on_score_changed()

    def _on_score_changed(self) -> None:
        score = self._session.score
        self._rows = board_rows(score, self._lesson_order, self._practice.passes)
        tempo_known = self._rows and score.beat_map.known
        bpm = float(score.beat_map.tempo_at(self._rows[0].start_s)) if tempo_known else USUAL_BPM
        self._paces = self._ladder.paces(bpm)
        self._on_practice_changed()

    def _on_practice_changed(self) -> None:
        self.takes_button.setEnabled(bool(self._practice.takes))
        passes = tuple(self._practice.passes)
        there = {row.ids for row in self._rows}
        if any(played.phrases not in there for played in passes):
            self._rows = board_rows(self._session.score, self._lesson_order, passes)
        self.student = None
        if self._difficulty is not None:
            self.student = student_of(self._session.score, passes, difficulty=self._difficulty, ladder=self._ladder)
        found = {row.ids: estimate for row in self._rows if (estimate := self.estimate(row)) is not None}
        suggested = {ids: estimate.next_pace for ids, estimate in found.items()}
        self.board.show_rows(self._rows, passes, self._paces, self._practice.due, suggested)

    def set_ladder(self, ladder: Ladder) -> None:
        """Take how rungs follow each other."""
        if ladder != self._ladder:
            self._ladder = ladder
            self._on_score_changed()

    # --- who is taught ---
    def _show_students(self) -> None:
        """Show all students, and who is chosen."""
        ledger, box = self._practice.ledger, self.student_box
        rows = [(student.name, student.id) for student in ledger.book.present]
        if rows != [(box.itemText(at), box.itemData(at)) for at in range(box.count())]:
            box.clear()
            for name, student_id in rows:
                box.addItem(name, student_id)
        box.setCurrentIndex(box.findData(ledger.student.id))

    def _on_student_chosen(self, _at: int) -> None:
        self._practice.ledger.choose(str(self.student_box.currentData()))

    @property
    def progress(self) -> Progress:
        """How the chosen student came on with the chosen row."""
        span = self.cell[0] if self.cell is not None else None
        return progress([played for played in self._practice.passes if span is not None and played.phrases == span.ids])

    def cell_need(self) -> str:
        """Why there is no cell to play or mark; empty when there is one."""
        return "" if self.cell is not None else no_phrase(self._session)

    def play_cell(self) -> None:
        """Ask for the chosen cell to be looped at its pace."""
        if self.cell is not None:
            span, pace = self.cell
            self.loop_requested.emit(span.start_s, span.end_s, pace)

    def mark(self, result: Result | None) -> None:
        """Mark how the chosen cell went; None takes the mark away."""
        if self.cell is None:
            return
        span, pace = self.cell
        if result is None:
            column = self.board.column_of(pace)
            self._practice.take_back(span.ids, lambda played: self.board.column_of(played) == column)
        else:
            self._practice.log(span.ids, pace, result)
            self._climb(span, pace)

    def _climb(self, span: BoardRow, pace: float) -> None:
        """Go to the rung that the ladder names after a mark, where that is wanted; a loop that plays goes along."""
        found = self.estimate(span)
        upwards = pace if found is None else nearest(self._paces, found.next_pace)
        if self.climbs and self._step is None and upwards != pace:
            self.board.go(self.board.row, self.board.column_of(upwards))
            self.pace_changed.emit(upwards)

    def _on_step_chosen(self, step: Step) -> None:
        """Show a step of the plan on the board, where it has a cell."""
        row = self.row_of(step)
        if row in self._rows:
            self.board.go(self._rows.index(row), self.board.column_of(step.pace))
        self._step = step
        self._tell()

    def _on_cell_changed(self, _row: int, _column: int) -> None:
        self._step = None
        self._tell()

    def _tell(self) -> None:
        """Say what the chosen cell is."""
        cell = self.cell
        for button in (self.why_button, self.play_button, self.clear_button, *self.mark_buttons.values()):
            button.setEnabled(cell is not None)
        if cell is None:
            self.advice.setText("")
            self.ladder_view.show_progress(None)
            return
        (span, pace), score, naming = cell, self._session.score, self._naming
        start_s, end_s = span.start_s, span.end_s
        count = len(score.notes_between(start_s, end_s))
        state = results(self._practice.passes, span, self._paces).get(nearest(self._paces, pace))
        progress = self.progress
        self.ladder_view.show_progress(progress)
        texts = [
            f"{row_name(span)} at {pace * 100:.0f} %: {SIGNS[state] if state is not None else 'untried'}",
            f"{clock(start_s, naming)} to {clock(end_s, naming)}, {many(count, 'note')}\n"
            f"One round lasts {seconds((end_s - start_s) / pace, 1, naming)}.",
        ]
        if (found := self.estimate(span)) is not None:
            texts.append(next_words(found, progress, naming))
        if (difficulty := self.difficulty_of(span)) is not None:
            texts.append(difficulty_words(difficulty, naming))
        texts.append(
            "Enter loops it; C, S and M mark a pass clean, shaky or missed; Backspace takes it back. P plans a lesson; "
            "N goes to its next step. W says why."
        )
        self.board.setAccessibleDescription(texts[0])
        self.advice.setText("\n".join(texts))
