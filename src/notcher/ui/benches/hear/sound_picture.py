"""The sound that is analysed, as a picture, with the pitch that was found in it and the hints that were given."""

from typing import Any

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QImage, QMouseEvent, QPainter, QPaintEvent, QPen, QWheelEvent
from PyQt6.QtWidgets import QSizePolicy, QWidget

from notcher.core.arrays import FloatArray
from notcher.core.hearing import EMPTY_TRACK, Hint, PitchTrack
from notcher.core.sound import Spectrogram
from notcher.core.sound.spectrogram import HIGHEST_MIDI, LOWEST_MIDI
from notcher.core.words import USUAL, Naming, clock, note_name, seconds
from notcher.painting.tab_frame import draw_unbroken
from notcher.painting.theme import PAPER, Theme, figure_font

TIME_STEPS_S = (0.1, 0.2, 0.5, 1.0, 2.0, 5.0, 10.0, 30.0, 60.0, 120.0)
WHEEL_ZOOM, WHEEL_SHARE = 1.2, 0.12  # a notch of the wheel: so much larger; so much of what is in view
CLICK_PX = 6  # the hand moves so far in a click
CLICK_HINT = (0.12, 0.8)
"""A clicked note is a hint of so many seconds and semitones to each side."""


class SoundPicture(QWidget):
    """Pitch up, time across: the sound that is listened to, and the lead's pitch that was found in it.

    A drag draws a hint of where the lead is, a click with Ctrl points at one note; a bare click asks for the playhead.
    """

    hint_drawn = pyqtSignal(object)
    pan_requested = pyqtSignal(float)  # by so many seconds
    zoom_requested = pyqtSignal(float, float)  # by this factor, around a time
    seek_requested = pyqtSignal(float)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._spectrogram: Spectrogram | None = None
        self._track: PitchTrack = EMPTY_TRACK
        self._midi: FloatArray = np.zeros(0)
        self._span_s = (0.0, 10.0)
        self._playhead_s = 0.0
        self._theme, self._scale = PAPER, 1.0
        self._naming = USUAL
        self._image: QImage | None = None
        self._hints: tuple[Hint, ...] = ()
        self._pressed: QPointF | None = None
        self._dragged: QPointF | None = None
        self.setMinimumSize(300, 200)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("Sound and pitch heard")

    def show_sound(self, picture: Spectrogram | None) -> None:
        self._spectrogram, self._image = picture, None
        self.update()

    def show_track(self, track: PitchTrack) -> None:
        self._track, self._midi = track, track.midi
        self.update()

    def show_hints(self, hints: tuple[Hint, ...]) -> None:
        self._hints = hints
        self.update()

    def show_span(self, start_s: float, end_s: float) -> None:
        self._span_s = (start_s, max(end_s, start_s + 0.1))
        self._say_span()
        self.update()

    def show_playhead(self, time_s: float) -> None:
        self._playhead_s = time_s
        self.update()

    def _say_span(self) -> None:
        """Put into words what is in view, for those who cannot see it."""
        start, end = (clock(time_s, self._naming) for time_s in self._span_s)
        self.setAccessibleDescription(f"{start} to {end} of the recording, and the pitch that was followed in it.")

    def set_naming(self, naming: Naming) -> None:
        self._naming = naming
        self.update()

    def show_theme(self, theme: Theme, scale: float) -> None:
        self._theme, self._scale, self._image = theme, scale, None
        self.update()

    @property
    def _left(self) -> float:
        return 44 * self._scale

    def _x(self, time_s: Any) -> Any:
        """Pixels of a time, or of an array of times."""
        start, end = self._span_s
        return self._left + (time_s - start) / (end - start) * (self.width() - self._left)

    def _y(self, midi: FloatArray | float) -> FloatArray:
        return np.asarray(self._foot - (midi - LOWEST_MIDI) / (HIGHEST_MIDI - LOWEST_MIDI) * self._foot)

    @property
    def _foot(self) -> float:
        """Where the picture ends and the scale of time begins."""
        return self.height() - 18 * self._scale

    def _time(self, x: float) -> float:
        start, end = self._span_s
        return float(start + (x - self._left) / (self.width() - self._left) * (end - start))

    def _hint_between(self, a: QPointF, b: QPointF) -> Hint | None:
        """The hint that a drag or click stands for; None outside the recording's pitches."""
        times = sorted(self._time(point.x()) for point in (a, b))
        pitch = sorted(HIGHEST_MIDI - point.y() / self._foot * (HIGHEST_MIDI - LOWEST_MIDI) for point in (a, b))
        if (a - b).manhattanLength() < CLICK_PX:
            times = [times[0] - CLICK_HINT[0], times[1] + CLICK_HINT[0]]
            pitch = [pitch[0] - CLICK_HINT[1], pitch[1] + CLICK_HINT[1]]
        times = [max(0.0, time_s) for time_s in times]
        return Hint(*times, *pitch) if times[1] - times[0] > 0.02 and pitch[1] - pitch[0] > 0.2 else None

    def wheelEvent(self, event: QWheelEvent) -> None:
        """Scroll through the time; with Ctrl held zoom around the pointer."""
        delta = event.angleDelta()
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.zoom_requested.emit(WHEEL_ZOOM ** (delta.y() / 120), self._time(event.position().x()))
        else:
            start_s, end_s = self._span_s
            self.pan_requested.emit(-WHEEL_SHARE * (delta.y() + delta.x()) / 120 * (end_s - start_s))
        event.accept()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() is Qt.MouseButton.LeftButton and event.position().x() > self._left:
            self._pressed = self._dragged = event.position()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._pressed is not None:
            self._dragged = event.position()
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._pressed is not None:
            pressed, self._pressed, self._dragged = self._pressed, None, None
            self.update()
            bare = not event.modifiers() & Qt.KeyboardModifier.ControlModifier
            if bare and (pressed - event.position()).manhattanLength() < CLICK_PX:
                self.seek_requested.emit(max(0.0, self._time(pressed.x())))
                return
            hint = self._hint_between(pressed, event.position())
            if hint is not None:
                self.hint_drawn.emit(hint)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter, theme = QPainter(self), self._theme
        painter.fillRect(self.rect(), theme.color("panel"))
        if self._spectrogram is None:
            painter.setPen(theme.color("soft_ink"))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, "Open a recording to see what it holds.")
            return
        self._paint_sound(painter)
        painter.setClipRect(QRectF(self._left, 0, self.width(), self._foot))
        self._paint_pitch(painter)
        self._paint_hints(painter)
        painter.setPen(QPen(theme.color("accent"), 1.5))
        x = self._x(self._playhead_s)
        painter.drawLine(QPointF(x, 0), QPointF(x, self.height()))
        painter.setClipping(False)
        self._paint_names(painter)
        self._paint_times(painter)

    def _paint_times(self, painter: QPainter) -> None:
        """Seconds along the foot."""
        start, end = self._span_s
        painter.setFont(figure_font(self._scale, size=0.8))
        room = 56 * self._scale
        apart_s = next(
            (step for step in TIME_STEPS_S if float(self._x(start + step)) - self._left >= room), TIME_STEPS_S[-1]
        )
        for time_s in np.arange(np.ceil(start / apart_s) * apart_s, end, apart_s).tolist():
            x = float(self._x(time_s))
            painter.setPen(QPen(self._theme.color("line"), 1))
            painter.drawLine(QPointF(x, self._foot), QPointF(x, self._foot + 4))
            painter.setPen(self._theme.color("soft_ink"))
            text = seconds(time_s, 1 if apart_s < 1 else 0, self._naming)
            painter.drawText(QPointF(x + 3, self.height() - 5 * self._scale), text)

    def _paint_sound(self, painter: QPainter) -> None:
        if self._image is None:
            self._image = self._drawn()
        hop_s = self._spectrogram.hop_s if self._spectrogram is not None else 1.0
        start, end = (time_s / hop_s for time_s in self._span_s)
        source = QRectF(start, 0, end - start, self._image.height())
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.drawImage(QRectF(self._left, 0, self.width() - self._left, self._foot), self._image, source)

    def _drawn(self) -> QImage:
        """Shades of the theme's ink on its panel."""
        shade = (
            self._spectrogram.shade[::-1].astype(np.float32) ** 1.6
            if self._spectrogram is not None
            else np.zeros((1, 1))
        )
        ground, ink = self._theme.color("panel"), self._theme.color("claim")
        table = [
            QColor(
                *(round(a + (b - a) * i / 255) for a, b in zip(ground.getRgb()[:3], ink.getRgb()[:3], strict=True))
            ).rgb()
            for i in range(256)
        ]
        indices = np.ascontiguousarray((shade * 255).astype(np.uint8))
        height, width = indices.shape
        image: QImage = QImage(indices.data, width, height, width, QImage.Format.Format_Indexed8)  # type: ignore[call-overload]
        image.setColorTable(table)
        return image.convertToFormat(QImage.Format.Format_RGB32)

    def _paint_pitch(self, painter: QPainter) -> None:
        frames = self._track.span(*self._span_s)
        midi = self._midi[frames]
        if midi.size == 0:
            return
        x = self._x(self._track.times_s[frames])
        painter.setPen(QPen(self._theme.color("measured"), 2))
        draw_unbroken(painter, x, self._y(midi), breaks=np.isnan(np.diff(midi)), shortest=2)

    def _paint_hints(self, painter: QPainter) -> None:
        painter.setPen(QPen(self._theme.color("accent"), 1.5, Qt.PenStyle.DashLine))
        for hint in self._hints:
            top, bottom = float(self._y(hint.high_midi)), float(self._y(hint.low_midi))
            left, right = self._x(hint.start_s), self._x(hint.end_s)
            painter.drawRect(QRectF(left, top, right - left, bottom - top))
        if self._pressed is not None and self._dragged is not None:
            painter.drawRect(QRectF(self._pressed, self._dragged).normalized())

    def _paint_names(self, painter: QPainter) -> None:
        painter.setFont(figure_font(self._scale, size=0.8))
        for midi in range(36, int(HIGHEST_MIDI), 12):
            for step, name in ((step, note_name(midi + step, self._naming)) for step in (0, 4, 7)):
                y = float(self._y(midi + step))
                painter.setPen(QPen(self._theme.color("hairline"), 1))
                painter.drawLine(QPointF(self._left - 4, y), QPointF(self._left, y))
                painter.setPen(self._theme.color("soft_ink"))
                box = QRectF(0, y - 8 * self._scale, self._left - 7, 16 * self._scale)
                painter.drawText(box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, name)
