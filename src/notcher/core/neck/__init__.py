"""The tuned neck: where a pitch lives, and which of its places a player would take."""

from notcher.core.neck.fretboard import SCALE_LENGTH_MM, Place, fret_position_mm, places
from notcher.core.neck.moves import (
    alternatives,
    inserted_at,
    measured_deviation,
    moved,
    neighbour_place,
    nudged,
    retuned,
    typed_fret,
)
from notcher.core.neck.placing import SCHOOLS, Placed, PlaceError, Sounding, place, place_score

__all__ = [
    "SCALE_LENGTH_MM",
    "SCHOOLS",
    "Place",
    "PlaceError",
    "Placed",
    "Sounding",
    "alternatives",
    "fret_position_mm",
    "inserted_at",
    "measured_deviation",
    "moved",
    "neighbour_place",
    "nudged",
    "place",
    "place_score",
    "places",
    "retuned",
    "typed_fret",
]
