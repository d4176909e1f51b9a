"""Cutting a row of things into stretches that are worth the most together."""

from collections.abc import Callable

import numpy as np

from notcher.core.arrays import FloatArray


def best_cuts(count: int, worth: Callable[[int], FloatArray]) -> list[int]:
    """Return before which things to cut, rising, by dynamic programming over all ways to cut.

    count: of the things. worth(end): what the stretches that end before `end` are worth, shape (end,), by where they
    begin.
    """
    best, came_from = np.full(count + 1, -np.inf), np.zeros(count + 1, dtype=np.int64)
    best[0] = 0.0
    for end in range(1, count + 1):
        total = best[:end] + worth(end)
        came_from[end], best[end] = int(np.argmax(total)), total.max()
    cuts: list[int] = []
    at = int(came_from[count])
    while at > 0:
        cuts.append(at)
        at = int(came_from[at])
    return cuts[::-1]
