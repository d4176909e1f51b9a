"""Draws a solo as its shapes: a row for each, its playings where they are in time, joined by what is the same.

Every playing shows its notes as strokes, higher ones higher, so that the same looks the same and what is moved lies
higher or lower. Serves the screen and the printer.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

from PyQt6.QtCore import QBuffer, QIODevice, QLineF, QMarginsF, QPointF, QRectF, Qt
from PyQt6.QtGui import QFontMetricsF, QPageLayout, QPageSize, QPainter, QPainterPath, QPdfWriter, QPen, QPolygonF

from notcher.core.patterns import Kind, Occurrence, Pattern, ProposedLine
from notcher.core.score import Score
from notcher.core.words import many, ordinal, shape_words
from notcher.painting.theme import Theme, figure_font, text_font

ROW, ARC, GAP = 78.0, 18.0, 10.0  # pixels at scale 1
HEAD, LINES, LABEL, LABEL_SHARE = 62.0, 16.0, 330.0, 0.3  # px at 100 %; of the width
LEAST_PX = 5.0  # a mark stays visible


@dataclass(frozen=True)
class ShapesFrame:
    """Where things are. top: the first row in view."""

    width: float
    height: float
    length_s: float
    scale: float = 1.0
    top: int = 0

    @property
    def left(self) -> float:
        return min(LABEL * self.scale, LABEL_SHARE * self.width + 40 * self.scale)

    @property
    def rows(self) -> int:
        """How many rows are in view."""
        return max(1, int((self.height - HEAD * self.scale) // (ROW * self.scale)))

    def x(self, time_s: float) -> float:
        room = self.width - self.left - 14 * self.scale
        return self.left + time_s / max(self.length_s, 1e-6) * room

    def row(self, number: int) -> QRectF:
        top = (HEAD + (number - self.top) * ROW) * self.scale
        return QRectF(0, top, self.width, ROW * self.scale)

    def playing(self, score: Score, number: int, occurrence: Occurrence) -> QRectF:
        """Return where one playing of a row's shape is drawn."""
        row = self.row(number)
        left = self.x(score.notes[occurrence.first].onset_s)
        right = max(self.x(_end_s(score, occurrence)), left + LEAST_PX)
        top = row.top() + (ARC + 2) * self.scale
        return QRectF(left, top, right - left, row.bottom() - top - GAP * self.scale)


def _end_s(score: Score, occurrence: Occurrence) -> float:
    return max(note.offset_s for note in score.notes[occurrence.first : occurrence.last + 1])


def draw_shapes(
    painter: QPainter,
    frame: ShapesFrame,
    score: Score,
    shapes: tuple[Pattern, ...],
    theme: Theme,
    *,
    lines: Sequence[ProposedLine] = (),
    chosen: tuple[int, int] = (-1, -1),
) -> None:
    """Draw the rows that are in view. lines: of the phrases. chosen: a row and a playing in it."""
    painter.fillRect(QRectF(0, 0, frame.width, frame.height), theme.color("ground"))
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    _draw_lines(painter, frame, lines, theme)
    _draw_head(painter, frame, score, theme)
    for number in range(frame.top, min(frame.top + frame.rows + 1, len(shapes))):
        _draw_row(painter, frame, score, number, shapes[number], theme, chosen)


def _draw_lines(painter: QPainter, frame: ShapesFrame, lines: Sequence[ProposedLine], theme: Theme) -> None:
    """A bracket over the phrases of each line, with its number."""
    scale = frame.scale
    font = text_font(scale, size=0.8)
    painter.setFont(font)
    for number, line in enumerate(lines, start=1):
        left, right, y = frame.x(line.start_s), frame.x(line.end_s) - 2, (LINES - 1) * scale
        painter.setPen(QPen(theme.color("line"), 1.2))
        corners = [QPointF(left, y), QPointF(left, 4 * scale), QPointF(right, 4 * scale), QPointF(right, y)]
        painter.drawPolyline(QPolygonF(corners))
        name = f"Line {number}"
        width = QFontMetricsF(font).horizontalAdvance(name) + 6
        name, width = (name, width) if width < right - left - 6 else (str(number), width / 3)
        box = QRectF(left + 6, 0, width, LINES * scale)
        painter.fillRect(box, theme.color("ground"))
        painter.setPen(theme.color("soft_ink"))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, name)


