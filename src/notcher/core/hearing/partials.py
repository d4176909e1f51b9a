"""The exact pitch of a track whose rough pitch is known: read off its own partials, so that a band does not pull it."""

from dataclasses import replace

import numpy as np
from scipy import fft

from notcher.core.arrays import BoolArray, FloatArray
from notcher.core.hearing.pitch import HOP, RATE, PitchTrack
from notcher.core.sound.windows import windows_at

WINDOW, SIZE = 1024, 2048  # samples: a vibrato of 7 Hz still moves inside the window by a twelfth of its period only
PARTIALS = 6  # above the sixth a bent note's partials run into each other between frames
HIGHEST_HZ = 5_000.0  # above it a driven guitar is noise
REACH_CENTS = 40.0  # less than half of a semitone, so that a neighbour is not taken
BLOCK_FRAMES = 1_024  # bounds memory
RISE_S, RISE_PARTIALS, RISE_BINS = (-0.065, 0.015), 4, 6  # where the windows before and after a moment begin
STRIDE = 2  # every second frame: the amplitude of a partial moves more slowly than its pitch


def refined(track: PitchTrack, sound: FloatArray, where: BoolArray | None = None) -> PitchTrack:
    """Return a track with its pitch corrected by at most `REACH_CENTS`.

    sound: shape (n_samples,), at the hearing rate. where: shape (n_frames,), frames to correct; None for all.
    Each partial's peak is found by a parabola through the log spectrum; the pitch is their weighted median.
    Source: F. Keiler and S. Marchand, "Survey on extraction of sinusoids in stationary sounds", DAFx 2002, section 3.
    """
    voiced = ~np.isnan(track.pitch_hz)
    index = np.flatnonzero(voiced if where is None else voiced & where)[::STRIDE]
    if index.size == 0:
        return track
    window = np.hanning(WINDOW).astype(np.float32)
    cents = np.zeros(index.size)
    for first in range(0, index.size, BLOCK_FRAMES):
        part = index[first : first + BLOCK_FRAMES]
        frames = windows_at(sound, part * HOP - WINDOW // 2, WINDOW) * window
        level = np.log(np.abs(fft.rfft(frames, SIZE, axis=1)) + 1e-6)
        cents[first : first + BLOCK_FRAMES] = _correction(level, track.pitch_hz[part])
    # the frames between take the middle of their neighbours
    moved = np.interp(np.arange(voiced.size), index, cents)
    if where is not None:
        moved = np.where(where, moved, 0.0)
    return replace(track, pitch_hz=track.pitch_hz * 2.0 ** (moved / 1200))


def _correction(level: FloatArray, pitch_hz: FloatArray) -> FloatArray:
    """How many cents the partials say a pitch is off. level: shape (n, SIZE // 2 + 1), natural log of magnitude."""
    number = np.arange(1, PARTIALS + 1)
    hertz = pitch_hz[:, None] * number
    rough = np.clip(np.rint(hertz * SIZE / RATE).astype(np.int64), 2, SIZE // 2 - 2)
    near = np.stack([np.take_along_axis(level, rough + step, axis=1) for step in (-1, 0, 1)], axis=2)
    peak = np.clip(rough + near.argmax(axis=2) - 1, 1, SIZE // 2 - 1)
    before, at, after = (np.take_along_axis(level, peak + step, axis=1) for step in (-1, 0, 1))
    bend = np.minimum(before - 2 * at + after, -1e-6)
    shift = 0.5 * (before - after) / bend
    fundamental_hz = np.maximum((peak + np.clip(shift, -1, 1)) * (RATE / SIZE) / number, 1.0)
    cents = 1200 * np.log2(fundamental_hz / pitch_hz[:, None])
    usable = (np.abs(shift) <= 1) & (np.abs(cents) < REACH_CENTS) & (hertz < HIGHEST_HZ)
    # loud partials are surer, and high ones tell the pitch more finely
    weight = np.where(usable, np.exp(0.5 * (at - at.max(axis=1, keepdims=True))) * np.sqrt(number), 0.0)
    order = np.argsort(cents, axis=1)
    total = np.cumsum(np.take_along_axis(weight, order, axis=1), axis=1)
    middle = (total >= total[:, -1:] / 2).argmax(axis=1)
    chosen = np.take_along_axis(cents, order, axis=1)[np.arange(cents.shape[0]), middle]
    return np.where(total[:, -1] > 0, chosen, 0.0)


def rise_db(sound: FloatArray, at_s: float, hertz: float) -> float:
    """Return by how many decibels a pitch's partials grow over a moment: the median of the first few.

    sound: shape (n_samples,), at the hearing rate. A string that is struck anew grows; one that rings on does not.
    """
    before, after = (_amplitudes(sound, at_s + off_s, hertz) for off_s in RISE_S)
    return float(np.median(20 * np.log10(after / before)))


def _amplitudes(sound: FloatArray, start_s: float, hertz: float) -> FloatArray:
    """Amplitude at the first partials in one window; shape (RISE_PARTIALS,), above 0."""
    part = windows_at(sound, np.array(round(start_s * RATE)), WINDOW)
    level = np.abs(fft.rfft(part * np.hanning(WINDOW), 2 * SIZE))
    at = np.rint(hertz * np.arange(1, RISE_PARTIALS + 1) * 2 * SIZE / RATE).astype(np.int64)
    return np.array(
        [level[max(0, bin_index - RISE_BINS) : bin_index + RISE_BINS + 1].max(initial=0.0) + 1e-6 for bin_index in at]
    )
