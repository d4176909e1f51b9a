"""The ladder of the chosen row as a small plot: passes, what is clean, the likely date of full tempo with its range."""

from PyQt6.QtCore import QRectF, QSize
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QSizePolicy, QWidget

from notcher.core.teaching import Progress
from notcher.core.words import USUAL, Naming
from notcher.painting.progress_picture import draw_progress
from notcher.painting.theme import PAPER, Theme


class LadderView(QWidget):
    """Shows one row's progress; hidden while nothing is dated."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._found: Progress | None = None
        self._theme, self._scale, self._naming = PAPER, 1.0, USUAL
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("How the row came on, and when full tempo is likely")
        self.hide()

    def sizeHint(self) -> QSize:
        return QSize(round(240 * self._scale), round(118 * self._scale))

    def set_naming(self, naming: Naming) -> None:
        self._naming = naming
        self.update()

    def show_theme(self, theme: Theme, scale: float) -> None:
        self._theme, self._scale = theme, scale
        self.updateGeometry()
        self.update()

    def show_progress(self, progress: Progress | None) -> None:
        self._found = progress
        self.setVisible(progress is not None and bool(progress.days))
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if self._found is not None:
            box = QRectF(self.rect()).adjusted(1, 1, -1, -1)
            draw_progress(QPainter(self), box, self._found, "", self._theme, scale=self._scale, naming=self._naming)
