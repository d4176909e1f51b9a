"""Scores for pages: seeded solos that hold whatever a note can be, and a few hard cases made on purpose."""

from dataclasses import replace
from itertools import pairwise

import numpy as np

from notcher.core.score import (
    FLAT,
    Attack,
    BeatMap,
    Chord,
    Doubt,
    DoubtKind,
    End,
    Key,
    Meter,
    MeterChange,
    Note,
    Phrase,
    PickStroke,
    PitchCurve,
    Score,
    Section,
    Side,
    Swing,
    Tone,
    Tuning,
    Vibrato,
)

METERS = (Meter(4, 4), Meter(3, 4), Meter(6, 8), Meter(12, 8), Meter(5, 4), Meter(7, 8), Meter(2, 2), Meter(5, 8))
CELLS = ((1.0,), (0.5, 0.5), (0.25,) * 4, (1 / 3,) * 3, (1 / 6,) * 6, (0.75, 0.25), (2.0,), (0.2,) * 5, (0.125,) * 8)
NECKS = (Tuning(), Tuning((63, 58, 54, 49, 44, 39), offset_cents=14.0), Tuning((64, 59, 55, 50, 45, 40, 35)),
         Tuning((64, 59, 55, 50, 45, 38), capo=2), Tuning((43, 38, 33, 28)))  # fmt: skip
KEYS = (None, Key("E", "natural minor"), Key("F#", "major"), Key("Ab", "major"), Key("B", "blues"))


