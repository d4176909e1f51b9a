"""One note's claim and what the recording did, laid over each other on a ruler of cents and frets."""

from collections.abc import Callable

import numpy as np
from PyQt6.QtCore import QLineF, QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QFontMetricsF, QPainter, QPaintEvent, QPen, QWheelEvent
from PyQt6.QtWidgets import QWidget

from notcher.core.hearing import Evidence
from notcher.core.proving import Finding, where_they_part
from notcher.core.score import Note
from notcher.core.words import seconds
from notcher.painting.tab_frame import draw_unbroken, polygon
from notcher.painting.theme import PAPER, Theme, figure_font, text_font

AROUND_S = 0.12  # shown before and after the note, to see whence it comes
LEAST_SEMITONES, SPARE_SEMITONES = 1.0, 0.6  # a half step fills the height; room over the highest point
NEAR_SEMITONES = 8.0  # two bends of the largest size
WHEEL_ZOOM, WIDER = 1.2, (0.25, 4.0)  # a notch of the wheel; how far it goes
LEAP_SEMITONES = 0.7  # more between two frames is another note: no line is drawn across
CLAIM_PX = 9.0  # wide enough to show on both sides of the measured line
LEAST_CENTS = 10.0  # listeners accept a bend that lands within it (common practice, no source)

NOTHING = Evidence(np.zeros(0), np.zeros(0))

Scale = Callable[[np.ndarray | float], np.ndarray]


