"""How a written onset is counted aloud."""

from notcher.core.errors import NotcherError
from notcher.core.score import BeatMap, Meter, meter_from_text
from notcher.core.score.beat_map import TEMPO_RANGE
from notcher.core.score.rhythm import WrittenTime, grids_of

SIMPLE = {
    "whole": ("",),
    "halves": ("", "&"),
    "swing": ("", "&"),
    "fourths": ("", "e", "&", "a"),
    "thirds": ("", "trip", "let"),
    "thirds from the half": ("ta", "&", "ta"),
    "sixths": ("", "ta", "trip", "ta", "let", "ta"),
    "fifths": ("", "·2", "·3", "·4", "·5"),
    "sevenths": ("", "·2", "·3", "·4", "·5", "·6", "·7"),
    "eighths": ("", "·", "e", "·", "&", "·", "a", "·"),
}
"""What is said on each part of a beat, by the name of its grid (common practice, no source)."""
COMPOUND = {
    "whole": ("",),
    "halves": ("", "·2"),
    "fourths": ("", "·2", "·3", "·4"),
    "thirds": ("", "&", "a"),
    "sixths": ("", "ta", "&", "ta", "a", "ta"),
    "twelfths": ("", "·", "ta", "·", "&", "·", "ta", "·", "a", "·", "ta", "·"),
    "fifths": ("", "·2", "·3", "·4", "·5"),
    "sevenths": ("", "·2", "·3", "·4", "·5", "·6", "·7"),
}
"""The same where a beat is felt in three parts, as in 6/8 (common practice, no source)."""


def count_word(time: WrittenTime) -> str:
    """Return how a written onset is counted: the beat's number on it, else "e", "&", "a", "trip", "let", "·2" …"""
    if time.part == 0:
        return str(time.beat)
    said = (COMPOUND if time.compound else SIMPLE)[time.grid.name]
    return dict(zip(time.grid.parts, said, strict=True)).get(time.part, ".")


def bar_words(first: int, last: int | None = None) -> str:
    """Say bars: "bar 3", "bars 3 to 7", "pickup to bar 2": what lies before bar 1 has no number."""
    if last is None or last == first or last < 1:
        return f"bar {first}" if first > 0 else "pickup"
    return f"bars {first} to {last}" if first > 0 else f"pickup to bar {last}"


def count_from_text(text: str, meter: Meter) -> tuple[int, int, str]:
    """Read a count as it is said: "2", "2 &", "3 trip", "4 a".

    Returns: the beat from 1, the part of it in `rhythm.DIVISIONS`, the name of the plainest grid that has it.
    Raises: CountError that says how to write one.
    """
    words = text.replace("+", "&").replace("and", "&").split()
    if not words or len(words) > 2 or not words[0].isdecimal() or not 1 <= int(words[0]) <= meter.felt:
        raise CountError(text, meter)
    beat, said = int(words[0]), words[1] if len(words) > 1 else ""
    names = COMPOUND if meter.compound else SIMPLE
    for grid in grids_of(meter):
        if said in names[grid.name]:
            return beat, grid.parts[names[grid.name].index(said)], grid.name
    raise CountError(text, meter)


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


class BeatError(NotcherError):
    """A beat that nobody can read."""

    def __init__(self, text: str) -> None:
        low, high = TEMPO_RANGE
        super().__init__(
            f"“{text}” is no beat.",
            f"Write the meter, the felt beats a minute ({low:.0f} to {high:.0f}) and, if any, the pickup in quarters, "
            "shorter than a bar: 6/8 60 0.5.",
        )


class CountError(NotcherError):
    """A count that nobody can read."""

    def __init__(self, text: str, meter: Meter) -> None:
        names = COMPOUND if meter.compound else SIMPLE
        parts = sorted({word for grid in grids_of(meter) for word in names[grid.name] if word.isalpha() or word == "&"})
        super().__init__(
            f"“{text}” is no count in {meter}.",
            f"Write a beat from 1 to {meter.felt}, and after it, if any, one of {', '.join(parts)}: 2 &.",
        )
