"""How strongly each pitch sounds at each moment, and the few pitches of each moment that could be a string's.

A pitch's strength is the weighted sum of the whitened spectrum at its partials.
Source: A. Klapuri, "Multiple fundamental frequency estimation by summing harmonic amplitudes", ISMIR 2006.
"""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from scipy import fft, ndimage

from notcher.core.arrays import FloatArray, IntArray
from notcher.core.errors import CancelCheck, Cancelled, Progress, never_cancelled, no_progress
from notcher.core.hearing.pitch import HOP, RATE
from notcher.core.sound.windows import frames_of, mean_squares

SALIENCE_HOP = 2 * HOP  # 12 ms: a third of the quickest note
SALIENCE_HOP_S = SALIENCE_HOP / RATE
FRAME, SHORT_FRAME = 2048, 1024  # 93 ms tells two semitones of the low strings apart; 46 ms follows runs
PER_SEMITONE = 5  # 20 cents: finer is left to interpolation
LOW_MIDI, HIGH_MIDI = 34.0, 94.0  # of the pitches looked for
FLOOR_MIDI, CEILING_MIDI = 15.0, 127.0  # of the spectrum: a third of the lowest pitch, 12 kHz
PITCHES = round((HIGH_MIDI - LOW_MIDI) * PER_SEMITONE)
BASE = round((LOW_MIDI - FLOOR_MIDI) * PER_SEMITONE)
PARTIALS, PARTIAL_WEIGHT = 10, 0.86  # each partial counts so much of the one before
CANDIDATES = 10  # six strings, and room for what the band adds
BLOCK_FRAMES = 512  # bounds memory
LOUDNESS_S = 2.0  # over which a phrase is neither loud nor soft
CONTEXT_FRAMES = (-24, -12, -6, -3, -1, 1, 3, 6, 12, 24)  # denser near the moment, to 0.28 s on either side
OTHER_RATIOS = (0.5, 1.5, 2.5, 3.5, 1 / 3, 2 / 3, 4 / 3)  # the pitches that share partials with it: where errors lie


@dataclass(frozen=True, slots=True, eq=False)
class Salience:
    """Strength of each pitch, and the peaks among them.

    strength: shape (n_frames, PITCHES), 0 for nothing; pitch p is LOW_MIDI + p / PER_SEMITONE.
    places: shape (n_frames, CANDIDATES), pitch numbers of the strongest peaks; 0 where there are fewer.
    spectral: shape (n_frames, CANDIDATES, n), what stands at and between the partials of each. level: (n_frames,).
    """

    strength: FloatArray
    places: IntArray
    spectral: FloatArray
    level: FloatArray

    @property
    def midi(self) -> FloatArray:
        """Pitch of each peak, shape (n_frames, CANDIDATES); NaN where there are fewer."""
        return np.where(self.places > 0, _refined_midi(self.strength, self.places), np.nan)

    def features(self, first: int, last: int) -> FloatArray:
        """What `likeness` judges the peaks of some frames by; shape (last - first, CANDIDATES, n_features)."""
        before, after = max(0, first + CONTEXT_FRAMES[0]), last + CONTEXT_FRAMES[-1]
        places = self.places[first:last].astype(np.int64)
        context = _context_features(self.strength[before:after], places, first - before)
        level = np.broadcast_to(self.level[first:last, None, None], (*places.shape, 1))
        pitch = (places[..., None] / PITCHES).astype(np.float32)
        spectral = self.spectral[first:last].astype(np.float32)
        return np.concatenate([spectral, context, level, pitch, pitch**2], axis=2)


