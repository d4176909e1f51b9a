"""The pitch that sounds now, from the newest samples alone.

Source: A. de Cheveigné and H. Kawahara, "YIN, a fundamental frequency estimator for speech and music", JASA 111, 2002:
difference function, cumulative mean, absolute threshold, parabolic interpolation (steps 2 to 5).
"""

from dataclasses import dataclass

import numpy as np

from notcher.core.arrays import FloatArray

WINDOW_S, LOWEST_HZ, HIGHEST_HZ = 0.023, 70.0, 1_600.0
"""One period and a half of the lowest; the sixth string to the last fret, bent."""
THRESHOLD = 0.15  # of the normalised difference: YIN's step 4 names 0.1, a driven string needs more
QUIET = 0.004  # of full scale, root mean square: below it nothing is played


@dataclass(frozen=True, slots=True)
class LivePitch:
    """hz: what sounds. clarity: 0..1, how periodic it is."""

    hz: float
    clarity: float

    @property
    def midi(self) -> float:
        return float(69 + 12 * np.log2(self.hz / 440.0))


def samples_needed(sample_rate: int) -> int:
    """Return how many of the newest samples `live_pitch` looks at."""
    return round(WINDOW_S * sample_rate) + round(sample_rate / LOWEST_HZ) + 2


def live_pitch(samples: FloatArray, sample_rate: int) -> LivePitch | None:
    """Return the pitch at the end of some samples; None where there is none, or too little of it.

    samples: shape (n,), the newest last.
    """
    window, longest = round(WINDOW_S * sample_rate), round(sample_rate / LOWEST_HZ)
    part = samples[-(window + longest + 1) :].astype(np.float64)
    if part.size < window + longest + 1 or float(np.sqrt(np.mean(part[-window:] ** 2))) < QUIET:
        return None
    # the difference of the first window and each later one: energies and a correlation, by the Fourier transform
    size = 1 << (part.size + window - 1).bit_length()
    head = np.fft.rfft(part[:window][::-1], size)
    correlation = np.fft.irfft(np.fft.rfft(part, size) * head, size)[window - 1 : window + longest]
    energy = np.concatenate([[0.0], np.cumsum(part**2)])
    moved = energy[window : window + longest + 1] - energy[: longest + 1]
    difference = np.maximum(moved[0] + moved - 2 * correlation, 0.0)
    lags = np.arange(1, longest + 1)
    mean = difference[1:] * lags / np.maximum(np.cumsum(difference[1:]), 1e-12)
    first = max(1, round(sample_rate / HIGHEST_HZ))
    below = np.flatnonzero(mean[first:] < THRESHOLD)
    if below.size == 0:
        return None
    at = first + int(below[0])
    while at + 1 < mean.size and mean[at + 1] < mean[at]:
        at += 1
    offset = 0.0
    if 0 < at < mean.size - 1:
        before, here, after = mean[at - 1 : at + 2]
        bow = before - 2 * here + after
        offset = float(np.clip(0.5 * (before - after) / bow, -0.5, 0.5)) if bow > 0 else 0.0
    return LivePitch(float(sample_rate / (at + 1 + offset)), float(1.0 - min(1.0, mean[at])))
