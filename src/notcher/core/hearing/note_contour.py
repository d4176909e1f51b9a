"""From the pitch of one note, over its fret, to its curve and its vibrato."""

from dataclasses import dataclass

import numpy as np
from scipy import ndimage

from notcher.core.arrays import FloatArray
from notcher.core.hearing.contour import Wave, simplified, without_waves
from notcher.core.hearing.pitch import HOP_S
from notcher.core.hearing.robust import median, percentile
from notcher.core.score import FLAT, PitchCurve, Side, Vibrato
from notcher.core.score.pitch_curve import LARGEST_SEMITONES

STILL_SEMITONES_S = 5.0  # a trend steeper than this is a bend on its way
FASTEST_BEND_SEMITONES_S = 45.0  # a whole step in 45 ms: no hand is quicker
ATTACK_SHARP_S, ATTACK_SHARP_SEMITONES = 0.08, 0.65
"""A hard pick pulls the string sharp for so long, by so much at most."""
FLAT_SEMITONES = 0.22  # what a curve may waver and still be no bend
TOLERANCE_SEMITONES = 0.1  # ten cents: twice what trained ears tell
STRAY_SEMITONES = 10.0  # farther is another sound
ATTACK_FRAMES = 3  # 17 ms: before it the pick is heard, not the string
STANDING = (0.0, 0.5, 1.0, 2.0, 3.0, 4.0, 5.0, 6.0)
"""What a string is held at, semitones: its fret, or the bends that are written (common practice, no source)."""


@dataclass(frozen=True, slots=True)
class NoteContour:
    """What the pitch did: fretted pitch (whole semitones), curve from it, vibrato, cents the plateau is off."""

    fretted_midi: int
    curve: PitchCurve
    vibrato: Vibrato | None
    plateau_cents: float


def measured_curve(deviation: FloatArray, *, struck: bool = True) -> tuple[PitchCurve, Vibrato | None]:
    """Return curve and vibrato of what was measured from a known fret.

    deviation: shape (n_frames,), semitones from the fret, NaN where nothing was heard.
    Raises: ValueError when no frame is voiced.
    """
    vibrato, trend = _without_wave(_clean(deviation, struck))
    return _curve(np.clip(trend, -LARGEST_SEMITONES / 2, LARGEST_SEMITONES / 2)), vibrato


