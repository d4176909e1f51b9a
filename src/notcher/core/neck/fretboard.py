"""The neck's geometry."""

import math
from typing import NamedTuple

from notcher.core.score import HARMONIC_PARTIALS, LAST_FRET, Tuning

SCALE_LENGTH_MM = 648.0  # 25.5 inches


class Place(NamedTuple):
    """Where a finger goes: string 1 is the highest, fret 0 is open."""

    string: int
    fret: int


def places(midi: float, tuning: Tuning, *, last_fret: int = LAST_FRET) -> tuple[Place, ...]:
    """Return every place where a pitch lives, highest string first; rounded to the nearest semitone."""
    result = []
    for string, open_midi in enumerate(tuning.open_midi, start=1):
        fret = round(midi - open_midi)
        if tuning.capo <= fret <= last_fret:
            result.append(Place(string, fret))
    return tuple(result)


def reached_place(midi: float, tuning: Tuning) -> Place:
    """Return the lowest fret of a pitch, or, where the neck has none, of the pitch next to it that it has."""
    return min(
        (Place(string, min(max(round(midi - open_midi), tuning.capo), LAST_FRET))
         for string, open_midi in enumerate(tuning.open_midi, start=1)),
        key=lambda place: (abs(tuning.midi(place.string, place.fret) - midi), place.fret),
    )  # fmt: skip


HEARD_PARTIAL = 6
"""Higher ones are hardly heard for sure; who plays them writes them."""


def harmonic_places(sounding_midi: float, tuning: Tuning) -> tuple[Place, ...]:
    """Return where a natural harmonic of a pitch is touched, highest string first, the low partials' frets first.

    The fifth partial lies 14 cents below its fret's semitone, so half a semitone is allowed.
    """
    return tuple(
        Place(string, tuning.capo + fret)
        for string, open_midi in enumerate(tuning.open_midi, start=1)
        for fret, partial in HARMONIC_PARTIALS.items()
        if fret <= 12
        and partial <= HEARD_PARTIAL
        and abs(open_midi + tuning.capo + 12 * math.log2(partial) - sounding_midi) < 0.5
    )


def fret_position_mm(fret: float, *, scale_length_mm: float = SCALE_LENGTH_MM) -> float:
    """Return the distance from the nut to a fret, millimetres.

    Source: equal temperament on a string, f ~ 1/length (Mersenne, "Harmonie universelle", 1636): L (1 - 2^(-n/12)).
    """
    return float(scale_length_mm * (1.0 - 2.0 ** (-fret / 12.0)))
