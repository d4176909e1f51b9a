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
    LEGATO_ATTACKS,
    STANDARD,
    TUNINGS,
    Attack,
    BeatMap,
    End,
    Note,
    PitchCurve,
    Score,
    Tone,
    Tuning,
    Vibrato,
    bent_curve,
)
from notcher.core.sound import Clip

SOUNDFONT = Path("/usr/share/sounds/sf2/TimGM6mb.sf2")
OTHER_SOUNDFONT = SOUNDFONT.with_name("FluidR3_GM.sf2")
"""Not needed by any test; where Debian's fluid-soundfont-gm is installed, the benchmark and the training use it too."""
CLEAN, JAZZ, MUTED, OVERDRIVEN, DISTORTED, HARMONICS = 27, 26, 28, 29, 30, 31
BEND_RANGE = 24
TICK_S = 0.005
SLIDE_FRET_S = 0.012, 0.06
HARMONIC_SEMITONES = {12: 12, 7: 19, 5: 24}
BOX = ((0, 3), (0, 3), (0, 2), (0, 2), (0, 2), (0, 3))  # minor pentatonic, frets above the root's, string 1 first


@dataclass(frozen=True)
class Case:
    """A solo to be heard: its seed, its truth."""

    seed: int
    score: Score
    beat_s: float = 0.5
    root: int = 5


