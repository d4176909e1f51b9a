"""Plans the lesson of the open solo, in a job, from its marks and from what comes again in it."""

from collections.abc import Callable
from dataclasses import replace
from datetime import date

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QWidget

from notcher.core.errors import CancelCheck, Progress
from notcher.core.ledger import Lesson
from notcher.core.neck import SCALE_LENGTH_MM
from notcher.core.neck.strings import STRING_SETS
from notcher.core.teaching import (
    MOST_ROUNDS,
    NO_WISHES,
    Caution,
    Guitar,
    LessonOrder,
    Plan,
    Running,
    Step,
    Wishes,
    bend_reason,
    caution_words,
    clean_words,
    course_words,
    did_words,
    difficulties,
    noise_words,
    plan_data,
    plan_lesson,
    plan_reasons,
    ran_words,
    row_name,
    rule_words,
    running_words,
    student_of,
    talk_words,
    weights_words,
    who_words,
)
from notcher.ui.benches.teach.teach_bench import TeachBench
from notcher.ui.commands.preconditions import no_phrase
from notcher.ui.state.jobs import Jobs
from notcher.ui.state.meaning import Meaning
from notcher.ui.state.practice import Practice
from notcher.ui.state.session import Session
from notcher.ui.state.settings import Settings
from notcher.ui.widgets.asking import tell
from notcher.ui.widgets.lesson_forms import ask_held, ask_lesson, log_held, passes_in

NOISE_UNKNOWN = "How loud a lesson is was not measured yet: Settings takes the figure of a sound level meter, in dB(A)."


