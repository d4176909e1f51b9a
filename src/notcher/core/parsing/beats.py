"""An even beat as it is typed."""

from notcher.core.errors import NotcherError
from notcher.core.score import BeatMap, meter_from_text
from notcher.core.score.beat_map import TEMPO_RANGE


class BeatError(NotcherError):
    """A beat that nobody can read."""

    def __init__(self, text: str) -> None:
        low, high = TEMPO_RANGE
        super().__init__(
            f"“{text}” is no beat.",
            f"Write the meter, the felt beats a minute ({low:.0f} to {high:.0f}) and, if any, the lead-in in quarters, "
            "shorter than a bar: 6/8 60 0.5.",
        )


def beat_map_from_text(text: str) -> BeatMap:
    """Read an even beat as it is said: "6/8 60", "5/4 120 2" with a pickup of two quarters; the pickup begins at 0 s.

    Raises: BeatError that says how to write one.
    """
    words = text.replace(",", " ").split()
    try:
        meter, tempo_bpm = meter_from_text(words[0]), float(words[1])
        pickup = float(words[2]) if len(words) > 2 else 0.0
        if len(words) > 3:
            raise BeatError(text)
        first_beat_s = 60.0 / tempo_bpm * pickup / meter.beat_quarters
        return BeatMap.steady(tempo_bpm, first_beat_s, meter, pickup=pickup)
    except (ValueError, IndexError, ZeroDivisionError) as problem:
        raise BeatError(text) from problem
