"""The shapes of a solo on screen: shows them, lets one playing be chosen, says what was asked of it."""

from PyQt6.QtCore import QPointF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QResizeEvent, QWheelEvent
from PyQt6.QtWidgets import QWidget

from notcher.core.patterns import Occurrence, Pattern, ProposedLine
from notcher.core.score import EMPTY_SCORE, Score
from notcher.painting.keys_frame import draw_keys_frame
from notcher.painting.shapes_picture import ShapesFrame, draw_shapes
from notcher.painting.theme import PAPER, Theme
from notcher.ui.widgets.grid_keys import grid_step

NOTHING = "Nothing comes again here yet. Shapes appear once there are some notes."


class ShapesView(QWidget):
    """A row a shape, its playings across time."""

    chosen_changed = pyqtSignal()
    notes_requested = pyqtSignal()

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._score: Score = EMPTY_SCORE
        self._shapes: tuple[Pattern, ...] = ()
        self._lines: tuple[ProposedLine, ...] = ()
        self.row, self.column = 0, 0
        self._frame = ShapesFrame(600, 400, 1.0)
        self._theme = PAPER
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumSize(420, 180)
        self.setAccessibleName("Shapes of the solo")

    def show_shapes(self, score: Score, shapes: tuple[Pattern, ...], lines: tuple[ProposedLine, ...] = ()) -> None:
        """Show other shapes; the row that was chosen stays so as far as there is one."""
        self._score, self._shapes, self._lines = score, shapes, lines
        length_s = max((note.offset_s for note in score.notes), default=1.0)
        self._set_frame(length_s=length_s)
        self._go(self.row, self.column)

    def show_theme(self, theme: Theme, scale: float) -> None:
        self._theme = theme
        self._set_frame(scale=scale)

    def sizeHint(self) -> QSize:
        return QSize(900, 480)

    @property
    def shape(self) -> Pattern | None:
        """The shape of the chosen row."""
        return self._shapes[self.row] if 0 <= self.row < len(self._shapes) else None

    @property
    def playing(self) -> Occurrence | None:
        """The chosen playing."""
        return self.shape.occurrences[self.column] if self.shape is not None else None

    def playing_center(self, row: int, column: int) -> QPointF:
        """Return the middle of a playing, for pointing at it."""
        return self._frame.playing(self._score, row, self._shapes[row].occurrences[column]).center()

    def _set_frame(self, *, length_s: float | None = None, scale: float | None = None, top: int | None = None) -> None:
        old = self._frame
        self._frame = ShapesFrame(
            float(self.width()),
            float(self.height()),
            old.length_s if length_s is None else length_s,
            old.scale if scale is None else scale,
            old.top if top is None else top,
        )
        self.update()

    def _go(self, row: int, column: int) -> None:
        self.row = max(0, min(row, len(self._shapes) - 1))
        count = len(self.shape.occurrences) if self.shape is not None else 1
        self.column = max(0, min(column, count - 1))
        top = min(max(self._frame.top, self.row - self._frame.rows + 1), self.row)
        self._set_frame(top=top)
        self.chosen_changed.emit()

    # --- painting ---
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        self._paint(painter)
        if self.hasFocus():
            draw_keys_frame(painter, self.rect(), self._theme)

    def _paint(self, painter: QPainter) -> None:
        if not self._shapes:
            painter.fillRect(self.rect(), self._theme.color("ground"))
            painter.setPen(self._theme.color("soft_ink"))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, NOTHING)
            return
        chosen = (self.row, self.column)
        draw_shapes(painter, self._frame, self._score, self._shapes, self._theme, lines=self._lines, chosen=chosen)

    def resizeEvent(self, event: QResizeEvent) -> None:
        self._go(self.row, self.column)

    # --- keys and pointer ---
    def keyPressEvent(self, event: QKeyEvent) -> None:
        if (step := grid_step(event)) is not None:
            self._go(self.row + step[0], self.column + step[1])
        elif event.key() in (Qt.Key.Key_Home, Qt.Key.Key_End):
            self._go(0 if event.key() == Qt.Key.Key_Home else len(self._shapes) - 1, 0)
        else:
            super().keyPressEvent(event)

    def _at(self, point: QPointF) -> tuple[int, int] | None:
        """The row and the playing under a point; the first playing where it lies beside all of them."""
        for row in range(self._frame.top, len(self._shapes)):
            if self._frame.row(row).contains(point):
                for column, occurrence in enumerate(self._shapes[row].occurrences):
                    if self._frame.playing(self._score, row, occurrence).contains(point):
                        return row, column
                return row, 0
        return None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if (occurrence := self._at(event.position())) is not None:
            self._go(*occurrence)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        if self._at(event.position()) is not None:
            self.notes_requested.emit()

    def wheelEvent(self, event: QWheelEvent) -> None:
        step = -1 if event.angleDelta().y() > 0 else 1
        last = max(0, len(self._shapes) - self._frame.rows)
        self._set_frame(top=max(0, min(self._frame.top + step, last)))
