"""What an empty window offers: three large ways in, and the files opened lately."""

from collections.abc import Callable, Sequence
from pathlib import Path

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QKeySequence
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QSizePolicy, QVBoxLayout, QWidget

from notcher.ui.widgets.plain import Label

MOST_RECENT = 5  # what fits beside the other cards
WAYS = (
    ("file.open", "Open a recording", "Audio of a solo, or a saved document. It can be dropped here as well."),
    ("file.by_hand", "Write by hand", "An empty neck and a beat, for a solo without a recording."),
    ("file.demo", "Try the demo", "A made-up solo, to hear, correct, prove and teach."),
)
"""Commands by their ids, their words here, and what they are for."""


class WaysIn(QWidget):
    """Says through `chosen` which command is wanted, through `file_chosen` which file."""

    chosen = pyqtSignal(str)
    file_chosen = pyqtSignal(str)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.buttons: dict[str, QPushButton] = {}
        self.recent: list[QPushButton] = []
        row = QHBoxLayout()
        row.setSpacing(16)
        for name, words, purpose in WAYS:
            row.addWidget(self._way(name, words, purpose), 1, Qt.AlignmentFlag.AlignTop)
        self._lately = Label("Recent")
        self._lately.setProperty("title", True)
        self._files = QVBoxLayout()
        self._files.setSpacing(4)
        column = QVBoxLayout(self)
        column.setContentsMargins(48, 24, 48, 24)
        column.addStretch(2)
        column.addLayout(row)
        column.addSpacing(24)
        column.addWidget(self._lately)
        column.addLayout(self._files)
        column.addStretch(3)
        self.setFocusProxy(self.buttons[WAYS[0][0]])

    def _way(self, name: str, words: str, purpose: str) -> QWidget:
        button = QPushButton(words)
        button.setProperty("way", True)
        button.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        button.setMinimumHeight(96)
        button.setAccessibleDescription(purpose)
        button.clicked.connect(lambda: self.chosen.emit(name))
        self.buttons[name] = button
        qlabel = Label(purpose)
        qlabel.setProperty("soft", True)
        qlabel.setWordWrap(True)
        qlabel.setAlignment(Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignTop)
        way = QWidget()
        column = QVBoxLayout(way)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(button)
        column.addWidget(qlabel)
        return way

    def show_recent(self, paths: Sequence[str]) -> None:
        """Offer the files that were opened lately and are still there."""
        for button in self.recent:
            self._files.removeWidget(button)
            button.deleteLater()
        self.recent = []
        for path in [path for path in paths if Path(path).is_file()][:MOST_RECENT]:
            file = Path(path)
            button = QPushButton(f"{file.name}   ({file.parent})")
            button.setProperty("file", True)
            button.clicked.connect(self._choosing(path))
            self._files.addWidget(button)
            self.recent.append(button)
        self._lately.setVisible(bool(self.recent))

    def _choosing(self, path: str) -> Callable[[], None]:
        return lambda: self.file_chosen.emit(path)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Return takes the way in that has the keys, the arrows go from one to the next, paste opens a copied tab."""
        focused = self.focusWidget()
        if event is not None and event.matches(QKeySequence.StandardKey.Paste):
            self.chosen.emit("file.copied_tab")
            return
        if event is not None and isinstance(focused, QPushButton):
            if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                focused.click()
                return
            forward = event.key() in (Qt.Key.Key_Right, Qt.Key.Key_Down)
            if forward or event.key() in (Qt.Key.Key_Left, Qt.Key.Key_Up):
                self.focusNextPrevChild(forward)
                return
        super().keyPressEvent(event)
