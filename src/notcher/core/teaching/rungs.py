"""Tempo rungs: each phrase is climbed from slow to full pace, and every try leaves a mark."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np

from notcher.core.ledger import LoggedPass
from notcher.core.proving import Mark, Result
from notcher.core.score import Phrase, Score
from notcher.core.teaching.ladder import Pass, nearest

Tried = Mark | LoggedPass
"""One pass through a phrase or a join, with or without when it was."""

RUNG_PACES = (0.4, 0.5, 0.6, 0.7, 0.8, 0.9, 1.0)
"""Starting speed is often half tempo (common practice, no source); a rung below it for what is too hard."""


Unit = tuple[Phrase, ...]
"""What is taught as one: a phrase, with a neighbour of one or two notes."""
TINY_NOTES = 2  # a phrase of so few notes is taught with its neighbour (common practice, no source)


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


def units(score: Score) -> tuple[Unit, ...]:
    """Return what is taught as one, in the solo's order: phrases, those of one or two notes with their neighbour."""
    result: list[Unit] = []
    waiting: Unit = ()  # too few notes so far
    phrases = [phrase for phrase in score.phrases if score.notes_of(phrase)]
    for at, phrase in enumerate(phrases):
        group = (*waiting, phrase)
        before = phrase.start_s - phrases[at - 1].end_s if at else np.inf
        after = phrases[at + 1].start_s - phrase.end_s if at + 1 < len(phrases) else np.inf
        if sum(len(score.notes_of(part)) for part in group) > TINY_NOTES:
            result.append(group)
            waiting = ()
        elif result and not waiting and before <= after:
            result[-1] = (*result[-1], phrase)
        else:
            waiting = group
    if waiting and result:
        result[-1] = (*result[-1], *waiting)
    return (waiting,) if waiting and not result else tuple(result)


def tries_of(tried: Iterable[Tried], span: BoardRow | Phrase) -> list[Pass]:
    """Return the passes through one stretch, in the order they were played."""
    ids = (span.id,) if isinstance(span, Phrase) else span.ids
    return [Pass(played.pace, played.result) for played in tried if played.phrases == ids]


def results(
    tried: Iterable[Tried], span: BoardRow | Phrase, paces: Sequence[float] = RUNG_PACES
) -> dict[float, Result]:
    """Return how one stretch went last at each rung that was tried; a pass at another pace counts for the nearest."""
    return {nearest(paces, played.pace): played.result for played in tries_of(tried, span)}
