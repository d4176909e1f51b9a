"""A lesson that runs by itself: which step it is at, how far that is, and what was done so far.

Pure arithmetic: who runs it tells how much time has passed and when a round was over.
"""

from dataclasses import dataclass, replace
from enum import StrEnum

from notcher.core.teaching.plan import Plan, Step


class Phase(StrEnum):
    """What happens now in a step."""

    PLAY = "play"
    TALK = "talk"  # its rounds are over, its time is not
    BREAK = "break"
    OVER = "over"


@dataclass(frozen=True, slots=True)
class StepDone:
    """What came of one step: its place in the plan, rounds and seconds."""

    at: int
    rounds: int
    seconds: float


@dataclass(frozen=True, slots=True)
class Running:
    """Where a lesson is. more: rounds that were added to the step. in_step_s, in_all_s: seconds."""

    plan: Plan
    at: int = 0
    rounds: int = 0
    more: int = 0
    in_step_s: float = 0.0
    in_all_s: float = 0.0
    phase: Phase = Phase.PLAY
    done: tuple[StepDone, ...] = ()

    @property
    def step(self) -> Step:
        return self.plan.steps[min(self.at, len(self.plan.steps) - 1)]

    @property
    def wanted_rounds(self) -> int:
        return max(1, self.step.rounds + self.more)

    def passed(self, seconds: float) -> "Running":
        """Return where it is after so many seconds: on to the break, and to the next step, when its time has come.

        A step ends when its rounds were played and its time is over; rounds are never cut off by the clock.
        """
        if self.phase is Phase.OVER:
            return self
        now = replace(self, in_step_s=self.in_step_s + seconds, in_all_s=self.in_all_s + seconds)
        step = now.step
        if now.phase is Phase.TALK and now.in_step_s >= step.seconds - step.break_s:
            now = replace(now, phase=Phase.BREAK) if step.break_s and now.in_step_s < step.seconds else now.went_on()
        elif now.phase is Phase.BREAK and now.in_step_s >= step.seconds:
            now = now.went_on()
        return now

    def went_round(self) -> "Running":
        """Return where it is after one more round."""
        if self.phase is not Phase.PLAY:
            return self
        rounds = self.rounds + 1
        return replace(self, rounds=rounds, phase=Phase.TALK if rounds >= self.wanted_rounds else Phase.PLAY)

    def went_on(self) -> "Running":
        """Return where it is at the next step, whatever is left of this one."""
        if self.phase is Phase.OVER:
            return self
        steps_done = (*self.done, StepDone(self.at, self.rounds, self.in_step_s))
        fresh = replace(self, at=self.at + 1, rounds=0, more=0, in_step_s=0.0, phase=Phase.PLAY, done=steps_done)
        over = fresh.at >= len(self.plan.steps)
        return replace(fresh, at=self.at, phase=Phase.OVER) if over else fresh

    def again(self) -> "Running":
        """Return where it is with the step begun anew; what was played of it counts."""
        if self.phase is Phase.OVER:
            return self
        steps_done = (*self.done, StepDone(self.at, self.rounds, self.in_step_s)) if self.rounds else self.done
        return replace(self, rounds=0, more=0, in_step_s=0.0, phase=Phase.PLAY, done=steps_done)

    def extended(self, by: int = 1) -> "Running":
        """Return where it is with so many rounds more of the step; one that was over is played on."""
        if self.phase is Phase.OVER:
            return self
        now = replace(self, more=self.more + by)
        return replace(now, phase=Phase.PLAY) if now.rounds < now.wanted_rounds else replace(now, phase=Phase.TALK)

    def ended(self) -> "Running":
        """Return what was done when it is ended here."""
        if self.phase is Phase.OVER:
            return self
        return replace(self.went_on(), at=self.at, phase=Phase.OVER)

    def done_of(self, at: int) -> tuple[int, float]:
        """Return the rounds and the seconds of a step so far."""
        mine = [step_done for step_done in self.done if step_done.at == at]
        now = (self.rounds, self.in_step_s) if at == self.at and self.phase is not Phase.OVER else (0, 0.0)
        return sum(step_done.rounds for step_done in mine) + now[0], sum(step_done.seconds for step_done in mine) + now[
            1
        ]
