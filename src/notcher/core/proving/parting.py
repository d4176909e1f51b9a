"""Where what was claimed and what was measured part."""

from dataclasses import dataclass

import numpy as np
from numpy.lib.stride_tricks import sliding_window_view

from notcher.core.hearing import Evidence
from notcher.core.score import Note

WINDOW = 9  # frames, 52 ms
STEADY = 0.3  # semitones that a pitch at rest wanders within it


@dataclass(frozen=True, slots=True)
class Parting:
    """The moment, seconds after the onset, and both pitches there, semitones over the unbent one."""

    time_s: float
    claimed: float
    measured: float

    @property
    def cents(self) -> float:
        """How far the measured pitch lies over the claim."""
        return 100 * (self.measured - self.claimed)


def where_they_part(note: Note, under: Evidence) -> Parting | None:
    """Return where the evidence lies furthest from the claim, at rest before on the move; None with too little of it.

    What is only reached earlier or later parts on the way as well; the moments at which both rest tell more.
    """
    inside = (under.times_s >= 0) & (under.times_s <= note.duration_s)
    times_s, semitones = under.times_s[inside], under.semitones[inside]
    if times_s.size < WINDOW:
        return None
    claim = note.deviation_at(times_s)
    heard_in, claim_in = sliding_window_view(semitones, WINDOW), sliding_window_view(claim, WINDOW)
    voiced = ~np.isnan(heard_in).any(axis=1)
    if not voiced.any():
        return None
    rests = voiced & (np.ptp(np.nan_to_num(heard_in), axis=1) < STEADY) & (np.ptp(claim_in, axis=1) < STEADY)
    measured, claimed = np.median(heard_in, axis=1), np.median(claim_in, axis=1)
    apart = np.where(rests if rests.any() else voiced, np.abs(measured - claimed), -1.0)
    at = int(np.argmax(apart))
    return Parting(float(times_s[at + WINDOW // 2]), float(claimed[at]), float(measured[at]))
