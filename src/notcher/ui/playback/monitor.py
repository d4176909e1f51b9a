"""The student's input on its way into the loudspeaker."""

from math import ceil

import numpy as np

from notcher.core.arrays import FloatArray
from notcher.devices import GuitarInput

BEHIND = 4  # blocks: further behind the input's newest sound it does not fall


class InputMonitor:
    """Hands on what the input keeps, block by block; silent while it keeps nothing."""

    def __init__(self, guitar: GuitarInput) -> None:
        self._guitar, self._at = guitar, 0

    def __call__(self, count: int, sample_rate: int) -> FloatArray:
        """Return the next samples, shape (count,), at a rate; what has not arrived yet is silent."""
        guitar = self._guitar
        if not guitar.recording:
            self._at = 0
            return np.zeros(count, np.float32)
        wanted, newest = ceil(count * guitar.sample_rate / sample_rate), guitar.position
        if not 0 <= newest - self._at <= BEHIND * wanted:
            self._at = max(0, newest - wanted)
        part = guitar.since(self._at)[:wanted]
        self._at += part.size
        if part.size < wanted:
            part = np.pad(part, (0, wanted - part.size))
        if wanted == count:
            return part.astype(np.float32)
        return np.interp(np.linspace(0, wanted - 1, count), np.arange(wanted), part).astype(np.float32)
