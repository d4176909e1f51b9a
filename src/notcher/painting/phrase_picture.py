"""Draws one phrase small: its strings, its frets where they lie in time, how far each note is bent.

For lists and dialogs, where a phrase is recognised rather than read; serves the screen and the printer.
"""

from collections.abc import Callable, Container, Sequence

import numpy as np
from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt
from PyQt6.QtGui import QFontMetricsF, QPainter, QPen, QPolygonF

from notcher.core.arrays import FloatArray
from notcher.core.score import EDGE_S, TOGETHER_S, Note, Score
from notcher.core.words import USUAL, Naming, bend_name
from notcher.painting.theme import Theme, figure_font

MARGIN, HEAD_SHARE = 8.0, 0.22  # pixels at scale 1; of the height, for what is bent on the highest string
CURVE_SEMITONES = 4.0  # that the room over a string stands for
NEAR_TOP = 0.06  # of a lane: a held bend wanders by so much
LEAST_BEND = 0.25  # semitones; smaller ones are no curve that can be seen
LEAST_ROOM = 0.75  # of an even spacing
FAR = 1.9  # above this scale it is read from afar: strings are drawn to be seen from there
THIN = 4.0  # pixels at scale 1: what is pointed at is a line
SMALLEST = 0.52  # size of a figure that is still read
PLATE_PX = 2  # by which the ground of a figure is larger than it


def draw_phrase(
    painter: QPainter,
    box: QRectF,
    score: Score,
    theme: Theme,
    *,
    scale: float = 1.0,
    span_s: tuple[float, float] | None = None,
    onsets_s: Sequence[float] = (),
    marked: Container[str] = (),
    cursor_s: float | None = None,
    cursor_wide: float = 26.0,
    naming: Naming = USUAL,
) -> None:
    """Draw the notes of a score into a box.

    span_s: from when to when; all of it when None. onsets_s: moments that get room however quick they come, the notes'
    own when there are none; what is drawn by the same lies under each other. marked: ids of notes in a frame.
    cursor_s: a moment that is pointed at, by a band or, where that is thin, a line.
    """
    painter.save()
    painter.setClipRect(box)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    first_s, last_s = span_s or (
        min((note.onset_s for note in score.notes), default=0.0),
        max((note.offset_s for note in score.notes), default=1.0),
    )
    strings = score.tuning.strings
    lane = box.height() * (1 - HEAD_SHARE) / strings
    left, right = box.left() + MARGIN * scale, box.right() - MARGIN * scale

    def y(string: int) -> float:
        return box.top() + box.height() * HEAD_SHARE + (string - 0.5) * lane

    notes = [note for note in score.notes if first_s - EDGE_S <= note.onset_s < last_s]
    times_s, places = spaced(onsets_s or [note.onset_s for note in notes], first_s, last_s)

    def x(time_s: float) -> float:
        return left + float(np.interp(time_s, times_s, places)) * (right - left)

    if cursor_s is not None:
        alpha = 28 if cursor_wide > THIN else 190
        painter.fillRect(
            QRectF(x(cursor_s) - 4 * scale, box.top(), cursor_wide * scale, box.height()), theme.color("accent", alpha)
        )
    painter.setPen(QPen(theme.color("line" if scale > FAR else "hairline"), max(1.0, 0.5 * scale)))
    for string in range(1, strings + 1):
        painter.drawLine(QLineF(left, y(string), right, y(string)))
    size = min(0.86, max(SMALLEST, lane / 13 / scale))
    room = _least_room([(note.string, x(note.onset_s)) for note in notes])
    wide = QFontMetricsF(figure_font(scale, size=size)).horizontalAdvance("24") + 3
    font = figure_font(scale, size=max(SMALLEST, size * min(1.0, room / wide)))
    painter.setFont(font)
    metrics = QFontMetricsF(font)
    tops = [_draw_curve(painter, note, x, y(note.string), lane, theme, scale) for note in notes]
    for note in notes:
        _draw_fret(painter, note, QPointF(x(note.onset_s), y(note.string)), metrics, theme, framed=note.id in marked)
    painter.setPen(theme.color("ink"))
    for note, top in zip(notes, tops, strict=True):  # over the figures, which stand on a ground of their own
        if top is not None:
            over_figures = y(note.string) - metrics.capHeight() / 2 - PLATE_PX  # the next one's may lie beneath
            words = bend_name(note.reading.bend_semitones, naming, fret=note.fret)
            leftmost = max(left, box.right() - metrics.horizontalAdvance(words))
            painter.drawText(QPointF(min(top.x() + 2, leftmost), min(top.y() - 1, over_figures)), words)
    painter.restore()


def _least_room(places: Sequence[tuple[int, float]]) -> float:
    """Pixels from a note to the next one on its string, where that is least."""
    last: dict[int, float] = {}
    room = 1e9
    for string, x in places:
        if string in last:
            room = min(room, x - last[string])
        last[string] = x
    return room


def spaced(onsets_s: Sequence[float], first_s: float, last_s: float) -> tuple[FloatArray, FloatArray]:
    """Moments and where they lie, 0..1: by time, but none closer to the next than a share of an even spacing."""
    inside = sorted({onset_s for onset_s in onsets_s if first_s < onset_s < last_s})
    times_kept = [first_s]
    for onset_s in inside:
        if onset_s - times_kept[-1] > TOGETHER_S:
            times_kept.append(onset_s)
    times_s = np.array([*times_kept, max(last_s, times_kept[-1] + 1e-6)])
    steps = np.diff(times_s)
    widths = np.maximum(steps, LEAST_ROOM * (times_s[-1] - times_s[0]) / steps.size)
    return times_s, np.concatenate([[0.0], np.cumsum(widths) / widths.sum()])


def _draw_curve(
    painter: QPainter,
    note: Note,
    x: Callable[[float], float],
    y: float,
    lane: float,
    theme: Theme,
    scale: float,
) -> QPointF | None:
    """How a note is bent, over its string; return where its size is written, None for one that is not bent."""
    if abs(note.reading.bend_semitones) < LEAST_BEND:
        return None
    rise = 0.9 * lane / CURVE_SEMITONES
    points = [QPointF(x(note.onset_s + time_s), y - bend * rise) for time_s, bend in note.curve.points]
    points.append(QPointF(x(note.offset_s), points[-1].y()))
    painter.setPen(QPen(theme.color("claim"), 1.6 * max(1.0, 0.6 * scale)))
    painter.drawPolyline(QPolygonF(points))
    top_y = min(point.y() for point in points)
    return next(point for point in points if point.y() <= top_y + NEAR_TOP * lane)  # where it arrives


def _draw_fret(
    painter: QPainter, note: Note, at: QPointF, metrics: QFontMetricsF, theme: Theme, *, framed: bool
) -> None:
    text = str(note.fret)
    width, height = metrics.horizontalAdvance(text), metrics.capHeight()
    plate = QRectF(at.x() - 1.5, at.y() - height / 2 - PLATE_PX, width + 3, height + 2 * PLATE_PX)
    painter.fillRect(plate, theme.color("panel"))
    painter.setPen(theme.color("soft_ink" if note.garnish else "ink"))
    painter.drawText(QPointF(at.x(), at.y() + height / 2), text)
    if framed:
        painter.setPen(QPen(theme.color("accent"), 1.4))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(plate.adjusted(-1, -1, 1, 1))
