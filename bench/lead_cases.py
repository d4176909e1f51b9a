"""Seeded solos that move like a lead guitarist's hand, and their sound through sampled guitars.

A case is a true score on real places of the neck. It is played by a General MIDI soundfont from Debian's packages:
one MIDI channel to a string, pitch bend for every curve, one struck note for a whole legato chain, so the sounds are
recorded guitar notes and none of our own string model.
"""

from __future__ import annotations

import math
import subprocess
import tempfile
from dataclasses import dataclass
from pathlib import Path

import mido
import numpy as np
import soundfile

from notcher.core.score import (
    FLAT,
    LEGATO_STRIKES,
    STANDARD,
    TUNINGS,
    Curve,
    End,
    Note,
    Score,
    Strike,
    Tone,
    Tuning,
    Vibrato,
    bent_curve,
)
from notcher.core.sound import Clip

SOUNDFONT = Path("/usr/share/sounds/sf2/TimGM6mb.sf2")
CLEAN, JAZZ, MUTED = 27, 26, 28
BEND_RANGE = 24
TICK_S = 0.005
BOX = ((0, 3), (0, 3), (0, 2), (0, 2), (0, 2), (0, 3))  # minor pentatonic, frets above the root's, string 1 first


@dataclass(frozen=True)
class Case:
    """A solo to be heard: its seed, its truth."""

    seed: int
    score: Score


