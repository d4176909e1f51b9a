"""What a guitar's sound goes through on its way to a recording."""

from __future__ import annotations

import numpy as np
from scipy import signal

from notcher.core.sound import Clip
from notcher.core.synthesis import driven


def distorted(clip: Clip) -> Clip:
    """The same through a driven amplifier and an echo of 320 ms."""
    sound = driven(clip.samples[:, 0], gain=12.0)
    echo = np.zeros(sound.size, dtype=np.float32)
    lag = round(0.32 * clip.sample_rate)
    echo[lag:] = 0.25 * sound[:-lag]
    return Clip((0.8 * (sound + echo))[:, None], clip.sample_rate, clip.name)


def reverberant(clip: Clip) -> Clip:
    """The same in a room: half a second of decaying noise, some 10 dB below the guitar itself."""
    noise = np.random.default_rng(4).standard_normal(round(0.5 * clip.sample_rate))
    room = noise * np.exp(-np.arange(noise.size) / (0.12 * clip.sample_rate)) * 0.009
    sound = clip.samples[:, 0] + signal.fftconvolve(clip.samples[:, 0], room)[: clip.samples.shape[0]]
    return Clip((sound / np.abs(sound).max() * 0.7).astype(np.float32)[:, None], clip.sample_rate, clip.name)
