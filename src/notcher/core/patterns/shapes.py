"""What has to be learned once: the shapes of a solo, where each comes again, and how few notes that leaves.

A shape is said by its first playing and by references to it: "the same, two frets up". A reference goes from a later
note to an earlier one, so that any set of references can be followed back to notes that are learned. Which references
are said is a set cover, solved greedily: the shape that explains the most notes not explained yet, until none explains
two more. Source: V. Chvatal, "A greedy heuristic for the set-covering problem", Mathematics of Operations Research 4,
1979; that the most compressing pattern is taken first as in D. Meredith, "COSIATEC and SIATECCompress", MIREX 2013.
"""

import heapq
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from notcher.core.arrays import FloatArray, IntArray
from notcher.core.errors import CancelCheck, Cancelled, never_cancelled
from notcher.core.patterns.chance import Background
from notcher.core.patterns.events import USUAL_BEAT_S, Events, events_of
from notcher.core.patterns.outlines import outlines
from notcher.core.patterns.phrasing import phrases_of
from notcher.core.patterns.transpositions import LEAST_SHARE, SHORTEST, Kind, Transposition, common, edges_of, moves
from notcher.core.patterns.turns import OUTSIDE, Turns, turns
from notcher.core.score import LEGATO_ATTACKS, Score
from notcher.core.theory import STEPS, likely_scales

LEAST_GAIN = 2  # notes that a reference must save
LEAST_COMMON = 4  # notes of two playings with different endings
MOST_OWN = 0.5  # of what is common: so long may an ending of its own be
LEAST_RHYTHM, LEAST_LENGTHS = 6, 3  # notes, and different lengths among them: even eighths are no rhythm of their own
ON_BEATS = 0.05  # of a turn


@dataclass(frozen=True, slots=True)
class Occurrence:
    """One playing of a shape, by its first and last note; frets, strings, semitones: how far it is from the first one,
    None where that differs from note to note. pairs: (note of the first playing, note of this one). but: notes between
    that are not the shape's."""

    first: int
    last: int
    frets: int | None
    strings: int | None
    semitones: int | None
    pairs: tuple[tuple[int, int], ...]
    but: tuple[int, ...] = ()


@dataclass(frozen=True, slots=True)
class Pattern:
    """Something that is learned once. notes: how many are common to all playings. saves: notes that need not be learned
    because of it, of those that no shape before it has saved. steps: of a sequence, scale steps a turn moves."""

    kind: Kind
    occurrences: tuple[Occurrence, ...]
    notes: int
    saves: int
    steps: int | None = None
    at_end: bool = False  # of two playings the end is common, not the beginning

    @property
    def explained(self) -> frozenset[int]:
        """The notes that follow from earlier ones."""
        return frozenset(
            later for occurrence in self.occurrences[1:] for earlier, later in occurrence.pairs if later > earlier
        )


@dataclass(frozen=True, slots=True)
class Group:
    """A figure of so many notes that is turned so often. beats: quarters that one turn takes. against: the turns do not
    fall on the beats. starts: string and fret of each turn's first note."""

    first: int
    last: int
    size: int
    count: int
    beats: float
    against: bool = False
    starts: tuple[tuple[int, int], ...] = ()


@dataclass(frozen=True, slots=True)
class Patterns:
    """All shapes of a solo, the one that saves most first. count: of the solo's notes. outlines: groups that are alike
    in outline only, and save nothing."""

    count: int
    shapes: tuple[Pattern, ...]
    groups: tuple[Group, ...] = ()
    outlines: tuple[Group, ...] = ()

    @property
    def explained(self) -> frozenset[int]:
        saving = (shape.explained for shape in self.shapes if shape.kind is not Kind.RHYTHM)
        return frozenset().union(*saving)

    @property
    def to_learn(self) -> int:
        """How many notes are left when everything moved or repeated is said by reference."""
        return self.count - len(self.explained)


NO_PATTERNS = Patterns(0, ())