class _Hand:
    """Plays licks one after another and keeps the time."""

    def __init__(self, seed: int, tuning: Tuning) -> None:
        self.dice = np.random.default_rng(seed)
        self.tuning = tuning
        self.beat_s = 60.0 / float(self.dice.uniform(72, 132))
        self.root = int(self.dice.integers(3, 13))
        self.time_s = 0.5
        self.notes: list[Note] = []

    def play(self, beats: float, string: int, fret: int, strike: Strike = Strike.PICK, **more: object) -> None:
        """Play one note and move on; a little early or late, as hands are."""
        span_s = beats * self.beat_s
        hold = float(more.pop("hold", 0.93))  # type: ignore[arg-type]
        onset_s = self.time_s + (float(self.dice.normal(0, 0.006)) if strike is Strike.PICK else 0.0)
        if self.notes and strike in LEGATO_STRIKES:
            onset_s = self.time_s
            last = self.notes[-1]
            object.__setattr__(last, "offset_s", onset_s)
            object.__setattr__(last, "end", End.RUNS_ON)
        onset_s = max(onset_s, self.notes[-1].onset_s + 0.04 if self.notes else 0.0)
        end_s = max(self.time_s + hold * span_s, onset_s + 0.05)
        self.notes.append(Note(onset_s, end_s, string, fret, strike, **more))  # type: ignore[arg-type]
        self.time_s += span_s

    def rest(self, beats: float) -> None:
        self.time_s += beats * self.beat_s

    def vibrato(self) -> Vibrato:
        dice = self.dice
        return Vibrato(float(dice.uniform(0.12, 0.3)), float(dice.uniform(4.5, 7)), float(dice.uniform(12, 35)))

    def box(self, string: int, step: int) -> int:
        return self.root + BOX[string - 1][step]

    # --- licks ---
    def run(self) -> None:
        """Down or up the box, picked, in even notes."""
        beats = float(self.dice.choice([0.25, 1 / 3, 0.5]))
        walk = [(string, step) for string in range(1, 7) for step in (1, 0)]
        first = int(self.dice.integers(0, 5))
        walk = walk[first : first + int(self.dice.integers(5, 9))]
        for string, step in walk if self.dice.random() < 0.5 else walk[::-1]:
            self.play(beats, string, self.box(string, step))

    def legato(self) -> None:
        """Three notes to a string: pick, hammer, hammer; back with pulls."""
        string = int(self.dice.integers(1, 5))
        frets = [self.root, self.root + 2, self.root + 3 + int(self.dice.integers(0, 2))]
        beats = float(self.dice.choice([0.25, 1 / 3]))
        self.play(beats, string, frets[0])
        for fret in frets[1:]:
            self.play(beats, string, fret, Strike.HAMMER)
        for fret in frets[-2::-1]:
            self.play(beats, string, fret, Strike.PULL)

    def bend(self) -> None:
        string = int(self.dice.choice([1, 2, 3]))
        size = float(self.dice.choice([1, 2, 2, 2, 3])) + float(self.dice.normal(0, 0.04))
        beats = float(self.dice.choice([1, 1.5, 2]))
        rise_s = float(self.dice.uniform(0.09, 0.25))
        curve = bent_curve(size, beats * self.beat_s, rise_s=rise_s, released=self.dice.random() < 0.4)
        wave = self.vibrato() if self.dice.random() < 0.4 and len(curve.points) == 2 else None
        if wave is not None:
            wave = Vibrato(min(rise_s + 0.1, 0.8 * beats * self.beat_s), wave.rate_hz, wave.extent_cents)
        self.play(beats, string, self.box(string, 1), curve=curve, vibrato=wave)

    def prebend(self) -> None:
        string = int(self.dice.choice([2, 3]))
        size = float(self.dice.choice([1, 2]))
        hold_s, fall_s = 0.12 + 0.2 * float(self.dice.random()), float(self.dice.uniform(0.1, 0.2))
        curve = Curve(((0.0, size), (hold_s, size), (hold_s + fall_s, 0.0)))
        self.play(max(1.0, (hold_s + fall_s + 0.2) / self.beat_s), string, self.box(string, 1), curve=curve)

    def curl(self) -> None:
        string, beats = int(self.dice.choice([2, 3])), 1.0
        span_s = beats * self.beat_s
        curve = Curve(((0, 0), (0.6 * span_s, 0), (0.85 * span_s, float(self.dice.uniform(0.35, 0.6)))))
        self.play(beats, string, self.box(string, 0), curve=curve)

    def slide(self) -> None:
        string = int(self.dice.integers(1, 5))
        self.play(0.5, string, self.root)
        self.play(1.0, string, self.root + int(self.dice.choice([2, 4, 5])), Strike.SLIDE)

    def tap(self) -> None:
        string = int(self.dice.choice([1, 2]))
        self.play(1 / 3, string, self.root + 12 - 5 + int(self.dice.integers(0, 3)))
        for _ in range(int(self.dice.integers(2, 4))):
            self.play(1 / 3, string, self.root, Strike.PULL)
            self.play(1 / 3, string, self.root + 3, Strike.HAMMER)
            self.play(1 / 3, string, self.root + 9, Strike.TAP)

    def chug(self) -> None:
        for _ in range(int(self.dice.integers(3, 7))):
            self.play(0.5, 5, self.root, tone=Tone.PALM_MUTE, hold=0.6)

    def again(self) -> None:
        """One note, several times."""
        string, step = int(self.dice.integers(1, 5)), int(self.dice.integers(0, 2))
        for _ in range(int(self.dice.integers(2, 5))):
            self.play(0.5, string, self.box(string, step))

    def long_note(self) -> None:
        string, step = int(self.dice.integers(1, 5)), int(self.dice.integers(0, 2))
        self.play(2.0, string, self.box(string, step), vibrato=self.vibrato(), end=End.RINGS)
        self.rest(float(self.dice.choice([0.5, 1.0])))


LICKS = ("run", "legato", "bend", "prebend", "curl", "slide", "tap", "chug", "again", "long_note")
WEIGHTS = np.array([4, 3, 4, 1.5, 0.7, 2, 1, 1, 2, 3])


def make_case(seed: int, *, length_s: float = 40.0) -> Case:
    """Compose a solo; the same seed gives the same one."""
    dice = np.random.default_rng(seed + 10_000)
    tuning = (STANDARD, STANDARD, TUNINGS["half-down"])[int(dice.integers(0, 3))]
    hand = _Hand(seed, tuning)
    while hand.time_s < length_s:
        getattr(hand, str(dice.choice(LICKS, p=WEIGHTS / WEIGHTS.sum())))()
        if dice.random() < 0.25:
            hand.rest(0.5)
    return Case(seed, Score(tuple(hand.notes), tuning))


