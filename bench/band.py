"""A made-up band for the seeded solos: bass, drums, a guitar at one side and keys at the other, in stereo.

Played by the same soundfont as the lead, in the lead's key and beat map; the lead is mixed into the middle at a stated
level above the band.
"""

from __future__ import annotations

from pathlib import Path

import mido
import numpy as np

from lead_cases import SOUNDFONT, Case, midi_file, played
from notcher.core.sound import Clip

BASS, DRUMS, LEFT, RIGHT, ANSWER = 0, 9, 1, 2, 3
PROGRESSIONS = ((0, 8, 10, 0), (0, 0, 5, 0), (0, 10, 8, 7), (0, 5, 10, 0))
"""Roots of four bars, semitones above the key's."""
KICK, SNARE, HAT, OPEN_HAT, CRASH, TOM = 36, 38, 42, 46, 49, 45

Events = list[tuple[float, int, mido.Message]]


def with_band(case: Case, lead: Clip, *, lead_db: float, soundfont: Path = SOUNDFONT, seed: int | None = None) -> Clip:
    """Return the lead in the middle of a stereo band.

    lead: one channel. lead_db: the lead's level above the whole band's, both as rms while the lead sounds. seed: adds a
    voice or a second guitar that answers the lead; None for neither.
    """
    length_s = lead.duration_s
    events = _band(case, length_s) + ([] if seed is None else _answers(case, length_s, seed))
    band = played(midi_file(events), lead.sample_rate, soundfont=soundfont, reverb=True)
    samples = np.zeros((lead.samples.shape[0], 2), dtype=np.float32)
    count = min(samples.shape[0], band.shape[0])
    samples[:count] = band[:count]
    sounding = np.zeros(samples.shape[0], dtype=bool)
    for note in case.score.notes:
        sounding[round(note.onset_s * lead.sample_rate) : round(note.offset_s * lead.sample_rate)] = True
    lead_rms = float(np.sqrt(np.mean(lead.samples[sounding] ** 2)))
    band_rms = float(np.sqrt(np.mean(samples[sounding] ** 2)))
    mixed = samples * (lead_rms / band_rms / 10 ** (lead_db / 20)) + lead.samples
    return Clip((mixed * (0.8 / np.abs(mixed).max())).astype(np.float32), lead.sample_rate, lead.name)


def _band(case: Case, length_s: float) -> Events:
    dice = np.random.default_rng(case.seed + 77_000)
    programs = {
        BASS: int(dice.choice([33, 34])),
        LEFT: int(dice.choice([25, 27, 29, 30])),
        RIGHT: int(dice.choice([4, 16, 18, 0])),
    }
    events: Events = []
    for channel, pan in (
        (BASS, 64),
        (LEFT, int(dice.integers(5, 35))),
        (RIGHT, int(dice.integers(90, 122))),
        (DRUMS, 64),
    ):
        events.append((0.0, 0, mido.Message("control_change", channel=channel, control=10, value=pan)))
        if channel in programs:
            events.append((0.0, 0, mido.Message("program_change", channel=channel, program=programs[channel])))
    roots = PROGRESSIONS[int(dice.integers(len(PROGRESSIONS)))]
    key = 40 + case.root % 12
    busy = int(dice.integers(1, 3))
    bars = int(length_s / (4 * case.beat_s)) + 1
    for bar in range(bars):
        begin_s, root = 0.5 + bar * 4 * case.beat_s, key + roots[bar % 4]
        events += _drum_bar(dice, begin_s, case.beat_s, busy, first=bar % 4 == 0)
        events += _bass_bar(dice, begin_s, case.beat_s, root - 12 if root - 12 >= 28 else root, busy)
        power = (0, 7, 12)
        events += _strummed(LEFT, begin_s, case.beat_s, [root + p for p in power], 0.5 * busy, dice)
        third = 3 if roots[bar % 4] in (0, 5, 7) else 4
        events += _strummed(RIGHT, begin_s, case.beat_s, [root + 12 + p for p in (0, third, 7)], 4.0 / busy, dice)
    kept = [event for event in events if event[0] < length_s]
    # the player renders on for as long as any note is held
    off = [mido.Message("control_change", channel=channel, control=123, value=0) for channel in (*programs, DRUMS)]
    return kept + [(length_s, 4, message) for message in off]


