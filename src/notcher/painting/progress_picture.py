"""Draws how a student comes on with one phrase: every pass, what was clean on each day, when full tempo is likely."""

from collections.abc import Callable
from datetime import date, timedelta

from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt
from PyQt6.QtGui import QFontMetricsF, QPainter, QPainterPath, QPen

from notcher.core.proving import Result
from notcher.core.teaching import Progress, gap_days
from notcher.core.words import USUAL, Naming, day_words, figure
from notcher.painting.theme import Theme, figure_font, text_font

LOWEST, HIGHEST = 0.35, 1.2  # paces at the foot and at the top
LINES = (0.5, 0.75, 1.0)  # of full tempo
AHEAD_SHARE, LEAST_AHEAD = 1.0, 28  # of the days so far, that are drawn of what is to come; days
LEAST_DAYS = 14  # across, so that two days of practice do not look like a slope


def draw_progress(
    painter: QPainter,
    box: QRectF,
    progress: Progress,
    title: str,
    theme: Theme,
    *,
    scale: float = 1.0,
    framed: bool = False,
    naming: Naming = USUAL,
) -> None:
    """Draw one phrase's progress into a box. framed: it is the chosen one."""
    painter.save()
    painter.setClipRect(box.adjusted(-1, -1, 1, 1))
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(QPen(theme.color("accent" if framed else "hairline"), 2 if framed else 1))
    painter.setBrush(theme.color("panel"))
    painter.drawRect(box)
    bold, small = text_font(scale, bold=True), figure_font(scale, size=0.78)
    line = QFontMetricsF(small).height()
    head = QFontMetricsF(bold).height() + 4 if title else 4
    painter.setFont(bold)
    painter.setPen(theme.color("ink"))
    name = QFontMetricsF(bold).elidedText(title, Qt.TextElideMode.ElideRight, box.width() - 16)
    painter.drawText(QRectF(box.left() + 8, box.top() + 3, box.width() - 16, head), Qt.AlignmentFlag.AlignTop, name)
    painter.setFont(small)
    wide = QFontMetricsF(small).horizontalAdvance("100 %") + 8
    inner = QRectF(box.left() + wide + 6, box.top() + head + 2, box.width() - wide - 16, box.height() - head - line - 8)
    if not progress.days:
        painter.setPen(theme.color("soft_ink"))
        painter.drawText(inner, Qt.AlignmentFlag.AlignCenter, "no pass yet")
        painter.restore()
        return
    first, last = progress.days[0], _last_day(progress)
    span = max(LEAST_DAYS, (last - first).days)

    def x(day: date) -> float:
        return inner.left() + min(1.0, (day - first).days / span) * inner.width()

    def y(pace: float) -> float:
        at = (min(max(pace, LOWEST), HIGHEST) - LOWEST) / (HIGHEST - LOWEST)
        return inner.bottom() - at * inner.height()

    for pace in LINES:
        painter.setPen(QPen(theme.color("line" if pace == 1.0 else "hairline"), 1))
        painter.drawLine(QLineF(inner.left(), y(pace), inner.right(), y(pace)))
        painter.setPen(theme.color("soft_ink"))
        at = QRectF(box.left() + 4, y(pace) - line / 2, wide - 4, line)
        painter.drawText(at, Qt.AlignmentFlag.AlignRight, f"{figure(pace * 100, naming=naming)} %")
    if progress.full_on and (progress.full_on[1] is None or progress.full_on[1] > last):
        words = (
            "full tempo not within 3 years"
            if progress.full_on[1] is None
            else f"full tempo {day_words(progress.full_on[1])} →"
        )
        painter.setPen(theme.color("ink"))
        above = QRectF(inner.left(), y(1.0) - line - 1, inner.width(), line)
        painter.drawText(above, Qt.AlignmentFlag.AlignRight, words)
    _draw_days(painter, progress, x, y, theme, scale)
    _draw_ahead(painter, progress, x, y, theme, scale)
    _draw_passes(painter, progress, x, y, theme, scale)
    painter.setFont(small)
    painter.setPen(theme.color("soft_ink"))
    foot = QRectF(inner.left(), inner.bottom() + 3, inner.width(), line)
    painter.drawText(foot, Qt.AlignmentFlag.AlignLeft, day_words(first))
    until = first + timedelta(days=span)
    if QFontMetricsF(small).horizontalAdvance(day_words(first) + day_words(until)) < inner.width() - 12:
        painter.drawText(foot, Qt.AlignmentFlag.AlignRight, day_words(until))
    painter.restore()