def render_case(case: Case, *, program: int = CLEAN, sample_rate: int = 44_100) -> Clip:
    """Play a case through the soundfont."""
    with tempfile.TemporaryDirectory() as folder:
        midi, wave = Path(folder) / "case.mid", Path(folder) / "case.wav"
        _as_midi(case.score, program).save(midi)
        options = ["-ni", "-q", "-g", "0.8", "-R", "0", "-C", "0", "-r", str(sample_rate), "-T", "wav", "-O", "float"]
        subprocess.run(
            ["fluidsynth", *options, "-F", str(wave), str(SOUNDFONT), str(midi)], check=True, capture_output=True
        )
        samples, rate = soundfile.read(wave, dtype="float32", always_2d=True)
    mono = samples.mean(axis=1, keepdims=True)
    return Clip((mono * (0.7 / max(1e-6, float(np.abs(mono).max())))).astype(np.float32), rate, f"case-{case.seed}.wav")


def _as_midi(score: Score, program: int) -> mido.MidiFile:
    events: list[tuple[float, int, mido.Message]] = []
    for channel in (0, 1, 2, 3, 4, 5, 10, 11, 12, 13, 14, 15):
        setup = [("control_change", {"control": c, "value": v}) for c, v in ((101, 0), (100, 0), (6, BEND_RANGE))]
        events += [(0.0, 0, mido.Message(kind, channel=channel, **values)) for kind, values in setup]
        events.append(
            (0.0, 0, mido.Message("program_change", channel=channel, program=MUTED if channel >= 10 else program))
        )
    notes = list(score.notes)
    for index, note in enumerate(notes):
        channel = note.string - 1 + (10 if note.tone is Tone.PALM_MUTE else 0)
        struck = note.strike not in LEGATO_STRIKES
        following = notes[index + 1] if index + 1 < len(notes) else None
        runs_on = following is not None and following.strike in LEGATO_STRIKES
        key = _chain_key(score, index)
        if struck:
            velocity = 75 + int(35 * abs(math.sin(index * 1.7)))
            events.append((note.onset_s, 3, mido.Message("note_on", channel=channel, note=key, velocity=velocity)))
        if not runs_on:
            events.append((note.offset_s, 1, mido.Message("note_off", channel=channel, note=key)))
        events += [
            (time_s, 2, mido.Message("pitchwheel", channel=channel, pitch=_wheel(midi - key)))
            for time_s, midi in _pitch_line(score, index, following if runs_on else None)
        ]
    return _midi_file(events)


def _chain_key(score: Score, index: int) -> int:
    while score.notes[index].strike in LEGATO_STRIKES and index > 0:
        index -= 1
    return round(score.fretted_midi(score.notes[index]))


def _pitch_line(score: Score, index: int, slid_to: Note | None) -> list[tuple[float, float]]:
    note = score.notes[index]
    times_s = np.arange(0, note.duration_s, TICK_S)
    midi = score.fretted_midi(note) + note.curve.at(times_s)
    if note.vibrato is not None:
        midi = midi + note.vibrato.at(times_s)
    if slid_to is not None and slid_to.strike is Strike.SLIDE:
        frets = slid_to.fret - note.fret
        remaining = note.duration_s - times_s
        midi = midi + np.sign(frets) * np.ceil(np.clip(abs(frets) - remaining / 0.018, 0, max(abs(frets) - 1, 0)))
    if note.curve == FLAT and note.vibrato is None and slid_to is None:
        return [(note.onset_s, float(midi[0]))]
    return [(float(note.onset_s + t), float(m)) for t, m in zip(times_s, midi, strict=True)]


def _wheel(semitones: float) -> int:
    return int(np.clip(round(semitones / BEND_RANGE * 8192), -8192, 8191))


def _midi_file(events: list[tuple[float, int, mido.Message]]) -> mido.MidiFile:
    file = mido.MidiFile(ticks_per_beat=960)
    track = mido.MidiTrack()
    file.tracks.append(track)
    now = 0
    for time_s, _, message in sorted(events, key=lambda event: (event[0], event[1])):
        tick = round(time_s * 1920)  # 120 beats a minute is the file's default
        track.append(message.copy(time=max(0, tick - now)))
        now = max(now, tick)
    return file
