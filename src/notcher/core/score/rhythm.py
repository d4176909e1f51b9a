"""Written time: each note on a division of its beat, and how it is counted; what was played early or late stays known.

The division of every beat is chosen by dynamic programming over the grids lead players use, so that a run of triplets
stays triplets although single beats of it would fit another grid as well. Source of the method: H. Takeda, T.
Nishimoto and S. Sagayama, "Rhythm and tempo recognition of music performance from a probabilistic approach", ISMIR
2004; what each grid costs is common practice, no source.
"""

import math
from dataclasses import dataclass, replace
from functools import lru_cache
from itertools import pairwise

import numpy as np

from notcher.core.arrays import BoolArray, FloatArray, IntArray
from notcher.core.score.beat_map import MOST_SWING, BeatMap
from notcher.core.score.meter import Meter
from notcher.core.score.score import Score
from notcher.core.score.together import TOGETHER_S

DIVISIONS = 840
"""Parts of a felt beat: fits halves, thirds, quarters, fifths, sixths, sevenths, eighths and twelfths."""
TICKS = 3360
"""Parts of a quarter note in which written times are told: a whole number for each part of every felt beat."""


@dataclass(frozen=True, slots=True)
class Grid:
    """Where notes may lie in a felt beat: into how many parts it is divided, which of them, what choosing it costs,
    what each empty place costs."""

    name: str
    count: int
    base_cost: float
    empty: float
    only: tuple[int, ...] = ()

    @property
    def parts(self) -> tuple[int, ...]:
        """The places, in parts of `DIVISIONS`."""
        return tuple(at * self.step for at in self.only or range(self.count))

    @property
    def step(self) -> int:
        return DIVISIONS // self.count


WHOLE, HALVES = Grid("whole", 1, 0.0, 0.0), Grid("halves", 2, 0.3, 0.0)
GRIDS = (
    WHOLE,
    HALVES,
    Grid("swing", 3, 1.0, 0.0, (0, 2)),
    Grid("fourths", 4, 0.6, 0.1),
    Grid("thirds", 3, 0.9, 0.4),
    Grid("thirds from the half", 6, 1.5, 0.4, (1, 3, 5)),
    Grid("sixths", 6, 1.8, 0.7),
    Grid("fifths", 5, 2.2, 1.2),
    Grid("sevenths", 7, 2.6, 1.4),
    Grid("eighths", 8, 2.2, 0.7),
)
"""Of a felt beat of two halves. Triplets may begin on its second half too."""
COMPOUND_GRIDS = (
    WHOLE,
    Grid("thirds", 3, 0.3, 0.0),
    Grid("sixths", 6, 0.6, 0.1),
    Grid("halves", 2, 0.9, 0.4),
    Grid("fourths", 4, 1.8, 0.7),
    Grid("twelfths", 12, 2.2, 0.7),
    Grid("fifths", 5, 2.2, 1.2),
    Grid("sevenths", 7, 2.6, 1.4),
)
"""Of a felt beat of three thirds, as in 6/8: what is a triplet elsewhere is plain here, and two in its time is not."""
SHORT_GRIDS = tuple(grid for grid in GRIDS if grid.name in ("whole", "halves", "fourths", "thirds", "sixths"))
"""Of a felt beat that is an eighth or less, as in 7/8."""
FAMILIES = (GRIDS, COMPOUND_GRIDS, SHORT_GRIDS)
SHORT_VALUE, LEAST_REST = DIVISIONS // 2, DIVISIONS // 4  # half a beat; a quarter of one
"""An eighth of a quarter beat is short; a sixteenth's rest is written."""
REST_SHARE = 1 / 6  # of a note: a shorter rest after it is only a finger that was lifted (common practice, no source)
SWUNG = ("whole", "halves")
"""Grids that follow the swing of their stretch: eighths do; three or four in a beat are alike (common practice)."""
TIMING_STD_S = 0.022  # how far from the grid a player keeps, before anything of this one is known
SPREADS_S = (0.008, 0.022)  # no hand is steadier than the first; the second is the one above
SPREAD_OF_MEDIAN = 2.5  # 1.48 for a normal spread; a first reading lays what is late on the next place
LEAST_TO_LEARN = 16  # notes
ON_BEAT, SWING_SHARES, LEAST_SWUNG = 0.08, (0.42, 0.8), 4  # beats; of the beat; beats that tell
WORST = 9.0  # nats; one note is capped at 3 standard deviations
CHANGE = 1.2  # from beat to beat to another grid
CROWDED = 6.0  # two strokes on one place
NOT_SAID = 1e6  # a grid that the instructor did not say, where one was said
AROUND_NOTES = 24  # as far as one note tells on another


