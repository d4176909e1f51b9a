"""Learners made of arithmetic climb to full tempo by the ladder and by two common habits: `./dev bench teaching`.

Writes docs/benchmarks/teaching.md. A learner's skill is the pace that goes clean half of the time. A pass teaches the
most where it is hard but not hopeless, and less when it goes wrong (M. Guadagnoli and T. Lee, "Challenge point: a
framework for conceptualizing the effects of various practice conditions in motor learning", Journal of Motor Behavior
36, 2004, put into figures of ours). Practice pays less with every pass, as in the power law of practice.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from notcher.core.proving import Result
from notcher.core.teaching import Pass, next_pace
from notcher.core.teaching.ladder import rungs

PAGE = Path(__file__).parents[1] / "docs" / "benchmarks" / "teaching.md"
PROFILES = {
    "beginner": (0.45, 0.05, 0.06, 0.25),
    "steady": (0.6, 0.05, 0.06, 0.2),
    "quick": (0.75, 0.08, 0.05, 0.2),
    "slow to learn": (0.6, 0.02, 0.06, 0.25),
    "uneven": (0.6, 0.05, 0.14, 0.2),
    "nearly there": (0.92, 0.04, 0.05, 0.2),
}
"""Skill at first (share of full tempo), gain of the best pass, width of the curve, how quickly mistakes are learned."""
VARIED, LEARNERS, MOST, BPM, IN_A_ROW = 0.5, 200, 600, 110.0, 3
BEST_ABOVE, REACH = 0.04, 0.12  # log pace: where a pass teaches most, and how wide that is
ALWAYS = 0.1  # of the best pass, that any pass teaches
TIRING = 0.3  # exponent by which practice pays less
HABIT_BPM = 5.0


@dataclass
class Learner:
    """skill: log pace. gain: of the best pass. width: of the curve.

    mistakes: share of a pass's worth that is lost when it goes wrong.
    """

    skill: float
    gain: float
    width: float
    mistakes: float
    dice: np.random.Generator
    passes: int = 0

    def play(self, pace: float) -> Result:
        """One pass: how it goes, and what it teaches."""
        self.passes += 1
        above = np.log(pace) - self.skill
        chance = 1 / (1 + np.exp(np.clip(above / self.width, -60, 60)))
        clean = self.dice.random() < chance
        paid = self.gain * self.passes**-TIRING
        taught = np.exp(-(((above - BEST_ABOVE) / REACH) ** 2)) + ALWAYS
        self.skill += paid * taught * (1.0 if clean else 1.0 - self.mistakes)
        if clean:
            return Result.CLEAN
        return Result.SHAKY if self.dice.random() < 0.4 else Result.MISSED


Habit = Callable[[Learner, float], int]


def learner(profile: str, number: int) -> Learner:
    skill, gain, width, mistakes = PROFILES[profile]
    dice = np.random.default_rng([sorted(PROFILES).index(profile), number])
    vary = dice.uniform(1 - VARIED, 1 + VARIED, 3)
    return Learner(float(np.log(skill)), gain * vary[0], width * vary[1], mistakes * vary[2], dice)


def by_the_ladder(someone: Learner, start: float) -> int:
    ladder = rungs(start, full_bpm=BPM)
    top = ladder.index(1.0)
    passes: list[Pass] = []
    row = 0
    while len(passes) < MOST:
        pace = min(next_pace(passes, ladder[: top + 1]), 1.0)
        result = someone.play(pace)
        passes.append(Pass(pace, result))
        row = row + 1 if pace == 1.0 and result is Result.CLEAN else 0
        if row >= IN_A_ROW:
            break
    return len(passes)


def half_then_full(someone: Learner, start: float) -> int:
    """Slowly until it is clean three times, then at full tempo."""
    pace, row = start, 0
    for count in range(1, MOST + 1):
        row = row + 1 if someone.play(pace) is Result.CLEAN else 0
        if row >= IN_A_ROW:
            if pace == 1.0:
                return count
            pace, row = 1.0, 0
    return MOST


def five_bpm_more(someone: Learner, start: float) -> int:
    """Five beats a minute more with every pass, whatever it was like; from the start again when full tempo fails."""
    pace, row = start, 0
    for count in range(1, MOST + 1):
        result = someone.play(pace)
        if pace >= 1.0:
            row = row + 1 if result is Result.CLEAN else 0
            if row >= IN_A_ROW:
                return count
            if result is Result.MISSED:
                pace, row = start, 0
        else:
            pace = min(1.0, pace + HABIT_BPM / BPM)
    return MOST


HABITS: dict[str, Habit] = {"ladder": by_the_ladder, "half, then full": half_then_full, "+5 bpm a pass": five_bpm_more}


def main() -> None:
    lines = [
        "# Learners made of arithmetic",
        "",
        "Made by `./dev bench teaching`: passes until full tempo is clean three times in a row, mean of",
        f"{LEARNERS} learners a profile, each parameter varied by ± {VARIED:.0%}, {MOST} at most. The same learners",
        "for each habit. Asked: fewer than both habits, and for no profile more than 5 % worse.",
        "",
        "| profile | " + " | ".join(HABITS) + " | beside the better habit |",
        "| --- |" + " --- |" * (len(HABITS) + 1),
    ]
    totals = dict.fromkeys(HABITS, 0.0)
    for profile in PROFILES:
        means = {
            name: float(np.mean([habit(learner(profile, n), 0.5) for n in range(LEARNERS)]))
            for name, habit in HABITS.items()
        }
        for name, mean in means.items():
            totals[name] += mean / len(PROFILES)
        better = min(mean for name, mean in means.items() if name != "ladder")
        cells = " | ".join(f"{mean:.1f}" for mean in means.values())
        lines.append(f"| {profile} | {cells} | {means['ladder'] / better - 1:+.0%} |")
    lines.append("| **mean** | " + " | ".join(f"**{total:.1f}**" for total in totals.values()) + " | |")
    text = "\n".join(lines) + "\n"
    print(text)
    PAGE.write_text(text)


if __name__ == "__main__":
    main()
