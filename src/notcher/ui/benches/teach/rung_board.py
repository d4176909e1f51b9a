"""The rung board: phrases and their joins go down, tempo rungs across."""

from collections.abc import Mapping

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import (
    QFontMetricsF,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPolygonF,
    QWheelEvent,
)
from PyQt6.QtWidgets import QWidget

from notcher.core.proving import Result
from notcher.core.teaching import RUNG_PACES, BoardRow, Tried, nearest, results, row_name
from notcher.core.words import USUAL, Naming, clock
from notcher.painting.keys_frame import draw_keys_frame
from notcher.painting.theme import PAPER, Theme, figure_font, text_font
from notcher.ui.widgets.grid_keys import grid_step

SIGNS = {Result.CLEAN: "clean", Result.SHAKY: "shaky", Result.MISSED: "missed"}


class RungBoard(QWidget):
    """A cell is a loop to play and a result to mark."""

    cell_changed = pyqtSignal(int, int)
    play_requested = pyqtSignal(int, int)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._rows: tuple[BoardRow, ...] = ()
        self._tried: tuple[Tried, ...] = ()
        self.paces: tuple[float, ...] = RUNG_PACES
        self.row, self.column = 0, 1
        self._due: Mapping[str, float] = {}
        self._first = 0  # top row in view
        self._theme, self._scale, self._naming = PAPER, 1.0, USUAL
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumSize(420, 200)
        self.setAccessibleName("Practice board")

    def show_rows(
        self,
        rows: tuple[BoardRow, ...],
        tried: tuple[Tried, ...],
        paces: tuple[float, ...],
        due: Mapping[str, float],
        suggested: Mapping[tuple[str, ...], float],
    ) -> None:
        """tried: the passes that are marked. paces: the rungs, rising; the chosen one stays so, nearly.

        due: of each phrase that is to be repeated by today the pace it was played at last, by its id. suggested: the
        pace to practise next, by the rows' ids.
        """
        chosen = self.pace
        self._rows, self._tried, self.paces, self._due = rows, tried, paces, due
        self._suggested = suggested
        self.go(self.row, self.column_of(chosen))

    @property
    def pace(self) -> float:
        """The rung that is chosen."""
        return self.paces[self.column]

    def column_of(self, pace: float) -> int:
        """Return the column whose rung is nearest to a pace."""
        return self.paces.index(nearest(self.paces, pace))

    def set_naming(self, naming: Naming) -> None:
        self._naming = naming
        self.update()

    def show_theme(self, theme: Theme, scale: float) -> None:
        self._theme, self._scale = theme, scale
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(820, 500)

    # --- geometry ---
    @property
    def _name_width(self) -> float:
        return min(240 * self._scale, 0.36 * self.width())

    @property
    def _head(self) -> float:
        return 24 * self._scale

    @property
    def _row_height(self) -> float:
        return 22 * self._scale

    @property
    def _shown(self) -> int:
        return max(1, int((self.height() - self._head) // self._row_height))

    def _cell(self, row: int, column: int) -> QRectF:
        width = (self.width() - self._name_width - 8) / len(self.paces)
        left = self._name_width + column * width
        return QRectF(left, self._head + (row - self._first) * self._row_height, width, self._row_height)

    def cell_center(self, row: int, column: int) -> QRectF:
        """Return a cell's box, for pointing at it."""
        return self._cell(row, column)

    # --- painting ---
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        self._paint(painter)
        if self.hasFocus():
            draw_keys_frame(painter, self.rect(), self._theme)

    def _paint(self, painter: QPainter) -> None:
        theme = self._theme
        painter.fillRect(self.rect(), theme.color("ground"))
        if not self._rows:
            painter.setPen(theme.color("soft_ink"))
            words = "Phrases appear here once a solo is open."
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, words)
            return
        painter.setPen(theme.color("soft_ink"))
        painter.setFont(figure_font(self._scale, size=0.9))
        for column, pace in enumerate(self.paces):
            box = self._cell(self._first, column)
            head = QRectF(box.left(), 0, box.width(), self._head)
            painter.drawText(head, Qt.AlignmentFlag.AlignCenter, f"{pace * 100:.0f} %")
        for row in range(self._first, min(self._first + self._shown, len(self._rows))):
            self._paint_row(painter, row)

    def _paint_row(self, painter: QPainter, row: int) -> None:
        theme, span = self._theme, self._rows[row]
        join = span.is_join or span.piece is not None
        font = text_font(self._scale, bold=not join)
        painter.setFont(font)
        painter.setPen(theme.color("soft_ink" if join else "ink"))
        box = QRectF(
            10 + (14 if join else 0), self._cell(row, 0).top(), self._name_width - 66 * self._scale, self._row_height
        )
        name = QFontMetricsF(font).elidedText(row_name(span), Qt.TextElideMode.ElideRight, box.width() - 14)
        painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, name)
        painter.setFont(figure_font(self._scale, size=0.82))
        painter.setPen(theme.color("soft_ink"))
        times = QRectF(self._name_width - 62 * self._scale, box.top(), 54 * self._scale, self._row_height)
        painter.drawText(
            times, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, clock(span.start_s, self._naming)
        )
        tried = results(self._tried, span, self.paces)
        suggested = self._suggested.get(span.ids)
        for column, pace in enumerate(self.paces):
            here = row == self.row and column == self.column
            due = span.ids[0] in self._due and not join and nearest(self.paces, self._due[span.ids[0]]) == pace
            is_next = suggested is not None and nearest(self.paces, suggested) == pace
            next_up = is_next and (bool(tried) or row == self.row)
            self._paint_cell(painter, self._cell(row, column), tried.get(pace), next_up=next_up, here=here, due=due)

    def _paint_cell(
        self, painter: QPainter, box: QRectF, result: Result | None, *, next_up: bool, here: bool, due: bool
    ) -> None:
        theme = self._theme
        inner = box.adjusted(2, 2, -2, -2)
        fills = {Result.CLEAN: ("good", 255), Result.SHAKY: ("claim", 90), Result.MISSED: ("lane", 255)}
        role, alpha = fills.get(result, ("panel", 255)) if result is not None else ("panel", 255)
        painter.fillRect(inner, theme.color(role, alpha))
        edge = QPen(theme.color("accent" if here or next_up else "hairline"), 3 if here else 1.4 if next_up else 1)
        if next_up and not here:
            edge.setStyle(Qt.PenStyle.DashLine)
        painter.setPen(edge)
        painter.drawRect(inner)
        words = SIGNS[result] if result is not None else "next" if next_up else "–"  # untried
        if due:  # a folded corner, and the word
            corner = min(inner.height(), inner.width()) * 0.42
            painter.setBrush(theme.color("doubt"))
            fold = [inner.topRight(), inner.topRight() - QPointF(corner, 0), inner.topRight() + QPointF(0, corner)]
            painter.drawPolygon(QPolygonF(fold))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            words = f"{words}, due" if result is not None else "due"
        painter.setFont(text_font(self._scale, size=0.9))
        ink = theme.color("panel" if result is Result.CLEAN else "ink" if result is not None else "soft_ink")
        painter.setPen(ink)
        painter.drawText(inner, Qt.AlignmentFlag.AlignCenter, words)

    # --- keys and pointer ---
    def keyPressEvent(self, event: QKeyEvent) -> None:
        if (step := grid_step(event)) is not None:
            self.go(self.row + step[0], self.column + step[1])
        else:
            super().keyPressEvent(event)

    def go(self, row: int, column: int) -> None:
        """Choose a cell."""
        self.row = max(0, min(row, len(self._rows) - 1))
        self.column = max(0, min(column, len(self.paces) - 1))
        self._first = min(max(self._first, self.row - self._shown + 1), self.row)
        self.update()
        self.cell_changed.emit(self.row, self.column)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        for row in range(self._first, min(self._first + self._shown, len(self._rows))):
            for column in range(len(self.paces)):
                if self._cell(row, column).contains(event.position()):
                    self.go(row, column)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        self.play_requested.emit(self.row, self.column)

    def wheelEvent(self, event: QWheelEvent) -> None:
        step = -1 if event.angleDelta().y() > 0 else 1
        self._first = max(0, min(self._first + step, len(self._rows) - self._shown))
        self.update()
