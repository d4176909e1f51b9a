"""Which moments could be attacks of the lead: candidates from new energy and new pitch; what is measured at them."""

import numpy as np

from notcher.core.arrays import FloatArray, IntArray
from notcher.core.hearing.onsets import OnsetCurve, pick_peaks

PEAK_THRESHOLD = 0.04  # of the strength of a clear pick: most of what is below is string noise
APART_FRAMES = 5  # 29 ms: no hand strikes twice in it


def attack_moments(onsets: OnsetCurve, turns: IntArray) -> IntArray:
    """Return the frames that could be attacks: peaks of new energy, and turns of the pitch away from any peak.

    turns: shape (n_turns,), frames. Returns: shape (n_moments,), frames, rising.
    """
    peaks = pick_peaks(onsets.flux, threshold=PEAK_THRESHOLD)
    far = [turn for turn in turns if peaks.size == 0 or np.abs(peaks - turn).min() > APART_FRAMES]
    return np.unique(np.concatenate([peaks, np.array(far, dtype=np.int64)]).astype(np.int64))


def rise_db(level_db: FloatArray) -> FloatArray:
    """How much louder the next 50 ms are than the quietest of the last 35 ms: decibels, shape (n_frames,)."""
    windows = np.lib.stride_tricks.sliding_window_view(np.pad(level_db, (6, 8), mode="edge"), 6)
    # row f of the windows begins six frames before frame f
    return np.asarray(windows[8 : 8 + level_db.size].max(axis=1) - windows[: level_db.size].min(axis=1))


def middle_midi(midi: FloatArray, moments: IntArray, start: int, stop: int) -> FloatArray:
    """Median of the voiced frames from `start` to `stop` after each moment; NaN where there is none.

    midi: shape (n_frames,), semitones, NaN where unvoiced. moments: shape (n_moments,), frames, as is the result.
    """
    index = moments[:, None] + np.arange(start, stop)
    values = np.sort(
        np.where((index >= 0) & (index < midi.size), midi[np.clip(index, 0, midi.size - 1)], np.nan), axis=1
    )
    count = np.sum(~np.isnan(values), axis=1)  # sorting puts silence last
    rows = np.arange(moments.size)
    pair = values[rows, np.maximum(count - 1, 0) // 2] + values[rows, np.minimum(count // 2, values.shape[1] - 1)]
    return np.asarray(np.where(count > 0, pair / 2, np.nan))
