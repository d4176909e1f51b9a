"""Which pitch classes sound, moment by moment, and where the chord changes.

Source: T. Fujishima, "Realtime chord recognition of musical sound", ICMC 1999 (pitch class profiles); chord changes
as evidence for bars: M. Goto, "An audio-based real-time beat tracking system for music with or without drum-sounds",
Journal of New Music Research 30, 2001.
"""

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from scipy import fft

from notcher.core.arrays import BoolArray, FloatArray
from notcher.core.hearing.pitch import RATE
from notcher.core.hearing.viterbi import best_path
from notcher.core.sound.windows import frames_of
from notcher.core.theory import spelled_name

WINDOW, CHROMA_HOP = 4096, 2048  # 0.19 s tells semitones apart from C3 on; half of it overlaps
CHROMA_HOP_S = CHROMA_HOP / RATE
LOW_MIDI, HIGH_MIDI = 40.0, 84.0  # below it bins are wider than semitones, above it the lead and cymbals rule
BLOCK_FRAMES = 256  # bounds memory


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
    result = np.zeros((frames, 12), dtype=np.float32)
    for first in range(0, frames, BLOCK_FRAMES):
        last = min(first + BLOCK_FRAMES, frames)
        frame = frames_of(sound, first, last, hop=CHROMA_HOP, size=WINDOW, lead=WINDOW // 2)
        result[first:last] = np.log1p(np.abs(fft.rfft(frame * window, axis=1)))[:, 1:-1] @ to_class
    return result


def chord_changes(strength: FloatArray, times_s: FloatArray) -> FloatArray:
    """Return how much the chord of each beat differs from the one before it; shape of times_s, 0 for the first.

    strength: see `chroma`. times_s: rising. One less the correlation of the two beats' profiles: 0 alike, 1 unlike.
    """
    mean = _beat_profiles(strength, times_s)
    return np.concatenate([[0.0], 1.0 - np.sum(mean[1:] * mean[:-1], axis=1)])


@dataclass(frozen=True, slots=True)
class ProposedChord:
    """A chord that the recording's harmony speaks for, from a time on. certainty: 0..1."""

    start_s: float
    name: str
    certainty: float


def proposed_chords(
    strength: FloatArray, times_s: FloatArray, bars: BoolArray, *, shift: int = 0
) -> tuple[ProposedChord, ...]:
    """Return the chords of a band, one from each beat on which it changes; nothing for fewer than two beats.

    strength: shape (n_frames, n_bins), see `chroma`. times_s: (n_beats,), the felt beats, rising. bars: (n_beats,),
    which of them begin a bar. shift: semitones that the neck sounds higher than it is called, as chords are called on
    the neck.
    Source: T. Fujishima, "Realtime chord recognition of musical sound", ICMC 1999 (templates of pitch classes); the
    beats' profiles follow a hidden chord that seldom changes: A. Sheh and D. Ellis, "Chord segmentation and recognition
    using EM-trained hidden Markov models", ISMIR 2003 (here with fixed templates).
    """
    if times_s.size < 2:
        return ()
    profiles = _beat_profiles(strength, times_s)
    names, templates = _templates()
    likely = CONTRAST * profiles @ templates.T
    likely -= np.logaddexp.reduce(likely, axis=1, keepdims=True)
    change, another = np.where(bars, CHANGE_NATS, CHANGE_INSIDE_NATS), 1.0 - np.eye(len(names))
    path = best_path(-likely, lambda at: change[at, None, None] * another)
    shares = np.exp(likely[np.arange(path.size), path])
    result: list[ProposedChord] = []
    begins = [0, *(np.flatnonzero(np.diff(path)) + 1).tolist(), path.size]
    for begin, end in pairwise(begins):
        root, kind = names[int(path[begin])]
        letter = spelled_name((root - shift) % 12 + 60)
        result.append(ProposedChord(float(times_s[begin]), letter + kind, round(float(shares[begin:end].mean()), 3)))
    return tuple(result)


CONTRAST = 9.0  # how much a better likeness counts; at 9 a clean triad is some 60 % sure on one beat
CHANGE_NATS, CHANGE_INSIDE_NATS = 1.5, 6.0
"""What a change of chord costs where a bar begins and inside one (common practice, no source: chords last bars)."""
KINDS = {"": (0, 4, 7), "m": (0, 3, 7), "7": (0, 4, 7, 10), "m7": (0, 3, 7, 10), "5": (0, 7)}
"""What a band plays most; richer chords contain these."""
FOURTH_TONE = 0.6  # of a chord of four, so that a triad is not told by its overtones


def _beat_profiles(strength: FloatArray, times_s: FloatArray) -> FloatArray:
    """Each beat's profile, its mean taken off and of length one; shape (n_beats, 12)."""
    at = np.clip(np.rint(times_s / CHROMA_HOP_S).astype(np.int64), 0, len(strength) - 1)
    ends = np.append(at[1:], min(len(strength), 2 * at[-1] - at[-2]) if at.size > 1 else len(strength))
    sums = np.concatenate([np.zeros((1, 12)), np.cumsum(strength, axis=0, dtype=np.float64)])
    mean = (sums[np.maximum(ends, at + 1)] - sums[at]) / np.maximum(ends - at, 1)[:, None]
    mean = mean - mean.mean(axis=1, keepdims=True)
    return np.asarray(mean / (np.linalg.norm(mean, axis=1, keepdims=True) + 1e-9))


def _templates() -> tuple[list[tuple[int, str]], FloatArray]:
    names, rows = [], []
    for root in range(12):
        for kind, tones in KINDS.items():
            row = np.zeros(12)
            for number, tone in enumerate(tones):
                row[(root + tone) % 12] = FOURTH_TONE if number == 3 else 1.0
            row -= row.mean()
            names.append((root, kind))
            rows.append(row / np.linalg.norm(row))
    return names, np.array(rows)
