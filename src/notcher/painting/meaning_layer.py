"""Quiet layers over the measured tab: what each note is to its chord, and where licks come again."""

from collections.abc import Sequence
from dataclasses import dataclass

from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt
from PyQt6.QtGui import QFontMetricsF, QPainter, QPen

from notcher.core.neck import ScaleBox
from notcher.core.patterns import Group, Kind, Pattern
from notcher.core.score import Attack, Score
from notcher.core.theory import Role, Target
from notcher.core.words import USUAL, Naming, box_words, group_place_words, lick_words
from notcher.painting.tab_frame import TabFrame
from notcher.painting.tab_picture import tag_size, tag_text
from notcher.painting.theme import Theme, figure_font, text_font

LEAST_PX = 13.0  # of room for a degree
SIGNED = {Attack.HAMMER, Attack.PULL, Attack.TAP, Attack.REPICK, Attack.SWELL}
"""Attacks with a sign under the tag."""


@dataclass(frozen=True, slots=True)
class LickMark:
    """A stretch that is said to be something: from when to when, and the words over it. level: the row it is on."""

    start_s: float
    end_s: float
    words: str
    level: int = 0


def lick_marks(
    score: Score,
    shapes: Sequence[Pattern],
    boxes: dict[str, ScaleBox],
    groups: Sequence[Group] = (),
    *,
    naming: Naming = USUAL,
) -> tuple[LickMark, ...]:
    """Return a bracket for every playing of every shape, for every group, and for each phrase with its box.

    boxes: by the phrase's id. Those that overlap lie on rows of their own.
    """
    spans = [
        (phrase.start_s, phrase.end_s, box_words(boxes[phrase.id])) for phrase in score.phrases if phrase.id in boxes
    ]
    for group in groups:
        notes = score.notes[group.first : group.last + 1]
        words = group_place_words(group, score.tuning, naming)
        spans.append((notes[0].onset_s, max(note.offset_s for note in notes), words))
    for number, shape in enumerate(shapes, start=1):
        turned = shape.kind in (Kind.CELL, Kind.SEQUENCE)
        for playing, occurrence in enumerate(shape.occurrences):
            last = shape.occurrences[-1].last if turned else occurrence.last
            if words := lick_words(number, shape, playing):
                end_s = max(note.offset_s for note in score.notes[occurrence.first : last + 1])
                spans.append((score.notes[occurrence.first].onset_s, end_s, words))
    marks: list[LickMark] = []
    ends_s: list[float] = []  # of each row
    for start_s, end_s, words in sorted(spans):
        level = next((row for row, until_s in enumerate(ends_s) if until_s <= start_s), len(ends_s))
        ends_s[level : level + 1] = [end_s]
        marks.append(LickMark(start_s, end_s, words, level))
    return tuple(marks)


def draw_degrees(painter: QPainter, frame: TabFrame, score: Score, targets: Sequence[Target], theme: Theme) -> None:
    """Draw each degree under its note: a chord tone underlined, one bent into with an arrow, others plain."""
    _over_lanes(painter, frame)
    font = figure_font(frame.scale, size=0.74)
    metrics = QFontMetricsF(font)
    painter.setFont(font)
    last: dict[int, float] = {}
    for target in targets:
        note = score.notes[target.index]
        x = frame.x(note.onset_s) + (15 * frame.scale if note.attack in SIGNED else 1)
        if not frame.left - 40 < x < frame.width or x < last.get(note.string, -1e9):
            continue
        text = f"↗{target.degree}" if target.role is Role.BENT_INTO else target.degree
        width = metrics.horizontalAdvance(text)
        tag_width, tag_height = tag_size(frame, tag_text(note))
        y = frame.y(note.string) + tag_height / 2 + metrics.ascent() + 1
        if y > frame.height - 4:  # under the lowest string there is no room: beside the tag
            x, y = frame.x(note.onset_s) + tag_width + 2 * frame.scale, frame.height - 4
        painter.setPen(theme.color("ink" if target.in_chord else "soft_ink"))
        painter.drawText(QPointF(x, y), text)
        if target.in_chord:
            weight = 2.2 if target.lands_on_change else 1.0
            painter.setPen(QPen(theme.color("ink"), weight))
            painter.drawLine(QLineF(x, y + 2, x + width, y + 2))
        last[note.string] = x + max(width + 2, LEAST_PX * 0.5)
    painter.restore()


def draw_licks(painter: QPainter, frame: TabFrame, marks: Sequence[LickMark], theme: Theme) -> None:
    """Draw brackets along the foot of the tab, each with its words."""
    _over_lanes(painter, frame)
    font = text_font(frame.scale, size=0.82)
    metrics = QFontMetricsF(font)
    painter.setFont(font)
    height = metrics.height() + 3
    for mark in marks:
        left, right = max(frame.x(mark.start_s), frame.left), frame.x(mark.end_s)
        if right < frame.left or left > frame.width:
            continue
        foot = frame.height - 4 - mark.level * height
        words = metrics.elidedText(mark.words, Qt.TextElideMode.ElideRight, max(right - left - 8, 46 * frame.scale))
        plate = QRectF(left, foot - height + 2, metrics.horizontalAdvance(words) + 8, height - 2)
        painter.fillRect(plate, theme.color("panel", 225))
        painter.setPen(QPen(theme.color("accent"), 1.4))
        painter.drawLine(QLineF(left, foot - height + 2, left, foot))
        painter.drawLine(QLineF(left, foot, right, foot))
        painter.drawLine(QLineF(right, foot - 5, right, foot))
        painter.setPen(theme.color("ink"))
        painter.drawText(plate.adjusted(4, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, words)
    painter.restore()


def _over_lanes(painter: QPainter, frame: TabFrame) -> None:
    """Begin to draw over the lanes only; whoever calls it restores the painter."""
    painter.save()
    painter.setClipRect(QRectF(frame.left, frame.header, frame.width - frame.left, frame.height - frame.header))
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
