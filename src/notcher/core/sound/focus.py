"""Choosing the lead's part of the stereo picture."""

import numpy as np
from scipy import fft

from notcher.core.arrays import FloatArray
from notcher.core.sound.clip import Clip
from notcher.core.sound.threads import threads
from notcher.core.sound.windows import frames_of

FOCUSES = ("auto", "mid", "left", "right", "side")
"""What may be listened to: auto keeps the sound that both channels share, bin by bin."""

FRAME_S = 0.093  # about: the nearest power of two in samples
BLOCK_FRAMES, BLOCK_SAMPLES = 256, 1 << 18  # bounds memory
ALIKE = 0.1
"""Of the sound of two sides: with less in common a lead in the middle would be ten decibels below the rest."""


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
        return _half(np.subtract(left, right, dtype=np.float32))
    if how == "auto" and is_wide(clip):
        return _centre(left, right, clip.sample_rate)
    return _half(np.add(left, right, dtype=np.float32))


def _half(total: FloatArray) -> FloatArray:
    total *= 0.5  # in place: a long recording's channel is large
    return total


def banded(sound: FloatArray, sample_rate: int, band_hz: tuple[float, float]) -> FloatArray:
    """Return only what lies in a band of frequencies; shape kept, nothing is moved in time.

    sound: shape (n_samples,). band_hz: lower and upper edge, hertz. Raises: ValueError when the band is empty.
    """
    from scipy import signal  # slow to load: a window should be on the screen first

    low, high = max(band_hz[0], 10.0), min(band_hz[1], 0.49 * sample_rate)
    if low >= high:
        raise ValueError(f"the band from {band_hz[0]:g} to {band_hz[1]:g} Hz is empty")
    filtered = signal.sosfiltfilt(signal.butter(2, [low, high], "bandpass", fs=sample_rate, output="sos"), sound)
    return np.asarray(filtered, dtype=np.float32)


def is_wide(clip: Clip) -> bool:
    """Whether there is a stereo picture: two channels that differ."""
    both, difference = _energies(clip)
    return both > 0 and difference > 1e-4 * both


def has_middle(clip: Clip) -> bool:
    """Whether the sides of a stereo picture have anything in common that could be kept as its middle."""
    both, difference = _energies(clip)
    return both - difference > ALIKE * both


def _energies(clip: Clip) -> tuple[float, float]:
    """Energy of both sides together, and of their difference; block by block, so memory stays flat."""
    both = difference = 0.0
    for first in range(0, clip.samples.shape[0], BLOCK_SAMPLES):
        sides = clip.samples[first : first + BLOCK_SAMPLES].astype(np.float64)
        left, right = sides[:, 0], sides[:, min(1, clip.channels - 1)]
        both += float(np.sum(left**2) + np.sum(right**2))
        difference += float(np.sum((left - right) ** 2))
    return both, difference


def _centre(left: FloatArray, right: FloatArray, sample_rate: int) -> FloatArray:
    """Keep of each time-frequency bin as much as the channels agree on; block by block, so memory stays flat."""
    frame = 1 << round(np.log2(FRAME_S * sample_rate))
    hop = frame // 4
    window = np.sqrt(np.hanning(frame + 1)[:-1]).astype(np.float32)  # in and out: their squares add up to 2 at this hop
    count = left.shape[0] // hop + 4
    result = np.zeros(frame + count * hop, dtype=np.float32)
    for first in range(0, count, BLOCK_FRAMES):
        last = min(first + BLOCK_FRAMES, count)
        spectrum_l, spectrum_r = (
            fft.rfft(
                frames_of(channel, first, last, hop=hop, size=frame, lead=frame - hop) * window,
                axis=1,
                workers=threads(),
            )
            for channel in (left, right)
        )
        likeness = 2 * (spectrum_l.real * spectrum_r.real + spectrum_l.imag * spectrum_r.imag)
        power = spectrum_l.real**2 + spectrum_l.imag**2 + spectrum_r.real**2 + spectrum_r.imag**2
        mask = np.clip(likeness / (power + 1e-12), 0, 1)
        mask *= mask
        mask *= mask  # a sharp power, the fourth: only what is truly alike on both sides stays
        centre = fft.irfft(mask * (spectrum_l + spectrum_r), frame, axis=1, workers=threads()) * (
            window * np.float32(0.25)
        )
        for quarter in range(4):  # frames a whole frame apart do not overlap: four additions lay them all
            rows = centre[quarter::4]
            start = (first + quarter) * hop
            result[start : start + rows.size] += rows.ravel()
    return result[frame - hop : frame - hop + left.shape[0]]
