"""The whole recording in one strip: loudness, phrases, doubts, the loop, the part in view, the playhead."""

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QFontMetricsF, QImage, QMouseEvent, QPainter, QPaintEvent, QPen, QPixmap, QPolygonF, QWheelEvent
from PyQt6.QtWidgets import QSizePolicy, QWidget

from notcher.core.score import EMPTY_SCORE, Score
from notcher.core.sound import Overview
from notcher.painting.theme import PAPER, Theme, text_font

DRAG_PX = 4  # the hand moves so far in a click
SHORTEST_LOOP_S = 0.06  # one fast note
LEAST_SHOWN_S, ZOOM, STEP_SHARE = 2.0, 1.25, 0.2  # a few notes; three steps double it; of what is shown, a key moves


class ReelStrip(QWidget):
    """Loudness, phrases as blocks, doubts as ticks, the loop, the part in view, the playhead."""

    seek_requested = pyqtSignal(float)
    loop_requested = pyqtSignal(float, float)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._overview: Overview | None = None
        self._rate, self._length_s = 1, 0.0
        self._score: Score = EMPTY_SCORE
        self._marks: dict[str, str] = {}
        self._theme, self._scale = PAPER, 1.0
        self._loop: tuple[float, float] | None = None
        self._view_s = (0.0, 0.0)
        self._playhead_s = 0.0
        self._pressed_x: float | None = None
        self._dragged = False
        self._picture: QPixmap | None = None
        self._shown_s: tuple[float, float] | None = None
        self.setToolTip("The wheel zooms, with Shift it goes along; a double click shows all.")
        self.setMinimumHeight(92)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("Reel: the whole recording")

    def show_sound(self, overview: Overview | None, sample_rate: int, length_s: float) -> None:
        self._overview, self._rate, self._length_s = overview, sample_rate, length_s
        self._shown_s = None
        self._drop()

    def show_score(self, score: Score) -> None:
        self._score = score
        last_s = max((note.offset_s for note in score.notes), default=0.0)
        self._length_s = max(self._length_s, last_s)
        self._drop()

    def show_marks(self, marks: dict[str, str]) -> None:
        """marks: a letter for each phrase that is like another one, by its id."""
        self._marks = marks
        self._drop()

    def show_theme(self, theme: Theme, scale: float) -> None:
        self._theme, self._scale = theme, scale
        self.setFixedHeight(round(64 + 30 * scale))
        self._drop()

    def show_loop(self, span: tuple[float, float] | None) -> None:
        self._loop = span
        self.update()

    def show_view(self, start_s: float, end_s: float) -> None:
        self._view_s = (start_s, end_s)
        self.update()

    def show_playhead(self, time_s: float) -> None:
        self._playhead_s = time_s
        start_s, end_s = self.shown_s
        if self._shown_s is not None and not start_s <= time_s <= end_s:  # it has run out of the part in view
            self._show(time_s - 0.1 * (end_s - start_s), end_s - start_s)
        self.update()

    @property
    def shown_s(self) -> tuple[float, float]:
        """The part of the recording that is shown: all of it, until it is zoomed."""
        return (0.0, max(self._length_s, 1e-6)) if self._shown_s is None else self._shown_s

    def _show(self, start_s: float, span_s: float) -> None:
        """Show a part, or all where that has room."""
        span_s = max(span_s, LEAST_SHOWN_S)
        if span_s >= self._length_s:
            self._shown_s = None
        else:
            start_s = min(max(start_s, 0.0), self._length_s - span_s)
            self._shown_s = (start_s, start_s + span_s)
        self._drop()

    def _drop(self) -> None:
        self._picture = None
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(900, 92)

    def _x(self, time_s: float) -> float:
        start_s, end_s = self.shown_s
        return (time_s - start_s) / (end_s - start_s) * self.width()

    def _time(self, x: float) -> float:
        start_s, end_s = self.shown_s
        return start_s + float(np.clip(x / max(1, self.width()), 0, 1)) * (end_s - start_s)

    # --- painting ---
    def paintEvent(self, event: QPaintEvent) -> None:
        if self._picture is None or self._picture.size() != self.size():
            self._picture = QPixmap(self.size())
            painter = QPainter(self._picture)
            self._paint_still(painter)
            painter.end()
        painter = QPainter(self)
        painter.drawPixmap(0, 0, self._picture)
        if self._length_s <= 0:
            return
        theme = self._theme
        left, right = (self._x(time_s) for time_s in self._view_s)
        painter.setPen(QPen(theme.color("soft_ink"), 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(QRectF(left, self._top, right - left, self.height() - self._top - 2))
        if self._loop is not None:
            left, right = (self._x(time_s) for time_s in self._loop)
            painter.fillRect(QRectF(left, 0, right - left, self.height()), theme.color("accent", 45))
            painter.setPen(QPen(theme.color("accent"), 2))
            painter.drawLine(QPointF(left, 0), QPointF(left, self.height()))
            painter.drawLine(QPointF(right, 0), QPointF(right, self.height()))
        x = self._x(self._playhead_s)
        painter.setPen(QPen(theme.color("accent"), 2))
        painter.drawLine(QPointF(x, 0), QPointF(x, self.height()))

    @property
    def _top(self) -> float:
        return 24 * self._scale

    def _paint_still(self, painter: QPainter) -> None:
        theme = self._theme
        painter.fillRect(self.rect(), theme.color("panel"))
        if self._length_s <= 0:
            painter.setPen(theme.color("soft_ink"))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, "The recording lies here, from end to end.")
            return
        self._paint_sound(painter)
        self._paint_phrases(painter)
        self._paint_doubts(painter)

    def _paint_sound(self, painter: QPainter) -> None:
        """A silhouette, as an image made from a mask: long paths are slow."""
        top, height = int(self._top), int(self.height() - self._top - 4)
        if self._overview is None or height < 4:
            return
        start_s, end_s = self.shown_s
        low, high = self._overview.columns(start_s * self._rate, end_s * self._rate, self.width())
        loud = np.maximum(np.abs(low), np.abs(high))
        loud = np.sqrt(loud / max(float(loud.max()), 1e-6))  # quiet passages stay visible
        rows = np.abs(np.arange(height)[:, None] - height / 2 + 0.5)
        mask = rows <= np.maximum(loud[None, :] * height / 2, 0.5)
        pixels = np.where(mask, self._theme.color("claim", 200).rgba(), 0).astype(np.uint32)
        pixels = np.ascontiguousarray(pixels)
        image = QImage(pixels.data, self.width(), height, 4 * self.width(), QImage.Format.Format_ARGB32)  # type: ignore[call-overload]
        painter.drawImage(0, top, image)

    def _paint_phrases(self, painter: QPainter) -> None:
        theme = self._theme
        font = text_font(self._scale, size=0.85)
        painter.setFont(font)
        metrics = QFontMetricsF(font)
        for number, phrase in enumerate(self._score.phrases):
            left, right = self._x(phrase.start_s), self._x(phrase.end_s)
            if right < 0 or left > self.width():
                continue
            left = max(left, -1.0)  # the name of a phrase that began earlier stays in view
            block = QRectF(left + 1, 2, max(2.0, right - left - 2), self._top - 6)
            painter.fillRect(block, theme.color("lane" if number % 2 else "hairline"))
            mark = self._marks.get(phrase.id, "")
            room = metrics.horizontalAdvance(mark) + 8 if mark and block.width() > 22 * self._scale else 0.0
            name = metrics.elidedText(phrase.name, Qt.TextElideMode.ElideRight, block.width() - 8 - room)
            painter.setPen(theme.color("ink"))
            painter.drawText(block.adjusted(5, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, name)
            if room:
                ring = QRectF(block.right() - room, block.top() + 1, room - 2, block.height() - 2)
                painter.fillRect(ring, theme.color("panel"))
                painter.drawText(ring, Qt.AlignmentFlag.AlignCenter, mark)

    def _paint_doubts(self, painter: QPainter) -> None:
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self._theme.color("doubt"))
        for note in self._score.notes:
            if note.doubt:
                x, y = self._x(note.onset_s), self.height() - 1
                painter.drawPolygon(QPolygonF([QPointF(x - 3, y), QPointF(x + 3, y), QPointF(x, y - 7)]))

    # --- pointing ---
    def wheelEvent(self, event: QWheelEvent) -> None:
        """Zoom around the pointer; with Shift, or sideways, go along the recording."""
        start_s, end_s = self.shown_s
        turn, span_s = event.angleDelta(), end_s - start_s
        if event.modifiers() & Qt.KeyboardModifier.ShiftModifier or not turn.y():
            self._show(start_s - (turn.y() + turn.x()) / 120 * STEP_SHARE * span_s, span_s)
        else:
            at_s = self._time(event.position().x())
            closer_s = span_s * ZOOM ** (-turn.y() / 120)
            self._show(at_s - (at_s - start_s) / span_s * closer_s, closer_s)
        event.accept()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        """Show all of it again."""
        self._show(0.0, self._length_s)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton and self._length_s > 0:
            self._pressed_x, self._dragged = event.position().x(), False

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._pressed_x is None:
            return
        x = event.position().x()
        if self._dragged or abs(x - self._pressed_x) > DRAG_PX:
            self._dragged = True
            start_s, end_s = sorted((self._time(self._pressed_x), self._time(x)))
            if end_s - start_s > SHORTEST_LOOP_S:
                self.loop_requested.emit(start_s, end_s)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._pressed_x is not None and not self._dragged:
            time_s = self._time(event.position().x())
            phrase = self._score.phrase_at(time_s)
            if event.position().y() < self._top and phrase is not None:
                self.loop_requested.emit(phrase.start_s, phrase.end_s)
            else:
                self.seek_requested.emit(time_s)
        self._pressed_x = None
