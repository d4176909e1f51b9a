"""Runs the planned lesson: talk, then the step's rounds, then the next step, each at the sample that the plan says."""

from collections.abc import Callable
from dataclasses import replace

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from notcher.core.mixing import Handover, Loop, Silence
from notcher.core.teaching import REST_S, Phase, Running, Step, running_words
from notcher.ui.benches.teach.teach_bench import TeachBench
from notcher.ui.playback.levelled import Levelled
from notcher.ui.playback.player import PaceReason, Player
from notcher.ui.state.settings import Settings
from notcher.ui.state.shell import Shell

TICK_MS = 100  # a clock in seconds moves without a visible jerk
ENTRY_S = 0.15  # what was handed to the loudspeaker cannot be changed: a step that is asked for begins behind it
AHEAD_S = 8.0  # so long before it is heard what comes next is made


class LessonRunner(QObject):
    """Stands between the plan, the board and the player. The sound is the lesson's clock: what is heard is counted.

    clock: seconds that rise, for how long the lesson really lasted, its pauses too.
    """

    changed = pyqtSignal()
    ended = pyqtSignal(object, float)  # Running, and the minutes from its beginning to its end

    def __init__(
        self, teach: TeachBench, player: Player, settings: Settings, shell: Shell, clock: Callable[[], float],
        parent: QObject,
    ) -> None:  # fmt: skip
        super().__init__(parent)
        self._teach, self._plan, self._player = teach, teach.plan, player
        self._settings, self._shell, self._clock = settings, shell, clock
        self.running: Running | None = None
        self._began_s = 0.0
        self._line: Handover[Levelled] | None = None
        self._step_at = 0  # the sample at which the step began
        self._rounds_at: int | None = None  # and that at which its rounds begin, once they are there
        self._loop: Loop | None = None
        self._next: tuple[int, Loop] | None = None  # a step, and its rounds, made before they are due
        self._ticks = QTimer(self)
        self._ticks.setInterval(TICK_MS)
        self._ticks.timeout.connect(self._on_tick)
        player.interrupted.connect(self._on_interrupted)
        player.resume = self.resume
        self._plan.cleared.connect(self.stop)

    # --- what is asked ---
    @property
    def runs(self) -> bool:
        return self.running is not None and not self.running.over

    @property
    def paused(self) -> bool:
        """Whether the lesson runs and something else, or nothing, sounds."""
        return self.runs and not self._player.plays_plan(self._line)

    @property
    def now(self) -> Step | None:
        """The step that runs."""
        return self.running.step if self.runs and self.running is not None else None

    def need(self) -> str:
        """Why there is no lesson that runs; empty when there is one."""
        return "" if self.runs else "No lesson runs: Shift+Return starts it."

    def toggle(self) -> None:
        """Start the lesson at the chosen step, go on where it was stopped, or end it."""
        if self.resume():
            return
        if self.runs:
            self.stop()
            return
        plan = self._plan.plan
        if plan is None:
            self._shell.notice("No lesson is planned yet: P plans one.")
            return
        at = plan.steps.index(self._plan.step) if self._plan.step in plan.steps else 0
        self._began_s = self._clock()
        self._begin(Running(plan, at))

    def resume(self) -> bool:
        """Go on with the step at which the lesson was stopped; return whether there was one."""
        if not self.paused or self.running is None:
            return False
        self._begin(self.running.at_step(self.running.at))
        return True

    def stop(self) -> None:
        """End the lesson; what was done stands beside what was planned."""
        if self.running is None or not self.runs:
            return
        running = self._at_now().ended()
        if self._player.plays_plan(self._line):
            self._player.stop()
        self._take(running)

    def step(self, by: int) -> None:
        """Go to the next step, or the one before; a lesson that runs goes on there."""
        if not self.runs or self.running is None:
            self._plan.move(by)
            return
        at = self._at_now().at + by
        if at >= len(self.running.plan.steps):
            self.stop()
        else:
            self._begin(self._at_now().at_step(max(0, at)))

    def again(self) -> None:
        if self.running is not None:
            now = self._at_now()
            self._begin(now.at_step(now.at))

    def extend(self) -> None:
        """One round more; a step that was over is played on."""
        if self.running is None:
            return
        now = self._at_now()
        if now.phase is Phase.BREAK:  # its rounds are over: one is played anew
            self._begin(replace(_untalked(now), more=1 - now.step.rounds))
            return
        self._take(now.extended())
        if self._line is not None and self._rounds_at is not None:
            self._line.drop_from(self._rounds_at + 1)  # what was to come after the rounds comes later
            self._next = None
            self._schedule_end()

    # --- the clock ---
    @property
    def _position(self) -> int:
        return self._player.speaker.position

    def _at_now(self) -> Running:
        """Where the lesson is by what has been heard."""
        running = self.running
        assert running is not None
        if self._line is None or not self._player.plays_plan(self._line):
            return running
        rate, since = self._line.sample_rate, self._position - self._step_at
        talk = round(running.step.parts.talk_s * rate)
        if self._rounds_at is None:
            since = min(since, talk - 1)  # the rounds are not made yet: talk lasts a little longer
        elif self._position >= self._rounds_at:
            since = talk + self._position - self._rounds_at
        else:
            since = min(since, talk - 1)
        return running.passed(max(0.0, since / rate - running.in_step_s))

    def _on_tick(self) -> None:
        running = self.running
        if running is None or running.over or self.paused:
            if running is not None and not running.over:
                self._plan.show_running(running, stopped=True)
            return
        now = self._at_now()
        if now.at != running.at or now.over:  # by itself: at the sample that was set for it
            self._enter(running.passed(running.length_s - running.in_step_s), self._ends_at)
        else:
            self._take(now)
            self._make_ahead()

    # --- the sound ---
    def _begin(self, running: Running) -> None:
        """Play a step from its talk on, as soon as that can be heard."""
        if self._player.plays_plan(self._line) and self._line is not None:
            self._line.drop_from(0)
            begin = self._line.asked + round(ENTRY_S * self._line.sample_rate)
            self._player.follow(begin, self._silence(running.step))
        else:
            self._line = self._player.play_plan(self._span(running.step)[0])
            begin = 0
            if self._line is None:
                return
        self._next = None
        self._ticks.start()
        self._enter(running, begin)

    def _enter(self, running: Running, begin: int) -> None:
        """Take a step that begins at a sample, and set its rounds into the sound."""
        ready, self._next = self._next, None
        self._step_at, self._rounds_at, self._loop = begin, None, None
        self._take(running)
        if running.over or self._line is None:
            self._player.stop()
            return
        step = running.step
        self._plan.choose(running.at)
        self._player.go_to(self._span(step), step.pace, PaceReason.TEMPO_STEP)
        if ready is not None and ready[0] == running.at:
            self._loop = ready[1]
            self._set_rounds()
        else:
            self._loop = self._rounds(step)
            self._player.prepare_rounds(self._loop, self._set_rounds)

    def _set_rounds(self) -> None:
        """The step's rounds are there: let them begin after its talk, or as soon as that can be heard."""
        line, running, loop = self._line, self.running, self._loop
        if line is None or running is None or loop is None or not self._player.plays_plan(line):
            return
        due = self._step_at + round(running.step.parts.talk_s * line.sample_rate)
        self._rounds_at = max(due, line.asked + round(ENTRY_S * line.sample_rate)) if due < line.asked else due
        self._player.follow(self._rounds_at, loop)
        self._schedule_end()

    @property
    def _ends_at(self) -> int:
        """The sample at which the step that is chosen is over."""
        assert self.running is not None
        assert self._line is not None
        assert self._rounds_at is not None
        step = self.running.step
        rounds, rate = self.running.wanted_rounds, self._line.sample_rate
        period = self._loop.period if self._loop is not None else round(self.running.round_s * rate)
        return self._rounds_at + rounds * period + round(step.break_s * rate)

    def _schedule_end(self) -> None:
        running = self.running
        assert running is not None
        after = running.plan.steps[min(running.at + 1, len(running.plan.steps) - 1)]
        ends = self._ends_at - round(running.step.break_s * (self._line.sample_rate if self._line is not None else 0))
        self._player.follow(ends, self._silence(after))

    def _make_ahead(self) -> None:
        """Make the next step's rounds while this one's are heard: a short talk is soon over."""
        running = self.running
        if running is None or self._next is not None or self._rounds_at is None:
            return
        at = running.at + 1
        if at < len(running.plan.steps) and running.length_s - running.in_step_s < AHEAD_S:
            loop = self._rounds(running.plan.steps[at])
            self._next = (at, loop)
            self._player.prepare_rounds(loop, lambda: None)

    def _rounds(self, step: Step) -> Loop:
        return self._player.rounds_of(self._span(step), step.pace, rest_s=REST_S, counted=not step.listen)

    def _silence(self, step: Step) -> Silence:
        assert self._line is not None
        return Silence(self._line.sample_rate, self._span(step)[0])

    def _span(self, step: Step) -> tuple[float, float]:
        row = self._teach.row_of(step)
        return (0.0, 0.0) if row is None else (row.start_s, row.end_s)

    def _on_interrupted(self) -> None:
        """Another tempo, pitch or sound was chosen: the step begins anew with it, without its talk."""
        if not self.runs or self.running is None:
            return
        self._begin(_untalked(self._at_now(), self._player.pace))

    def _take(self, running: Running) -> None:
        self.running = running
        if running.over:
            self._ticks.stop()
            self._shell.notice(running_words(running, self._settings.naming))
            self.ended.emit(running, (self._clock() - self._began_s) / 60)
        self._plan.show_running(running)
        self.changed.emit()


def _untalked(running: Running, pace: float | None = None) -> Running:
    """The step begun anew without its talk, at another pace if one is given."""
    step = running.step
    ratio = 1.0 if pace is None else step.pace / pace
    parts = replace(
        step.parts, talk_s=0.0, count_in_s=step.parts.count_in_s * ratio, sound_s=step.parts.sound_s * ratio
    )
    steps = list(running.plan.steps)
    steps[running.at] = replace(step, pace=pace or step.pace, parts=parts)
    return replace(running.at_step(running.at), plan=replace(running.plan, steps=tuple(steps)))
