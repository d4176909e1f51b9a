"""Draws the hours that solos took beside the hours they were estimated to take, one row each."""

from collections.abc import Sequence

from PyQt6.QtCore import QLineF, QRectF, Qt
from PyQt6.QtGui import QFontMetricsF, QPainter, QPen

from notcher.core.teaching import Done
from notcher.core.words import USUAL, Naming, hours
from notcher.painting.theme import Theme, figure_font, text_font

ROW_PX, NAME_SHARE, VALUE_PX = 26.0, 0.26, 128.0  # px, of the width, px


def hours_height(count: int, scale: float) -> float:
    """Return how much room so many rows take, pixels."""
    return (count + 1.4) * ROW_PX * scale


def draw_hours(
    painter: QPainter, box: QRectF, rows: Sequence[Done], theme: Theme, *, scale: float = 1.0, naming: Naming = USUAL
) -> None:
    """Draw one row a solo: a full bar for the hours it took, an upright stroke where the estimate lay."""
    painter.save()
    painter.setClipRect(box)
    left, most = (
        box.left() + NAME_SHARE * box.width(),
        max((max(row.estimated_h, row.spent_h) for row in rows), default=1),
    )
    width = box.width() - (left - box.left()) - VALUE_PX * scale
    text, small = text_font(scale), figure_font(scale, size=0.85)
    head = QRectF(left, box.top(), box.width(), ROW_PX * scale)
    painter.setFont(text_font(scale, size=0.9))
    painter.setPen(theme.color("soft_ink"))
    painter.drawText(head, Qt.AlignmentFlag.AlignVCenter, "bar: the hours it took; stroke: the estimate")
    for number, row in enumerate(rows):
        top = box.top() + (number + 1.2) * ROW_PX * scale
        line = QRectF(box.left(), top, box.width(), ROW_PX * scale)
        painter.setFont(text)
        painter.setPen(theme.color("ink"))
        name = QRectF(box.left() + 4, top, left - box.left() - 14, ROW_PX * scale)
        words = QFontMetricsF(text).elidedText(row.request.title, Qt.TextElideMode.ElideRight, name.width())
        painter.drawText(name, Qt.AlignmentFlag.AlignVCenter, words)
        bar = QRectF(left, line.center().y() - 6 * scale, row.spent_h / most * width, 12 * scale)
        painter.fillRect(bar, theme.color("claim"))
        at = left + row.estimated_h / most * width
        painter.setPen(QPen(theme.color("ink"), 2.5 * scale))
        painter.drawLine(QLineF(at, line.top() + 4, at, line.bottom() - 4))
        painter.setFont(small)
        painter.setPen(theme.color("ink"))
        qrect_f = QRectF(left + width + 10, top, VALUE_PX * scale - 12, ROW_PX * scale)
        painter.drawText(
            qrect_f, Qt.AlignmentFlag.AlignVCenter, f"{hours(row.spent_h, naming)} of {hours(row.estimated_h, naming)}"
        )
    painter.restore()
