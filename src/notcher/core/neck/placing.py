"""The placing solver: the cheapest walk of the hand through a solo's pitches.

A state is a place together with the finger that takes it, which fixes where the hand sits (the fret under the first
finger). The walk with the least cost is found by dynamic programming (R. Bellman, "Dynamic Programming", 1957).
The costs put common practice into numbers (no source): stay in the four-fret window, shift when there is time,
bend with the third finger backed by two, not on wound strings, a legato chain on one string.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from notcher.core.arrays import FloatArray
from notcher.core.errors import NotcherError
from notcher.core.neck.fretboard import Place, places
from notcher.core.score import LAST_FRET, LEGATO_STRIKES, Note, Score, Strike, Tone, Tuning

FORBIDDEN = 1e4
LEAST_GAP_S = 0.05


class PlaceError(NotcherError):
    """A pitch that this neck does not have."""


@dataclass(frozen=True, slots=True)
class School:
    """How much a school minds each thing."""

    shift: float
    crossing: float
    stretch: float
    height: float


SCHOOLS: dict[str, School] = {
    "position": School(shift=1.0, crossing=1.0, stretch=1.0, height=1.0),
    "string": School(shift=0.35, crossing=3.0, stretch=1.0, height=0.6),
    "easy": School(shift=1.2, crossing=0.8, stretch=2.5, height=1.6),
}


@dataclass(frozen=True, slots=True)
class Sounding:
    """What the solver needs to know of a note: when, which fretted pitch, how struck, how far bent; a lock if any."""

    onset_s: float
    offset_s: float
    fretted_midi: float
    strike: Strike = Strike.PICK
    bend_semitones: float = 0.0
    tone: Tone = Tone.NORMAL
    lock: Place | None = None


@dataclass(frozen=True, slots=True)
class Placed:
    """A note's chosen place and finger, and every alternative with what it would cost more, cheapest first."""

    place: Place
    finger: int
    alternatives: tuple[tuple[Place, float], ...]


@dataclass(frozen=True, slots=True)
class _States:
    """Candidate states of one note: parallel arrays, shape (n_states,)."""

    string: FloatArray
    fret: FloatArray
    finger: FloatArray
    hand: FloatArray
    cost: FloatArray


def place(soundings: Sequence[Sounding], tuning: Tuning, *, school: str = "position") -> list[Placed]:
    """Return a place for every note, so that the whole walk costs least.

    soundings: in time order. school: one of `SCHOOLS`.
    Raises: PlaceError when a pitch lies outside the neck; ValueError for an unknown school.
    """
    if school not in SCHOOLS:
        raise ValueError(f"school must be one of {', '.join(SCHOOLS)}")
    if not soundings:
        return []
    weights = SCHOOLS[school]
    layers = [_states(sounding, tuning, weights) for sounding in soundings]
    moves = [
        _move_costs(layers[i - 1], layers[i], soundings[i - 1], soundings[i], weights) for i in range(1, len(layers))
    ]
    # best walk up to each state, and from each state on: their sum prices every alternative of every note
    ahead: list[FloatArray] = [layers[0].cost]
    for layer, move in zip(layers[1:], moves, strict=True):
        ahead.append((ahead[-1][:, None] + move).min(axis=0) + layer.cost)
    behind: list[FloatArray] = [np.zeros(layers[-1].cost.size)]
    for layer, move in zip(reversed(layers[1:]), reversed(moves), strict=True):
        behind.append((move + (behind[-1] + layer.cost)[None, :]).min(axis=1))
    behind.reverse()
    path = _walk_back(ahead, moves)
    return [
        _placed(layer, through + after, state)
        for layer, through, after, state in zip(layers, ahead, behind, path, strict=True)
    ]


def place_score(score: Score, *, school: str = "position") -> Score:
    """Return the score with every unlocked note on the place that the solver chose; locked notes stay."""
    placed = place([sounding_of(score, note) for note in score.notes], score.tuning, school=school)
    return score.with_notes(
        note if note.locked else replace(note, string=found.place.string, fret=found.place.fret, finger=found.finger)
        for note, found in zip(score.notes, placed, strict=True)
    )


def sounding_of(score: Score, note: Note) -> Sounding:
    """Return what the solver needs of a score's note."""
    lock = Place(note.string, note.fret) if note.locked else None
    size = note.reading.bend_semitones
    return Sounding(note.onset_s, note.offset_s, score.fretted_midi(note), note.strike, size, note.tone, lock)


def _walk_back(ahead: list[FloatArray], moves: list[FloatArray]) -> list[int]:
    state = int(np.argmin(ahead[-1]))
    path = [state]
    for before, move in zip(reversed(ahead[:-1]), reversed(moves), strict=True):
        state = int(np.argmin(before + move[:, state]))
        path.append(state)
    return path[::-1]


def _placed(layer: _States, total: FloatArray, chosen: int) -> Placed:
    least: dict[Place, float] = {}
    for string, fret, cost in zip(layer.string, layer.fret, total, strict=True):
        here = Place(int(string), int(fret))
        least[here] = min(cost, least.get(here, np.inf))
    best = float(total[chosen])
    alternatives = sorted(((where, float(cost) - best) for where, cost in least.items()), key=lambda pair: pair[1])
    return Placed(
        Place(int(layer.string[chosen]), int(layer.fret[chosen])), int(layer.finger[chosen]), (*alternatives,)
    )


