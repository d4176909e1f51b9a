"""A plucked string by addition of its partials, played exactly as a score is written.

Partials of a stiff string lie at k f sqrt(1 + B k^2) (H. Fletcher, "Normal vibration frequencies of a stiff piano
string", JASA 36, 1964); a pluck at the share p of the length excites them as sin(pi k p) / k and a pickup at q hears
them as sin(pi k q) (N. Fletcher and T. Rossing, "The Physics of Musical Instruments", 2nd ed. 1998, ch. 2.7, 9.10).
"""

from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import partial as bound

import numpy as np

from notcher.core.arrays import FloatArray
from notcher.core.errors import CancelCheck, Cancelled, Progress, never_cancelled, no_progress
from notcher.core.score import LEGATO_ATTACKS, LINK_S, Attack, End, Note, Score, Tone, midi_to_hz
from notcher.core.sound import Clip

SAMPLE_RATE = 44_100  # Hz
HIGHEST_PARTIAL_HZ = 7_000.0  # a pickup and its cable end there
MOST_PARTIALS = 28  # the lowest string's up to there, most of them
PLUCK_AT, PICKUP_AT = 0.17, 0.24  # shares of the string from the bridge (common practice, no source)
STIFFNESS = {1: 1.6e-5, 2: 3.2e-5, 3: 6e-5, 4: 4e-5, 5: 5e-5, 6: 6e-5}
"""B of light electric strings, open; order of magnitude from Fletcher and Rossing, the values are ours."""
FADED = 8 / 3  # fades until what is left is e^-8 of the level, -70 dB
SLIDE_STEP_S = 0.018  # seconds on each fret that a slide passes
JOIN_S = 0.004  # no click between two pitches of one string
WORKERS, CHAINS_AT_ONCE, BLOCK_SAMPLES = 2, 32, 120_000  # bounds memory
FRET_LOSS = 0.012  # a shorter string, held by a finger, rings shorter (common practice, no source)
SQUEAL_PARTIAL = 6  # where a thumb touches most (common practice, no source)
LEVELS = {
    Attack.PICK: 1.0,
    Attack.REPICK: 1.0,
    Attack.SWELL: 0.9,
    Attack.TAP: 0.6,
    Attack.HAMMER: 0.55,
    Attack.PULL: 0.5,
    Attack.SLIDE: 0.6,
}
FADES_S = {End.CHOKED: 0.006, End.STOPS: 0.02, End.RINGS: 0.12, End.SLIDES_AWAY: 0.1, End.RUNS_ON: 0.006}
"""A damped string stops in 20 ms, a choked one at once."""


@dataclass(frozen=True, slots=True)
class _RenderSpan:
    """One note's share of a chain: its samples, counted from the chain's first."""

    first: int
    last: int
    note: Note


def render(
    score: Score,
    *,
    sample_rate: int = SAMPLE_RATE,
    duration_s: float | None = None,
    seed: int = 1,
    most_partials: int = MOST_PARTIALS,
    progress: Progress = no_progress,
    cancelled: CancelCheck = never_cancelled,
) -> Clip:
    """Play a score on the string model.

    duration_s: length of the result; by default half a second past the last note. seed: of the pick noise.
    most_partials: of each string; fewer are quicker and duller.
    Returns: one channel, peak about 0.8. Raises: Cancelled.
    """
    end_s = max((note.offset_s for note in score.notes), default=0.0)
    length = round((duration_s if duration_s is not None else end_s + 0.5) * sample_rate)
    sound = np.zeros(length, dtype=np.float32)
    chains = _chains(score)
    played = bound(_played_chain, score=score, sample_rate=sample_rate, seed=seed, most_partials=most_partials)
    for begun in range(0, len(chains), CHAINS_AT_ONCE):
        if cancelled():
            raise Cancelled
        with ThreadPoolExecutor(WORKERS) as workers:
            for first, part in workers.map(played, chains[begun : begun + CHAINS_AT_ONCE]):
                first, part = max(first, 0), part[max(0, -first) :]
                part = part[: max(0, length - first)]
                sound[first : first + part.size] += part
        progress(min(1.0, (begun + CHAINS_AT_ONCE) / len(chains)))
    peak = float(np.max(np.abs(sound))) if sound.size else 0.0
    if peak > 0:
        sound *= np.float32(0.8 / peak)
    return Clip(sound[:, None], sample_rate, f"{score.title or 'tab'} (played)")


def _chains(score: Score) -> list[list[Note]]:
    """Notes that follow each other on one string without a new pluck, in time order."""
    chains: list[list[Note]] = []
    last_on_string: dict[int, list[Note]] = {}
    for note in score.notes:
        chain = last_on_string.get(note.string)
        linked = (
            chain is not None
            and note.attack in LEGATO_ATTACKS
            and abs(note.onset_s - chain[-1].offset_s) < LINK_S
            and chain[-1].tone is not Tone.DEAD
        )
        if chain is not None and linked:
            chain.append(note)
        else:
            chain = [note]
            chains.append(chain)
            last_on_string[note.string] = chain
    return chains


