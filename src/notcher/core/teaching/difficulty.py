"""How hard a phrase is, from figures of what it asks of two hands; each part stands by itself, weights in one table.

A phrase is judged by itself, at full tempo: equal phrases get equal figures. The parts are common practice (no source):
what practitioners name when they say why something is hard. How they are weighed against each other is a matter of
opinion, and adjustable.
"""

import itertools
from collections.abc import Callable, Sequence
from dataclasses import dataclass, fields

import numpy as np

from notcher.core.arrays import FloatArray
from notcher.core.neck import SCALE_LENGTH_MM, Placed
from notcher.core.neck.hand import POSITIONS
from notcher.core.neck.strings import USUAL_SET, StringSet, push_for
from notcher.core.score import LEGATO_ATTACKS, TOGETHER_S, Attack, Note, Phrase, Score, Tone
from notcher.core.score.rhythm import WrittenTime, played_late_s, written_times
from notcher.core.teaching.easing import held

WINDOW_S = 1.0  # in which the peak rate is counted
LEAST_SPAN_S = 0.25  # a single note has no rate
ODD_PARTS = frozenset({5, 7})  # divisions that no foot taps
MARKED = 0.25  # semitones


@dataclass(frozen=True, slots=True)
class Parts:
    """What a phrase asks, at full tempo. Each is 0 where it asks nothing of the kind.

    peak_notes_per_s, notes_per_s: strokes a second. shifts_mm_per_s: the hand's travel along the neck. stretch_mm: the
    longest reach beyond an easy one. crossings_per_s, skips_per_s: to the next string, over one. legato, sweep, tap,
    mute: shares of the notes. bend_n, bend_mm: the hardest push and its way. vibrato_on_bends: share of the notes.
    odd_groups: share of the notes in fives and sevens. float_ms: how far it is played from the written beat.
    """

    peak_notes_per_s: float = 0.0
    notes_per_s: float = 0.0
    shifts_mm_per_s: float = 0.0
    stretch_mm: float = 0.0
    crossings_per_s: float = 0.0
    skips_per_s: float = 0.0
    legato: float = 0.0
    sweep: float = 0.0
    tap: float = 0.0
    mute: float = 0.0
    bend_n: float = 0.0
    bend_mm: float = 0.0
    vibrato_on_bends: float = 0.0
    odd_groups: float = 0.0
    float_ms: float = 0.0

    def as_dict(self) -> dict[str, float]:
        return {part.name: getattr(self, part.name) for part in fields(self)}


@dataclass(frozen=True, slots=True)
class PartWeights:
    """Points a unit of each part is worth; a hundred points is about what a hard phrase of a hard solo asks."""

    peak_notes_per_s: float = 3.0
    notes_per_s: float = 1.5
    shifts_mm_per_s: float = 0.08
    stretch_mm: float = 0.35
    crossings_per_s: float = 1.2
    skips_per_s: float = 2.0
    legato: float = 4.0
    sweep: float = 10.0
    tap: float = 8.0
    mute: float = 3.0
    bend_n: float = 0.8
    bend_mm: float = 0.4
    vibrato_on_bends: float = 12.0
    odd_groups: float = 8.0
    float_ms: float = 0.08


WEIGHTS = PartWeights()


@dataclass(frozen=True, slots=True)
class Difficulty:
    """points: the weighed sum of the parts."""

    points: float
    parts: Parts

    def shares(self, weights: PartWeights = WEIGHTS) -> list[tuple[str, float]]:
        """Return how many points come from each part, the most first; those that give none are left out."""
        weighted = [(part.name, getattr(self.parts, part.name) * getattr(weights, part.name)) for part in fields(Parts)]
        return sorted(((name, points) for name, points in weighted if points > 0), key=lambda row: -row[1])


@dataclass(frozen=True, slots=True)
class Guitar:
    """What the strings do to the hand: the set, the scale length in millimetres."""

    strings: StringSet = USUAL_SET
    scale_length_mm: float = SCALE_LENGTH_MM


USUAL_GUITAR = Guitar()


def difficulties(
    score: Score, *, weights: PartWeights = WEIGHTS, guitar: Guitar = USUAL_GUITAR
) -> dict[str, Difficulty]:
    """Return how hard each phrase with notes is, by its id."""
    tempo_known = score.beat_map.known and bool(score.notes)
    times = written_times(score) if tempo_known else None
    late_s = played_late_s(score) if tempo_known else None
    return {
        phrase.id: _difficulty(score, phrase, times, late_s, weights, guitar)
        for phrase in score.phrases
        if score.notes_of(phrase)
    }