def _candidate_places(sounding: Sounding, tuning: Tuning) -> tuple[Place, ...]:
    if sounding.lock is not None:
        return (sounding.lock,)
    found = places(sounding.fretted_midi, tuning, last_fret=LAST_FRET)
    if not found:
        low, high = min(tuning.open_midi), max(tuning.open_midi) + LAST_FRET
        raise PlaceError(
            f"The pitch at {sounding.onset_s:.2f} s (MIDI {sounding.fretted_midi:g}) is not on this neck "
            f"({low:g} to {high:g}).",
            "Choose another tuning, or correct the note.",
        )
    return found


def _states(sounding: Sounding, tuning: Tuning, weights: School) -> _States:
    rows = []
    for string, fret in _candidate_places(sounding, tuning):
        if fret == tuning.capo or sounding.strike is Strike.TAP:  # open, or the other hand's: the hand may be anywhere
            rows += [(string, fret, 0, hand, 0.0) for hand in range(1, 20)]
            continue
        for finger in (1, 2, 3, 4):
            rows.append((string, fret, finger, fret - finger + 1, 0.0))
        rows.append((string, fret, 4, fret - 4, 0.8))  # the little finger one fret beyond the window
    table = np.array(rows, dtype=np.float64).T
    string, fret, finger, hand, cost = table
    cost = cost * weights.stretch * _gap_factor(fret)
    cost = cost + np.where(hand < 1, FORBIDDEN, 0.0)
    cost = cost + weights.height * (0.05 * np.maximum(fret - 15, 0) + 0.12 * np.maximum(fret - 18, 0))
    cost = cost + np.where((string >= 4) & (fret > 12), 0.12 * (fret - 12), 0.0)  # thin tone high up a wound string
    cost = cost + np.where(fret == 0, 0.25, 0.0)
    return _States(string, fret, finger, hand, cost + _bend_cost(sounding.bend_semitones, string, fret, finger))


def _gap_factor(fret: FloatArray) -> FloatArray:
    """How wide a fret is against the fifth: each is narrower by the twelfth root of two."""
    return np.asarray(2.0 ** ((5.0 - fret) / 12.0))


def _bend_cost(size: float, string: FloatArray, fret: FloatArray, finger: FloatArray) -> FloatArray:
    if size < 0.4:
        return np.zeros(string.size)
    by_finger = np.array([FORBIDDEN, 0.9, 0.4, 0.0, 0.7])[finger.astype(int)]
    if size < 0.75:
        by_finger = by_finger * 0.3
    # strings 2 and 3 give way best in the middle of the neck; the first is thin and near the edge
    edge = np.where(string == 1, 0.25, 0.0)
    wound = np.where(string >= 4, 1.0 + 1.6 * size, 0.0)
    # a nut-side or two-step bend needs string length and a slack treble (common practice: above fret 10)
    stiff = np.where(fret < 9, 0.12 * (9 - fret), 0.0) + np.where((size > 3.3) & (fret < 10), 2.0, 0.0)
    return np.asarray(by_finger + edge + wound + stiff)


def _move_costs(before: _States, after: _States, first: Sounding, second: Sounding, weights: School) -> FloatArray:
    """Cost of going from each state of one note to each of the next, shape (n_before, n_after)."""
    time_s = max(second.onset_s - first.onset_s, LEAST_GAP_S)
    hurry = float(np.clip(0.3 / time_s, 0.3, 3.0))
    shift = np.abs(after.hand[None, :] - before.hand[:, None])
    # an open string gives the hand time to travel
    bridge = np.where((before.finger[:, None] == 0) | (after.finger[None, :] == 0), 0.5, 1.0)
    cost = weights.shift * bridge * hurry * np.where(shift > 0, 0.45 + 0.3 * shift, 0.0)
    apart = np.abs(after.string[None, :] - before.string[:, None])
    cost = cost + weights.crossing * (0.05 * apart + 0.12 * np.maximum(apart - 1, 0))
    same_finger = (before.finger[:, None] == after.finger[None, :]) & (after.finger[None, :] > 0) & (shift == 0)
    cost = cost + np.where(same_finger & (apart > 0), 0.25, 0.0)
    if second.strike in LEGATO_STRIKES and second.onset_s - first.offset_s < 0.05:
        cost = cost + np.where(apart > 0, FORBIDDEN, 0.0)
        if second.strike is Strike.SLIDE:  # a slide is a shift with one finger
            slid = (before.finger[:, None] == after.finger[None, :]) & (apart == 0)
            cost = np.where(slid, 0.1, cost + 0.6)
    if first.offset_s - second.onset_s > 0.06:  # both sound: two strings, one hand
        cost = cost + np.where(apart == 0, FORBIDDEN, 0.0) + np.where(shift > 1, 20.0 * shift, 0.0)
    return np.asarray(cost)
