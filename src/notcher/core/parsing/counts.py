"""A count as it is typed."""

from notcher.core.errors import NotcherError
from notcher.core.score import Meter
from notcher.core.score.rhythm import grids_of
from notcher.core.words.counts import COMPOUND, SIMPLE


class CountError(NotcherError):
    """A count that nobody can read."""

    def __init__(self, text: str, meter: Meter) -> None:
        names = COMPOUND if meter.compound else SIMPLE
        parts = sorted({word for grid in grids_of(meter) for word in names[grid.name] if word.isalpha() or word == "&"})
        super().__init__(
            f"“{text}” is no count in {meter}.",
            f"Write a beat from 1 to {meter.felt}, and after it, if any, one of {', '.join(parts)}: 2 &.",
        )


def count_from_text(text: str, meter: Meter) -> tuple[int, int, str]:
    """Read a count as it is said: "2", "2 &", "3 trip", "4 a".

    Returns: the beat from 1, the part of it in `rhythm.DIVISIONS`, the name of the plainest grid that has it.
    Raises: CountError that says how to write one.
    """
    words = text.replace("+", "&").replace("and", "&").split()
    if not words or len(words) > 2 or not words[0].isdecimal() or not 1 <= int(words[0]) <= meter.felt:
        raise CountError(text, meter)
    beat, sentence = int(words[0]), words[1] if len(words) > 1 else ""
    names = COMPOUND if meter.compound else SIMPLE
    for grid in grids_of(meter):
        if sentence in names[grid.name]:
            return beat, grid.parts[names[grid.name].index(sentence)], grid.name
    raise CountError(text, meter)
