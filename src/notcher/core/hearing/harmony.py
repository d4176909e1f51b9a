"""Which pitch classes sound, moment by moment, and where the chord changes.

Source: T. Fujishima, "Realtime chord recognition of musical sound", ICMC 1999 (pitch class profiles); chord changes
as evidence for bars: M. Goto, "An audio-based real-time beat tracking system for music with or without drum-sounds",
Journal of New Music Research 30, 2001.
"""

import numpy as np
from scipy import fft

from notcher.core.arrays import FloatArray
from notcher.core.hearing.pitch import RATE
from notcher.core.sound.windows import frames_of

WINDOW, CHROMA_HOP = 4096, 2048
CHROMA_HOP_S = CHROMA_HOP / RATE
LOW_MIDI, HIGH_MIDI = 40.0, 84.0  # below it bins are wider than semitones, above it the lead and cymbals rule
BLOCK_FRAMES = 256


def chroma(sound: FloatArray) -> FloatArray:
    """Return how strong each pitch class is at each moment; shape (n_samples // CHROMA_HOP + 1, 12), C first.

    sound: shape (n_samples,), at the hearing rate.
    """
    hertz = np.arange(1, WINDOW // 2) * (RATE / WINDOW)
    midi = 69 + 12 * np.log2(hertz / 440.0)
    used = (midi >= LOW_MIDI) & (midi < HIGH_MIDI)
    to_class = np.zeros((WINDOW // 2 - 1, 12), dtype=np.float32)
    to_class[np.flatnonzero(used), np.rint(midi[used]).astype(np.int64) % 12] = 1.0
    window = np.hanning(WINDOW).astype(np.float32)
    frames = sound.size // CHROMA_HOP + 1
    found = np.zeros((frames, 12), dtype=np.float32)
    for first in range(0, frames, BLOCK_FRAMES):
        last = min(first + BLOCK_FRAMES, frames)
        frame = frames_of(sound, first, last, hop=CHROMA_HOP, size=WINDOW, lead=WINDOW // 2)
        found[first:last] = np.log1p(np.abs(fft.rfft(frame * window, axis=1)))[:, 1:-1] @ to_class
    return found


def chord_changes(strength: FloatArray, times_s: FloatArray) -> FloatArray:
    """Return how much the chord of each beat differs from the one before it; shape of times_s, 0 for the first.

    strength: see `chroma`. times_s: rising. One less the correlation of the two beats' profiles: 0 alike, 1 unlike.
    """
    at = np.clip(np.rint(times_s / CHROMA_HOP_S).astype(np.int64), 0, len(strength) - 1)
    ends = np.append(at[1:], min(len(strength), 2 * at[-1] - at[-2]) if at.size > 1 else len(strength))
    sums = np.concatenate([np.zeros((1, 12)), np.cumsum(strength, axis=0, dtype=np.float64)])
    mean = (sums[np.maximum(ends, at + 1)] - sums[at]) / np.maximum(ends - at, 1)[:, None]
    mean = mean - mean.mean(axis=1, keepdims=True)
    mean /= np.linalg.norm(mean, axis=1, keepdims=True) + 1e-9
    return np.concatenate([[0.0], 1.0 - np.sum(mean[1:] * mean[:-1], axis=1)])
