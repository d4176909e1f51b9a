"""The stand: the whole screen for this line and the next, to be read from two metres."""

from PyQt6.QtCore import QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QWidget

from notcher.core.score import EMPTY_SCORE, Score
from notcher.core.teaching import StandLine, stand_lines
from notcher.core.words import USUAL, Naming
from notcher.painting.stand_picture import draw_stand
from notcher.painting.theme import PAPER, Theme


class StandView(QWidget):
    """Follows the playhead; what is said at its foot comes from the lesson that runs."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._score: Score = EMPTY_SCORE
        self._lines: list[StandLine] = []
        self._time_s, self._said = 0.0, ""
        self._theme, self._naming = PAPER, USUAL
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("The stand: this line of tab and the next")

    def sizeHint(self) -> QSize:
        return QSize(1280, 800)

    def show_score(self, score: Score) -> None:
        if score is not self._score:
            self._score, self._lines = score, []
            self.update()

    def show_time(self, time_s: float) -> None:
        self._time_s = time_s
        if self.isVisible():
            self.update()

    def say(self, words: str) -> None:
        self._said = words
        self.update()

    def show_theme(self, theme: Theme, _scale: float) -> None:
        self._theme = theme
        self.update()

    def set_naming(self, naming: Naming) -> None:
        self._naming = naming
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if not self._lines and self._score.notes:
            self._lines = stand_lines(self._score)
        draw_stand(
            QPainter(self), QRectF(self.rect()), self._score, self._lines, self._time_s, self._theme, text=self._said,
            naming=self._naming,
        )  # fmt: skip