class _Hand:
    """Plays licks one after another and keeps the time."""

    def __init__(self, seed: int, tuning: Tuning) -> None:
        self.dice = np.random.default_rng(seed)
        self.tuning = tuning
        self.beat_s = 60.0 / float(self.dice.uniform(72, 132))
        self.root = int(self.dice.integers(3, 13))
        self.time_s = 0.5
        self.notes: list[Note] = []

    def play(self, beats: float, string: int, fret: int, attack: Attack = Attack.PICK, **more: object) -> None:
        """Play one note and move on; a little early or late, as hands are."""
        span_s = beats * self.beat_s
        hold = float(more.pop("hold", 0.93))  # type: ignore[arg-type]
        onset_s = self.time_s + (float(self.dice.normal(0, 0.006)) if attack is Attack.PICK else 0.0)
        if self.notes and attack in LEGATO_ATTACKS:
            onset_s = self.time_s
            last = self.notes[-1]
            object.__setattr__(last, "offset_s", onset_s)
            object.__setattr__(last, "end", End.RUNS_ON)
        onset_s = max(onset_s, self.notes[-1].onset_s + 0.04 if self.notes else 0.0)
        end_s = max(self.time_s + hold * span_s, onset_s + 0.05)
        self.notes.append(Note(onset_s, end_s, string, fret, attack, **more))  # type: ignore[arg-type]
        self.time_s += span_s

    def rest(self, beats: float) -> None:
        self.time_s += beats * self.beat_s

    def vibrato(self) -> Vibrato:
        dice = self.dice
        return Vibrato(float(dice.uniform(0.12, 0.3)), float(dice.uniform(4.5, 7)), float(dice.uniform(12, 35)))

    def box(self, string: int, step: int) -> int:
        return self.root + BOX[string - 1][step]

    def together(
        self, beats: float, *places: tuple[int, int], curves: tuple[PitchCurve, ...] = (), hold: float = 0.9
    ) -> None:
        """Attack several strings at once; `curves` belong to the places in order."""
        onset_s = max(self.time_s, self.notes[-1].onset_s + 0.04 if self.notes else 0.0)
        end_s = self.time_s + hold * beats * self.beat_s
        shapes = (*curves, *[FLAT] * len(places))
        found = [
            Note(onset_s, end_s, string, fret, curve=shape)
            for (string, fret), shape in zip(places, shapes, strict=False)
        ]
        self.notes += sorted(found, key=lambda note: note.string)
        self.time_s += beats * self.beat_s

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
            self.play(beats, string, fret, Attack.HAMMER)
        for fret in frets[-2::-1]:
            self.play(beats, string, fret, Attack.PULL)

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
        curve = PitchCurve(((0.0, size), (hold_s, size), (hold_s + fall_s, 0.0)))
        self.play(max(1.0, (hold_s + fall_s + 0.2) / self.beat_s), string, self.box(string, 1), curve=curve)

    def curl(self) -> None:
        string, beats = int(self.dice.choice([2, 3])), 1.0
        span_s = beats * self.beat_s
        curve = PitchCurve(((0, 0), (0.6 * span_s, 0), (0.85 * span_s, float(self.dice.uniform(0.35, 0.6)))))
        self.play(beats, string, self.box(string, 0), curve=curve)

    def slide(self) -> None:
        string = int(self.dice.integers(1, 5))
        self.play(0.5, string, self.root)
        self.play(1.0, string, self.root + int(self.dice.choice([2, 4, 5])), Attack.SLIDE)

    def tap(self) -> None:
        string = int(self.dice.choice([1, 2]))
        self.play(1 / 3, string, self.root + 12 - 5 + int(self.dice.integers(0, 3)))
        for _ in range(int(self.dice.integers(2, 4))):
            self.play(1 / 3, string, self.root, Attack.PULL)
            self.play(1 / 3, string, self.root + 3, Attack.HAMMER)
            self.play(1 / 3, string, self.root + 9, Attack.TAP)

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

    # --- two strings at once ---
    def double_stops(self) -> None:
        """Thirds, fourths or sixths up or down the neck."""
        string = int(self.dice.integers(1, 4))
        kind = str(self.dice.choice(["fourth", "third", "sixth"]))
        lower = string + (2 if kind == "sixth" else 1)
        gap = {"fourth": 5, "third": int(self.dice.integers(3, 5)), "sixth": int(self.dice.integers(8, 10))}[kind]
        offset = self.tuning.open_midi[string - 1] - self.tuning.open_midi[lower - 1] - gap
        beats = float(self.dice.choice([0.5, 1.0]))
        for step in self.dice.choice([0, 2, 3, 5, 7], size=int(self.dice.integers(2, 5))):
            fret = max(self.root + int(step), 1, 1 - offset)
            self.together(beats, (string, fret), (lower, fret + offset))

    def unison(self) -> None:
        """A held note, and the next lower string bent up to it."""
        string = int(self.dice.choice([1, 2]))
        fret = self.box(string, 0)
        gap = self.tuning.open_midi[string - 1] - self.tuning.open_midi[string]
        size = float(self.dice.choice([2.0, 2.0, 1.0]))
        lower = int(fret + gap - size)
        beats = 2.0
        curve = bent_curve(size, beats * self.beat_s, rise_s=float(self.dice.uniform(0.12, 0.3)))
        self.together(beats, (string + 1, lower), (string, fret), curves=(curve,))

    def oblique(self) -> None:
        """A bend under a held higher note."""
        string = int(self.dice.choice([1, 2]))
        beats = 2.0
        released = self.dice.random() < 0.5
        curve = bent_curve(2.0, beats * self.beat_s, rise_s=float(self.dice.uniform(0.12, 0.3)), released=released)
        low = self.box(string + 1, 1) if string == 2 else self.root + 3
        self.together(beats, (string + 1, low), (string, self.root + 3), curves=(curve,))

    def chord(self) -> None:
        """Three neighbouring strings, struck short."""
        shape = ((1, 0), (2, 0), (3, 0)) if self.dice.random() < 0.5 else ((2, 1), (3, 0), (4, 2))
        for _ in range(int(self.dice.integers(1, 3))):
            self.together(1.0, *((string, self.root + fret) for string, fret in shape), hold=0.7)

    # --- the rest of the vocabulary ---
    def harmonics(self) -> None:
        for string in self.dice.choice([1, 2, 3, 4], size=2, replace=False):
            self.play(1.0, int(string), int(self.dice.choice([12, 7, 5])), tone=Tone.NATURAL_HARMONIC)

    def squeal(self) -> None:
        string = int(self.dice.choice([3, 4]))
        self.play(1.5, string, self.box(string, 0), tone=Tone.SQUEAL_HARMONIC, vibrato=self.vibrato())

    def dead(self) -> None:
        for _ in range(int(self.dice.integers(2, 4))):
            self.play(0.5, int(self.dice.choice([3, 4])), self.root, tone=Tone.DEAD, hold=0.3)

    def raked(self) -> None:
        string = int(self.dice.choice([1, 2]))
        self.rest(0.25)
        self.play(1.5, string, self.box(string, 0), raked=True)

    def choked(self) -> None:
        string = int(self.dice.choice([1, 2, 3]))
        curve = PitchCurve(((0, 0), (0.12, 2.0)))
        self.play(1.0, string, self.box(string, 1), curve=curve, end=End.CHOKED, hold=0.6)
        self.rest(0.25)

    def swell(self) -> None:
        string = int(self.dice.choice([2, 3]))
        self.rest(0.5)
        self.play(2.0, string, self.box(string, 0), Attack.SWELL)

    def slide_off(self) -> None:
        string = int(self.dice.choice([2, 3]))
        self.play(1.0, string, self.root + 7, end=End.SLIDES_AWAY)
        self.rest(0.25)

    def slide_in(self) -> None:
        string = int(self.dice.choice([2, 3]))
        self.rest(0.5)
        self.play(1.0, string, self.root + 7, Attack.SLIDE)

    def trill(self) -> None:
        string = int(self.dice.choice([1, 2, 3]))
        beats = 0.09 / self.beat_s
        self.play(beats, string, self.root)
        for _ in range(int(self.dice.integers(4, 8))):
            self.play(beats, string, self.root + 2, Attack.HAMMER)
            self.play(beats, string, self.root, Attack.PULL)

    def staccato(self) -> None:
        for step in (0, 1, 0):
            self.play(0.5, 2, self.box(2, step), hold=0.4)
            self.rest(0.0)

    def dip(self) -> None:
        string = int(self.dice.choice([1, 2, 3]))
        size = -float(self.dice.choice([1.0, 2.0]))
        span_s = 2.0 * self.beat_s
        curve = PitchCurve(((0, 0), (0.3 * span_s, 0), (0.45 * span_s, size), (0.6 * span_s, 0)))
        self.play(2.0, string, self.box(string, 0), curve=curve)

    def dive(self) -> None:
        string = int(self.dice.choice([3, 4]))
        span_s = 2.0 * self.beat_s
        curve = PitchCurve(((0, 0), (0.4 * span_s, 0), (0.9 * span_s, -6.0)))
        self.play(2.0, string, self.box(string, 0), curve=curve)
        self.rest(0.5)