@dataclass(frozen=True, slots=True)
class WrittenTime:
    """Where a note is written: onset in ticks of a quarter from bar 1 on (negative before), length in ticks; its bar,
    its felt beat in the bar (from 1), the part of that beat, and the grid of the beat.

    held: the length in ticks as it sounds on while others begin; as `length` where it does not.
    """

    onset: int
    length: int
    bar: int = 1
    beat: int = 1
    part: int = 0
    grid: Grid = GRIDS[0]
    compound: bool = False
    held: int = 0

    @property
    def quarter(self) -> float:
        """Where it is written, in quarters from bar 1 on."""
        return self.onset / TICKS


def grids_of(meter: Meter) -> tuple[Grid, ...]:
    """Return how a felt beat of a meter may be divided."""
    return FAMILIES[_family(meter)]


def _family(meter: Meter) -> int:
    """Which of the families of grids a meter's beats have."""
    if meter.compound:
        return 1
    return 0 if meter.beat_quarters >= 1 else 2


def written_times(score: Score) -> list[WrittenTime]:
    """Write every note on a grid; how early or late it was played stays in the score.

    What the instructor has said of a note's place or of its beat's division is obeyed. Returns: one value a note.
    Raises: ValueError when the score has no beat map.
    """
    if not score.notes:
        return []
    beat_map = score.beat_map
    onsets_s = np.array([note.onset_s for note in score.notes])
    ends = beat_map.felt_at(beat_map.quarter_at(np.array([note.offset_s for note in score.notes]))) * DIVISIONS
    places, grids = _on_grids(score, beat_map.felt_at(beat_map.quarter_at(onsets_s)), onsets_s)
    lengths = _lengths(places, ends, grids)
    bars, beats = beat_map.bars_and_beats(np.floor(places / DIVISIONS))
    starts, stops = _ticks(beat_map, places), _ticks(beat_map, places + lengths)
    held_ticks = _ticks(beat_map, places + _held(score, places, ends, lengths))
    result = []
    for index, start in enumerate(starts.tolist()):
        length = max(1, int(stops[index]) - start)
        compound = beat_map.meter_at(start / TICKS).compound
        part, last = int(places[index] % DIVISIONS), max(length, int(held_ticks[index]) - start)
        result.append(
            WrittenTime(start, length, int(bars[index]), int(beats[index]), part, grids[index], compound, last)
        )
    return result


def _lengths(places: IntArray, ends: FloatArray, grids: list[Grid]) -> IntArray:
    """How long each note is written, in parts of a felt beat.

    A note fills the time to the next stroke unless it stops clearly before: then a rest is written, on the grid of the
    note's beat. Where the next is no more than half a beat away a short note is written whole: it is staccato, and no
    one reads the rest (common practice, no source). ends: where each stops, in parts of a felt beat.
    """
    begun = np.unique(places)
    later = np.searchsorted(begun, places, side="right")
    steps = np.array([LEAST_REST if grid.name in ("whole", "halves") else grid.step for grid in grids])
    own = np.maximum(np.rint((ends - places) / steps), 1).astype(np.int64) * steps
    room = np.where(later < begun.size, begun[np.minimum(later, begun.size - 1)] - places, own)
    rest = room - own
    short = (room > SHORT_VALUE) & (rest >= LEAST_REST) & (rest >= REST_SHARE * own)
    return np.where(short, own, room)


