"""One hand on the neck: which fingers reach which frets from where it sits, and how far that stretches them."""

from collections.abc import Sequence
from itertools import product

import numpy as np

from notcher.core.arrays import FloatArray, IntArray
from notcher.core.neck.costs import COSTS
from notcher.core.neck.fretboard import fret_position_mm
from notcher.core.score import Note

POSITIONS = np.array([fret_position_mm(fret) for fret in range(40)])
"""Distance of each fret from the nut on the usual scale, millimetres."""
USUAL_GAP_MM = float(POSITIONS[6] - POSITIONS[5])
EASY_MM = (0.0, 0.0, 40.0, 70.0, 98.0)
"""How far each finger lies from the first without a stretch, by finger (common practice, no source)."""
FINGERS_AT: dict[int, tuple[int, ...]] = {0: (1,), 1: (2, 3), 2: (3, 2, 4), 3: (4, 3), 4: (4,)}
"""Frets above the first finger's, and the fingers that take them, the usual one first."""
LAST_HAND = 22  # two fingers still fit above it
WINDOW = 4  # frets


def reach_cost(hand: IntArray, fret: IntArray, finger: IntArray) -> FloatArray:
    """What a finger's stretch costs; arrays of one shape. hand: fret under the first finger."""
    span_mm = POSITIONS[fret] - POSITIONS[np.maximum(hand, 0)]
    over = np.maximum(span_mm - np.array(EASY_MM)[finger], 0.0)
    return np.asarray(COSTS.over_mm * over + np.where(finger > fret - hand + 1, COSTS.bunched, 0.0))


def over_easy_mm(hand: int, fret: int, finger: int) -> float:
    """Return how far a finger stretches beyond its easy reach, millimetres; 0 for an open string."""
    if finger == 0:
        return 0.0
    return max(0.0, float(POSITIONS[fret] - POSITIONS[max(hand, 0)]) - EASY_MM[finger])


def grips(frets: tuple[int, ...], *, capo: int = 0) -> list[tuple[int, tuple[int, ...]]]:
    """Return every way one hand can hold frets at once: where it sits, and each note's finger (0 for an open string).

    frets: one a note, in any order; notes on one fret may share a finger, laid flat over the strings.
    """
    fretted = sorted({fret for fret in frets if fret > capo})
    if not fretted:
        return [(hand, (0,) * len(frets)) for hand in range(capo + 1, LAST_HAND)]
    result = []
    for hand in range(max(capo + 1, fretted[-1] - 4), fretted[0] + 1):
        for fingers in product(*(FINGERS_AT[fret - hand] for fret in fretted)):
            if list(fingers) == sorted(set(fingers)):  # a higher fret wants a later finger
                by_fret = dict(zip(fretted, fingers, strict=True))
                result.append((hand, tuple(by_fret.get(fret, 0) for fret in frets)))
    return result


def position_fret(notes: Sequence[Note]) -> int:
    """Return the fret under the first finger for most of some notes' time; 1 where all are open or there are none.

    A position is a window of four frets, one finger each (common practice, no source); of windows that hold as much the
    one that the lowest fretted note begins.
    """
    fretted = [(note.fret, note.duration_s) for note in notes if note.fret > 0]
    if not fretted:
        return 1

    def held_s(low: int) -> float:
        return sum(length_s for fret, length_s in fretted if low <= fret < low + WINDOW)

    return max(sorted({fret for fret, _ in fretted}), key=lambda low: (round(held_s(low), 6), -low))
