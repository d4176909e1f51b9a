"""A plain band to play along with, built from the chord and beat lanes: strummed chords, bass, drums, a click."""

from collections.abc import Callable
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from notcher.core.arrays import FloatArray
from notcher.core.neck.voicing import voicing
from notcher.core.score import STANDARD, BeatMap, Note, Score, Tuning
from notcher.core.sound import Clip
from notcher.core.synthesis.amp import coloured
from notcher.core.synthesis.string_model import SAMPLE_RATE, render
from notcher.core.theory import ChordError, ChordTones, chord_tones

PARTS = ("strum", "bass", "drums", "click")
LEVELS = {"strum": 0.16, "bass": 0.3, "drums": 0.3, "click": 0.5}  # so that the lead stands out
STRUM_APART_S = 0.011  # seconds from string to string (common practice, no source)
BASS_TUNING = Tuning((43, 38, 33, 28))
"""Four strings G2 D2 A1 E1, an octave under the guitar's lowest four."""
CLICK_S, CLICK_HZ, FIRST_CLICK_HZ = 0.03, 1100.0, 1600.0  # short and high, the first of a bar higher
STRUM_PARTIALS, HIGH_STRINGS, LONGEST_STROKE_S, DAMP_S = 10, 4, 3.0, 0.03  # enough beside a lead
FAR_S = 4.0  # no felt beat lasts longer
LEFT, RIGHT, MIDDLE = 0.12, 0.88, 0.5  # the middle stays the lead's


@dataclass(frozen=True, slots=True)
class _Strum:
    """One event of the band's bar."""

    start_s: float
    length_s: float
    chord: ChordTones | None  # None where none is written
    beat: int  # of the bar, from 1
    half: bool  # on the "and" after the beat


def backing(
    score: Score,
    *,
    duration_s: float | None = None,
    sample_rate: int = SAMPLE_RATE,
    parts: tuple[str, ...] = PARTS[:3],
    seed: int = 1,
) -> Clip:
    """Return a band for a score: what its chords and its beat map give; silence where they give nothing.

    parts: of `PARTS`. Two strummed guitars stand left and right, the rest in the middle, so that the middle stays the
    lead's. Chords are called as on the neck, like everything on it. Returns: two channels.
    """
    if unknown := set(parts) - set(PARTS):
        raise ValueError(f"a band has {', '.join(PARTS)}; not {', '.join(sorted(unknown))}")
    length_s = duration_s if duration_s is not None else max((n.offset_s for n in score.notes), default=0.0) + 0.5
    sound = np.zeros((round(length_s * sample_rate), 2), dtype=np.float32)
    strokes = _strokes(score, length_s)
    hands: dict[str, Callable[[], None]] = {
        "strum": lambda: _strum(sound, strokes, score, sample_rate, seed),
        "bass": lambda: _bass(sound, strokes, score, sample_rate),
        "drums": lambda: _drums(sound, strokes, sample_rate, seed),
        "click": lambda: _clicks(sound, score.beat_map, sample_rate),
    }
    for part in PARTS:
        if part in parts:
            hands[part]()
    peak = float(np.abs(sound).max()) if sound.size else 0.0
    return Clip(sound / np.float32(max(1.0, peak / 0.95)), sample_rate, f"{score.title or 'backing'} (band)")


def click(sample_rate: int, *, high: bool = False) -> FloatArray:
    """Return a short tick, shape (n, 2); it begins and ends at silence."""
    times_s = np.arange(round(CLICK_S * sample_rate)) / sample_rate
    tone = np.sin(2 * np.pi * (FIRST_CLICK_HZ if high else CLICK_HZ) * times_s) * np.exp(-times_s / 0.006)
    tone *= np.minimum((CLICK_S - times_s) / 0.005, 1)
    return np.repeat((0.4 * tone).astype(np.float32)[:, None], 2, axis=1)