def _held(score: Score, places: IntArray, ends: FloatArray, lengths: IntArray) -> IntArray:
    """How long each note is written when it sounds on past the next stroke, in parts of a felt beat.

    It ends with the stroke that is nearest to its end, or with the last of them, and at the latest where its own string
    is struck again.
    """
    begun, held_lengths = np.unique([*places, (places + lengths).max()]), lengths.copy()
    following: dict[int, int] = {}
    for index in range(len(score.notes) - 1, -1, -1):
        string = score.notes[index].string
        limit = following.get(string, int(begun[-1]))
        following[string] = int(places[index])
        after = begun[(begun > places[index] + lengths[index]) & (begun <= limit)]
        if after.size and ends[index] - places[index] - lengths[index] >= SHORT_VALUE:
            held_lengths[index] = int(after[np.abs(after - ends[index]).argmin()]) - int(places[index])
    return held_lengths


def _ticks(beat_map: BeatMap, places: IntArray) -> IntArray:
    """Places in parts of a felt beat as ticks of a quarter."""
    return np.rint(beat_map.quarter_of_felt(places / DIVISIONS) * TICKS).astype(np.int64)


def played_late_s(score: Score) -> FloatArray:
    """How late each note was played against where it is written, in seconds; early is negative.

    In a swung stretch that is where the swing puts it. Returns: shape (n_notes,). Raises: ValueError when the score
    has no beat map.
    """
    return np.array([note.onset_s for note in score.notes]) - _due_s(score.beat_map, written_times(score))


def measured_swing(score: Score, start: float, end: float) -> float | None:
    """Return how much of the beat its first eighth takes in a stretch, as it was played; None where too little tells.

    start, end: quarters. Told by the beats that hold one note on them and one between, which are divided in two.
    Source: the swing ratio as A. Friberg and A. Sundstrom measure it, "Swing ratios and ensemble timing in jazz
    performance", Music Perception 19, 2002 (from memory); here the middle one of the stretch.
    """
    beat_map = score.beat_map
    quarters = beat_map.quarter_at(np.array([note.onset_s for note in score.notes]))
    felt = beat_map.felt_at(quarters[(quarters >= start - ON_BEAT) & (quarters < end - ON_BEAT)])
    home = np.floor(felt + ON_BEAT)
    shares = []
    for beat in np.unique(home):
        parts = np.sort(felt[home == beat] - beat)
        parts = parts[np.concatenate([[True], np.diff(parts) > ON_BEAT])] if parts.size else parts
        if parts.size == 2 and abs(parts[0]) < ON_BEAT and SWING_SHARES[0] < parts[1] < SWING_SHARES[1]:
            shares.append(float(parts[1] - parts[0]))
    if len(shares) < LEAST_SWUNG:
        return None
    return float(np.clip(np.median(shares), 0.5, MOST_SWING))


def _due_s(beat_map: BeatMap, times: list[WrittenTime]) -> FloatArray:
    """When what is written is due, seconds."""
    quarters = []
    for time in times:
        size, share = beat_map.meter_at(time.quarter).beat_quarters, beat_map.swing_at(time.quarter)
        begin = time.quarter - time.part / DIVISIONS * size
        swung = _swung(np.array([time.part]), share if time.grid.name in SWUNG else 0.5)[0]
        quarters.append(begin + swung / DIVISIONS * size)
    return beat_map.time_at(np.array(quarters))


def counted(score: Score, index: int) -> tuple[WrittenTime, float]:
    """Return where one note is written, and how late it was played in seconds (early is negative).

    Only its surroundings are looked at, so that it is quick in a long solo. Raises: ValueError without a beat map.
    """
    first = max(0, index - AROUND_NOTES)
    part = replace(score, notes=score.notes[first : index + AROUND_NOTES + 1])
    time = written_times(part)[index - first]
    return time, score.notes[index].onset_s - float(_due_s(score.beat_map, [time])[0])


FURTHEST_TOLD = 64.0
"""Quarters from where a note sounds that it may be written, as an instructor says: sixteen bars."""


