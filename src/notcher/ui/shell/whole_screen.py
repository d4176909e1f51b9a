"""Gives the whole screen to the stand, and takes it back once a bench is shown again."""

from collections.abc import Sequence

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QMainWindow, QStackedWidget, QWidget


class WholeScreen(QObject):
    """What is around the stack is hidden while the stand has the screen."""

    left = pyqtSignal()  # the bench is wanted again

    def __init__(self, window: QMainWindow, stack: QStackedWidget, stand: QWidget, around: Sequence[QWidget]) -> None:
        super().__init__(window)
        self._window, self._stack, self._stand, self._around = window, stack, stand, around
        self.on = self._was_full = False
        stack.addWidget(stand)

    def toggle(self) -> None:
        """Show the stand, or the bench."""
        if self.on:
            self.left.emit()
            return
        self._was_full = self._window.isFullScreen()
        self._dress(on=True)
        self._stack.setCurrentWidget(self._stand)
        self._stand.setFocus()
        self._window.showFullScreen()

    def leave(self) -> None:
        """A bench is shown: what was hidden for the stand comes back."""
        if self.on:
            self._dress(on=False)
            if not self._was_full:
                self._window.showNormal()

    def _dress(self, *, on: bool) -> None:
        self.on = on
        for part in (self._window.menuBar(), *self._around):
            if part is not None:
                part.setVisible(not on)
