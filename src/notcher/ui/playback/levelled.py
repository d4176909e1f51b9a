"""A sound as loud as it is wanted, each side by itself, heard at once when that changes."""

from collections.abc import Callable

import numpy as np

from notcher.core.arrays import FloatArray
from notcher.core.teaching import Levels, Loop, LoopUnderway, Passage

Stream = Loop | LoopUnderway | Passage
Sides = tuple[str, str]
"""Of which of `Levels` each side is."""
RECORDING: Sides = ("recording", "recording")
TAB: Sides = ("tab", "tab")
BESIDE: Sides = ("recording", "tab")


class Levelled:
    """What the loudspeaker reads. levels: asked for at each reading."""

    def __init__(self, stream: Stream, sides: Sides, levels: Callable[[], Levels]) -> None:
        self._stream, self._sides, self._levels = stream, sides, levels

    @property
    def sample_rate(self) -> int:
        return self._stream.sample_rate

    def read(self, first: int, count: int) -> FloatArray:
        """Return samples first..first+count, shape (count, 2), never past full scale."""
        levels = self._levels()
        sound = self._stream.read(first, count).astype(np.float32, copy=True)
        lead = self._stream.count_in.shape[0] if isinstance(self._stream, Loop) else 0
        clicks = min(max(0, lead - first), count)
        sound[:clicks] *= levels.click
        sound[clicks:] *= np.array([getattr(levels, side) for side in self._sides], dtype=np.float32)
        return np.clip(sound, -1.0, 1.0)
