"""What could not be done, in one sentence that goes when it is overtaken; and what is offered, which stays."""

from PyQt6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from notcher.ui.state.shell import Offer
from notcher.ui.widgets.plain import Label


class NoticeBar(QFrame):
    """A sentence in place of the one before, and above it an offer with its buttons, which no sentence covers."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setProperty("notice", True)
        self.label, self.offered = Label(), Label()
        for label in (self.label, self.offered):
            label.setWordWrap(True)
        self.buttons: list[QPushButton] = []
        self._waiting: list[tuple[str, tuple[Offer, ...]]] = []
        close = QPushButton("Close")
        close.clicked.connect(self.quiet)
        self._said, self._offer = QWidget(), QWidget()
        message_row, self._offer_row = QHBoxLayout(self._said), QHBoxLayout(self._offer)
        for row in (message_row, self._offer_row):
            row.setContentsMargins(0, 0, 0, 0)
        message_row.addWidget(self.label, 1)
        message_row.addWidget(close)
        self._offer_row.addWidget(self.offered, 1)
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 5, 8, 5)
        column.addWidget(self._offer)
        column.addWidget(self._said)
        self._said.hide()
        self._offer.hide()
        self.hide()

    def say(self, sentence: str) -> None:
        """Show a sentence in place of the one before."""
        self.label.setText(sentence)
        self._said.show()
        self.show()

    def quiet(self) -> None:
        """Take the sentence away; what is offered stays."""
        self._said.hide()
        self.setVisible(not self._offer.isHidden())

    def offer(self, sentence: str, *offers: Offer) -> None:
        """Show what is offered, with a button each, until one is taken; what is offered meanwhile waits behind it."""
        if self.buttons:
            self._waiting.append((sentence, offers))
            return
        self.offered.setText(sentence)
        for words, do in offers:
            button = QPushButton(words)
            button.clicked.connect(lambda _checked=False, do=do: do())
            self._offer_row.addWidget(button)
            self.buttons.append(button)
        self._offer.show()
        self.show()

    def withdraw(self) -> None:
        """Offer this no more; what waited behind it comes next."""
        for button in self.buttons:
            self._offer_row.removeWidget(button)
            button.deleteLater()
        self.buttons = []
        self._offer.hide()
        self.setVisible(not self._said.isHidden())
        if self._waiting:
            sentence, offers = self._waiting.pop(0)
            self.offer(sentence, *offers)
