"""Makers of sound for what the hearing learns from: strings by addition with random physics, sampled guitars, amps.

The strings share no code with the product's own model: every solo gets other strings, another pick, pickup and hand.
The sampled guitar is FluidR3; TimGM6mb, which plays what others judge us by, is left out of all of this.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import replace

import mido
import numpy as np
import pedalboard
from scipy import signal

from band import with_band
from lead_cases import (
    CLEAN,
    DISTORTED,
    JAZZ,
    OTHER_SOUNDFONT,
    OVERDRIVEN,
    SLIDE_FRET_S,
    Case,
    midi_file,
    played,
    render_case,
    sounding_midi,
)
from notcher.core.score import LEGATO_ATTACKS, Attack, End, Note, Score, Tone
from notcher.core.sound import Clip
from notcher.core.synthesis import render

RATE = 44_100
NYLON, STEEL = 24, 25
HARMONIC = Tone.NATURAL_HARMONIC
MUTE_FADE = 6.0, 38.0  # nepers a second
Maker = Callable[[Case, int], Clip]


def sampled(case: Case, seed: int) -> Clip:
    """Play a case on one of the sampled guitars."""
    dice = np.random.default_rng([seed, 1])
    program = int(
        dice.choice(
            [JAZZ, CLEAN, CLEAN, STEEL, NYLON, OVERDRIVEN, DISTORTED], p=[0.2, 0.25, 0.15, 0.1, 0.05, 0.15, 0.1]
        )
    )
    fade = float(np.exp(dice.uniform(*np.log(MUTE_FADE)))) if dice.random() < 0.5 else None
    if dice.random() < 0.5:
        return render_case(case, program=program, soundfont=OTHER_SOUNDFONT, hand=dice, damping=fade)
    # the soundfont knows one kind of harmonic only
    own, pure = (
        replace(case, score=case.score.with_notes([n for n in case.score.notes if (n.tone is HARMONIC) == harmonic]))
        for harmonic in (False, True)
    )
    clip = render_case(own, program=program, soundfont=OTHER_SOUNDFONT, hand=dice, damping=fade)
    if not pure.score.notes:
        return clip
    rung = float(dice.uniform(0.4, 0.9)) * summed(pure, seed).samples[: len(clip.samples)]
    samples = clip.samples.copy()
    samples[: len(rung)] += rung
    return Clip(samples, clip.sample_rate, clip.name)


def modelled(case: Case, seed: int) -> Clip:
    """Play a case on the product's own strings."""
    return render(case.score, seed=seed)


def summed(case: Case, seed: int) -> Clip:
    """Play a case on strings made up for it."""
    strings = _Strings(np.random.default_rng([seed, 2]))
    sound = np.zeros(round((max(n.offset_s for n in case.score.notes) + 1.0) * RATE))
    for chain in _chains(case.score):
        start, part = strings.play(case.score, chain)
        start = max(start, 0)
        part = part[: sound.size - start]
        sound[start : start + part.size] += part
    sound *= 0.7 / max(1e-9, float(np.abs(sound).max()))
    return Clip(sound.astype(np.float32)[:, None], RATE, f"case-{case.seed}")


MAKERS: dict[str, Maker] = {"sampled": sampled, "modelled": modelled, "summed": summed}


def _chains(score: Score) -> list[list[Note]]:
    """Notes that share one vibration: what follows legato on a string that still sounds."""
    chains: list[list[Note]] = []
    latest: dict[int, list[Note]] = {}
    for note in score.notes:
        chain = latest.get(note.string)
        if chain is not None and note.attack in LEGATO_ATTACKS and abs(note.onset_s - chain[-1].offset_s) < 0.05:
            chain.append(note)
        else:
            latest[note.string] = chain = [note]
            chains.append(chain)
    return chains


