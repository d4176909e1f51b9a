"""Pairing what was written with what was heard."""

from collections.abc import Iterable


def closest_pairs(candidates: Iterable[tuple[float, int, int]]) -> dict[int, int]:
    """Return the partner of each first, the closest pair of all first; each first and each second is taken once.

    candidates: how far apart, the first, the second.
    """
    partner: dict[int, int] = {}
    paired: set[int] = set()
    for _, first, second in sorted(candidates):
        if first not in partner and second not in paired:
            partner[first] = second
            paired.add(second)
    return partner