LICKS = ("run", "legato", "bend", "prebend", "curl", "slide", "tap", "chug", "again", "long_note")
WEIGHTS = (4, 3, 4, 1.5, 0.7, 2, 1, 1, 2, 3)
ONE_STRING = dict(zip(LICKS, WEIGHTS, strict=True))
TWO_STRINGS = {"run": 2.0, "bend": 1.0, "double_stops": 4.0, "unison": 2.0, "oblique": 2.0, "chord": 1.0}
RARE = ("harmonics", "squeal", "dead", "raked", "choked", "swell", "slide_off", "slide_in", "trill", "staccato")
VOCABULARY = {"run": 2.0, "bend": 1.0, "long_note": 1.0, "dip": 1.0, "dive": 0.5} | dict.fromkeys(RARE, 1.0)
EVERYTHING = {
    name: max(0.5 * TWO_STRINGS.get(name, 0), VOCABULARY.get(name, 0), ONE_STRING.get(name, 0))
    for name in {**ONE_STRING, **TWO_STRINGS, **VOCABULARY}
}


def make_case(seed: int, *, length_s: float = 40.0, licks: dict[str, float] = ONE_STRING) -> Case:
    """Compose a solo; the same seed gives the same one. licks: how often each is played."""
    dice = np.random.default_rng(seed + 10_000)
    tuning = (STANDARD, STANDARD, TUNINGS["half-down"])[int(dice.integers(0, 3))]
    hand = _Hand(seed, tuning)
    while hand.time_s < length_s:
        weights = np.array(list(licks.values()))
        getattr(hand, str(dice.choice(list(licks), p=weights / weights.sum())))()
        if dice.random() < 0.25:
            hand.rest(0.5)
    beat_map = BeatMap.steady(60.0 / hand.beat_s, 0.5)
    return Case(seed, Score((), tuning, beat_map).with_notes(hand.notes), hand.beat_s, hand.root)


def render_case(
    case: Case,
    *,
    program: int = CLEAN,
    sample_rate: int = 44_100,
    soundfont: Path = SOUNDFONT,
    hand: np.random.Generator | None = None,
    damping: float | None = None,
) -> Clip:
    """Play a case through the soundfont; one channel.

    hand: how slides are played, each otherwise; None: all alike. damping: nepers a second by which muted notes of the
    same guitar fade, None for the soundfont's own muted guitar.
    """
    file = _as_midi(case.score, program, hand, damping)
    samples = played(file, sample_rate, soundfont=soundfont).mean(axis=1, keepdims=True)
    samples = samples * (0.7 / max(1e-6, float(np.abs(samples).max())))
    return Clip(samples.astype(np.float32), sample_rate, f"case-{case.seed}.wav")


