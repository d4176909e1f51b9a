"""Tempo rungs: each phrase is climbed from slow to full pace, and every try leaves a mark."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from notcher.core.ledger import LoggedPass
from notcher.core.proving import Mark, Result
from notcher.core.score import Phrase
from notcher.core.teaching.ladder import USUAL_START, Pass, nearest, next_pace

Tried = Mark | LoggedPass
"""One pass through a phrase or a join, with or without when it was."""

RUNG_PACES = (0.4, 0.5, 0.6, 0.7, 0.8, 0.9, 1.0)
"""Starting speed is often half tempo (common practice, no source); a rung below it for what is too hard."""


@dataclass(frozen=True, slots=True)
class BoardRow:
    """What a row of the practice board is learned of: a phrase, a piece of one that is long, or phrases joined.

    piece: first and last note, of a piece. piece_id: what it is called in the record. number: which piece, from 1.
    """

    phrases: tuple[Phrase, ...]
    piece: tuple[int, int] | None = None
    piece_id: str = ""
    number: int = 0
    span_s: tuple[float, float] | None = None

    @property
    def is_join(self) -> bool:
        return len(self.phrases) > 1

    @property
    def ids(self) -> tuple[str, ...]:
        """What passes through it are kept under: the ids of its phrases, or its own as a piece."""
        if self.piece is not None:
            return (self.piece_id,)
        return tuple(phrase.id for phrase in self.phrases)

    @property
    def start_s(self) -> float:
        return self.phrases[0].start_s if self.span_s is None else self.span_s[0]

    @property
    def end_s(self) -> float:
        return self.phrases[-1].end_s if self.span_s is None else self.span_s[1]


def tries_of(tried: Iterable[Tried], span: BoardRow | Phrase) -> list[Pass]:
    """Return the passes through one stretch, in the order they were played."""
    ids = (span.id,) if isinstance(span, Phrase) else span.ids
    return [Pass(played.pace, played.result) for played in tried if played.phrases == ids]


def results(
    tried: Iterable[Tried], span: BoardRow | Phrase, paces: Sequence[float] = RUNG_PACES
) -> dict[float, Result]:
    """Return how one stretch went last at each rung that was tried; a pass at another pace counts for the nearest."""
    return {nearest(paces, played.pace): played.result for played in tries_of(tried, span)}


def next_rung(tried: Iterable[Tried], span: BoardRow | Phrase, paces: Sequence[float] = RUNG_PACES) -> float:
    """Return the pace to practise next, see `next_pace`; about half tempo before the first pass."""
    passes = tries_of(tried, span)
    return next_pace(passes, paces) if passes else nearest(paces, USUAL_START)
