"""A sound mixed as it is wanted, each part as loud and where it shall be, heard at once when that changes."""

from collections.abc import Callable

import numpy as np

from notcher.core.arrays import FloatArray
from notcher.core.mixing import Channel, Levels, Loop, LoopPassage, Silence, matrix

Stream = Loop | LoopPassage | Silence
Channels = tuple[Channel, ...]
RECORDING: Channels = (Channel("recording", -1), Channel("recording", 1))
TAB: Channels = (Channel("tab"),)
BESIDE: Channels = (Channel("recording", -1), Channel("tab", 1))
CLICK: Channels = (Channel("click"),)
Monitor = Callable[[int, int], FloatArray]
"""Given a count and a rate, the student's newest samples; shape (count,), silent where there are none."""


class Levelled:
    """What the loudspeaker reads. levels: asked for at each reading, as is what the student plays."""

    def __init__(
        self, stream: Stream, channels: Channels, levels: Callable[[], Levels], monitor: Monitor | None = None
    ) -> None:
        self.stream, self._channels, self._levels, self._monitor = stream, channels, levels, monitor

    @property
    def sample_rate(self) -> int:
        return self.stream.sample_rate

    def read(self, first: int, count: int) -> FloatArray:
        """Return samples first..first+count, shape (count, 2), never past full scale."""
        levels = self._levels()
        parts, channels = self.stream.parts(first, count), self._channels
        if parts.shape[1] != len(channels):  # one channel stands for all of its part
            channels = (Channel(channels[0].part),) if parts.shape[1] == 1 else channels * parts.shape[1]
        sound = parts @ matrix(channels[: parts.shape[1]], levels)
        clicks = self.stream.clicks(first, count).mean(axis=1, keepdims=True)
        sound += clicks @ matrix(CLICK, levels)
        if self._monitor is not None and levels.guitar > 0:
            sound += self._monitor(count, self.sample_rate)[:, None] @ matrix((Channel("guitar"),), levels)
        return np.clip(sound, -1.0, 1.0).astype(np.float32)
