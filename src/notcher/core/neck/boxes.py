"""The boxes of a scale: where its notes lie under a hand that stays, and what it costs to play beside them.

Instructors think in boxes (common practice, no source): five-note scales lie two notes to a string, from each of their
notes on the lowest string up (five boxes); scales of more notes lie three to a string (seven). The blue note of a blues
scale lies inside the boxes of its five notes.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np

from notcher.core.arrays import FloatArray
from notcher.core.neck.costs import COSTS
from notcher.core.score import LAST_FRET, Note, Tuning
from notcher.core.theory import LikelyScale

LIKELY = 3  # of the ranked scales so many lay their boxes under a solo
BLUE_STEP = 6  # the flat fifth, semitones
HOME_SCALE = "minor pentatonic"
HANDS = LAST_FRET + 1


@dataclass(frozen=True, slots=True)
class ScaleBox:
    """One position of a scale. frets: of each string, from string 1, the lowest and the highest fret."""

    frets: tuple[tuple[int, int], ...]
    number: int = 1  # by the step of the scale that it begins with on the lowest string, 1 its root

    @property
    def hand(self) -> int:
        """The fret under the first finger."""
        return min(low for low, _ in self.frets)


def boxes(scale: LikelyScale, tuning: Tuning) -> list[ScaleBox]:
    """Return a scale's boxes on a tuned neck, from the nut up; those that the neck has no room for are left out."""
    core = {pitch for pitch in scale.pitch_classes if not _is_blue(scale, pitch)}
    to_a_string = 2 if len(core) <= 5 else 3
    opens = [round(midi) for midi in tuning.open_midi]
    scale_boxes = []
    for first in range(opens[-1] + tuning.capo, opens[-1] + LAST_FRET):
        if first % 12 not in core:
            continue
        line = [midi for midi in range(first, first + 12 * len(opens)) if midi % 12 in core]
        by_string = [line[to_a_string * k : to_a_string * (k + 1)] for k in range(len(opens))]
        frets = tuple((notes[0] - low, notes[-1] - low) for notes, low in zip(reversed(by_string), opens, strict=True))
        if all(tuning.capo <= low and high <= LAST_FRET for low, high in frets):
            steps = sorted((pitch - scale.tonic) % 12 for pitch in core)
            scale_boxes.append(ScaleBox(frets, 1 + steps.index((first - scale.tonic) % 12)))
    return scale_boxes


def box_of(notes: Sequence[Note], scale: LikelyScale, tuning: Tuning) -> ScaleBox | None:
    """Return the box in which most of some notes' time is spent, the lowest of equal ones; None where none holds half.

    A box is also played an octave higher on the neck, where it has the same number.
    """
    fretted = [(note.string - 1, note.fret, note.duration_s) for note in notes if note.fret > tuning.capo]
    whole_s = sum(length_s for _, _, length_s in fretted)

    def held_s(box: ScaleBox) -> float:
        return sum(length_s for at, fret, length_s in fretted if box.frets[at][0] <= fret <= box.frets[at][1])

    best = max(boxes(scale, tuning), key=lambda box: (round(held_s(box), 6), -box.hand), default=None)
    return best if best is not None and whole_s > 0 and held_s(best) >= 0.5 * whole_s else None


def _is_blue(scale: LikelyScale, pitch: int) -> bool:
    return scale.scale == "blues" and (pitch - scale.tonic) % 12 == BLUE_STEP


def box_costs(scales: Sequence[LikelyScale], tuning: Tuning) -> FloatArray:
    """Return what a note on a place costs beside the boxes of the likeliest scales, by string, fret and hand.

    Returns: shape (n_strings, LAST_FRET + 1, HANDS), 0 inside a box under a hand that sits there.
    """
    total, weight = np.zeros((tuning.strings, LAST_FRET + 1, HANDS)), 0.0
    for scale in scales[:LIKELY]:
        beside = _beside_all(replace(scale, weight=1.0), tuning)
        if beside is not None:
            total += scale.weight * beside
            weight += scale.weight
    return total / weight if weight else total


@lru_cache(maxsize=64)
def _beside_all(scale: LikelyScale, tuning: Tuning) -> FloatArray | None:
    """What each string, fret and hand costs beside the nearest box of a scale; None where the neck has no box of it."""
    costs = [_beside(box, scale, tuning) for box in boxes(scale, tuning)]
    return np.minimum.reduce(costs) if costs else None


def _beside(box: ScaleBox, scale: LikelyScale, tuning: Tuning) -> FloatArray:
    """What each string, fret and hand costs beside one box. A passing note outside the scale has no place in it."""
    low, high = np.array(box.frets).T[:, :, None, None]
    fret, hand = np.arange(LAST_FRET + 1)[None, :, None], np.arange(HANDS)[None, None, :]
    off = np.maximum(box.hand - hand, 0) + np.maximum(hand - low, 0)
    opens = np.rint(np.array(tuning.open_midi)).astype(np.int64)[:, None, None]
    of_scale = np.isin((opens + fret) % 12, list(scale.pitch_classes))
    outside = of_scale & ((fret < low) | (fret > high))
    return np.asarray(COSTS.beside_box * np.minimum(off, COSTS.box_reach) + COSTS.out_of_box * outside)


def home_frets(scales: Sequence[LikelyScale], tuning: Tuning) -> tuple[int, ...]:
    """Return where the first finger sits in the first box of the likeliest minor pentatonic, and an octave up.

    Common practice (no source): a lead leans on the box whose lowest note is that root on the lowest string.
    """
    minor_five = next((scale for scale in scales if scale.scale == HOME_SCALE), None)
    if minor_five is None:
        return ()
    fret = round(minor_five.tonic - tuning.open_midi[-1]) % 12
    return tuple(at for at in (fret, fret + 12) if 1 <= at <= 17)
