"""Keeps the keys from getting lost: what had them may be deleted, hidden or disabled."""

from PyQt6.QtCore import QObject, QTimer
from PyQt6.QtWidgets import QApplication, QWidget

from notcher.ui.shell.window import Window


class FocusKeeper(QObject):
    """Gives the keys back to the bench in view once nothing has them."""

    def __init__(self, window: Window) -> None:
        super().__init__(window)
        self._window = window
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.setInterval(0)
        self._later.timeout.connect(self._give_back)
        app = QApplication.instance()
        if isinstance(app, QApplication):
            app.focusChanged.connect(self._on_focus_changed)

    def _on_focus_changed(self, _before: QWidget | None, now: QWidget | None) -> None:
        if now is None:
            self._later.start()

    def _give_back(self) -> None:
        window = self._window
        if QApplication.focusWidget() is None and window.isActiveWindow() and window.isVisible():
            window.take_keys_back()