def _last_day(progress: Progress) -> date:
    """The last day that is drawn: the late end of what is foretold, as far as it is not too far."""
    ahead = [day for day in progress.full_on if day is not None]
    so_far = (progress.days[-1] - progress.days[0]).days
    furthest = progress.days[-1] + timedelta(days=max(LEAST_AHEAD, round(AHEAD_SHARE * so_far)))
    return min(max([progress.days[-1], *ahead]), furthest)


def _draw_days(painter: QPainter, progress: Progress, x: Callable[[date], float], y: Callable[[float], float],
               theme: Theme, scale: float) -> None:  # fmt: skip
    """What was clean on each day: a bar over its range, joined through the middle."""
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(theme.color("claim", 70))
    half = 3.5 * scale
    for day, clean in zip(progress.days, progress.clean, strict=True):
        painter.drawRect(QRectF(x(day) - half, y(clean.high), 2 * half, y(clean.low) - y(clean.high)))
    path = QPainterPath()
    for number, (day, clean) in enumerate(zip(progress.days, progress.clean, strict=True)):
        point = QPointF(x(day), y(clean.pace))
        path.lineTo(point) if number else path.moveTo(point)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(theme.color("claim"), 2 * scale))
    painter.drawPath(path)


def _draw_ahead(painter: QPainter, progress: Progress, x: Callable[[date], float], y: Callable[[float], float],
                theme: Theme, scale: float) -> None:  # fmt: skip
    """Where the learning curve leads, and the range of the day on which it reaches full tempo."""
    if progress.course is None or not progress.full_on:
        return
    gap, end = gap_days(progress.days), _last_day(progress)
    path, count = QPainterPath(), len(progress.days)
    path.moveTo(x(progress.days[-1]), y(progress.clean[-1].pace))
    day = progress.days[-1]
    while day < end:
        count += 1
        day = min(end, day + timedelta(days=max(1, round(gap))))
        path.lineTo(x(day), y(min(1.0, progress.course.at(count))))
    painter.setPen(QPen(theme.color("accent"), 1.4 * scale, Qt.PenStyle.DashLine))
    painter.drawPath(path)
    early, middle, late = progress.full_on
    if early is not None and early < end:
        painter.setPen(QPen(theme.color("accent"), 4 * scale))
        painter.drawLine(QLineF(x(min(early, end)), y(1.0), x(min(late or end, end)), y(1.0)))
    if middle is not None and middle <= end:
        painter.setPen(QPen(theme.color("ink"), 2 * scale))
        painter.drawLine(QLineF(x(middle), y(1.0) - 6 * scale, x(middle), y(1.0) + 6 * scale))


def _draw_passes(painter: QPainter, progress: Progress, x: Callable[[date], float], y: Callable[[float], float],
                 theme: Theme, scale: float) -> None:  # fmt: skip
    """How each pace went last on each day, by its form: a full dot clean, a ring shaky, a cross missed."""
    size = 2.8 * scale
    last = {(day, played.pace): played for day, played in progress.passes}  # of several that day at a pace the last
    for (day, pace), played in last.items():
        at = QPointF(x(day), y(pace))
        painter.setBrush(theme.color("ink") if played.result is Result.CLEAN else Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(theme.color("ink"), 1.2 * scale))
        if played.result is Result.MISSED:
            painter.drawLine(QLineF(at.x() - size, at.y() - size, at.x() + size, at.y() + size))
            painter.drawLine(QLineF(at.x() - size, at.y() + size, at.x() + size, at.y() - size))
        else:
            painter.drawEllipse(at, size, size)