def _draw_head(painter: QPainter, frame: ShapesFrame, score: Score, theme: Theme) -> None:
    """Phrases by their names, and the time."""
    scale = frame.scale
    font = text_font(scale, size=0.85)
    metrics = QFontMetricsF(font)
    painter.setFont(font)
    for number, phrase in enumerate(score.phrases):
        left, right = frame.x(phrase.start_s), frame.x(phrase.end_s)
        box = QRectF(left, (LINES + 3) * scale, max(2.0, right - left - 2), 19 * scale)
        painter.fillRect(box, theme.color("lane" if number % 2 else "hairline"))
        painter.setPen(theme.color("ink"))
        name = metrics.elidedText(phrase.name, Qt.TextElideMode.ElideRight, box.width() - 6)
        if len(name) > 1:
            painter.drawText(box.adjusted(3, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, name)
    small = figure_font(scale, size=0.78)
    painter.setFont(small)
    painter.setPen(theme.color("soft_ink"))
    step_s = next(
        (step for step in (5.0, 10.0, 20.0, 30.0, 60.0, 120.0) if frame.x(step) - frame.x(0.0) > 62 * scale), 300.0
    )
    at_s = 0.0
    while at_s <= frame.length_s:
        x = frame.x(at_s)
        painter.drawLine(QLineF(x, (LINES + 24) * scale, x, (LINES + 28) * scale))
        box = QRectF(x - 40 * scale, (LINES + 27) * scale, 80 * scale, 16 * scale)
        if at_s > 0:
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, f"{int(at_s) // 60}:{int(at_s) % 60:02d}")
        at_s += step_s


def _draw_row(
    painter: QPainter,
    frame: ShapesFrame,
    score: Score,
    number: int,
    shape: Pattern,
    theme: Theme,
    chosen: tuple[int, int],
) -> None:
    row, scale = frame.row(number), frame.scale
    here = number == chosen[0]
    if number % 2 == 0:
        painter.fillRect(row, theme.color("panel"))
    _draw_label(painter, frame, row, number, shape, theme, here=here)
    boxes = [frame.playing(score, number, occurrence) for occurrence in shape.occurrences]
    _draw_threads(painter, row, boxes, theme, hops=shape.kind in (Kind.CELL, Kind.SEQUENCE), scale=scale)
    span = _pitches(score, shape)
    for at, (occurrence, box) in enumerate(zip(shape.occurrences, boxes, strict=True)):
        _draw_playing(painter, frame, score, occurrence, box, span, theme, first=at == 0)
        if here and at == chosen[1]:
            painter.setPen(QPen(theme.color("accent"), 3))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(box.adjusted(-2, -2, 2, 2))


def _draw_label(
    painter: QPainter, frame: ShapesFrame, row: QRectF, number: int, shape: Pattern, theme: Theme, *, here: bool
) -> None:
    scale = frame.scale
    if here:
        painter.fillRect(QRectF(row.left(), row.top(), 4 * scale, row.height()), theme.color("accent"))
    name = "Rhythm" if shape.kind is Kind.RHYTHM else f"{ordinal(number + 1)} lick"
    width = frame.left - 24 * scale
    bold = text_font(scale, bold=True)
    painter.setFont(bold)
    painter.setPen(theme.color("ink"))
    line = QFontMetricsF(bold).height()
    top = row.top() + 5 * scale
    painter.drawText(QRectF(12 * scale, top, width, line), Qt.AlignmentFlag.AlignLeft, name)
    if shape.saves:
        painter.setFont(text_font(scale, size=0.9))
        painter.setPen(theme.color("good"))
        saved = f"saves {many(shape.saves, 'note')}"
        painter.drawText(QRectF(12 * scale, top, width, line), Qt.AlignmentFlag.AlignRight, saved)
    painter.setFont(text_font(scale, size=0.92))
    painter.setPen(theme.color("soft_ink"))
    words = QRectF(12 * scale, top + line + 1, width, row.bottom() - top - line - 3)
    flags = Qt.AlignmentFlag.AlignLeft | Qt.TextFlag.TextWordWrap
    painter.drawText(words, flags, shape_words(shape))