def _on_grids(score: Score, felt: FloatArray, onsets_s: FloatArray) -> tuple[IntArray, list[Grid]]:
    """Return where each note is written, in parts of a felt beat from bar 1 on, order kept, and its beat's grid.

    It is read twice: how closely this player keeps to the grid is learned from the first reading, so that an even
    hand's quick notes are told apart.
    """
    places, grids, error_s = _read(score, felt, onsets_s, TIMING_STD_S)
    if error_s.size < LEAST_TO_LEARN:
        return places, grids
    # to a tenth of a millisecond: one note's edit shall not lay all others anew
    spread_s = round(float(np.clip(SPREAD_OF_MEDIAN * np.median(np.abs(error_s)), *SPREADS_S)), 4)
    return _read(score, felt, onsets_s, spread_s)[:2]


def _read(
    score: Score, felt: FloatArray, onsets_s: FloatArray, spread_s: float
) -> tuple[IntArray, list[Grid], FloatArray]:
    """One reading, see `_on_grids`; also how late each note is played that is not alone on a beat, seconds."""
    beat_map, notes = score.beat_map, score.notes
    fixed_starts = np.array([np.nan if note.starts_at is None else note.starts_at for note in notes])
    # what is told to lie elsewhere altogether is told by a damaged file
    fixed = np.abs(fixed_starts - beat_map.quarter_of_felt(felt)) <= FURTHEST_TOLD
    felt = np.where(fixed, beat_map.felt_at(np.where(fixed, fixed_starts, 0.0)), felt)
    beat_s = _beat_s(beat_map, felt)
    # a note just before a beat belongs to it
    home = np.floor(felt + np.where(fixed, 1e-6, np.minimum(0.08, 0.03 / beat_s))).astype(np.int64)
    beats = np.arange(home.min(), home.max() + 1)
    starts = beat_map.quarter_of_felt(beats.astype(np.float64))
    order = np.argsort(home, kind="stable")
    edges = np.searchsorted(home[order], [*beats, beats[-1] + 1]).tolist()
    ordered = order.tolist()
    members = [ordered[first:last] for first, last in pairwise(edges)]
    families = [_family(beat_map.meter_at(start)) for start in starts.tolist()]
    options = []
    parts, lengths_s = ((felt - home) * DIVISIONS).tolist(), beat_s.tolist()
    apart = [False, *(np.diff(onsets_s) > TOGETHER_S).tolist()]  # from the note before
    for start, inside, family in zip(starts.tolist(), members, families, strict=True):
        division = next((notes[index].division for index in inside if notes[index].division), "")
        fits = _fits(
            tuple([parts[index] for index in inside]), tuple([lengths_s[index] for index in inside]),
            tuple([apart[index] for index in inside[1:]]), family, beat_map.swing_at(start), spread_s,
        )  # fmt: skip
        names = [grid.name for grid in FAMILIES[family]]
        if division in names:
            fits = replace(fits, costs=fits.costs + NOT_SAID * np.array([name != division for name in names]))
        options.append(fits)
    laid, chosen, late_s = [0] * felt.size, [GRIDS[0]] * felt.size, [math.nan] * felt.size
    for inside, row, family, best in zip(members, options, families, _chosen(options, families), strict=True):
        for number, index in enumerate(inside):
            laid[index], late_s[index] = row.at[best][number], row.error_s[best][number]
            chosen[index] = FAMILIES[family][best]
    places, errors_s = home * DIVISIONS + np.array(laid, dtype=np.int64), np.array(late_s)
    told_places = np.rint(felt * DIVISIONS).astype(np.int64)
    read = errors_s[~np.isnan(errors_s) & ~fixed]
    return _in_order(np.where(fixed, told_places, places), fixed), chosen, read


@dataclass(frozen=True, slots=True, eq=False)
class _Fits:
    """What each grid costs for the notes of one beat, where it puts them (parts), and how late each is, seconds."""

    costs: FloatArray
    at: tuple[tuple[int, ...], ...]
    error_s: tuple[tuple[float, ...], ...]


