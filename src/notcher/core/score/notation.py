"""Written time as note values: bars, rests, ties over the lines, tuplets, beams, a second voice.

Whatever writes rhythm, a page or a file, reads it here; nothing of it is guessed again there.
"""

from bisect import bisect_left, bisect_right
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from itertools import groupby, pairwise

import numpy as np

from notcher.core.score.meter import Meter
from notcher.core.score.rhythm import TICKS, WrittenTime, written_times
from notcher.core.score.score import Score

PLAIN, TRIPLET, QUINTUPLET, SEPTUPLET, FIVE_IN_THREE = (1, 1), (3, 2), (5, 4), (7, 4), (5, 3)
SEVEN_IN_SIX = (7, 6)
NAMES = ("whole", "half", "quarter", "eighth", "16th", "32nd", "64th", "128th")
BEAMED_FROM = NAMES.index("eighth")
PLAIN_STEP = TICKS // 4  # a sixteenth
FAMILIES = (
    (105, PLAIN), (70, TRIPLET), (84, QUINTUPLET), (63, FIVE_IN_THREE), (60, SEPTUPLET), (90, SEVEN_IN_SIX),
)  # fmt: skip
"""Smallest length of each kind, in ticks."""
ODD_BEAMS = {5: (3, 2), 7: (2, 2, 3), 11: (3, 3, 3, 2)}
"""How bars of so many eighths are beamed (common practice, no source)."""


@dataclass(frozen=True, slots=True)
class Value:
    """A note value: its name, dots, and how many stand in the time of how many."""

    name: str
    dots: int = 0
    kind: tuple[int, int] = PLAIN

    @property
    def beams(self) -> int:
        """How many beams or flags it has: none for a quarter and more."""
        return max(0, NAMES.index(self.name) - BEAMED_FROM + 1) if self.name in NAMES else 5


SMALLEST = Value("256th", 0, TRIPLET)
"""How what no value fills is drawn; its length is told exactly all the same."""


def _values_by_length() -> dict[int, Value]:
    """Every length in ticks of a quarter that is one note value; plain ones before tuplets of the same length."""
    values: dict[int, Value] = {}
    for kind in (PLAIN, TRIPLET, QUINTUPLET, FIVE_IN_THREE, SEPTUPLET, SEVEN_IN_SIX):
        for number, name in enumerate(NAMES):
            for dots in (0, 1):
                length = 4 * TICKS / 2**number * (1.5 if dots else 1) * kind[1] / kind[0]
                if length == round(length) and (kind == PLAIN or (dots == 0 and number > 0)):
                    values.setdefault(round(length), Value(name, dots, kind))
    return values


VALUES = _values_by_length()


def value_of(length: int) -> Value:
    """Return the note value of a length in ticks; `SMALLEST` for what is none."""
    return VALUES.get(length, SMALLEST)


@dataclass(frozen=True, slots=True)
class NotatedPiece:
    """One written sign: notes that begin together, a part of them tied over a line, or a rest.

    start, length: ticks from bar 1 on. indices: of the notes in the score, none for a rest. tuplet: which tuplet of the
    bar it is in, -1 for none. beam: which beam of the bar, -1 for none. up: which way its stem must point because two
    voices sound; None where that is free. whole_bar: a rest of the whole bar.
    """

    start: int
    length: int
    indices: tuple[int, ...] = ()
    tied_from: bool = False
    tied_to: bool = False
    tuplet: int = -1
    beam: int = -1
    up: bool | None = None
    whole_bar: bool = False

    @property
    def end(self) -> int:
        return self.start + self.length

    @property
    def value(self) -> Value:
        return value_of(self.length)

    @property
    def rest(self) -> bool:
        return not self.indices

    def joined(self, *, tuplet: int = -1, beam: int = -1) -> "NotatedPiece":
        """Return it in a tuplet, or under a beam; much quicker than `replace`, and every sign goes through it."""
        return NotatedPiece(
            self.start, self.length, self.indices, self.tied_from, self.tied_to, max(self.tuplet, tuplet),
            max(self.beam, beam), self.up, self.whole_bar,
        )  # fmt: skip


@dataclass(frozen=True, slots=True)
class Bar:
    """A bar: its number, where it begins and ends in ticks, its meter, its signs, and those of a second voice.

    implicit: an incomplete bar that is not counted. tuplets: how many of each tuplet stand in its time, as written over
    it. second: where a note is held while others begin; it has no rests.
    """

    number: int
    start: int
    end: int
    meter: Meter
    pieces: tuple[NotatedPiece, ...]
    second: tuple[NotatedPiece, ...] = ()
    tuplets: tuple[int, ...] = ()
    implicit: bool = False

    @property
    def origin(self) -> int:
        """Where it would begin if it were whole, ticks."""
        return self.end - round(self.meter.quarters * TICKS)

    @property
    def beat(self) -> int:
        """Length of its felt beat, ticks."""
        return round(self.meter.beat_quarters * TICKS)

    @property
    def voices(self) -> tuple[tuple[NotatedPiece, ...], ...]:
        return (self.pieces, self.second) if self.second else (self.pieces,)


