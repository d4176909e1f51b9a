"""“Lantern Watch”: a solo of 21 bars, composed for this project, that uses every word of the vocabulary.

Guitar down a half step, 14 cents above concert pitch, 92 beats a minute. Written on the neck as E minor; it sounds
as E flat minor. Invented throughout: the tune, the band and the ship.
"""

from dataclasses import replace

import numpy as np

from notcher.core.score import (
    FLAT,
    TUNINGS,
    Attack,
    BeatMap,
    Chord,
    End,
    Key,
    Note,
    Phrase,
    PitchCurve,
    Score,
    Section,
    Tone,
    Vibrato,
    bent_curve,
    with_derived_ids,
)

TITLE = "Lantern Watch"
TEMPO_BPM, FIRST_BEAT_S = 92.0, 0.6  # the invented scenario's own
BEAT_MAP = BeatMap.steady(TEMPO_BPM, FIRST_BEAT_S)
BEAT_S = 60.0 / TEMPO_BPM
KEY = Key("E", "natural minor")
TUNING = replace(TUNINGS["half-down"], offset_cents=14.0)

CHORDS = (
    "Em",
    "C",
    "G",
    "D",
    "Em",
    "C",
    "Am",
    "B7",
    "Em",
    "D",
    "C",
    "B7",
    "Em",
    "G",
    "Am",
    "Em",
    "C",
    "D",
    "B7",
    "Em",
    "Em",
)
PHRASES = (
    (0, 8, "Call"),
    (8, 16, "Answer"),
    (16, 26, "Ladder run"),
    (26, 36, "Two strings"),
    (36, 48, "Bell buoy"),
    (48, 60, "Tapping the hull"),
    (60, 70, "Climb"),
    (70, 84, "Home"),
)
SECTIONS = ((0, 36, "First watch"), (36, 84, "Second watch"))

PICK, REPICK, HAMMER, PULL = Attack.PICK, Attack.REPICK, Attack.HAMMER, Attack.PULL
TAP, SLIDE, SWELL = Attack.TAP, Attack.SLIDE, Attack.SWELL
WIDE, MILD, FAST = Vibrato(0.18, 5.2, 24), Vibrato(0.22, 5.0, 14), Vibrato(0.12, 6.3, 18)


def _note(beat: float, beats: float, string: int, fret: int, attack: Attack = PICK, **more: object) -> Note:
    """One note by beats; `bend` (semitones), `pre`, `rel` make its curve."""
    onset, end = BEAT_MAP.time_at(np.array([beat, beat + beats]))
    bend, pre, rel = more.pop("bend", 0.0), more.pop("pre", False), more.pop("rel", False)
    curve = more.pop("curve", FLAT)
    if bend:
        curve = bent_curve(float(bend), end - onset, prebent=bool(pre), released=bool(rel))  # type: ignore[arg-type]
    return Note(float(onset), float(end), string, fret, attack, curve, **more)  # type: ignore[arg-type]


def _call() -> list[Note]:
    return [
        _note(0, 1.5, 3, 14, bend=2, vibrato=replace(WIDE, from_s=0.4), end=End.RINGS),
        _note(1.5, 0.45, 2, 12),
        _note(2, 0.95, 2, 15, bend=3, rel=True),
        _note(3, 0.48, 2, 12, PICK, end=End.RUNS_ON),
        _note(3.5, 0.45, 3, 14),
        _note(4, 1.9, 3, 12, vibrato=MILD, end=End.RINGS),
        _note(6, 0.7, 3, 14, bend=2, pre=True, rel=True, end=End.RUNS_ON),
        _note(6.7, 0.25, 3, 12, PULL),
        _note(7, 0.8, 4, 14, vibrato=MILD),
    ]


