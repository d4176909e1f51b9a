"""How a note's pitch moves."""

from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from notcher.core.arrays import FloatArray
from notcher.core.score.limits import LAST_S, MOST_POINTS, check_count

LARGEST_SEMITONES = 24.0  # two octaves: the bar pushed down to slack strings


@dataclass(frozen=True, slots=True)
class PitchCurve:
    """How a note leaves its fretted pitch: (seconds after onset, semitones), in time order, straight between."""

    points: tuple[tuple[float, float], ...] = ()

    def __post_init__(self) -> None:
        check_count(self.points, MOST_POINTS, "points in a pitch curve")
        times_s = [time_s for time_s, _ in self.points]
        rising = times_s == sorted(set(times_s)) and min(times_s, default=0.0) >= 0
        if not (rising and np.isfinite(np.array(self.points)).all()):
            raise ValueError(f"curve times must rise from 0 and all be finite: {self.points}")
        if times_s and times_s[-1] > LAST_S:
            raise ValueError("a pitch curve ends within the hour")
        if any(abs(bend) > LARGEST_SEMITONES for _, bend in self.points):
            raise ValueError(f"no string bends by more than {LARGEST_SEMITONES:.0f} semitones")

    @property
    def peak_semitones(self) -> float:
        return max((bend for _, bend in self.points), key=abs) if self.points else 0.0

    def at(self, times_s: FloatArray) -> FloatArray:
        """Return semitones at each time after the onset; level before the first point and after the last."""
        if not self.points:
            return np.zeros(np.shape(times_s))
        points = np.array(self.points)
        return np.asarray(np.interp(times_s, points[:, 0], points[:, 1]))


FLAT = PitchCurve()


class Side(StrEnum):
    """Where a vibrato swings: a string only stretches up, but what is bent can be let down a little as well."""

    ABOVE = "above"  # its lowest point touches the curve
    AROUND = "around"
    BELOW = "below"  # its highest point touches the curve


@dataclass(frozen=True, slots=True)
class Vibrato:
    """A wave on the curve: seconds after the onset where it starts, cycles a second, ± cents, and on which side."""

    from_s: float
    rate_hz: float
    extent_cents: float
    side: Side = Side.ABOVE

    def __post_init__(self) -> None:
        if not (0 <= self.from_s < 600 and 0.5 <= self.rate_hz <= 20 and 0 < self.extent_cents <= 400):
            raise ValueError(f"no finger makes this vibrato: {self}")

    def at(self, times_s: FloatArray, *, ramp_s: float = 0.15) -> FloatArray:
        """Return semitones of the wave at each time after the onset, growing over `ramp_s`."""
        since = np.maximum(np.asarray(times_s) - self.from_s, 0.0)
        depth = np.minimum(since / ramp_s, 1.0) * self.extent_cents / 100.0
        return np.asarray(depth * self.swung(self.rate_hz * since))

    def swung(self, turns: FloatArray) -> FloatArray:
        """Return the wave after so many turns, in its extents: 0..2 above the curve, -1..1 around, -2..0 below."""
        if self.side is Side.AROUND:
            return np.asarray(np.sin(2 * np.pi * turns))
        above = 1.0 - np.cos(2 * np.pi * turns)
        return np.asarray(above if self.side is Side.ABOVE else -above)
