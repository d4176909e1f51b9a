"""A player's own time: where notes came, smoothed, and where that runs away from the tempo practised.

W. Cleveland, "Robust locally weighted regression and smoothing scatterplots", JASA 74, 1979.
"""

from dataclasses import dataclass

import numpy as np

from notcher.core.arrays import FloatArray

FLOW_S, LEAST_ANCHORS = 2.5, 4  # about a bar; fewer tell no tempo
SAG_SHARE, SAG_LONG_S = 0.06, 1.2  # one in sixteen is felt; for two beats at least
PRIOR = 0.04  # s², of the belief that time passes as practised


@dataclass(frozen=True, slots=True)
class Drift:
    """A stretch in which the tempo went away from the one practised; times in the recording, change -0.1 is slower."""

    start_s: float
    end_s: float
    change: float


class Flow:
    """The player's own time: a locally weighted line through (due, came).

    Without enough notes it is the beat itself.
    """

    def __init__(self, due_s: FloatArray, came_s: FloatArray, begin_s: float | None) -> None:
        self.due_s, self.came_s = due_s, came_s
        self.known = due_s.size >= LEAST_ANCHORS
        self.weights = np.ones(due_s.size)
        self._begin_s = begin_s
        if self.known:  # twice reweighted: a note far out of the flow does not bend it (Cleveland's bisquare)
            for _ in range(2):
                off = came_s - np.array([self._fit(float(due))[0] for due in due_s])
                scale = 6 * max(float(np.median(np.abs(off))), 0.004)
                self.weights = np.clip(1 - (off / scale) ** 2, 0, None) ** 2

    @property
    def begin_s(self) -> float:
        """When the stretch began: as it was due, or as far as the notes tell."""
        if self._begin_s is not None:
            return self._begin_s
        return float(np.median(self.came_s - self.due_s)) if self.due_s.size else 0.0

    def at(self, due_s: float) -> float:
        """Return when the player would play what is due."""
        return self._fit(due_s)[0] if self.known else self.begin_s + due_s

    def slope(self, due_s: float) -> float:
        """Return seconds played for a second due: above 1 is slower than practised."""
        return self._fit(due_s)[1] if self.known else 1.0

    def _fit(self, due_s: float) -> tuple[float, float]:
        apart = np.abs(self.due_s - due_s)
        reach = max(FLOW_S, float(np.partition(apart, LEAST_ANCHORS - 1)[LEAST_ANCHORS - 1]) * 1.3)
        weight = np.clip(1 - (apart / reach) ** 3, 0, None) ** 3 * self.weights
        if np.count_nonzero(weight > 1e-6) < 3:
            weight = np.clip(1 - (apart / (2 * reach)) ** 3, 1e-3, None)
        total = float(weight.sum())
        mean_due_s, mean_came_s = float(weight @ self.due_s) / total, float(weight @ self.came_s) / total
        spread = float(weight @ (self.due_s - mean_due_s) ** 2)
        # a prior that time passes as practised: a handful of close notes cannot tell a tempo
        prior = PRIOR * total
        tilt = float(weight @ ((self.due_s - mean_due_s) * (self.came_s - mean_came_s))) + prior
        slope = float(np.clip(tilt / (spread + prior), 0.5, 2.0))
        return mean_came_s + slope * (due_s - mean_due_s), slope


def drifts_of(flow: Flow, start_s: float, pace: float) -> tuple[Drift, ...]:
    """Return where the flow ran slower or faster than practised by more than `SAG_SHARE` for a while."""
    if not flow.known:
        return ()
    grid = np.arange(float(flow.due_s[0]), float(flow.due_s[-1]), 0.1)
    change = np.array([1 / flow.slope(float(due)) - 1 for due in grid])
    drifts = []
    for sign in (-1, 1):
        inside = np.concatenate([[False], sign * change > SAG_SHARE, [False]])
        edges = np.flatnonzero(np.diff(inside.astype(int)))
        for first, last in zip(edges[::2], edges[1::2], strict=True):
            if (last - first) * 0.1 >= SAG_LONG_S:
                worst = float(change[first:last][np.argmax(np.abs(change[first:last]))])
                span = [start_s + float(grid[at]) * pace for at in (first, last - 1)]
                drifts.append(Drift(span[0], span[1], round(worst, 3)))
    return tuple(sorted(drifts, key=lambda drift: drift.start_s))
