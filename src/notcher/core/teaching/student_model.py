"""The one estimate of what a student plays clean now: board, plan, panel, queue and progress ask here.

- What was marked: a logistic curve through the passes of each day (`ladder.clean_pace`); each day begins with what the
  day before left, a little less sure (the recursion of R. E. Kalman, 1960, in one dimension).
- What was never tried: a Bayesian linear regression (C. M. Bishop, "Pattern Recognition and Machine Learning", 2006,
  sec. 3.3) of the log pace on what a phrase asks, so that who is slow in bends begins the next bend slowly too.
- A mark counts where it was made: what is called clean lies no lower than the rung that stands marked clean, and no
  higher than the next (common practice, no source).
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from enum import StrEnum
from itertools import groupby

import numpy as np

from notcher.core.arrays import FloatArray
from notcher.core.ledger import LoggedPass
from notcher.core.proving import Result
from notcher.core.score import Score
from notcher.core.teaching.difficulty import Difficulty, difficulties
from notcher.core.teaching.ladder import (
    CLEAN_IN_A_ROW,
    LEAST_PACE,
    MOST_PACE,
    PRIOR_SPREAD,
    USUAL_LADDER,
    USUAL_START,
    CleanPace,
    Ladder,
    Pass,
    clean_pace,
    nearest,
    next_pace,
)
from notcher.core.teaching.rungs import BoardRow, Tried, units

SURE = [Result.CLEAN] * CLEAN_IN_A_ROW
ROUNDS, LEAST_ROUNDS, MOST_ROUNDS = 4, 2, 12  # of a rung: usually; once may be luck; at most
USUAL_BPM = 100.0  # of a solo without beats
RECENT = 10  # passes: what came before tells of somebody who had practised less
DAY_SPREAD = 0.1  # in log pace: how much a night may change
SUPPORTED = 2.0  # standard deviations above an estimate: what lies higher is not offered
SAME_PACE = 1e-6  # as numbers round


class Level(StrEnum):
    """How far a student is."""

    BEGINNER = "beginner"
    INTERMEDIATE = "intermediate"
    ADVANCED = "advanced"


RATES = {Level.BEGINNER: 3.0, Level.INTERMEDIATE: 5.5, Level.ADVANCED: 9.0}
"""Notes a second that are clean before anything is known of a student (common practice, no source)."""
NEW_AT_MOST = {Level.BEGINNER: 0.5, Level.INTERMEDIATE: 0.6, Level.ADVANCED: 0.8}
MARKED_AT_MOST = 0.8
"""Of full tempo, that a phrase begins at which was never tried: by level, and where others stand marked clean so high
(common practice, no source)."""
REFERENCE_RATE = 4.0  # notes a second, to which a phrase's quickest second is compared
DEMANDS = ("speed", "bends", "stretches", "leaps")
DEMAND_MEANS = (-1.0, -0.15, -0.15, -0.1)
DEMAND_SPREADS = (0.2, 0.25, 0.25, 0.15)
"""In log pace: twice as many notes halve it; bends of 10 N, reaches of 15 mm, shifts of 100 mm a second cost about a
tenth each; how much that differs from student to student (common practice, no source)."""
TOLD_SPREAD, UNTOLD_SPREAD = 0.35, 0.5  # of the rate, in log pace: where the level is told, and where it is not
PHRASE_SPREAD = 0.12  # in log pace: what is a phrase's own


@dataclass(frozen=True, slots=True)
class PaceEstimate:
    """What is played clean now, with its spread.

    low, high: in nine cases of ten it is above, below. next_pace: to practise next. marks: how many it rests on. held:
    the highest pace that stands marked clean, if any.
    """

    clean_now: float
    low: float
    high: float
    next_pace: float
    marks: int
    held: float | None = None


@dataclass(frozen=True, slots=True)
class StudentModel:
    """What is known of the student. estimates: of each phrase, by id. tried: the phrases that were practised.

    rounds: how many rounds a rung took so far, on average.
    """

    level: Level = Level.INTERMEDIATE
    estimates: Mapping[str, PaceEstimate] = field(default_factory=dict)
    tried: frozenset[str] = frozenset()
    rounds: float = float(ROUNDS)


def student_of(
    score: Score,
    tried: Sequence[Tried],
    *,
    difficulty: Mapping[str, Difficulty] | None = None,
    level: Level | None = None,
    ladder: Ladder = USUAL_LADDER,
) -> StudentModel:
    """Return what the passes tell of a student.

    tried: passes through this solo, in the order they were played. difficulty: as `difficulties` tells, where it is
    known. level: as the instructor says; None for what the passes tell.
    """
    difficulty = difficulties(score) if difficulty is None else difficulty
    taught = {phrase.id: tuple(part.id for part in unit) for unit in units(score) for phrase in unit}
    passes = {name: [played for played in tried if played.phrases in ((name,), taught[name])] for name in difficulty}
    asks = {name: _asks(hard) for name, hard in difficulty.items()}
    before = _Belief.of(level)
    marked = {name: _filtered(played, before.of_phrase(asks[name])) for name, played in passes.items() if played}
    belief = before.learned([(asks[name], clean) for name, clean in marked.items()])
    held = [pace for played in passes.values() if (pace := held_clean(_passes(played))) is not None]
    by_level = USUAL_START if level is None else NEW_AT_MOST[level]
    new_at_most = max(by_level, min(MARKED_AT_MOST, max(held, default=0.0)))
    practised = frozenset(name for name in difficulty if any(_is_through(played, name) for played in tried))
    estimates = {}
    for phrase in score.phrases:
        if (name := phrase.id) in difficulty:
            bpm = score.beat_map.tempo_at(phrase.start_s) if score.beat_map.known else USUAL_BPM
            prior = marked.get(name) or belief.of_phrase(asks[name])
            estimates[name] = _estimated(_passes(passes[name]), prior, ladder.paces(bpm), new_at_most)
    return StudentModel(level or belief.level(len(marked)), estimates, practised, _habit(passes.values()))


def estimate_of(row: BoardRow, student: StudentModel, tried: Sequence[Tried], paces: Sequence[float]) -> PaceEstimate:
    """Return the estimate of a row of the board: a phrase's own; of joins and pieces by their own passes, before
    these by the hardest phrase in it. paces: the board's rungs."""
    known = [student.estimates[phrase.id] for phrase in row.phrases if phrase.id in student.estimates]
    if row.ids == (row.phrases[0].id,) and known:
        return known[0]
    expected = min((estimate.clean_now for estimate in known), default=USUAL_START)
    starts = [estimate.next_pace if estimate.held is None else estimate.held for estimate in known]
    mine = [played for played in tried if played.phrases == row.ids]
    return _estimated(
        _passes(mine),
        _filtered(mine, CleanPace(float(np.log(expected)), PRIOR_SPREAD)),
        paces,
        min(starts, default=USUAL_START),
    )


