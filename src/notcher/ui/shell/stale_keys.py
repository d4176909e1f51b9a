"""Leaves out keys that were pressed while the window was busy: by the time they come they may mean something else."""

import time
from collections.abc import Callable

from PyQt6.QtCore import QEvent, QObject
from PyQt6.QtGui import QInputEvent, QKeyEvent
from PyQt6.QtWidgets import QApplication, QLineEdit, QPlainTextEdit, QTextEdit, QWidget

STALE_S = 0.3
"""Common practice, no source: who waits longer than this for an answer looks again before pressing on."""
ANOTHER_CLOCK_S = 60.0
"""No window is busy for so long: the window system counts its time from another moment since."""
TEXT = (QLineEdit, QPlainTextEdit, QTextEdit)


class StaleKeys(QObject):
    """Watches what the window system brings to a window, and when it happened.

    Each event carries the window system's own clock; the least distance to ours that was seen is that of an event that
    came at once. What is typed into a text stays.
    """

    def __init__(
        self, window: QWidget, notice: Callable[[str], None], clock: Callable[[], float] = time.monotonic
    ) -> None:
        super().__init__(window)
        self._window, self._notice, self._clock = window, notice, clock
        self._least_s: float | None = None
        window.installEventFilter(self)  # until it is shown: only then the window system knows it
        self._watch()

    def _watch(self) -> None:
        handle = self._window.windowHandle()
        if handle is not None:
            self._window.removeEventFilter(self)
            handle.installEventFilter(self)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if watched is self._window:
            if event is not None and event.type() == QEvent.Type.Show:
                self._watch()
            return False
        if not isinstance(event, QInputEvent) or not event.timestamp():
            return False
        late_s = self._late_s(event.timestamp() / 1000)
        if not isinstance(event, QKeyEvent) or late_s <= STALE_S or isinstance(QApplication.focusWidget(), TEXT):
            return False
        if event.type() == QEvent.Type.ShortcutOverride:
            event.accept()  # it is no command's either, and comes once more as a key
        elif event.type() == QEvent.Type.KeyPress:
            self._notice("Keys that came while the window was busy were left out: press them again.")
        return True

    def _late_s(self, happened_s: float) -> float:
        apart_s = self._clock() - happened_s
        if self._least_s is None or not self._least_s <= apart_s <= self._least_s + ANOTHER_CLOCK_S:
            self._least_s = apart_s
        return apart_s - self._least_s
