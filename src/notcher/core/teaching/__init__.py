"""Lessons by computation: loops with a count-in, the rungs of a phrase."""

from notcher.core.teaching.loop import Loop, click, make_loop
from notcher.core.teaching.rungs import RUNG_PACES, Mark, Result, next_rung, with_mark

__all__ = ["RUNG_PACES", "Loop", "Mark", "Result", "click", "make_loop", "next_rung", "with_mark"]
