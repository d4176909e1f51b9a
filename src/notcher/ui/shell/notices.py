"""What could not be done, or is offered, in one sentence; nothing has to be clicked away."""

from collections.abc import Callable

from PyQt6.QtWidgets import QFrame, QHBoxLayout, QLabel, QPushButton, QWidget

Offer = tuple[str, Callable[[], None]]
"""A button's words, and what it does."""


class NoticeBar(QFrame):
    """One sentence at a time, with buttons when something is offered."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setProperty("notice", True)
        self.label = QLabel()
        self.label.setWordWrap(True)
        self.buttons: list[QPushButton] = []
        close = QPushButton("Close")
        close.clicked.connect(self.hide)
        self._row = QHBoxLayout(self)
        self._row.setContentsMargins(12, 5, 8, 5)
        self._row.addWidget(self.label, 1)
        self._row.addWidget(close)
        self.hide()

    def say(self, sentence: str, *offers: Offer) -> None:
        """Show a sentence in place of the one before, with a button for each offer."""
        self.label.setText(sentence)
        for button in self.buttons:
            self._row.removeWidget(button)
            button.deleteLater()
        self.buttons = []
        for place, (words, do) in enumerate(offers, start=1):
            button = QPushButton(words)
            button.clicked.connect(lambda _checked=False, do=do: do())
            self._row.insertWidget(place, button)
            self.buttons.append(button)
        self.show()
