"""Where the beats are: anchors between time and beat, straight between them."""

from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from notcher.core.arrays import FloatArray


@dataclass(frozen=True, slots=True)
class BeatMap:
    """Anchors (seconds, beat) in rising order; beat 0 is a bar's first. Fewer than two anchors: no beat map known.

    meter: beats to a bar and the beat's note value, as in (4, 4).
    """

    anchors: tuple[tuple[float, float], ...] = ()
    meter: tuple[int, int] = (4, 4)

    def __post_init__(self) -> None:
        if not all(a[0] < b[0] and a[1] < b[1] for a, b in pairwise(self.anchors)):
            raise ValueError("the beats must run forwards: times and beats must both rise")
        if not (1 <= self.meter[0] <= 16 and self.meter[1] in (1, 2, 4, 8, 16)):
            raise ValueError(f"no such meter: {self.meter}")

    @classmethod
    def steady(cls, tempo_bpm: float, first_beat_s: float, meter: tuple[int, int] = (4, 4)) -> "BeatMap":
        """Return an even beat map. Raises: ValueError for a tempo outside 20..400 a minute."""
        if not 20 <= tempo_bpm <= 400:
            raise ValueError(f"no tempo: {tempo_bpm} beats a minute")
        return cls(((first_beat_s, 0.0), (first_beat_s + 60.0 / tempo_bpm, 1.0)), meter)

    @property
    def known(self) -> bool:
        return len(self.anchors) >= 2

    @property
    def tempo_bpm(self) -> float | None:
        """Beats a minute over all anchors; None without a beat map."""
        if not self.known:
            return None
        (first_s, first), (last_s, last) = self.anchors[0], self.anchors[-1]
        return 60.0 * (last - first) / (last_s - first_s)

    @property
    def first_beat_s(self) -> float | None:
        """Seconds of beat 0; None without a beat map."""
        return float(self.time_at(np.zeros(1))[0]) if self.known else None

    def beat_at(self, times_s: FloatArray) -> FloatArray:
        """Return the beat of each time; before and after the anchors at the nearest stretch's tempo."""
        return self._mapped(times_s, 0, 1)

    def time_at(self, beats: FloatArray) -> FloatArray:
        """Return the seconds of each beat."""
        return self._mapped(beats, 1, 0)

    def _mapped(self, values: FloatArray, source: int, target: int) -> FloatArray:
        if not self.known:
            raise ValueError("there are no beats yet: tap or set two")
        anchors = np.array(self.anchors)
        known, wanted = anchors[:, source], anchors[:, target]
        slopes = np.diff(wanted) / np.diff(known)
        piece = np.clip(np.searchsorted(known, values, side="right") - 1, 0, slopes.size - 1)
        return np.asarray(wanted[piece] + (np.asarray(values) - known[piece]) * slopes[piece])

    def beats_between(self, start_s: float, end_s: float, *, every: int = 1) -> list[tuple[float, int, int]]:
        """Return (seconds, bar, beat in the bar) of each whole beat in a span; bars and beats count from 1.

        every: only beats whose number, from the first bar on, is a multiple of this.
        """
        if not self.known:
            return []
        first, last = self.beat_at(np.array([start_s, end_s]))
        beats = np.arange(np.ceil(first / every - 1e-9), np.floor(last / every + 1e-9) + 1) * every
        per_bar = self.meter[0]
        return [
            (float(time_s), int(beat // per_bar) + 1, int(beat % per_bar) + 1)
            for beat, time_s in zip(beats, self.time_at(beats), strict=True)
        ]


NO_BEAT_MAP = BeatMap()
