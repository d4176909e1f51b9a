"""Where a stretch of a solo comes again: all maximal pairs of stretches, one of which is the other one moved.

A solo is a set of points (beat, string, fret); a stretch comes again where a vector takes its points to others: a
translational pattern. Source: D. Meredith, K. Lemström and G. A. Wiggins, "Algorithms for discovering repeated patterns
in multidimensional representations of polyphonic music", JNMR 31, 2002 (maximal translatable patterns, SIA): pairs of
points are grouped by their vector. Here the vectors of one distance in the order of the notes are looked at together,
which takes n steps of n, and a pattern must be compact: of what lies between its ends at most every fourth note may be
another. A string's vector is measured in frets or in what sounds, since the interval from string to string is uneven.
"""

from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from notcher.core.arrays import BoolArray, IntArray
from notcher.core.errors import CancelCheck, Cancelled, never_cancelled
from notcher.core.patterns.chance import Background
from notcher.core.patterns.events import SPREAD_BEATS, TIMING_TOLERANCE_S, Events, IntervalSteps

OCTAVE = 12  # semitones
SHORTEST = 3  # notes on end that a run is made of, before it is joined to others
LEAST_SHARE = 0.75  # of the notes between a pattern's ends that belong to it
MOST_LAG = 4_000  # notes from one to the other that are looked at
LEAST_BITS = 4.0  # of news in a run that is looked at


class Kind(StrEnum):
    """How one stretch is the other one again; the names are those of `notcher patterns --json`."""

    EXACT = "exact"
    OTHER_ENDING = "other_ending"
    ALONG_NECK = "along_neck"
    ACROSS_STRINGS = "across_strings"
    OCTAVE = "octave"
    CELL = "cell"
    RHYTHM = "rhythm"
    SEQUENCE = "sequence"


@dataclass(frozen=True, slots=True)
class Transposition:
    """A stretch and where it comes again: pairs of notes that correspond, (the earlier, the later), rising.

    frets, strings, semitones: how far it is moved; None where that differs from note to note.
    """

    kind: Kind
    pairs: tuple[tuple[int, int], ...]
    frets: int | None
    strings: int | None
    semitones: int | None

    @property
    def source(self) -> tuple[int, int]:
        """First and last note of the earlier one."""
        return self.pairs[0][0], self.pairs[-1][0]

    @property
    def target(self) -> tuple[int, int]:
        """First and last note of the later one."""
        return self.pairs[0][1], self.pairs[-1][1]

    @property
    def lag(self) -> int:
        return self.pairs[0][1] - self.pairs[0][0]


def moves(
    events: Events, background: Background, *, turned: IntArray, cancelled: CancelCheck = never_cancelled
) -> list[Transposition]:
    """Return every maximal pair of stretches, one after the other, that are the same, moved or not.

    One note more or less inside is allowed. turned: shape (n_notes,), the number of the turned figure that each note
    lies in, -1 for none: what comes again inside one is told there. Raises: Cancelled.
    """
    near, far = events.steps(1), events.steps(2)
    runs: list[_Run] = []
    for lag in range(1, min(len(events), MOST_LAG)):
        if lag % 64 == 0 and cancelled():
            raise Cancelled
        runs += _runs(events, lag, near, far, background, turned)
    return [_move(events, run) for run in _joined(events, runs)]


@dataclass(slots=True)
class _Run:
    """Pairs of notes that follow each other with one vector, see `_codes`."""

    code: int
    pairs: list[tuple[int, int]]

    @property
    def begins(self) -> tuple[int, int]:
        return self.pairs[0]

    @property
    def ends(self) -> tuple[int, int]:
        return self.pairs[-1]


FAMILY = 1 << 20  # above any other key, so that kinds cannot meet
ON_THE_NECK, ACROSS, UP_AN_OCTAVE = 1, 2, 3  # in the order a player sees them


def _codes(events: Events, lag: int, turned: IntArray) -> Iterator[IntArray]:
    """The vector of each pair, as a whole number, in each way of measuring; 0 where there is none in that way."""
    strings, frets, midi = (values[lag:] - values[:-lag] for values in (events.string, events.fret, events.midi))
    same = (events.gesture[lag:] == events.gesture[:-lag]) & ((turned[lag:] != turned[:-lag]) | (turned[lag:] < 0))
    yield np.where(same, ON_THE_NECK * FAMILY + (strings + 16) * 512 + frets + 64, 0)
    if (across := same & (strings != 0)).any():
        yield np.where(across, ACROSS * FAMILY + (strings + 16) * 512 + midi + 128, 0)
    if (octave := same & (np.abs(midi) == OCTAVE)).any():
        yield np.where(octave, UP_AN_OCTAVE * FAMILY + midi + 128, 0)