@dataclass(slots=True)
class _Onset:
    """Notes that begin together, their written onset and length, their indices in the score."""

    onset: int
    length: int
    indices: tuple[int, ...]
    up: bool | None = None


def written_bars(score: Score, *, voices: bool = True, times: Sequence[WrittenTime] | None = None) -> tuple[Bar, ...]:
    """Write a score in note values, bar by bar, from its first to its last.

    voices: whether a note that is held while others begin is written in a voice of its own; else it ends where the
    next begins. times: of its notes, where they are known already. Raises: ValueError when the score has no beat map.
    """
    beat_map, times = score.beat_map, written_times(score) if times is None else times
    main, second = _voices(score, times) if voices else (_strokes(range(len(times)), times), [])
    first = beat_map.bar_at(min((time.onset for time in times), default=0) / TICKS)
    first = min(first, 0) if beat_map.pickup else first
    last = max((stroke.onset + stroke.length for stroke in [*main, *second]), default=1)
    number, pickup, bars = first, round(beat_map.pickup * TICKS), []
    while number == first or round(beat_map.bar_start(number) * TICKS) < last:
        start, end = (round(beat_map.bar_start(at) * TICKS) for at in (number, number + 1))
        cut = number == first == 0 and bool(pickup) and (not times or times[0].onset >= end - pickup)
        if cut:  # an incomplete bar that is not counted
            start = end - pickup
        bar = Bar(number, start, end, beat_map.bar_meter(number), (), implicit=cut)
        pieces = _filled(bar, _inside(main, bar))
        bar_pieces = [piece for stroke in _inside(second, bar) for piece in _cut(bar, stroke)]
        pieces, tuplets = _tupled(bar, pieces, times, 0)
        bar_pieces, more = _tupled(bar, bar_pieces, times, len(tuplets))
        pieces = _beamed(bar, pieces, 0)
        bar_pieces = _beamed(bar, bar_pieces, 1 + max((piece.beam for piece in pieces), default=-1))
        bars.append(replace(bar, pieces=tuple(pieces), second=tuple(bar_pieces), tuplets=(*tuplets, *more)))
        number += 1
    return tuple(bars)


def _inside(strokes: Sequence[_Onset], bar: Bar) -> list[_Onset]:
    """The strokes of a voice that sound in a bar; they are in order, and none begins before the one before it ends."""
    first = max(0, bisect_right(strokes, bar.start, key=_onset) - 1)
    inside = strokes[first : bisect_left(strokes, bar.end, key=_onset)]
    return [stroke for stroke in inside if stroke.onset + stroke.length > bar.start]


def _onset(stroke: _Onset) -> int:
    return stroke.onset


def _strokes(indices: Iterable[int], times: Sequence[WrittenTime]) -> list[_Onset]:
    """Notes grouped by their written onset, each group as long as its longest."""
    groups = groupby(sorted(indices, key=lambda index: times[index].onset), key=lambda index: times[index].onset)
    return [
        _Onset(onset, max(times[index].length for index in together), tuple(together))
        for onset, together in ((onset, list(group)) for onset, group in groups)
    ]


def _voices(score: Score, times: Sequence[WrittenTime]) -> tuple[list[_Onset], list[_Onset]]:
    """The strokes of the main voice, and of the one that is held over them; the higher one has its stems up."""
    main, second = _strokes(range(len(times)), times), []
    free = -(10**12)
    voices = []
    for at, stroke in enumerate(main):
        following = main[at + 1].onset if at + 1 < len(main) else None
        sustained = [index for index in stroke.indices if times[index].held > times[index].length]
        if sustained and following is not None and stroke.onset >= free:
            end = max(times[index].held for index in sustained)
            sustained = [index for index in sustained if times[index].held == end]
            second.append(_Onset(stroke.onset, end, tuple(sustained)))
            free = stroke.onset + end
            rest = tuple(index for index in stroke.indices if index not in sustained)
            if rest:
                voices.append(_Onset(stroke.onset, max(times[index].length for index in rest), rest))
        else:
            voices.append(stroke)
    for stroke in second:
        over = [other for other in voices if stroke.onset <= other.onset < stroke.onset + stroke.length]
        pitches = [score.fretted_midi(score.notes[index]) for other in over for index in other.indices]
        own = [score.fretted_midi(score.notes[index]) for index in stroke.indices]
        stroke.up = not pitches or float(np.mean(own)) > float(np.mean(pitches))
        for other in over:
            other.up = not stroke.up
    return voices, second


# --- note values ---
def _filled(bar: Bar, strokes: Iterable[_Onset]) -> list[NotatedPiece]:
    """A bar's notes cut at its lines, and the rests between them."""
    now, pieces = bar.start, []
    for stroke in strokes:
        cut = _cut(bar, stroke)
        pieces += [*_rests(bar, now, cut[0].start), *cut]
        now = cut[-1].end
    return [*pieces, *_rests(bar, now, bar.end)]


