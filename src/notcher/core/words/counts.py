"""How a written onset is counted aloud."""

from notcher.core.score.rhythm import DIVISIONS, WrittenTime

COUNTED = {
    "whole": ("",),
    "halves": ("", "&"),
    "swing": ("", "&"),
    "fourths": ("", "e", "&", "a"),
    "thirds": ("", "trip", "let"),
    "sixths": ("", "ta", "trip", "ta", "let", "ta"),
    "fifths": ("", "·2", "·3", "·4", "·5"),
    "eighths": ("", "·", "e", "·", "&", "·", "a", "·"),
}
"""What is said on each part of a beat, by the name of its grid (common practice, no source)."""


def count_word(time: WrittenTime, *, beats_per_bar: int) -> str:
    """Return how a written onset is counted: the beat's number on it, else "e", "&", "a", "trip", "let", "·2" …"""
    beat, part = divmod(time.onset, DIVISIONS)
    if part == 0:
        return str(beat % beats_per_bar + 1)
    return dict(zip(time.grid.parts, COUNTED[time.grid.name], strict=True)).get(part, ".")