def _runs(
    events: Events, lag: int, near: IntervalSteps, far: IntervalSteps, background: Background, turned: IntArray
) -> Iterator[_Run]:
    """The runs of one distance; a single pair that differs inside does not end one."""
    if len(events) - lag < SHORTEST:
        return
    in_time, over_one = near.alike(lag), far.alike(lag)
    for code in _codes(events, lag, turned):
        same_shift = in_time & (code[1:] == code[:-1]) & (code[1:] != 0)
        if not same_shift.any():
            continue
        two = over_one & (code[2:] == code[:-2]) & (code[2:] != 0)
        if not two.any() and not (same_shift[1:] & same_shift[:-1]).any():
            continue  # no three on end: for most distances that is all there is to see
        bridged = same_shift.copy()
        bridged[:-1] |= two
        bridged[1:] |= two
        yield from _stretches(code, same_shift, bridged, lag, background)


def _stretches(
    code: IntArray, same_shift: BoolArray, bridged: BoolArray, lag: int, background: Background
) -> Iterator[_Run]:
    starts, ends = edges_of(bridged)
    # what holds no news is left out at once: in a solo of equal notes everything comes again everywhere
    long_enough = (ends - starts + 1 >= SHORTEST) & (background.news(starts + lag, ends + lag) >= LEAST_BITS)
    for begin, end in zip(starts[long_enough].tolist(), ends[long_enough].tolist(), strict=True):
        part = code[begin : end + 1].tolist()
        usual = part[0]
        if part.count(usual) < len(part):
            usual = Counter(value for value in part if value).most_common(1)[0][0]
        # the later one begins where the earlier one is over
        members = [begin + at for at, value in enumerate(part) if value == usual and at < lag]
        # at least two on end somewhere: every other note alone is no lick
        if len(members) >= SHORTEST and same_shift[begin:end].any():
            yield _Run(usual, [(at, at + lag) for at in members])


def edges_of(mask: BoolArray) -> tuple[IntArray, IntArray]:
    """Return where the stretches in which a mask, shape (n,), holds begin and end (exclusive)."""
    padded = np.zeros(mask.size + 2, dtype=bool)
    padded[1:-1] = mask
    edges = np.flatnonzero(padded[1:] != padded[:-1])
    return edges[::2], edges[1::2]


def _joined(events: Events, runs: list[_Run]) -> list[_Run]:
    """Runs that go on in another one with a note more or less between them, joined."""
    by_begin: dict[tuple[int, int, int], _Run] = {(run.code, *run.begins): run for run in runs}
    used: set[int] = set()
    joined = []
    for run in sorted(runs, key=lambda run: run.begins):
        if id(run) in used:
            continue
        while (after := _next(events, run, by_begin)) is not None and id(after) not in used:
            used.add(id(after))
            run = _Run(run.code, [*run.pairs, *after.pairs])
        joined.append(run)
    return joined


STEPS = ((1, 2), (2, 1), (2, 2), (1, 3), (3, 1), (2, 3), (3, 2))  # frets between two notes of a pentatonic or a scale


def _next(events: Events, run: _Run, by_begin: dict[tuple[int, int, int], _Run]) -> _Run | None:
    """The run that goes on where one ends, with at most two notes passed over on either side."""
    first, second = run.ends
    for a, b in STEPS:
        after = by_begin.get((run.code, first + a, second + b))
        if after is not None and after is not run and _in_time(events, (first, second), (first + a, second + b)):
            return after
    return None


def _in_time(events: Events, before: tuple[int, int], after: tuple[int, int]) -> bool:
    a, b = (events.beats[after[at]] - events.beats[before[at]] for at in (0, 1))
    slack = SPREAD_BEATS + TIMING_TOLERANCE_S / min(events.beat_s[before[0]], events.beat_s[before[1]])
    return bool(abs(a - b) <= slack)


def _move(events: Events, run: _Run) -> Transposition:
    first, second = (np.array(side) for side in zip(*run.pairs, strict=True))
    strings, frets, midi = (
        common(values[second] - values[first]) for values in (events.string, events.fret, events.midi)
    )
    if strings == 0:
        kind = Kind.EXACT if frets == 0 else Kind.ALONG_NECK
    elif midi in (OCTAVE, -OCTAVE):
        kind = Kind.OCTAVE
    else:
        kind = Kind.ACROSS_STRINGS
    return Transposition(kind, tuple(run.pairs), frets, strings, midi)


def common(values: IntArray) -> int | None:
    """Return what all values are; None where they differ, or for none."""
    return int(values[0]) if values.size and (values == values[0]).all() else None
