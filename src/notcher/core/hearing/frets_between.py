"""Whether the frets between two notes sounded: a slide passes over them, a hammered or pulled note does not."""

from collections.abc import Sequence
from itertools import islice

import numpy as np
from scipy import fft

from notcher.core.arrays import FloatArray
from notcher.core.hearing.note_contour import NoteContour
from notcher.core.hearing.pitch import HOP, RATE
from notcher.core.hearing.segments import Segment
from notcher.core.sound.windows import windows_at

WINDOW, SIZE = 1024, 2048  # 46 ms holds two periods of the lowest string; padded once for finer bins
MOMENTS_S = (-0.075, -0.06, -0.045, -0.03, -0.015, 0.0, 0.015)
"""The last 75 ms before the arrival, every 15 ms: half a window apart at most."""
PARTIALS, HIGHEST_HZ = 10, 5_000.0  # what a wound string sounds before noise takes over
MOST_FRETS = 12  # a slide over more than an octave is rare and heard by its ends
APART_S = 0.06  # closer onsets are one gesture
BLOCK = 64  # bounds memory


def frets_between(cuts: Sequence[Segment], shapes: Sequence[NoteContour], sound: FloatArray) -> FloatArray:
    """Describe how strongly the frets on the way to each note sound, next to the two notes themselves.

    sound: shape (n_samples,), at the hearing rate. Returns: shape (n_notes, 3 * moments); 0 where no note leads here
    from more than a semitone away.
    """
    result = np.zeros((len(cuts), 3 * len(MOMENTS_S)), dtype=np.float32)
    ways = {index: way for index in range(1, len(cuts)) if (way := _way(cuts, shapes, index)).size > 2}
    if not ways:
        return result
    window = np.hanning(WINDOW).astype(np.float32) * (2 / WINDOW)
    shifts = np.rint(np.array(MOMENTS_S) * RATE).astype(np.int64) - WINDOW // 2
    starts = np.array([cuts[index].first for index in ways])[:, None] * HOP + shifts
    for begin in range(0, len(ways), BLOCK):
        frames = windows_at(sound, starts[begin : begin + BLOCK], WINDOW) * window
        levels = np.log(np.abs(fft.rfft(frames, SIZE, axis=2)) + 1e-5)
        for (index, midi), level in zip(islice(ways.items(), begin, begin + BLOCK), levels, strict=True):
            strength = _strength(level, midi)
            result[index] = np.stack([strength[:, 0], strength[:, 1:-1].max(axis=1), strength[:, -1]], axis=1).ravel()
    return result


def _way(cuts: Sequence[Segment], shapes: Sequence[NoteContour], index: int) -> FloatArray:
    """Every fret's pitch from the end of the note before to a note's start; empty when none leads here."""
    before, own = shapes[index - 1], shapes[index]
    left_at = before.fretted_midi + (before.curve.points[-1][1] if before.curve.points else 0.0)
    start = own.fretted_midi + (own.curve.points[0][1] if own.curve.points else 0.0)
    frets = round(abs(start - left_at))
    apart = (cuts[index].first - cuts[index - 1].last) * HOP > APART_S * RATE
    if apart or not 1 < frets <= MOST_FRETS:
        return np.zeros(0)
    return np.asarray(left_at + np.sign(start - left_at) * np.arange(frets + 1))


def _strength(level: FloatArray, midi: FloatArray) -> FloatArray:
    """How far the partials of each pitch stand above what lies between them. Returns: shape (n_moments, n_pitches)."""
    number = np.arange(1, PARTIALS + 1)
    hertz = 440.0 * 2.0 ** ((midi[:, None] - 69) / 12) * number
    at = np.rint(hertz * SIZE / RATE).astype(np.int64)
    halfway = np.rint(hertz * (1 + 0.5 / number) * SIZE / RATE).astype(np.int64)
    counted = (hertz < HIGHEST_HZ).astype(np.float32)
    clip = SIZE // 2 - 1
    peak = np.maximum(np.maximum(level[:, np.minimum(at, clip)], level[:, np.minimum(at - 1, clip)]),
                      level[:, np.minimum(at + 1, clip)])  # fmt: skip
    rise = (peak - level[:, np.minimum(halfway, clip)]) * counted
    return np.asarray(rise.sum(axis=2) / np.maximum(counted.sum(axis=1), 1))
