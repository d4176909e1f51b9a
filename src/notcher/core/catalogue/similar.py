"""How alike two lines are across keys and tunings: the cost of making one of the other, by their steps.

The edit distance of two rows of intervals, rhythm counted in as the ratio of their lengths, divided by how long they
are. Source: M. Mongeau and D. Sankoff, "Comparison of musical sequences", Computers and the Humanities 24, 1990. Many
lines are compared at once: the tables of all of them are filled together, cell by cell.
"""

from collections.abc import Sequence

import numpy as np

from notcher.core.arrays import FloatArray, IntArray
from notcher.core.catalogue.features import MelodicLine

ALONE = 1.0  # a step that the other has not
STEP_OFF, FAR_STEP = 0.35, 1.6  # each semitone that two steps differ by, and at most
RHYTHM = 0.35  # a step that takes twice or half as long
LONGEST = 64  # steps that are compared
BINS, SHORTLIST = 25, 300  # two octaves and the unison; candidates that are compared in full
LEAST_RATIO, MOST_OCTAVES = 1e-3, 2.0  # against a logarithm of 0; farther apart is as far


def distances(wanted: MelodicLine, lines: Sequence[MelodicLine]) -> FloatArray:
    """Return how unlike each line is to one: 0 the same in another key and tempo, about 1 nothing in common.

    Returns: shape (n_lines,).
    """
    count = len(lines)
    sizes = np.array([min(line.steps.size, LONGEST) for line in lines], dtype=np.int64)
    own = min(wanted.steps.size, LONGEST)
    if not count or not own:
        return np.where(sizes == own, 0.0, 1.0) if count else np.zeros(0)
    width = int(sizes.max(initial=1))
    steps, ratios = np.zeros((count, width)), np.zeros((count, width))
    for at, line in enumerate(lines):
        steps[at, : sizes[at]] = line.steps[: sizes[at]]
        ratios[at, : sizes[at]] = _octaves(line.lengths[: sizes[at]])
    mine, my_ratios = wanted.steps[:own], _octaves(wanted.lengths[:own])
    row = ALONE * np.broadcast_to(np.arange(width + 1, dtype=np.float64), (count, width + 1))
    for number in range(own):
        apart = np.minimum(STEP_OFF * np.abs(steps - mine[number]), FAR_STEP)
        cost = apart + RHYTHM * np.minimum(np.abs(ratios - my_ratios[number]), MOST_OCTAVES)
        reached = np.minimum(row[:, 1:] + ALONE, row[:, :-1] + cost)
        first = row[:, :1] + ALONE
        both = np.concatenate([first, reached], axis=1)
        climb = ALONE * np.arange(width + 1)
        row = np.minimum.accumulate(both - climb, axis=1) + climb
    total = row[np.arange(count), sizes]
    return np.asarray(total / (ALONE * np.maximum(sizes + own, 1)))


def _octaves(lengths: FloatArray) -> FloatArray:
    """Lengths as octaves over their median, so that tempo does not count."""
    if not lengths.size:
        return lengths
    return np.asarray(np.log2(np.maximum(lengths, LEAST_RATIO) / max(float(np.median(lengths)), LEAST_RATIO)))


def shortlist(wanted: MelodicLine, lines: Sequence[MelodicLine], *, most: int = SHORTLIST) -> IntArray:
    """Return the lines whose steps are the likeliest to be alike, by how many pairs of steps they share."""
    if len(lines) <= most:
        return np.arange(len(lines))
    mine = _pairs(wanted.steps)
    table = np.zeros((len(lines), BINS * BINS), dtype=np.float32)
    sizes = np.array([line.steps.size for line in lines])
    owner = np.repeat(np.arange(len(lines)), np.maximum(sizes - 1, 0))
    pairs = np.concatenate([_pairs(line.steps) for line in lines])
    np.add.at(table, (owner, pairs), 1.0)
    histogram = np.bincount(mine, minlength=BINS * BINS)
    shared = np.minimum(table, histogram).sum(axis=1) / np.sqrt(np.maximum(sizes, 1))
    return np.asarray(np.argsort(-shared, kind="stable")[:most])


def _pairs(steps: IntArray) -> IntArray:
    half = BINS // 2
    bins = np.clip(steps, -half, half) + half
    return np.asarray(bins[:-1] * BINS + bins[1:], dtype=np.int64)
