"""A line of columns once they have their places."""

from collections.abc import Sequence

import numpy as np

from notcher.core.sheets.column import Column
from notcher.core.sheets.engraver import Engraver


class SheetLine:
    """What is known of a line while it is drawn: its columns and where they stand, when each of them sounds."""

    def __init__(
        self, engraver: Engraver, columns: Sequence[Column], xs: Sequence[float], begin: float, end: float
    ) -> None:
        self.engraver, self.columns, self.xs, self.begin, self.end = engraver, columns, xs, begin, end
        sounding = [(column, x) for column, x in zip(columns, xs, strict=True) if column.pieces or column.folded]
        self.times_s = [column.time_s for column, _ in sounding]
        self.sounding_x = [x for _, x in sounding]
        last = columns[-1]
        if last.line and self.times_s and last.time_s > self.times_s[-1]:
            self.times_s.append(last.time_s)
            self.sounding_x.append(xs[-1])

    def x_at(self, time_s: float) -> float:
        """Across at a time, between the columns around it."""
        return float(np.interp(time_s, self.times_s, self.sounding_x)) if self.times_s else self.begin

    def free_until(self, at: int) -> float:
        """Up to where nothing stands behind a column."""
        gap = 0.6 * self.engraver.style.gap
        if at + 1 < len(self.columns):
            return self.xs[at + 1] - self.columns[at + 1].left - gap
        return self.end - gap

    def begin_of(self, at: int) -> float:
        return self.xs[at] - self.columns[at].left
