"""The main window: the benches in a stack, notices above, the work strip and the reel below.

It can be shown before there is anything to put in: menus, an empty strip and the ways in; what is asked of it then is
done as soon as the rest is there.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QCloseEvent, QKeyEvent, QKeySequence, QPaintEvent
from PyQt6.QtWidgets import (
    QAbstractButton,
    QAbstractSpinBox,
    QComboBox,
    QFrame,
    QHBoxLayout,
    QMainWindow,
    QStackedWidget,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from notcher.core.errors import NotcherError
from notcher.ui.commands.menus import MENUS
from notcher.ui.commands.wording import WORDING
from notcher.ui.shell.error_message import error_message
from notcher.ui.shell.file_drops import FileDrops
from notcher.ui.shell.notices import NoticeBar
from notcher.ui.shell.waiting import Waiting
from notcher.ui.shell.ways_in import WaysIn
from notcher.ui.shell.work_strip import WorkStrip
from notcher.ui.state.jobs import Jobs, Work
from notcher.ui.state.shell import Bench
from notcher.ui.widgets.elided_label import ElidedLabel

if TYPE_CHECKING:
    from notcher.ui.playback.player import Player

SIZE = (1280, 800)  # px; fits a small laptop
STRIP_PX = 140  # of the strip and the transport, while they are not there


class Window(QMainWindow):
    """Holds the benches and answers what its parts ask of it; see `notcher.ui.state.shell.Shell`."""

    file_dropped, tab_dropped = pyqtSignal(str), pyqtSignal(str)
    closed = pyqtSignal()
    first_painted = pyqtSignal()
    bench_shown = pyqtSignal(object)

    def __init__(self, jobs: Jobs) -> None:
        super().__init__()
        self.jobs = jobs
        self._player: Player | None = None
        self.stack = QStackedWidget()
        self._focus: dict[Bench, QWidget] = {}
        self._may_close: Callable[[], bool] = lambda: True
        self._painted = False
        self.waiting = Waiting()
        self.bench, self.nothing_open = Bench.NOTCH, True
        self.bench_buttons: dict[Bench, QToolButton] = {}
        self.notices, self.work_strip, self.ways_in = NoticeBar(), WorkStrip(), WaysIn()
        self.offer, self.withdraw = self.notices.offer, self.notices.withdraw
        self.work_strip.cancel_requested.connect(self.cancel_work)
        self.ways_in.chosen.connect(self.waiting.run)
        self.ways_in.file_chosen.connect(self._take_file)
        self.title = ElidedLabel()
        self.title.setProperty("soft", True)
        self.setWindowTitle("Notcher")
        self.setAcceptDrops(True)
        self.resize(*SIZE)
        self._lay_out()
        self.drops = FileDrops(self, self._take_file, self._take_tab)

    def _lay_out(self) -> None:
        bar = self.menuBar()
        for name in MENUS:
            if bar is not None:
                bar.addMenu(name)
        heads = QHBoxLayout()
        heads.setContentsMargins(8, 0, 8, 0)
        for bench in Bench:
            button = QToolButton()
            button.setText(WORDING[f"bench.{bench}"].label)
            button.setCheckable(True)
            button.setChecked(bench is self.bench)
            button.setProperty("bench", True)
            button.clicked.connect(lambda _checked=False, bench=bench: self.show_bench(bench))
            heads.addWidget(button)
            self.bench_buttons[bench] = button
        heads.addWidget(self.title, 1)
        self.stack.addWidget(self.ways_in)
        self._strip = QFrame()
        self._strip.setProperty("card", True)
        self._strip.setFixedHeight(STRIP_PX)
        self._column = QVBoxLayout()
        self._column.setContentsMargins(0, 0, 0, 0)
        self._column.setSpacing(0)
        self._column.addLayout(heads)
        band = QHBoxLayout()
        band.setSpacing(0)
        band.addWidget(self.notices, 3)
        band.addWidget(self.work_strip, 2)
        self._column.addLayout(band)
        self._column.addWidget(self.stack, 1)
        self._column.addWidget(self._strip)
        centre = QWidget()
        centre.setLayout(self._column)
        self.setCentralWidget(centre)
        self.ways_in.setFocus()

    def put_in(
        self,
        benches: dict[Bench, tuple[QWidget, QWidget]],
        reel: QWidget,
        player: Player,
        may_close: Callable[[], bool],
    ) -> None:
        """Take in what the window is made for. benches: each with the widget that has the keys when it is in front."""
        self._may_close, self._player = may_close, player
        for bench, (widget, focused) in benches.items():
            self._focus[bench] = focused
            self.stack.addWidget(widget)
        self._column.replaceWidget(self._strip, reel)
        self._strip.hide()
        self._strip.deleteLater()

    def show_title(self, title: str, facts: str) -> None:
        """Name what is open, in the frame and beside the benches."""
        self.setWindowTitle(f"{title} – Notcher")
        self.title.setText(f"{title}: {facts}")

    # --- what parts may ask ---
    def notice(self, sentence: str) -> None:
        """Say something without stopping the work."""
        self.notices.say(sentence)

    def quiet(self) -> None:
        """Take away what was said: it is no longer news."""
        self.notices.quiet()

    def tell_failure(self, problem: Exception) -> None:
        """Say what went wrong, in one sentence."""
        self.work_strip.hide()
        self.notice(error_message(problem))

    def show_bench(self, bench: Bench) -> None:
        """Bring a bench to the front."""
        if not self._focus:
            self.waiting.act(lambda: self.show_bench(bench))
            return
        self.bench = bench
        offers = self.nothing_open and bench is Bench.NOTCH
        self.stack.setCurrentIndex(0 if offers else 1 + list(Bench).index(bench))
        for name, button in self.bench_buttons.items():
            button.setChecked(name is bench)
        self._main_widget.setFocus(Qt.FocusReason.ShortcutFocusReason)  # controls show that they have the keys
        self.bench_shown.emit(bench)

    @property
    def _main_widget(self) -> QWidget:
        """What has the keys in the bench in view."""
        shown, benches = self.stack.currentWidget(), range(1, 1 + len(Bench))
        return self._focus[self.bench] if shown is None or self.stack.currentIndex() in benches else shown

    def take_keys_back(self) -> bool:
        """Give the keys to the bench in view; return whether something else had them."""
        focused = self._main_widget
        elsewhere = not (focused.hasFocus() or focused.isAncestorOf(self.focusWidget()))
        focused.setFocus()
        return elsewhere

    def run_job(self, name: str, work: Work, then: Callable[[Any], None], *, document_id: str | None = None) -> None:
        """Run long work with a progress bar; there is one at a time. document_id: what it is begun for, if anything."""

        def finished(result: Any) -> None:
            self.work_strip.hide()
            try:
                then(result)
            except NotcherError as problem:
                self.tell_failure(problem)

        self.jobs.start(
            "document",
            work,
            finished=finished,
            failed=self.tell_failure,
            progressed=self.work_strip.show_share,
            stopped=self.work_strip.hide,
            document_id=document_id,
        )
        if self.jobs.runs("document"):
            self.work_strip.begin(name)

    def work_need(self) -> str:
        """Why nothing can be cancelled; empty when something can."""
        return "" if self.jobs.runs("document") else "Nothing runs that could be cancelled."

    def cancel_work(self) -> None:
        self.jobs.cancel("document")

    def seek(self, time_s: float) -> None:
        if self._player is not None:
            self._player.seek(time_s)

    def loop(self, span: tuple[float, float] | None) -> None:
        if self._player is not None:
            self._player.set_loop(span)

    # --- keys ---
    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Press the button that has the keys, go back to the bench once a field is done with; keep what is pressed
        before everything is there."""
        if event is None:
            return
        entered = event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter)
        if not self.waiting.over:
            self.waiting.key(QKeySequence(event.keyCombination()))
        elif entered and isinstance(focused := self.focusWidget(), QAbstractButton):
            focused.click()
        elif entered and isinstance(self.focusWidget(), QAbstractSpinBox | QComboBox):
            self.take_keys_back()
        else:
            super().keyPressEvent(event)

    # --- what comes from outside ---
    def paintEvent(self, event: QPaintEvent | None) -> None:
        super().paintEvent(event)
        if not self._painted:
            self._painted = True
            self.first_painted.emit()

    def _take_file(self, path: str) -> None:
        self.waiting.act(lambda: self.file_dropped.emit(path))

    def _take_tab(self, text: str) -> None:
        self.waiting.act(lambda: self.tab_dropped.emit(text))

    def closeEvent(self, event: QCloseEvent) -> None:
        if self._may_close():
            self.closed.emit()
            event.accept()
        else:
            event.ignore()
