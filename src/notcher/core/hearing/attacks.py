"""Which moments are attacks of the lead: candidates from new energy and new pitch, judged by a small network.

A pick brings energy at the partials of the pitch that follows; a drum brings it everywhere, a hammered note only
changes the pitch. The network sees the levels at and between the partials around the moment and decides.
"""

import numpy as np
from scipy import fft

from notcher.core.arrays import FloatArray, IntArray
from notcher.core.hearing.network import network
from notcher.core.hearing.onsets import OnsetCurve, pick_peaks
from notcher.core.hearing.pitch import HOP, RATE, PitchTrack
from notcher.core.hearing.salience import three_wide

PEAK_THRESHOLD = 0.04
APART_FRAMES = 5
MOMENTS_S = (-0.06, -0.035, -0.015, 0.005, 0.025, 0.045, 0.07)
WINDOW, SIZE = 1024, 2048
FLOOR_MIDI, CEILING_MIDI, PER_SEMITONE = 24, 127, 5
PARTIALS, BETWEEN, OLD_PARTIALS = (1, 2, 3, 4, 5, 6, 8), (1.5, 2.5, 3.5, 4.5, 5.5), (1, 2, 3, 4, 5, 6)
BANDS = ((0, 120), (120, 260), (260, 400), (400, 515))
AROUND_FRAMES = (-6, -3, 0, 3, 6, 12)
BLOCK = 250


def attack_moments(onsets: OnsetCurve, turns: IntArray) -> IntArray:
    """Return the frames that could be attacks: peaks of new energy, and turns of the pitch away from any peak."""
    peaks = pick_peaks(onsets.flux, threshold=PEAK_THRESHOLD)
    far = [turn for turn in turns if peaks.size == 0 or np.abs(peaks - turn).min() > APART_FRAMES]
    return np.unique(np.concatenate([peaks, np.array(far, dtype=np.int64)]).astype(np.int64))


def attack_chance(moments: IntArray, track: PitchTrack, onsets: OnsetCurve, sound: FloatArray) -> FloatArray:
    """Return how likely each moment is an attack of the followed track. Returns: shape (n_moments,), 0..1."""
    if moments.size == 0:
        return np.zeros(0)
    return network("attack").chance(attack_features(moments, track, onsets, sound))


def attack_features(moments: IntArray, track: PitchTrack, onsets: OnsetCurve, sound: FloatArray) -> FloatArray:
    """What can be seen around each moment. Returns: shape (n_moments, n_features), float32."""
    midi, last = track.midi, track.times_s.size - 1
    after, before = _middle(midi, moments, 2, 9), _middle(midi, moments, -9, -2)
    missing = np.stack([np.isnan(before), np.isnan(after)], axis=1)
    after = np.where(np.isnan(after), _middle(midi, moments, 2, 20), after)
    after = np.where(np.isnan(after), np.where(np.isnan(before), 60.0, before), after)
    before = np.where(np.isnan(before), after, before)
    change = np.clip(after - before, -12, 12)[:, None] / 5
    near = np.clip(moments[:, None] + np.array(AROUND_FRAMES), 0, last)
    return np.concatenate(
        [
            _levels(moments, after, before, sound),
            track.voicing[near],
            onsets.flux[near],
            onsets.click[near],
            rise_db(track.level_db)[moments][:, None] / 10,
            change,
            np.abs(change),
            missing,
            after[:, None] / 60 - 1,
        ],
        axis=1,
    ).astype(np.float32)


def rise_db(level_db: FloatArray) -> FloatArray:
    """How much louder the next 50 ms are than the quietest of the last 35 ms, frame by frame."""
    windows = np.lib.stride_tricks.sliding_window_view(np.pad(level_db, (6, 8), mode="edge"), 6)
    # row f of the windows begins six frames before frame f
    return np.asarray(windows[8 : 8 + level_db.size].max(axis=1) - windows[: level_db.size].min(axis=1))


def _middle(midi: FloatArray, moments: IntArray, start: int, stop: int) -> FloatArray:
    """Median of the voiced frames from `start` to `stop` after each moment; NaN where there is none."""
    index = moments[:, None] + np.arange(start, stop)
    values = np.sort(
        np.where((index >= 0) & (index < midi.size), midi[np.clip(index, 0, midi.size - 1)], np.nan), axis=1
    )
    count = np.sum(~np.isnan(values), axis=1)  # sorting puts silence last
    rows = np.arange(moments.size)
    pair = values[rows, np.maximum(count - 1, 0) // 2] + values[rows, np.minimum(count // 2, values.shape[1] - 1)]
    return np.asarray(np.where(count > 0, pair / 2, np.nan))


def _levels(moments: IntArray, after: FloatArray, before: FloatArray, sound: FloatArray) -> FloatArray:
    """Log levels at the partials of the new pitch, between them, at the old pitch's, and in four bands."""
    loud = sound[sound != 0]
    scale = float(np.sqrt(np.mean(loud.astype(np.float64) ** 2))) if loud.size else 1.0
    reach = 4 * WINDOW
    padded = np.pad(sound, reach).astype(np.float32)
    shape = np.hanning(WINDOW).astype(np.float32) * (2 / WINDOW)
    bins = np.minimum(
        440 * 2 ** ((np.arange(FLOOR_MIDI, CEILING_MIDI, 1 / PER_SEMITONE) - 69) / 12) * SIZE / RATE, 1022.9
    )
    below, share = bins.astype(np.int64), (bins % 1).astype(np.float32)
    found = []
    for first in range(0, moments.size, BLOCK):
        part = slice(first, first + BLOCK)
        starts = moments[part, None] * HOP + np.rint(np.array(MOMENTS_S) * RATE).astype(np.int64) - WINDOW // 2 + reach
        frames = padded[starts[..., None] + np.arange(WINDOW)] * shape
        magnitude = np.abs(fft.rfft(frames, SIZE, axis=2))
        level = np.log10((magnitude[..., below] * (1 - share) + magnitude[..., below + 1] * share) / scale + 1e-4)
        wide = three_wide(level)
        found.append(
            np.concatenate(
                [
                    _at(wide, after[part], PARTIALS).reshape(len(level), -1),
                    _at(wide, after[part], BETWEEN).mean(axis=2),
                    _at(wide, before[part], OLD_PARTIALS).mean(axis=2),
                    np.stack([level[..., a:b].mean(axis=2) for a, b in BANDS], axis=2).reshape(len(level), -1),
                ],
                axis=1,
            )
        )
    return np.concatenate(found)


def _at(table: FloatArray, midi: FloatArray, ratios: tuple[float, ...]) -> FloatArray:
    index = np.rint((midi[:, None] - FLOOR_MIDI + 12 * np.log2(np.array(ratios))) * PER_SEMITONE).astype(np.int64)
    index = np.clip(index, 0, table.shape[2] - 1)[:, None, :].repeat(table.shape[1], axis=1)
    return np.take_along_axis(table, index, axis=2)