def _strokes(score: Score, length_s: float) -> list[_Strum]:
    """Every half of a felt beat (third in 6/8, the beat in 7/8) where the beats are known; else one for each chord."""
    if not score.beat_map.known:
        starts = [chord.start_s for chord in score.chords] + [length_s]
        return [
            _Strum(start, end - start, _tones(score, start), 1, half=False)
            for start, end in pairwise(starts)
            if end > start
        ]
    beat_map, strokes = score.beat_map, []
    for beat, after in pairwise(beat_map.beats_between(-FAR_S, length_s + FAR_S)):
        parts = beat_map.meter_at(beat_map.quarter(beat.time_s)).strums
        times_s = np.linspace(beat.time_s, after.time_s, parts + 1).tolist()
        for number, (start, end) in enumerate(pairwise(times_s)):
            if 0 <= start < length_s:
                strokes.append(_Strum(start, end - start, _tones(score, start), beat.beat, number > 0))
    return strokes


def _tones(score: Score, time_s: float) -> ChordTones | None:
    """The chord at a time; None before the first, and for a name that is no chord."""
    name = score.chord_at(time_s)
    try:
        return chord_tones(name) if name else None
    except ChordError:
        return None


def _as_tuned(neck: Tuning, score: Score) -> Tuning:
    """The band's neck moved as the lead's is: chord names are those on the neck, not what sounds."""
    shift = score.tuning.open_midi[0] - STANDARD.open_midi[0]
    return Tuning(tuple(midi + shift for midi in neck.open_midi), offset_cents=score.tuning.offset_cents)


def _strum(sound: FloatArray, strokes: list[_Strum], score: Score, rate: int, seed: int) -> None:
    """Down on each beat, up on the "and" of every second; the right guitar takes the high strings only."""
    struck = [stroke for stroke in strokes if not stroke.half or stroke.beat % 2 == 0]
    longest_s = min(LONGEST_STROKE_S, max((2 * stroke.length_s for stroke in struck), default=0.0))
    cache: dict[tuple[ChordTones, bool, float], FloatArray] = {}
    neck = _as_tuned(STANDARD, score)
    ends = [stroke.start_s for stroke in struck[1:]] + [struck[-1].start_s + longest_s] if struck else []
    for stroke, end_s in zip(struck, ends, strict=True):
        if stroke.chord is None:
            continue
        for place in (LEFT, RIGHT):
            key = (stroke.chord, stroke.half, place)
            if key not in cache:
                cache[key] = _strummed(
                    stroke.chord, neck, longest_s, rate, up=stroke.half, high=place == RIGHT, seed=seed
                )
            part = _damped(cache[key], min(end_s - stroke.start_s, longest_s), rate)
            _lay(sound, stroke.start_s, LEVELS["strum"] * (0.7 if stroke.half else 1.0) * part, place, rate)


def _strummed(
    chord: ChordTones, neck: Tuning, length_s: float, rate: int, *, up: bool, high: bool, seed: int
) -> FloatArray:
    """One stroke over a held chord. A chord that no hand can hold is not played."""
    try:
        grip = voicing(chord, STANDARD)
    except ValueError:
        return np.zeros(0, dtype=np.float32)
    strings = [string for string, fret in enumerate(grip, start=1) if fret is not None]
    if high or up:
        strings = strings[:HIGH_STRINGS]
    notes = []
    for number, string in enumerate(strings if up else strings[::-1]):
        begin = number * STRUM_APART_S
        notes.append(Note(begin, max(length_s, begin + 0.05), string, grip[string - 1] or 0))
    score = Score(tuning=neck).with_notes(notes)
    played = render(score, sample_rate=rate, duration_s=length_s + 0.1, seed=seed, most_partials=STRUM_PARTIALS)
    return coloured(played.samples[:, 0], "clean", sample_rate=rate)


def _damped(part: FloatArray, length_s: float, rate: int) -> FloatArray:
    """A stroke up to where the next one takes the strings."""
    length, fade = round((length_s + DAMP_S) * rate), round(DAMP_S * rate)
    if part.size <= length:
        return part
    result = part[:length].copy()
    result[-fade:] *= np.linspace(1, 0, fade, dtype=np.float32)
    return result


