"""One decoding that explains everything that sounds: which note each stretch of the pitch curve belongs to, and how it
is moved.

The curve is read as plateaus and moves (`contour`). A state is a fretted pitch and how far the string is bent from it;
from plateau to plateau the note goes on, bent further or let down, or another begins, picked, hammered, pulled or slid
to. The cheapest explanation of the whole is found by dynamic programming (R. Bellman, 1957; segment models as in
M. Ostendorf et al., "From HMMs to segment models", IEEE Trans. Speech Audio Process. 4, 1996). Costs are in nats.
"""

import math
from dataclasses import dataclass, field, replace
from itertools import groupby

import numpy as np

from notcher.core.arrays import FloatArray, IntArray
from notcher.core.hearing.contour import Contour, Unit, Wave, contour
from notcher.core.hearing.costs import COSTS, Costs
from notcher.core.hearing.gestures import (
    FRETTED,
    INTO,
    PASSES,
    PICK,
    REPICK,
    SAME,
    SLIDE,
    SLIDES_IN,
    SLIDES_OFF,
    FingerState,
    Link,
    Way,
    transition_between,
    ways_between,
)
from notcher.core.hearing.lattice import Lattice, Path, lattice_of
from notcher.core.hearing.links import links_between, units_of
from notcher.core.hearing.voices import Beside

LEAST_NOTE_FRAMES = 3  # 17 ms: shorter than any struck note that is heard as a pitch
LEAST_INTO_FRAMES, LEAST_INTO = 5, 0.8  # 29 ms and most of a semitone: less is the string settling
LOOK_AHEAD_FRAMES = 4  # the pitch window reaches this far into the next note
USUAL_SLID, USUAL_SLID_IN = 0.12, 0.05  # shares of the unpicked and the picked notes, in the tuning set


@dataclass(frozen=True, slots=True)
class Decoded:
    """One note. way: how it was come by; bends: semitones held at each of its units (`UNDER_BAR` where a bar pulls).

    first, last: frames, the last exclusive. own_last: up to here the pitch is its own. wave: its vibrato. from_nowhere,
    slides_away: a slide from or to no fret. direction: of a slide that it begins with, up 1, down -1.
    """

    first: int
    last: int
    own_last: int
    fretted: int
    way: Way
    bends: tuple[float, ...]
    wave: Wave | None
    from_nowhere: bool = False
    slides_away: bool = False
    direction: int = 0


@dataclass(frozen=True, slots=True)
class DecodedAlternative:
    """Another explanation of a stretch, the cheapest of all that take one step in it otherwise.

    behind: nats that it costs more. notes: what it would put in the place of the notes first..last (exclusive) of the
    explanation that was chosen. at: which of them stands for the note that it is another reading of.
    """

    cost_delta: float
    first: int
    last: int
    notes: tuple[Decoded, ...]
    at: int


@dataclass(frozen=True, slots=True, eq=False)
class Explained:
    """The notes in time order, of each its other readings (the likeliest first), and the curve as it was read."""

    notes: list[Decoded]
    others: list[list[DecodedAlternative]]
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
    pitch_contour = contour(midi)
    nobody = np.zeros(moments.size)
    units, joined = units_of(pitch_contour, moments, chance, nobody if low is None else low)
    if not units:
        return Explained([], [], pitch_contour)
    slides = (
        nobody if slid is None else _odds(slid, USUAL_SLID),
        nobody if slid_in is None else _odds(slid_in, USUAL_SLID_IN),
    )
    links = links_between(units, joined, pitch_contour.trend, moments, chance, slides, beside)
    lattice = lattice_of(units, links, costs)
    rows = lattice.best()
    path = lattice.path(rows)
    spans = _notes(units, links, path)
    return Explained([span.note for span in spans], _others(units, links, lattice, rows, spans, costs), pitch_contour)


def _odds(chance: FloatArray, usual: float) -> FloatArray:
    """How much likelier than usual something is, log-odds."""
    sure = np.clip(chance, 0.02, 0.98)
    return np.asarray(np.log(sure / (1 - sure)) - math.log(usual / (1 - usual)))