def _note(channel: int, at_s: float, span_s: float, key: int, velocity: int) -> Events:
    on = mido.Message("note_on", channel=channel, note=key, velocity=velocity)
    return [(at_s, 3, on), (at_s + span_s, 1, mido.Message("note_off", channel=channel, note=key))]


def _drum_bar(dice: np.random.Generator, begin_s: float, beat_s: float, busy: int, *, first: bool) -> Events:
    events: Events = []
    for half in range(8):
        at_s = begin_s + half * beat_s / 2 + float(dice.normal(0, 0.004))
        events += _note(
            DRUMS, at_s, 0.1, OPEN_HAT if half == 7 and dice.random() < 0.3 else HAT, int(dice.integers(60, 90))
        )
        if half in (0, 4) or (busy == 2 and dice.random() < 0.25):
            events += _note(DRUMS, at_s, 0.1, KICK, 105)
        if half in (2, 6):
            events += _note(DRUMS, at_s, 0.1, SNARE, 100)
    if first:
        events += _note(DRUMS, begin_s, 0.5, CRASH, 90)
    if dice.random() < 0.2:
        for quarter in range(4):
            events += _note(DRUMS, begin_s + (3 + quarter / 4) * beat_s, 0.1, TOM, 95)
    return events


def _bass_bar(dice: np.random.Generator, begin_s: float, beat_s: float, root: int, busy: int) -> Events:
    events: Events = []
    for step in range(4 * busy):
        key = root + (int(dice.choice([0, 0, 7, 10, 12])) if step else 0)
        events += _note(BASS, begin_s + step * beat_s / busy, 0.85 * beat_s / busy, key, int(dice.integers(85, 105)))
    return events


def _strummed(
    channel: int, begin_s: float, beat_s: float, keys: list[int], beats: float, dice: np.random.Generator
) -> Events:
    events: Events = []
    for step in range(round(4 / beats)):
        velocity = int(dice.integers(65, 90))
        for string, key in enumerate(keys):
            at_s = begin_s + step * beats * beat_s + 0.008 * string
            events += _note(channel, at_s, 0.9 * beats * beat_s, key, velocity)
    return events


def _answers(case: Case, length_s: float, seed: int) -> Events:
    """A voice or another guitar that fills where the lead rests, now and then also under it."""
    dice = np.random.default_rng([seed, 4])
    if dice.random() < 0.4:
        return []
    program, pan = int(dice.choice([52, 53, 85, 27, 26, 29])), int(dice.integers(20, 108))
    events: Events = [
        (0.0, 0, mido.Message("control_change", channel=ANSWER, control=10, value=pan)),
        (0.0, 0, mido.Message("control_change", channel=ANSWER, control=7, value=int(dice.integers(50, 100)))),
        (0.0, 0, mido.Message("program_change", channel=ANSWER, program=program)),
    ]
    busy = [(note.onset_s - 0.1, note.offset_s) for note in case.score.notes]
    at_s = 0.5
    while at_s < length_s - 2:
        span_s = case.beat_s * float(dice.choice([0.5, 1.0, 2.0]))
        if dice.random() < 0.15 or not any(begin < at_s + span_s and end > at_s for begin, end in busy):
            key = 57 + case.root % 12 + int(dice.choice([0, 3, 5, 7, 10, 12]))
            events += _note(ANSWER, at_s, 0.9 * span_s, key, int(dice.integers(70, 105)))
        at_s += span_s
    off = mido.Message("control_change", channel=ANSWER, control=123, value=0)
    return [*(event for event in events if event[0] < length_s), (length_s, 4, off)]
