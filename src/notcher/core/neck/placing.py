"""The placing solver: the cheapest walk of the hand through a solo's pitches.

Notes struck together are one event. A state of an event is a place for each of its notes, the fingers that take them
and where the hand sits (the fret under the first finger). The walk with the least cost is found by dynamic programming
(R. Bellman, "Dynamic Programming", 1957; for guitars: S. Sayegh, "Fingering for string instruments with the optimum
path paradigm", Computer Music Journal 13, 1989). The costs put common practice into numbers (no source): stay where
the hand is, shift when there is time, bend with the third finger backed by two, not on wound strings, a legato chain
on one string, a repeated lick on the strings it had before.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from enum import StrEnum
from functools import lru_cache
from itertools import groupby, pairwise, product

import numpy as np

from notcher.core.arrays import BoolArray, FloatArray, IntArray
from notcher.core.errors import NotcherError
from notcher.core.neck.boxes import box_costs, home_frets
from notcher.core.neck.costs import COSTS
from notcher.core.neck.fretboard import Place, harmonic_places, places
from notcher.core.neck.hand import LAST_HAND, POSITIONS, USUAL_GAP_MM, grips, over_easy_mm, reach_cost
from notcher.core.patterns import moved_cells, repeats
from notcher.core.score import (
    CARELESS_SEMITONES,
    LAST_FRET,
    LEGATO_ATTACKS,
    LINK_S,
    Attack,
    Note,
    Score,
    Tone,
    Tuning,
    held_together,
    struck_together,
)
from notcher.core.theory import likely_scales

HAND_REACH = 4  # frets between a hand's outer fingers
LEAST_ARPEGGIO, THIRD, FOURTH = 4, 3, 5  # notes, semitones
PIECE_NOTES = 4_000
"""Placed at once: a fifth of a gigabyte; no solo has so many."""
LEAST_FOR_SCALE = 6  # notes from which on a line tells its scale


class PlaceError(NotcherError):
    """A pitch that this neck does not have."""


@dataclass(frozen=True, slots=True)
class FingeringStyle:
    """How much a style minds each thing."""

    shift: float
    crossing: float
    stretch: float
    height: float


FINGERING_STYLES: dict[str, FingeringStyle] = {
    "position": FingeringStyle(shift=1.0, crossing=1.0, stretch=1.0, height=1.0),
    "string": FingeringStyle(shift=0.35, crossing=3.0, stretch=1.0, height=0.6),
    "easy": FingeringStyle(shift=1.2, crossing=0.8, stretch=2.5, height=1.6),
}


@dataclass(frozen=True, slots=True)
class Sounding:
    """What the solver needs to know of a note: when, which fretted pitch, how struck, how far bent; a lock if any.

    harmonic_midi: of a natural harmonic the pitch that sounds; it may be touched wherever that partial is.
    near_fret: where the instructor wants the hand, if anywhere. string_costs: how unlike each string it sounds.
    locked_frets, lock_weight: the lowest and the highest fret that was told of this position, and how much they count
    here, 0..1.
    """

    onset_s: float
    offset_s: float
    fretted_midi: float
    attack: Attack = Attack.PICK
    bend_semitones: float = 0.0
    tone: Tone = Tone.NORMAL
    lock: Place | None = None
    harmonic_midi: float | None = None
    near_fret: int | None = None
    string_costs: tuple[float, ...] | None = None
    locked_frets: tuple[int, int] = (0, 0)
    lock_weight: float = 0.0


class PlacingObstacle(StrEnum):
    """What a place is paid for with; behind each what `PlacingReason.amount` holds."""

    SHIFT = "shift"  # frets
    CROSSING = "crossing"
    FINGER = "finger"
    HELD = "held"
    SLIDE = "slide"
    STRETCH = "stretch"  # millimetres
    HEIGHT = "height"  # the fret
    OPEN = "open"
    BEND = "bend"
    WISH = "wish"
    HOME = "home"
    SOUND = "sound"
    SHAPE = "shape"
    PARTED = "parted"  # no hand can do it: it is parted from a note that it runs into or sounds with


@dataclass(frozen=True, slots=True)
class PlacingReason:
    """Why a place costs more than another: what most of it is paid for, and how much of that."""

    kind: PlacingObstacle
    amount: float = 0.0


@dataclass(frozen=True, slots=True)
class PlaceAlternative:
    """A place, what it would cost more than the best, and why (None for the best)."""

    place: Place
    cost: float
    reason: PlacingReason | None = None

    @property
    def possible(self) -> bool:
        """Whether a hand can do it."""
        return self.cost < COSTS.forbidden


@dataclass(frozen=True, slots=True)
class Placed:
    """A note's chosen place and finger, every place it could have, cheapest first, and where the hand sits: the fret
    under the first finger."""

    place: Place
    finger: int
    alternatives: tuple[PlaceAlternative, ...]
    hand: int = 1

    @property
    def over_mm(self) -> float:
        """How far beyond an easy reach the finger stretches, millimetres."""
        return over_easy_mm(self.hand, self.place.fret, self.finger)


class _Grips:
    """Every way to hold the notes of one event: arrays over the ways, and what each costs whoever plays it."""

    def __init__(self, table: IntArray, capo: int) -> None:
        count = (table.shape[1] - 1) // 3
        self.hand = table[:, 0]
        self.string, self.fret, self.finger = (table[:, 1 + part * count : 1 + (part + 1) * count] for part in range(3))
        self.high, self.low = self.string.min(axis=1), self.string.max(axis=1)
        self.at_mm = POSITIONS[self.hand]
        fretted = self.finger > 0
        self.idle: BoolArray = np.all(self.finger == 0, axis=1)
        hand = np.broadcast_to(self.hand[:, None], self.fret.shape)
        self.stretch = np.where(fretted, reach_cost(hand, self.fret, self.finger), 0).sum(axis=1)
        above = sum(np.maximum(self.fret - fret, 0) * cost for fret, cost in COSTS.cramped)
        below = np.where(fretted, np.maximum(COSTS.low[0] - self.fret, 0) * COSTS.low[1], 0)
        from_string, from_fret, dull = COSTS.thick_string
        dull_tone_cost = np.where(self.string >= from_string, dull * np.maximum(self.fret - from_fret, 0), 0)
        self.height = (above + below + dull_tone_cost).sum(axis=1)
        # far from the nut an open string breaks the line's tone and the hand's grip
        out_of_place = np.array(COSTS.open_by_hand)[np.clip(self.hand - capo, 0, len(COSTS.open_by_hand) - 1)]
        self.open = (self.fret == capo).sum(axis=1) * out_of_place
        between = self.low - self.high + 1 - count
        self.skipped = COSTS.skipped_in_grip * between


def _summed(parts: dict[str, FloatArray]) -> FloatArray:
    return np.asarray(sum(parts.values()))


@dataclass(frozen=True, slots=True, eq=False)
class _Ground:
    """Where the scale lies: the frets of its home, and what lies beside its boxes (see `box_costs`), if it is known."""

    home: tuple[int, ...] = ()
    boxes: FloatArray | None = None


class _Event:
    """Notes struck together, and what each way to hold them costs."""

    def __init__(self, soundings: Sequence[Sounding], tuning: Tuning, weights: FingeringStyle, ground: _Ground) -> None:
        self.soundings = soundings
        self.in_arpeggio = False  # it goes on with a broken chord
        options = tuple(_candidate_places(sounding, tuning) for sounding in soundings)
        self.grips = grips = _held_together(options, soundings[0].attack is Attack.TAP, tuning.capo)
        self.parts = {
            "stretch": weights.stretch * grips.stretch,
            "height": weights.height * grips.height,
            "open": grips.open,
            "crossing": weights.crossing * grips.skipped,
        }
        if ground.home:
            away = np.abs(grips.hand[:, None] - np.array(ground.home)).min(axis=1)
            self._add("home", np.where(grips.idle, 0.0, COSTS.away_from_home * np.minimum(away, 3) / 3))
        if ground.boxes is not None:
            beside = ground.boxes[grips.string - 1, grips.fret, grips.hand[:, None]].sum(axis=1)
            self._add("home", np.where(grips.idle, 0.0, beside))
        for number, sounding in enumerate(soundings):
            if sounding.bend_semitones >= CARELESS_SEMITONES:
                where = (part[:, number] for part in (grips.string, grips.fret, grips.finger))
                self._add("bend", _bend_cost(sounding.bend_semitones, *where))
            if sounding.string_costs is not None:
                self._add("sound", np.array(sounding.string_costs)[grips.string[:, number] - 1])
            if sounding.near_fret is not None:
                off = np.abs(grips.hand + 1.5 - sounding.near_fret) - COSTS.wish_reach
                self._add("wish", COSTS.wish_fret * np.maximum(off, 0))
            if sounding.lock_weight:  # one hand reaches all that was told
                lowest, highest = sounding.locked_frets
                off = np.maximum(highest - COSTS.hand_span - grips.hand, 0)
                off = off + np.maximum(grips.hand - lowest - COSTS.told_slack, 0)
                self._add("wish", COSTS.wish_fret * sounding.lock_weight * off)

    def _add(self, name: str, cost: FloatArray) -> None:
        self.parts[name] = self.parts.get(name, 0.0) + cost

    @property
    def cost(self) -> FloatArray:
        return _summed(self.parts)

    @property
    def onset_s(self) -> float:
        return self.soundings[0].onset_s

    def wish_string(self, number: int, string: int, cost: float) -> None:
        """Make a note of the event dearer on any other string."""
        self._add("shape", np.where(self.grips.string[:, number] != string, cost, 0.0))


@dataclass(frozen=True, slots=True, eq=False)
class _Walk:
    """The solved walk. Per event and state the least cost up to it (`ahead`), from it on without and with its own
    (`behind`, `after`), and the state that the best walk takes."""

    events: list[_Event]
    moves: list[FloatArray]
    ahead: list[FloatArray]
    behind: list[FloatArray]
    after: list[FloatArray]
    path: list[int]

    def through(self, at: int, state: int) -> list[int]:
        """Return the states of the cheapest walk through one state of one event."""
        before, after = [state], [state]
        for event in range(at, 0, -1):
            before.append(int(np.argmin(self.ahead[event - 1] + self.moves[event - 1][:, before[-1]])))
        for event in range(at, len(self.events) - 1):
            onward = self.moves[event][after[-1]] + self.after[event + 1]
            after.append(int(np.argmin(onward)))
        return before[::-1] + after[1:]


def place(soundings: Sequence[Sounding], tuning: Tuning, *, style: str = "position", why: bool = False) -> list[Placed]:
    """Return a place for every note, so that the whole walk costs least.

    soundings: in time order. style: one of `FINGERING_STYLES`. why: say the reason for every cost (slower).
    Raises: PlaceError when a pitch lies outside the neck; ValueError for an unknown style.
    """
    if style not in FINGERING_STYLES:
        raise ValueError(f"style must be one of {', '.join(FINGERING_STYLES)}")
    if not soundings:
        return []
    weights = FINGERING_STYLES[style]
    ground = _ground(soundings, tuning)
    soundings = _pulled(soundings, tuning.capo)
    events = [_Event(part, tuning, weights, ground) for part in _together(soundings)]
    _mark_arpeggios(events)
    moves = [_summed(_move_parts(a, b, weights)) for a, b in pairwise(events)]
    walk = _solved(events, moves)
    if _wish_usual_strings(walk):
        walk = _solved(events, moves)
    placings: list[Placed] = []
    for at in range(len(events)):
        placings += _placed(walk, at, weights, why)
    return placings


def place_long(soundings: Sequence[Sounding], tuning: Tuning, *, style: str = "position") -> list[Placed]:
    """Return a place for every note as `place` does, of many notes in pieces, so that memory stays bounded.

    A piece ends at the longest rest of its second half; the hand begins the next anew.
    """
    placings: list[Placed] = []
    first = 0
    while first < len(soundings):
        last = len(soundings)
        if last - first > PIECE_NOTES:
            at = range(first + PIECE_NOTES // 2, first + PIECE_NOTES)
            last = max(at, key=lambda after: soundings[after].onset_s - soundings[after - 1].offset_s)
        placings += place(soundings[first:last], tuning, style=style)
        first = last
    return placings


def _ground(soundings: Sequence[Sounding], tuning: Tuning) -> _Ground:
    """Find the scale of a solo, and lay its boxes out; a few notes tell none."""
    if len(soundings) < LEAST_FOR_SCALE:
        return _Ground()
    scales = likely_scales(
        [some.fretted_midi + some.bend_semitones for some in soundings],
        [some.offset_s - some.onset_s for some in soundings],
    )
    return _Ground(home_frets(scales, tuning), box_costs(scales, tuning))


def _pulled(soundings: Sequence[Sounding], capo: int) -> list[Sounding]:
    """Let the places that were told pull the notes after them: a hand stays where it is, and reached all of them.

    After a rest it may have moved on, so the pull is weaker, and the next that is told begins anew. What the other hand
    taps and what is only touched tells nothing of where the hand is.
    """
    result: list[Sounding] = []
    pull_to, share, rested = (0, 0), 0.0, True
    for before, some in zip((None, *soundings), soundings, strict=False):
        if before is not None and _rests(before, some):
            share, rested = share * COSTS.told_across, True
        if some.lock is None:
            some = replace(some, locked_frets=pull_to, lock_weight=share) if share else some
        elif some.lock.fret > capo and some.tone is not Tone.NATURAL_HARMONIC and some.attack is not Attack.TAP:
            fret = some.lock.fret
            joined = min(pull_to[0], fret), max(pull_to[1], fret)
            pull_to = (fret, fret) if rested or joined[1] - joined[0] > HAND_REACH else joined
            share, rested = 1.0, False
        result.append(some)
    return result


def _rests(before: Sounding, after: Sounding) -> bool:
    return after.onset_s - before.offset_s > COSTS.rest_s


def _mark_arpeggios(events: list[_Event]) -> None:
    """Mark what goes on with a broken chord: quick picked notes that all rise, or fall, by thirds and fourths.

    Its shape has a string for each of its tones (common practice, no source).
    """
    run: list[_Event] = []
    way = 0.0
    for before, after in pairwise(events):
        step = _arpeggio_step(before, after)
        if not step or step * way < 0:
            run = []
        if step:
            run.append(after)
            way = step
            if len(run) >= LEAST_ARPEGGIO - 1:
                for event in run:
                    event.in_arpeggio = True


def _arpeggio_step(before: _Event, after: _Event) -> float:
    """The step from one note to the next where both could be tones of a broken chord, else 0."""
    if len(before.soundings) > 1 or len(after.soundings) > 1:
        return 0.0
    first, second = before.soundings[0], after.soundings[0]
    step = second.fretted_midi - first.fretted_midi
    quick = second.onset_s - first.onset_s < COSTS.usual_s
    plain = second.attack is Attack.PICK and not first.bend_semitones and not second.bend_semitones
    return step if quick and plain and THIRD <= abs(step) <= FOURTH else 0.0


def _wish_usual_strings(walk: _Walk) -> bool:
    """Make repeated licks and cells want the strings they had first; return whether a note lay elsewhere."""
    notes = [(event, number) for event in walk.events for number in range(len(event.soundings))]
    strings = [
        int(string) for event, state in zip(walk.events, walk.path, strict=True) for string in event.grips.string[state]
    ]
    soundings = [event.soundings[number] for event, number in notes]
    midi = [sounding.fretted_midi for sounding in soundings]
    cells = moved_cells(midi)
    usual = cells | repeats(
        midi, [sounding.onset_s for sounding in soundings], [sounding.attack for sounding in soundings]
    )
    by_itself = _strings_by_itself(walk, notes, sorted(set(cells.values())))
    likely = _told_strings(soundings, usual)
    wished = usual | {first: first for first in (*by_itself, *likely)}
    wants = {index: likely.get(first, by_itself.get(first, strings[first])) for index, first in wished.items()}
    for index, first in wished.items():
        in_cell = index in cells or index in by_itself or first in likely
        cost = COSTS.other_string_in_cell if in_cell else COSTS.other_string
        notes[index][0].wish_string(notes[index][1], wants[index], cost)
    return any(strings[index] != string for index, string in wants.items())


def _told_strings(soundings: Sequence[Sounding], usual: dict[int, int]) -> dict[int, int]:
    """Return the strings of repeated notes that were told at any of their turns, by the note that came first."""
    result: dict[int, int] = {}
    for index, first in (usual | {first: first for first in usual.values()}).items():
        if (lock := soundings[index].lock) is not None:
            result.setdefault(first, lock.string)
    return result


def _strings_by_itself(walk: _Walk, notes: list[tuple[_Event, int]], indices: list[int]) -> dict[int, int]:
    """Return the strings that cells would lie on if nothing came after them: indices are the notes of first cells."""
    result: dict[int, int] = {}
    for _, run in groupby(enumerate(indices), key=lambda pair: pair[1] - pair[0]):
        cell = [index for _, index in run]
        events = [notes[index][0] for index in cell]
        if all(len(event.soundings) == 1 for event in events):
            first = walk.events.index(events[0])
            alone = _solved(events, walk.moves[first : first + len(events) - 1])
            result |= {
                index: int(event.grips.string[state, 0])
                for index, event, state in zip(cell, events, alone.path, strict=True)
            }
    return result


def _solved(events: list[_Event], moves: list[FloatArray]) -> _Walk:
    # best walk up to each state, and from each state on: their sum prices every alternative of every note
    costs = [event.cost for event in events]
    ahead: list[FloatArray] = [costs[0]]
    for cost, move in zip(costs[1:], moves, strict=True):
        ahead.append((ahead[-1][:, None] + move).min(axis=0) + cost)
    behind: list[FloatArray] = [np.zeros(costs[-1].size)]
    after: list[FloatArray] = [costs[-1]]
    for cost, move in zip(reversed(costs[:-1]), reversed(moves), strict=True):
        behind.append((move + after[-1][None, :]).min(axis=1))
        after.append(behind[-1] + cost)
    walk = _Walk(events, moves, ahead, behind[::-1], after[::-1], [])
    walk.path.extend(walk.through(len(events) - 1, int(np.argmin(ahead[-1]))))
    return walk


def _together(soundings: Sequence[Sounding]) -> list[Sequence[Sounding]]:
    """Cut the notes into events: struck within one stroke, and none of them by legato out of another."""
    groups: list[list[Sounding]] = []
    for sounding in soundings:
        joins = bool(groups) and struck_together(groups[-1][0].onset_s, sounding.onset_s)
        if joins and sounding.attack not in LEGATO_ATTACKS and len(groups[-1]) < 6:
            groups[-1].append(sounding)
        else:
            groups.append([sounding])
    return [*groups]


def place_score(score: Score, *, style: str = "position") -> Score:
    """Return the score with every unlocked note on the place that the solver chose; locked notes stay."""
    placed = place([sounding_of(score, note) for note in score.notes], score.tuning, style=style)
    return score.with_notes(
        note
        if note.locked
        else replace(note, string=position.place.string, fret=position.place.fret, finger=position.finger)
        for note, position in zip(score.notes, placed, strict=True)
    )


def sounding_of(score: Score, note: Note) -> Sounding:
    """Return what the solver needs of a score's note."""
    lock = Place(note.string, note.fret) if note.locked else None
    harmonic = score.sounding_midi(note) if note.tone is Tone.NATURAL_HARMONIC else None
    phrase = score.phrase_at(note.onset_s)
    return Sounding(
        note.onset_s,
        note.offset_s,
        score.fretted_midi(note),
        note.attack,
        note.reading.bend_semitones,
        note.tone,
        lock,
        harmonic,
        phrase.near_fret if phrase is not None else None,
    )