def _draw_threads(
    painter: QPainter, row: QRectF, boxes: list[QRectF], theme: Theme, *, hops: bool, scale: float
) -> None:
    """From the first playing to each other one; of turns from each to the next."""
    painter.setPen(QPen(theme.color("line"), 1.3))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    pairs: Iterable[tuple[QRectF, QRectF]] = pairwise(boxes) if hops else ((boxes[0], other) for other in boxes[1:])
    for rect, other in pairs:
        start, end = QPointF(rect.center().x(), rect.top()), QPointF(other.center().x(), other.top())
        rise = min(ARC * scale, 5 * scale + (end.x() - start.x()) / 12)
        path = QPainterPath(start)
        path.cubicTo(QPointF(start.x(), start.y() - 1.3 * rise), QPointF(end.x(), end.y() - 1.3 * rise), end)
        painter.drawPath(path)


def _pitches(score: Score, shape: Pattern) -> tuple[float, float]:
    midi = [
        score.fretted_midi(score.notes[at])
        for occurrence in shape.occurrences
        for at in range(occurrence.first, occurrence.last + 1)
    ]
    return min(midi), max(midi)


def _draw_playing(
    painter: QPainter,
    frame: ShapesFrame,
    score: Score,
    occurrence: Occurrence,
    box: QRectF,
    span: tuple[float, float],
    theme: Theme,
    *,
    first: bool,
) -> None:
    """Its notes as strokes on a plate: full where it is learned, only an edge where it comes again."""
    painter.fillRect(box, theme.color("claim", 60) if first else theme.color("ground"))
    painter.setPen(QPen(theme.color("line"), 1, Qt.PenStyle.SolidLine if first else Qt.PenStyle.DashLine))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawRect(box)
    low, high = span
    height = box.height() - 10 * frame.scale
    others = set(occurrence.but)
    for at in range(occurrence.first, occurrence.last + 1):
        note = score.notes[at]
        share = (score.fretted_midi(note) - low) / max(high - low, 1.0)
        y = box.bottom() - 5 * frame.scale - share * height
        left = max(box.left(), frame.x(note.onset_s))
        right = max(left + 1.5, min(box.right(), frame.x(note.offset_s)) - 1)
        if at in others:
            painter.setPen(QPen(theme.color("doubt"), 1.2, Qt.PenStyle.DotLine))
            painter.drawRect(QRectF(left, y - 2, max(3.0, right - left), 4))
        else:
            painter.setPen(QPen(theme.color("ink"), 2.4 * frame.scale, Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap))
            painter.drawLine(QLineF(left, y, right, y))


PAGE_DPI, TITLE, WHITE = 96, 34.0, "#ffffff"


def shapes_pdf(
    score: Score, shapes: tuple[Pattern, ...], text: str, theme: Theme, *, lines: Sequence[ProposedLine] = ()
) -> bytes:
    """Return the shapes as a PDF, A4 on its side, as many pages as they take. text: the statement over them."""
    theme = replace(theme, ground=WHITE)  # paper needs no ink for its own colour
    buffer = QBuffer()
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    writer = QPdfWriter(buffer)
    writer.setPageSize(QPageSize(QPageSize.PageSizeId.A4))
    writer.setPageOrientation(QPageLayout.Orientation.Landscape)
    writer.setPageMargins(QMarginsF(12, 12, 12, 12), QPageLayout.Unit.Millimeter)
    writer.setResolution(PAGE_DPI)
    writer.setTitle(f"{score.title or 'Solo'}: shapes")
    painter = QPainter(writer)
    length_s = max((note.offset_s for note in score.notes), default=1.0)
    frame = ShapesFrame(float(writer.width()), writer.height() - TITLE, length_s)
    for top in range(0, max(1, len(shapes)), frame.rows):
        if top:
            writer.newPage()
        painter.resetTransform()
        painter.setFont(text_font(1.0, size=1.6, bold=True))
        painter.setPen(theme.color("ink"))
        heading = f"{score.title}: {text}" if score.title else text
        painter.drawText(QRectF(0, 0, frame.width, TITLE), Qt.AlignmentFlag.AlignVCenter, heading)
        painter.translate(0, TITLE)
        page = replace(frame, top=top)
        draw_shapes(painter, page, score, shapes[: top + frame.rows], theme, lines=lines)
    painter.end()
    return bytes(buffer.data().data())