def _answer() -> list[Note]:
    return [
        _note(8, 0.3, 5, 14, tone=Tone.PALM_MUTE),
        _note(8.5, 0.3, 5, 14, tone=Tone.PALM_MUTE),
        _note(9, 0.3, 4, 12, tone=Tone.PALM_MUTE),
        _note(9.5, 0.12, 4, 12, tone=Tone.DEAD),
        _note(9.75, 0.12, 4, 12, tone=Tone.DEAD),
        _note(10, 0.5, 4, 14, end=End.RUNS_ON),
        _note(10.5, 0.5, 4, 16, SLIDE),
        _note(11, 0.85, 3, 14, bend=1, vibrato=replace(MILD, from_s=0.3)),
        _note(12, 1.0, 2, 12, curve=PitchCurve(((0, 0), (0.42, 0), (0.6, 0.45))), raked=True),
        _note(13, 0.4, 2, 15, bend=2, end=End.RUNS_ON),
        _note(13.5, 0.4, 2, 15, REPICK, curve=PitchCurve(((0, 2.0),))),
        _note(14, 0.9, 2, 15, REPICK, curve=PitchCurve(((0, 2.0), (0.3, 2.0), (0.48, 0.0)))),
        _note(15, 0.7, 1, 12, end=End.SLIDES_AWAY),
    ]


def _ladder() -> list[Note]:
    """Six-note cells down the strings, then up again in triplets; picked, hammered, pulled."""
    cells = [(1, 15, 12, 2, 15, 12), (2, 15, 12, 3, 14, 12), (3, 14, 12, 4, 14, 12), (4, 14, 12, 5, 14, 12)]
    notes = []
    for row, (high, a, b, low, c, d) in enumerate(cells):
        beat, sixth = 16 + row, 1 / 6
        notes += [
            _note(beat, sixth, high, a, end=End.RUNS_ON),
            _note(beat + sixth, sixth, high, b, PULL),
            _note(beat + 2 * sixth, sixth, low, c, end=End.RUNS_ON),
            _note(beat + 3 * sixth, sixth, low, d, PULL, end=End.RUNS_ON),
            _note(beat + 4 * sixth, sixth, low, c, HAMMER),
            _note(beat + 5 * sixth, sixth * 0.9, high, b),
        ]
    climb = [(5, 12), (5, 14), (4, 12), (4, 14), (3, 12), (3, 14), (2, 12), (2, 15), (1, 12)]
    notes += [_note(20 + i / 3, 0.31, string, fret) for i, (string, fret) in enumerate(climb)]
    return [
        *notes,
        _note(23, 0.9, 1, 15, bend=2, vibrato=replace(FAST, from_s=0.28)),
        _note(24, 1.6, 1, 12, SWELL, vibrato=WIDE, end=End.RINGS),
    ]


def _two_strings() -> list[Note]:
    return [
        _note(26, 0.9, 2, 15, end=End.RINGS),
        _note(26, 0.9, 3, 17, bend=2),
        _note(27, 0.9, 2, 15, end=End.RINGS),
        _note(27, 0.9, 3, 17, bend=2, rel=True),
        _note(28, 1.8, 1, 15, end=End.RINGS),
        _note(28, 1.8, 2, 15, bend=2, rel=True),
        _note(30, 0.45, 2, 12),
        _note(30, 0.45, 3, 12),
        _note(30.5, 0.45, 2, 14),
        _note(30.5, 0.45, 3, 14),
        _note(31, 0.9, 2, 12),
        _note(31, 0.9, 3, 12),
        _note(32, 0.7, 3, 14, bend=2, end=End.CHOKED),
        _note(33, 0.7, 3, 14, bend=1, end=End.CHOKED),
        _note(34, 1.6, 4, 14, vibrato=WIDE, end=End.RINGS),
    ]


def _bell_buoy() -> list[Note]:
    scoop = PitchCurve(((0, -1.4), (0.16, 0.0)))
    dip = PitchCurve(((0, 0), (0.35, 0), (0.5, -2.0), (0.68, 0.0)))
    dive = PitchCurve(((0, 0), (0.3, 0), (1.1, -7.0)))
    trill = [
        _note(43 + i / 8, 1 / 8, 2, 15 if i % 2 else 12, (HAMMER if i % 2 else PULL) if i else PICK) for i in range(8)
    ]
    return [
        _note(36, 0.9, 3, 12, tone=Tone.NATURAL_HARMONIC, end=End.RINGS),
        _note(37, 0.9, 3, 7, tone=Tone.NATURAL_HARMONIC, end=End.RINGS),
        _note(38, 1.8, 2, 12, tone=Tone.NATURAL_HARMONIC, curve=dip, end=End.RINGS),
        _note(40, 0.9, 3, 9, curve=scoop),
        _note(41, 0.45, 2, 8),
        _note(41.5, 0.45, 2, 10, SLIDE),
        _note(42, 0.9, 1, 7, vibrato=MILD),
        *trill,
        _note(44, 0.9, 2, 15, bend=2, rel=True),
        _note(45, 2.4, 6, 0, curve=dive, end=End.RINGS),
    ]