def _bass(sound: FloatArray, strokes: list[_Strum], score: Score, rate: int) -> None:
    """The chord's bass on the first beat, its fifth in the middle of the bar."""
    cache: dict[tuple[int, int], FloatArray] = {}
    neck = _as_tuned(BASS_TUNING, score)
    middle = score.beat_map.meter.felt // 2 + 1
    played = [stroke for stroke in strokes if not stroke.half and stroke.beat in (1, middle)]
    ends = [stroke.start_s for stroke in played[1:]] + [played[-1].start_s + 2 * played[-1].length_s] if played else []
    for stroke, end_s in zip(played, ends, strict=True):
        if stroke.chord is None:
            continue
        fifth = (stroke.chord.root + 7) % 12
        tone = fifth if stroke.beat == middle and middle > 1 and 7 in stroke.chord.intervals else stroke.chord.bass
        fret = round(tone - BASS_TUNING.open_midi[-1]) % 12
        length_s = min(end_s - stroke.start_s, 2.5)
        key = (fret, round(length_s * 200))
        if key not in cache:
            note = Note(0.0, 0.92 * length_s, BASS_TUNING.strings, fret)
            cache[key] = render(
                Score((note,), neck), sample_rate=rate, duration_s=length_s, most_partials=STRUM_PARTIALS
            ).samples[:, 0]
        _lay(sound, stroke.start_s, LEVELS["bass"] * cache[key], MIDDLE, rate)


def _drums(sound: FloatArray, strokes: list[_Strum], rate: int, seed: int) -> None:
    """Low drum on the odd beats, snare on the even ones, cymbal on every half beat."""
    noise = np.random.default_rng(seed)
    low, snare, cymbal = _low_drum(rate), _snare(rate, noise), _cymbal(rate, noise)
    for stroke in strokes:
        if not stroke.half:
            _lay(sound, stroke.start_s, LEVELS["drums"] * (low if stroke.beat % 2 else snare), MIDDLE, rate)
        _lay(sound, stroke.start_s, 0.3 * LEVELS["drums"] * cymbal, RIGHT - 0.1, rate)


def _clicks(sound: FloatArray, beat_map: BeatMap, rate: int) -> None:
    for beat in beat_map.beats_between(0.0, sound.shape[0] / rate):
        _lay(sound, beat.time_s, LEVELS["click"] * click(rate, high=beat.beat == 1)[:, 0], MIDDLE, rate)


def _lay(sound: FloatArray, at_s: float, part: FloatArray, right: float, rate: int) -> None:
    """Lay one channel into the picture at a place from 0 (left) to 1 (right), equal power (cosine and sine law)."""
    first = max(0, round(at_s * rate))
    part = part[: max(0, sound.shape[0] - first)]
    sound[first : first + part.size, 0] += (part * np.cos(right * np.pi / 2) * np.sqrt(2)).astype(np.float32)
    sound[first : first + part.size, 1] += (part * np.sin(right * np.pi / 2) * np.sqrt(2)).astype(np.float32)


def _low_drum(rate: int) -> FloatArray:
    times_s = np.arange(round(0.25 * rate)) / rate
    phase = 2 * np.pi * (48 * times_s + 1.8 * (1 - np.exp(-times_s / 0.02)))
    return np.asarray(np.sin(phase) * np.exp(-times_s / 0.07))


def _snare(rate: int, noise: np.random.Generator) -> FloatArray:
    times_s = np.arange(round(0.18 * rate)) / rate
    hiss = noise.standard_normal(times_s.size) * np.exp(-times_s / 0.04)
    return np.asarray(0.4 * hiss + 0.5 * np.sin(2 * np.pi * 190 * times_s) * np.exp(-times_s / 0.05))


def _cymbal(rate: int, noise: np.random.Generator) -> FloatArray:
    times_s = np.arange(round(0.05 * rate)) / rate
    return np.asarray(np.diff(noise.standard_normal(times_s.size + 1)) * np.exp(-times_s / 0.012) * 0.5)