def patterns(score: Score, *, cancelled: CancelCheck = never_cancelled) -> Patterns:
    """Find what comes again in a solo. Raises: Cancelled."""
    events = events_of(score)
    if len(events) < 2:
        return Patterns(len(events), ())
    background = Background(events)
    turned = turns(events, scale_steps(score, events))
    cells = [_turned(events, figure) for figure in turned]
    within = np.full(len(events), -1)
    for number, figure in enumerate(turned):
        within[figure.first : figure.last + 1] = number
    transpositions = moves(events, background, turned=within, cancelled=cancelled)
    chosen = _covered([*_shapes_of(events, transpositions, background), *cells])
    starts = _phrase_spans(score)
    with_endings = tuple(_with_endings(shape, starts) for shape in chosen)
    explained = frozenset().union(*(shape.explained for shape in with_endings))
    rhythms = _rhythms(events, background, explained, cancelled)
    groups = (_group(score, figure) for figure, cell in zip(turned, cells, strict=True) if cell.explained <= explained)
    struck = np.array([note.attack not in LEGATO_ATTACKS for note in score.notes])
    alike = (_group(score, figure) for figure in outlines(events, struck, background, turned))
    return Patterns(len(events), (*with_endings, *rhythms), tuple(groups), tuple(alike))


# --- figures ---
def scale_steps(score: Score, events: Events) -> IntArray:
    """Return each note's degree in the scale in use, shape (n_notes,); an octave is as many as the scale has."""
    lengths_s = [note.duration_s for note in score.notes]
    likeliest = likely_scales((events.midi + events.gesture % 100).tolist(), lengths_s)[0]
    places = np.array(STEPS[likeliest.scale])
    over = events.midi - likeliest.tonic
    at = np.searchsorted(places, over % 12)
    inside = (at < places.size) & (places[np.minimum(at, places.size - 1)] == over % 12)
    return np.where(inside, at + places.size * (over // 12), OUTSIDE)


def _turned(events: Events, figure: Turns) -> Pattern:
    occurrences = []
    for turn in range(figure.count):
        pairs = figure.pairs(turn)
        first = figure.first + turn * figure.size
        earlier, later = (np.array(side, dtype=np.int64) for side in zip(*pairs, strict=True))
        frets, strings, semitones = (
            common(values[later] - values[earlier]) for values in (events.fret, events.string, events.midi)
        )
        last = first + figure.size - 1
        but = _others(first, last, later.tolist())
        occurrences.append(Occurrence(first, last, frets, strings, semitones, pairs, but))
    kind = Kind.SEQUENCE if figure.moved else Kind.CELL
    return Pattern(kind, tuple(occurrences), figure.size, 0, figure.steps)


def _group(score: Score, figure: Turns) -> Group:
    onsets_s = np.array([score.notes[figure.first + turn * figure.size].onset_s for turn in range(figure.count)])
    quarters: FloatArray = onsets_s / USUAL_BEAT_S
    felt = 1.0
    if score.beat_map.known:
        quarters = score.beat_map.quarter_at(onsets_s)
        felt = float(np.median(np.diff(score.beat_map.felt_at(quarters))))
    beats = round(12 * float(np.median(np.diff(quarters)))) / 12
    starts = tuple((note.string, note.fret) for note in score.notes[figure.first : figure.last + 1 : figure.size])
    return Group(figure.first, figure.last, figure.size, figure.count, beats, not _on_beats(felt), starts)


def _on_beats(felt: float) -> bool:
    """Whether turns of so many felt beats fall on beats, or several of them make one."""
    fits = felt if felt >= 1 else 1 / max(felt, 1e-6)
    return abs(fits - round(fits)) < ON_BEATS


# --- candidates ---
def _shapes_of(events: Events, transpositions: list[Transposition], background: Background) -> list[Pattern]:
    """Shapes of the moves that say something: each stretch with all places where it comes again in one way."""
    apart = [move for move in transpositions if move.source[1] < move.target[0]]
    telling = [move for move in _unlike(apart) if _bits(move, background) >= background.asked]
    if not telling:
        return []
    first, last = (np.array([move.source[side] for move in telling]) for side in (0, 1))
    kinds = np.array([list(Kind).index(move.kind) for move in telling])
    shapes, covered = [], set()
    for number, move in enumerate(telling):
        if (move.kind, move.source) in covered:
            continue
        covered.add((move.kind, move.source))
        holding = np.flatnonzero((first <= first[number]) & (last >= last[number]) & (kinds == kinds[number]))
        occurrences = _apart(_clipped(telling[at], *move.source) for at in holding.tolist())
        if occurrences:
            shapes.append(_shape(move.kind, occurrences, events))
    return shapes


def _unlike(candidates: Iterable[Transposition]) -> list[Transposition]:
    """Without what is measured twice and comes to the same."""
    unlike: dict[tuple[tuple[int, int], ...], Transposition] = {}
    for move in candidates:
        unlike.setdefault(move.pairs, move)
    return list(unlike.values())


def _bits(move: Transposition, background: Background) -> float:
    later = [at for _, at in move.pairs]
    if move.kind is Kind.EXACT:
        return background.on_neck(later) + background.of_place(later[0])
    return background.on_neck(later) if move.frets is not None else background.in_sound(later)


def _clipped(move: Transposition, first: int, last: int) -> Transposition | None:
    """The part of a move whose earlier side lies in a span, if most of the span is in it."""
    pairs = tuple(pair for pair in move.pairs if first <= pair[0] <= last)
    if len(pairs) < SHORTEST or (pairs[0][0], pairs[-1][0]) != (first, last):
        return None
    return replace(move, pairs=pairs) if _compact(pairs) else None


def _compact(pairs: Sequence[tuple[int, int]]) -> bool:
    spans = [pairs[-1][side] - pairs[0][side] + 1 for side in (0, 1)]
    return len(pairs) >= LEAST_SHARE * max(spans)


def _apart(candidates: Iterable[Transposition | None]) -> list[Transposition]:
    """Places where a stretch comes again that do not overlap each other, the most complete kept."""
    apart: list[Transposition] = []
    for move in sorted(
        (move for move in candidates if move is not None), key=lambda move: (-len(move.pairs), move.target)
    ):
        begin, end = move.target
        if move.source[1] < begin and all(end < other.target[0] or begin > other.target[1] for other in apart):
            apart.append(move)
    return sorted(apart, key=lambda move: move.target)


def _shape(kind: Kind, candidates: Sequence[Transposition], events: Events) -> Pattern:
    """One shape of a stretch and the places where it comes again."""
    common = sorted(set.intersection(*({earlier for earlier, _ in move.pairs} for move in candidates)))
    first, last = candidates[0].source
    own = tuple((at, at) for at in common)
    occurrences = [Occurrence(first, last, 0, 0, 0, own, _others(first, last, common))]
    for move in candidates:
        pairs = tuple(pair for pair in move.pairs if pair[0] in set(common))
        begin, end = pairs[0][1], pairs[-1][1]
        occurrences.append(
            Occurrence(
                begin, end, move.frets, move.strings, move.semitones, pairs,
                _others(begin, end, [later for _, later in pairs]),
            )
        )  # fmt: skip
    first, last = common[0], common[-1]
    occurrences[0] = replace(occurrences[0], first=first, last=last, but=_others(first, last, common))
    shape = Pattern(kind, tuple(occurrences), len(common), 0)
    return replace(shape, saves=len(shape.explained))


def _others(first: int, last: int, members: Sequence[int]) -> tuple[int, ...]:
    inside = set(members)
    return tuple(at for at in range(first, last + 1) if at not in inside)


# --- the cover ---
def _covered(candidates: Sequence[Pattern]) -> list[Pattern]:
    """The shapes that are said, each with what it saves beyond those before it."""
    sets = [shape.explained for shape in candidates]
    heap = [
        (-len(explained), -shape.notes, number)
        for number, (explained, shape) in enumerate(zip(sets, candidates, strict=True))
    ]
    heapq.heapify(heap)
    covered: set[int] = set()
    chosen = []
    while heap:
        gain, notes, number = heapq.heappop(heap)
        now = len(sets[number] - covered)  # gains only fall: a stale one is put back (M. Minoux, 1978)
        if now < LEAST_GAIN:
            continue
        if now < -gain:
            heapq.heappush(heap, (-now, notes, number))
            continue
        covered |= sets[number]
        chosen.append(replace(candidates[number], saves=now))
    return chosen


# --- endings ---
def _phrase_spans(score: Score) -> list[tuple[int, int]]:
    phrases = score.phrases or phrases_of(score)
    spans = [score.notes_of(phrase) for phrase in phrases]
    return [(span.start, span.stop - 1) for span in spans if len(span)]


def _with_endings(shape: Pattern, phrases: Sequence[tuple[int, int]]) -> Pattern:
    """Two phrases that begin alike are the same with another ending, and so are two that end alike."""
    if shape.kind not in (Kind.EXACT, Kind.ALONG_NECK, Kind.ACROSS_STRINGS, Kind.OCTAVE):
        return shape
    for at_end in (False, True):
        side = 1 if at_end else 0
        spans = []
        for occurrence in shape.occurrences:
            edge = occurrence.last if at_end else occurrence.first
            spans.append(next((span for span in phrases if span[side] == edge), None))
        whole = [span for span in spans if span is not None]
        if len(whole) < len(spans) or len(set(whole)) < len(whole):
            continue
        lengths = [last - first + 1 for first, last in whole]
        own = [length - shape.notes for length in lengths]
        if shape.notes < LEAST_COMMON or not 0 < max(own) <= MOST_OWN * shape.notes:
            continue  # a lick inside two phrases is the lick again
        if all(
            span == (occurrence.first, occurrence.last)
            for span, occurrence in zip(whole, shape.occurrences, strict=True)
        ):
            continue  # whole phrases, garnish inside
        occurrences = tuple(
            replace(
                occurrence, first=span[0], last=span[1], but=_others(*span, [later for _, later in occurrence.pairs])
            )
            for occurrence, span in zip(shape.occurrences, whole, strict=True)
        )
        return replace(shape, kind=Kind.OTHER_ENDING, occurrences=occurrences, at_end=at_end)
    return shape


# --- rhythms ---
def _rhythms(
    events: Events, background: Background, explained: frozenset[int], cancelled: CancelCheck
) -> list[Pattern]:
    """Rhythms that come again with other notes; they save nothing, but help the memory."""
    count, steps = len(events), events.steps(1)
    candidates: list[tuple[float, int, int, int]] = []
    for lag in range(LEAST_RHYTHM, min(count - LEAST_RHYTHM, 2_000)):
        if lag % 64 == 0 and cancelled():
            raise Cancelled
        starts, ends = edges_of(steps.alike(lag))
        sizes = np.minimum(ends - starts + 1, lag)
        bits = background.in_rhythm(starts, starts + sizes - 1)
        telling = (sizes >= LEAST_RHYTHM) & (bits >= background.asked)
        for begin, size, saved_bits in zip(
            starts[telling].tolist(), sizes[telling].tolist(), bits[telling], strict=True
        ):
            if _varied(events, begin, size):
                candidates.append((float(saved_bits), begin, begin + lag, size))
    chosen: list[Pattern] = []
    covered = np.zeros(count, dtype=bool)
    covered[list(explained)] = True
    for _, begin, again, size in sorted(candidates, key=lambda row: (-row[0], row[1])):
        if covered[again : again + size].any():
            continue
        covered[again : again + size] = True
        pairs = tuple((begin + at, again + at) for at in range(size))
        own = tuple((a, a) for a, _ in pairs)
        chosen.append(
            Pattern(
                Kind.RHYTHM,
                (
                    Occurrence(begin, begin + size - 1, 0, 0, 0, own),
                    Occurrence(again, again + size - 1, None, None, None, pairs),
                ),
                size,
                0,
            )
        )
    return chosen


def _varied(events: Events, begin: int, size: int) -> bool:
    """Whether there is a rhythm at all: several lengths, changing."""
    steps: IntArray = np.rint(4 * np.diff(events.beats[begin : begin + size])).astype(np.int64)
    return bool(np.unique(steps).size >= LEAST_LENGTHS or (np.count_nonzero(np.diff(steps)) >= size // 2))