class _Strings:
    """One instrument and one player's touch."""

    def __init__(self, dice: np.random.Generator) -> None:
        draw = dice.uniform
        self.dice = dice
        self.pluck, self.pickup, self.spread = draw(0.06, 0.35), draw(0.05, 0.3), draw(0, 0.04)
        self.slope = draw(0.7, 1.7)  # partials fall with their number to this power
        self.tone_hz, self.fade, self.bright_fade = draw(1800, 7000), draw(0.5, 3.2), draw(0.02, 0.35)
        self.stiff = float(np.exp(draw(np.log(5e-6), np.log(1.6e-4))))
        self.click, self.click_s = draw(0.0, 0.5), draw(0.0015, 0.012)
        self.click_hz = draw(600, 5000)
        self.legato, self.legato_click = draw(0.25, 0.8), draw(0.0, 0.25)
        self.sharp, self.sharp_s = draw(0.0, 0.35), draw(0.015, 0.07)
        self.mute_fade, self.mute_tone = float(np.exp(draw(*np.log(MUTE_FADE)))), draw(0.15, 1.0)
        self.attack_s, self.release_s = draw(0.0008, 0.005), draw(0.004, 0.05)
        self.step_s, self.fret_s = draw(0.001, 0.008), float(np.exp(draw(*np.log(SLIDE_FRET_S))))
        self.partials = int(dice.integers(10, 26))
        self.rings_on_s = draw(0.0, 0.12)
        self.uneven = draw(0.0, 0.3)
        self.pure = draw(0.0, 1.4)  # nepers from one partial of a harmonic to the next

    def play(self, score: Score, chain: list[Note]) -> tuple[int, np.ndarray]:
        """Return the first sample and the sound of notes that share one vibration."""
        first, last = chain[0], chain[-1]
        tail_s = self.release_s + (self.rings_on_s if last.end in (End.STOPS, End.RINGS) else 0.0)
        count = round((last.offset_s + tail_s - first.onset_s) * RATE)
        at = [min(count - 1, max(0, round((n.onset_s - first.onset_s) * RATE))) for n in chain]
        line = self._line(score, chain, at, count)
        cycles = np.cumsum(440 * 2 ** ((line - 69) / 12)) / RATE
        time_s = np.arange(count) / RATE
        sound = np.zeros(count)
        hertz = 440 * 2 ** ((line - 69) / 12)
        pluck = float(np.clip(self.pluck + self.dice.normal(0, self.spread), 0.04, 0.5))
        node = {12: 2, 7: 3, 5: 4}.get(first.fret, 2) if first.tone is Tone.NATURAL_HARMONIC else 1
        envelope = self._strength(chain, at, time_s)
        loudness = float(np.exp(self.dice.normal(0, 0.25)))
        squeal = int(self.dice.integers(3, 7))
        for number in range(1, self.partials + 1):
            ratio = number * np.sqrt(1 + self.stiff * number**2)
            if ratio * float(hertz.min()) > 9000:
                break
            size = abs(np.sin(np.pi * number * node * pluck) * np.sin(np.pi * number * node * self.pickup)) + 0.02
            size /= number**self.slope
            size *= math.exp(-self.pure * (number - 1)) if first.tone is HARMONIC else 1.0
            if first.tone is Tone.SQUEAL_HARMONIC:
                size = (0.05 if number % squeal else 1.0) / (1 + 0.3 * number)
            cut_hz = self.tone_hz * (self.mute_tone if first.tone is Tone.PALM_MUTE else 1.0)
            size /= 1 + (ratio * float(np.median(hertz)) / cut_hz) ** 3
            sound += size * self._faded(envelope, number, first.tone) * np.sin(2 * np.pi * ratio * cycles)
        sound *= loudness * np.minimum(1.0, time_s / self.attack_s)
        self._clicks(sound, chain, at, loudness)
        self._ended(sound, last, tail_s)
        return round(first.onset_s * RATE), sound

    def _strength(self, chain: list[Note], at: list[int], time_s: np.ndarray) -> list[tuple[int, float]]:
        """Where the string gets new energy, and how much."""
        found = []
        for note, sample in zip(chain, at, strict=True):
            size = 1.0 if note is chain[0] else self.legato * float(np.exp(self.dice.normal(0, 0.3)))
            found.append((sample, 0.4 * size if note.attack is Attack.SLIDE and note is not chain[0] else size))
        return found

    def _faded(self, energy: list[tuple[int, float]], number: int, tone: Tone) -> np.ndarray:
        """The level of a partial: it fades, and a finger adds to what is left."""
        fade = self.fade * (1 + self.bright_fade * number**1.3)
        if tone is Tone.PALM_MUTE:
            fade = self.mute_fade * (1 + 0.15 * number)
        if tone is Tone.DEAD:
            fade = 60.0 + 10 * number
        return _levels(energy, fade, self._count)

    _count = 0

    def _line(self, score: Score, chain: list[Note], at: list[int], count: int) -> np.ndarray:
        """The sounding pitch, sample by sample, semitones."""
        self._count = count
        line = np.zeros(count)
        ends = [*at[1:], count]
        for number, (note, begin, end) in enumerate(zip(chain, at, ends, strict=True)):
            span = np.arange(end - begin) / RATE
            part = sounding_midi(score, note) + note.curve.at(span)
            if note.tone is Tone.SQUEAL_HARMONIC:
                part -= 24
            if note.vibrato is not None:
                sway = 1 + self.uneven * np.sin(
                    2 * np.pi * self.dice.uniform(0.3, 1.1) * span + self.dice.uniform(0, 6)
                )
                part = part + sway * note.vibrato.at(span)
            if note.slid_in and number == 0:
                frets, fret_s = int(self.dice.integers(2, 6)), self.fret_s * float(self.dice.uniform(0.7, 1.4))
                way = 1 if self.dice.random() < 0.8 else -1
                part = part - way * np.ceil(np.clip(frets - span / fret_s, 0, frets))
            following = chain[number + 1] if number + 1 < len(chain) else None
            if following is not None and following.attack is Attack.SLIDE:
                frets, left = following.fret - note.fret, span[-1] - span if span.size else span
                fret_s = min(self.fret_s, 0.6 * span[-1] / max(1, abs(frets))) if span.size else self.fret_s
                part = part + np.sign(frets) * np.ceil(np.clip(abs(frets) - left / fret_s, 0, max(abs(frets) - 1, 0)))
            if note.end is End.SLIDES_AWAY and following is None:
                frets, left = int(self.dice.integers(3, 8)), max(0.0, note.offset_s - note.onset_s) - span
                fret_s = self.fret_s * float(self.dice.uniform(0.7, 1.4))
                part = part - np.ceil(np.clip(frets - left / fret_s, 0, frets))
            if number == 0:
                part = part + self.sharp * np.exp(-span / self.sharp_s)
            line[begin:end] = part
        glide = max(1, round(self.step_s * RATE))
        return np.asarray(
            signal.lfilter(np.ones(glide) / glide, [1.0], line - line[0]) + line[0] + score.tuning.offset_cents / 100
        )

    def _clicks(self, sound: np.ndarray, chain: list[Note], at: list[int], loudness: float) -> None:
        """The pick on the string, or a finger on the fret."""
        for note, sample in zip(chain, at, strict=True):
            size = self.click if note is chain[0] else self.legato_click
            size *= 2.0 if note.tone is Tone.DEAD else 1.0
            length = min(sound.size - sample, round(8 * self.click_s * RATE))
            if (
                size <= 0
                or length < 8
                or note.attack is Attack.SWELL
                or (note.attack is Attack.SLIDE and note is not chain[0])
            ):
                continue
            noise = self.dice.standard_normal(length) * np.exp(-np.arange(length) / (self.click_s * RATE))
            b, a = signal.butter(1, [self.click_hz / RATE, min(0.9, 4 * self.click_hz / RATE)], "bandpass")
            sound[sample : sample + length] += 0.5 * loudness * size * signal.lfilter(b, a, noise)

    def _ended(self, sound: np.ndarray, last: Note, tail_s: float) -> None:
        release = max(2, round(self.release_s * RATE))
        sound[-release:] *= np.linspace(1, 0, release) ** 2


