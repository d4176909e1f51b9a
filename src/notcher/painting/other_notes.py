"""Draws over the tab what a variant has otherwise than the original: what is left out, and what is another note now."""

from dataclasses import dataclass

from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt
from PyQt6.QtGui import QFontMetricsF, QPainter, QPen, QPolygonF

from notcher.core.score import Note
from notcher.core.teaching import OtherNote
from notcher.painting.tab_frame import TabFrame
from notcher.painting.tab_picture import tag_size, tag_text
from notcher.painting.theme import Theme, text_font

MARK_PX, GONE_SIZE = 5.0, 0.78  # px; what is gone is drawn smaller than what is there


@dataclass(frozen=True, slots=True)
class Shown:
    """The variant in view: its name, from when to when its phrase lasts, and what it has otherwise."""

    name: str
    start_s: float
    end_s: float
    others: tuple[OtherNote, ...]


def draw_others(painter: QPainter, frame: TabFrame, shown: Shown, theme: Theme) -> None:
    """Draw a corner at every note that is another, the original's fret struck through where it was, and the name."""
    painter.save()
    painter.setClipRect(QRectF(frame.left, frame.header, frame.width - frame.left, frame.height - frame.header))
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    free: dict[int, float] = {}  # of each string, from where on a figure has room
    for other in shown.others:
        removed_notes = other.before
        if other.after is not None:
            width, _ = tag_size(frame, tag_text(other.after))
            free[other.after.string] = frame.x(other.after.onset_s) + width + 2
            _draw_mark(painter, frame, other.after, theme)
        if removed_notes is not None and (other.after is None or _place(removed_notes) != _place(other.after)):
            free[removed_notes.string] = _draw_gone(
                painter, frame, removed_notes, free.get(removed_notes.string, -1e9), theme
            )
    _draw_name(painter, frame, shown, theme)
    painter.restore()


def _place(note: Note) -> tuple[int, int]:
    return note.string, note.fret


def _draw_gone(painter: QPainter, frame: TabFrame, note: Note, free: float, theme: Theme) -> float:
    """The original's fret, small and struck through, under its string; only the stroke where it has no room.

    Returns: from where on the next has room.
    """
    font = text_font(frame.scale, size=GONE_SIZE)
    metrics = QFontMetricsF(font)
    text = tag_text(note)
    width, height = metrics.horizontalAdvance(text) + 4, metrics.capHeight() + 5
    left, top = frame.x(note.onset_s), frame.y(note.string) + 0.12 * frame.lane_height
    painter.setPen(QPen(theme.color("doubt"), 1.4))
    painter.drawLine(QLineF(left, top + height, left + min(width, 8 * frame.scale), top))
    if left < free:
        return free
    painter.setFont(font)
    painter.setPen(theme.color("soft_ink"))
    painter.drawText(QRectF(left, top, width, height), Qt.AlignmentFlag.AlignCenter, text)
    painter.setPen(QPen(theme.color("doubt"), 1.2))
    painter.drawLine(QLineF(left, top + height / 2, left + width, top + height / 2))
    return left + width + 2


def _draw_mark(painter: QPainter, frame: TabFrame, note: Note, theme: Theme) -> None:
    """A filled corner over a note that is not the original's."""
    width, height = tag_size(frame, tag_text(note))
    size = MARK_PX * frame.scale
    x, y = frame.x(note.onset_s) + width, frame.y(note.string) - height / 2
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(theme.color("accent"))
    corner = QPointF(x + 1, y - 1)
    painter.drawPolygon(QPolygonF([corner, corner - QPointF(1.6 * size, 0), corner + QPointF(0, 1.6 * size)]))


def _draw_name(painter: QPainter, frame: TabFrame, shown: Shown, theme: Theme) -> None:
    """A plate under the counts over the phrase: which variant this is."""
    left, right = max(frame.x(shown.start_s), frame.left), min(frame.x(shown.end_s), frame.width)
    if right - left < 20:
        return
    font = text_font(frame.scale, size=0.85, bold=True)
    metrics = QFontMetricsF(font)
    words = metrics.elidedText(shown.name, Qt.TextElideMode.ElideRight, right - left - 12)
    top = frame.header + 2
    plate = QRectF(left, top, metrics.horizontalAdvance(words) + 12, metrics.height() + 2)
    painter.setPen(QPen(theme.color("accent"), 2))
    painter.drawLine(QLineF(left, top, right, top))
    painter.fillRect(plate, theme.color("accent"))
    painter.setFont(font)
    painter.setPen(theme.color("on_accent"))
    painter.drawText(plate, Qt.AlignmentFlag.AlignCenter, words)
