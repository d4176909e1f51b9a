"""Lowest and highest sample per span, at every zoom, so that no attack vanishes from a drawing."""

import numpy as np

from notcher.core.arrays import FloatArray

BASE = 64
"""Samples per cell of the finest level."""


class Overview:
    """A pyramid of (lowest, highest) pairs over one channel; each level halves the one below."""

    def __init__(self, samples: FloatArray, *, fine: bool = True) -> None:
        """fine: keep every sample, for columns of less than `BASE` of them; a long recording's are large."""
        if samples.ndim != 1:
            raise ValueError("an overview is made of one channel")
        self._samples = samples if fine else samples[:0].copy()
        starts = np.arange(0, samples.shape[0], BASE)
        self._levels = [np.stack([np.minimum.reduceat(samples, starts), np.maximum.reduceat(samples, starts)])]
        while self._levels[-1].shape[1] > 256:
            below = self._levels[-1]
            below = below[:, : below.shape[1] // 2 * 2].reshape(2, -1, 2)
            self._levels.append(np.stack([below[0].min(axis=1), below[1].max(axis=1)]))

    def columns(self, first: float, last: float, width: int) -> FloatArray:
        """Return lowest and highest sample per pixel column.

        first, last: sample positions of the left and right edge; may lie outside the sound. width: columns.
        Returns: shape (2, width), 0 where there is no sound.
        """
        if width <= 0 or last <= first:
            return np.zeros((2, max(width, 0)), dtype=np.float32)
        per_column = (last - first) / width
        level = int(np.clip(np.log2(max(per_column / BASE, 1)), 0, len(self._levels) - 1))
        coarse = per_column >= BASE or self._samples.size == 0
        cells, size = (self._levels[level], BASE << level) if coarse else (None, 1)
        edges = np.linspace(first, last, width + 1) / size
        starts = np.floor(edges[:-1]).astype(np.int64)
        stops = np.maximum(np.ceil(edges[1:]).astype(np.int64), starts + 1)
        low, high = (self._samples, self._samples) if cells is None else (cells[0], cells[1])
        count = low.shape[0]
        inside = (starts < count) & (stops > 0)
        result = np.zeros((2, width), dtype=np.float32)
        if inside.any():
            # reduceat takes pairs (start, stop); a stop equal to the length needs one cell of padding
            marks = np.stack([np.clip(starts[inside], 0, count - 1), np.clip(stops[inside], 1, count)], axis=1).ravel()
            result[0, inside] = np.minimum.reduceat(np.append(low, 0), marks)[::2]
            result[1, inside] = np.maximum.reduceat(np.append(high, 0), marks)[::2]
        return result
