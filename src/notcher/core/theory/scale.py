"""Scales as steps over their root."""

import numpy as np

from notcher.core.arrays import FloatArray

MINOR_FIVE = (0, 3, 5, 7, 10)
"""The minor pentatonic scale, semitones over its root (common practice, no source)."""


def fitting_minor_five(weight: FloatArray) -> tuple[int, float]:
    """Return the root of the minor pentatonic scale that fits best, as a pitch class, and the share inside it.

    weight: shape (12,), how much each pitch class sounds, C first. The share is 0..1; 0 when nothing sounds.
    """
    inside = np.array([weight[(root + np.array(MINOR_FIVE)) % 12].sum() for root in range(12)])
    best = int(np.argmax(inside))
    return best, float(inside[best] / max(float(weight.sum()), 1e-9))
