"""How a written onset is counted aloud."""

from notcher.core.score.rhythm import WrittenTime

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
    texts = (COMPOUND if time.compound else SIMPLE)[time.grid.name]
    return dict(zip(time.grid.parts, texts, strict=True)).get(time.part, ".")


def bar_words(first: int, last: int | None = None) -> str:
    """Say bars: "bar 3", "bars 3 to 7", "pickup to bar 2": what lies before bar 1 has no number."""
    if last is None or last == first or last < 1:
        return f"bar {first}" if first > 0 else "pickup"
    return f"bars {first} to {last}" if first > 0 else f"pickup to bar {last}"
