"""A line to type words into that choose what is shown below."""

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QLineEdit, QWidget


class SearchLine(QLineEdit):
    """Return and Down go on to what was found; they press no button."""

    left = pyqtSignal()

    def __init__(self, hint: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setPlaceholderText(hint)
        self.setAccessibleName("Search")
        self.setClearButtonEnabled(True)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Down):
            self.left.emit()
            return
        super().keyPressEvent(event)