def _levels(energy: list[tuple[int, float]], fade: float, count: int) -> np.ndarray:
    """A level that is set or raised at samples, and falls by `fade` nepers a second between."""
    level, result = 0.0, np.zeros(count)
    ends = [*(sample for sample, _ in energy[1:]), count]
    for number, ((begin, size), end) in enumerate(zip(energy, ends, strict=True)):
        level = size if number == 0 else max(level, 0.0) * 0.85 + 0.5 * size * max(0.0, 1 - level)
        part = level * np.exp(-fade * np.arange(end - begin) / RATE)
        result[begin:end] = part
        level = float(part[-1]) if part.size else level
    return result


# --- on the way to the recording ---
def recorded(case: Case, clip: Clip, seed: int) -> Clip:
    """Lead what a maker played through an amp, a room or nothing, and perhaps into a band."""
    dice = np.random.default_rng([seed, 3])
    sound = _amplified(clip.samples[:, 0].astype(np.float32), dice)
    clip = Clip(
        (0.7 * sound / max(1e-9, float(np.abs(sound).max())))[:, None].astype(np.float32), clip.sample_rate, clip.name
    )
    if dice.random() < 0.5:
        clip = with_band(case, clip, lead_db=float(dice.uniform(-1, 8)), soundfont=OTHER_SOUNDFONT, seed=seed)
    return clip


