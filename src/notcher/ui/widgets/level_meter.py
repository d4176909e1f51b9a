"""How loud an input is: lamps that light up from the left, the last ones in the colour of a warning."""

from PyQt6.QtCore import QRectF, QSize
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QSizePolicy, QWidget

from notcher.painting.theme import PAPER, Theme

LAMPS, WARNING = 16, 13  # of equal steps; the last three warn
GAP_PX = 3.0  # between lamps


class LevelMeter(QWidget):
    """Lamps, not a bar: nothing here comes to an end."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._level, self._theme = 0.0, PAPER
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)

    def sizeHint(self) -> QSize:
        return QSize(200, 14)

    @property
    def lit(self) -> int:
        """How many lamps are lit."""
        return round(LAMPS * self._level)

    def show_theme(self, theme: Theme) -> None:
        self._theme = theme
        self.update()

    def show_level(self, level: float) -> None:
        """level: 0..1 of full scale."""
        before, self._level = self.lit, min(max(level, 0.0), 1.0)
        if self.lit != before:
            self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter, theme = QPainter(self), self._theme
        width = (self.width() - (LAMPS - 1) * GAP_PX) / LAMPS
        for lamp in range(LAMPS):
            role = "hairline" if lamp >= self.lit else "doubt" if lamp >= WARNING else "good"
            painter.fillRect(QRectF(lamp * (width + GAP_PX), 2, width, self.height() - 4), theme.color(role))
