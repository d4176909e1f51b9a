"""Tempo rungs: each phrase is climbed from slow to full pace, and every try leaves a mark."""

from dataclasses import dataclass

from notcher.core.proving import Mark, Result
from notcher.core.score import Phrase

RUNG_PACES = (0.4, 0.5, 0.6, 0.7, 0.8, 0.9, 1.0)
"""Starting speed is often half tempo (common practice, no source); a rung below it for what is too hard."""
START = 0.5


@dataclass(frozen=True, slots=True)
class BoardRow:
    """What a row of the rung board is learned of: one phrase, or the join of two that follow each other."""

    phrases: tuple[Phrase, ...]

    @property
    def is_join(self) -> bool:
        return len(self.phrases) > 1

    @property
    def ids(self) -> tuple[str, ...]:
        """The ids of its phrases."""
        return tuple(phrase.id for phrase in self.phrases)

    @property
    def start_s(self) -> float:
        return self.phrases[0].start_s

    @property
    def end_s(self) -> float:
        return self.phrases[-1].end_s


def with_mark(marks: tuple[Mark, ...], span: BoardRow | Phrase, pace: float, result: Result | None) -> tuple[Mark, ...]:
    """Return the marks with one cell set, or cleared by None."""
    kept = tuple(mark for mark in marks if not (mark.phrases == _ids(span) and mark.pace == pace))
    return kept if result is None else (*kept, Mark(_ids(span), pace, result))


def results(marks: tuple[Mark, ...], span: BoardRow | Phrase) -> dict[float, Result]:
    """Return how one stretch went at each pace that was tried."""
    return {mark.pace: mark.result for mark in marks if mark.phrases == _ids(span)}


def _ids(span: BoardRow | Phrase) -> tuple[str, ...]:
    return (span.id,) if isinstance(span, Phrase) else span.ids


def next_rung(marks: tuple[Mark, ...], span: BoardRow | Phrase) -> float:
    """Return the pace to practise next: above the fastest clean one, below the slowest that was missed."""
    tried = results(marks, span)
    clean = [pace for pace, result in tried.items() if result is Result.CLEAN]
    if clean:
        return min((pace for pace in RUNG_PACES if pace > max(clean)), default=RUNG_PACES[-1])
    missed = [pace for pace, result in tried.items() if result is Result.MISSED]
    if missed:
        return max((pace for pace in RUNG_PACES if pace < min(missed)), default=RUNG_PACES[0])
    return START


def board_rows(phrases: tuple[Phrase, ...]) -> tuple[BoardRow, ...]:
    """Return what is learned in order: each phrase, and after each but the first its join with the one before."""
    rows: list[BoardRow] = []
    for number, phrase in enumerate(phrases):
        rows.append(BoardRow((phrase,)))
        if number:
            rows.append(BoardRow((phrases[number - 1], phrase)))
    return tuple(rows)
