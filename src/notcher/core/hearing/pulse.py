"""Which pulse is the beat: a chain of beats may be twice, half or two thirds as quick as what a foot taps.

Onsets fall on a grid of places within the beat, some oftener than others; the beat is the pulse under which their
places are the likeliest (the metrical grid of D. Temperley, "Music and Probability", 2007, ch. 3; its shares from
memory).
"""

from dataclasses import dataclass

import numpy as np

from notcher.core.arrays import FloatArray

LOOSE_S, STRAY = 0.022, 0.04  # a player's spread about the grid; the share of onsets that lie on none
USUAL_BPM, SPREAD_OCTAVES = 108.0, 0.45
"""Tempos that solos are counted in, log-normal: two thirds lie between 79 and 148 (common practice, no source)."""
BPM_RANGE = (45.0, 200.0)  # as for beats
ALIKE = 0.35  # onsets of one figure are no independent witnesses
COMPOUND = 2.5  # nats: one solo in a dozen has three to the beat (common practice, no source)
RATIOS = (1 / 3, 1 / 2, 2 / 3, 3 / 4, 1.0, 4 / 3, 3 / 2, 2.0, 3.0)
"""What a beat is mistaken for: its half, double, two thirds, triplets."""
PHASES = 12  # twelfths of a beat: halves, thirds and fourths
IN_TWO: dict[float, float] = {0: 0.45, 6: 0.33, 9: 0.1, 3: 0.07, 1.5: 0.0125, 4.5: 0.0125, 7.5: 0.0125, 10.5: 0.0125}
IN_THREE: dict[float, float] = {0: 0.37, 8: 0.27, 4: 0.23, 6: 0.06, 10: 0.04, 2: 0.03}
"""Shares of the onsets by their place in the beat, in twelfths of it."""
SIMPLE_IN_TWO, COMPOUND_IN_TWO = 0.85, 0.1  # shares of the meters in method books (common practice, no source)


@dataclass(frozen=True, slots=True)
class Pulse:
    """A beat read off a chain of beats: its length and its first beat, in beats of the chain; divided in three or two.

    cost: nats.
    """

    ratio: float
    phase: float
    compound: bool
    cost: float


def pulses(places: FloatArray, period_s: float) -> list[Pulse]:
    """Return the beats that a chain could stand for, the likeliest first.

    places: shape (n,), where each onset lies, in beats of the chain. period_s: seconds of one of them.
    """
    result = []
    for ratio in RATIOS:
        beat_s = ratio * period_s
        if not BPM_RANGE[0] <= 60 / beat_s <= BPM_RANGE[1]:
            continue
        unusual = 0.5 * (np.log2(60 / beat_s / USUAL_BPM) / SPREAD_OCTAVES) ** 2
        for phase in np.arange(PHASES) / PHASES:
            within = places / ratio - phase
            two, three = _by_beat(within, beat_s)
            for compound, share in ((False, SIMPLE_IN_TWO), (True, COMPOUND_IN_TWO)):
                likely = float(np.logaddexp(two + np.log(share), three + np.log(1 - share)).sum())
                cost = unusual + (COMPOUND if compound else 0.0) - ALIKE * likely
                result.append(Pulse(ratio, float(phase * ratio), compound, float(cost)))
    return sorted(result, key=lambda pulse: pulse.cost)


def _by_beat(within: FloatArray, beat_s: float) -> tuple[FloatArray, FloatArray]:
    """Log-likelihood of the onsets of each beat, if it is divided in two and if in three."""
    number = np.floor(within + LOOSE_S / beat_s).astype(np.int64)
    number -= number.min(initial=0)
    two, three = np.zeros(int(number.max(initial=0)) + 1), np.zeros(int(number.max(initial=0)) + 1)
    np.add.at(two, number, _density(within, beat_s, IN_TWO))
    np.add.at(three, number, _density(within, beat_s, IN_THREE))
    return two, three


def _density(within: FloatArray, beat_s: float, shares: dict[float, float]) -> FloatArray:
    """Log of how densely onsets lie at places of the beat, for a mean of one a beat."""
    grid, share = np.array(list(shares)) / 12, np.array(list(shares.values()))
    off_s = ((within[:, None] - grid + 0.5) % 1.0 - 0.5) * beat_s
    peaks = np.exp(-0.5 * (off_s / LOOSE_S) ** 2) / (LOOSE_S * np.sqrt(2 * np.pi))
    return np.asarray(np.log(STRAY + (1 - STRAY) * beat_s * (peaks @ share)))
