"""Groups that a hand turns by their outline alone: up and down, from string to string, picked and slurred alike, on
other notes each time.

A stretch in which every step goes as the one a turn later does. Such stretches come by chance as well, the more easily
the fewer ways of going a solo has; only what would not come so is told: each step that agrees is worth the bits of the
chance that two steps of this solo agree which follow steps that agreed (a line that went up mostly comes down).

Source of grouping by contour: R. Friedmann, "A methodology for the discussion of contour", Journal of Music Theory 29,
1985 (the contour adjacency series: the signs of the steps; from memory).
"""

from collections.abc import Iterable

import numpy as np

from notcher.core.arrays import BoolArray, FloatArray, IntArray
from notcher.core.patterns.chance import Background
from notcher.core.patterns.events import Events
from notcher.core.patterns.transpositions import edges_of
from notcher.core.patterns.turns import LEAST_TURNS, Turns, first_turn

OUTLINE_SIZES = range(2, 8)  # from two notes to what the ear still takes for one group (G. Miller, 1956: seven)


def outlines(events: Events, struck: BoolArray, background: Background, claimed: Iterable[Turns]) -> list[Turns]:
    """Return the groups that are alike in outline only, in time order; nothing inside what is told already.

    struck: shape (n_notes,), whether the hand plucks the note; where one note of a turn is, the turn begins with it.
    claimed: figures that are told note for note.
    """
    count = len(events)
    if count < LEAST_TURNS * 2:
        return []
    symbols = _symbols(events, struck)
    of_step = np.unique(symbols, axis=0, return_inverse=True)[1].reshape(-1)
    bits = np.concatenate([[0.0], np.cumsum(_bits(of_step))])
    covered = np.zeros(count, dtype=bool)
    for figure in claimed:
        covered[figure.first : figure.last + 1] = True
    turns: list[Turns] = []
    for size in OUTLINE_SIZES:
        alike = np.zeros(max(0, of_step.size - size), dtype=bool)
        alike[:] = of_step[size:] == of_step[: alike.size]
        alike &= events.steps(1).alike(size)
        for begin, end in zip(*(side.tolist() for side in edges_of(alike)), strict=True):
            length = end - begin + 2 + size  # notes
            if length < LEAST_TURNS * size or bits[end + 1] - bits[begin] < background.asked:
                continue
            if _of_smaller(of_step[begin : begin + size]) or covered[begin : begin + length].any():
                continue
            at = begin + _begins(struck[begin : begin + size], events.beats[begin : begin + size])
            times = (begin + length - at) // size
            if times >= LEAST_TURNS:
                turns.append(Turns(at, size, times, (True,) * (size * times)))
                covered[at : at + size * times] = True
    return sorted(turns, key=lambda turned: turned.first)


def _symbols(events: Events, struck: BoolArray) -> IntArray:
    """What each step does: up or down, to which string, onto a plucked note or not; shape (n_notes - 1, 3)."""
    return np.stack([np.sign(np.diff(events.midi)), np.sign(np.diff(events.string)), struck[1:]], axis=1).astype(
        np.int64
    )


def _bits(of_step: IntArray) -> FloatArray:
    """How much it says that a step agrees with another, both after steps like the one before it; shape (n_steps,)."""
    kinds = int(of_step.max()) + 1
    follows = np.zeros((kinds, kinds))
    np.add.at(follows, (of_step[:-1], of_step[1:]), 1.0)
    shares = follows / np.maximum(follows.sum(axis=1, keepdims=True), 1.0)
    alike = np.maximum((shares**2).sum(axis=1), 1 / kinds)
    return np.concatenate([[0.0], -np.log2(alike[of_step[:-1]])])


def _of_smaller(turn: IntArray) -> bool:
    """Whether a turn is itself made of equal parts; a run that goes on in one way is no group."""
    sizes = [part for part in range(1, turn.size) if turn.size % part == 0]
    return any((turn == np.tile(turn[:part], turn.size // part)).all() for part in sizes)


def _begins(struck: BoolArray, beats: FloatArray) -> int:
    """With which of its notes a turn begins: the only plucked one is its accent, else the beat says."""
    return int(np.argmax(struck)) if np.count_nonzero(struck) == 1 else first_turn(beats)
