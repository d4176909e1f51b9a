"""The notes of one playing paired with the notes of another, in order: which is which, what was left out, what came in.

The pairing with the least cost by dynamic programming over both rows of notes: a note stands for another one at a price
that grows with how far their pitches lie apart and, where it is known when it should come, how far they lie apart in
time; a note without a partner has a price of its own. Source: M. Mongeau and D. Sankoff, "Comparison of musical
sequences", Computers and the Humanities 24, 1990 (substitution, insertion, deletion; here without fragmentation).
"""

from dataclasses import dataclass

import numpy as np

from notcher.core.arrays import FloatArray, IntArray
from notcher.core.errors import CancelCheck, Cancelled, never_cancelled
from notcher.core.hearing import closest_pairs
from notcher.core.score import Note, Score

Pair = tuple[int, int]
SAME_SEMITONES = 0.6  # nearer than the next fret, with what two tunings part
ALONE = 0.75  # a note without a partner; two of them are dearer than a wrong pitch at the right time
DOUBTFUL = 0.4  # of that for a note that is hardly believed
WRONG, FAR, FAR_SEMITONES = 0.7, 1.3, 7.0  # a pitch a semitone off, and one that is no slip any more
LATE_WORTH = 1.2  # of a note that comes as late as is thinkable; the square of how late in between
BESIDE_S = 0.15  # notes begun nearly together may be in another order
MOST_SHIFT = 12  # semitones between two keys
CANDIDATES = 5  # keys that are looked into


@dataclass(frozen=True, slots=True, eq=False)
class Tones:
    """Notes as they are compared; shape (n,) each. onset_s: rising. start, goal, unbent: semitones: what is heard
    first, the pitch it is bent to, the fret's own. alone: what it costs that a note has no partner; less for a doubtful
    one."""

    onset_s: FloatArray
    start: FloatArray
    goal: FloatArray
    unbent: FloatArray
    alone: FloatArray

    def __len__(self) -> int:
        return int(self.onset_s.size)


def tones_of(score: Score) -> Tones:
    """Return a score's notes as they sound."""
    notes = score.notes
    unbent = np.array([score.sounding_midi(note) for note in notes], dtype=np.float64)
    bends = np.array([note.reading.bend_semitones for note in notes], dtype=np.float64)
    start = unbent + np.array([begun_bent(note) for note in notes], dtype=np.float64)
    sure = np.array([note.certainty for note in notes], dtype=np.float64)
    alone = ALONE * (DOUBTFUL + (1.0 - DOUBTFUL) * sure)
    return Tones(np.array([note.onset_s for note in notes], dtype=np.float64), start, unbent + bends, unbent, alone)


def begun_bent(note: Note) -> float:
    """Return how far from its fret a note begins, semitones."""
    return float(note.curve.at(np.zeros(1))[0])


def likely_shifts(first: Tones, second: Tones) -> list[int]:
    """Return by how many semitones the second may lie over the first, the likeliest first; 0 is always among them.

    By how well the counts of the pitches agree when one is moved: the cross-correlation of two pitch histograms.
    """
    if not len(first) or not len(second):
        return [0]
    counts = [
        np.bincount(np.clip(np.rint(tones.goal), 0, 127).astype(np.int64), minlength=128) for tones in (first, second)
    ]
    shared = {
        shift: float(np.minimum(np.roll(counts[0], shift), counts[1]).sum())
        for shift in range(-MOST_SHIFT, MOST_SHIFT + 1)
    }
    ranked = sorted(shared, key=lambda shift: (-shared[shift], abs(shift)))
    return list(dict.fromkeys([*ranked[:CANDIDATES], 0]))


def likeliest_shift(first: Tones, second: Tones, *, cancelled: CancelCheck = never_cancelled) -> int:
    """Return by how many semitones the second lies over the first, so that the notes are paired at the least cost.

    Raises: Cancelled.
    """
    costs: dict[int, float] = {}
    for shift in likely_shifts(first, second):
        if cancelled():
            raise Cancelled
        costs[shift] = aligned(first, second, shift=shift)[1]
    return min(costs, key=lambda shift: (costs[shift], abs(shift)))


def aligned(
    first: Tones, second: Tones, *, shift: float = 0.0, near_s: FloatArray | None = None, reach_s: float = 0.5
) -> tuple[list[Pair], float]:
    """Pair the notes of two playings in order.

    shift: semitones by which the second sounds higher. near_s: shape (n_first,), when each note of the first should
    come in the second; None where nothing is known of its time. reach_s: how far from that is thinkable at all.
    Returns: pairs of indices, rising in both, and what the whole costs.
    """
    rows, columns = len(first), len(second)
    total = np.zeros((rows + 1, columns + 1), dtype=np.float32)
    steps = np.concatenate([[0.0], np.cumsum(second.alone)]).astype(np.float32)
    total[0] = steps
    for row in range(rows):
        cost = _costs(first, row, second, shift, near_s, reach_s)
        above = total[row]
        reached = above + np.float32(first.alone[row])
        reached[1:] = np.minimum(reached[1:], above[:-1] + cost)
        total[row + 1] = np.minimum.accumulate(reached - steps) + steps
    pairs: list[Pair] = []
    row, column = rows, columns
    while row and column:
        here = total[row, column]
        cost = _costs(first, row - 1, second, shift, near_s, reach_s)[column - 1]
        if abs(total[row - 1, column - 1] + cost - here) < 1e-3:
            row, column = row - 1, column - 1
            pairs.append((row, column))
        elif abs(total[row - 1, column] + first.alone[row - 1] - here) < 1e-3:
            row -= 1
        else:
            column -= 1
    return pairs[::-1], float(total[-1, -1])


