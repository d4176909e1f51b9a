"""What is struck together and what sounds together: one notion for names, places, strokes, rhythm and files."""

TOGETHER_S = 0.03
"""Onsets closer than this are one stroke over several strings (common practice, no source: a strum's string to string
is some 10 ms)."""
HELD_TOGETHER_S = 0.06
"""Two strings are heard together when both sound for at least ten analysis frames of 5.8 ms."""


def struck_together(first_s: float, second_s: float) -> bool:
    """Whether two onsets, in seconds, are one stroke."""
    return abs(second_s - first_s) <= TOGETHER_S


def held_together(overlap_s: float) -> bool:
    """Whether two notes that both sound for so long, in seconds, are heard together."""
    return overlap_s > HELD_TOGETHER_S