# --- what else it could be ---
FAR_BEHIND, MOST_STEPS, MOST_OTHERS = 6.0, 8, 4  # nats, of each unit, of each note
AROUND_UNITS = 24  # as far as one note could tell on another


def _others(
    units: list[Unit], links: list[Link], lattice: Lattice, rows: list[int], spans: "list[_Span]", costs: Costs
) -> list[list[DecodedAlternative]]:
    """Of each note the cheapest explanations that read it otherwise. rows: of the units, on the chosen path."""
    path = lattice.path(rows)
    least = float(lattice.columns[-1].cost.min())
    result: list[list[DecodedAlternative]] = [[] for _ in spans]
    for number, span in enumerate(spans):
        readings: dict[tuple[object, ...], DecodedAlternative] = {}
        chosen = _said((span.note,), 0)
        for at in range(span.begun, span.ended):
            column = lattice.columns[at]
            before = lattice.columns[at - 1].cost if at else np.zeros(1)
            cost_delta = before[:, None] + column.steps + lattice.ahead[at] - least
            nearest = np.argsort(cost_delta, axis=None)[:MOST_STEPS]
            for place, row in zip(*np.unravel_index(nearest, cost_delta.shape), strict=True):
                if cost_delta[place, row] > FAR_BEHIND:
                    break
                other = lattice.through(at, int(place), int(row), rows, path)
                for dearer, way in _ways_at(units, links, other, at, costs):
                    other[at] = other[at][0], way
                    local = _local(units, links, other, path, spans, number)
                    if local is None:
                        continue
                    best = _said(local.notes, local.at)
                    cost = max(0.0, float(cost_delta[place, row]) + dearer)
                    if best != chosen and (best not in readings or readings[best].cost_delta > cost):
                        readings[best] = replace(local, cost_delta=cost)
        result[number] = sorted(readings.values(), key=lambda other: other.cost_delta)[:MOST_OTHERS]
    return result


def _ways_at(units: list[Unit], links: list[Link], path: Path, at: int, costs: Costs) -> list[tuple[float, Way]]:
    """The way a path takes to a unit, and the others between the same two states, each with what more it costs."""
    state, chosen = path[at]
    if at == 0 or links[at].silent or not {state.act, path[at - 1][0].act} <= set(FRETTED):
        return [(0.0, chosen)]
    passage = transition_between(units[at - 1], units[at], links[at], costs)
    ways = sorted(ways_between(path[at - 1][0], state, passage, costs))
    return [(cost - ways[0][0], way) for cost, way in ways if way is chosen or cost - ways[0][0] < FAR_BEHIND]


def _said(notes: tuple[Decoded, ...], at: int) -> tuple[object, ...]:
    """What a person would call a note, without its exact times."""
    note = notes[at]
    gesture = tuple(bend for bend, _ in groupby(note.bends))
    return note.fretted, note.way, note.direction, gesture, note.from_nowhere, note.slides_away, len(notes) - at


def _local(
    units: list[Unit], links: list[Link], other: Path, path: Path, spans: "list[_Span]", number: int
) -> DecodedAlternative | None:
    """What another path writes around a note: the notes from where the two part to where they meet again."""
    first, last = number, number + 1
    while first > 0 and (other[at := spans[first].begun][1] is SAME or other[at - 1] != path[at - 1]):
        first -= 1
    while last < len(spans) and other[spans[last].begun] != path[spans[last].begun]:
        last += 1
    if spans[last - 1].begun - spans[first].begun > AROUND_UNITS:
        return None
    begun, ended = spans[first].begun, spans[last].begun if last < len(spans) else len(units)
    stop = min(ended + 1, len(units))
    decoded_notes = _notes(units[begun:stop], links[begun:stop], other[begun:stop])
    written = [span.note for span in decoded_notes if span.begun + begun < ended]
    if not written:
        return None
    begins = spans[number].note.first + 2
    inside = [k for k, note in enumerate(written) if note.first <= begins < note.last]
    if not inside:
        return None
    return DecodedAlternative(0.0, first, last, tuple(written), inside[0])