def salience(
    sound: FloatArray,
    *,
    stride: int = 1,
    progress: Progress = no_progress,
    cancelled: CancelCheck = never_cancelled,
) -> Salience:
    """Measure a sound.

    sound: shape (n_samples,), at the hearing rate. stride: measure only every so-manieth frame, the ones after it are
    taken to be alike: faster, and enough where salience only has to tell one string from two. Raises: Cancelled.
    """
    frames = 1 + sound.shape[0] // SALIENCE_HOP
    measured = -(-frames // stride)
    rms = np.sqrt(mean_squares(sound, frames, hop=SALIENCE_HOP, window=FRAME))
    loudness = _loudness(rms)
    strength = np.zeros((measured, PITCHES), dtype=np.float16)
    places = np.zeros((measured, CANDIDATES), dtype=np.int16)
    parts = []
    for first in range(0, measured, BLOCK_FRAMES):
        if cancelled():
            raise Cancelled
        last = min(first + BLOCK_FRAMES, measured)
        long, short = (_spectra(sound, first, last, stride, size) for size in (FRAME, SHORT_FRAME))
        scale = loudness[first * stride : last * stride : stride, None]
        whitened, whitened_short = (_whitened(spectrum, scale) for spectrum in (long, short))
        block = _harmonic_sum(whitened)
        strength[first:last] = block
        block_peaks = _peaks(block)
        places[first:last] = block_peaks
        parts.append(_spectral_features(long / scale, whitened, whitened_short, block_peaks).astype(np.float16))
        progress(last / measured)
    spectral = np.concatenate(parts)
    if stride > 1:
        strength, places, spectral = (
            np.repeat(array, stride, axis=0)[:frames] for array in (strength, places, spectral)
        )
    return Salience(strength, places, spectral, np.log10(rms / loudness + 1e-3).astype(np.float32))


def _loudness(rms: FloatArray) -> FloatArray:
    """The usual level around each frame, so that quiet recordings and quiet parts look like loud ones."""
    reach = round(LOUDNESS_S / SALIENCE_HOP_S)
    top = ndimage.uniform_filter1d(ndimage.maximum_filter1d(rms, reach), reach, mode="nearest")
    return np.asarray(np.maximum(top, 1e-3 * max(float(rms.max()), 1e-6)), dtype=np.float32)


@lru_cache
def _log_bins() -> tuple[IntArray, FloatArray]:
    midi = np.arange(FLOOR_MIDI, CEILING_MIDI, 1 / PER_SEMITONE)
    bins = np.minimum(440.0 * 2.0 ** ((midi - 69) / 12) * FRAME / RATE, FRAME // 2 - 1.001)
    return bins.astype(np.int64), (bins % 1).astype(np.float32)


def _spectra(sound: FloatArray, first: int, last: int, stride: int, size: int) -> FloatArray:
    """Magnitudes on the log-frequency grid. Returns: shape (last - first, n_bins)."""
    view = frames_of(sound, first, last, hop=SALIENCE_HOP * stride, size=size, lead=size // 2)
    window = np.hanning(size).astype(np.float32) * (2 / size)
    magnitude = np.abs(fft.rfft(view * window, FRAME, axis=1))
    below, share = _log_bins()
    return np.asarray(magnitude[:, below] * (1 - share) + magnitude[:, below + 1] * share)


def _whitened(magnitude: FloatArray, loudness: FloatArray) -> FloatArray:
    """How far each bin stands above its surroundings, compressed."""
    around = ndimage.uniform_filter1d(magnitude, 8 * PER_SEMITONE + 1, axis=1, mode="nearest")
    return np.asarray(np.log1p(4.0 * magnitude / (around + 1e-4 * loudness)))


def _offsets(ratios: tuple[float, ...]) -> IntArray:
    return np.asarray(np.rint(12 * PER_SEMITONE * np.log2(ratios)), dtype=np.int64)


PARTIAL_OFFSETS = _offsets(tuple(range(1, PARTIALS + 1)))


_NUMBERS = np.arange(1, PARTIALS + 1)
OFFSET_BIAS = float(
    np.average(12 * PER_SEMITONE * np.log2(_NUMBERS) - PARTIAL_OFFSETS, weights=PARTIAL_WEIGHT ** (_NUMBERS - 1.0))
)
"""How far the sum's peak lies above the pitch, in bins, because the partials were rounded to whole bins."""


def _harmonic_sum(whitened: FloatArray) -> FloatArray:
    total = np.zeros((whitened.shape[0], PITCHES), dtype=np.float32)
    for number, offset in enumerate(PARTIAL_OFFSETS):
        part = whitened[:, BASE + offset : BASE + offset + PITCHES]
        total[:, : part.shape[1]] += PARTIAL_WEIGHT**number * part
    return total


def _peaks(strength: FloatArray) -> IntArray:
    """Return the pitch numbers of the strongest peaks, strongest first; 0 where there are fewer."""
    inner = strength[:, 1:-1]
    heights = np.where((inner > strength[:, :-2]) & (inner >= strength[:, 2:]), inner, 0)
    best = np.argpartition(-heights, CANDIDATES, axis=1)[:, :CANDIDATES]
    order = np.argsort(-np.take_along_axis(heights, best, axis=1), axis=1)
    best = np.take_along_axis(best, order, axis=1)
    return np.asarray(np.where(np.take_along_axis(heights, best, axis=1) > 0, best + 1, 0))


def _spectral_features(
    level: FloatArray, whitened: FloatArray, whitened_short: FloatArray, places: IntArray
) -> FloatArray:
    """What stands at the partials and between them. Returns: shape (n_frames, CANDIDATES, n)."""
    rows = np.arange(places.shape[0])[:, None, None]
    limit = whitened.shape[1] - 1

    def at(table: FloatArray, offsets: IntArray) -> FloatArray:
        return np.asarray(table[rows, np.clip(BASE + places[..., None] + offsets, 0, limit)])

    wide, wide_short = three_wide(whitened), three_wide(whitened_short)
    decibels = np.log10(three_wide(level) + 1e-4)
    other = _offsets(OTHER_RATIOS)
    return np.concatenate(
        [
            at(wide, PARTIAL_OFFSETS),
            at(wide, other),
            at(decibels, PARTIAL_OFFSETS[:8]),
            at(wide_short, PARTIAL_OFFSETS[:6]),
        ],
        axis=2,
    ).astype(np.float32)


def three_wide(table: FloatArray) -> FloatArray:
    """Each bin's maximum with its two neighbours, along the last axis, of any shape; faster than a general filter."""
    result = table.copy()
    np.maximum(result[..., 1:], table[..., :-1], out=result[..., 1:])
    np.maximum(result[..., :-1], table[..., 1:], out=result[..., :-1])
    return result


def _context_features(strength: FloatArray, places: IntArray, offset: int) -> FloatArray:
    """How strong the same pitch is a little before and after, and next to the strongest of its moment.

    strength: of the frames around; places: of those from `offset` on.
    """
    wide = three_wide(three_wide(strength.astype(np.float32)))
    at = offset + np.arange(places.shape[0])[:, None]
    own = np.take_along_axis(strength[at[:, 0]], places, axis=1).astype(np.float32)
    moments = np.clip(at + np.array(CONTEXT_FRAMES), 0, strength.shape[0] - 1)
    near = np.stack([wide[moments[:, [i]], places] for i in range(len(CONTEXT_FRAMES))], axis=2)
    top = own.max(axis=1, keepdims=True) + 1e-6
    return np.concatenate([near / 10, own[..., None] / 10, (own / top)[..., None]], axis=2).astype(np.float32)


def _refined_midi(strength: FloatArray, places: IntArray) -> FloatArray:
    """Parabola through each peak."""
    inner = np.clip(places, 1, PITCHES - 2).astype(np.int64)
    before, at, after = (np.take_along_axis(strength, inner + d, axis=1).astype(np.float32) for d in (-1, 0, 1))
    bend = before - 2 * at + after
    shift = np.where(bend < -1e-6, 0.5 * (before - after) / np.where(bend < -1e-6, bend, -1.0), 0.0)
    return np.asarray(LOW_MIDI + (inner + np.clip(shift, -1, 1) - OFFSET_BIAS) / PER_SEMITONE)
