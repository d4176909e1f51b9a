"""Where lines and pages end: the whole is weighed, not line after line.

Source: D. E. Knuth and M. F. Plass, "Breaking paragraphs into lines", Software: Practice and Experience 11, 1981
(badness, penalties, demerits and the shortest path over feasible breaks).
"""

from collections.abc import Callable, Sequence

import numpy as np

from notcher.core.sheets.spacing import GOOD_STRETCH, Gap

FORBIDDEN = 10_000.0
"""A penalty that no line takes (Knuth and Plass: infinity)."""
LOOSE_WORST = 8.0
"""A line that is left short of the margin is no worse than this ratio."""


def demerits(ratio: float, penalty: float) -> float:
    """Return what a line costs. ratio: how far its springs are drawn out (above 0, 1 is the most that is good) or
    pressed (below 0, -1 is as far as they go); Knuth and Plass, p. 1128."""
    badness = 100.0 * abs(min(ratio, LOOSE_WORST)) ** 3
    if penalty >= 0:
        return (1.0 + badness + penalty) ** 2
    return float((1.0 + badness) ** 2 - penalty**2)


def best_breaks(count: int, cost: Callable[[int, int], float | None]) -> list[int]:
    """Return where each line ends, so that the sum of the costs is least.

    count: of things to be laid out, at least 1. cost: of the line that holds the things from one index up to, not
    with, another; None where it does not fit; past the first that does not fit nothing longer does.
    Raises: ValueError when nothing can be laid out.
    """
    total = np.full(count + 1, np.inf)
    total[0] = 0.0
    came_from = np.zeros(count + 1, dtype=np.int64)
    for first in range(count):
        if not np.isfinite(total[first]):
            continue
        for last in range(first + 1, count + 1):
            price = cost(first, last)
            if price is None:
                break
            if total[first] + price < total[last]:
                total[last], came_from[last] = total[first] + price, first
    if not np.isfinite(total[count]):
        raise ValueError("there is no way to break this")
    ends = [count]
    while came_from[ends[-1]] > 0:
        ends.append(int(came_from[ends[-1]]))
    return ends[::-1]


def line_breaks(
    gaps: Sequence[Gap], penalties: Sequence[float], *, first_width: float, width: float, lead: Sequence[float]
) -> list[int]:
    """Return the index after the last column of each line.

    gaps: from each column to the next, the last one's to the end of its line. penalties: of ending a line after each
    column; `FORBIDDEN` where none may end. width: of a line, first_width of the first. lead: what each column needs on
    its left when it begins a line. Where nothing fits a column has a line of its own.
    """
    rods = np.concatenate([[0.0], np.cumsum([gap.rod for gap in gaps])])
    springs = np.concatenate([[0.0], np.cumsum([gap.spring for gap in gaps])])
    rests = np.concatenate([[0.0], np.cumsum([gap.rest for gap in gaps])])
    ends = [at for at in range(len(gaps)) if penalties[at] < FORBIDDEN or at == len(gaps) - 1]
    edges = [0, *(at + 1 for at in ends)]

    def cost(first: int, last: int) -> float | None:
        a, b = edges[first], edges[last]
        room = (first_width if a == 0 else width) - lead[a]
        least, rest, drawn = rods[b] - rods[a], rests[b] - rests[a], springs[b] - springs[a]
        if least > room:
            return None if last > first + 1 else 1e12 * (least / room)  # it is wider than a line: alone, and pressed
        diff = room - rest
        ratio = diff / max(GOOD_STRETCH * drawn, 1e-6) if diff > 0 else diff / max(rest - least, 1e-6)
        if b == len(gaps) and ratio > 0:
            return demerits(min(ratio, 0.3), 0.0)  # the last line may stay short
        return demerits(ratio, penalties[b - 1])

    return [edges[at] for at in best_breaks(len(edges) - 1, cost)]