def _is_through(played: Tried, name: str) -> bool:
    """Whether a pass went through a phrase, alone, joined, or a piece of it."""
    return any(part == name or part.startswith(f"{name}/") for part in played.phrases)


def _passes(tried: Sequence[Tried]) -> list[Pass]:
    return [Pass(played.pace, played.result) for played in tried]


def _day(played: Tried) -> str:
    return played.played_at[:10] if isinstance(played, LoggedPass) else ""


def _asks(difficulty: Difficulty) -> FloatArray:
    """What a phrase asks, shape (5,): one, and each of `DEMANDS` in its unit."""
    parts = difficulty.parts
    speed = np.log(max(parts.peak_notes_per_s, 1.0) / REFERENCE_RATE)
    return np.array([1.0, speed, parts.bend_n / 10, parts.stretch_mm / 15, parts.shifts_mm_per_s / 100])


@dataclass(frozen=True, eq=False)
class _Belief:
    """What is believed of the student's log pace: weights of what a phrase asks, and their covariance."""

    mean: FloatArray
    covariance: FloatArray

    @classmethod
    def of(cls, level: Level | None) -> "_Belief":
        rate = RATES[level or Level.INTERMEDIATE]
        spread = UNTOLD_SPREAD if level is None else TOLD_SPREAD
        mean = np.array([np.log(rate / REFERENCE_RATE), *DEMAND_MEANS])
        return cls(mean, np.diag(np.array([spread, *DEMAND_SPREADS]) ** 2))

    def of_phrase(self, asks: FloatArray) -> CleanPace:
        """What is to be expected of a phrase."""
        log_pace = float(np.clip(asks @ self.mean, np.log(LEAST_PACE), 0.0))  # nobody asks for more than the tempo
        return CleanPace(log_pace, float(np.sqrt(asks @ self.covariance @ asks + PHRASE_SPREAD**2)))

    def learned(self, found: Sequence[tuple[FloatArray, CleanPace]]) -> "_Belief":
        """After some phrases were heard: what each asks, and what is clean there (Bishop 2006, eqs. 3.50, 3.51)."""
        precision = np.linalg.inv(self.covariance)
        weighed = precision @ self.mean
        for asks, clean in found:
            sureness = 1.0 / (clean.spread**2 + PHRASE_SPREAD**2)
            precision = precision + sureness * np.outer(asks, asks)
            weighed = weighed + sureness * clean.log_pace * asks
        covariance = np.linalg.inv(precision)
        return _Belief(covariance @ weighed, covariance)

    def level(self, phrases: int) -> Level:
        """The level whose rate is nearest; the middle one until two phrases were played."""
        if phrases < 2:
            return Level.INTERMEDIATE
        rate = float(self.mean[0]) + np.log(REFERENCE_RATE)
        return min(RATES, key=lambda level: abs(np.log(RATES[level]) - rate))


