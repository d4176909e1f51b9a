"""A stretch of sound in memory."""

from dataclasses import dataclass

import numpy as np

from notcher.core.arrays import FloatArray


@dataclass(frozen=True, slots=True, eq=False)
class Clip:
    """Sound as it was recorded, never altered.

    samples: shape (n_samples, n_channels), float32, full scale ±1. sample_rate: hertz.
    name: the file's name without its folder. groups: of how many channels each picture is, where they are several.
    """

    samples: FloatArray
    sample_rate: int
    name: str = ""
    groups: tuple[int, ...] = ()

    def __post_init__(self) -> None:
        if self.samples.ndim != 2 or self.sample_rate <= 0:
            raise ValueError("a clip is (samples, channels) at a positive sample rate")

    @property
    def duration_s(self) -> float:
        return float(self.samples.shape[0] / self.sample_rate)

    @property
    def channels(self) -> int:
        return int(self.samples.shape[1])

    def mixed(self) -> FloatArray:
        """Return the mean of all channels, shape (n_samples,); ten minutes take a tenth of a second."""
        return np.asarray(self.samples @ np.full(self.channels, 1 / self.channels, dtype=np.float32))

    def cut(self, start_s: float, end_s: float) -> "Clip":
        """Return the part between two times, clipped to what there is; the samples are shared, not copied."""
        first = max(0, round(start_s * self.sample_rate))
        last = max(first, round(end_s * self.sample_rate))
        return Clip(self.samples[first:last], self.sample_rate, self.name, self.groups)


@dataclass(frozen=True, slots=True, eq=False)
class LaidClip(Clip):
    """A part of a recording, at its place in it. begin_s: the second of the recording where it begins."""

    begin_s: float = 0.0

    @property
    def duration_s(self) -> float:
        """When in the recording it ends."""
        return self.begin_s + float(self.samples.shape[0] / self.sample_rate)

    def cut(self, start_s: float, end_s: float) -> Clip:
        """Return the part between two seconds of the recording."""
        plain = Clip(self.samples, self.sample_rate, self.name, self.groups)
        return plain.cut(start_s - self.begin_s, end_s - self.begin_s)


def beside(left: Clip, right: Clip) -> Clip:
    """Return one clip on the left side and another on the right, each as one channel, as long as the first.

    Raises: ValueError when their sample rates differ.
    """
    if left.sample_rate != right.sample_rate:
        raise ValueError("two clips beside each other need one sample rate")
    samples = np.zeros((left.samples.shape[0], 2), dtype=np.float32)
    for channel, clip in enumerate((left, right)):
        part = clip.mixed()[: samples.shape[0]]
        samples[: part.size, channel] = part
    return Clip(samples, left.sample_rate, left.name, (1, 1))


def peak_level(samples: FloatArray) -> float:
    """Return the largest magnitude, 1 at full scale, 0 for nothing; a long recording is not copied for it."""
    return float(max(samples.max(), -samples.min())) if samples.size else 0.0


def peak_dbfs(samples: FloatArray) -> float:
    """Return the largest magnitude in decibels below full scale; -inf for silence or nothing."""
    peak = peak_level(samples)
    return 20.0 * float(np.log10(peak)) if peak > 0 else -np.inf