def _played_chain(
    chain: Sequence[Note], *, score: Score, sample_rate: int, seed: int, most_partials: int
) -> tuple[int, FloatArray]:
    """Return the first sample and the sound of notes that share one continuous vibration."""
    tail_s = FADED * FADES_S[chain[-1].end]
    noise = np.random.default_rng([seed, round(1000 * chain[0].onset_s), chain[0].string])
    start = round(chain[0].onset_s * sample_rate)
    edges = [round(note.onset_s * sample_rate) - start for note in chain[1:]]
    edges.append(round((chain[-1].offset_s + tail_s) * sample_rate) - start)
    shapes = [_RenderSpan(first, last, note) for first, last, note in zip([0, *edges], edges, chain, strict=False)]
    midi = np.concatenate([_pitch_midi(shapes, i, score, sample_rate) for i in range(len(shapes))])
    offset = score.tuning.offset_cents
    pitch_hz = np.asarray(midi_to_hz(0, offset_cents=offset) * 2 ** (midi / 12))
    cycles = np.cumsum(pitch_hz) / sample_rate
    sound = np.zeros(edges[-1], dtype=np.float32)
    # B goes with one over the length squared (Fletcher 1964), so each fret adds a sixth of an octave to it
    spans = [shape.last - shape.first for shape in shapes]
    frets = np.repeat([float(shape.note.fret) for shape in shapes], spans)
    stiffness = STIFFNESS.get(chain[0].string, 6e-5) * 2 ** (frets / 6)
    one_fret = float(np.ptp(frets)) == 0
    lowest = float(pitch_hz.min())
    count = int(np.clip(HIGHEST_PARTIAL_HZ / lowest, 1, most_partials))
    # a few partials at a time: one by one a short note is all overhead, all at once a long one leaves the cache
    rows = int(np.clip(BLOCK_SAMPLES // sound.size, 1, count))
    memory = np.empty((2, rows, sound.size)), np.empty((rows, sound.size), dtype=np.float32)
    for first in range(1, count + 1, rows):
        partials = np.arange(first, min(first + rows, count + 1), dtype=np.float64)[:, None]
        (turns, whole), wave = memory[0][:, : partials.size], memory[1][: partials.size]
        if one_fret:
            np.multiply(cycles, _ratio(partials, stiffness[0]), out=turns)
        else:
            np.cumsum(pitch_hz * _ratio(partials, stiffness) / sample_rate, axis=1, out=turns)
        np.floor(turns, out=whole)
        np.subtract(turns, whole, out=wave, casting="same_kind")  # one turn: exact enough however long the note
        wave *= np.float32(2 * np.pi)
        np.sin(wave, out=wave)
        wave *= _envelopes(shapes, partials, pitch_hz, sample_rate)
        sound += wave.sum(axis=0)
    _add_pick_noise(sound, shapes, sample_rate, noise)
    return _with_rake(start, sound, chain[0], sample_rate, noise)


def _pitch_midi(shapes: Sequence[_RenderSpan], index: int, score: Score, sample_rate: int) -> FloatArray:
    """Sounding pitch of one note of a chain, sample by sample, in semitones (MIDI numbers)."""
    shape = shapes[index]
    note = shape.note
    times_s = np.arange(shape.last - shape.first) / sample_rate
    midi = score.pitch_at(note, times_s)
    if index == 0 and note.attack is Attack.SLIDE:
        midi = midi + _staircase(times_s, 4)
    if note.end is End.SLIDES_AWAY:
        midi = midi + _staircase(note.duration_s - times_s, 5)
    following = shapes[index + 1].note if index + 1 < len(shapes) else None
    if following is not None and following.attack is Attack.SLIDE:
        frets = following.fret - note.fret
        remaining_s = (shape.last - shape.first) / sample_rate - times_s
        passed = np.ceil(np.clip(abs(frets) - remaining_s / SLIDE_STEP_S, 0, max(abs(frets) - 1, 0)))
        midi = midi + np.sign(frets) * passed
    return np.asarray(midi)


def _staircase(times_s: FloatArray, frets: int) -> FloatArray:
    """Fret steps from `frets` below up to 0, one each `SLIDE_STEP_S`; run on remaining time it leads down."""
    return np.asarray(np.clip(np.floor(times_s / SLIDE_STEP_S), 0, frets) - frets)


def _ratio(partials: FloatArray, stiffness: FloatArray | float) -> FloatArray:
    """How high partials lie over the first: k sqrt((1 + B k^2) / (1 + B)), Fletcher 1964."""
    return np.asarray(partials * np.sqrt((1 + stiffness * partials**2) / (1 + stiffness)))


def _envelopes(
    shapes: Sequence[_RenderSpan], partials: FloatArray, pitch_hz: FloatArray, sample_rate: int
) -> FloatArray:
    """Loudness of some partials over a chain: each note's own strength and decay, joined without a click.

    partials: shape (k, 1). Returns: shape (k, n_samples), float32.
    """
    result = np.zeros((partials.size, shapes[-1].last), dtype=np.float32)
    for shape in shapes:
        note, span = shape.note, shape.last - shape.first
        times_s = np.arange(span, dtype=np.float32) / sample_rate
        strength, decay_s = _partials(note, partials, float(pitch_hz[shape.first + span // 4]))
        level = result[:, shape.first : shape.last]
        np.divide(-times_s, decay_s.astype(np.float32), out=level)
        np.exp(level, out=level)
        level *= strength.astype(np.float32)
        if note.attack is Attack.SWELL:
            level *= np.minimum(times_s / min(0.3, 0.6 * note.duration_s), 1) ** 2
        _fade_out(level, note, sample_rate)
    attack = min(round(0.0015 * sample_rate), result.shape[1])
    result[:, :attack] *= np.linspace(0, 1, attack, dtype=np.float32)
    for shape in shapes[1:]:  # the step in level between two notes becomes a short slope
        width = min(round(JOIN_S * sample_rate), shape.first, result.shape[1] - shape.first)
        if width > 1:
            slope = slice(shape.first - width, shape.first + width)
            before, after = result[:, [slope.start]], result[:, [slope.stop - 1]]
            result[:, slope] = before + (after - before) * np.linspace(0, 1, 2 * width, dtype=np.float32)
    return result


def _fade_out(level: FloatArray, note: Note, sample_rate: int) -> None:
    """Damp the string at the note's end, in place; a note that runs on has no end of its own inside a chain."""
    end = round(note.duration_s * sample_rate)
    count = level.shape[1]
    if end >= count:
        return
    fade = round(FADES_S[note.end] * sample_rate)
    begin = max(0, end - fade // 2)
    level[:, begin:] *= np.exp(-np.arange(count - begin, dtype=np.float32) / max(1.0, fade / 3))


MUTED_HARMONIC_S = 0.25
"""For how long a harmonic rings under the palm; common practice, no source."""


def _partials(note: Note, partials: FloatArray, pitch_hz: float) -> tuple[FloatArray, FloatArray]:
    """Strength and decay time (seconds) of partials of a note; shape (k, 1) each."""
    strength = np.abs(np.sin(np.pi * partials * PLUCK_AT) * np.sin(np.pi * partials * PICKUP_AT)) / partials
    bright_hz = 3200.0 if note.attack in (Attack.PICK, Attack.REPICK) else 1900.0
    strength = strength * LEVELS[note.attack] * np.exp(-partials * pitch_hz / bright_hz)
    decay_s = 3.2 * (220.0 / max(pitch_hz, 80.0)) ** 0.35 / (1 + (partials * pitch_hz / 2600.0) ** 1.3)
    decay_s = decay_s * (1 - FRET_LOSS * note.fret)
    if note.tone is Tone.PALM_MUTE:
        strength, decay_s = strength * np.exp(-partials / 5), 0.07 / (1 + 0.2 * partials)
    elif note.tone is Tone.DEAD:
        strength, decay_s = 0.25 * strength, np.full_like(partials, 0.012)
    elif note.tone in (Tone.NATURAL_HARMONIC, Tone.TAPPED_HARMONIC):
        rings_s = MUTED_HARMONIC_S if note.palm_muted else 2.5
        strength, decay_s = np.where(partials == 1, 0.3, 0.03 / partials), np.full_like(partials, rings_s)
    elif note.tone is Tone.SQUEAL_HARMONIC:
        strength = np.where(partials == SQUEAL_PARTIAL, 0.35, 0.3 * strength)
        decay_s = np.maximum(decay_s, 0.8)
    return np.asarray(strength), np.asarray(decay_s)


def _add_pick_noise(
    sound: FloatArray, shapes: Sequence[_RenderSpan], sample_rate: int, noise: np.random.Generator
) -> None:
    for shape in shapes:
        if shape.note.attack in (Attack.PICK, Attack.REPICK):
            loud = 0.22 if shape.note.tone is Tone.DEAD else 0.07
            span = min(round(0.012 * sample_rate), sound.size - shape.first)
            click = noise.standard_normal(span) * np.exp(-np.arange(span) / (0.0025 * sample_rate))
            sound[shape.first : shape.first + span] += (loud * click).astype(np.float32)


def _with_rake(
    start: int, sound: FloatArray, note: Note, sample_rate: int, noise: np.random.Generator
) -> tuple[int, FloatArray]:
    """Put three muted clicks, 25 ms apart, before a raked note."""
    if not note.raked:
        return start, sound
    gap = round(0.025 * sample_rate)
    lead = np.zeros(3 * gap, dtype=np.float32)
    shape = np.exp(-np.arange(gap) / (0.003 * sample_rate))
    for click in range(3):
        lead[click * gap : (click + 1) * gap] = 0.14 * noise.standard_normal(gap) * shape
    return start - 3 * gap, np.concatenate([lead, sound])