def _filtered(tried: Sequence[Tried], expected: CleanPace) -> CleanPace:
    """What is clean after some passes, day after day."""
    for at, (_, played) in enumerate(groupby(tried, _day)):
        spread = float(np.hypot(expected.spread, DAY_SPREAD)) if at else expected.spread
        expected = clean_pace(_passes(list(played))[-RECENT:], expected=expected.pace, spread=spread)
    return expected


def _estimated(passes: Sequence[Pass], clean: CleanPace, paces: Sequence[float], new_at_most: float) -> PaceEstimate:
    """Hold an estimate to the marks, and find the rung to practise next. new_at_most: where nothing was marked yet."""
    held, recent = held_clean(passes), passes[-RECENT:]
    now, low, high = clean.pace, clean.low, clean.high
    if held is not None:
        # nobody is asked for more than the recorded tempo
        above = min((pace for pace in paces if held + SAME_PACE < pace <= 1.0 + SAME_PACE), default=held)
        now = float(np.clip(now, held, above))
        is_sure = [played.result for played in recent if played.pace <= held + SAME_PACE][-CLEAN_IN_A_ROW:] == SURE
        low = max(low, held) if is_sure else low
        wanted = min(max(next_pace(passes, paces), nearest(paces, held)), above)
        if not is_sure and wanted > float(np.exp(clean.log_pace + SUPPORTED * clean.spread)):
            wanted = nearest(paces, held)  # a run of clean ones is tried a rung up all the same
    elif passes:
        amiss = min(played.pace for played in recent if played.result is not Result.CLEAN)
        now = float(np.clip(now, LEAST_PACE, max(LEAST_PACE, amiss - 0.01)))
        wanted = min(next_pace(passes, paces), nearest(paces, amiss))
    else:
        start = min(now, new_at_most)
        wanted = max((pace for pace in paces if pace <= start + SAME_PACE), default=paces[0])
    return PaceEstimate(now, min(low, now), float(np.clip(high, now, MOST_PACE)), wanted, len(passes), held)


def held_clean(passes: Sequence[Pass]) -> float | None:
    """Return the highest pace that stands marked clean: last played clean, nothing amiss since at it or below, and no
    luck: not more amiss lately at it or below than clean at it or above."""
    held: list[float] = []
    for played in passes:
        held = [pace for pace in held if played.result is Result.CLEAN or pace < played.pace - SAME_PACE]
        held += [played.pace] if played.result is Result.CLEAN else []
    lately = passes[-RECENT:]

    def by_luck(pace: float) -> bool:
        amiss = sum(played.result is not Result.CLEAN and played.pace <= pace + SAME_PACE for played in lately)
        return amiss > sum(played.result is Result.CLEAN and played.pace >= pace - SAME_PACE for played in lately)

    return max((pace for pace in held if not by_luck(pace)), default=None)


def _habit(passes: Iterable[Sequence[Tried]]) -> float:
    """How many passes a clean rung took so far; a mark alone is one pass a rung: that tells of no habit."""
    climbed = []
    for played in passes:
        clean = {one.pace for one in played if one.result is Result.CLEAN}
        climbed += [len(played) / len(clean)] if clean else []
    if not climbed or max(climbed) <= 1:
        return float(ROUNDS)
    return float(np.clip(np.mean(climbed), LEAST_ROUNDS, MOST_ROUNDS))
