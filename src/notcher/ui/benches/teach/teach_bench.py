"""The Teach bench: the rung board (phrases and their joins go down, tempo rungs across) and the takes."""

from PyQt6.QtCore import QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QFontMetricsF, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QWheelEvent
from PyQt6.QtWidgets import (
    QComboBox,
    QFrame,
    QHBoxLayout,
    QLabel,
    QProgressBar,
    QPushButton,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from notcher.core.formats.texttab import clock
from notcher.core.score import Phrase, Result, Score
from notcher.core.teaching import ALONG, RUNG_PACES, board_rows, next_rung, results, with_mark
from notcher.painting.theme import PAPER, Theme, figure_font, text_font
from notcher.ui.benches.teach.take_recorder import TakeRecorder
from notcher.ui.benches.teach.take_view import TakeView
from notcher.ui.state.session import Session

SIGNS = {Result.CLEAN: "clean", Result.SHAKY: "shaky", Result.MISSED: "missed"}
ALONG_WORDS = {
    "click": "a click",
    "band": "the chords' band",
    "recording": "the slowed recording",
    "nothing": "nothing",
}
BOARD, TAKES = range(2)
MARK_KEYS = {Qt.Key.Key_C: Result.CLEAN, Qt.Key.Key_S: Result.SHAKY, Qt.Key.Key_M: Result.MISSED}


class RungBoard(QWidget):
    """A cell is a loop to play and a result to mark."""

    cell_changed = pyqtSignal(int, int)
    play_requested = pyqtSignal(int, int)
    mark_requested = pyqtSignal(int, int, object)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._rows: tuple[Phrase, ...] = ()
        self._score = Score()
        self.row, self.column = 0, 1
        self._first = 0  # top row in view
        self._theme, self._scale = PAPER, 1.0
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumSize(420, 200)
        self.setAccessibleName("Rung board")

    def show_rows(self, score: Score, rows: tuple[Phrase, ...]) -> None:
        self._score, self._rows = score, rows
        self._go(self.row, self.column)

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
        return 34 * self._scale

    @property
    def _row_height(self) -> float:
        return 31 * self._scale

    @property
    def _shown(self) -> int:
        return max(1, int((self.height() - self._head) // self._row_height))

    def _cell(self, row: int, column: int) -> QRectF:
        width = (self.width() - self._name_width - 8) / len(RUNG_PACES)
        left = self._name_width + column * width
        return QRectF(left, self._head + (row - self._first) * self._row_height, width, self._row_height)

    def cell_center(self, row: int, column: int) -> QRectF:
        """Return a cell's box, for pointing at it."""
        return self._cell(row, column)

    # --- painting ---
    def paintEvent(self, event: QPaintEvent) -> None:
        painter, theme = QPainter(self), self._theme
        painter.fillRect(self.rect(), theme.color("ground"))
        if not self._rows:
            painter.setPen(theme.color("soft_ink"))
            words = "Phrases appear here once a solo is open."
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, words)
            return
        painter.setPen(theme.color("soft_ink"))
        painter.setFont(figure_font(self._scale, size=0.9))
        for column, pace in enumerate(RUNG_PACES):
            box = self._cell(self._first, column)
            head = QRectF(box.left(), 0, box.width(), self._head)
            painter.drawText(head, Qt.AlignmentFlag.AlignCenter, f"{pace * 100:.0f} %")
        for row in range(self._first, min(self._first + self._shown, len(self._rows))):
            self._paint_row(painter, row)

    def _paint_row(self, painter: QPainter, row: int) -> None:
        theme, span = self._theme, self._rows[row]
        join = " + " in span.name
        font = text_font(self._scale, bold=not join)
        painter.setFont(font)
        painter.setPen(theme.color("soft_ink" if join else "ink"))
        box = QRectF(
            10 + (14 if join else 0), self._cell(row, 0).top(), self._name_width - 66 * self._scale, self._row_height
        )
        name = QFontMetricsF(font).elidedText(span.name, Qt.TextElideMode.ElideRight, box.width() - 14)
        painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, name)
        painter.setFont(figure_font(self._scale, size=0.82))
        painter.setPen(theme.color("soft_ink"))
        times = QRectF(self._name_width - 62 * self._scale, box.top(), 54 * self._scale, self._row_height)
        painter.drawText(times, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, clock(span.start_s))
        tried = results(self._score.marks, span)
        suggested = next_rung(self._score.marks, span)
        for column, pace in enumerate(RUNG_PACES):
            here = row == self.row and column == self.column
            next_up = pace == suggested and (bool(tried) or row == self.row)
            self._paint_cell(painter, self._cell(row, column), tried.get(pace), next_up=next_up, here=here)

    def _paint_cell(self, painter: QPainter, box: QRectF, result: Result | None, *, next_up: bool, here: bool) -> None:
        theme = self._theme
        inner = box.adjusted(3, 3, -3, -3)
        fills = {Result.CLEAN: ("good", 255), Result.SHAKY: ("claim", 90), Result.MISSED: ("lane", 255)}
        role, alpha = fills.get(result, ("panel", 255)) if result is not None else ("panel", 255)
        painter.fillRect(inner, theme.color(role, alpha))
        edge = QPen(theme.color("accent" if here or next_up else "hairline"), 3 if here else 1.4 if next_up else 1)
        if next_up and not here:
            edge.setStyle(Qt.PenStyle.DashLine)
        painter.setPen(edge)
        painter.drawRect(inner)
        words = SIGNS[result] if result is not None else "next" if next_up else ""
        painter.setFont(text_font(self._scale, size=0.9))
        ink = theme.color("panel" if result is Result.CLEAN else "ink" if result is not None else "soft_ink")
        painter.setPen(ink)
        painter.drawText(inner, Qt.AlignmentFlag.AlignCenter, words)

    # --- keys and pointer ---
    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = event.key()
        steps = {
            Qt.Key.Key_Left: (0, -1),
            Qt.Key.Key_Right: (0, 1),
            Qt.Key.Key_Up: (-1, 0),
            Qt.Key.Key_Down: (1, 0),
        }
        if key in steps:
            down, across = steps[Qt.Key(key)]
            self._go(self.row + down, self.column + across)
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.play_requested.emit(self.row, self.column)
        elif key in MARK_KEYS:
            self.mark_requested.emit(self.row, self.column, MARK_KEYS[Qt.Key(key)])
        elif key == Qt.Key.Key_Backspace:
            self.mark_requested.emit(self.row, self.column, None)
        else:
            super().keyPressEvent(event)

    def _go(self, row: int, column: int) -> None:
        self.row = max(0, min(row, len(self._rows) - 1))
        self.column = max(0, min(column, len(RUNG_PACES) - 1))
        self._first = min(max(self._first, self.row - self._shown + 1), self.row)
        self.update()
        self.cell_changed.emit(self.row, self.column)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        for row in range(self._first, min(self._first + self._shown, len(self._rows))):
            for column in range(len(RUNG_PACES)):
                if self._cell(row, column).contains(event.position()):
                    self._go(row, column)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        self.play_requested.emit(self.row, self.column)

    def wheelEvent(self, event: QWheelEvent) -> None:
        step = -1 if event.angleDelta().y() > 0 else 1
        self._first = max(0, min(self._first + step, len(self._rows) - self._shown))
        self.update()


class TeachBench(QWidget):
    """The board, and what to do in the chosen cell."""

    loop_requested = pyqtSignal(float, float, float)
    take_requested = pyqtSignal()
    file_requested = pyqtSignal()

    def __init__(self, session: Session, recorder: TakeRecorder, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session, self._recorder = session, recorder
        self.pages, self.takes = QStackedWidget(), TakeView()
        self.along_box, self.take_button = QComboBox(), QPushButton()
        self.file_button, self.takes_button = QPushButton("Take from a file…"), QPushButton("Show the takes")
        self.level_bar, self.take_words = QProgressBar(), QLabel()
        self.board = RungBoard(self)
        self.advice = QLabel()
        self.advice.setWordWrap(True)
        self.advice.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.play_button = QPushButton("Loop this cell")
        self.play_button.clicked.connect(lambda: self._on_play(self.board.row, self.board.column))
        self.mark_buttons = {result: QPushButton(words.capitalize()) for result, words in SIGNS.items()}
        self.clear_button = QPushButton("Clear mark")
        self._lay_out()
        self.board.play_requested.connect(self._on_play)
        self.board.mark_requested.connect(self._on_mark)
        self.board.cell_changed.connect(self._on_cell_changed)
        session.score_changed.connect(self._on_score_changed)
        session.opened.connect(self._on_opened)
        recorder.state_changed.connect(self._on_recorder)
        self.takes.back_requested.connect(lambda: self.show_takes(False))
        self._on_recorder()

    def _lay_out(self) -> None:
        card = QFrame()
        card.setProperty("card", True)
        column = QVBoxLayout(card)
        title = QLabel("This rung")
        title.setProperty("title", True)
        column.addWidget(title)
        column.addWidget(self.advice, 1)
        column.addWidget(self.play_button)
        marks = QHBoxLayout()
        marks.setSpacing(4)
        for result, button in self.mark_buttons.items():
            button.clicked.connect(lambda _=False, mark=result: self._on_mark(self.board.row, self.board.column, mark))
            marks.addWidget(button)
        column.addLayout(marks)
        self.clear_button.clicked.connect(lambda: self._on_mark(self.board.row, self.board.column, None))
        column.addWidget(self.clear_button)
        column.addSpacing(8)
        self._lay_out_takes(column)
        card.setFixedWidth(280)
        self._card = card
        page = QWidget()
        row = QHBoxLayout(page)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(self.board, 1)
        row.addWidget(card)
        self.pages.addWidget(page)
        self.pages.addWidget(self.takes)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(8, 8, 8, 8)
        whole.addWidget(self.pages)

    def _lay_out_takes(self, column: QVBoxLayout) -> None:
        title = QLabel("A student's take of it")
        title.setProperty("title", True)
        column.addWidget(title)
        along = QHBoxLayout()
        along.addWidget(QLabel("Along with"))
        self.along_box.setAccessibleName("Play along with")
        for kind in ALONG:
            self.along_box.addItem(ALONG_WORDS[kind], kind)
        along.addWidget(self.along_box, 1)
        column.addLayout(along)
        self.level_bar.setRange(0, 100)
        self.level_bar.setTextVisible(False)
        self.level_bar.setAccessibleName("How loud the guitar is")
        self.take_words.setWordWrap(True)
        self.take_words.setProperty("soft", True)
        for widget in (self.take_button, self.level_bar, self.take_words, self.file_button, self.takes_button):
            column.addWidget(widget)
        self.take_button.clicked.connect(self.take_requested)
        self.file_button.clicked.connect(self.file_requested)
        self.takes_button.clicked.connect(lambda: self.show_takes(True))

    def show_takes(self, wanted: bool) -> None:
        """Show the takes in place of the board, or the board again."""
        self.pages.setCurrentIndex(TAKES if wanted else BOARD)
        (self.takes.phrase_list if wanted else self.board).setFocus()

    @property
    def along(self) -> str:
        """What a take is played along with."""
        return str(self.along_box.currentData())

    def set_along(self, kind: str) -> None:
        self.along_box.setCurrentIndex(ALONG.index(kind))

    @property
    def cell(self) -> tuple[Phrase, float] | None:
        """The stretch and the pace of the chosen cell."""
        rows = self._rows
        return (rows[self.board.row], RUNG_PACES[self.board.column]) if self.board.row < len(rows) else None

    def _on_opened(self) -> None:
        self.takes.forget()
        self.show_takes(False)
        self._on_recorder()

    def _on_recorder(self) -> None:
        """Show what the recorder is about."""
        recorder = self._recorder
        idle, recording = recorder.state == "idle", recorder.state == "recording"
        self.take_button.setText("Record a take" if idle else "End the take" if recording else "Cancel")
        self.level_bar.setValue(round(100 * recorder.level))
        words = {
            "idle": recorder.guitar.description if recorder.guitar.simulated else "",
            "getting ready": "Getting ready…",
            "recording": f"Recording: {recorder.share:.0%}",
            "listening": f"Listening to the take: {recorder.share:.0%}",
        }
        self.take_words.setText(words[recorder.state])
        self.file_button.setEnabled(idle)
        self.takes_button.setEnabled(bool(self.takes.takes))

    def show_theme(self, theme: Theme, scale: float) -> None:
        self.board.show_theme(theme, scale)
        self.takes.show_theme(theme, scale)
        self._card.setFixedWidth(round(160 + 130 * scale))

    @property
    def _rows(self) -> tuple[Phrase, ...]:
        return board_rows(self._session.score.phrases)

    def _on_score_changed(self) -> None:
        self.board.show_rows(self._session.score, self._rows)

    def _on_play(self, row: int, column: int) -> None:
        if row < len(self._rows):
            span = self._rows[row]
            self.loop_requested.emit(span.start_s, span.end_s, RUNG_PACES[column])

    def _on_mark(self, row: int, column: int, result: Result | None) -> None:
        if row >= len(self._rows):
            return
        score, span = self._session.score, self._rows[row]
        marks = with_mark(score.marks, span, RUNG_PACES[column], result)
        name = f"Mark {span.name} {result}" if result is not None else f"Clear mark of {span.name}"
        self._session.set_marks(marks, name)

    def _on_cell_changed(self, row: int, column: int) -> None:
        rows = self._rows
        usable = row < len(rows)
        for button in (self.play_button, self.clear_button, *self.mark_buttons.values()):
            button.setEnabled(usable)
        if not usable:
            self.advice.setText("")
            return
        span, score = rows[row], self._session.score
        count = sum(span.start_s - 0.02 <= note.onset_s < span.end_s for note in score.notes)
        pace = RUNG_PACES[column]
        self.advice.setText(
            f"{span.name}\n{clock(span.start_s)} to {clock(span.end_s)}, {count} notes\n"
            f"At {pace * 100:.0f} % one round lasts {(span.end_s - span.start_s) / pace:.1f} s.\n\n"
            f"Next for this row: {next_rung(score.marks, span) * 100:.0f} %. "
            "Three clean rounds in a row, then a rung up.\n\n"
            "Enter loops it; C, S and M mark it clean, shaky or missed; Backspace clears it."
        )