def _placed(walk: _Walk, at: int, weights: FingeringStyle, why: bool) -> list[Placed]:
    event, grips, chosen = walk.events[at], walk.events[at].grips, walk.path[at]
    total = walk.ahead[at] + walk.behind[at]
    best = float(total[chosen])
    placings = []
    for number in range(len(event.soundings)):
        where = grips.string[:, number] * 100 + grips.fret[:, number]
        order = np.argsort(total, kind="stable")
        _, first = np.unique(where[order], return_index=True)
        states = sorted((int(order[i]) for i in first), key=lambda state: (total[state], state != chosen))
        alternatives = tuple(
            PlaceAlternative(
                Place(int(grips.string[state, number]), int(grips.fret[state, number])),
                float(total[state]) - best,
                _reason(walk, at, state, weights) if why and total[state] > best + 1e-9 else None,
            )
            for state in states
        )
        here = Place(int(grips.string[chosen, number]), int(grips.fret[chosen, number]))
        placings.append(Placed(here, int(grips.finger[chosen, number]), alternatives, int(grips.hand[chosen])))
    return placings


def _reason(walk: _Walk, at: int, state: int, weights: FingeringStyle) -> PlacingReason:
    """Return what the cheapest walk through a state pays for more than the best walk does."""
    if walk.ahead[at][state] + walk.behind[at][state] >= COSTS.forbidden:
        return PlacingReason(PlacingObstacle.PARTED)
    forced = walk.through(at, state)
    near = range(max(0, at - 4), min(len(walk.events), at + 5))
    differs = [i for i in near if forced[i] != walk.path[i]]
    span = range(max(0, min(differs) - 1), min(len(walk.events), max(differs) + 2)) if differs else range(0)
    paid, usual = _paid(walk, forced, span, weights), _paid(walk, walk.path, span, weights)
    kind = PlacingObstacle(max(paid, key=lambda name: paid[name] - usual[name]))
    grips = walk.events[at].grips
    fret = int(grips.fret[state].max())
    amounts = {
        PlacingObstacle.SHIFT: float(max((abs(_travel(walk, forced, i)) for i in span if i), default=0)),
        PlacingObstacle.STRETCH: float(POSITIONS[fret] - grips.at_mm[state]),
        PlacingObstacle.HEIGHT: float(fret),
    }
    return PlacingReason(kind, amounts.get(kind, 0.0))


