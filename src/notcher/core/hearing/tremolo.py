"""One pitch picked again and again, quickly and evenly: the figure tells of the attacks that are hardly heard in it.

A hand that picks a string so fast moves by itself and keeps its pace (common practice, no source): where a stroke of
the pace is missing between two that are sure, or right after the last, a candidate that lies there is likely one.
"""

import math
from itertools import pairwise

import numpy as np

from notcher.core.arrays import FloatArray, IntArray
from notcher.core.hearing.attacks import middle_midi
from notcher.core.hearing.pitch import HOP_S

SLOWEST_S = 0.16  # sixteenths at 94 a minute: slower strokes are single notes
LEAST_STROKES = 4  # three even strokes are also a triplet
EVEN = 0.17  # of the pace, that a stroke may lie off it
MOST_MISSING, KEPT, LONGER = 2, 0.7, 1.4  # strokes; share of the spans that keep the pace; than a stroke's span
SURE = 0.5  # as likely as not
INSIDE, AFTER = 3.5, 2.0  # nats that the figure speaks for a stroke within it, and for one more
SAME_SEMITONES = 0.4  # less than half a semitone: the same fret
SETTLED = 5, 9  # frames after a stroke in which its pitch is looked at


def with_tremolo(moments: IntArray, chance: FloatArray, midi: FloatArray) -> FloatArray:
    """Return how likely each moment is an attack when quick even repetitions are taken as one figure.

    moments, chance: shape (n,), frames and how likely each is an attack by itself. midi: shape (n_frames,).
    """
    pitch = middle_midi(midi, moments, *SETTLED)
    sure = np.flatnonzero(chance > SURE)
    result = chance.copy()
    for run in _runs(moments, pitch, sure):
        pace = _pace(moments[run])
        if pace is None:
            continue
        missing = [
            (moments[a] + pace * number, INSIDE)
            for a, b in pairwise(run)
            for number in range(1, _strokes(float(moments[b] - moments[a]), pace))
        ]
        for at, speaks in [*missing, (moments[run[-1]] + pace, AFTER)]:
            near = int(np.argmin(np.abs(moments - at)))
            same = abs(pitch[near] - pitch[run[0]]) < SAME_SEMITONES
            if same and abs(moments[near] - at) <= EVEN * pace and chance[near] <= SURE:
                odds = chance[near] / (1 - chance[near]) * math.exp(speaks)
                result[near] = odds / (1 + odds)
    return result


def _runs(moments: IntArray, pitch: FloatArray, sure: IntArray) -> list[list[int]]:
    """Strokes on one pitch with no more than `MOST_MISSING` of the slowest pace between two."""
    furthest = (MOST_MISSING + 1) * SLOWEST_S / HOP_S
    runs: list[list[int]] = [[]]
    for at in sure.tolist():
        before = runs[-1][-1] if runs[-1] else None
        goes_on = before is not None and abs(pitch[at] - pitch[before]) < SAME_SEMITONES
        if before is not None and not (goes_on and moments[at] - moments[before] <= furthest):
            runs.append([])
        runs[-1].append(at)
    return [run for run in runs if len(run) >= LEAST_STROKES]


def _pace(strokes: IntArray) -> float | None:
    """Frames from stroke to stroke where they are quick and even, else None."""
    spans = np.diff(strokes).astype(float)
    pace = float(np.median(spans[spans <= LONGER * np.percentile(spans, 25)]))
    single = np.abs(spans - pace) <= EVEN * pace
    whole = [single[at] or _strokes(span, pace) > 1 for at, span in enumerate(spans.tolist())]
    enough = single.sum() >= LEAST_STROKES - 1 and np.mean(whole) > KEPT
    return pace if enough and pace <= SLOWEST_S / HOP_S else None


def _strokes(span: float, pace: float) -> int:
    """How many strokes of a pace a span holds; 1 where it is no whole number of them."""
    count = round(span / pace)
    fits = 1 < count <= MOST_MISSING + 1 and abs(span - count * pace) <= EVEN * pace * math.sqrt(count)
    return count if fits else 1
