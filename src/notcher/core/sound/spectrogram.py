"""How loud each pitch is at each moment, for drawing: log frequency up, time across."""

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np
from scipy import fft

from notcher.core.arrays import FloatArray

FRAME, HOP_S = 4096, 0.02  # 93 ms at 44.1 kHz; a column for each pixel at the closest view
LOWEST_MIDI, HIGHEST_MIDI, PER_SEMITONE = 33.0, 93.0, 3
"""From below the sixth string to the 24th fret, bent; three rows a semitone."""
RANGE_DB = 60.0  # quieter is black paper
PART_S = 10.0  # bounds memory, and can be stopped after each


@dataclass(frozen=True, slots=True, eq=False)
class Spectrogram:
    """shade: shape (n_pitches, n_frames), 0..1 over the 60 dB below the loudest; lowest first, ⅓ semitone each."""

    shade: FloatArray
    hop_s: float = HOP_S


def spectrogram(parts: Iterable[FloatArray], sample_rate: int) -> Spectrogram:
    """Return the shades of one channel. parts: its sound in pieces that follow on each other, shape (n_samples,) each;
    each but the last a whole number of `PART_S` long."""
    levels = [_level_db(part, sample_rate) for part in parts]
    highest = max((float(level.max(initial=-np.inf)) for level in levels), default=0.0)
    return Spectrogram(np.concatenate([np.clip((level - highest) / RANGE_DB + 1, 0, 1) for level in levels], axis=1))


def _level_db(sound: FloatArray, sample_rate: int) -> FloatArray:
    """In half precision: a picture has 256 shades, and of a long recording it is large."""
    hop = round(HOP_S * sample_rate)
    frames = max(1, sound.shape[0] // hop)
    padded = np.pad(sound.astype(np.float32, copy=False), (FRAME // 2, FRAME))
    window = np.hanning(FRAME).astype(np.float32)
    midi = np.arange(LOWEST_MIDI, HIGHEST_MIDI, 1 / PER_SEMITONE)
    bins = np.clip(440 * 2 ** ((midi - 69) / 12) * FRAME / sample_rate, 0, FRAME // 2 - 1)
    below, share = bins.astype(int), (bins % 1)[:, None].astype(np.float32)
    shade = np.empty((midi.size, frames), dtype=np.float32)
    for first in range(0, frames, 512):
        last = min(first + 512, frames)
        view = np.lib.stride_tricks.sliding_window_view(padded[first * hop :], FRAME)[: (last - first) * hop : hop]
        power = np.abs(fft.rfft(view * window, axis=1)).T ** 2
        shade[:, first:last] = power[below] * (1 - share) + power[below + 1] * share
    return np.asarray(10 * np.log10(np.maximum(shade, 1e-12)), dtype=np.float16)
