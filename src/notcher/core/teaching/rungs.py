"""Tempo rungs: each phrase is climbed from slow to full pace, and every try leaves a mark."""

from dataclasses import dataclass
from enum import StrEnum

RUNG_PACES = (0.4, 0.5, 0.6, 0.7, 0.8, 0.9, 1.0)
"""Starting speed is often half tempo (common practice, no source); one rung below it for what is too hard."""
START = 0.5


class Result(StrEnum):
    """How a phrase went at a pace."""

    CLEAN = "clean"
    SHAKY = "shaky"
    MISSED = "missed"


@dataclass(frozen=True, slots=True)
class Mark:
    """One cell of the rung board: the phrase that starts at a time, a pace, how it went."""

    phrase_start_s: float
    pace: float
    result: Result


def with_mark(marks: tuple[Mark, ...], phrase_start_s: float, pace: float, result: Result | None) -> tuple[Mark, ...]:
    """Return the marks with one cell set, or cleared by None."""
    kept = tuple(mark for mark in marks if (mark.phrase_start_s, mark.pace) != (phrase_start_s, pace))
    return kept if result is None else (*kept, Mark(phrase_start_s, pace, result))


def next_rung(marks: tuple[Mark, ...], phrase_start_s: float) -> float:
    """Return the pace to practise next: above the fastest clean one, below the slowest that was missed."""
    here = {mark.pace: mark.result for mark in marks if mark.phrase_start_s == phrase_start_s}
    clean = [pace for pace, result in here.items() if result is Result.CLEAN]
    if clean:
        return min((pace for pace in RUNG_PACES if pace > max(clean)), default=RUNG_PACES[-1])
    tried = [pace for pace, result in here.items() if result is Result.MISSED]
    if tried:
        return max((pace for pace in RUNG_PACES if pace < min(tried)), default=RUNG_PACES[0])
    return START
