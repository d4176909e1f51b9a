"""Choosing the lead's part of the stereo picture."""

import numpy as np

from notcher.core.arrays import FloatArray
from notcher.core.sound.clip import Clip

FOCUSES = ("auto", "mid", "left", "right", "side")
"""What may be listened to: auto keeps the sound that both channels share, bin by bin."""

FRAME = 4096
BLOCK_S = 20.0


def focused(clip: Clip, how: str = "auto") -> FloatArray:
    """Return one channel in which the lead stands out.

    how: one of `FOCUSES`; auto is the soft centre mask for a true stereo picture and the plain middle otherwise.
    Returns: shape (n_samples,), float32.
    Raises: ValueError for an unknown focus.
    Source of the mask: C. Avendano, "Frequency-domain source identification and manipulation in stereo mixes",
    WASPAA 2003, eq. 2 (similarity of the channels).
    """
    if how not in FOCUSES:
        raise ValueError(f"focus must be one of {', '.join(FOCUSES)}")
    left, right = clip.samples[:, 0], clip.samples[:, min(1, clip.channels - 1)]
    if clip.channels > 2:  # surround: the centre speaker, when there is one, carries the lead
        left = right = clip.samples[:, 2]
    if how == "left":
        return np.ascontiguousarray(left)
    if how == "right":
        return np.ascontiguousarray(right)
    if how == "side":
        return np.asarray((left - right) / 2, dtype=np.float32)
    middle = np.asarray((left + right) / 2, dtype=np.float32)
    if how == "mid" or not _is_wide(left, right):
        return middle
    return _centre(left, right, clip.sample_rate)


def _is_wide(left: FloatArray, right: FloatArray) -> bool:
    energy = float(np.mean(left**2) + np.mean(right**2))
    return energy > 0 and float(np.mean((left - right) ** 2)) > 1e-4 * energy


def _centre(left: FloatArray, right: FloatArray, sample_rate: int) -> FloatArray:
    """Keep of each time-frequency bin as much as the channels agree on; block by block, so memory stays flat."""
    from scipy import signal  # slow to load: a window should be on the screen first

    window = signal.get_window("hann", FRAME)
    transform = signal.ShortTimeFFT(window, FRAME // 4, fs=sample_rate)
    block = int(BLOCK_S * sample_rate) // FRAME * FRAME
    margin = 2 * FRAME
    result = np.empty(left.shape[0], dtype=np.float32)
    for first in range(0, left.shape[0], block):
        start, stop = max(0, first - margin), min(left.shape[0], first + block + margin)
        padded = max(stop - start, FRAME)
        pair = np.zeros((2, padded), dtype=np.float64)
        pair[:, : stop - start] = left[start:stop], right[start:stop]
        spectrum_l, spectrum_r = transform.stft(pair)
        likeness = 2 * (spectrum_l * spectrum_r.conj()).real
        likeness /= np.abs(spectrum_l) ** 2 + np.abs(spectrum_r) ** 2 + 1e-12
        mask = np.clip(likeness, 0, 1) ** 4  # a sharp power: only what is truly alike on both sides stays
        centre = transform.istft(mask * (spectrum_l + spectrum_r) / 2, k1=padded)
        last = min(first + block, left.shape[0])
        result[first:last] = centre[first - start : last - start]
    return result