def _chosen(options: list[_Fits], families: list[int]) -> list[int]:
    """The cheapest row of grids, one a beat, by dynamic programming."""
    total = options[0].costs
    came_from = []
    for row, before, after in zip(options[1:], families, families[1:], strict=False):
        walk = total[:, None] + _changes(before, after)
        came_from.append(walk.argmin(axis=0))
        total = walk.min(axis=0) + row.costs
    choice = [int(total.argmin())]
    for back in reversed(came_from):
        choice.append(int(back[choice[-1]]))
    return choice[::-1]


@lru_cache(maxsize=64)
def _changes(first: int, second: int) -> FloatArray:
    """What going from each grid of a family to each of another costs; a beat with one note on it says nothing."""
    rows = [[_change(before, after) for after in FAMILIES[second]] for before in FAMILIES[first]]
    return np.array(rows)


def _change(before: Grid, after: Grid) -> float:
    return 0.0 if before.name == after.name or "whole" in (before.name, after.name) else CHANGE


def _in_order(places: IntArray, fixed: BoolArray) -> IntArray:
    """Places that never fall; what the instructor has said stays, what is read gives way."""
    low = np.maximum.accumulate(places)
    if not fixed.any():
        return low
    ceiling = np.where(fixed, places, np.iinfo(np.int64).max)
    high = np.minimum.accumulate(ceiling[::-1])[::-1]
    ordered = np.minimum(places, high)
    return np.where(fixed, places, np.minimum(np.maximum.accumulate(np.minimum(ordered, high)), high))


def _beat_s(beat_map: BeatMap, felt: FloatArray) -> FloatArray:
    """Length of the felt beat around each position, seconds."""
    first = beat_map.quarter_of_felt(np.floor(felt))
    return np.asarray(beat_map.time_at(beat_map.quarter_of_felt(np.floor(felt) + 1)) - beat_map.time_at(first))


def _swung(parts: FloatArray | IntArray, share: float) -> FloatArray:
    """Where parts of a beat are played when its first half takes a share of it."""
    middle, end = DIVISIONS / 2, float(DIVISIONS)
    return np.asarray(np.interp(parts, [0.0, middle, end], [0.0, share * end, end]))


@lru_cache(maxsize=256)
def _marks(grid: Grid, share: float) -> tuple[list[int], list[float]]:
    """Where notes are written in a beat, the next beat at last, and where those places are played."""
    places = np.array([*grid.parts, DIVISIONS])
    return places.tolist(), _swung(places, share).tolist()


@lru_cache(maxsize=20_000)  # while a solo is edited nearly all of its beats stay as they were
def _fits(
    parts: tuple[float, ...],
    beat_s: tuple[float, ...],
    apart: tuple[bool, ...],
    family: int,
    share: float,
    spread_s: float,
) -> _Fits:
    """Lay the notes of one beat on each grid. parts: where they were played in the beat. apart: whether each is struck
    apart from the one before it. A beat holds few notes: plain numbers are quicker than arrays here."""
    fits = [_fitted(parts, beat_s, apart, grid, share, spread_s) for grid in FAMILIES[family]]
    return _Fits(
        np.array([cost for cost, _, _ in fits]), tuple(at for _, at, _ in fits), tuple(late for *_, late in fits)
    )


def _fitted(
    parts: tuple[float, ...], beat_s: tuple[float, ...], apart: tuple[bool, ...], grid: Grid, share: float,
    spread_s: float,
) -> tuple[float, tuple[int, ...], tuple[float, ...]]:  # fmt: skip
    places, played = _marks(grid, share if grid.name in SWUNG else 0.5)
    nearest, errors_s, cost = [], [], grid.base_cost
    for part, length_s in zip(parts, beat_s, strict=True):
        at = min(range(len(played)), key=lambda number: abs(part - played[number]))
        error_s = (part - played[at]) / DIVISIONS * length_s
        nearest.append(places[at])
        errors_s.append(error_s)
        cost += min((error_s / spread_s) ** 2 / 2, WORST)
    cost += CROWDED * sum(a == b and struck for a, b, struck in zip(nearest, nearest[1:], apart, strict=False))
    if parts:
        cost += grid.empty * len(set(places[:-1]).difference(nearest))
    return cost, tuple(nearest), tuple(errors_s)
