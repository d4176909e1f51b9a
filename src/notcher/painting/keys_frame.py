"""The frame of a painted view that has the keys, so that it is seen which has them."""

from PyQt6.QtCore import QRect, Qt
from PyQt6.QtGui import QPainter, QPen

from notcher.painting.theme import Theme

WIDTH_PX = 2  # seen from a chair, and hides nothing


def draw_keys_frame(painter: QPainter, view: QRect, theme: Theme) -> None:
    """Draw the frame just inside a view."""
    painter.setPen(QPen(theme.color("accent"), WIDTH_PX))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawRect(view.adjusted(1, 1, -1, -1))
