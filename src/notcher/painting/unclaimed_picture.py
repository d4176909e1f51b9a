"""Draws sound that no note claims: the measured pitch on the string where it would be written, its fret left open."""

import numpy as np
from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen

from notcher.core.hearing import Measured, Unclaimed, UnclaimedSounds
from notcher.painting.tab_frame import TabFrame, draw_unbroken
from notcher.painting.tab_picture import LEAP_SEMITONES, tag_fit, tag_size
from notcher.painting.theme import Theme, figure_font

LEAST_PX_FOR_TAG = 10.0  # narrower, the tag would hide the sound
MOST_READ = 150  # figures in one view


def unclaimed_rect(frame: TabFrame, sound: Unclaimed) -> QRectF:
    """Return where a stretch is pointed at: its tag and as far as it sounds."""
    width, height = tag_size(frame, str(sound.place.fret))
    left, right = frame.x(sound.start_s), frame.x(sound.end_s)
    return QRectF(left, frame.y(sound.place.string) - height / 2, max(width, right - left), height)


def draw_unclaimed(painter: QPainter, frame: TabFrame, sounds: UnclaimedSounds, theme: Theme) -> None:
    """Draw what is in view."""
    painter.save()
    painter.setClipRect(QRectF(frame.left, frame.header, frame.width - frame.left, frame.height - frame.header))
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    spans_s = sounds.spans_s(frame.start_s, frame.end_s)
    if len(spans_s) > MOST_READ:  # from afar only that there is something
        painter.setPen(QPen(theme.color("measured"), 3))
        y = frame.header + 2
        painter.drawLines([QLineF(frame.x(start_s), y, frame.x(end_s), y) for start_s, end_s in spans_s])  # type: ignore[call-overload]
    else:
        for sound in sounds.between(frame.start_s, frame.end_s):
            _draw_pitch(painter, frame, sound, sounds.measured, theme)
            _draw_open_tag(painter, frame, sound, theme)
    painter.restore()


def _draw_pitch(painter: QPainter, frame: TabFrame, sound: Unclaimed, measured: Measured, theme: Theme) -> None:
    track = measured.tracks[sound.track]
    span = track.span(sound.start_s, sound.end_s)
    off = track.midi_at(span) - measured.offset_cents / 100 - sound.fretted_midi
    off = np.where((off > 4.9) | (off < -1.45), np.nan, off)
    painter.setPen(QPen(theme.color("measured"), 1.6))
    step = frame.y(sound.place.string) - frame.y(sound.place.string, 1.0)
    breaks = ~(np.abs(np.diff(off)) < LEAP_SEMITONES)
    x = frame.x(0.0) + track.times_s[span] * frame.px_per_s
    draw_unbroken(painter, x, frame.y(sound.place.string) - off * step, breaks=breaks, shortest=3)


def _draw_open_tag(painter: QPainter, frame: TabFrame, sound: Unclaimed, theme: Theme) -> None:
    """The fret it would have, on a plate of which only the edge is drawn, broken."""
    width, height = tag_size(frame, str(sound.place.fret))
    x, y = frame.x(sound.start_s), frame.y(sound.place.string)
    painter.setPen(QPen(theme.color("measured"), 1.2, Qt.PenStyle.DashLine))
    painter.setBrush(theme.color("ground"))
    if (sound.end_s - sound.start_s) * frame.px_per_s < LEAST_PX_FOR_TAG:
        painter.drawLine(QPointF(x, y - height / 2), QPointF(x, y + height / 2))
        return
    painter.drawRect(QRectF(x, y - height / 2, width, height))
    painter.setPen(theme.color("measured"))
    painter.setFont(figure_font(frame.scale, size=0.9 * tag_fit(frame)))
    painter.drawText(QRectF(x, y - height / 2, width, height), Qt.AlignmentFlag.AlignCenter, str(sound.place.fret))