def _travel(walk: _Walk, path: list[int], at: int) -> int:
    return int(walk.events[at].grips.hand[path[at]] - walk.events[at - 1].grips.hand[path[at - 1]])


def _paid(walk: _Walk, path: list[int], span: range, weights: FingeringStyle) -> dict[str, float]:
    """What a walk pays over some events, by kind."""
    total: dict[str, float] = {}
    for at in span:
        for name, cost in walk.events[at].parts.items():
            total[name] = total.get(name, 0.0) + float(cost[path[at]])
        if at:
            for name, move in _move_parts(walk.events[at - 1], walk.events[at], weights).items():
                total[name] = total.get(name, 0.0) + float(move[path[at - 1], path[at]])
    return total


def _candidate_places(sounding: Sounding, tuning: Tuning) -> tuple[Place, ...]:
    if sounding.lock is not None:
        return (sounding.lock,)
    if sounding.harmonic_midi is not None and (touched := harmonic_places(sounding.harmonic_midi, tuning)):
        return touched
    result = places(sounding.fretted_midi, tuning, last_fret=LAST_FRET)
    if not result:
        low, high = min(tuning.open_midi), max(tuning.open_midi) + LAST_FRET
        raise PlaceError(
            f"The pitch at {sounding.onset_s:.2f} s (MIDI {sounding.fretted_midi:g}) is not on this neck "
            f"({low:g} to {high:g}).",
            "Choose another tuning, or correct the note.",
        )
    return result


