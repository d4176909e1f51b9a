"""What the marks on the measured tab mean, drawn by the same painter as the tab; and all keys."""

from dataclasses import replace

from PyQt6.QtCore import QSize
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QDialog, QHBoxLayout, QTableWidget, QTableWidgetItem, QVBoxLayout, QWidget

from notcher.core.score import (
    BY_HAND,
    Attack,
    BeatMap,
    Chord,
    End,
    Note,
    Phrase,
    PickStroke,
    PitchCurve,
    Score,
    Tone,
    Vibrato,
    bent_curve,
)
from notcher.core.theory import Role, Target
from notcher.painting.meaning_layer import draw_degrees
from notcher.painting.tab_frame import TabFrame
from notcher.painting.tab_picture import TabContent, draw_tab
from notcher.painting.theme import Theme
from notcher.ui.widgets.tables import without_row_numbers

SLOT_S = 2.0  # room for one sample with its name
CHORD_TONE, BENT_INTO = "a chord tone: 5th", "bent into the 5th"
SAMPLES: tuple[tuple[str, Note], ...] = (
    ("picked, then stopped", Note(0, 1.2, 1, 12)),
    ("let ring", Note(0, 1.2, 1, 12, end=End.RINGS)),
    ("cut off", Note(0, 1.2, 1, 12, end=End.CHOKED)),
    ("slides off", Note(0, 1.2, 1, 12, end=End.SLIDES_AWAY)),
    ("hammered", Note(0, 1.2, 1, 14, Attack.HAMMER)),
    ("pulled off", Note(0, 1.2, 1, 12, Attack.PULL)),
    ("tapped", Note(0, 1.2, 1, 19, Attack.TAP)),
    ("slid into", Note(0, 1.2, 1, 14, Attack.SLIDE)),
    ("slides in from nowhere", Note(0, 1.2, 1, 14, slid_in=True)),
    ("bend of a step", Note(0, 1.2, 1, 14, curve=bent_curve(2, 1.2))),
    ("bend and release", Note(0, 1.2, 1, 14, curve=bent_curve(2, 1.2, released=True))),
    ("pre-bend, let down", Note(0, 1.2, 1, 14, curve=bent_curve(2, 1.2, prebent=True, released=True))),
    ("re-picked bend", Note(0, 1.2, 1, 14, Attack.REPICK, PitchCurve(((0, 2.0),)))),
    ("vibrato", Note(0, 1.2, 1, 12, vibrato=Vibrato(0.2, 5, 40))),
    ("bar dip", Note(0, 1.2, 1, 12, curve=PitchCurve(((0, 0), (0.4, 0), (0.6, -1.2), (0.9, 0))))),
    ("volume swell", Note(0, 1.2, 1, 12, Attack.SWELL)),
    ("rake", Note(0.1, 1.2, 1, 12, raked=True)),
    ("palm mute", Note(0, 1.2, 1, 12, tone=Tone.PALM_MUTE)),
    ("dead note", Note(0, 1.2, 1, 12, tone=Tone.DEAD)),
    ("natural harmonic", Note(0, 1.2, 1, 12, tone=Tone.NATURAL_HARMONIC)),
    ("pinch harmonic", Note(0, 1.2, 1, 12, tone=Tone.SQUEAL_HARMONIC)),
    ("optional: may be left out", Note(0, 1.2, 1, 12, garnish=True)),
    ("the player's mistake", Note(0, 1.2, 1, 12, slip=True)),
    ("with a remark", Note(0, 1.2, 1, 12, remark="said beside the neck")),
    ("picked down", Note(0, 1.2, 1, 12, stroke=PickStroke.DOWN)),
    ("picked up", Note(0, 1.2, 1, 12, stroke=PickStroke.UP)),
    ("in doubt", Note(0, 1.2, 1, 12, doubt=BY_HAND)),
    (CHORD_TONE, Note(0, 1.2, 1, 12)),
    (BENT_INTO, Note(0, 1.2, 1, 14, curve=bent_curve(2, 1.2))),
    ("selected", Note(0, 1.2, 1, 12)),
)


class LegendPicture(QWidget):
    """One lane a row of samples."""

    PER_ROW = 6

    def __init__(self, theme: Theme, scale: float) -> None:
        super().__init__()
        self._theme, self._scale = theme, scale
        self._rows = -(-len(SAMPLES) // self.PER_ROW)

    def sizeHint(self) -> QSize:
        return QSize(round(850 * self._scale), round((64 + 100 * self._rows) * self._scale))

    def minimumSizeHint(self) -> QSize:
        return QSize(700, 300)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        px_per_s = (self.width() - 70 * self._scale) / (self.PER_ROW * SLOT_S + 0.2)
        frame = TabFrame(self.width(), self.height(), self._rows, -0.2, px_per_s, self._scale)
        content = self._content()
        draw_tab(painter, frame, content, self._theme)
        draw_degrees(painter, frame, content.score, self._targets(content.score), self._theme)
        painter.setPen(self._theme.color("ink"))
        for number, (words, _) in enumerate(SAMPLES):
            row, column = divmod(number, self.PER_ROW)
            painter.drawText(
                int(frame.x(column * SLOT_S)) + 4, int(frame.lane(row + 1).top() + 15 * self._scale), words
            )

    def _targets(self, score: Score) -> list[Target]:
        """What the two samples of degrees are to their chord."""
        targets = []
        for words, role in ((CHORD_TONE, Role.CHORD_TONE), (BENT_INTO, Role.BENT_INTO)):
            row, column = divmod([name for name, _ in SAMPLES].index(words), self.PER_ROW)
            at = next(i for i, n in enumerate(score.notes) if (n.string, n.onset_s) == (row + 1, column * SLOT_S))
            targets.append(Target(at, "Em", "5", role, lands_on_change=False))
        return targets

    def _content(self) -> TabContent:
        notes = []
        for number, (_, note) in enumerate(SAMPLES):
            row, column = divmod(number, self.PER_ROW)
            at_s = column * SLOT_S
            notes.append(replace(note, onset_s=note.onset_s + at_s, offset_s=note.offset_s + at_s, string=row + 1))
        score = Score(
            beat_map=BeatMap.steady(30, 0),
            phrases=(Phrase(0, 11.5, "a phrase, from its first note to its last"),),
            chords=(Chord(0, "Em"),),
        )
        score = score.with_notes(notes)
        row, column = divmod(len(SAMPLES) - 1, self.PER_ROW)
        selected = next(i for i, n in enumerate(score.notes) if (n.string, n.onset_s) == (row + 1, column * SLOT_S))
        return TabContent(score, selected=selected)


class LegendDialog(QDialog):
    """The legend above, the keys below."""

    def __init__(self, theme: Theme, scale: float, keys: list[tuple[str, str]], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Legend and keys")
        column = QVBoxLayout(self)
        column.addWidget(LegendPicture(theme, scale), 4)
        half = -(-len(keys) // 2)
        row = QHBoxLayout()
        row.addWidget(_table(keys[:half]))
        row.addWidget(_table(keys[half:]))
        column.addLayout(row, 2)
        self.resize(round(900 * min(scale, 1.3)), 700)


def _table(keys: list[tuple[str, str]]) -> QTableWidget:
    table = QTableWidget(len(keys), 2)
    table.setAccessibleName("Keys")
    table.setHorizontalHeaderLabels(["Command", "Key"])
    without_row_numbers(table, stretched=0, row_height=round(table.fontMetrics().height() * 1.5))
    table.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
    for row, pair in enumerate(keys):
        for at, text in enumerate(pair):
            table.setItem(row, at, QTableWidgetItem(text))
    return table
