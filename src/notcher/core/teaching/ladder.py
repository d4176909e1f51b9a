"""The ladder of one phrase: which tempo next, what is played clean by now, and when it will be at full tempo.

- The next rung follows a transformed up-down rule: up after three clean passes in a row (common practice, no source),
  down after two that were missed; a shaky one stays. Source: H. Levitt, "Transformed up-down methods in
  psychoacoustics", JASA 49, 1971; where such a rule settles is where both runs are equally likely, see `settles_at`.
- The tempo played clean is the pace at which a logistic curve through the passes crosses that share; its spread comes
  from the curvature of the likelihood (Fisher information).
- From day to day it follows the power law of practice (A. Newell and P. Rosenbloom, "Mechanisms of skill acquisition
  and the law of practice", 1981): tempo ~ (days of practice)^b, a straight line in logarithms.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from notcher.core.arrays import FloatArray
from notcher.core.proving import Result

CLEAN_IN_A_ROW, MISSED_IN_A_ROW = 3, 2  # three clean go up, two missed down (H. Levitt, JASA 49, 1971)
USUAL_START = 0.5  # half of the tempo (common practice, no source)
LEAST_PACE, MOST_PACE = 0.25, 1.5  # what stretching can do
TARGET_SHARE = 0.8  # of the passes, that are clean at the pace that is called clean
WIDTH = 0.06  # of the logistic curve, in log pace: from half to three quarters clean within 7 % of tempo
PRIOR_SPREAD = 0.5  # in log pace, of what is known before any pass
SAFE = 1.28  # standard deviations: eight chances in ten


class StepUnit(StrEnum):
    """How the rungs of a ladder follow each other."""

    PERCENT = "fixed percent"  # of full tempo
    BPM = "fixed bpm"
    RATIO = "fixed ratio"  # of the rung before


@dataclass(frozen=True, slots=True)
class Pass:
    """One pass through a phrase: at which pace, and how it went."""

    pace: float
    result: Result


def rungs(
    start: float, *, full_bpm: float, by: StepUnit = StepUnit.PERCENT, size: float | None = None
) -> tuple[float, ...]:
    """Return the paces from a start to full tempo and one above, rising.

    size: percent of full tempo, beats a minute, or the ratio; None for the usual 10, 8 and 1.12.
    Raises: ValueError for a start or a size that leads nowhere.
    """
    size = {StepUnit.PERCENT: 10.0, StepUnit.BPM: 8.0, StepUnit.RATIO: 1.12}[by] if size is None else size
    if not LEAST_PACE <= start <= MOST_PACE or size <= (1.0 if by is StepUnit.RATIO else 0.0):
        raise ValueError("a ladder begins between a quarter and one and a half of the tempo, and goes up")
    paces = [start]

    def above(pace: float) -> float:
        if by is StepUnit.RATIO:
            return pace * size
        return pace + (size / 100 if by is StepUnit.PERCENT else size / full_bpm)

    while paces[-1] < 1.0 - 1e-9:
        paces.append(min(1.0, above(paces[-1])))
    if len(paces) > 2 and paces[-1] - paces[-2] < 0.4 * (paces[-2] - paces[-3]):
        del paces[-2]  # no tiny last step
    paces.append(min(MOST_PACE, above(paces[-1])))
    return tuple(round(pace, 4) for pace in paces)


LOWEST = 0.4  # the board's first rung: for what is too hard at half tempo


@dataclass(frozen=True, slots=True)
class Ladder:
    """How rungs follow each other. size: see `rungs`; None for the usual."""

    by: StepUnit = StepUnit.PERCENT
    size: float | None = None

    def paces(self, full_bpm: float) -> tuple[float, ...]:
        """Return the rungs for a solo of a tempo: from 40 percent to full tempo and one above."""
        return rungs(LOWEST, full_bpm=full_bpm, by=self.by, size=self.size)


USUAL_LADDER = Ladder()


def nearest(paces: Sequence[float], pace: float) -> float:
    """Return the rung that is nearest to a pace."""
    return min(paces, key=lambda rung: abs(rung - pace))


def settles_at(up: int, down: int) -> float:
    """Return the share of clean passes at which so many clean ones in a row are as likely as so many missed ones.

    The chance that a run of `up` comes before a run of `down`, p the chance of each clean pass and q = 1 - p:
    p^(u-1) (1 - q^d) / (p^(u-1) + q^(d-1) - p^(u-1) q^(d-1)) (W. Feller, "An Introduction to Probability Theory",
    vol. 1, 1968, ch. XIII.8); with one miss it is Levitt's p^u.
    """
    low, high = 0.0, 1.0
    for _ in range(60):
        p = (low + high) / 2
        q = 1.0 - p
        runs, missed = p ** (up - 1), q ** (down - 1)
        chance = runs * (1 - q**down) / (runs + missed - runs * missed)
        low, high = (p, high) if chance < 0.5 else (low, p)
    return (low + high) / 2


def next_pace(
    passes: Sequence[Pass],
    ladder: Sequence[float],
    *,
    in_a_row: int = CLEAN_IN_A_ROW,
    missed_in_a_row: int = MISSED_IN_A_ROW,
) -> float:
    """Return the pace of the next pass: up after clean ones in a row, down after missed ones, else the same.

    Until the first pass that is not clean one clean pass is enough: far below what can be played nothing is learned.
    Never more than one rung at a time (common practice, no source).
    passes: in the order they were played. ladder: rising.
    """
    at, run, before, near, misses = 0, 0, -1, False, 0
    for played in passes:
        at = int(np.argmin(np.abs(np.array(ladder) - played.pace)))
        run, before = (run if at == before else 0), at
        if played.result is Result.CLEAN:
            run += 1
            if run >= (in_a_row if near else 1):
                at, run = min(at + 1, len(ladder) - 1), 0
            misses = 0
        else:
            run, near = 0, True
            misses = misses + 1 if played.result is Result.MISSED else 0
            if misses >= missed_in_a_row:
                at, misses = max(at - 1, 0), 0
    return float(ladder[at])


@dataclass(frozen=True, slots=True)
class CleanPace:
    """The pace at which a pass is clean in four of five, and its standard deviation, both in log pace."""

    log_pace: float
    spread: float

    @property
    def pace(self) -> float:
        return float(np.exp(self.log_pace))

    @property
    def low(self) -> float:
        """Nine chances in ten that it is above this."""
        return float(np.exp(self.log_pace - SAFE * self.spread))

    @property
    def high(self) -> float:
        return float(np.exp(self.log_pace + SAFE * self.spread))


def clean_pace(passes: Sequence[Pass], *, expected: float = USUAL_START, spread: float = PRIOR_SPREAD) -> CleanPace:
    """Return the pace that is played clean by now.

    expected, spread: what is believed before the first pass, and how surely, in log pace.

    The most likely middle of a logistic curve of known width, with a broad normal belief before (Newton's method; shaky
    passes count as half clean).
    """
    paces = np.log([played.pace for played in passes]) if passes else np.zeros(0)
    clean = np.array([{Result.CLEAN: 1.0, Result.SHAKY: 0.5, Result.MISSED: 0.0}[played.result] for played in passes])
    middle = float(np.log(expected))
    prior = middle
    offset = WIDTH * np.log(TARGET_SHARE / (1 - TARGET_SHARE))  # from half clean to four in five
    information = 1 / spread**2
    for _ in range(50):
        share = 1 / (1 + np.exp(np.clip((paces - middle - offset) / WIDTH, -60, 60)))
        slope = float(np.sum(clean - share)) / WIDTH - (middle - prior) / spread**2
        information = float(np.sum(share * (1 - share))) / WIDTH**2 + 1 / spread**2
        step = float(np.clip(slope / information, -0.3, 0.3))
        middle += step
        if abs(step) < 1e-6:
            break
    return CleanPace(middle, float(1 / np.sqrt(information)))


@dataclass(frozen=True, slots=True)
class Course:
    """How the clean pace grows: log pace = a + b log(day), and the scatter around it. days: that were practised on."""

    a: float
    b: float
    scatter: float
    days: int

    def at(self, day: float) -> float:
        """Return the expected pace on a day of practice, 1 for the first."""
        return float(np.exp(self.a + self.b * np.log(max(day, 1.0))))

    def until(self, pace: float) -> tuple[float, float, float] | None:
        """Return on which day a pace is likely reached: early, middle, late; None where it does not grow."""
        if self.b <= 1e-3:
            return None
        middle = (np.log(pace) - self.a) / self.b
        reach = SAFE * self.scatter / self.b
        passes = np.exp(np.clip([middle - reach, middle, middle + reach], 0.0, np.log(10_000)))
        return float(passes[0]), float(passes[1]), float(passes[2])


PRIOR_B, PRIOR_B_SPREAD = 0.2, 0.15
"""Exponents of the power law for motor skills lie around 0.2 (Newell and Rosenbloom 1981, from memory)."""


def course(days: FloatArray, paces: FloatArray) -> Course | None:
    """Fit how the clean pace grows over days of practice, 1 for the first; None without any.

    days, paces: shape (n,). The exponent leans on what is usual, as few days cannot tell it.
    """
    if days.size == 0:
        return None
    x, y = np.log(np.maximum(days, 1.0)), np.log(paces)
    noise = 0.06
    lean = noise**2 / PRIOR_B_SPREAD**2
    weight = np.array([[x.size, x.sum()], [x.sum(), (x**2).sum() + lean]])
    a, b = np.linalg.solve(weight + 1e-9 * np.eye(2), np.array([y.sum(), (x * y).sum() + lean * PRIOR_B]))
    off = y - a - b * x
    scatter = float(np.sqrt((np.sum(off**2) + 2 * noise**2) / (x.size + 2)))
    return Course(float(a), float(b), scatter, int(x.size))
