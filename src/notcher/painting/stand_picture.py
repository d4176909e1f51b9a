"""Draws what stands on a screen two metres away: this line of tab with its playhead, the next, chord, bar and count."""

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QFontMetricsF, QPainter, QPen

from notcher.core.score import Score
from notcher.core.teaching import StandLine, line_at, place_words
from notcher.core.words import USUAL, Naming
from notcher.painting.phrase_picture import HEAD_SHARE, draw_phrase
from notcher.painting.theme import BASE_POINTS, Theme, figure_font, text_font

HEAD, THIS, NEXT, FOOT = 0.13, 0.43, 0.36, 0.08  # of the height
MARGIN = 0.02  # of the width
THIS_FIGURE, NEXT_FIGURE = 0.74, 0.9  # of a lane's height: how high a figure stands in it
FOOT_OF_TWO = 0.26  # of the foot's height, that letters of two lines are high
PLAYHEAD = 2.0  # px at the stand's usual size


def draw_stand(
    painter: QPainter,
    box: QRectF,
    score: Score,
    lines: list[StandLine],
    time_s: float,
    theme: Theme,
    *,
    text: str = "",
    naming: Naming = USUAL,
) -> None:
    """Draw the lines at a time into a box. lines: see `stand_lines`. text: what stands at the foot."""
    painter.save()
    painter.fillRect(box, theme.color("panel"))
    width, height = box.width(), box.height()
    left, room = box.left() + MARGIN * width, (1 - 2 * MARGIN) * width
    if not lines:
        painter.setPen(theme.color("ink"))
        painter.setFont(text_font(height / 26 / 1.33 / BASE_POINTS * 1.0))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, "There are no notes yet.")
        painter.restore()
        return
    at = line_at(lines, time_s)
    line = lines[at]
    _draw_head(painter, QRectF(left, box.top(), room, HEAD * height), score, line, time_s, theme)
    top = box.top() + HEAD * height
    _draw_line(painter, QRectF(left, top, room, THIS * height), score, line, theme, naming, figure=THIS_FIGURE,
               cursor_s=time_s)  # fmt: skip
    top += THIS * height
    painter.setPen(QPen(theme.color("hairline"), 2))
    painter.drawLine(round(left), round(top), round(left + room), round(top))
    if at + 1 < len(lines):
        _draw_line(painter, QRectF(left, top, room, NEXT * height), score, lines[at + 1], theme, naming,
                   figure=NEXT_FIGURE)  # fmt: skip
    top += NEXT * height
    painter.setPen(theme.color("soft_ink"))
    font = text_font(_scale(0.36 * FOOT * height))
    if QFontMetricsF(font).horizontalAdvance(text) > room:  # in two lines
        font = text_font(_scale(FOOT_OF_TWO * FOOT * height))
    painter.setFont(font)
    foot = QRectF(left, top, room, FOOT * height)
    painter.drawText(foot, int(Qt.AlignmentFlag.AlignVCenter | Qt.TextFlag.TextWordWrap), text)
    painter.restore()


def _scale(height_px: float) -> float:
    """The text size at which letters are about so high, pixels."""
    return height_px / (BASE_POINTS * 96 / 72 * 0.72)


def _draw_head(painter: QPainter, box: QRectF, score: Score, line: StandLine, time_s: float, theme: Theme) -> None:
    """The phrase on the left, the chord in the middle, bar and count on the right."""
    chord, bar, beat = place_words(score, time_s)
    name = line.phrase.name if line.phrase is not None else ""
    if line.count > 1:
        name += f" {line.number}/{line.count}"
    painter.setPen(theme.color("ink"))
    font = text_font(_scale(0.32 * box.height()), bold=True)
    painter.setFont(font)
    third = QRectF(box.left(), box.top(), 0.36 * box.width(), box.height())
    words = QFontMetricsF(font).elidedText(name, Qt.TextElideMode.ElideRight, third.width())
    painter.drawText(third, Qt.AlignmentFlag.AlignVCenter, words)
    painter.setFont(text_font(_scale(0.5 * box.height()), bold=True))
    painter.setPen(theme.color("accent"))
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, chord)
    if bar:
        painter.setPen(theme.color("ink"))
        painter.setFont(figure_font(_scale(0.32 * box.height())))
        right = QRectF(box.right() - 0.36 * box.width(), box.top(), 0.36 * box.width(), box.height())
        painter.drawText(right, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, f"{bar}   {beat}")


def _draw_line(painter: QPainter, box: QRectF, score: Score, line: StandLine, theme: Theme, naming: Naming,
               *, figure: float, cursor_s: float | None = None) -> None:  # fmt: skip
    lane = box.height() * (1 - HEAD_SHARE) / score.tuning.strings
    onsets_s = [score.notes[at].onset_s for at in score.notes_between(line.start_s, line.end_s)]
    draw_phrase(
        painter, box, score, theme, scale=_scale(figure * lane) / 0.86, span_s=(line.start_s, line.end_s),
        onsets_s=onsets_s, naming=naming, cursor_wide=PLAYHEAD,
        cursor_s=cursor_s if cursor_s is not None and line.start_s <= cursor_s < line.end_s else None,
    )  # fmt: skip