def _difficulty(
    score: Score,
    phrase: Phrase,
    times: Sequence[WrittenTime] | None,
    late_s: FloatArray | None,
    weights: PartWeights,
    guitar: Guitar,
) -> Difficulty:
    inside = score.notes_of(phrase)
    notes = [score.notes[at] for at in inside]
    strokes = _strokes(notes)
    span_s = max(strokes[-1] - strokes[0], LEAST_SPAN_S)
    hands = held(score, notes)
    jumps = [abs(b.string - a.string) for a, b in _successive(notes)]
    push_n, push_mm = _hardest_push(notes, score, guitar)
    parts = Parts(
        peak_notes_per_s=_peak(strokes),
        notes_per_s=(len(strokes) - 1) / span_s if len(strokes) > 1 else 0.0,
        shifts_mm_per_s=_travel_mm(hands) / span_s,
        stretch_mm=max(hand.over_mm for hand in hands),
        crossings_per_s=sum(jump == 1 for jump in jumps) / span_s,
        skips_per_s=sum(jump > 1 for jump in jumps) / span_s,
        legato=_share(notes, lambda note: note.attack in LEGATO_ATTACKS and note.attack is not Attack.TAP),
        sweep=_swept(notes) / len(notes),
        tap=_share(notes, lambda note: note.attack is Attack.TAP),
        mute=_share(notes, lambda note: note.tone in (Tone.PALM_MUTE, Tone.DEAD)),
        bend_n=push_n,
        bend_mm=push_mm,
        vibrato_on_bends=_share(notes, lambda note: note.vibrato is not None and note.bent),
        odd_groups=0.0 if times is None else sum(times[at].grid.count in ODD_PARTS for at in inside) / len(notes),
        float_ms=0.0 if late_s is None else _scatter_ms(late_s[inside.start : inside.stop]),
    )
    rounded = {part.name: round(getattr(parts, part.name), 2) for part in fields(Parts)}  # equal phrases, equal figures
    points = sum(rounded[name] * getattr(weights, name) for name in rounded)
    return Difficulty(round(points, 1), Parts(**rounded))


def _share(notes: Sequence[Note], holds: Callable[[Note], bool]) -> float:
    return sum(map(holds, notes)) / len(notes)


def _travel_mm(hands: Sequence[Placed]) -> float:
    """How far the hand travels along the neck; an open string moves it nowhere."""
    fretting = [(a, b) for a, b in itertools.pairwise(hands) if a.finger and b.finger]
    return sum(abs(float(POSITIONS[b.hand] - POSITIONS[a.hand])) for a, b in fretting)


def _hardest_push(notes: Sequence[Note], score: Score, guitar: Guitar) -> tuple[float, float]:
    """The greatest force, newtons, and the longest way, millimetres, of any bend; zeros where nothing is bent."""
    pushes = [
        push_for(
            note.string,
            note.fret,
            note.reading.bend_semitones,
            score.tuning,
            strings=guitar.strings,
            scale_length_mm=guitar.scale_length_mm,
        )
        for note in notes
        if note.reading.bend_semitones > MARKED and note.string <= len(guitar.strings.gauges)
    ]
    return max((push.force_n for push in pushes), default=0.0), max((push.way_mm for push in pushes), default=0.0)


def _strokes(notes: Sequence[Note]) -> list[float]:
    """When something is struck or fretted, strings together once; seconds, rising."""
    result: list[float] = []
    for onset_s in sorted(note.onset_s for note in notes):
        if not result or onset_s - result[-1] > TOGETHER_S:
            result.append(onset_s)
    return result


def _peak(strokes: Sequence[float]) -> float:
    """The most strokes that come in any second."""
    times_s = np.array(strokes)
    ends = np.searchsorted(times_s, times_s + WINDOW_S - 1e-9)
    return float((ends - np.arange(times_s.size)).max()) / WINDOW_S


def _successive(notes: Sequence[Note]) -> list[tuple[Note, Note]]:
    """Notes that follow each other and are not struck together."""
    return [(a, b) for a, b in itertools.pairwise(notes) if b.onset_s - a.onset_s > TOGETHER_S]


def _swept(notes: Sequence[Note]) -> int:
    """How many notes lie in three and more that cross the strings one by one in one direction, each picked."""
    swept: set[int] = set()
    for at in range(len(notes) - 2):
        three = notes[at : at + 3]
        steps = [b.string - a.string for a, b in itertools.pairwise(three)]
        picked = all(note.attack is Attack.PICK for note in three)
        quick = three[-1].onset_s - three[0].onset_s < 0.5
        if picked and quick and steps[0] == steps[1] and abs(steps[0]) == 1:
            swept |= {at, at + 1, at + 2}
    return len(swept)


def _scatter_ms(late_s: FloatArray) -> float:
    """How far onsets scatter around the written ones, their common lateness taken off; root mean square."""
    return float(1000 * np.sqrt(np.mean((late_s - np.median(late_s)) ** 2)))