# --- what was found ---
@dataclass(frozen=True, slots=True)
class _Span:
    """A note and the units it was read from, begun..ended (exclusive)."""

    note: Decoded
    begun: int
    ended: int


def _notes(units: list[Unit], links: list[Link], path: Path) -> list[_Span]:
    """The notes that a path writes, each with its units."""
    writer = _Writer()
    for at, (unit, link, (state, way)) in enumerate(zip(units, links, path, strict=True)):
        writer.came_from = unit.level if way is INTO else writer.came_from
        before = path[at - 1][0] if at else None
        arrives = before is not None and before.act is SLIDES_IN and state.act in FRETTED
        if way is SAME and writer.notes:
            writer.go_on(unit, link, state, before, arrives=arrives)
        else:
            writer.begin(unit, link, state, way, at, units[at - 1].last if at else 0)
    ends = [*writer.begun[1:], len(units)]
    spans = [_Span(*row) for row in zip(writer.notes, writer.begun, ends, strict=True)]
    return [span for span in spans if span.note.last - span.note.first >= LEAST_NOTE_FRAMES]


@dataclass(slots=True, eq=False)
class _Writer:
    """Notes as they are read off a path. begun: the unit that each begins at. came_from: where a slide in began."""

    notes: list[Decoded] = field(default_factory=list)
    begun: list[int] = field(default_factory=list)
    came_from: float = 0.0

    def go_on(self, unit: Unit, link: Link, state: FingerState, before: FingerState | None, *, arrives: bool) -> None:
        """Let the last note sound on through a unit. arrives: it comes to rest here after a slide from no fret."""
        note, fretted = self.notes[-1], state.act in FRETTED
        came_away = before is not None and before.act is SLIDES_OFF
        if state.act is SLIDES_OFF and not note.slides_away and (link.beside or came_away):
            return  # what is left where two strings end together belongs to either
        if arrives:  # what only passes through at the attack is no slide
            far = unit.first - note.first >= LEAST_INTO_FRAMES and abs(unit.level - self.came_from) > LEAST_INTO
            note = replace(note, from_nowhere=far and not link.beside, fretted=state.fretted)
        self.notes[-1] = replace(
            note,
            last=unit.last,
            own_last=note.own_last if state.act in (SLIDES_OFF, PASSES) else unit.last,
            bends=(*note.bends, state.bend) if fretted else note.bends,
            slides_away=note.slides_away or state.act is SLIDES_OFF,
            wave=unit.wave if note.wave is None and fretted else note.wave,
        )

    def begin(self, unit: Unit, link: Link, state: FingerState, way: Way, at: int, before_last: int) -> None:
        """Begin a note at a unit, and end the one before. before_last: where the unit before ends."""
        struck = way in (PICK, REPICK) or (way is INTO and link.pick > 0.5)
        first = link.pick_frame if struck else unit.first if way is INTO else link.arrival
        if self.notes:
            first = max(first, self.notes[-1].first + LEAST_NOTE_FRAMES)
            self._end_before(first, link, way, before_last)
        wave = unit.wave if state.act in FRETTED else None
        self.notes.append(
            Decoded(
                first,
                unit.last,
                unit.last,
                state.fretted,
                way,
                (state.bend,),
                wave,
                way is INTO,
                direction=state.direction,
            )
        )
        self.begun.append(at)

    def _end_before(self, first: int, link: Link, way: Way, before_last: int) -> None:
        """End the last note where the next begins."""
        note = self.notes[-1]
        last = first if not link.silent or way is SLIDE else min(first, note.last)
        own = min(note.own_last, before_last, last)
        if way in (PICK, REPICK) and not link.silent and not note.slides_away:  # it sounds until the next attack
            own = max(own, min(last - LOOK_AHEAD_FRAMES, last))
        self.notes[-1] = replace(note, last=last, own_last=own)
