"""Attacks: where new energy enters the sound.

Source: S. Böck and G. Widmer, "Maximum filter vibrato suppression for onset detection", DAFx 2013 (log spectrum,
difference against the previous frame's local maximum); peaks are picked against a local median as in S. Dixon,
"Onset detection revisited", DAFx 2006.
"""

from dataclasses import dataclass

import numpy as np
from scipy import fft, ndimage

from notcher.core.arrays import FloatArray, IntArray
from notcher.core.hearing.pitch import HOP, HOP_S
from notcher.core.hearing.salience import three_wide
from notcher.core.sound import peak_level
from notcher.core.sound.windows import frames_of

WINDOW = 512  # 23 ms: shorter than any note
LAG_FRAMES = 2  # so that vibrato is no attack (S. Böck, G. Widmer, DAFx 2013)
BLOCK_FRAMES = 1_024  # bounds memory
GAIN = 1_000.0  # log(1 + gain |X|): how much the quiet bins count
CLICK_ABOVE_HZ = 3_000.0  # above the partials of most notes, where the pick clicks
AVERAGE_S, MAXIMUM_S = 0.15, 0.025  # as the peak picker of S. Böck et al., ISMIR 2012, has it
LEAST_APART_S = 0.035  # 28 notes a second: nobody strikes faster


@dataclass(frozen=True, slots=True, eq=False)
class OnsetCurve:
    """Evidence for attacks, one value a frame of `HOP`: new energy over all bins, and over the pick's click."""

    flux: FloatArray
    click: FloatArray


def onset_curve(sound: FloatArray) -> OnsetCurve:
    """Measure how much new energy each frame brings.

    sound: shape (n_samples,), at the hearing rate. Returns: arrays of shape (n_frames,), log units, 0 for none.
    """
    frames = max(1, 1 + sound.shape[0] // HOP)
    peak = peak_level(sound)
    window = np.hanning(WINDOW).astype(np.float32) * np.float32(2 / WINDOW / (peak or 1.0))
    flux, click = np.zeros(frames), np.zeros(frames)
    edge = round(CLICK_ABOVE_HZ * WINDOW * HOP_S / HOP)
    for first in range(0, frames, BLOCK_FRAMES):
        start, last = max(0, first - LAG_FRAMES), min(first + BLOCK_FRAMES, frames)
        view = frames_of(sound, start, last, hop=HOP, size=WINDOW, lead=WINDOW // 2)
        level = np.log1p(GAIN * np.abs(fft.rfft(view * window, axis=1)))
        before = three_wide(level[:-LAG_FRAMES])
        rise = np.maximum(level[LAG_FRAMES:] - before, 0)
        at = slice(start + LAG_FRAMES, last)
        flux[at], click[at] = rise.mean(axis=1), rise[:, edge:].mean(axis=1)
    return OnsetCurve(flux, click)


def pick_peaks(curve: FloatArray, *, threshold: float, apart_s: float = LEAST_APART_S) -> IntArray:
    """Return the frames where a curve has a local peak that stands `threshold` above its surroundings.

    Returns: shape (n_peaks,), whole frames, rising.
    """
    reach = max(1, round(min(MAXIMUM_S, 0.6 * apart_s) / HOP_S))
    floor = ndimage.median_filter(curve, size=2 * round(AVERAGE_S / HOP_S) + 1, mode="nearest")
    highest = ndimage.maximum_filter1d(curve, 2 * reach + 1)
    peaks = np.flatnonzero((curve == highest) & (curve > floor + threshold))
    flat = np.split(peaks, np.flatnonzero(np.diff(peaks) > 1) + 1)  # of equal neighbours the middle one
    middles = np.array(
        [(run[0] + run[-1]) // 2 for run in flat if run.size and run[0] > 0 and run[-1] < curve.size - 1]
    )
    return _apart(middles.astype(np.int64), curve, max(1, round(apart_s / HOP_S)))


def _apart(peaks: IntArray, curve: FloatArray, least: int) -> IntArray:
    """Peaks no closer than so many frames; the highest stay, of equal ones the later."""
    isolated = np.ones(peaks.size, dtype=bool)
    for at in np.argsort(curve[peaks], kind="stable")[::-1].tolist():
        if isolated[at]:
            first, last = np.searchsorted(peaks, [peaks[at] - least + 1, peaks[at] + least])
            isolated[first:last] = False
            isolated[at] = True
    return peaks[isolated]