def played(file: mido.MidiFile, sample_rate: int, *, soundfont: Path = SOUNDFONT, reverb: bool = False) -> np.ndarray:
    """Render a MIDI file. Returns: shape (n_samples, 2), float32."""
    with tempfile.TemporaryDirectory() as folder:
        midi, wave = Path(folder) / "case.mid", Path(folder) / "case.wav"
        file.save(midi)
        options = ["-ni", "-q", "-g", "0.8", "-R", str(int(reverb)), "-C", "0", "-r", str(sample_rate), "-T", "wav"]
        command = ["fluidsynth", *options, "-O", "float", "-F", str(wave), str(soundfont), str(midi)]
        subprocess.run(command, check=True, capture_output=True)
        return soundfile.read(wave, dtype="float32", always_2d=True)[0]


def _as_midi(
    score: Score, program: int, hand: np.random.Generator | None = None, damping: float | None = None
) -> mido.MidiFile:
    events: list[tuple[float, int, mido.Message]] = []
    programs = dict.fromkeys(range(6), program) | dict.fromkeys(range(10, 16), MUTED)
    for channel, sounds in programs.items():
        setup = [("control_change", {"control": c, "value": v}) for c, v in ((101, 0), (100, 0), (6, BEND_RANGE))]
        events += [(0.0, 0, mido.Message(kind, channel=channel, **values)) for kind, values in setup]
        events.append((0.0, 0, mido.Message("program_change", channel=channel, program=sounds)))
    for index, note in enumerate(score.notes):
        events += _note_events(score, index, note, program, hand, damping)
    # the player renders on for as long as any note is held
    end_s = max((note.offset_s for note in score.notes), default=0.0) + 1.0
    events += [(end_s, 4, mido.Message("control_change", channel=channel, control=123)) for channel in programs]
    return midi_file(events)


def _note_events(
    score: Score,
    index: int,
    note: Note,
    program: int,
    hand: np.random.Generator | None,
    damping: float | None,
) -> list[tuple[float, int, mido.Message]]:
    muted = note.tone is Tone.DEAD or (note.tone is Tone.PALM_MUTE and damping is None)
    channel = note.string - 1 + (10 if muted else 0)
    before = _neighbour(score, index, -1)
    following = _neighbour(score, index, 1)
    chained = note.attack in LEGATO_ATTACKS and before is not None and note.onset_s - before.offset_s < 0.05
    runs_on = following is not None and following.attack in LEGATO_ATTACKS and following.onset_s - note.offset_s < 0.05
    key = _chain_key(score, index)
    events: list[tuple[float, int, mido.Message]] = []
    if note.tone in (Tone.NATURAL_HARMONIC, Tone.SQUEAL_HARMONIC):
        events.append((note.onset_s - 0.002, 0, mido.Message("program_change", channel=channel, program=HARMONICS)))
        events.append((note.offset_s + 0.002, 4, mido.Message("program_change", channel=channel, program=program)))
        # the soundfont's harmonics sound two octaves above their key
        key = round(sounding_midi(score, note)) - 24
    if not chained:
        velocity = 60 if note.tone is Tone.DEAD else 75 + int(35 * abs(math.sin(index * 1.7)))
        if note.raked:
            events += _rake_events(note)
        events.append((note.onset_s, 3, mido.Message("note_on", channel=channel, note=key, velocity=velocity)))
    if not runs_on:
        off_s = note.onset_s + 0.03 if note.tone is Tone.DEAD else note.offset_s
        events.append((off_s, 1, mido.Message("note_off", channel=channel, note=key)))
    events += [
        (time_s, 2, mido.Message("pitchwheel", channel=channel, pitch=_wheel(midi - key)))
        for time_s, midi in _pitch_line(score, index, following if runs_on else None, key, hand)
    ]
    if damping is not None and not chained:
        events.append((note.onset_s, 2, mido.Message("control_change", channel=channel, control=11, value=127)))
    if note.tone is Tone.PALM_MUTE and damping is not None:
        for time_s in np.arange(0.005, note.duration_s + 0.1, 0.005):
            # expression is 40 dB a decade (General MIDI level 1)
            level = round(127 * math.exp(-damping * time_s / 2))
            events.append(
                (note.onset_s + time_s, 2, mido.Message("control_change", channel=channel, control=11, value=level))
            )
    if note.attack is Attack.SWELL:
        for time_s in np.arange(0, 0.5, 0.01):
            level = int(127 * min(1.0, time_s / 0.45))
            events.append(
                (note.onset_s + time_s, 2, mido.Message("control_change", channel=channel, control=11, value=level))
            )
        events.append((note.offset_s + 0.05, 2, mido.Message("control_change", channel=channel, control=11, value=127)))
    return events