def with_drums(clip: Clip, *, level_db: float, seed: int) -> Clip:
    """Add drums that are struck at any time. level_db: of the lead over them."""
    dice = np.random.default_rng([seed, 5])
    events = []
    for at_s in np.cumsum(dice.exponential(0.3, size=round(4 * clip.duration_s))):
        if at_s > clip.duration_s - 0.3:
            break
        key, velocity = int(dice.choice([36, 38, 40, 42, 45, 46, 48, 49])), int(dice.integers(50, 125))
        events.append((float(at_s), 3, mido.Message("note_on", channel=9, note=key, velocity=velocity)))
        events.append((float(at_s) + 0.15, 1, mido.Message("note_off", channel=9, note=key)))
    drums = played(midi_file(events), clip.sample_rate, soundfont=OTHER_SOUNDFONT).mean(axis=1)
    lead = clip.samples[:, 0]
    count = min(lead.size, drums.size)
    scale = float(lead.std()) / max(1e-9, float(drums.std())) / 10 ** (level_db / 20)
    mixed = lead.copy()
    mixed[:count] += scale * drums[:count]
    mixed *= 0.8 / max(1e-9, float(np.abs(mixed).max()))
    return Clip(mixed[:, None].astype(np.float32), clip.sample_rate, clip.name)


def _amplified(sound: np.ndarray, dice: np.random.Generator) -> np.ndarray:
    draw, chain = dice.uniform, []
    if dice.random() < 0.4:
        chain.append(pedalboard.Compressor(draw(-30, -12), draw(2, 8), draw(1, 12), draw(60, 300)))
    driven = dice.random() < 0.5
    if driven:
        sound = sound / max(1e-9, float(np.abs(sound).max()))
        gain, lean = float(np.exp(draw(np.log(2), np.log(40)))), draw(0, 0.25)
        sound = (np.tanh(gain * sound + lean) - np.tanh(lean)).astype(np.float32)
        chain += [pedalboard.HighpassFilter(draw(60, 160)), pedalboard.LowpassFilter(draw(2600, 6500))]
    if dice.random() < 0.2:
        chain.append(pedalboard.Chorus(draw(0.3, 1.8), draw(0.05, 0.3), draw(5, 12), 0.0, draw(0.15, 0.4)))
    if dice.random() < 0.3:
        chain.append(pedalboard.Delay(draw(0.12, 0.55), draw(0.0, 0.4), draw(0.08, 0.3)))
    if dice.random() < 0.45:
        wet = draw(0.04, 0.25)
        chain.append(pedalboard.Reverb(draw(0.1, 0.8), draw(0.2, 0.8), wet, 1 - wet))
    sound = pedalboard.Pedalboard(chain)(sound, RATE) if chain else sound
    level = float(np.abs(sound).max()) * 10 ** (draw(-75, -42) / 20)
    noise = dice.standard_normal(sound.size) * level
    if dice.random() < 0.3:
        noise += 2 * level * np.sin(2 * np.pi * float(dice.choice([50, 60])) * np.arange(sound.size) / RATE)
    return np.asarray(sound + noise, dtype=np.float32)
