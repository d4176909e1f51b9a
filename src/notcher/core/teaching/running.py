"""A lesson that runs by itself: which step it is at, what of it sounds, and what was done so far.

Pure arithmetic: who runs it tells how much of the lesson has sounded.
"""

from dataclasses import dataclass, replace
from enum import StrEnum

from notcher.core.teaching.plan import Plan, Step


class Phase(StrEnum):
    """What happens now in a step: talk first, then rounds of count-in, sound and rest."""

    TALK = "talk"
    COUNT_IN = "count-in"
    PLAY = "play"
    REST = "rest"
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
    """Where a lesson is. more: rounds that were added to the step. in_step_s, in_all_s: seconds that have sounded."""

    plan: Plan
    at: int = 0
    more: int = 0
    in_step_s: float = 0.0
    in_all_s: float = 0.0
    over: bool = False
    done: tuple[StepDone, ...] = ()

    # --- the step ---
    @property
    def step(self) -> Step:
        return self.plan.steps[min(self.at, len(self.plan.steps) - 1)]

    @property
    def wanted_rounds(self) -> int:
        return max(1, self.step.rounds + self.more)

    @property
    def round_s(self) -> float:
        """A round: count-in, sound and rest."""
        step = self.step
        return (step.seconds - step.parts.talk_s - step.break_s) / step.rounds

    @property
    def played_s(self) -> float:
        """From the step's beginning to the end of its last round."""
        return self.step.parts.talk_s + self.wanted_rounds * self.round_s

    @property
    def length_s(self) -> float:
        """Of the step with its break."""
        return self.played_s + self.step.break_s

    @property
    def rounds(self) -> int:
        """Rounds that are over; the rest after one belongs to it."""
        since_s = max(0.0, self.in_step_s - self.step.parts.talk_s)
        return min(self.wanted_rounds, int(since_s / self.round_s + 1e-9))

    @property
    def sounded(self) -> int:
        """Rounds of which all sounded, whether their rest is over or not."""
        since_s = (
            self.in_step_s - self.step.parts.talk_s + (self.step.parts.rest_s - self.step.break_s) / self.step.rounds
        )
        return min(self.wanted_rounds, max(0, int(since_s / self.round_s + 1e-9)))

    @property
    def phase(self) -> Phase:
        if self.over:
            return Phase.OVER
        parts, since_s = self.step.parts, self.in_step_s - self.step.parts.talk_s
        if since_s < 0:
            return Phase.TALK
        if self.in_step_s >= self.played_s:
            return Phase.BREAK
        in_round_s = since_s - self.rounds * self.round_s
        lead_s, sound_s = parts.count_in_s / self.step.rounds, parts.sound_s / self.step.rounds
        if in_round_s < lead_s:
            return Phase.COUNT_IN
        return Phase.PLAY if in_round_s < lead_s + sound_s else Phase.REST

    # --- how it goes on ---
    def passed(self, seconds: float) -> "Running":
        """Return where it is after so many seconds more: a step ends with its rounds and its break."""
        now = self
        while not now.over and now.in_step_s + seconds >= now.length_s:
            left_s = max(0.0, now.length_s - now.in_step_s)
            now = replace(now, in_step_s=now.length_s, in_all_s=now.in_all_s + left_s).went_on()
            seconds -= left_s
        return now if now.over else replace(now, in_step_s=now.in_step_s + seconds, in_all_s=now.in_all_s + seconds)

    def went_on(self) -> "Running":
        """Return where it is at the next step, whatever is left of this one."""
        if self.over:
            return self
        fresh = replace(self, at=self.at + 1, more=0, in_step_s=0.0, done=(*self.done, self._done_now))
        return replace(fresh, at=self.at, over=True) if fresh.at >= len(self.plan.steps) else fresh

    def at_step(self, at: int) -> "Running":
        """Return where it is at a step's beginning; what was played of this one counts."""
        if self.over:
            return self
        steps_done = (*self.done, self._done_now) if self.in_step_s else self.done
        return replace(self, at=at, more=0, in_step_s=0.0, done=steps_done)

    def extended(self, by: int = 1) -> "Running":
        """Return where it is with so many rounds more of the step; in its break it is played on."""
        if self.over:
            return self
        now = replace(self, more=self.more + by)
        return replace(now, in_step_s=min(now.in_step_s, self.played_s)) if self.phase is Phase.BREAK else now

    def ended(self) -> "Running":
        """Return what was done when it is ended here."""
        return self if self.over else replace(self.went_on(), at=self.at, over=True)

    @property
    def _done_now(self) -> StepDone:
        return StepDone(self.at, self.sounded, self.in_step_s)

    def done_of(self, at: int) -> tuple[int, float]:
        """Return the rounds and the seconds of a step so far."""
        mine = [step_done for step_done in self.done if step_done.at == at]
        if at == self.at and not self.over:
            mine.append(self._done_now)
        return sum(step_done.rounds for step_done in mine), sum(step_done.seconds for step_done in mine)

    @property
    def sounded_steps(self) -> tuple[tuple[Step, int], ...]:
        """Each step of which anything was played, with its rounds, in the plan's order."""
        counts = [(step, self.done_of(at)[0]) for at, step in enumerate(self.plan.steps)]
        return tuple((step, rounds) for step, rounds in counts if rounds)
