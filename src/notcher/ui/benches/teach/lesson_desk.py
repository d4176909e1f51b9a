"""Plans the lesson of the open solo, in a job, from its marks and from what comes again in it."""

from PyQt6.QtCore import QObject, pyqtSignal

from notcher.core.errors import CancelCheck, Progress
from notcher.core.teaching import Plan, School, known_of, plan_lesson
from notcher.ui.benches.teach.plan_panel import PlanPanel
from notcher.ui.state.jobs import Jobs
from notcher.ui.state.meaning import Meaning
from notcher.ui.state.session import Session
from notcher.ui.state.settings import Settings


class LessonDesk(QObject):
    """Asks for a plan and shows it."""

    refused = pyqtSignal(str)

    def __init__(
        self, session: Session, meaning: Meaning, jobs: Jobs, settings: Settings, panel: PlanPanel, parent: QObject
    ) -> None:
        super().__init__(parent)
        self._session, self._meaning, self._jobs, self._settings = session, meaning, jobs, settings
        self._panel = panel
        panel.plan_requested.connect(self.make)
        session.opened.connect(lambda: panel.clear("P plans the lesson."))
        session.score_changed.connect(self._on_score_changed)

    def show_settings(self) -> None:
        panel, settings = self._panel, self._settings
        panel.minutes.setValue(round(settings.get("lesson_minutes")))
        panel.school.setCurrentIndex(panel.school.findData(settings.get("lesson_school")))

    def need(self) -> str:
        """Why no lesson can be planned; empty when one can."""
        return "" if self._session.score.phrases else "There is no phrase yet. Open a solo first."

    def step_need(self) -> str:
        """Why there is no step to go to; empty when there is one."""
        return "" if self._panel.plan is not None else "No lesson is planned yet: P plans one."

    def make(self) -> None:
        """Plan the lesson as the panel says, and keep that for the next one."""
        if why := self.need():
            self.refused.emit(why)
            return
        session, panel = self._session, self._panel
        score, marks = session.score, session.document.marks
        minutes, school = float(panel.minutes.value()), School(panel.school.currentData())
        self._settings.set("lesson_minutes", minutes)
        self._settings.set("lesson_school", str(school))
        found = self._meaning.patterns if self._meaning.score is score else None

        def work(_progress: Progress, _cancelled: CancelCheck) -> Plan:
            return plan_lesson(score, minutes=minutes, school=school, found=found, known=known_of(score, marks))

        self._jobs.start(
            "lesson",
            work,
            finished=panel.show_plan,
            failed=lambda problem: self.refused.emit(str(problem)),
            document_id=session.document.id,
        )

    def _on_score_changed(self) -> None:
        plan = self._panel.plan
        if plan is not None and plan.phrases != self._session.score.phrases:
            self._panel.clear("The phrases are others now: P plans the lesson anew.")
