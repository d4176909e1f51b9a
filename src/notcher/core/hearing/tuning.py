"""Which tuning, and how far from concert pitch: proposals with their evidence, never a silent choice."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from notcher.core.arrays import FloatArray
from notcher.core.neck import harmonic_places
from notcher.core.score import TUNINGS, Tuning
from notcher.core.theory import LikelyScale

USUAL = {"standard": 0.6, "half-down": 0.2, "drop-d": 0.12, "whole-down": 0.08}
"""How often solos are played in each tuning before anything is heard (common practice, no source)."""
OPEN_SHARE = 1.6  # how much likelier an open string's pitch is than its neighbours among the low notes
MISHEARD_HARMONIC = 0.15  # a harmonic that no open string has: the chance that it was a plain note
SURE_OF_TUNING = 0.9  # what is less likely is a guess, and said to be one: the usual one, with one ruled out, is 0.75
OPEN_IN_SCALE = 1.3
"""How much likelier a tuning is for each open string in the solo's scale: open-handed (common practice, no source)."""
MISHEARD = 0.02  # a note below the neck: the chance that it was misheard


@dataclass(frozen=True, slots=True)
class TuningEvidence:
    """What speaks for a tuning or against it.

    lowest_midi: the lowest note heard, None when there was none. below: how many lie under the lowest open string.
    open_strings: notes that could be open strings. harmonics, touchable: natural harmonics heard, and how many of them
    its open strings have.
    """

    lowest_midi: float | None = None
    below: int = 0
    open_strings: int = 0
    harmonics: int = 0
    touchable: int = 0


@dataclass(frozen=True, slots=True)
class TuningProposal:
    """A tuning, how likely it is (0..1), and why."""

    name: str
    tuning: Tuning
    likelihood: float
    evidence: TuningEvidence


def offset_cents(midi: FloatArray, weights: FloatArray) -> float:
    """Return how far the notes lie from A = 440 Hz equal temperament, in cents, -50..50.

    midi: shape (n,), semitones, of steady unbent pitch. weights: shape (n,), how much each counts.
    The median around the circular mean over a semitone (N. Fisher, "Statistical Analysis of Circular Data", 1993,
    eqs. 2.9 and 2.32).
    """
    if midi.size == 0 or weights.sum() <= 0:
        return 0.0
    mean = float(np.angle(np.sum(weights * np.exp(2j * np.pi * midi)))) / (2 * np.pi)
    # notes that were bent after all pull a mean: the weighted median around it stays
    around = (midi - mean + 0.5) % 1.0 - 0.5
    order = np.argsort(around)
    total = np.cumsum(weights[order])
    at = [np.searchsorted(total, total[-1] / 2, side=side) for side in ("left", "right")]
    middle = float(np.mean(around[order][np.minimum(at, midi.size - 1)]))
    return ((mean + middle + 0.5) % 1.0 - 0.5) * 100


def propose_tunings(
    fretted_midi: Sequence[float],
    offset: float,
    *,
    harmonics: Sequence[float] = (),
    scales: Sequence[LikelyScale] = (),
) -> tuple[TuningProposal, ...]:
    """Rank the known tunings by the notes heard, likeliest first.

    fretted_midi: whole semitones of each note heard. offset: cents, put into every proposal. harmonics: sounding
    pitches of the natural harmonics among them, semitones. scales: the solo's, ranked.
    """
    notes = np.asarray(fretted_midi, dtype=np.float64)
    scores = {
        name: np.log(USUAL[name]) + _fit(notes, tuning) + _fit_harmonics(harmonics, tuning) + _fit_scale(scales, tuning)
        for name, tuning in TUNINGS.items()
    }
    top = max(scores.values())
    total = sum(np.exp(score - top) for score in scores.values())
    ranked = sorted(scores, key=lambda name: -scores[name])
    return tuple(
        TuningProposal(
            name,
            replace(TUNINGS[name], offset_cents=round(offset, 1)),
            float(np.exp(scores[name] - top) / total),
            _evidence(notes, harmonics, TUNINGS[name]),
        )
        for name in ranked
    )


def _fit(notes: FloatArray, tuning: Tuning) -> float:
    if notes.size == 0:
        return 0.0
    below = int(np.sum(notes < min(tuning.open_midi)))
    low = notes[notes <= min(tuning.open_midi) + 12]  # up the neck every pitch is fretted: it says nothing
    opens = int(np.isin(low, tuning.open_midi).sum())
    return below * float(np.log(MISHEARD)) + opens * float(np.log(OPEN_SHARE))


def _touchable(harmonics: Sequence[float], tuning: Tuning) -> int:
    """How many natural harmonics an open string of this tuning has."""
    return sum(bool(harmonic_places(midi, tuning)) for midi in harmonics)


def _fit_harmonics(harmonics: Sequence[float], tuning: Tuning) -> float:
    return (len(harmonics) - _touchable(harmonics, tuning)) * float(np.log(MISHEARD_HARMONIC))


def _fit_scale(scales: Sequence[LikelyScale], tuning: Tuning) -> float:
    """How open-handed a solo's scale lies: by the open strings that belong to it."""
    opens = [round(midi) % 12 for midi in tuning.open_midi]
    inside = sum(scale.weight * sum(pitch in scale.pitch_classes for pitch in opens) for scale in scales)
    return inside * float(np.log(OPEN_IN_SCALE))


def _evidence(notes: FloatArray, harmonics: Sequence[float], tuning: Tuning) -> TuningEvidence:
    if notes.size == 0:
        return TuningEvidence(harmonics=len(harmonics), touchable=_touchable(harmonics, tuning))
    return TuningEvidence(
        float(notes.min()),
        int(np.sum(notes < min(tuning.open_midi))),
        int(np.isin(notes, tuning.open_midi).sum()),
        len(harmonics),
        _touchable(harmonics, tuning),
    )
