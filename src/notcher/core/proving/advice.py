"""What to tell a student of a take: the things worth saying, weightiest first, as values; `words` says them."""

from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from notcher.core.proving.flow import Drift
from notcher.core.proving.landings import landings
from notcher.core.proving.practice import Result
from notcher.core.proving.take import PhraseReport, Played, Thresholds
from notcher.core.score import Score

BIAS_MS, WIDE_MS = 15.0, 25.0
"""Onsets closer to the beat, and less scattered, than this are heard as together (common practice, no source)."""
LANDED_CENTS = 15.0
"""Listeners accept a bend within 10 to 15 cents (common practice, no source)."""
NARROW_SHARE, UNEVEN = 0.65, 0.12  # of the recording's width; spread of the swings' length over their mean
SWINGS = 3.0  # of a vibrato: shorter cannot be told from none
SLOWEST_PACE = 0.3  # slower is not practised


class Matter(StrEnum):
    """What is to be said; behind each what `Advice.amount` holds."""

    NOTHING_HEARD = "nothing heard"
    MISSING = "missing"  # the pace to practise it at
    WRONG = "wrong"
    EXTRA = "extra"  # how many
    BEND = "bend"  # how far the farthest lands from its size, cents, flat negative
    BENDS = "bends"  # how far they land on the whole where none alone is far off, cents
    DRIFT = "drift"  # change of tempo, -0.1 is slower
    BIAS = "bias"  # milliseconds behind the beat
    SCATTER = "scatter"  # milliseconds
    HELD = "held off pitch"  # cents, flat negative
    HESITATION = "hesitation"  # milliseconds late in one place, early negative
    NO_VIBRATO = "no vibrato"
    ADDED_VIBRATO = "vibrato that is not written"
    NARROW_VIBRATO = "narrow vibrato"  # share of the recording's width
    UNEVEN_VIBRATO = "uneven vibrato"  # spread over mean
    CLEAN = "clean"


@dataclass(frozen=True, slots=True)
class Advice:
    """One thing to tell. amount: in the unit of its matter. notes: which it is about. drift: where, for DRIFT."""

    matter: Matter
    amount: float = 0.0
    notes: tuple[Played, ...] = ()
    drift: Drift | None = None


MOST_TOLD = 3
"""A student keeps so much of what is said after a take in mind (common practice, no source)."""


def advice(
    phrase_report: PhraseReport, score: Score, *, pace: float, thresholds: Thresholds | None = None,
    most: int = MOST_TOLD,
) -> tuple[Advice, ...]:  # fmt: skip
    """Return what to tell the student of one phrase: so many things at most, the most useful first; else praise."""
    advices = [
        *_of_notes(phrase_report, pace),
        *_of_bends(phrase_report, thresholds or Thresholds()),
        *_of_held(phrase_report, thresholds or Thresholds()),
        *_of_time(phrase_report, thresholds or Thresholds()),
        *_of_vibrato(phrase_report, score),
    ]
    count = max(1, len(phrase_report.notes))
    advices.sort(key=lambda found: -_weight(found, count))  # stable: notes before bends before time before vibrato
    return tuple(advices[:most]) or (Advice(Matter.CLEAN),)


WHOLE = {
    Matter.MISSING: 0.12, Matter.WRONG: 0.12, Matter.EXTRA: 0.2,  # shares of the notes
    Matter.BEND: 40.0, Matter.BENDS: 40.0, Matter.HELD: 40.0, Matter.DRIFT: 0.06, Matter.BIAS: 60.0,
    Matter.HESITATION: 60.0, Matter.SCATTER: 50.0,
}  # fmt: skip
"""How much of each is as useful to say: about where it disturbs a listener (common practice, no source)."""
OF_VIBRATO = 0.6  # how the ornament is played comes after the notes and their time


def _weight(advice: Advice, count: int) -> float:
    """How useful it is to say, 1 where it disturbs. count: notes of the phrase."""
    if advice.matter is Matter.NOTHING_HEARD:
        return float("inf")
    if advice.matter in (Matter.MISSING, Matter.WRONG):
        return len(advice.notes) / count / WHOLE[advice.matter]
    if advice.matter is Matter.EXTRA:
        return advice.amount / count / WHOLE[advice.matter]
    return abs(advice.amount) / WHOLE[advice.matter] if advice.matter in WHOLE else OF_VIBRATO


