"""Cells that are turned, and sequences: one short figure several times on end, the same or moved by equal steps.

A sequence is the immediate repetition of a figure on other degrees; it is tonal when its intervals follow the scale and
real when they are kept. Source of the terms: W. Piston, "Harmony", 1941, ch. 19 (from memory).
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from notcher.core.arrays import BoolArray, FloatArray, IntArray
from notcher.core.patterns.events import Events
from notcher.core.patterns.transpositions import edges_of

LEAST_SHARE = 0.75  # of the notes of the later turns that are the figure's
FURTHEST = 12  # frets, strings or semitones that a turn moves on
SIZES = range(1, 13)  # notes of a figure; of one note it is no figure, but tells runs and repeated notes apart
LEAST_TURNS = 3  # twice may be chance
MOST_STEPS = 4  # scale steps that a turn moves on
OUTSIDE = -(10**6)  # lower than any degree


@dataclass(frozen=True, slots=True)
class Turns:
    """A figure and how often it comes on end. first: index of its first note. size: notes. alike: for each note of all
    turns whether it is the figure's. steps: scale steps by which each turn moves, 0 for the same; None where it moves
    by equal frets or semitones that are not told in steps."""

    first: int
    size: int
    count: int
    alike: tuple[bool, ...]
    steps: int | None = 0

    @property
    def last(self) -> int:
        return self.first + self.size * self.count - 1

    @property
    def moved(self) -> bool:
        return self.steps != 0

    def pairs(self, turn: int) -> tuple[tuple[int, int], ...]:
        """(note of the first turn, note of another) for the notes that correspond."""
        begin = self.first + turn * self.size
        return tuple((self.first + at, begin + at) for at in range(self.size) if self.alike[turn * self.size + at])


@dataclass(frozen=True, slots=True, eq=False)
class _Measure:
    """What is looked at: places shape (n_notes, n_coordinates), whole numbers; OUTSIDE where there is none. most: how
    far a turn may move in each coordinate; 0 for figures that stay. told: the steps are scale steps."""

    places: IntArray
    most: int
    told: bool = False


def turns(events: Events, degrees: IntArray) -> list[Turns]:
    """Return the figures that are turned three times and more, in time order; the smallest figure of each.

    degrees: shape (n_notes,), each note's step of the scale in use, an octave being as many as the scale has; `OUTSIDE`
    for a note that is not in it.
    """
    neck = np.stack([events.string, events.fret], axis=1)
    measures = (
        _Measure(neck, 0),
        _Measure(degrees[:, None], MOST_STEPS, told=True),
        _Measure(neck, FURTHEST),
        _Measure(events.midi[:, None], FURTHEST),
    )
    result: list[Turns] = []
    for measure in measures:
        for size in SIZES:
            result += [turned for turned in _of_size(events, size, measure) if not _known(turned, result)]
    return sorted((turned for turned in result if turned.size > 1), key=lambda turned: (turned.first, turned.size))


def _known(turned: Turns, earlier: Sequence[Turns]) -> bool:
    """Whether a smaller figure, or the same one measured otherwise, tells it already."""
    return any(
        turned.size % other.size == 0
        and other.first <= turned.first + turned.size
        and turned.last <= other.last + turned.size
        for other in earlier
    )


def _of_size(events: Events, size: int, measure: _Measure) -> Iterator[Turns]:
    places = measure.places
    count = len(events) - size
    if count < (LEAST_TURNS - 1) * size:
        return
    moved = places[size:] - places[:count]
    fits = (places[size:] != OUTSIDE).all(axis=1) & (places[:count] != OUTSIDE).all(axis=1)
    fits &= (np.abs(moved) <= measure.most).all(axis=1) & ((moved != 0).any(axis=1) == bool(measure.most))
    fits &= events.gesture[size:] == events.gesture[:count]
    for begin, end in _stretches(events, moved, fits, size):
        step = _usual(moved[begin : end + 1][fits[begin : end + 1]])
        length = end - begin + 1 + size
        times = length // size
        at = begin + first_turn(events.beats[begin : begin + length - times * size + 1])
        rows = at + np.arange(times * size).reshape(times, size)
        alike = (places[rows] - places[rows[:1]] == step * np.arange(times)[:, None, None]).all(axis=2)
        alike &= events.gesture[rows] == events.gesture[rows[:1]]
        if times >= LEAST_TURNS and alike[1:].mean() >= LEAST_SHARE:
            steps = int(step[0]) if measure.told else None if measure.most else 0
            yield Turns(at, size, times, tuple(alike.ravel().tolist()), steps)


def _stretches(events: Events, moved: IntArray, fits: BoolArray, size: int) -> Iterator[tuple[int, int]]:
    """Where each note comes again so many notes on, moved alike; one that differs does not end it."""
    alike = events.steps(1).alike(size) & fits[1:] & fits[:-1]
    alike &= (moved[1:] == moved[:-1]).all(axis=1)
    bridged: BoolArray = alike.copy()
    if size > 1 and len(moved) > 2:
        two = events.steps(2).alike(size) & fits[2:] & fits[:-2]
        two &= (moved[2:] == moved[:-2]).all(axis=1)
        bridged[:-1] |= two
        bridged[1:] |= two
    for begin, end in zip(*(side.tolist() for side in edges_of(bridged)), strict=True):
        if end - begin + 1 >= (LEAST_TURNS - 1) * size:
            yield begin, end


def _usual(vectors: IntArray) -> IntArray:
    values, counts = np.unique(vectors, axis=0, return_counts=True)
    return np.asarray(values[counts.argmax()])


def first_turn(beats: FloatArray) -> int:
    """Of the notes on which the first turn may begin, the one nearest to a beat; of several the first. beats: (n,)."""
    off = np.abs(beats - np.rint(beats))
    return int(np.argmax(off <= off.min() + 0.1))