def claimed_curve(deviation: FloatArray, *, begins_flat: bool) -> PitchCurve:
    """Return the simplified curve of a note that is bent.

    deviation: shape (n_frames,), semitones from the fret. begins_flat: the first frames still hold what was before.
    """
    part = np.clip(deviation, -LARGEST_SEMITONES / 2, LARGEST_SEMITONES / 2).copy()
    skip = min(ATTACK_FRAMES, part.size // 4)
    if skip:
        part[:skip] = part[skip]
    if begins_flat and abs(part[0]) < 0.5:
        part[: skip + 1] = np.linspace(0.0, part[min(skip + 1, part.size - 1)], skip + 2)[:-1]
    tail = min(2, part.size // 5)
    if tail:
        part[-tail:] = part[-tail - 1]
    return _curve(part)


def _clean(midi: FloatArray, struck: bool) -> FloatArray:
    if np.isnan(midi).all():
        raise ValueError("a note without a single voiced frame has no shape")
    # two ringing pitches are mistaken for one far below both: such frames say nothing
    steady = np.flatnonzero(np.abs(midi - _lower_middle(midi)) < STRAY_SEMITONES)
    filled = np.interp(np.arange(midi.size), steady, midi[steady])
    # the first frames still hold the attack or the note before: take their pitch from where it has settled
    skip = min(ATTACK_FRAMES, midi.size // 4)
    filled[:skip] = filled[skip] - (_rise_a_frame(filled[skip:]) if struck else 0.0) * np.arange(skip, 0, -1)
    if struck:
        _level_the_attack(filled)
    tail = min(2, midi.size // 5)
    if tail:
        filled[-tail:] = filled[-tail - 1]
    return np.asarray(ndimage.median_filter(filled, 3, mode="nearest"))


def _lower_middle(midi: FloatArray) -> float:
    """The middle of the voiced frames; of two middles the lower."""
    voiced = np.sort(midi[~np.isnan(midi)])
    return float(voiced[(voiced.size - 1) // 2])


def _level_the_attack(filled: FloatArray) -> None:
    """A hard pluck stretches the string and sounds sharp for a moment: take that part as settled, in place."""
    settle = round(ATTACK_SHARP_S / HOP_S)
    if filled.size > settle + 3:
        rest = median(filled[settle : settle + 4])
        if 0 < float(filled[0]) - rest < ATTACK_SHARP_SEMITONES:
            filled[:settle] = np.minimum(filled[:settle], rest)


def _rise_a_frame(settled: FloatArray) -> float:
    """Slope right after the attack, semitones a frame; 0 when it is no bend on its way."""
    few = settled[:6]
    if few.size < 4:
        return 0.0
    slope = float(np.polyfit(np.arange(few.size), few, 1)[0])
    return slope if STILL_SEMITONES_S < abs(slope) / HOP_S < FASTEST_BEND_SEMITONES_S else 0.0


def _without_wave(pitch: FloatArray) -> tuple[Vibrato | None, FloatArray]:
    """Return the longest vibrato, if any, and the pitch without any."""
    trend, waves = without_waves(pitch)
    if not waves:
        return None, pitch
    sides = [put_where_it_swings(trend, slice(wave.first, wave.last), wave) for wave in waves]
    longest, side = max(zip(waves, sides, strict=True), key=lambda found: found[0].last - found[0].first)
    return Vibrato(longest.first * HOP_S, longest.rate_hz, min(400.0, 100 * longest.extent), side), trend


def put_where_it_swings(deviation: FloatArray, inside: slice, wave: Wave) -> Side:
    """A finger's wave on a bend stands on the bend, swings around it or hangs from it: the curve is the bend.

    deviation: shape (n_frames,), semitones, the wave's centre line; changed in place. Where the bend rested before it
    was shaken tells; else whether the wave's middle or its foot is nearer to a size that is written. Returns: to which
    side it swings.
    """
    inside_deviation = deviation[inside]
    if inside_deviation.size == 0:
        return Side.ABOVE
    middle = median(inside_deviation)
    half = round(0.5 / wave.rate_hz / HOP_S)  # its first rise and its last fall are the wave's too
    rest = _rest_before(deviation, inside.start, half, wave)
    if rest is not None:
        shift = min((0.0, -wave.extent, wave.extent), key=lambda way: abs(middle + way - rest))
    else:
        sizes = np.array(STANDING)
        stands = np.abs(sizes - middle + wave.extent).min() < np.abs(sizes - middle).min()
        shift = -wave.extent if stands else 0.0
    if shift:
        deviation[inside] += shift
        low, high = sorted((middle + shift, middle - shift))
        for edge in (slice(max(0, inside.start - half), inside.start), slice(inside.stop, inside.stop + half)):
            deviation[edge][(deviation[edge] > low) & (deviation[edge] < high)] = middle + shift
    return Side.AROUND if shift == 0 else Side.ABOVE if shift < 0 else Side.BELOW


def _rest_before(deviation: FloatArray, start: int, half: int, wave: Wave) -> float | None:
    """Where a bend rested before it was shaken, if it did: where it moved least in a wave's time before."""
    rests = [deviation[start - early - 8 : start - early] for early in (2, half, 2 * half) if start >= early + 8]
    calmest = min(rests, key=lambda rest: float(np.ptp(rest)), default=None)
    return median(calmest) if calmest is not None and float(np.ptp(calmest)) < 0.5 * wave.extent else None


def _curve(deviation: FloatArray) -> PitchCurve:
    """Simplify a deviation to breakpoints; flat when it never really leaves the fret."""
    calm = ndimage.median_filter(deviation, 7, mode="nearest") if deviation.size >= 14 else deviation
    if percentile(np.abs(calm), 92) < FLAT_SEMITONES:
        return FLAT
    keep = simplified(calm, TOLERANCE_SEMITONES)
    return PitchCurve(tuple((round(float(i * HOP_S), 4), round(float(calm[i]), 3)) for i in keep))
