"""All explanations of a pitch curve that are worth keeping, and the cheapest way through them.

Dynamic programming over the units (R. Bellman, 1957): of each unit the states that are not far behind, the cheapest way
to each, and every step that leads there.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np

from notcher.core.arrays import FloatArray, IntArray
from notcher.core.hearing.contour import Unit
from notcher.core.hearing.costs import SHORT_FRAMES, Costs
from notcher.core.hearing.gestures import (
    FRETTED,
    PASSES,
    PICK,
    REPICK,
    SAME,
    SLIDE,
    SLIDES_IN,
    SLIDES_OFF,
    FingerState,
    Link,
    Priced,
    Transition,
    Way,
    begun_cost,
    fit_cost,
    options,
    step_cost,
    transition_between,
)

TWICE_FRAMES = 12  # 70 ms: nobody picks one string twice sooner
SLID_FROM_FRAMES = 24  # a note is held for 140 ms before the hand slides from it
SHARP, SHARP_FRAMES = 0.85, 16  # semitones, frames
BEAM, MOST_STATES = 10.0, 14  # nats; what is further behind does not catch up
LEAST_FRAMES = {SLIDE: SLID_FROM_FRAMES, PICK: TWICE_FRAMES}
"""How long the note before lasts at least, by how the next one is come by; else `SHORT_FRAMES`."""

Path = list[tuple[FingerState, Way]]
"""Of each unit its state and how it was come by."""


@dataclass(frozen=True, slots=True, eq=False)
class LatticeColumn:
    """What is kept of one unit: its states, the cheapest way to each, and every step that leads there.

    cost, backpointer: shape (n_states,), nats up to here and the row of the unit before that it is reached from (-1 at
    the start). steps: shape (n_states of the unit before, n_states), nats, with ways their names.
    """

    states: list[FingerState]
    cost: FloatArray
    backpointer: IntArray
    steps: FloatArray
    ways: list[list[Way]]


@dataclass(frozen=True, slots=True, eq=False)
class Lattice:
    """All explanations that were kept, and what is cheapest from each state on.

    ahead: of each unit, shape (n_states,), nats from there to the end. onward: of each but the last, the row of the
    next unit that this leads to.
    """

    columns: list[LatticeColumn]
    ahead: Sequence[FloatArray]
    onward: Sequence[IntArray]

    def best(self) -> list[int]:
        """Return the row of each unit on the cheapest way through all."""
        rows = [int(np.argmin(self.columns[-1].cost))]
        for column in reversed(self.columns):
            rows.append(int(column.backpointer[rows[-1]]))
        return rows[-2::-1]

    def path(self, rows: list[int]) -> Path:
        """Return the states that rows stand for, and how each was come by."""
        return [
            (column.states[row], column.ways[max(before, 0)][row])
            for column, row, before in zip(self.columns, rows, [0, *rows], strict=False)
        ]

    def through(self, at: int, before: int, row: int, rows: list[int], path: Path) -> Path:
        """Return the cheapest explanation that takes one step: from a row of the unit before to one of the unit `at`.

        rows, path: the cheapest of all, which it leaves for as short as it can.
        """
        other = path.copy()
        other[at] = self.columns[at].states[row], self.columns[at].ways[before][row]
        earlier, here = at - 1, before
        while earlier >= 0 and here != rows[earlier]:
            column, source = self.columns[earlier], int(self.columns[earlier].backpointer[here])
            other[earlier] = column.states[here], column.ways[max(source, 0)][here]
            earlier, here = earlier - 1, source
        later = at + 1
        while later < len(self.columns):
            row, last = int(self.onward[later - 1][row]), row
            other[later] = self.columns[later].states[row], self.columns[later].ways[last][row]
            if row == rows[later]:
                break
            later += 1
        return other


class _Reached(NamedTuple):
    """A state on its cheapest way: nats up to here, the frame at which its note began, how often that was bent."""

    cost: float
    begun: int
    moves: int


def lattice_of(units: list[Unit], links: list[Link], costs: Costs) -> Lattice:
    """Return the lattice over all units. links: what lies before each."""
    reached: dict[FingerState, _Reached] = {}
    columns: list[LatticeColumn] = []
    silent_from = _silent_from(units, links)
    for at, (unit, link) in enumerate(zip(units, links, strict=True)):
        over = at + 1 == len(units) or links[at + 1].silent
        passage = transition_between(units[at - 1], unit, link, costs) if at else None
        column, reached = _Sweep(unit, link, passage, reached, silent_from[at], costs).column(over=over)
        columns.append(column)
    ahead, onward = [np.zeros(len(columns[-1].states))], []
    for column in reversed(columns[1:]):
        rest = column.steps + ahead[-1]
        onward.append(rest.argmin(axis=1))
        ahead.append(rest.min(axis=1))
    return Lattice(columns, ahead[::-1], onward[::-1])


def _silent_from(units: list[Unit], links: list[Link]) -> list[int]:
    """Of each unit the frame at which the next silence begins."""
    frames = [unit.last for unit in units]
    for at in range(len(units) - 2, -1, -1):
        if not links[at + 1].silent:
            frames[at] = frames[at + 1]
    return frames


@dataclass(slots=True, eq=False)
class _Sweep:
    """From the states of one unit to those of the next. kept: of the unit before; none at the start, nor a passage."""

    unit: Unit
    link: Link
    passage: Transition | None
    kept: dict[FingerState, _Reached]
    silent_from: int
    costs: Costs

    def column(self, *, over: bool) -> tuple[LatticeColumn, dict[FingerState, _Reached]]:
        """Return what is kept of the unit. over: a silence follows."""
        states = options(self.unit, list(self.kept))
        steps = np.full((max(1, len(self.kept)), len(states)), np.inf)
        ways = [[SAME] * len(states) for _ in range(max(1, len(self.kept)))]
        now: list[_Reached] = []
        sources: list[int] = []
        for row, state in enumerate(states):
            reached, source = self._reach(state, row, steps, ways)
            fit = self._fit(state, reached.begun, over=over)
            steps[:, row] += fit
            now.append(reached._replace(cost=reached.cost + fit))
            sources.append(source)
        rows = _worth_keeping(now)
        column = LatticeColumn(
            [states[row] for row in rows],
            np.array([now[row].cost for row in rows]),
            np.array(sources)[rows],
            steps[:, rows],
            [[line[row] for row in rows] for line in ways],
        )
        return column, {states[row]: now[row] for row in rows}

    def _reach(self, state: FingerState, row: int, steps: FloatArray, ways: list[list[Way]]) -> tuple[_Reached, int]:
        """The cheapest way to a state, its fit not counted, and where it comes from; every way is noted."""
        if self.passage is None:
            cost, ways[0][row] = begun_cost(state, self.link, self.costs)
            steps[0, row] = cost
            return _Reached(cost, self.unit.first, _moves_at_first(state)), -1
        best, source = _Reached(math.inf, self.unit.first, 0), -1
        for place, (before, reached) in enumerate(self.kept.items()):
            cost, way = self._step(before, reached, state, self.passage)
            steps[place, row], ways[place][row] = cost, way
            if reached.cost + cost < best.cost:
                begun, moves = self._note_of(before, reached, state, way)
                best, source = _Reached(reached.cost + cost, begun, moves), place
        return best, source

    def _step(self, before: FingerState, reached: _Reached, state: FingerState, passage: Transition) -> Priced:
        """What a step costs, with what follows from how long the note before has lasted."""
        costs, held_frames = self.costs, passage.left.last - reached.begun
        cost, way = step_cost(before, state, passage, costs)
        if _bends(before, state, way) and reached.moves > 1 and min(state.bend, before.bend) >= 0:
            cost += costs.again
        if state.act in (SLIDES_OFF, PASSES) and before.act is not state.act:  # a hand slides from where it was
            cost += costs.too_short * max(0.0, 1 - held_frames / SLID_FROM_FRAMES)
        if way is SLIDE:  # nor does it slide to where it does not stay
            cost += costs.too_short * max(0.0, 1 - (self.silent_from - self.link.arrival) / SLID_FROM_FRAMES)
        if way is not SAME and before.act is not PASSES:
            least = LEAST_FRAMES.get(way, SHORT_FRAMES)
            lasted = (passage.left.last if self.link.silent else self._begins(way)) - reached.begun
            cost += costs.too_short * max(0.0, (least - lasted) / least)
        return cost, way

    def _begins(self, way: Way) -> int:
        """The frame at which a note that is come by in a way begins."""
        return self.link.pick_frame if way in (PICK, REPICK) else self.link.arrival

    def _note_of(self, before: FingerState, reached: _Reached, state: FingerState, way: Way) -> tuple[int, int]:
        """When the note that sounds in a state began, and how often it was bent."""
        begun, moves = self._begins(way), _moves_at_first(state)
        if way is SAME:
            begun, moves = reached.begun, reached.moves + _bends(before, state, way)
        if before.act is SLIDES_IN and state.act in FRETTED:  # only here the note comes to rest
            begun = self.link.arrival
        return begun, moves

    def _fit(self, state: FingerState, begun: int, *, over: bool) -> float:
        fit = fit_cost(self.unit, state, self.costs, last=over)
        off = self.unit.level - state.fretted  # a hard pluck stretches the string for a moment
        if state.flat and self.unit.last - begun <= SHARP_FRAMES and 0 < off < SHARP:
            return min(fit, self.costs.sharp)
        return fit


def _moves_at_first(state: FingerState) -> int:
    """How often a note was bent by the time it begins; a slide in from below counts as once."""
    return int(state.bend > 0 or state.direction > 0)


def _bends(before: FingerState, state: FingerState, way: Way) -> bool:
    """Whether a step bends the string of a note that goes on, or lets it down."""
    fretted = state.act in FRETTED and before.act is not SLIDES_IN
    return way is SAME and fretted and state.bend != before.bend


def _worth_keeping(reached: list[_Reached]) -> list[int]:
    """The rows of the states that may still be on the cheapest way, the cheapest first."""
    bound = BEAM + min(state.cost for state in reached)
    ranked = sorted((state, row) for row, state in enumerate(reached) if state.cost <= bound)
    return [row for _, row in ranked[:MOST_STATES]]
