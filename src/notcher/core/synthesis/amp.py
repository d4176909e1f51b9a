"""Plain amp colours: what a speaker makes of the string's sound, clean or driven."""

import numpy as np

from notcher.core.arrays import FloatArray

COLOURS = ("string", "clean", "driven")
SPEAKER_HZ = (90.0, 4500.0)  # what a guitar speaker lets through (common practice, no source)
CLEAN_GAIN, DRIVEN_GAIN = 0.8, 6.0  # below the bend of the curve; well above it
PEAK = 0.8  # 2 dB short of clipping


def coloured(samples: FloatArray, colour: str, *, sample_rate: int) -> FloatArray:
    """Return the sound in one of `COLOURS`: the bare string, through a clean amp, or through a driven one.

    samples: shape (n,), full scale ±1. Returns: the same shape, peak about 0.8. Raises: ValueError for another colour.
    """
    if colour not in COLOURS:
        raise ValueError(f"an amp is {', '.join(COLOURS)}; not {colour!r}")
    if colour == "string":
        return samples
    return driven(samples, gain=DRIVEN_GAIN if colour == "driven" else CLEAN_GAIN, sample_rate=sample_rate)


def driven(samples: FloatArray, *, gain: float = DRIVEN_GAIN, sample_rate: int = 44_100) -> FloatArray:
    """Return the sound through a soft clipper and a speaker's roll-off; shape kept, peak 0.8.

    The clipper's even part makes it ask for more one way than the other, as a valve does.
    """
    from scipy import signal  # scipy.signal is slow to import and only a colour needs it

    clipped = np.tanh(gain * samples) + 0.2 * np.tanh(0.5 * gain * samples) ** 2
    speaker = signal.butter(2, SPEAKER_HZ, "bandpass", fs=sample_rate, output="sos")
    shaped = signal.sosfilt(speaker, clipped, axis=0)
    return np.asarray(shaped / max(1e-9, float(np.max(np.abs(shaped)))) * PEAK, dtype=np.float32)
