"""The main window: the benches in a stack, notices above, the work strip and the reel below."""

from collections.abc import Callable
from typing import Any, Protocol

from PyQt6.QtCore import QEvent, Qt, pyqtSignal
from PyQt6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent, QKeyEvent
from PyQt6.QtWidgets import (
    QAbstractButton,
    QAbstractSpinBox,
    QComboBox,
    QHBoxLayout,
    QLabel,
    QMainWindow,
    QStackedWidget,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from notcher.core.errors import NotcherError
from notcher.ui.playback.player import Player
from notcher.ui.shell.notices import NoticeBar
from notcher.ui.shell.ways_in import WaysIn
from notcher.ui.shell.work_strip import WorkStrip
from notcher.ui.state.jobs import Jobs, Work
from notcher.ui.state.shell import Bench

SIZE = (1280, 800)


class MayClose(Protocol):
    """Asked before the window closes."""

    def __call__(self) -> bool: ...


class Window(QMainWindow):
    """Holds the benches and answers what its parts ask of it; see `notcher.ui.state.shell.Shell`."""

    file_dropped = pyqtSignal(str)
    closed = pyqtSignal()

    def __init__(self, jobs: Jobs, player: Player) -> None:
        super().__init__()
        self._jobs, self._player = jobs, player
        self._stack = QStackedWidget()
        self._focus: dict[Bench, QWidget] = {}
        self._may_close: MayClose = lambda: True
        self.bench = Bench.NOTCH
        self.bench_buttons: dict[Bench, QToolButton] = {}
        self.notices, self.work_strip = NoticeBar(), WorkStrip()
        self.ways_in, self.nothing_open = WaysIn(), True
        self.work_strip.cancel_requested.connect(self._on_cancel)
        self._title = QLabel()
        self._title.setProperty("soft", True)
        self._heads = QHBoxLayout()
        self._heads.setContentsMargins(8, 0, 8, 0)
        self.setAcceptDrops(True)
        self.resize(*SIZE)

    def put_in(self, benches: dict[Bench, tuple[QWidget, QWidget]], reel: QWidget, may_close: MayClose) -> None:
        """Lay the window out. benches: each with the widget that has the keys when it comes to the front."""
        self._may_close = may_close
        for bench, (widget, focused) in benches.items():
            button = QToolButton()
            button.setText(bench.capitalize())
            button.setCheckable(True)
            button.setProperty("bench", True)
            button.clicked.connect(lambda _checked=False, bench=bench: self.show_bench(bench))
            self._heads.addWidget(button)
            self.bench_buttons[bench], self._focus[bench] = button, focused
            self._stack.addWidget(widget)
        self._stack.addWidget(self.ways_in)
        self._heads.addStretch(1)
        self._heads.addWidget(self._title)
        column = QVBoxLayout()
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addLayout(self._heads)
        column.addWidget(self.notices)
        column.addWidget(self._stack, 1)
        column.addWidget(self.work_strip)
        column.addWidget(reel)
        centre = QWidget()
        centre.setLayout(column)
        self.setCentralWidget(centre)

    def show_title(self, title: str, facts: str) -> None:
        """Name what is open, in the frame and beside the benches."""
        self.setWindowTitle(f"{title} – Notcher")
        self._title.setText(f"{title}: {facts}")

    # --- what parts may ask ---
    def notice(self, sentence: str) -> None:
        """Say something without stopping the work."""
        self.notices.say(sentence)

    def tell_failure(self, problem: Exception) -> None:
        """Say what went wrong, in one sentence."""
        self.work_strip.hide()
        if isinstance(problem, NotcherError):
            self.notice(str(problem))
        else:
            told = f"{type(problem).__name__}: {problem}"
            self.notice(f"Something went wrong inside Notcher ({told}). Nothing was changed.")

    def show_bench(self, bench: Bench) -> None:
        """Bring a bench to the front."""
        self.bench = bench
        offers = self.nothing_open and bench is Bench.NOTCH
        self._stack.setCurrentIndex(len(Bench) if offers else list(Bench).index(bench))
        for name, button in self.bench_buttons.items():
            button.setChecked(name is bench)
        self._main_widget.setFocus()

    @property
    def _main_widget(self) -> QWidget:
        """What has the keys in the bench in view."""
        return self.ways_in if self._stack.currentWidget() is self.ways_in else self._focus[self.bench]

    def take_keys_back(self) -> bool:
        """Give the keys to the bench in view; return whether something else had them."""
        focused = self._main_widget
        elsewhere = not (focused.hasFocus() or focused.isAncestorOf(self.focusWidget()))
        focused.setFocus()
        return elsewhere

    def run_job(self, name: str, work: Work, done: Callable[[Any], None], *, document_id: str | None = None) -> None:
        """Run long work with a progress bar; there is one at a time. document_id: what it is begun for, if anything."""

        def finished(result: Any) -> None:
            self.work_strip.hide()
            try:
                done(result)
            except NotcherError as problem:
                self.tell_failure(problem)

        self._jobs.start(
            "document",
            work,
            finished=finished,
            failed=self.tell_failure,
            progressed=self.work_strip.show_share,
            stopped=self.work_strip.hide,
            document_id=document_id,
        )
        if self._jobs.runs("document"):
            self.work_strip.begin(name)

    def seek(self, time_s: float) -> None:
        self._player.seek(time_s)

    def loop(self, span: tuple[float, float] | None) -> None:
        self._player.set_loop(span)

    def _on_cancel(self) -> None:
        self._jobs.cancel("document")

    # --- keys ---
    def event(self, event: QEvent | None) -> bool:
        """Leave the space bar to a button or a box that has the keys, before it plays."""
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.ShortcutOverride:
            bare = event.key() == Qt.Key.Key_Space and not event.modifiers()
            if bare and isinstance(self.focusWidget(), QAbstractButton | QComboBox):
                event.accept()
                return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Go back to the bench once a field is done with."""
        done = event is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter)
        if done and isinstance(self.focusWidget(), QAbstractSpinBox | QComboBox):
            self.take_keys_back()
        else:
            super().keyPressEvent(event)

    # --- what comes from outside ---
    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        data = event.mimeData()
        if data is not None and data.hasUrls() and data.urls()[0].isLocalFile():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        data = event.mimeData()
        if data is not None and data.hasUrls():
            self.file_dropped.emit(data.urls()[0].toLocalFile())

    def closeEvent(self, event: QCloseEvent) -> None:
        if self._may_close():
            self.closed.emit()
            event.accept()
        else:
            event.ignore()
