"""Unison bends: two strings struck together, the lower one pushed up until both sound the same.

A quick push is over before a track has settled on it. What gives it away is one peak that begins a step or two below a
pitch that holds, at the same stroke, and climbs until it is lost in that pitch. Such a climb is looked for as a whole,
because none of its moments is sure alone.
"""

from dataclasses import dataclass

import numpy as np

from notcher.core.arrays import BoolArray, FloatArray, IntArray
from notcher.core.hearing.pitch_paths import Likeness
from notcher.core.hearing.salience import SALIENCE_HOP_S

LEAST_PUSH, MOST_PUSH = 0.7, 4.4  # semitones
HELD_OFF, HELD_CHANCE = 0.4, 0.4  # semitones; how sure the held pitch is at each moment
SETTLED = 3  # frames after a stroke until a pitch can be told
STROKE = range(1, 5)  # frames after a stroke in which the pushed string shows first
BACK, ONWARD = 0.25, 1.3  # semitones that a climb may fall, or rise, in a frame
LOST_BELOW, ALONGSIDE = 1.4, 0.45  # semitones under the held pitch from which a peak may be lost in it; where it is
LONGEST, MOST_GAPS = 45, 2  # frames
LEAST_FRAMES, LEAST_CHANCE, LEAST_SHARE = 9, 0.3, 0.3  # frames seen; their mean chance; share of the push seen


@dataclass(frozen=True, slots=True)
class UnisonBend:
    """One string pushed up to another. begin_s, end_s: while both can be told apart. from_midi, held_midi: where from
    and where to."""

    begin_s: float
    end_s: float
    from_midi: float
    held_midi: float

    @property
    def size(self) -> float:
        return self.held_midi - self.from_midi


@dataclass(frozen=True, slots=True, eq=False)
class _Climb:
    """The peaks of a pushed string by frame, how much speaks for them, and the pitch that they climb to."""

    worth: float = 0.0
    held: float = 0.0
    peaks: tuple[tuple[int, int], ...] = ()


def unison_pushes(likelihood: Likeness, strokes: IntArray) -> tuple[list[UnisonBend], BoolArray]:
    """Find strings that are pushed up to another's pitch.

    strokes: shape (n,), rising, the frames where new energy comes in. Returns: the pushes in time order, and which
    peaks are theirs, in the shape of the likeness' arrays.
    """
    unison_bends, theirs = [], np.zeros(likelihood.midi.shape, dtype=bool)
    until = 0
    for stroke in strokes:
        if stroke < until or stroke + SETTLED + 1 >= len(theirs):
            continue
        climb = _surest_climb(likelihood, int(stroke))
        if climb.peaks:
            rows, columns = np.array(climb.peaks).T
            theirs[rows, columns] = True
            until = int(rows[-1])  # a stroke heard in the middle of a climb begins no other
            first = float(np.median(likelihood.midi[rows, columns][:3]))
            unison_bends.append(UnisonBend(float(stroke * SALIENCE_HOP_S), until * SALIENCE_HOP_S, first, climb.held))
    return unison_bends, theirs


def _surest_climb(likelihood: Likeness, stroke: int) -> _Climb:
    best = _Climb()
    at = stroke + SETTLED
    for column in np.flatnonzero(likelihood.chance[at] > HELD_CHANCE):
        held_midi = float(likelihood.midi[at, column])
        until = _held_until(likelihood, at, held_midi)
        for first in (stroke + late for late in STROKE):
            below = held_midi - likelihood.midi[first]
            for start in np.flatnonzero((below > LEAST_PUSH) & (below < MOST_PUSH)):
                climb = _climb(likelihood, first, int(start), held_midi, until)
                worth = _worth(likelihood, climb, held_midi)
                if worth > best.worth:
                    best = _Climb(worth, held_midi, tuple(climb))
    return best


def _held_until(likelihood: Likeness, at: int, held_midi: float) -> int:
    until = at
    while until < min(len(likelihood.midi), at + LONGEST):
        on_it = np.abs(likelihood.midi[until] - held_midi) < HELD_OFF
        if not np.any(on_it & (likelihood.chance[until] > HELD_CHANCE)):
            break
        until += 1
    return until


def _climb(likelihood: Likeness, first: int, start: int, held_midi: float, until: int) -> list[tuple[int, int]]:
    """Follow one peak upwards until it is lost in the held pitch; nothing where it is lost before."""
    here, gaps, result = float(likelihood.midi[first, start]), 0, [(first, start)]
    for frame in range(first + 1, until):
        midi: FloatArray = likelihood.midi[frame]
        onward = np.flatnonzero((midi >= here - BACK) & (midi <= here + ONWARD) & (held_midi - midi > ALONGSIDE))
        if onward.size:
            column = int(onward[np.argmax(likelihood.chance[frame, onward] - 0.5 * np.abs(midi[onward] - here))])
            here, gaps = max(here, float(midi[column])), 0
            result.append((frame, column))
        elif held_midi - here < LOST_BELOW:
            return result
        else:
            gaps += 1
            if gaps > MOST_GAPS:
                return []
    return []


def _worth(likelihood: Likeness, climb: list[tuple[int, int]], held_midi: float) -> float:
    """How much speaks for a climb; 0 for one that is too short, too unsure or hardly climbs."""
    if len(climb) < LEAST_FRAMES:
        return 0.0
    rows, columns = np.array(climb).T
    midi, chance = likelihood.midi[rows, columns], float(likelihood.chance[rows, columns].mean())
    if chance < LEAST_CHANCE or midi.max() - midi[0] < LEAST_SHARE * (held_midi - midi[0]):
        return 0.0
    return len(climb) + 4 * chance