def any_score(seed: int, *, count: int = 60, beat: bool = True) -> Score:
    """Return a solo in which anything may stand beside anything; count: of its strokes."""
    dice = np.random.default_rng(seed)
    neck, meter = NECKS[seed % len(NECKS)], METERS[seed % len(METERS)]
    pickup = float(dice.choice([0.0, 0.5, 1.0])) if meter.quarters > 1.5 else 0.0
    beats = BeatMap.steady(float(dice.uniform(60, 150)), 3.0, meter, pickup=pickup)
    beats = replace(beats, meters=(MeterChange(1, meter), MeterChange(5, METERS[(seed + 3) % len(METERS)])))
    if seed % 3 == 0:
        beats = replace(beats, swings=(Swing(2.0, 10.0),))
    notes: list[Note] = []
    quarter, left = -pickup, count
    while left > 0:
        for length in CELLS[int(dice.integers(len(CELLS)))]:
            if dice.random() < 0.9:
                notes += _struck(dice, beats, neck, quarter, length)
            quarter += length
            left -= 1
    notes = _alone(sorted(notes, key=lambda note: (note.onset_s, note.string)))
    end_s = notes[-1].offset_s
    edges = np.unique(np.round(np.linspace(notes[0].onset_s, end_s, 2 + count // 12), 3))
    phrases = tuple(Phrase(float(a), float(b), f"Phrase {at}") for at, (a, b) in enumerate(pairwise(edges)))
    sections = (Section(phrases[0].start_s, phrases[-1].end_s, "Middle watch"),)
    names = ("Em", "C#m7b5", "Gmaj7", "B7#9", "D/F#", "A")
    times = np.arange(notes[0].onset_s, end_s, 1.7)
    chords = tuple(Chord(float(at), names[n % 6], 1.0 if n % 4 else 0.5) for n, at in enumerate(times))
    return Score(
        tuple(notes), tuning=neck, beat_map=beats if beat else BeatMap(), chords=chords, phrases=phrases,
        sections=sections, title=f"Score {seed}", key=KEYS[seed % len(KEYS)],
    )  # fmt: skip


def _struck(dice: np.random.Generator, beats: BeatMap, neck: Tuning, quarter: float, length: float) -> list[Note]:
    start_s, end_s = (float(at) for at in beats.time_at(np.array([quarter, quarter + length])))
    many = int(dice.choice([1, 1, 1, 1, 1, 2, 2, neck.strings]))
    strings = sorted(dice.choice(neck.strings, many, replace=False) + 1)
    held = 1.0 + (3.0 * dice.random() if many == 1 and dice.random() < 0.2 else 0.0)
    low = neck.capo
    notes = []
    for string in strings:
        fret = int(dice.integers(low, 25))
        span_s = (end_s - start_s) * held * float(dice.choice([1.0, 0.9, 0.5]))
        note = Note(start_s, start_s + max(span_s, 0.03), int(string), fret)
        notes.append(_dressed(dice, note, chord=many > 2))
    return notes


def _dressed(dice: np.random.Generator, note: Note, *, chord: bool) -> Note:
    """A note with whatever may be said of one."""
    length = note.duration_s
    changes: dict[str, object] = {}
    if dice.random() < 0.35 and not chord:
        size = float(dice.choice([0.5, 1.0, 2.0, 3.0, 4.0, 6.0]))
        shapes = (
            ((0.0, 0.0), (0.3 * length, size)),
            ((0.0, size),),
            ((0.0, size), (0.4 * length, size), (0.8 * length, 0.0)),
            ((0.0, 0.0), (0.2 * length, size), (0.6 * length, size), (0.9 * length, 0.0)),
            ((0.0, 0.0), (0.4 * length, -size), (0.9 * length, 0.0)),
            ((0.0, 0.0), (0.9 * length, -size)),
            ((0.0, 0.0), (0.7 * length, 0.0), (0.95 * length, 0.4)),
        )
        changes["curve"] = PitchCurve(shapes[int(dice.integers(len(shapes)))])
    if dice.random() < 0.25:
        at_s = float(dice.uniform(0, 0.7)) * length
        changes["vibrato"] = Vibrato(at_s, float(dice.uniform(4, 7)), float(dice.uniform(8, 110)), Side.ABOVE)
    changes["attack"] = Attack(dice.choice(list(Attack)))
    changes["end"] = End(dice.choice(list(End)))
    changes["tone"] = Tone(dice.choice(list(Tone))) if dice.random() < 0.25 else Tone.NORMAL
    for name, odds in (("raked", 0.08), ("slid_in", 0.1), ("garnish", 0.1), ("slip", 0.05)):
        changes[name] = bool(dice.random() < odds)
    if dice.random() < 0.3:
        changes["finger"], changes["stroke"] = int(dice.integers(1, 5)), PickStroke(dice.choice(list(PickStroke)))
    if dice.random() < 0.06:
        changes["remark"] = str(dice.choice(["lean into it", "let the hand fall", "word " * 40]))
    if dice.random() < 0.06:
        changes["doubt"], changes["certainty"] = Doubt(DoubtKind.UNSURE, 0.4), 0.4
    return replace(note, **changes)  # type: ignore[arg-type]


def _alone(notes: list[Note]) -> list[Note]:
    """The notes without two that begin on one string at once, each cut off where its string is struck again."""
    result: list[Note] = []
    following: dict[int, float] = {}
    for note in reversed(notes):
        end_s = min(note.offset_s, following.get(note.string, 1e9))
        if end_s - note.onset_s > 0.02:
            points = tuple(point for point in note.curve.points if point[0] <= end_s - note.onset_s)
            result.append(replace(note, offset_s=end_s, curve=PitchCurve(points) if points else FLAT))
            following[note.string] = note.onset_s
    return result[::-1]


def dense_sixes() -> Score:
    """Four bars of six in a beat, high on the neck."""
    beats = BeatMap.steady(100, 0.5)
    step = 0.6 / 6
    notes = tuple(
        Note(0.5 + at * step, 0.5 + (at + 1) * step, 1 + at % 3, 24 - at % 6, Attack.PICK if at % 2 else Attack.HAMMER)
        for at in range(96)
    )
    return Score(notes, beat_map=beats, title="Sixes", phrases=(Phrase(0.5, 0.5 + 96 * step, "Run"),))


def full_chords() -> Score:
    """Chords on all six strings, some held over what follows."""
    beats = BeatMap.steady(90, 0.5)
    notes = [
        Note(0.5 + at * 60 / 90, 0.5 + (at + 0.95) * 60 / 90, string, 10 + (at + string) % 15)
        for at in range(16)
        for string in range(1, 7)
    ]
    return Score(tuple(notes), beat_map=beats, title="Chords")


def forty_in_a_bar() -> Score:
    """One slow bar of forty notes between two plain ones."""
    beats = BeatMap.steady(40, 0.0)
    plain = [Note(at * 1.5, at * 1.5 + 1.4, 2, 5 + at) for at in range(4)]
    run = [Note(6 + at * 0.15, 6 + at * 0.15 + 0.14, 1 + at % 6, 12 + at % 12) for at in range(40)]
    more = [Note(12 + at * 1.5, 12 + at * 1.5 + 1.4, 3, 7 + at) for at in range(4)]
    return Score((*plain, *run, *more), beat_map=beats, title="Forty")


def long_bends() -> Score:
    """Bends of every size that are held for bars, let down late, over a held note."""
    beats = BeatMap.steady(120, 0.0)
    notes = []
    for at, size in enumerate((0.5, 1.0, 2.0, 3.0, 4.0, 6.0)):
        start = at * 4.0
        curve = PitchCurve(((0.0, 0.0), (1.0, size), (2.6, size), (3.4, 0.0)))
        notes.append(Note(start, start + 3.8, 2 + at % 3, 12, curve=curve, vibrato=Vibrato(1.4, 5.0, 40)))
        notes.append(Note(start, start + 3.8, 1, 15))
    return Score(tuple(sorted(notes, key=lambda note: (note.onset_s, note.string))), beat_map=beats, title="Bends")


HARD = {"sixes": dense_sixes, "chords": full_chords, "forty": forty_in_a_bar, "bends": long_bends}
