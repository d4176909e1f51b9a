"""How bends landed, gathered by their written size."""

from collections import defaultdict
from collections.abc import Sequence

import numpy as np

from notcher.core.arrays import FloatArray, IntArray
from notcher.core.proving.take import Played

HISTOGRAM_CENTS = 15.0
"""Listeners accept a bend within 10 to 15 cents (common practice, no source): a bin is one such step."""


def landings(bends: Sequence[Played]) -> dict[float, tuple[float, ...]]:
    """Return by written size (semitones, small ones first) how far each bend landed from it, cents, flat negative."""
    by_size: dict[float, list[float]] = defaultdict(list)
    for played in bends:
        if played.landed_cents is not None:
            by_size[abs(played.bend)].append(played.landed_cents)
    return {size: tuple(by_size[size]) for size in sorted(by_size)}


def histogram(cents: Sequence[float], *, reach_cents: float = 90.0) -> tuple[FloatArray, IntArray]:
    """Return the edges of bins `HISTOGRAM_CENTS` wide around 0 and how many lie in each; far ones in the outer bins.

    Returns: shape (n + 1,), cents, and shape (n,).
    """
    half = int(np.ceil(reach_cents / HISTOGRAM_CENTS - 0.5))
    edges = (np.arange(-half, half + 2) - 0.5) * HISTOGRAM_CENTS
    counts, _ = np.histogram(np.clip(cents, edges[0] + 1e-6, edges[-1] - 1e-6), edges)
    return edges, counts