def _cut(bar: Bar, stroke: _Onset) -> list[NotatedPiece]:
    """What of a stroke lies in a bar, as values that are tied."""
    first, last = max(stroke.onset, bar.start), min(stroke.onset + stroke.length, bar.end)
    return [
        NotatedPiece(
            start, length, stroke.indices, tied_from=start > stroke.onset,
            tied_to=start + length < stroke.onset + stroke.length, up=stroke.up,
        )
        for start, length in _pieces(bar, first, last)
    ]  # fmt: skip


def _rests(bar: Bar, first: int, last: int) -> list[NotatedPiece]:
    if (first, last) == (bar.start, bar.end) and not bar.implicit:  # else as long as it is: readers fill the bar up
        return [NotatedPiece(first, last - first, whole_bar=True)]
    return [NotatedPiece(start, length) for start, length in _pieces(bar, first, last)]


def _pieces(bar: Bar, first: int, last: int) -> list[tuple[int, int]]:
    """Split a length into writable values; what is no plain value is cut at the beats first."""
    origin = bar.origin
    return [(origin + start, length) for start, length in _split(first - origin, last - origin, bar.beat)]


@lru_cache(maxsize=4_096)  # the same few lengths stand in the same few places of every bar
def _split(first: int, last: int, beat: int) -> tuple[tuple[int, int], ...]:
    """The same with places counted from the bar's beginning."""
    if first >= last:
        return ()
    if first % PLAIN_STEP == 0 and last % PLAIN_STEP == 0:
        return tuple(_values(first, last))
    next_beat, last_beat = (first // beat + 1) * beat, last // beat * beat
    cuts = sorted(
        {first, *([next_beat] if first < next_beat < last else []), *([last_beat] if first < last_beat else []), last}
    )
    return tuple(piece for a, b in pairwise(cuts) for piece in _values(a, b))


def _values(first: int, last: int) -> list[tuple[int, int]]:
    """Values of one kind that fill a length, longest first; of any kind where none does."""
    length = last - first
    kind = next((kind for step, kind in FAMILIES if length % step == 0), None)
    pieces = []
    while first < last:
        kinds = {kind} if kind is not None and last - first < TICKS else {kind, PLAIN}
        fits = [
            size for size, value in VALUES.items() if size <= last - first and (kind is None or value.kind in kinds)
        ]
        longest = max(fits, default=last - first)
        pieces.append((first, longest))
        first += longest
    return pieces


# --- tuplets and beams ---
def _tupled(
    bar: Bar, pieces: list[NotatedPiece], times: Sequence[WrittenTime], first: int
) -> tuple[list[NotatedPiece], list[int]]:
    """The signs of a voice with their tuplets, and each tuplet's figure.

    A tuplet is what stands in one beat in the same odd kind; six in a beat are one, as they are counted.
    """

    origin, beat = bar.origin, bar.beat

    def home(piece: NotatedPiece) -> tuple[tuple[int, int], int]:
        return piece.value.kind, (piece.start - origin) // beat

    result: list[NotatedPiece] = []
    figures: list[int] = []
    for (kind, _), group in groupby(pieces, key=home):
        together = list(group)
        if kind == PLAIN:
            result += together
            continue
        smallest = min(piece.length for piece in together)
        number = kind[0]
        whole = sum(piece.length for piece in together)
        if kind == TRIPLET and whole == 6 * smallest and _sixes(together, times):
            number = 6
        result += [piece.joined(tuplet=first + len(figures)) for piece in together]
        figures.append(number)
    return result, figures


def _sixes(pieces: Iterable[NotatedPiece], times: Sequence[WrittenTime]) -> bool:
    return any(times[index].grid.name == "sixths" for piece in pieces for index in piece.indices)


def _beamed(bar: Bar, pieces: Sequence[NotatedPiece], first: int) -> list[NotatedPiece]:
    """The signs with their beams: what is shorter than a quarter is joined within its beat; a rest parts it."""
    edges, origin = beam_edges(bar.meter), bar.origin

    def home(piece: NotatedPiece) -> int:
        return bisect_right(edges, piece.start - origin)

    result: list[NotatedPiece] = []
    for (_, beamed), group in groupby(
        pieces, key=lambda piece: (home(piece), not piece.rest and piece.value.beams > 0)
    ):
        together = list(group)
        if beamed and len(together) > 1:
            together = [piece.joined(beam=first) for piece in together]
            first += 1
        result += together
    return result


@lru_cache(maxsize=64)
def beam_edges(meter: Meter) -> tuple[int, ...]:
    """Return where beams end in a bar, in ticks: at its felt beats; odd bars of eighths in twos and threes."""
    unit = 4 * TICKS // meter.unit
    if meter.unit >= 8 and not meter.compound and meter.beats in ODD_BEAMS:
        return tuple(int(edge) for edge in np.cumsum(ODD_BEAMS[meter.beats]) * unit)
    if meter.unit >= 8 and not meter.compound:
        return tuple(min(at + 2, meter.beats) * unit for at in range(0, meter.beats, 2))
    beat = round(meter.beat_quarters * TICKS)
    return tuple(beat * (at + 1) for at in range(meter.felt))