class CurveRuler(QWidget):
    """Draws; is given a note, the evidence under it and what is said of it."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._note: Note | None = None
        self._finding: Finding | None = None
        self._under, self._wider = NOTHING, 1.0  # how much more is shown than what has to be
        self._theme, self._scale = PAPER, 1.0
        self.setMinimumSize(280, 150)
        self.setAccessibleName("Claimed and measured pitch of the note, in cents")

    def sizeHint(self) -> QSize:
        return QSize(520, 300)

    def show_theme(self, theme: Theme, scale: float) -> None:
        self._theme, self._scale = theme, scale
        self.update()

    def show_note(self, note: Note | None, finding: Finding | None, under: Evidence | None) -> None:
        """under: what was measured around the note."""
        if note is None or self._note is None or note.id != self._note.id:
            self._wider = 1.0
        self._note, self._finding, self._under = note, finding, under or NOTHING
        self.update()

    def wheelEvent(self, event: QWheelEvent) -> None:
        """Show fewer or more cents, until another note is shown."""
        self._wider = float(np.clip(self._wider * WHEEL_ZOOM ** (-event.angleDelta().y() / 120), *WIDER))
        self.update()
        event.accept()

    # --- geometry ---
    def _span(self, note: Note) -> tuple[float, float]:
        """Lowest and highest semitone in view: all that is claimed, and what was measured near it."""
        inside = (self._under.times_s >= 0) & (self._under.times_s <= note.duration_s)
        semitones = self._under.semitones[inside]
        near = semitones[np.abs(semitones) < NEAR_SEMITONES]
        if 2 * near.size >= np.isfinite(semitones).sum():  # else the fret itself is far off
            semitones = near
        semitones = semitones[np.isfinite(semitones)]
        claimed = [bend for _, bend in note.curve.points] + [0.0]
        low = min([*claimed, float(np.percentile(semitones, 2)) if semitones.size else 0.0])
        high = max([*claimed, float(np.percentile(semitones, 98)) if semitones.size else 0.0])
        middle, reach = (low + high) / 2, max(high - low, LEAST_SEMITONES) / 2 + SPARE_SEMITONES
        return middle - reach * self._wider, middle + reach * self._wider

    def paintEvent(self, event: QPaintEvent) -> None:
        painter, theme, note = QPainter(self), self._theme, self._note
        painter.fillRect(self.rect(), theme.color("panel"))
        if note is None:
            painter.setPen(theme.color("soft_ink"))
            painter.drawText(
                self.rect(), Qt.AlignmentFlag.AlignCenter, "Choose a row to see what is written and what was measured."
            )
            return
        scale = self._scale
        box = QRectF(74 * scale, 8 * scale, self.width() - 130 * scale, self.height() - 34 * scale)
        low, high = self._span(note)
        start_s, end_s = -AROUND_S, note.duration_s + AROUND_S

        def x(time_s: np.ndarray | float) -> np.ndarray:
            return box.left() + (np.asarray(time_s) - start_s) / (end_s - start_s) * box.width()

        def y(semitones: np.ndarray | float) -> np.ndarray:
            return box.bottom() - (np.asarray(semitones) - low) / (high - low) * box.height()

        self._paint_ruler(painter, note, box, low, high, y)
        self._paint_time(painter, box, note, x)
        painter.save()
        painter.setClipRect(box)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        times_s = np.linspace(0, note.duration_s, max(2, int(box.width() / 2)))
        pen = QPen(theme.color("claim", 130), CLAIM_PX * scale)
        pen.setCapStyle(Qt.PenCapStyle.FlatCap)
        painter.setPen(pen)
        painter.drawPolyline(polygon(x(times_s), y(note.deviation_at(times_s))))
        painter.setPen(QPen(theme.color("measured"), 1.8 * scale))
        breaks = ~(np.abs(np.diff(self._under.semitones)) < LEAP_SEMITONES)
        if self._under.times_s.size > 1:
            draw_unbroken(painter, x(self._under.times_s), y(self._under.semitones), breaks=breaks, shortest=3)
        painter.restore()
        self._paint_gap(painter, box, x, y)

    def _paint_ruler(self, painter: QPainter, note: Note, box: QRectF, low: float, high: float, y: Scale) -> None:
        """A line at each fret with its cents on the left and what it sounds like on the right; ticks of 20 cents."""
        theme, scale = self._theme, self._scale
        font = figure_font(scale, size=0.82)
        painter.setFont(font)
        height = QFontMetricsF(font).height()
        room = float(y(0.0) - y(1.0))
        every = 1 if room > 1.1 * height else 2 if room > 0.55 * height else 4
        for semitone in range(int(np.ceil(low)), int(np.floor(high)) + 1):
            at = float(y(float(semitone)))
            painter.setPen(QPen(theme.color("line" if semitone == 0 else "hairline"), 1))
            painter.drawLine(QLineF(box.left(), at, box.right(), at))
            if semitone % every == 0:
                painter.setPen(theme.color("ink" if semitone == 0 else "soft_ink"))
                left = QRectF(0, at - height / 2, box.left() - 12 * scale, height)
                cents = f"{100 * semitone:+d} cents" if semitone else "0 cents"
                painter.drawText(left, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, cents)
                fret = note.fret + semitone
                if fret >= 0:
                    right = QRectF(box.right() + 6 * scale, at - height / 2, 50 * scale, height)
                    painter.drawText(right, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, f"fret {fret}")
        painter.setPen(QPen(theme.color("line"), 1))
        if room / 5 > 3:
            ticks = np.arange(np.ceil(low * 5), np.floor(high * 5) + 1) / 5
            painter.drawLines([QLineF(box.left() - 5 * scale, float(y(t)), box.left(), float(y(t))) for t in ticks])  # type: ignore[call-overload]

    def _paint_time(self, painter: QPainter, box: QRectF, note: Note, x: Scale) -> None:
        """Where the note begins and ends, and how long it is."""
        theme, scale = self._theme, self._scale
        painter.setPen(QPen(theme.color("line"), 1, Qt.PenStyle.DashLine))
        for time_s in (0.0, note.duration_s):
            at = float(x(time_s))
            painter.drawLine(QLineF(at, box.top(), at, box.bottom()))
        painter.setPen(theme.color("soft_ink"))
        painter.setFont(figure_font(scale, size=0.82))
        words = f"{seconds(note.onset_s)}, {note.duration_s * 1000:.0f} ms long"
        foot = QRectF(float(x(0.0)), box.bottom() + 4, box.right() - float(x(0.0)) + 40 * scale, 22 * scale)
        painter.drawText(foot, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, words)

    def _paint_gap(self, painter: QPainter, box: QRectF, x: Scale, y: Scale) -> None:
        """Where curve and claim part the furthest: the distance as a bracket with its cents."""
        finding, theme, scale = self._finding, self._theme, self._scale
        parting = where_they_part(self._note, self._under) if finding is not None and self._note is not None else None
        if parting is None or abs(parting.cents) < LEAST_CENTS:
            return
        claimed, measured = (float(y(semitones)) for semitones in (parting.claimed, parting.measured))
        if not (box.top() <= measured <= box.bottom()):
            return
        at = float(x(parting.time_s))
        painter.setPen(QPen(theme.color("doubt"), 2))
        painter.drawLines(  # type: ignore[call-overload]
            [
                QLineF(at, claimed, at, measured),
                QLineF(at - 5, claimed, at + 5, claimed),
                QLineF(at - 5, measured, at + 5, measured),
            ]
        )
        painter.setFont(text_font(scale, bold=True))
        words = f"{parting.cents:+.0f} cents"
        width = QFontMetricsF(painter.font()).horizontalAdvance(words) + 8
        left = at + 10 * scale if at + 10 * scale + width < box.right() else at - 10 * scale - width
        label = QRectF(left, (claimed + measured) / 2 - 10 * scale, width, 20 * scale)
        painter.fillRect(label, theme.color("panel", 215))
        painter.drawText(QPointF(label.left() + 4, label.bottom() - 5 * scale), words)
