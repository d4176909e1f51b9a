"""The mirror: what is played now, drawn over the written curve of the stretch that goes round."""

from collections.abc import Callable, Sequence

import numpy as np
from PyQt6.QtCore import QLineF, QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QWidget

from notcher.core.proving import LANDED_CENTS
from notcher.core.score import EMPTY_SCORE, Score
from notcher.core.teaching import BendGym, Mirror, limen_cents, target_midi
from notcher.core.words import USUAL, Naming, bend_said, fret_said, note_name, note_said
from notcher.painting.theme import PAPER, Theme, text_font

AROUND = 1.6  # semitones over and under what is written
STEP_S = 0.01  # of the target curve: finer than a pixel
GAP_S, LEAP = 0.06, 2.5  # a longer silence, or a leap of so many semitones, breaks the line
LEAST_POINTS = 4  # of a line: less is a pick's noise
SHOWN_S = 3.0  # of what was played lately, in the gym


class MirrorView(QWidget):
    """Draws; knows no device."""

    def __init__(self, mirror: Mirror, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.mirror = mirror
        self.gym: BendGym | None = None
        self._score: Score = EMPTY_SCORE
        self._span_s = (0.0, 1.0)
        self._theme, self._scale, self._naming = PAPER, 1.0, USUAL
        self.place = (2, 12)
        self.setMinimumSize(300, 160)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("What is played over what is written")

    def sizeHint(self) -> QSize:
        return QSize(820, 320)

    def show_theme(self, theme: Theme, scale: float) -> None:
        self._theme, self._scale = theme, scale
        self.update()

    def set_naming(self, naming: Naming) -> None:
        self._naming = naming
        self.update()

    def show_stretch(self, score: Score, span_s: tuple[float, float]) -> None:
        self._score, self._span_s = score, span_s
        self.update()

    def show_gym(self, gym: BendGym | None, place: tuple[int, int] = (2, 12)) -> None:
        self.gym, self.place = gym, place
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter, theme = QPainter(self), self._theme
        painter.fillRect(self.rect(), theme.color("panel"))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        head = QRectF(12, 6, self.width() - 24, 64 * self._scale)
        box = QRectF(12, head.bottom(), self.width() - 24, self.height() - head.bottom() - 34 * self._scale)
        if self.gym is not None:
            self._draw_gym(painter, box)
        else:
            self._draw_written(painter, box)
        self._draw_words(painter, head)
        self._draw_foot(painter, QRectF(12, box.bottom() + 4, self.width() - 24, 28 * self._scale))

    # --- the stretch ---
    def _draw_written(self, painter: QPainter, box: QRectF) -> None:
        score, (start_s, end_s), theme = self._score, self._span_s, self._theme
        notes = [score.notes[at] for at in score.notes_between(start_s, end_s)]
        if not notes:
            return
        tops = [max(target_midi(score, note), score.sounding_midi(note)) for note in notes]
        low = min(score.sounding_midi(note) for note in notes) - AROUND
        high = max(tops) + AROUND

        def x(time_s: float) -> float:
            return box.left() + (time_s - start_s) / max(1e-6, end_s - start_s) * box.width()

        def y(midi: float) -> float:
            return box.bottom() - (midi - low) / (high - low) * box.height()

        pitches = sorted({round(score.sounding_midi(note)) for note in notes})
        self._draw_axis(painter, box, [(y(float(midi)), note_name(midi, self._naming)) for midi in pitches])
        band = max(3.0, abs(y(0.0) - y(2 * LANDED_CENTS / 100)))
        pen = QPen(theme.color("claim", 120), band)
        pen.setCapStyle(Qt.PenCapStyle.FlatCap)
        painter.setPen(pen)
        for note in notes:
            times = np.arange(0.0, note.offset_s - note.onset_s, STEP_S)
            curve = score.sounding_midi(note) + note.curve.at(times)
            painter.drawPolyline(QPolygonF([QPointF(x(note.onset_s + at), y(float(midi))) for at, midi in
                                            zip(times, curve, strict=True)]))  # fmt: skip
        painter.setPen(theme.color("soft_ink"))
        painter.setFont(text_font(self._scale))
        for note in notes:
            at = QPointF(x(note.onset_s) - 4, y(score.sounding_midi(note)) + band / 2 + 16 * self._scale)
            painter.drawText(at, f"{note.fret}")
        painter.setPen(QPen(theme.color("measured"), 2.2 * self._scale))
        self._draw_trace(painter, x, y, since_s=start_s - 1.0, fold=(low - 4, high + 4))
        if self.mirror.trace:
            now = x(self.mirror.trace[-1][0])
            painter.setPen(QPen(theme.color("line"), 1))
            painter.drawLine(QLineF(now, box.top(), now, box.bottom()))

    def _draw_axis(self, painter: QPainter, box: QRectF, marks: Sequence[tuple[float, str]]) -> None:
        """Hairlines with what they mean, from below; those without room are left out."""
        theme, height = self._theme, 17 * self._scale
        painter.setFont(text_font(self._scale, size=0.85))
        last = box.bottom() + height
        for at, words in sorted(marks, reverse=True):
            painter.setPen(QPen(theme.color("hairline"), 1))
            painter.drawLine(QLineF(box.left(), at, box.right(), at))
            if last - at >= height:
                last = at
                painter.setPen(theme.color("soft_ink"))
                where = QRectF(box.left(), at - height, 120 * self._scale, height)
                painter.drawText(where, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignBottom, words)

    def _draw_trace(
        self, painter: QPainter, x: Callable[[float], float], y: Callable[[float], float],
        *, since_s: float, fold: tuple[float, float],
    ) -> None:  # fmt: skip
        """The pitch that was played since a time. fold: an octave off is drawn where it is meant."""
        line: list[QPointF] = []
        last_s = last = np.nan
        for time_s, sounded in self.mirror.trace:
            if time_s < since_s:
                continue
            octaves = 0 if np.isnan(sounded) else _octaves_off(sounded, fold)
            midi = sounded - 12 * octaves
            jumps = np.isnan(midi) or time_s - last_s > GAP_S or abs(midi - last) > LEAP
            if jumps and len(line) >= LEAST_POINTS:
                painter.drawPolyline(QPolygonF(line))
            if jumps:
                line = []
            if not np.isnan(midi):
                line.append(QPointF(x(time_s), y(float(midi))))
            last_s, last = time_s, midi
        if len(line) >= LEAST_POINTS:
            painter.drawPolyline(QPolygonF(line))

    # --- the gym ---
    def _draw_gym(self, painter: QPainter, box: QRectF) -> None:
        """A column for the bend that is asked, and the last ten landings beside it."""
        gym, theme = self.gym, self._theme
        if gym is None:
            return
        top = max(gym.size + 1.0, 2.0)

        def y(bent: float) -> float:
            return box.bottom() - (bent + 0.5) / (top + 0.5) * box.height()

        wide = 0.4 * box.width()
        frets = range(int(top) + 1)
        marks = [
            (y(float(bent)), f"fret {self.place[1] + bent}" + (f", +{100 * bent} cents" if bent else ""))
            for bent in frets
        ]
        self._draw_axis(painter, QRectF(box.left(), box.top(), wide, box.height()), marks)
        for bent, role in ((0.0, "line"), (gym.size, "accent")):
            painter.setPen(QPen(theme.color(role), 2))
            painter.drawLine(QLineF(box.left(), y(bent), box.left() + wide, y(bent)))
        good = QRectF(box.left(), y(gym.size + LANDED_CENTS / 100), wide, y(0) - y(2 * LANDED_CENTS / 100))
        painter.fillRect(good, theme.color("good", 60))
        painter.setPen(QPen(theme.color("measured"), 2.2 * self._scale))
        if self.mirror.trace:
            end_s = self.mirror.trace[-1][0]
            painter.setClipRect(box)
            self._draw_trace(
                painter,
                lambda at: box.left() + wide * (1 - (end_s - at) / SHOWN_S),
                lambda midi: y(midi - gym.base_midi),
                since_s=end_s - SHOWN_S,
                fold=(gym.base_midi - 4, gym.base_midi + 8),
            )
            painter.setClipping(False)
        self._draw_landings(painter, QRectF(box.left() + wide + 30, box.top(), box.width() - wide - 30, box.height()))

    def _draw_landings(self, painter: QPainter, box: QRectF) -> None:
        theme, reach = self._theme, 80.0
        painter.fillRect(
            QRectF(box.left(), box.center().y() - LANDED_CENTS / reach * box.height() / 2, box.width(),
                   LANDED_CENTS / reach * box.height()), theme.color("good", 60),
        )  # fmt: skip
        painter.setPen(QPen(theme.color("line"), 1))
        painter.drawLine(QLineF(box.left(), box.center().y(), box.right(), box.center().y()))
        middle, half = box.center().y(), box.height() / 2
        marks = [(middle - cents / reach * half, f"{cents:+d} cents" if cents else "in tune") for cents in (-50, 0, 50)]
        self._draw_axis(painter, box, marks)
        painter.setFont(text_font(self._scale, size=0.9))
        landed = list(self.gym.landed) if self.gym is not None else []
        for number, landing in enumerate(landed):
            at = box.left() + (number + 0.5) / 10 * box.width()
            height = box.center().y() - max(-1.0, min(1.0, landing.cents / reach)) * box.height() / 2
            good = abs(landing.cents) <= LANDED_CENTS
            painter.setPen(QPen(theme.color("ink"), 2))
            painter.setBrush(theme.color("ink") if good else Qt.BrushStyle.NoBrush)
            painter.drawEllipse(QPointF(at, height), 4 * self._scale, 4 * self._scale)
            words = QRectF(at - 26 * self._scale, height + (6 if landing.cents < 0 else -24) * self._scale,
                           52 * self._scale, 18 * self._scale)  # fmt: skip
            painter.drawText(words, Qt.AlignmentFlag.AlignCenter, f"{landing.cents:+.0f}")
            painter.setBrush(Qt.BrushStyle.NoBrush)

    # --- words ---
    def _draw_words(self, painter: QPainter, box: QRectF) -> None:
        theme = self._theme
        painter.setPen(theme.color("ink"))
        painter.setFont(text_font(1.7 * self._scale, bold=True))
        if self.gym is not None:
            string, fret = self.place
            task = f"String {string}, fret {fret_said(fret)}: bend {bend_said(self.gym.size, self._naming)}"
            painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, task)
            return
        off = self.mirror.off_cents(self._score)
        if off is not None:
            note, cents = off
            way = "there" if abs(cents) <= LANDED_CENTS else "flat" if cents < 0 else "sharp"
            width = self.mirror.vibrato_cents
            waves = f", vibrato ±{width:.0f} cents" if width is not None else ""
            painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, f"{cents:+.0f} cents, {way}{waves}")
            painter.setFont(text_font(self._scale))
            painter.setPen(theme.color("soft_ink"))
            right = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight
            painter.drawText(box, right, note_said(note, self._naming))

    def _draw_foot(self, painter: QPainter, box: QRectF) -> None:
        """The tolerance beside what ears can tell."""
        hertz = 440.0
        if self.mirror.trace and not np.isnan(self.mirror.trace[-1][1]):
            hertz = 440.0 * 2 ** ((self.mirror.trace[-1][1] - 69) / 12)
        painter.setFont(text_font(self._scale, size=0.9))
        painter.setPen(self._theme.color("soft_ink"))
        painter.drawText(
            box, Qt.AlignmentFlag.AlignVCenter,
            f"There: within ±{LANDED_CENTS:.0f} cents (common practice); ears tell pure tones "
            f"{limen_cents(hertz):.0f} cents apart here (Wier and others 1977).",
        )  # fmt: skip


def _octaves_off(midi: float, reach: tuple[float, float]) -> int:
    """How many octaves a pitch lies above what can be meant; below it is negative."""
    if midi > reach[1]:
        return int(np.ceil((midi - reach[1]) / 12))
    return -int(np.ceil((reach[0] - midi) / 12)) if midi < reach[0] else 0
