"""How long, how late and how many: what a score may hold, one table for models, window, imports and file schemas.

A model refuses what lies beyond, so that whatever can be made can also be saved and read again.
"""

LAST_S = 3_600.0
"""Seconds: the longest recording, and the latest time of anything in it."""
LAST_QUARTER = 1e6
"""From quarter 0, either way."""
MOST_BARS = 100_000
"""An hour of bars of a twenty-eighth of a second."""
NAME_CHARS, CHORD_CHARS, REMARK_CHARS = 1_000, 100, 10_000
"""Characters: of a title, a name or a fact; of a chord symbol; of a remark."""
MOST_NOTES, MOST_EXCLUDED, MOST_ANCHORS = 100_000, 100_000, 100_000
MOST_PARTS = 10_000
"""Of chords, phrases, sections, variants, changes of meter, and swung stretches, each."""
MOST_POINTS = 10_000
"""Of a pitch curve."""


def check_text(text: str, most: int, what: str) -> None:
    """Raises: ValueError for a text that is too long or holds half a character, which no file can hold."""
    if len(text) > most:
        raise ValueError(f"{what} may be {most:,} characters long at most; this one has {len(text):,}")
    if not text.isascii() and any("\ud800" <= letter <= "\udfff" for letter in text):
        raise ValueError(f"{what} holds half a character; type it again")


def check_count(things: tuple[object, ...], most: int, what: str) -> None:
    """Raises: ValueError for more than a solo can have."""
    if len(things) > most:
        raise ValueError(f"a solo has {most:,} {what} at most; this one would have {len(things):,}")


def fitting(text: str, most: int) -> str:
    """Return a text cut to what a model takes, with an ellipsis where it was longer; half a character becomes "?"."""
    whole = text if text.isascii() else text.encode("utf-8", "replace").decode("utf-8")
    return whole if len(whole) <= most else whole[: most - 1] + "…"
