"""From the pitch of one note, over its fret, to its curve and its vibrato."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from scipy import ndimage

from notcher.core.arrays import FloatArray
from notcher.core.hearing.contour import simplified
from notcher.core.hearing.pitch import HOP_S
from notcher.core.hearing.robust import median, percentile
from notcher.core.score import FLAT, PitchCurve, Vibrato
from notcher.core.score.pitch_curve import LARGEST_SEMITONES

TREND_S = 0.05
VIBRATO_HZ = (3.6, 8.6)
LEAST_EXTENT_CENTS = 7.0
LEAST_WAVE_S = 0.28
STILL_SEMITONES_S = 5.0  # a trend steeper than this is a bend on its way
FASTEST_BEND_SEMITONES_S = 45.0
ATTACK_SHARP_S, ATTACK_SHARP_SEMITONES = 0.08, 0.65
FLAT_SEMITONES = 0.22
TOLERANCE_SEMITONES = 0.1
STRAY_SEMITONES = 10.0
ATTACK_FRAMES = 3
REST_FRAMES, REST_EDGE = 10, 3  # some 60 ms, and a little before the wave


@dataclass(frozen=True, slots=True)
class Shape:
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
    known = np.flatnonzero(np.abs(midi - _lower_middle(midi)) < STRAY_SEMITONES)
    filled = np.interp(np.arange(midi.size), known, midi[known])
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
    known = np.sort(midi[~np.isnan(midi)])
    return float(known[(known.size - 1) // 2])


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
    """Return the vibrato, if any, and the pitch without it."""
    if pitch.size * HOP_S < LEAST_WAVE_S:
        return None, pitch
    start, stop = _still_stretch(pitch)
    if (stop - start) * HOP_S < LEAST_WAVE_S:
        return None, pitch
    found = _wave(pitch[start:stop])
    if found is None:
        return None, pitch
    rate, extent, begin = found
    trend = pitch.copy()
    width = max(3, round(1.0 / rate / HOP_S))
    # over exactly one period the wave averages out; a string only stretches up, so the trend is the wave's foot
    smooth = ndimage.uniform_filter1d(pitch[start:stop], width, mode="nearest")
    grown = np.minimum(np.arange(smooth.size) / max(1, begin), 1.0)
    trend[start:stop] = smooth - grown * _foot(smooth, extent, pitch[start : start + begin])
    return Vibrato((start + begin) * HOP_S, rate, extent), trend


def _still_stretch(pitch: FloatArray) -> tuple[int, int]:
    """Return the frames in which no bend is on its way: after the last one, or before a release at the end."""
    slow = ndimage.gaussian_filter1d(pitch, TREND_S / HOP_S * 1.3, mode="nearest")
    steep = np.flatnonzero(np.abs(np.gradient(slow)) / HOP_S > STILL_SEMITONES_S)
    released = steep[steep >= 0.8 * pitch.size]
    stop = int(released[0]) if released.size else pitch.size
    earlier = steep[steep < 0.6 * pitch.size] if released.size else steep
    return (int(earlier[-1]) + 2 if earlier.size else 0), stop


def _foot(smooth: FloatArray, extent_cents: float, before: FloatArray) -> float:
    """How far below the wave's middle the unmoved pitch lies: the extent, or nothing.

    before: the pitch from where it is still to where the wave begins. Where it rests there long enough, that rest
    decides; else what lands nearer a fret.
    """
    middle = median(smooth[smooth.size // 3 :])
    below = middle - extent_cents / 100.0
    rest = before[-REST_FRAMES - REST_EDGE : -REST_EDGE]
    if rest.size == REST_FRAMES and float(np.ptp(rest)) < 0.5 * extent_cents / 100.0:
        rested = median(rest)
        return extent_cents / 100.0 if abs(below - rested) < abs(middle - rested) else 0.0
    return extent_cents / 100.0 if abs(below - round(below)) < abs(middle - round(middle)) else 0.0


@lru_cache
def _vibrato_band() -> FloatArray:
    """Filter that passes what a finger can rock."""
    from scipy import signal  # slow to load: a window should be on the screen first

    return np.asarray(signal.butter(2, [2.6, 10.5], "bandpass", fs=1 / HOP_S, output="sos"))


def _wave(pitch: FloatArray) -> tuple[float, float, int] | None:
    """Return rate (Hz), extent (± cents) and first frame of a vibrato in a still stretch."""
    from scipy import signal  # slow to load: a window should be on the screen first

    wave = signal.sosfiltfilt(_vibrato_band(), pitch - pitch.mean(), padlen=min(60, pitch.size - 2))
    size = 4096
    window = np.hanning(pitch.size)
    spectrum = np.abs(np.fft.rfft(wave * window, size)) ** 2
    hertz = np.fft.rfftfreq(size, HOP_S)
    allowed = (hertz >= VIBRATO_HZ[0]) & (hertz <= VIBRATO_HZ[1])
    top = int(np.argmax(np.where(allowed, spectrum, 0)))
    if top in (int(np.argmax(allowed)), int(np.flatnonzero(allowed)[-1])):
        return None
    width = max(1.3 / (pitch.size * HOP_S), 0.8)
    around = np.abs(hertz - hertz[top]) <= width
    if spectrum[around].sum() < 0.55 * spectrum.sum():
        return None
    size_now = np.abs(signal.hilbert(wave))
    if size_now.max() * 100 < LEAST_EXTENT_CENTS:
        return None
    strong = median(size_now[size_now > 0.4 * size_now.max()])
    extent = strong * 100
    moving = np.flatnonzero(size_now > 0.5 * strong)
    cycles = (moving[-1] - moving[0]) * HOP_S * hertz[top]
    if extent < LEAST_EXTENT_CENTS or cycles < 1.6:
        return None
    return float(hertz[top]), extent, max(0, int(moving[0]) - round(0.25 / hertz[top] / HOP_S))


def _curve(deviation: FloatArray) -> PitchCurve:
    """Simplify a deviation to breakpoints; flat when it never really leaves the fret."""
    calm = ndimage.median_filter(deviation, 7, mode="nearest") if deviation.size >= 14 else deviation
    if percentile(np.abs(calm), 92) < FLAT_SEMITONES:
        return FLAT
    keep = simplified(calm, TOLERANCE_SEMITONES)
    return PitchCurve(tuple((round(float(i * HOP_S), 4), round(float(calm[i]), 3)) for i in keep))
