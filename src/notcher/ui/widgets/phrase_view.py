"""One phrase, drawn small."""

from collections.abc import Container, Sequence

from PyQt6.QtCore import QRectF, QSize
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QWidget

from notcher.core.score import EMPTY_SCORE, Score
from notcher.core.words import Naming
from notcher.painting.phrase_picture import draw_phrase
from notcher.painting.theme import Theme


class PhraseView(QWidget):
    """Shows the notes of a score between two times."""

    def __init__(self, theme: Theme, scale: float, naming: Naming, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._theme, self._scale, self._naming = theme, scale, naming
        self._score: Score = EMPTY_SCORE
        self._span_s: tuple[float, float] | None = None
        self._onsets_s: Sequence[float] = ()
        self._marked: Container[str] = ()
        self._cursor_s: float | None = None
        self.setMinimumHeight(round(104 * scale))

    def set_look(self, theme: Theme, scale: float, naming: Naming) -> None:
        self._theme, self._scale, self._naming = theme, scale, naming
        self.setMinimumHeight(round(104 * scale))
        self.update()

    def show_phrase(
        self,
        score: Score,
        span_s: tuple[float, float] | None = None,
        *,
        onsets_s: Sequence[float] = (),
        marked: Container[str] = (),
        cursor_s: float | None = None,
    ) -> None:
        """span_s: from when to when. onsets_s: moments that get room. marked: ids of notes in a frame.

        cursor_s: a moment that is pointed at.
        """
        self._cursor_s = cursor_s
        self._score, self._span_s, self._onsets_s, self._marked = score, span_s, onsets_s, marked
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(round(640 * self._scale), round(118 * self._scale))

    def paintEvent(self, event: QPaintEvent) -> None:
        painter, box = QPainter(self), QRectF(self.rect())
        painter.fillRect(box, self._theme.color("panel"))
        draw_phrase(
            painter,
            box,
            self._score,
            self._theme,
            scale=self._scale,
            span_s=self._span_s,
            onsets_s=self._onsets_s,
            marked=self._marked,
            cursor_s=self._cursor_s,
            naming=self._naming,
        )