@lru_cache(maxsize=4_096)
def _held_together(options: tuple[tuple[Place, ...], ...], tapped: bool, capo: int) -> _Grips:
    """Return every way to hold the notes of one event.

    options: the places of each note. tapped: by the other hand, so that this one may be anywhere.
    """
    rows = []
    for where in product(*options):
        strings = [place.string for place in where]
        if len(set(strings)) < len(strings):
            continue
        frets = tuple(place.fret for place in where)
        ways = [(hand, (0,) * len(frets)) for hand in range(capo + 1, LAST_HAND)] if tapped else grips(frets, capo=capo)
        rows += [(hand, *strings, *frets, *fingers) for hand, fingers in ways]
    if not rows:  # no hand can hold them at once: on strings of their own if possible, as close as they come
        apart = [where for where in product(*options) if len({place.string for place in where}) == len(where)]
        where = min(apart or product(*options), key=lambda found: float(np.ptp([place.fret for place in found])))
        hand = max(capo + 1, min(place.fret for place in where))
        rows = [(hand, *(p.string for p in where), *(p.fret for p in where), *(0 for _ in where))]
    return _Grips(np.array(rows, dtype=np.int64), capo)


def _bend_cost(size: float, string: IntArray, fret: IntArray, finger: IntArray) -> FloatArray:
    by_finger = np.array(COSTS.by_finger)[finger]
    if size < COSTS.small_bend:
        by_finger = by_finger * COSTS.small_bend_share
    # strings 2 and 3 give way best in the middle of the neck
    edge = np.where(string == 1, COSTS.first_string, 0.0)
    from_string, at_all, a_semitone = COSTS.wound
    wound = np.where(string >= from_string, at_all + a_semitone * size, 0.0)
    # a bend near the nut or of two steps needs string length and a slack treble
    below, a_fret = COSTS.nut_side
    wide_from, below_fret, wide = COSTS.wide_bend
    stiff = np.where(fret < below, a_fret * (below - fret), 0.0)
    stiff = stiff + np.where((size > wide_from) & (fret < below_fret), wide, 0.0)
    return np.asarray(by_finger + edge + wound + stiff)


