"""The pages of the Students bench that are plots: how a student comes on, hours against their estimates."""

from PyQt6.QtCore import QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QScrollArea, QVBoxLayout, QWidget

from notcher.core.teaching import (
    Done,
    Progress,
    accuracy_words,
    by_stretch,
    clean_words,
    course_words,
    done_requests,
    progress,
    solo_words,
    stretch_words,
    who_words,
)
from notcher.core.words import USUAL, Naming, many
from notcher.painting.hours_picture import draw_hours, hours_height
from notcher.painting.keys_frame import draw_keys_frame
from notcher.painting.progress_picture import draw_progress
from notcher.painting.theme import PAPER, Theme
from notcher.ui.benches.ledger.list_page import Seen
from notcher.ui.widgets.cards import scrolling
from notcher.ui.widgets.grid_keys import grid_step
from notcher.ui.widgets.plain import Label

PLOT_PX, GAP_PX = (250.0, 150.0), 10.0  # of one plot at scale 1
LEGEND = "Full dot: clean. Ring: shaky. Cross: missed. Line: clean by now, with its range; thick stroke: full tempo."


class ProgressGrid(QWidget):
    """One plot a phrase, in rows; the arrows choose one."""

    chosen_changed = pyqtSignal()

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.plots: list[tuple[str, Progress]] = []
        self.chosen = 0
        self._theme, self._scale, self._naming = PAPER, 1.0, USUAL
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("How each phrase came on")

    def show_plots(self, plots: list[tuple[str, Progress]], naming: Naming) -> None:
        self.plots, self._naming = plots, naming
        self.chosen = max(0, min(self.chosen, len(plots) - 1))
        self._fit()
        self.update()

    def show_theme(self, theme: Theme, scale: float) -> None:
        self._theme, self._scale = theme, scale
        self._fit()
        self.update()

    @property
    def _columns(self) -> int:
        return max(1, int((self.width() + GAP_PX) // ((PLOT_PX[0] * self._scale) + GAP_PX)))

    def box(self, at: int) -> QRectF:
        """Return where a plot lies."""
        columns = self._columns
        width = (self.width() - (columns - 1) * GAP_PX) / columns - 2
        height = PLOT_PX[1] * self._scale
        row, column = divmod(at, columns)
        return QRectF(1 + column * (width + GAP_PX), 1 + row * (height + GAP_PX), width, height)

    def _fit(self) -> None:
        rows = -(-len(self.plots) // self._columns)
        self.setMinimumHeight(round(rows * (PLOT_PX[1] * self._scale + GAP_PX)) + 4)

    def resizeEvent(self, event: object) -> None:
        self._fit()

    def sizeHint(self) -> QSize:
        return QSize(round(2 * PLOT_PX[0]), round(PLOT_PX[1]))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        for at, (name, student_progress) in enumerate(self.plots):
            framed = at == self.chosen
            draw_progress(
                painter,
                self.box(at),
                student_progress,
                name,
                self._theme,
                scale=self._scale,
                framed=framed,
                naming=self._naming,
            )
        if self.hasFocus():
            draw_keys_frame(painter, self.rect(), self._theme)

    def go(self, at: int) -> None:
        """Choose a plot."""
        if 0 <= at < len(self.plots) and at != self.chosen:
            self.chosen = at
            self.update()
            self.chosen_changed.emit()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        step = grid_step(event) if event is not None else None
        if event is not None and step is not None:
            self.go(self.chosen + step[0] * self._columns + step[1])
        else:
            super().keyPressEvent(event)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None:
            self.go(next((at for at in range(len(self.plots)) if self.box(at).contains(event.position())), -1))


class ProgressPage(QWidget):
    """How the chosen student comes on with every phrase, and what the plot that is chosen says."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.said, self.grid, self.more = Label(), ProgressGrid(), Label()
        self.focus: QWidget = self.grid
        self._naming = USUAL
        for label in (self.said, self.more):
            label.setWordWrap(True)
        self.said.setProperty("soft", True)
        self._area: QScrollArea = scrolling(self.grid)
        self.grid.chosen_changed.connect(self._tell)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.said)
        column.addWidget(self._area, 1)
        column.addWidget(self.more)

    def show_theme(self, theme: Theme, scale: float) -> None:
        self.grid.show_theme(theme, scale)

    def show_book(self, shown: Seen) -> None:
        book, self._naming = shown.book, shown.naming
        tried = by_stretch(book.passes_of(shown.student_id))
        order = {
            (solo.practice_id, phrase["id"]): at
            for solo in book.documents.values() for at, phrase in enumerate(solo.phrases)
        }  # fmt: skip
        stretches = sorted(tried, key=lambda key: (key[0], order.get((key[0], key[1][0]), 0), len(key[1])))
        solos = {key[0] for key in stretches}
        plots = []
        for solo, phrases in stretches:
            name = stretch_words(book, solo, phrases)
            named = f"{name}, {solo_words(book, solo)}" if len(solos) > 1 else name
            plots.append((named, progress(tried[solo, phrases])))
        self.grid.show_plots(plots, shown.naming)
        who = who_words(book, shown.student_id)
        text = f"{who}: {many(len(plots), 'stretch', 'stretches')} practised. {LEGEND}"
        self.said.setText(text if plots else f"No passes yet for {who}: C, S and M on the practice board mark them.")
        self._tell()

    def _tell(self) -> None:
        grid = self.grid
        if not grid.plots:
            self.more.setText("")
            return
        name, student_progress = grid.plots[grid.chosen]
        box = grid.box(grid.chosen)
        self._area.ensureVisible(round(box.center().x()), round(box.center().y()), 0, round(box.height() / 2) + 6)
        self.more.setText(
            f"{name}. {clean_words(student_progress, self._naming)} {course_words(student_progress, self._naming)}"
        )


class HoursView(QWidget):
    """Hours as they were beside hours as they were estimated."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._rows: list[Done] = []
        self._theme, self._scale, self._naming = PAPER, 1.0, USUAL
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Hours against estimate")

    def show_rows(self, rows: list[Done], naming: Naming) -> None:
        self._rows, self._naming = rows, naming
        self._fit()

    def show_theme(self, theme: Theme, scale: float) -> None:
        self._theme, self._scale = theme, scale
        self._fit()

    def _fit(self) -> None:
        self.setMinimumHeight(round(hours_height(len(self._rows), self._scale)))
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        if self._rows:
            draw_hours(painter, QRectF(self.rect()), self._rows, self._theme, scale=self._scale, naming=self._naming)
        if self.hasFocus():
            draw_keys_frame(painter, self.rect(), self._theme)


class HoursPage(QWidget):
    """What solos took against what they were estimated to take."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.said, self.view = Label(), HoursView()
        self.focus: QWidget = self.view
        self.said.setWordWrap(True)
        self.said.setProperty("soft", True)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.said)
        column.addWidget(scrolling(self.view), 1)

    def show_theme(self, theme: Theme, scale: float) -> None:
        self.view.show_theme(theme, scale)

    def show_book(self, shown: Seen) -> None:
        rows = done_requests(shown.book)
        self.said.setText(accuracy_words(rows, shown.naming))
        self.view.show_rows(rows, shown.naming)
