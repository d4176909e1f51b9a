"""Beams: which of them join which stems, and how steep they lie.

Sources: T. Ross, "The Art of Music Engraving and Processing", 1970, and E. Gould, "Behind Bars", 2011, "Beams" (both
from memory): a beam follows the interval from its first to its last note but is flatter than it, is level where an
inner note lies beyond both, and no stem under it is shorter than two and a half spaces.
"""

from collections.abc import Sequence
from dataclasses import dataclass

STEM_SPACES = 3.5
"""A stem's length: an octave (Ross 1970, Gould 2011, from memory)."""
LEAST_STEM_SPACES = 2.5  # the shortest stem under a beam (common engraving practice, no source)
SLANTS = (0.0, 0.25, 0.5, 0.75, 1.0, 1.25, 1.25, 1.5)
"""How far a beam rises over its length by the interval of its outer notes in steps of the staff; staff spaces."""
STEEPEST = 0.25
"""Rise of a beam over its length at most: short ones stay flat."""


@dataclass(frozen=True, slots=True)
class Run:
    """One beam of a group: its level from the outermost, 0 first, and from which stem to which it goes; a stub where
    both are the same: to the right of the first stem, to the left of any other."""

    level: int
    first: int
    last: int


def beam_runs(counts: Sequence[int]) -> list[Run]:
    """Return the beams of a group. counts: how many beams each of its stems has."""
    runs = []
    for level in range(max(counts, default=0)):
        first = None
        for at, count in enumerate([*counts, 0]):
            if count > level and first is None:
                first = at
            elif count <= level and first is not None:
                runs.append(Run(level, first, at - 1))
                first = None
    return runs


def slant(steps: Sequence[int], length_spaces: float) -> float:
    """Return how far a beam rises from its first stem to its last, staff spaces, up positive.

    steps: of the notes next to the beam, in steps of the staff, up positive. length_spaces: from stem to stem.
    """
    first, last = steps[0], steps[-1]
    inner = steps[1:-1]
    if first == last or any(step > max(first, last) or step < min(first, last) for step in inner):
        return 0.0
    most = SLANTS[min(abs(last - first), len(SLANTS) - 1)]
    rise = min(most, STEEPEST * length_spaces)
    return rise if last > first else -rise


def beam_line(
    tips: Sequence[float], xs: Sequence[float], rise: float, *, up: bool, least: Sequence[float]
) -> tuple[float, float]:
    """Return a beam as its height at the first stem and its slope, y down.

    tips: where each stem would end if it were free. least: where each must end at least. rise: see `slant`, in the
    unit of the rest, up positive.
    """
    length = max(xs[-1] - xs[0], 1e-9)
    slope = -rise / length
    mean = sum(tip - slope * (x - xs[0]) for tip, x in zip(tips, xs, strict=True)) / len(tips)
    offsets = [end - slope * (x - xs[0]) for end, x in zip(least, xs, strict=True)]
    return (min(mean, *offsets) if up else max(mean, *offsets)), slope
