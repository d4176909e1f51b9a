"""How bends landed: one row for each written size, one mark for each bend, flat on the left, sharp on the right."""

from collections.abc import Callable

from PyQt6.QtCore import QLineF, QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QFontMetricsF, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QWidget

from notcher.core.proving import LANDED_CENTS, histogram
from notcher.core.words import USUAL, Naming, bend_name
from notcher.painting.theme import PAPER, Theme, figure_font, text_font

REACH_CENTS, TICK_CENTS = 90.0, 30  # nearly a half step each way; the ticks are 30 cents, which is heard as flat


class LandingView(QWidget):
    """A histogram in cents for each size; the band in the middle is what listeners accept."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._landed: dict[float, tuple[float, ...]] = {}
        self._naming = USUAL
        self._theme, self._scale = PAPER, 1.0
        self.setMinimumSize(240, 110)
        self.setAccessibleName("How bends landed, in cents")

    def sizeHint(self) -> QSize:
        return QSize(380, 190)

    def set_naming(self, naming: Naming) -> None:
        self._naming = naming
        self.update()

    def show_theme(self, theme: Theme, scale: float) -> None:
        self._theme, self._scale = theme, scale
        self.update()

    def show_landings(self, landed: dict[float, tuple[float, ...]]) -> None:
        """landed: cents off the written size, by its semitones; flat is negative."""
        self._landed = landed
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter, theme, scale = QPainter(self), self._theme, self._scale
        painter.fillRect(self.rect(), theme.color("panel"))
        painter.setFont(text_font(scale, size=0.92))
        if not self._landed:
            painter.setPen(theme.color("soft_ink"))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, "No bends were heard in this stretch.")
            return
        small = figure_font(scale, size=0.8)
        line = QFontMetricsF(small).height()
        box = QRectF(52 * scale, 8 * scale, self.width() - 66 * scale, self.height() - 2 * line - 12 * scale)

        def x(cents: float) -> float:
            return box.center().x() + cents / REACH_CENTS * box.width() / 2

        good = QRectF(x(-LANDED_CENTS), box.top(), x(LANDED_CENTS) - x(-LANDED_CENTS), box.height())
        painter.fillRect(good, theme.color("good", 40))
        painter.setFont(small)
        for cents in range(-int(REACH_CENTS), int(REACH_CENTS) + 1, TICK_CENTS):
            painter.setPen(QPen(theme.color("line" if cents == 0 else "hairline"), 1))
            painter.drawLine(QLineF(x(cents), box.top(), x(cents), box.bottom()))
            painter.setPen(theme.color("soft_ink"))
            label = QRectF(x(cents) - 30 * scale, box.bottom() + 2, 60 * scale, line)
            painter.drawText(label, Qt.AlignmentFlag.AlignCenter, f"{cents:+d}" if cents else "0")
        foot = QRectF(box.left(), box.bottom() + line + 2, box.width(), line)
        painter.drawText(foot, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, "flat, cents")
        painter.drawText(foot, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, "sharp, cents")
        self._paint_rows(painter, box, x)

    def _paint_rows(self, painter: QPainter, box: QRectF, x: Callable[[float], float]) -> None:
        """Wedges stand on each row's line, one upon the other where several landed alike."""
        theme, scale = self._theme, self._scale
        height = box.height() / len(self._landed)
        for number, (size, cents) in enumerate(self._landed.items()):
            base = box.top() + (number + 1) * height - 3
            painter.setPen(QPen(theme.color("hairline"), 1))
            painter.drawLine(QLineF(box.left(), base, box.right(), base))
            painter.setPen(theme.color("ink"))
            painter.setFont(text_font(scale, bold=True))
            name = QRectF(0, base - height, box.left() - 8 * scale, height)
            painter.drawText(
                name, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, bend_name(size, self._naming)
            )
            edges, counts = histogram(cents, reach_cents=REACH_CENTS)
            rise = min(15 * scale, (height - 6) / max(1, int(counts.max())))
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(theme.color("measured"))
            for edge, following, count in zip(edges, edges[1:], counts, strict=False):
                at = x(min(REACH_CENTS, max(-REACH_CENTS, float(edge + following) / 2)))
                for level in range(int(count)):
                    foot = base - level * rise
                    tip = QPointF(at, foot - 0.85 * rise)
                    half = 0.42 * rise
                    painter.drawPolygon(QPolygonF([QPointF(at - half, foot), QPointF(at + half, foot), tip]))