class LessonController(QObject):
    """Asks for a plan and shows it; what the instructor wants otherwise is kept in the ledger."""

    notice = pyqtSignal(str)

    def __init__(
        self,
        session: Session,
        practice: Practice,
        meaning: Meaning,
        jobs: Jobs,
        settings: Settings,
        teach: TeachBench,
        today: Callable[[], date],
        parent: QWidget,
    ) -> None:
        super().__init__(parent)
        panel = teach.plan
        self._teach, self._today, self._parent = teach, today, parent
        self._session, self._practice, self._meaning = session, practice, meaning
        self._jobs, self._settings, self._panel = jobs, settings, panel
        panel.understood_requested.connect(self.understood)
        panel.talk_of = self.talk_of
        self._asked_of: tuple[object, ...] = ()  # the difficulty
        self._planned_with: Wishes | None = None  # those of the plan in view
        panel.plan_requested.connect(self.make)
        panel.steps.dragged.connect(self._reorder)
        session.opened.connect(self._on_opened)
        session.score_changed.connect(self._on_score_changed)
        practice.changed.connect(self._on_practice_changed)
        practice.ledger.student_changed.connect(self._on_student_changed)

    def show_settings(self) -> None:
        panel, settings = self._panel, self._settings
        panel.set_level(settings.get("level_dba"))
        panel.minutes.setValue(round(settings.get("lesson_minutes")))
        lesson_order = self._practice.ledger.student.lesson_order or settings.get("lesson_order")
        panel.lesson_order.setCurrentIndex(panel.lesson_order.findData(lesson_order))
        self._teach.set_lesson_order(LessonOrder(lesson_order))

    @property
    def guitar(self) -> Guitar:
        """The student's strings and scale length, else those of the settings."""
        student, settings = self._practice.ledger.student, self._settings
        strings = STRING_SETS.get(student.string_set) or STRING_SETS[settings.get("string_set")]
        return Guitar(strings, student.scale_mm or settings.get("scale_mm") or SCALE_LENGTH_MM)

    def talk_of(self, step: Step) -> list[str]:
        """What to say before a step."""
        plan = self._panel.plan
        return [] if plan is None else talk_words(step, plan, self._session.score, self._settings.naming)

    def find_difficulty(self) -> None:
        """Find out how hard the phrases are, while the bench is in view: its estimates rest on that."""
        score, weights, guitar = self._session.score, self._settings.weights, self.guitar
        asked = (score, weights, guitar)
        if not self._teach.isVisible() or self._asked_of == asked:
            return
        self._asked_of = asked
        self._teach.set_difficulty(None)
        self._jobs.start(
            "difficulty",
            lambda _progress, _cancelled: difficulties(score, weights=weights, guitar=guitar),
            finished=self._teach.set_difficulty,
            document_id=self._session.document.id,
        )

    def need(self) -> str:
        """Why no lesson can be planned; empty when one can."""
        return "" if self._session.score.phrases else no_phrase(self._session)

    def step_need(self) -> str:
        """Why there is no step to go to; empty when there is one."""
        return "" if self._panel.plan is not None else "No lesson is planned yet: P plans one."

    def make(self) -> None:
        """Plan the lesson as the panel says, and keep that for the next one; what was wished of single steps holds."""
        if why := self.need():
            self.notice.emit(why)
            return
        session, panel, wishes, settings = self._session, self._panel, self._practice.wishes, self._settings
        score, passes = session.score, self._practice.passes
        minutes, lesson_order = float(panel.minutes.value()), LessonOrder(panel.lesson_order.currentData())
        settings.set("lesson_minutes", minutes)
        self._teach.set_lesson_order(lesson_order)
        if lesson_order != self._practice.ledger.student.lesson_order:
            settings.set("lesson_order", str(lesson_order))
        weights, guitar, ladder = settings.weights, self.guitar, settings.ladder
        full_first, due = settings.get("full_first"), self._practice.due
        self._planned_with = wishes
        patterns = self._meaning.patterns if self._meaning.score is score else None

        def work(_progress: Progress, _cancelled: CancelCheck) -> Plan:
            difficulty = difficulties(score, weights=weights, guitar=guitar)
            student = student_of(score, passes, difficulty=difficulty, ladder=ladder)
            return plan_lesson(
                score,
                minutes=minutes,
                lesson_order=lesson_order,
                patterns=patterns,
                student=student,
                due=due,
                full_first=full_first,
                wishes=wishes,
                difficulty=difficulty,
                ladder=ladder,
            )

        self._jobs.start(
            "lesson",
            work,
            finished=lambda plan: panel.show_plan(plan, self._untold(plan)),
            failed=lambda problem: self.notice.emit(str(problem)),
            document_id=session.document.id,
        )

    # --- what the instructor wants otherwise ---
    def chosen_need(self) -> str:
        """Why there is no chosen step; empty when there is one."""
        return self.step_need() or ("" if self._panel.step is not None else "No step is chosen: N goes to the next.")

    def skip_need(self) -> str:
        """Why nothing can be skipped or brought back; empty when something can."""
        chosen = self._panel.step or self._panel.skipped_step
        if chosen is None or self._panel.plan is None:
            return self.chosen_need()
        last = chosen.key not in self._practice.wishes.skipped and len(self._panel.plan.steps) == 1
        return "It is the only step." if last else ""

    def skip(self) -> None:
        """Leave the chosen step out, or bring it back."""
        chosen = self._panel.step or self._panel.skipped_step
        if chosen is not None:
            self._wish(
                "Skip a step", replace(self._practice.wishes, skipped=self._practice.wishes.skipped ^ {chosen.key})
            )

    def change_rounds(self, by: int) -> None:
        """One round more or less of the chosen step, which keeps them from now on."""
        step = self._panel.step
        if step is not None:
            rounds = {**self._practice.wishes.rounds, step.key: min(MOST_ROUNDS, max(1, step.rounds + by))}
            self._wish("Rounds of a step", replace(self._practice.wishes, rounds=rounds))

    def lock(self) -> None:
        """Keep the chosen step's rounds as they are, or let the plan set them again."""
        step = self._panel.step
        if step is not None:
            others = {key: rounds for key, rounds in self._practice.wishes.rounds.items() if key != step.key}
            locked = others if step.locked else {**others, step.key: step.rounds}
            self._wish("Keep the rounds of a step", replace(self._practice.wishes, rounds=locked))

    def move(self, by: int) -> None:
        """Do the chosen step earlier or later."""
        plan, step = self._panel.plan, self._panel.step
        if plan is not None and step is not None:
            at = plan.steps.index(step)
            self._reorder(at, at + by)

    def _reorder(self, source: int, target: int) -> None:
        plan = self._panel.plan
        if plan is None or not (0 <= source < len(plan.steps) and 0 <= target < len(plan.steps)):
            return
        order = [step.key for step in plan.steps]
        order.insert(target, order.pop(source))
        self._wish("Move a step", replace(self._practice.wishes, order=tuple(order)))

    def as_proposed(self) -> None:
        """Plan without any of that."""
        self._wish("Plan as proposed", NO_WISHES)

    def _wish(self, name: str, wishes: Wishes) -> None:
        if wishes != self._practice.wishes:
            self._practice.wish(name, wishes)
        else:
            self.make()

    # --- the lesson in the ledger ---
    def _lesson(self) -> Lesson:
        """The lesson of today on this solo, else a new one, with the plan in view."""
        ledger, plan = self._practice.ledger, self._panel.plan
        planned = ledger.book.lessons.get(self._practice.lesson_id or "")
        lesson = planned or Lesson(ledger.student.id, self._session.document.id, self._today().isoformat())
        if plan is not None:
            return replace(lesson, plan=plan_data(plan), minutes=plan.minutes)
        return replace(lesson, minutes=lesson.minutes or self._settings.get("lesson_minutes"))

    def keep(self) -> None:
        """Keep the plan as a lesson of a day."""

        def kept(lesson: Lesson) -> None:
            who = who_words(self._practice.ledger.book, lesson.student_id)
            self.notice.emit(f"The lesson for {who} is in the ledger.")

        ask_lesson(self._parent, self._practice.ledger, self._lesson(), self._today(), kept)

    def held(self) -> None:
        """Ask what was done, and keep the lesson as held."""
        ask_held(self._parent, self._practice.ledger, self._lesson(), self._today(), self._settings.naming)

    def note_run(self, running: Running, minutes: float) -> None:
        """Keep a lesson that ran as held: its real minutes, and everything that sounded, marked or not."""
        if not running.sounded_steps:
            return
        naming, ledger, lesson = self._settings.naming, self._practice.ledger, self._lesson()
        today = self._today().isoformat()
        played = passes_in(ledger, lesson, today)
        marks = did_words(ledger.book, played, naming)
        did = "\n".join(words for words in (lesson.did, marks, ran_words(running, naming)) if words)
        held = replace(lesson, held_at=today, minutes=round(minutes, 1), did=did)
        log_held(ledger, "Log the lesson", held, played)
        self.notice.emit(f"{running_words(running, naming)} It is noted in the records; Ctrl+Z takes that back.")

    # --- why ---
    def why(self) -> None:
        """Say on what the figures of the chosen row rest."""
        teach, plan, naming = self._teach, self._panel.plan, self._settings.naming
        cell = teach.cell
        if cell is None:
            return
        texts = [rule_words(naming), f"{clean_words(teach.progress, naming)} {course_words(teach.progress, naming)}"]
        if plan is not None:
            texts += plan_reasons(plan, naming)
        if (difficulty := teach.difficulty_of(cell[0])) is not None:
            texts.append(f"{row_name(cell[0])}:\n{weights_words(difficulty, self._settings.weights, naming)}")
            texts.append(bend_reason(difficulty, self.guitar, naming))
        tell(self._parent, f"Why: {row_name(cell[0])}", "\n\n".join(words for words in texts if words.strip()))

    # --- cautions ---
    def _untold(self, plan: Plan) -> tuple[Caution, ...]:
        """What was not understood today yet: each is said once a day."""
        texts = self._settings.told_cautions(self._today().isoformat())
        return tuple(caution for caution in plan.cautions if str(caution) not in texts)

    def caution_need(self) -> str:
        return "" if self._panel.has_cautions else "There are no safety notes here: Teach, Safety notes tells them all."

    def understood(self) -> None:
        """The cautions in view were read: they are not said again today."""
        if self._panel.plan is not None:
            self._settings.tell_cautions(
                self._today().isoformat(), [str(caution) for caution in self._panel.plan.cautions]
            )
            self._panel.show_plan(self._panel.plan, ())

    def read_cautions(self) -> None:
        """Tell all cautions, whether they apply now or not."""
        minutes = float(self._panel.minutes.value())
        words = [caution_words(caution) for caution in Caution]
        noise = noise_words(self._settings.get("level_dba"), minutes, self._settings.naming)
        tell(self._parent, "Cautions", "\n\n".join([*words, noise or NOISE_UNKNOWN]))

    def _on_practice_changed(self) -> None:
        """What is wished is another: plan around it."""
        if self._panel.plan is not None and self._practice.wishes != self._planned_with:
            self.make()

    def _on_student_changed(self) -> None:
        self.show_settings()
        self.find_difficulty()
        self._on_opened()

    def _on_opened(self) -> None:
        self._panel.clear("P plans the lesson.")

    def _on_score_changed(self) -> None:
        self.find_difficulty()
        plan = self._panel.plan
        if plan is not None and plan.phrases != self._session.score.phrases:
            self._panel.clear("The phrases are others now: P plans the lesson anew.")
