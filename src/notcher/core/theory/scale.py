"""Scales as steps over their root, and which of them a line of notes is likely in."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from itertools import product

import numpy as np

from notcher.core.arrays import FloatArray

STEPS: dict[str, tuple[int, ...]] = {
    "major": (0, 2, 4, 5, 7, 9, 11),
    "natural minor": (0, 2, 3, 5, 7, 8, 10),
    "harmonic minor": (0, 2, 3, 5, 7, 8, 11),
    "melodic minor": (0, 2, 3, 5, 7, 9, 11),
    "dorian": (0, 2, 3, 5, 7, 9, 10),
    "phrygian": (0, 1, 3, 5, 7, 8, 10),
    "lydian": (0, 2, 4, 6, 7, 9, 11),
    "mixolydian": (0, 2, 4, 5, 7, 9, 10),
    "locrian": (0, 1, 3, 5, 6, 8, 10),
    "major pentatonic": (0, 2, 4, 7, 9),
    "minor pentatonic": (0, 3, 5, 7, 10),
    "blues": (0, 3, 5, 6, 7, 10),
    "half-whole": (0, 1, 3, 4, 6, 7, 9, 10),
    "whole-half": (0, 2, 3, 5, 6, 8, 9, 11),
    "whole tone": (0, 2, 4, 6, 8, 10),
}
"""Semitones over the root, by the names of `score.SCALES`."""
USUAL: dict[str, float] = {
    "minor pentatonic": 0.2, "major": 0.16, "natural minor": 0.16, "blues": 0.1, "dorian": 0.08, "mixolydian": 0.08,
    "major pentatonic": 0.08, "harmonic minor": 0.05, "phrygian": 0.02, "lydian": 0.02, "melodic minor": 0.02,
    "half-whole": 0.01, "whole-half": 0.01, "whole tone": 0.01, "locrian": 0.003,
}  # fmt: skip
"""How often a lead is in each, before a note is heard (common practice, no source)."""
OUTSIDE = 0.08  # of the notes of a solo lie outside its scale (common practice, no source)
OF_ROOT, OF_FIFTH, OF_THIRD = 2.0, 1.4, 1.2  # how much oftener than the others (common practice, no source)
LONG_S = 0.5  # a note of this length and more counts one, a shorter one its part: what passes tells less


@dataclass(frozen=True, slots=True)
class LikelyScale:
    """A scale that a line may be in. tonic: its root as a pitch class, C = 0. weight: 0..1, of all scales' one."""

    tonic: int
    scale: str
    weight: float

    @property
    def pitch_classes(self) -> frozenset[int]:
        return frozenset((self.tonic + step) % 12 for step in STEPS[self.scale])


def likely_scales(midi: Sequence[float], seconds: Sequence[float]) -> list[LikelyScale]:
    """Rank all scales on all roots for a line of notes, the likeliest first; nothing for no note.

    midi: what each note reaches, rounded to semitones. seconds: how long each lasts.
    Source: D. Temperley, "Music and Probability", 2007, ch. 6: each pitch class is drawn out of the key's profile, and
    by Bayes' rule the likeliest key is the one that makes the line likeliest (from memory; the profiles are ours).
    """
    if not len(midi):
        return []
    counts = np.bincount(
        np.rint(np.asarray(midi)).astype(np.int64) % 12, np.minimum(seconds, LONG_S) / LONG_S, minlength=12
    )
    keys, profiles, usual = _keys()
    nats = profiles @ counts + usual
    weights = np.exp(nats - nats.max())
    weights /= weights.sum()
    ranked = np.argsort(-weights, kind="stable").tolist()
    return [LikelyScale(keys[at][0], keys[at][1], float(weights[at])) for at in ranked]


@lru_cache(maxsize=1)
def _keys() -> tuple[list[tuple[int, str]], FloatArray, FloatArray]:
    """Every scale on every root, the logs of its profile, shape (n_keys, 12), and of how usual it is, (n_keys,)."""
    keys = list(product(range(12), STEPS))
    profiles = np.log([_profile(tonic, scale) for tonic, scale in keys])
    return keys, profiles, np.log([USUAL[scale] for _, scale in keys])


def _profile(tonic: int, scale: str) -> FloatArray:
    """How likely each pitch class is in a key; shape (12,), C first, sums to one."""
    steps = np.array(STEPS[scale])
    share = np.ones(steps.size)
    share[steps == 0], share[steps == 7] = OF_ROOT, OF_FIFTH
    share[(steps == 3) | (steps == 4)] = OF_THIRD
    result = np.full(12, OUTSIDE / (12 - steps.size))
    result[(tonic + steps) % 12] = (1 - OUTSIDE) * share / share.sum()
    return result