def _of_notes(phrase_report: PhraseReport, pace: float) -> list[Advice]:
    missed, wrong, extra = phrase_report.missed, phrase_report.wrong, phrase_report.extra
    if phrase_report.verdict is Result.MISSED and len(missed) == len(phrase_report.notes):
        return [Advice(Matter.NOTHING_HEARD)]
    advices = [Advice(Matter.MISSING, max(SLOWEST_PACE, round(pace - 0.1, 2)), missed)] if missed else []
    if wrong:
        advices.append(Advice(Matter.WRONG, notes=wrong))
    if extra:
        advices.append(Advice(Matter.EXTRA, float(len(extra))))
    return advices


def _of_bends(phrase_report: PhraseReport, limits: Thresholds) -> list[Advice]:
    """Each bend that is far off, told with the others of its size that are off the same way; else the trend."""
    advices = []
    for size, cents in landings(phrase_report.bends).items():
        mine = [bend for bend in phrase_report.bends if abs(bend.bend) == size]
        for sign in (-1, 1):
            off = [bend for bend in mine if sign * (bend.landed_cents or 0.0) > limits.bend_cents]
            if off:
                off.sort(key=lambda bend: -abs(bend.landed_cents or 0.0))
                advices.append(Advice(Matter.BEND, off[0].landed_cents or 0.0, tuple(off)))
        middle = float(np.median(cents))
        far = any(advice.matter is Matter.BEND and abs(advice.notes[0].bend) == size for advice in advices)
        if abs(middle) > LANDED_CENTS and not far:
            advices.append(Advice(Matter.BENDS, middle, tuple(mine)))
    return advices


def _of_held(phrase_report: PhraseReport, limits: Thresholds) -> list[Advice]:
    off = [played for played in phrase_report.notes if abs(played.held_cents or 0.0) > limits.bend_cents]
    off.sort(key=lambda played: -abs(played.held_cents or 0.0))
    return [Advice(Matter.HELD, off[0].held_cents or 0.0, tuple(off))] if off else []


def _of_time(phrase_report: PhraseReport, limits: Thresholds) -> list[Advice]:
    advices = [Advice(Matter.DRIFT, drift.change, drift=drift) for drift in phrase_report.drifts[:1]]
    bias, spread = phrase_report.bias_ms, phrase_report.spread_ms
    if bias is not None and abs(bias) > BIAS_MS and not phrase_report.drifts:
        advices.append(Advice(Matter.BIAS, bias))
    late = [played for played in phrase_report.notes if played.hesitates_ms is not None]
    late.sort(key=lambda played: -abs(played.hesitates_ms or 0.0))
    if late:
        advices.append(Advice(Matter.HESITATION, late[0].hesitates_ms or 0.0, tuple(late)))
    if spread is not None and spread > min(WIDE_MS, limits.spread_ms):
        advices.append(Advice(Matter.SCATTER, spread))
    return advices


def _of_vibrato(phrase_report: PhraseReport, score: Score) -> list[Advice]:
    advices = []
    due = [
        (played, wave)
        for played in phrase_report.notes
        if played.right and (wave := score.notes[played.index].vibrato) is not None
    ]
    still = tuple(
        played for played, wave in due
        if played.wave is None and played.wave_uneven is None
        and score.notes[played.index].duration_s - wave.from_s >= SWINGS / wave.rate_hz
    )  # fmt: skip
    if still:
        advices.append(Advice(Matter.NO_VIBRATO, notes=still))
    added = tuple(played for played in phrase_report.notes if played.added_wave is not None)
    if added:
        advices.append(Advice(Matter.ADDED_VIBRATO, notes=added))
    shares = [played.wave.extent_cents / wave.extent_cents for played, wave in due if played.wave is not None]
    if shares and float(np.median(shares)) < NARROW_SHARE:
        advices.append(Advice(Matter.NARROW_VIBRATO, float(np.median(shares))))
    uneven = [played.wave_uneven for played, _ in due if played.wave_uneven is not None]
    if uneven and float(np.median(uneven)) > UNEVEN:
        advices.append(Advice(Matter.UNEVEN_VIBRATO, float(np.median(uneven))))
    return advices