def _tapping() -> list[Note]:
    """Three-note cells over a four-beat bar: tapped, pulled, hammered."""
    notes = []
    for cell in range(12):
        beat, third = 48 + cell * 0.5, 1 / 6
        top = (19, 19, 17, 17, 19, 19, 17, 17, 20, 20, 19, 19)[cell]
        notes += [
            _note(beat, third, 1, top, TAP, end=End.RUNS_ON),
            _note(beat + third, third, 1, 12, PULL, end=End.RUNS_ON),
            _note(beat + 2 * third, third, 1, 15, HAMMER, end=End.RUNS_ON),
        ]
    return [
        *notes,
        _note(54, 1.9, 1, 15, bend=2, vibrato=replace(WIDE, from_s=0.35), end=End.RINGS),
        _note(56, 0.95, 3, 14, tone=Tone.SQUEAL_HARMONIC, bend=1, vibrato=replace(FAST, from_s=0.25)),
        _note(57, 0.2, 3, 12, end=End.STOPS),
        _note(57.5, 0.2, 4, 14, end=End.STOPS),
        _note(58, 1.4, 4, 12, vibrato=MILD, end=End.RINGS),
    ]


def _climb() -> list[Note]:
    quick = [(4, 12), (4, 14), (3, 12), (3, 14), (4, 14), (3, 12), (3, 14), (2, 12), (3, 12), (3, 14), (2, 12), (2, 15)]
    notes = [_note(60 + i / 4, 0.23, string, fret) for i, (string, fret) in enumerate(quick)]
    return [
        *notes,
        _note(63, 0.5, 1, 12, end=End.RUNS_ON),
        _note(63.5, 0.5, 1, 15, SLIDE, end=End.RUNS_ON),
        _note(64, 0.95, 1, 17, SLIDE, vibrato=FAST),
        _note(65, 0.45, 1, 15, bend=0.5),
        _note(65.5, 0.45, 1, 12),
        _note(66, 1.4, 2, 15, bend=4, rel=True),
        _note(67.5, 0.45, 2, 12),
        _note(68, 1.6, 3, 14, bend=1, rel=True, vibrato=replace(MILD, from_s=0.7), end=End.RINGS),
    ]


def _home() -> list[Note]:
    return [
        _note(70, 0.5, 2, 15, bend=2, pre=True, rel=True),
        _note(70.5, 0.45, 2, 12),
        _note(71, 0.45, 3, 14),
        _note(71.5, 0.45, 3, 12, PULL),
        _note(72, 0.45, 4, 14),
        _note(72.5, 0.45, 4, 12),
        _note(73, 0.9, 5, 14, vibrato=MILD),
        _note(74, 0.3, 6, 12, tone=Tone.PALM_MUTE),
        _note(74.5, 0.3, 6, 12, tone=Tone.PALM_MUTE),
        _note(75, 0.3, 6, 15, tone=Tone.PALM_MUTE),
        _note(75.5, 0.45, 5, 12),
        _note(76, 1.9, 3, 14, bend=2, vibrato=replace(WIDE, from_s=0.5), end=End.RINGS),
        _note(78, 0.95, 2, 12, SLIDE),
        _note(79, 0.9, 3, 14, bend=2, rel=True, end=End.RUNS_ON),
        _note(80, 3.0, 3, 9, vibrato=replace(WIDE, from_s=0.5), end=End.RINGS),
    ]


def demo_score() -> Score:
    """Return the true score of the demo: what was composed, hence what is heard."""
    parts = (_call, _answer, _ladder, _two_strings, _bell_buoy, _tapping, _climb, _home)
    times = BEAT_MAP.time_at(np.arange(0, 92.0))
    chords = tuple(Chord(float(times[4 * bar]), name) for bar, name in enumerate(CHORDS))
    phrases = tuple(Phrase(float(times[a]), float(times[b]), name) for a, b, name in PHRASES)
    sections = tuple(Section(float(times[a]), float(times[b]), name) for a, b, name in SECTIONS)
    score = Score((), TUNING, BEAT_MAP, chords, phrases, TITLE, sections=sections, key=KEY)
    return with_derived_ids(score.with_notes(note for part in parts for note in part()))
