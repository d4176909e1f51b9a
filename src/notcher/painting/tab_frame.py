"""Where things are on the measured tab: time across, six lanes down, semitones inside a lane."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from PyQt6.QtCore import QPointF, QRectF
from PyQt6.QtGui import QPainter, QPolygonF

TOP_SEMITONES, UNDER_SHARE = 4.7, 0.24  # over a line the widest bend of two steps fits; of a lane for what falls below
LEAST_PX_PER_S, MOST_PX_PER_S = 1.0, 2400.0  # from the whole solo to a single attack


@dataclass(frozen=True)
class TabFrame:
    """Geometry of one view, in pixels; `scale` is the text's. margin: width of the string names; None for the usual."""

    width: float
    height: float
    strings: int = 6
    start_s: float = 0.0
    px_per_s: float = 150.0
    scale: float = 1.0
    margin: float | None = None

    @cached_property
    def left(self) -> float:
        return 66 * self.scale if self.margin is None else self.margin

    @cached_property
    def header(self) -> float:
        return 64 * self.scale

    @property
    def end_s(self) -> float:
        return self.time(self.width)

    @cached_property
    def lane_height(self) -> float:
        return max(10.0, (self.height - self.header) / self.strings)

    def x(self, time_s: float) -> float:
        return self.left + (time_s - self.start_s) * self.px_per_s

    def time(self, x: float) -> float:
        return self.start_s + (x - self.left) / self.px_per_s

    def lane(self, string: int) -> QRectF:
        return QRectF(0, self.header + (string - 1) * self.lane_height, self.width, self.lane_height)

    def y(self, string: int, semitones: float = 0.0) -> float:
        """Height of a deviation in a string's lane; 0 is the string's line."""
        base = self.header + string * self.lane_height - UNDER_SHARE * self.lane_height
        return base - semitones * (1 - UNDER_SHARE) * self.lane_height / TOP_SEMITONES

    def semitones(self, string: int, y: float) -> float:
        """Return the deviation that lies at a height of a string's lane, within what the lane shows."""
        step = self.y(string) - self.y(string, 1.0)
        return float(np.clip((self.y(string) - y) / step, -1.4, TOP_SEMITONES))

    def string_at(self, y: float) -> int:
        return int(np.clip((y - self.header) // self.lane_height + 1, 1, self.strings))


def polygon(x: np.ndarray, y: np.ndarray) -> QPolygonF:
    """Return points as a Qt polygon without a Python loop. x, y: shape (n,), pixels."""
    result = QPolygonF()
    result.fill(QPointF(), x.size)
    if x.size:
        memory = result.data()
        memory.setsize(16 * x.size)
        pairs = np.frombuffer(memory, dtype=np.float64).reshape(-1, 2)  # type: ignore[call-overload]
        pairs[:, 0], pairs[:, 1] = x, y
    return result


def thinned(x: np.ndarray, y: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Keep the lowest and the highest point of each pixel column, in order, so that no extreme vanishes."""
    if x.size < 4 or x.size < 2 * (x[-1] - x[0] + 1):
        return x, y
    edges = np.flatnonzero(np.diff(np.floor(x), prepend=np.floor(x[0]) - 1))
    low, high = np.minimum.reduceat(y, edges), np.maximum.reduceat(y, edges)
    return np.repeat(x[edges], 2), np.column_stack([low, high]).ravel()


def draw_unbroken(painter: QPainter, x: np.ndarray, y: np.ndarray, *, breaks: np.ndarray, shortest: int) -> None:
    """Draw a curve that is left open in places.

    x, y: shape (n,), pixels. breaks: shape (n - 1,), True where a point does not lead to the next. shortest: runs of
    fewer points are left out.
    """
    cuts = np.flatnonzero(breaks) + 1
    for first, last in zip([0, *cuts], [*cuts, x.size], strict=True):
        if last - first >= shortest:
            painter.drawPolyline(polygon(*thinned(x[first:last], y[first:last])))
