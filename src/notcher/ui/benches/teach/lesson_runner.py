"""Runs the planned lesson: each step is looped for its rounds, then comes the next, with a clock beside it."""

from collections.abc import Callable

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from notcher.core.teaching import Phase, Running, Step, running_words
from notcher.ui.benches.teach.teach_bench import TeachBench
from notcher.ui.playback.player import Player
from notcher.ui.state.settings import Settings
from notcher.ui.state.shell import Shell

TICK_MS = 200  # a clock in seconds moves without a visible jerk


class LessonRunner(QObject):
    """Stands between the plan, the board and the player. clock: seconds that rise."""

    changed = pyqtSignal()

    def __init__(
        self, teach: TeachBench, player: Player, settings: Settings, shell: Shell, clock: Callable[[], float],
        parent: QObject,
    ) -> None:  # fmt: skip
        super().__init__(parent)
        self._teach, self._plan, self._player = teach, teach.plan, player
        self._settings, self._shell, self._clock = settings, shell, clock
        self.running: Running | None = None
        self._told_s = 0.0
        self._ticks = QTimer(self)
        self._ticks.setInterval(TICK_MS)
        self._ticks.timeout.connect(self._on_tick)
        player.went_round.connect(self._on_round)
        self._plan.cleared.connect(self.stop)

    @property
    def runs(self) -> bool:
        return self.running is not None and self.running.phase is not Phase.OVER

    def need(self) -> str:
        """Why there is no lesson that runs; empty when there is one."""
        return "" if self.runs else "No lesson runs: Shift+Return starts it."

    def toggle(self) -> None:
        """Start the lesson at the chosen step, or end it."""
        if self.runs:
            self.stop()
            return
        plan = self._plan.plan
        if plan is None:
            self._shell.notice("No lesson is planned yet: P plans one.")
            return
        at = plan.steps.index(self._plan.step) if self._plan.step in plan.steps else 0
        self._take(Running(plan, at))
        self._told_s = self._clock()
        self._ticks.start()
        self._begin()

    def stop(self) -> None:
        """End the lesson; what was done stands beside what was planned."""
        if self.running is None or not self.runs:
            return
        self._player.stop()
        self._take(self.running.ended())

    def step(self, by: int) -> None:
        """Go to the next step, or the one before; a lesson that runs goes on there."""
        if not self.runs or self.running is None:
            self._plan.move(by)
        elif by > 0:
            self._take(self.running.went_on())
            self._begin()
        else:
            self._plan.move(by)
            plan, chosen = self.running.plan, self._plan.step
            steps_done = self.running.went_on().done
            at = plan.steps.index(chosen) if chosen in plan.steps else self.running.at
            self._take(Running(plan, at, in_all_s=self.running.in_all_s, done=steps_done))
            self._begin()

    def again(self) -> None:
        if self.running is not None:
            self._take(self.running.again())
            self._begin()

    def extend(self) -> None:
        """One round more; a step that was over is played on."""
        if self.running is not None:
            played = self.running.phase is Phase.PLAY
            self._take(self.running.extended())
            if not played:
                self._begin()

    def _begin(self) -> None:
        """Choose the step on the board and play it."""
        running = self.running
        if running is None or running.phase is Phase.OVER:
            self._player.stop()
            return
        self._plan.choose(running.at)
        self._teach.play_cell()

    def _on_round(self) -> None:
        if self.runs and self.running is not None:
            self._take(self.running.went_round())
            if self.running.phase is not Phase.PLAY:
                self._player.stop()

    def _on_tick(self) -> None:
        now_s = self._clock()
        passed_s, self._told_s = now_s - self._told_s, now_s
        if self.running is None or not self.runs:
            return
        before = self.running
        self._take(before.passed(max(0.0, passed_s)))
        if self.running.at != before.at or self.running.phase is Phase.OVER:
            self._begin()

    def _take(self, running: Running) -> None:
        self.running = running
        if running.phase is Phase.OVER:
            self._ticks.stop()
            self._shell.notice(running_words(running, self._settings.naming))
        self._plan.show_running(running)
        self.changed.emit()

    @property
    def now(self) -> Step | None:
        """The step that runs."""
        return self.running.step if self.runs and self.running is not None else None
