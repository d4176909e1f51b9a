"""The tuned neck: where a pitch lives, and which of its places a player would take."""

from notcher.core.neck.costs import COSTS, EQUAL_COST, PlacingCosts
from notcher.core.neck.fretboard import SCALE_LENGTH_MM, Place, fret_position_mm, harmonic_places, places
from notcher.core.neck.moves import (
    alternatives,
    appended,
    copied,
    inserted,
    inserted_at,
    moved,
    moved_with_phrase,
    nearest_place,
    neighbour_place,
    pasted,
    retuned,
    typed_fret,
)
from notcher.core.neck.placing import (
    SCHOOLS,
    Alternative,
    Hindrance,
    Placed,
    PlaceError,
    Reason,
    Sounding,
    place,
    place_score,
)
from notcher.core.neck.strokes import STROKE_SCHOOLS, strokes

__all__ = [
    "COSTS",
    "EQUAL_COST",
    "SCALE_LENGTH_MM",
    "SCHOOLS",
    "STROKE_SCHOOLS",
    "Alternative",
    "Hindrance",
    "Place",
    "PlaceError",
    "Placed",
    "PlacingCosts",
    "Reason",
    "Sounding",
    "alternatives",
    "appended",
    "copied",
    "fret_position_mm",
    "harmonic_places",
    "inserted",
    "inserted_at",
    "moved",
    "moved_with_phrase",
    "nearest_place",
    "neighbour_place",
    "pasted",
    "place",
    "place_score",
    "places",
    "retuned",
    "strokes",
    "typed_fret",
]
