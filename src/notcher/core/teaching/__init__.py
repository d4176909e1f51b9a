"""Lessons by computation: loops with a count-in, the rungs of a phrase."""

from notcher.core.teaching.accompaniment import ALONG, Accompaniment, accompaniment
from notcher.core.teaching.levels import Levels
from notcher.core.teaching.loop import Loop, LoopUnderway, Passage, make_loop
from notcher.core.teaching.rungs import RUNG_PACES, BoardRow, board_rows, next_rung, results, with_mark
from notcher.core.teaching.words import row_name

__all__ = [
    "ALONG",
    "RUNG_PACES",
    "Accompaniment",
    "BoardRow",
    "Levels",
    "Loop",
    "LoopUnderway",
    "Passage",
    "accompaniment",
    "board_rows",
    "make_loop",
    "next_rung",
    "results",
    "row_name",
    "with_mark",
]