def sounding_midi(score: Score, note: Note) -> float:
    """What is heard of an unbent note: harmonics sound far above their fret."""
    open_midi = score.fretted_midi(note) - note.fret
    if note.tone is Tone.NATURAL_HARMONIC:
        return open_midi + HARMONIC_SEMITONES[note.fret]
    return score.fretted_midi(note) + (24 if note.tone is Tone.SQUEAL_HARMONIC else 0)


def _rake_events(note: Note) -> list[tuple[float, int, mido.Message]]:
    """A pick swept over the muted lower strings: clicks 25 ms apart."""
    events = []
    for count in (3, 2, 1):
        at_s, channel = note.onset_s - 0.025 * count, min(note.string - 1 + count, 5) + 10
        events.append((at_s, 3, mido.Message("note_on", channel=channel, note=52, velocity=55)))
        events.append((at_s + 0.02, 1, mido.Message("note_off", channel=channel, note=52)))
    return events


def _neighbour(score: Score, index: int, step: int) -> Note | None:
    """The note before or after on the same string."""
    at = index + step
    while 0 <= at < len(score.notes):
        if score.notes[at].string == score.notes[index].string:
            return score.notes[at]
        at += step
    return None


def _chain_key(score: Score, index: int) -> int:
    first = score.notes[index]
    for note in reversed(score.notes[:index]):
        if first.attack not in LEGATO_ATTACKS:
            break
        if note.string == first.string:
            if first.onset_s - note.offset_s >= 0.05:
                break
            first = note
    return round(score.fretted_midi(first))


def _pitch_line(
    score: Score, index: int, slid_to: Note | None, key: int, hand: np.random.Generator | None
) -> list[tuple[float, float]]:
    note = score.notes[index]
    fret_s, in_frets, off_frets = 0.018, 5, 7
    if hand is not None:
        fret_s, in_frets, off_frets = (
            float(np.exp(hand.uniform(*np.log(SLIDE_FRET_S)))),
            int(hand.integers(2, 6)),
            int(hand.integers(3, 8)),
        )
    times_s = np.arange(0, note.duration_s, TICK_S)
    harmonic = note.tone in (Tone.NATURAL_HARMONIC, Tone.SQUEAL_HARMONIC)
    midi = (key if harmonic else score.fretted_midi(note)) + note.curve.at(times_s) + score.tuning.offset_cents / 100
    before = _neighbour(score, index, -1)
    if note.vibrato is not None:
        midi = midi + note.vibrato.at(times_s)
    if slid_to is not None and slid_to.attack is Attack.SLIDE:
        frets = slid_to.fret - note.fret
        remaining = note.duration_s - times_s
        midi = midi + np.sign(frets) * np.ceil(np.clip(abs(frets) - remaining / fret_s, 0, max(abs(frets) - 1, 0)))
    from_nowhere = note.attack is Attack.SLIDE and (before is None or note.onset_s - before.offset_s >= 0.05)
    from_nowhere = from_nowhere or note.slid_in
    if from_nowhere:
        midi = midi - np.ceil(np.clip(in_frets - times_s / fret_s, 0, in_frets))
    if note.end is End.SLIDES_AWAY:
        midi = midi - np.ceil(np.clip(off_frets - (note.duration_s - times_s) / fret_s, 0, off_frets))
    still = note.curve == FLAT and note.vibrato is None and slid_to is None and not from_nowhere
    if still and note.end is not End.SLIDES_AWAY:
        return [(note.onset_s, float(midi[0]))]
    return [(float(note.onset_s + t), float(m)) for t, m in zip(times_s, midi, strict=True)]


def _wheel(semitones: float) -> int:
    return int(np.clip(round(semitones / BEND_RANGE * 8192), -8192, 8191))


def midi_file(events: list[tuple[float, int, mido.Message]]) -> mido.MidiFile:
    file = mido.MidiFile(ticks_per_beat=960)
    track = mido.MidiTrack()
    file.tracks.append(track)
    now = 0
    for time_s, _, message in sorted(events, key=lambda event: (event[0], event[1])):
        tick = round(time_s * 1920)  # 120 beats a minute is the file's default
        track.append(message.copy(time=max(0, tick - now)))
        now = max(now, tick)
    return file
