"""One decoding that explains everything that sounds: which note each stretch of the pitch curve belongs to, and how it
is moved.

The curve is read as plateaus and moves (`contour`). A state is a fretted pitch and how far the string is bent from it;
from plateau to plateau the note goes on, bent further or let down, or another begins, picked, hammered, pulled or slid
to. The cheapest explanation of the whole is found by dynamic programming (R. Bellman, 1957; segment models as in
M. Ostendorf et al., "From HMMs to segment models", IEEE Trans. Speech Audio Process. 4, 1996). Costs are in nats.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import groupby

import numpy as np

from notcher.core.arrays import FloatArray, IntArray
from notcher.core.hearing.contour import Contour, Unit, Wave, contour
from notcher.core.hearing.gestures import (
    AWAY,
    COSTS,
    INTO,
    OVER,
    PUSH,
    SHORT_FRAMES,
    Costs,
    Link,
    State,
    attack_costs,
    begun_cost,
    fit_cost,
    options,
    step_cost,
    ways_between,
)
from notcher.core.hearing.links import links_between, units_of
from notcher.core.hearing.voices import Beside

TWICE_FRAMES = 12  # 70 ms: nobody picks one string twice sooner
SLID_FROM_FRAMES = 24  # a note is held for 140 ms before the hand slides from it
LEAST_INTO_FRAMES, LEAST_INTO = 5, 0.8
LOOK_AHEAD_FRAMES = 4  # the pitch window reaches this far into the next note
SHARP, SHARP_FRAMES = 0.85, 16  # semitones, frames
BEAM, MOST_STATES = 10.0, 14  # nats; what is further behind does not catch up
USUAL_SLID, USUAL_SLID_IN = 0.12, 0.05  # shares of the unpicked and the picked notes, at home


@dataclass(frozen=True, slots=True)
class Decoded:
    """One note. how: pick, repick, legato, slide, or into (from no fret); bends: what is held at each of its units.

    first, last: frames, the last exclusive. own_last: up to here the pitch is its own. wave: its vibrato. from_nowhere,
    slides_away: a slide from or to no fret.
    """

    first: int
    last: int
    own_last: int
    fretted: int
    how: str
    bends: tuple[float, ...]
    wave: Wave | None
    from_nowhere: bool = False
    slides_away: bool = False


@dataclass(frozen=True, slots=True)
class Other:
    """Another explanation of a stretch, the cheapest of all that take one step in it otherwise.

    behind: nats that it costs more. notes: what it would put in the place of the notes first..last (exclusive) of the
    explanation that was chosen. at: which of them stands for the note that it is another reading of.
    """

    behind: float
    first: int
    last: int
    notes: tuple[Decoded, ...]
    at: int


@dataclass(frozen=True, slots=True, eq=False)
class Explained:
    """The notes in time order, of each its other readings (the likeliest first), and the curve as it was read."""

    notes: list[Decoded]
    others: list[list[Other]]
    curve: Contour


def decoded(
    midi: FloatArray,
    moments: IntArray,
    chance: FloatArray,
    *,
    slid: FloatArray | None = None,
    slid_in: FloatArray | None = None,
    low: FloatArray | None = None,
    beside: Beside | None = None,
    costs: Costs = COSTS,
) -> Explained:
    """Explain a pitch curve.

    midi: shape (n_frames,), semitones without the tuning's offset, NaN where silent. moments, chance: shape (n,), the
    frames where an attack could be and how likely each is one. slid, slid_in: shape (n,), how likely a slide arrives
    there, if it is none, and how likely a hand slides in from no fret, if it is one; low: see `units_of`; beside: what
    other strings do; None where nobody has listened.
    """
    found = contour(midi)
    nobody = np.zeros(moments.size)
    units, joined = units_of(found, moments, chance, nobody if low is None else low)
    if not units:
        return Explained([], [], found)
    slides = (
        nobody if slid is None else _odds(slid, USUAL_SLID),
        nobody if slid_in is None else _odds(slid_in, USUAL_SLID_IN),
    )
    links = links_between(units, joined, found.trend, moments, chance, slides, beside)
    lattice = _lattice(units, links, costs)
    rows = lattice.best()
    path = lattice.path(rows)
    spans = _notes(units, links, path)
    return Explained([span.note for span in spans], _others(units, links, lattice, rows, spans, costs), found)


def _odds(chance: FloatArray, usual: float) -> FloatArray:
    """How much likelier than usual something is, log-odds."""
    sure = np.clip(chance, 0.02, 0.98)
    return np.asarray(np.log(sure / (1 - sure)) - math.log(usual / (1 - usual)))


# --- the cheapest explanation ---
@dataclass(frozen=True, slots=True, eq=False)
class _Column:
    """What is kept of one unit: its states, the cheapest way to each, and every step that leads there.

    spent, came: shape (n_states,), the cost up to here and the row of the unit before that it is reached from (-1 at
    the start). steps: shape (n_states of the unit before, n_states), costs, with ways their names.
    """

    states: list[State]
    spent: FloatArray
    came: IntArray
    steps: FloatArray
    ways: list[list[str]]


Path = list[tuple[State, str]]
"""Of each unit its state and how it was come by: same, pick, legato, slide, repick, into, away."""


@dataclass(frozen=True, slots=True, eq=False)
class _Lattice:
    """All explanations that were kept, and what is cheapest from each state on."""

    columns: list[_Column]
    ahead: Sequence[FloatArray]
    onward: Sequence[IntArray]

    def best(self) -> list[int]:
        """The row of each unit on the cheapest way through all."""
        rows = [int(np.argmin(self.columns[-1].spent))]
        for column in reversed(self.columns):
            rows.append(int(column.came[rows[-1]]))
        return rows[-2::-1]

    def path(self, rows: list[int]) -> Path:
        return [
            (column.states[row], column.ways[max(before, 0)][row])
            for column, row, before in zip(self.columns, rows, [0, *rows], strict=False)
        ]

    def through(self, at: int, before: int, row: int, rows: list[int], path: Path) -> Path:
        """The cheapest explanation that takes one step: from a row of the unit before to a row of the unit `at`.

        rows, path: the cheapest of all, which it leaves for as short as it can.
        """
        other = path.copy()
        other[at] = self.columns[at].states[row], self.columns[at].ways[before][row]
        earlier, here = at - 1, before
        while earlier >= 0 and here != rows[earlier]:
            column, came = self.columns[earlier], int(self.columns[earlier].came[here])
            other[earlier] = column.states[here], column.ways[max(came, 0)][here]
            earlier, here = earlier - 1, came
        later = at + 1
        while later < len(self.columns):
            row, last = int(self.onward[later - 1][row]), row
            other[later] = self.columns[later].states[row], self.columns[later].ways[last][row]
            if row == rows[later]:
                break
            later += 1
        return other


def _lattice(units: list[Unit], links: list[Link], costs: Costs) -> _Lattice:
    # what it costs to be here, the frame at which this note began, and how often it was bent or let down
    total: dict[State, tuple[float, int, int]] = {}
    silent_from = [unit.last for unit in units]
    for at in range(len(units) - 2, -1, -1):
        silent_from[at] = units[at].last if links[at + 1].silent else silent_from[at + 1]
    columns: list[_Column] = []
    for at, (unit, link) in enumerate(zip(units, links, strict=True)):
        over = at + 1 == len(units) or links[at + 1].silent
        now: dict[State, tuple[float, int, int]] = {}
        came: list[int] = []
        attack = attack_costs(units[at - 1], unit, link, costs) if at else (0.0, 0.0)
        states = options(unit, list(total))
        steps = np.full((max(1, len(total)), len(states)), np.inf)
        ways = [[""] * len(states) for _ in range(max(1, len(total)))]
        for row, state in enumerate(states):
            best, source, begun, moves = math.inf, -1, unit.first, int(state.bend > 0)
            if not total:
                best, ways[0][row] = begun_cost(state, link, costs)
                steps[0, row] = best
            for place, (before, (spent, since, bent)) in enumerate(total.items()):
                if state.slid == PUSH and (before.fretted != state.fretted or before.slid not in ("", PUSH)):
                    continue
                cost, way = step_cost(before, state, units[at - 1], unit, link, attack, costs)
                moved = way == "same" and state.bend != before.bend and not state.slid and before.slid != INTO
                cost += costs.again if moved and bent > 1 and min(state.bend, before.bend) >= 0 else 0.0
                if state.slid in (AWAY, OVER) and before.slid != state.slid:  # a hand slides from where it was
                    held = units[at - 1].last - since
                    cost += costs.too_short * max(0.0, 1 - held / SLID_FROM_FRAMES)
                if way == "slide":  # nor does it slide to where it does not stay
                    cost += costs.too_short * max(0.0, 1 - (silent_from[at] - link.arrival) / SLID_FROM_FRAMES)
                if way != "same" and before.slid != OVER:
                    until = link.pick_frame if way in ("pick", "repick") else link.arrival
                    least = {"slide": SLID_FROM_FRAMES, "pick": TWICE_FRAMES}.get(way, SHORT_FRAMES)
                    short = least - (units[at - 1].last if link.silent else until) + since
                    cost += costs.too_short * max(0.0, short / least)
                steps[place, row], ways[place][row] = cost, way
                if spent + cost < best:
                    best, source = spent + cost, place
                    moves = bent + moved if way == "same" else int(state.bend > 0)
                    begun = since if way == "same" else link.pick_frame if way in ("pick", "repick") else link.arrival
                    if before.slid == INTO and not state.slid:  # only here the note comes to rest
                        begun = link.arrival
            fit = fit_cost(unit, state, costs, last=over)
            if not state.slid and state.bend == 0 and unit.last - begun <= SHARP_FRAMES:
                off = unit.level - state.fretted  # a hard pluck stretches the string for a moment
                fit = min(fit, costs.sharp) if 0 < off < SHARP else fit
            steps[:, row] += fit
            now[state] = (best + fit, begun, moves)
            came.append(source)
        bound = BEAM + min(cost for cost, _, _ in now.values())
        ranked = sorted((value, number) for number, value in enumerate(now.values()) if value[0] <= bound)
        rows = [number for _, number in ranked[:MOST_STATES]]
        total = {states[number]: now[states[number]] for number in rows}
        columns.append(
            _Column(
                list(total),
                np.array([cost for cost, _, _ in total.values()]),
                np.array(came)[rows],
                steps[:, rows],
                [[line[number] for number in rows] for line in ways],
            )
        )
    ahead, onward = [np.zeros(len(columns[-1].states))], []
    for column in reversed(columns[1:]):
        rest = column.steps + ahead[-1]
        onward.append(rest.argmin(axis=1))
        ahead.append(rest.min(axis=1))
    return _Lattice(columns, ahead[::-1], onward[::-1])


# --- what else it could be ---
FAR_BEHIND, MOST_STEPS, MOST_OTHERS = 6.0, 8, 4  # nats, of each unit, of each note
AROUND_UNITS = 24


def _others(
    units: list[Unit], links: list[Link], lattice: _Lattice, rows: list[int], spans: "list[_Span]", costs: Costs
) -> list[list[Other]]:
    """Of each note the cheapest explanations that read it otherwise. rows: of the units, on the chosen path."""
    path = lattice.path(rows)
    least = float(lattice.columns[-1].spent.min())
    found: list[list[Other]] = [[] for _ in spans]
    for number, span in enumerate(spans):
        readings: dict[tuple[object, ...], Other] = {}
        chosen = _said((span.note,), 0)
        for at in range(span.begun, span.ended):
            column = lattice.columns[at]
            before = lattice.columns[at - 1].spent if at else np.zeros(1)
            behind = before[:, None] + column.steps + lattice.ahead[at] - least
            nearest = np.argsort(behind, axis=None)[:MOST_STEPS]
            for place, row in zip(*np.unravel_index(nearest, behind.shape), strict=True):
                if behind[place, row] > FAR_BEHIND:
                    break
                other = lattice.through(at, int(place), int(row), rows, path)
                for dearer, how in _ways_at(units, links, other, at, costs):
                    other[at] = other[at][0], how
                    local = _local(units, links, other, path, spans, number)
                    if local is None:
                        continue
                    said = _said(local.notes, local.at)
                    cost = max(0.0, float(behind[place, row]) + dearer)
                    if said != chosen and (said not in readings or readings[said].behind > cost):
                        readings[said] = replace(local, behind=cost)
        found[number] = sorted(readings.values(), key=lambda other: other.behind)[:MOST_OTHERS]
    return found


def _ways_at(units: list[Unit], links: list[Link], path: Path, at: int, costs: Costs) -> list[tuple[float, str]]:
    """The way a path takes to a unit, and the others between the same two states, each with what more it costs."""
    state, chosen = path[at]
    if at == 0 or links[at].silent or state.slid or path[at - 1][0].slid:
        return [(0.0, chosen)]
    attack = attack_costs(units[at - 1], units[at], links[at], costs)
    ways = sorted(ways_between(path[at - 1][0], state, units[at - 1], units[at], links[at], attack, costs))
    return [(cost - ways[0][0], how) for cost, how in ways if how == chosen or cost - ways[0][0] < FAR_BEHIND]


def _said(notes: tuple[Decoded, ...], at: int) -> tuple[object, ...]:
    """What a person would call a note, without its exact times."""
    note = notes[at]
    gesture = tuple(bend for bend, _ in groupby(note.bends))
    return note.fretted, note.how, gesture, note.from_nowhere, note.slides_away, len(notes) - at


def _local(
    units: list[Unit], links: list[Link], other: Path, path: Path, spans: "list[_Span]", number: int
) -> Other | None:
    """What another path writes around a note: the notes from where the two part to where they meet again."""
    first, last = number, number + 1
    while first > 0 and (other[at := spans[first].begun][1] == "same" or other[at - 1] != path[at - 1]):
        first -= 1
    while last < len(spans) and other[spans[last].begun] != path[spans[last].begun]:
        last += 1
    if spans[last - 1].begun - spans[first].begun > AROUND_UNITS:
        return None
    begun, ended = spans[first].begun, spans[last].begun if last < len(spans) else len(units)
    stop = min(ended + 1, len(units))
    found = _notes(units[begun:stop], links[begun:stop], other[begun:stop])
    written = [span.note for span in found if span.begun + begun < ended]
    if not written:
        return None
    begins = spans[number].note.first + 2
    inside = [k for k, note in enumerate(written) if note.first <= begins < note.last]
    if not inside:
        return None
    return Other(0.0, first, last, tuple(written), inside[0])


# --- what was found ---
@dataclass(frozen=True, slots=True)
class _Span:
    """A note and the units it was read from, begun..ended (exclusive)."""

    note: Decoded
    begun: int
    ended: int


def _notes(units: list[Unit], links: list[Link], path: Path) -> list[_Span]:
    notes: list[Decoded] = []
    begun: list[int] = []
    came_from = 0.0
    for at, (unit, link, (state, how)) in enumerate(zip(units, links, path, strict=True)):
        came_from = unit.level if how == INTO else came_from
        before = path[at - 1][0] if at else None
        after_in = before is not None and before.slid == INTO and not state.slid
        if how == "same" and notes and not (after_in and state.slid):
            note = notes[-1]
            came_away = before is not None and before.slid == AWAY
            if state.slid == AWAY and not note.slides_away and (link.beside or came_away):
                continue  # what is left where two strings end together belongs to either
            bends = note.bends if state.slid else (*note.bends, state.bend)
            away = note.slides_away or state.slid == AWAY
            own = note.own_last if state.slid in (AWAY, OVER) else unit.last
            fretted = state.fretted if after_in else note.fretted
            if after_in:  # what only passes through at the attack is no slide
                way = abs(unit.level - came_from)
                slid = unit.first - note.first >= LEAST_INTO_FRAMES and way > LEAST_INTO
                note = replace(note, from_nowhere=slid and not link.beside, bends=())
            wave = note.wave if note.wave is not None or state.slid else unit.wave
            notes[-1] = replace(
                note, last=unit.last, own_last=own, bends=bends, slides_away=away, fretted=fretted, wave=wave
            )
            continue
        picked = how in ("pick", "repick")
        struck = picked or (how == INTO and link.pick > 0.5)
        first = link.pick_frame if struck else unit.first if how == INTO else link.arrival
        if notes:
            first = max(first, notes[-1].first + 3)
            last = first if not link.silent or how == "slide" else min(first, notes[-1].last)
            own = min(notes[-1].own_last, units[at - 1].last, last)
            if picked and not link.silent and not notes[-1].slides_away:  # its pitch goes on until the next attack
                own = max(own, min(last - LOOK_AHEAD_FRAMES, last))
            notes[-1] = replace(notes[-1], last=last, own_last=own)
        wave = unit.wave if not state.slid else None
        notes.append(Decoded(first, unit.last, unit.last, state.fretted, how, (state.bend,), wave, how == INTO))
        begun.append(at)
    ends = [*begun[1:], len(units)]
    spans = [_Span(note, first, last) for note, first, last in zip(notes, begun, ends, strict=True)]
    return [span for span in spans if span.note.last - span.note.first >= 3]
