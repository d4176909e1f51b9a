"""How surprising it is that two stretches are alike: what every solo in this scale would show is no statement.

Source of the idea: D. Conklin and M. Bergeron, "Feature set patterns in music", Computer Music Journal 32(1), 2008:
a pattern is judged by how likely it is under a background model of the same piece (here: its steps drawn one by one).
"""

from collections import Counter
from collections.abc import Sequence

import numpy as np

from notcher.core.arrays import FloatArray, IntArray
from notcher.core.patterns.events import Events

MARGIN_BITS = 4.0  # one chance find in sixteen solos


class Background:
    """Bits by which each step of a solo surprises, told by how often such steps come in it."""

    def __init__(self, events: Events) -> None:
        count = len(events)
        self.asked = 2 * np.log2(max(count, 2)) + MARGIN_BITS
        self._place = _bits(list(zip(events.string.tolist(), events.fret.tolist(), strict=True)))
        beats = np.diff(events.beats)
        lengths = np.rint(2 * np.log2(np.maximum(beats, 1 / 16))).astype(np.int64)
        gesture = events.gesture[1:]
        self._neck = _steps(np.diff(events.string), np.diff(events.fret), gesture, lengths)
        self._sound = _steps(np.diff(events.midi), gesture, lengths)
        self._rhythm = np.concatenate([[0.0], np.cumsum(_steps(lengths))])
        most = np.maximum(self._neck, self._sound)
        self._sums = np.concatenate([[0.0], np.cumsum(most)])

    def of_place(self, first: int) -> float:
        return float(self._place[first])

    def news(self, first: IntArray, last: IntArray) -> FloatArray:
        """Bits of all steps from one note to another, at most; shape of first and last."""
        return np.asarray(self._sums[last] - self._sums[first])

    def on_neck(self, indices: Sequence[int]) -> float:
        """Bits of the steps between notes that follow each other, on the neck."""
        return _sum(self._neck, indices)

    def in_sound(self, indices: Sequence[int]) -> float:
        return _sum(self._sound, indices)

    def in_rhythm(self, first: IntArray, last: IntArray) -> FloatArray:
        """Bits of the rhythm from one note to another; shape of first and last."""
        return np.asarray(self._rhythm[last] - self._rhythm[first])


def _sum(bits: FloatArray, indices: Sequence[int]) -> float:
    at = np.asarray(indices)
    on = at[1:][np.diff(at) == 1] - 1  # the step to a note, where the one before it belongs to the pattern too
    return float(bits[on].sum())


def _steps(*columns: IntArray) -> FloatArray:
    return _bits(list(zip(*(column.tolist() for column in columns), strict=True)))


def _bits(symbols: list[tuple[int, ...]]) -> FloatArray:
    counts = Counter(symbols)
    # a step that comes again is no evidence against itself: it is looked for among the others
    return np.array([-np.log2(max(counts[symbol] - 1, 0.5) / len(symbols)) for symbol in symbols])