@lru_cache(maxsize=4_096)
def _ways_between(before: _Grips, after: _Grips) -> tuple[FloatArray, FloatArray]:
    """Return how far the hand goes from each way to each of the next, in millimetres, and what the strings cost."""
    gap_mm = np.abs(after.at_mm[None, :] - before.at_mm[:, None])
    apart = np.maximum(after.high[None, :] - before.low[:, None], before.high[:, None] - after.low[None, :])
    apart = np.maximum(apart, 0)
    cost = COSTS.apart * apart + COSTS.skipping * np.maximum(apart - 1, 0)
    if before.string.shape[1] == after.string.shape[1] > 1:  # a grip of several strings stays on them
        cost = cost + COSTS.other_strings * (before.string[:, None, :] != after.string[None]).mean(axis=2)
    return gap_mm, np.asarray(cost)


def _move_parts(before: _Event, after: _Event, weights: FingeringStyle) -> dict[str, FloatArray]:
    """Cost of going from each state of one event to each of the next, by kind; shape (n_before, n_after) each."""
    first, second, a, b = before.soundings[-1], after.soundings[0], before.grips, after.grips
    apart_s = max(after.onset_s - before.onset_s, COSTS.least_s)
    rests = all(_rests(sounding, second) for sounding in before.soundings)
    least, times = (COSTS.at_rest, 1.0) if rests else (COSTS.hurry[0], COSTS.in_line)
    hurry = times * min(max(COSTS.usual_s / apart_s, least), COSTS.hurry[1])
    gap_mm, crossing = _ways_between(a, b)
    shift = weights.shift * hurry * np.where(gap_mm > 0, COSTS.leave + (COSTS.fret / USUAL_GAP_MM) * gap_mm, 0.0)
    if a.idle.any() or b.idle.any():  # an open string gives the hand time to travel
        shift = np.where(a.idle[:, None] | b.idle[None, :], COSTS.bridge * shift, shift)
    parts = {"shift": shift, "crossing": weights.crossing * crossing}
    single = len(before.soundings) == len(after.soundings) == 1
    if single:
        other_string = np.not_equal.outer(a.string[:, 0], b.string[:, 0])
        same_finger = np.equal.outer(a.finger[:, 0], b.finger[:, 0])
        rolled = same_finger & other_string & (gap_mm == 0) & (b.finger[:, 0] > 0)[None, :]
        parts["finger"] = np.where(rolled, COSTS.rolled, 0.0)
        if after.in_arpeggio:
            parts["shape"] = np.where(other_string, 0.0, COSTS.string_of_its_own)
        if second.attack in LEGATO_ATTACKS and second.onset_s - first.offset_s < LINK_S:
            parts["held"] = np.where(other_string, COSTS.forbidden, 0.0)
            if second.attack is Attack.SLIDE:  # a slide is a shift with one finger
                slid = same_finger & ~other_string
                parts["shift"] = np.where(slid, COSTS.slid, shift)
                parts["slide"] = np.where(slid, 0.0, COSTS.slide_other_finger)
    for number, other in enumerate(before.soundings):
        if held_together(other.offset_s - after.onset_s) and not (single and "held" in parts):
            clash = np.equal.outer(a.string[:, number], b.string).any(axis=2)
            far = gap_mm > COSTS.free_frets * USUAL_GAP_MM
            grip = np.where(far, (COSTS.held_fret / USUAL_GAP_MM) * gap_mm, 0.0)
            parts["held"] = parts.get("held", 0.0) + np.where(clash, COSTS.forbidden, 0.0) + grip
    return parts
