"""Taking a delay effect's repeats out of the lead, so that they are not heard as notes.

Source: B. Bogert, M. Healy and J. Tukey, "The quefrency alanysis of time series for echoes", 1963: an echo of gain g
after a lag stands in the cepstrum at that lag with height g, and at twice the lag with -g^2/2 for one repeat or
+g^2/2 for repeats that feed back.
"""

from dataclasses import dataclass, replace

import numpy as np
from scipy import fft, ndimage

from notcher.core.arrays import FloatArray
from notcher.core.hearing.pitch import RATE

FRAME = 1 << 16  # 3 s, longer than the longest delay and its first repeat
LAGS_S = (0.07, 0.9)  # from a slap to a slow quarter (common practice, no source)
LEAST_GAIN, MOST_GAIN = 0.08, 0.75  # quieter is not heard; louder would feed itself
LEAST_PROMINENCE = 60.0  # times the cepstrum's own scatter: repeated notes stay far below, a delay far above


@dataclass(frozen=True, slots=True)
class Echo:
    """A repeat: seconds later, gain against the first, whether its repeats repeat."""

    lag_s: float
    gain: float
    feeds_back: bool


def find_echo(sound: FloatArray) -> Echo | None:
    """Return the delay effect that a recording was made with, if one stands out.

    sound: shape (n_samples,), at the hearing rate.
    """
    if sound.shape[0] < 2 * FRAME:
        return None
    cepstrum = _cepstrum(sound)
    first, last = (round(lag_s * RATE) for lag_s in LAGS_S)
    part = cepstrum[first:last]
    scatter = 1.4826 * float(np.median(np.abs(part - np.median(part)))) + 1e-12
    peak = int(np.argmax(part)) + first
    gain = float(cepstrum[peak])
    if not (gain > LEAST_GAIN and gain > LEAST_PROMINENCE * scatter):
        return None
    around = cepstrum[2 * peak - 2 : 2 * peak + 3]
    twice = float(around[np.argmax(np.abs(around))]) if 2 * peak + 3 < cepstrum.size else 0.0
    echo = Echo(peak / RATE, min(gain, MOST_GAIN), twice > 0)
    for _ in range(2):  # windows and noise make the peak too low: what is left after taking it out is added
        residual = float(_cepstrum(without_echo(sound, echo))[peak])
        echo = replace(echo, gain=float(np.clip(echo.gain + residual, LEAST_GAIN, MOST_GAIN)))
    return echo


def _cepstrum(sound: FloatArray) -> FloatArray:
    """Mean real cepstrum over frames of three seconds; the quiet ones count less."""
    window = np.hanning(FRAME).astype(np.float32)
    total, weights = np.zeros(FRAME // 2), 0.0
    for first in range(0, sound.shape[0] - FRAME + 1, FRAME):
        frame = sound[first : first + FRAME] * window
        energy = float(np.sqrt(np.mean(frame**2)))
        if energy <= 1e-5:
            continue
        power = np.abs(fft.rfft(frame)) ** 2
        # a floor well below the sound keeps empty bands from filling the cepstrum with noise
        level = np.log(power + 1e-7 * power.max())
        total += energy * fft.irfft(level - ndimage.uniform_filter1d(level, 2_001))[: FRAME // 2]
        weights += energy
    return total / max(weights, 1e-12)


def without_echo(sound: FloatArray, echo: Echo) -> FloatArray:
    """Return the sound with a repeat taken out by the inverse of its filter; shape kept."""
    lag = round(echo.lag_s * RATE)
    result = sound.astype(np.float32, copy=True)
    if echo.feeds_back:
        result[lag:] -= np.float32(echo.gain) * sound[:-lag]
        return result
    for first in range(lag, result.shape[0], lag):  # block by block, since each needs the one before it cleaned
        last = min(first + lag, result.shape[0])
        result[first:last] -= np.float32(echo.gain) * result[first - lag : last - lag]
    return result
