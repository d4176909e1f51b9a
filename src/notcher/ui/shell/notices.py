"""What could not be done, in one sentence that goes when it is overtaken; and what is offered, which stays."""

from collections.abc import Callable

from PyQt6.QtCore import QEvent
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QSizePolicy, QWidget

from notcher.ui.state.shell import Offer
from notcher.ui.widgets.plain import Label, plain_tip

TWO_LINES_PX = 24
"""Up to so high lines two of them have room; of higher ones one has, and all words are in the tool tip."""


class NoticeBar(QFrame):
    """A sentence in place of the one before, and beside it an offer with its buttons, which no sentence covers.

    Its room is kept while it is hidden: nothing that a person is about to click moves when something is said.
    keys_of: tells by which keys the first and the second button can be taken.
    """

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setProperty("notice", True)
        self.keys_of: Callable[[int], str] = lambda _number: ""
        self.label, self.offered = Label(), Label()
        for label in (self.label, self.offered):
            label.setWordWrap(True)
            label.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Ignored)
        self.buttons: list[QPushButton] = []
        self._waiting: list[tuple[str, tuple[Offer, ...]]] = []
        self.close_button = close = QPushButton("Close")
        close.clicked.connect(self.quiet)
        self._said, self._offer = QWidget(), QWidget()
        message_row, self._offer_row = QHBoxLayout(self._said), QHBoxLayout(self._offer)
        for row in (message_row, self._offer_row):
            row.setContentsMargins(0, 0, 0, 0)
        message_row.addWidget(self.label, 1)
        message_row.addWidget(close)
        self._offer_row.addWidget(self.offered, 1)
        both = QHBoxLayout(self)
        both.setContentsMargins(12, 1, 8, 1)
        both.setSpacing(16)
        both.addWidget(self._offer, 1)
        both.addWidget(self._said, 1)
        self._said.hide()
        self._offer.hide()
        policy = self.sizePolicy()
        policy.setRetainSizeWhenHidden(True)
        self.setSizePolicy(policy)
        self._keep_height()
        self.hide()

    def changeEvent(self, event: QEvent | None) -> None:
        super().changeEvent(event)
        if event is not None and event.type() in (QEvent.Type.FontChange, QEvent.Type.StyleChange):
            self._keep_height()

    def _keep_height(self) -> None:
        line_px = self.fontMetrics().lineSpacing()
        self.setFixedHeight(2 * line_px + 6 if line_px <= TWO_LINES_PX else line_px + 14)

    def say(self, sentence: str) -> None:
        """Show a sentence in place of the one before."""
        self.label.setText(sentence)
        self.label.setToolTip(plain_tip(sentence))
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
        self.offered.setToolTip(plain_tip(sentence))
        for number, (words, do) in enumerate(offers):
            keys = self.keys_of(number) if number < 2 else ""
            button = QPushButton(f"{words} ({keys})" if keys else words)
            button.clicked.connect(lambda _checked=False, do=do: do())
            self._offer_row.addWidget(button)
            self.buttons.append(button)
        self._offer.show()
        self.show()

    def offer_need(self) -> str:
        return "" if self.buttons else "Nothing is offered."

    def second_need(self) -> str:
        return "" if len(self.buttons) > 1 else "There is no second answer."

    def take(self, number: int) -> None:
        """Take one of the offers, as a click on its button does."""
        if number < len(self.buttons):
            self.buttons[number].click()

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