def _costs(
    first: Tones, row: int, second: Tones, shift: float, near_s: FloatArray | None, reach_s: float
) -> FloatArray:
    """What it costs that each note of the second stands for one of the first; shape (n_second,)."""
    apart = np.abs(second.start - first.start[row] - shift)
    for mine, theirs in ((first.goal, second.goal), (first.unbent, second.unbent)):
        apart = np.minimum(apart, np.abs(theirs - mine[row] - shift) + 0.05)
    off = WRONG + (FAR - WRONG) * np.minimum(apart / FAR_SEMITONES, 1.0)
    cost = np.where(apart < SAME_SEMITONES, 0.1 * apart, off)
    if near_s is not None:
        late = np.abs(second.onset_s - near_s[row]) / reach_s
        cost = cost + LATE_WORTH * np.minimum(late, 1.0) ** 2 + np.where(late > 1.0, 10.0, 0.0)
    return np.asarray(cost, dtype=np.float32)


def apart_where_fretted(first: Tones, mine: int, second: Tones, theirs: IntArray, shift: float) -> FloatArray:
    """Return how far two notes are from being begun or fretted at one pitch, semitones; shape of theirs.

    mine, theirs: indices into the first and the second. shift: semitones by which the second sounds higher.
    """
    begun = np.abs(second.start[theirs] - first.start[mine] - shift)
    return np.asarray(np.minimum(begun, np.abs(second.unbent[theirs] - first.unbent[mine] - shift)))


def same_pitch(first: Tones, second: Tones, pair: Pair, shift: float) -> bool:
    """Return whether two notes are begun or fretted at one pitch."""
    return bool(apart_where_fretted(first, pair[0], second, np.array(pair[1]), shift) < SAME_SEMITONES)


def with_neighbours(pairs: list[Pair], first: Tones, second: Tones, *, shift: float, near_s: FloatArray) -> list[Pair]:
    """Pair what is left alone on both sides and is the same pitch at nearly the same time: two strings struck together
    may come in either order. See `aligned` for the arguments."""
    mine = sorted(set(range(len(first))) - {a for a, _ in pairs})
    theirs = np.array(sorted(set(range(len(second))) - {b for _, b in pairs}), dtype=np.int64)
    candidates: list[tuple[float, int, int]] = []
    for at in mine:
        near = np.abs(second.onset_s[theirs] - near_s[at])
        fits = (near < BESIDE_S) & (apart_where_fretted(first, at, second, theirs, shift) < SAME_SEMITONES)
        candidates += [(float(near[k]), at, int(theirs[k])) for k in np.flatnonzero(fits)]
    return sorted([*pairs, *closest_pairs(candidates).items()])


class TimeMap:
    """When moments of one playing come in another, by what was paired.

    first_s, second_s: shape (n,), paired moments. Where they do not rise together the odd ones are left out (the
    longest rising row is kept); outside them time goes on at the tempo of the nearest few.
    """

    def __init__(self, first_s: FloatArray, second_s: FloatArray) -> None:
        """Raises: ValueError for no pair."""
        if first_s.size == 0:
            raise ValueError("nothing is paired")
        increasing = _rising(first_s, second_s)
        self.first_s, self.second_s = first_s[increasing], second_s[increasing]

    @property
    def back(self) -> "TimeMap":
        """The way back."""
        return TimeMap(self.second_s, self.first_s)

    def __call__(self, time_s: float) -> float:
        return float(self.at(np.array([time_s]))[0])

    def at(self, times_s: FloatArray) -> FloatArray:
        """Return the moments in the second of moments in the first; shape kept."""
        x, y = self.first_s, self.second_s
        if x.size == 1:
            return np.asarray(times_s - x[0] + y[0])
        result = np.interp(times_s, x, y)
        ends = min(EDGE_PAIRS, x.size) - 1
        for outside, edge, inner in ((times_s < x[0], 0, ends), (times_s > x[-1], -1, -1 - ends)):
            slope = float(np.clip((y[edge] - y[inner]) / (x[edge] - x[inner]), 0.25, 4.0))
            result = np.where(outside, y[edge] + slope * (times_s - x[edge]), result)
        return np.asarray(result)


EDGE_PAIRS = 6  # before the first and after the last pair they lead on


def _rising(first_s: FloatArray, second_s: FloatArray) -> IntArray:
    """Indices of the longest row that rises in both; O(n log n) as in C. Schensted, Canad. J. Math. 13, 1961."""
    order = np.lexsort((second_s, first_s))
    order = order[np.concatenate([[True], np.diff(first_s[order]) > 1e-6])]
    tails: list[float] = []
    at_tail: list[int] = []
    before = np.full(order.size, -1, dtype=np.int64)
    for position, value in enumerate(second_s[order].tolist()):
        place = int(np.searchsorted(tails, value))
        before[position] = at_tail[place - 1] if place else -1
        tails[place : place + 1] = [value]
        at_tail[place : place + 1] = [position]
    row: list[int] = []
    position = at_tail[-1]
    while position >= 0:
        row.append(position)
        position = int(before[position])
    return np.asarray(order[row[::-1]], dtype=np.int64)
