"""How far apart signs stand: springs that long notes stretch, and rods that nothing squeezes.

Sources: J. Gourlay, "Spacing a line of music", Ohio State University technical report 35, 1987 (springs and rods);
L. Haken and D. Blostein, "A new algorithm for horizontal spacing of printed music", ICMC 1995 (both from memory). A
note of twice the length takes about 1.4 times the room (common practice in engraving; Ross 1970 and E. Gould, "Behind
Bars", 2011, both from memory).
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from notcher.core.arrays import FloatArray

QUARTER_SPACES = 5.0
"""Room of a quarter note at rest, staff spaces."""
GROWTH = 0.5
"""Exponent of length: the square root, so that twice as long takes 1.41 times as much."""
LEAST_QUARTERS, MOST_QUARTERS = 1 / 32, 8.0  # lengths beyond these get no less and no more room
GOOD_STRETCH = 0.7
"""By how much of themselves a line's springs may be drawn out and still look well."""
LOOSEST = 2.6
"""How far they are drawn out at most; what would be looser stays short of the margin."""


@dataclass(frozen=True, slots=True)
class Gap:
    """From one column's middle to the next: what it needs at least, and how much its spring takes at rest."""

    rod: float
    spring: float

    @property
    def rest(self) -> float:
        return max(self.rod, self.spring)


def spring_of(quarters: float, space: float) -> float:
    """Return the room of a length at rest. quarters: of a note's time. space: a staff space."""
    clipped = min(max(quarters, LEAST_QUARTERS), MOST_QUARTERS)
    return float(QUARTER_SPACES * space * clipped**GROWTH)


def spaced(gaps: Sequence[Gap], width: float) -> FloatArray:
    """Return where each column stands from the first, so that the last stands at a width.

    The force is the same on every spring and no rod gives way. What would be drawn out by more than `LOOSEST` stays
    shorter than the width. Returns: shape (n_gaps + 1,).
    """
    rods = np.array([gap.rod for gap in gaps])
    springs = np.array([gap.spring for gap in gaps])
    if rods.size == 0:
        return np.zeros(1)
    force = min(_force(rods, springs, width), LOOSEST)
    return np.concatenate([[0.0], np.cumsum(np.maximum(rods, force * springs))])


def _force(rods: FloatArray, springs: FloatArray, width: float) -> float:
    """By how much the springs are drawn out or pressed: the one force at which all lengths sum to a width."""
    if rods.sum() >= width or springs.sum() <= 0:
        return 0.0
    with np.errstate(divide="ignore", invalid="ignore"):
        yields = np.where(springs > 0, rods / np.where(springs > 0, springs, 1.0), np.inf)
    order = np.argsort(yields)
    rod_total, drawn = rods.sum(), 0.0
    for index, at in enumerate(order):  # springs give way one after another as the force grows
        if not np.isfinite(yields[at]):
            break
        rod_total, drawn = rod_total - rods[at], drawn + springs[at]
        force = (width - rod_total) / drawn
        following = yields[order[index + 1]] if index + 1 < order.size else np.inf
        if force <= following:
            return float(force)
    return float((width - rod_total) / drawn)
