"""Six short cards that point at the window's parts, over the first recording that is opened; left at once by a key."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

from PyQt6.QtCore import QEvent, QObject, QPoint, QRect, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from notcher.painting.theme import PAPER, Theme
from notcher.ui.shell.window import Window
from notcher.ui.state.shell import Bench
from notcher.ui.widgets.plain import Label

WIDTH, MARGIN, OUTLINE = 380, 14, 4
"""Of a card, around it, and of the line around the part it points at; pixels at the usual size of text."""


@dataclass(frozen=True, slots=True)
class TourCard:
    """What is said, and of which part of the window."""

    title: str
    words: str
    part: QWidget


def six_cards(
    keys: Callable[[str], str], tab: QWidget, facts: QWidget, reel: QWidget, benches: Mapping[Bench, QWidget]
) -> tuple[TourCard, ...]:
    """Return the cards of the tour. keys: of a command, as they are now. benches: what each is opened by."""
    texts = (
        ("The tab, measured", tab,
         "Each lane is a string, each tag a fret. The broad band is the pitch that the tab claims; the thin line is "
         "what was measured. Where they part, one of them is wrong."),
        ("One note", facts,
         "What is known of the selected note, and how sure it is. Type a fret to set another; "
         f"{keys('note.accept')} accepts it, {keys('walk.next_doubt')} goes to the next doubt."),
        ("The strip", reel,
         f"The whole recording. {keys('play.toggle')} plays; {keys('loop.toggle')} loops the phrase; "
         f"{keys('pace.slower')} slows it down, with its pitch kept."),
        ("Prove", benches[Bench.PROVE],
         "Tab and recording compared, the worst first: correct it, excuse it, or say that the tab is right."),
        ("Teach", benches[Bench.TEACH],
         "Phrases down, tempos across: loop one, mark it clean, shaky or missed, and plan the lesson to the minute."),
        ("Sheets", benches[Bench.SHEETS],
         "The page that the student takes home, printed or with its loops. "
         f"{keys('edit.finder')} finds anything by its name; {keys('help.guide')} opens the guide."),
    )  # fmt: skip
    return tuple(TourCard(title, words, part) for title, part, words in texts)


class _Outline(QWidget):
    """A line around a part of the window; the mouse goes through it."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.theme = PAPER
        self.hide()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setPen(QPen(self.theme.color("accent"), OUTLINE))
        painter.drawRect(self.rect().adjusted(OUTLINE // 2, OUTLINE // 2, -OUTLINE // 2, -OUTLINE // 2))


class TourCards(QObject):
    """One card at a time, beside what it is about. The keys stay where they are.

    cards: what is told, asked for anew each time: keys may be others by then.
    """

    def __init__(self, window: Window, cards: Callable[[], Sequence[TourCard]]) -> None:
        super().__init__(window)
        self._window, self._cards = window, cards
        self._told: Sequence[TourCard] = ()
        self._at, self._scale = 0, 1.0
        self._outline = _Outline(window)
        self.card = QFrame(window)
        self.card.setProperty("over", True)
        self.card.setAutoFillBackground(True)
        self.title, self.words, self.count = Label(), Label(), Label()
        self.title.setProperty("heading", True)
        self.words.setWordWrap(True)
        self.count.setProperty("soft", True)
        self.next, self.leave_button = QPushButton("Next"), QPushButton("Close the tour")
        self.next.clicked.connect(self.go_on)
        self.leave_button.clicked.connect(self.leave)
        below = QHBoxLayout()
        below.addWidget(self.count, 1)
        below.addWidget(self.leave_button)
        below.addWidget(self.next)
        column = QVBoxLayout(self.card)
        for row in (self.title, self.words):
            column.addWidget(row)
        column.addLayout(below)
        self.card.hide()
        window.installEventFilter(self)

    @property
    def shown(self) -> bool:
        return not self.card.isHidden()

    def show_theme(self, theme: Theme, scale: float) -> None:
        self._outline.theme, self._scale = theme, scale
        if self.shown:
            self._place()

    def start(self) -> None:
        """Show the first card."""
        self._told, self._at = self._cards(), 0
        self._show()

    def go_on(self) -> None:
        """Show the next card; after the last they are gone."""
        if not self.shown:
            return
        self._at += 1
        if self._at < len(self._told):
            self._show()
        else:
            self.leave()

    def leave(self) -> bool:
        """Take the cards away; return whether there were any."""
        there = self.shown
        had_keys = there and self.card.isAncestorOf(self._window.focusWidget())
        self.card.hide()
        if had_keys:
            self._window.take_keys_back()
        self._outline.hide()
        return there

    def _show(self) -> None:
        card = self._told[self._at]
        self.title.setText(card.title)
        self.words.setText(card.words)
        self.count.setText(f"{self._at + 1} of {len(self._told)}")
        self.next.setText("Next" if self._at + 1 < len(self._told) else "Done")
        self.card.setAccessibleName(f"{card.title}. {card.words}")
        self._place()
        for part in (self._outline, self.card):
            part.show()
            part.raise_()

    def _place(self) -> None:
        """Put the outline around the part, and the card where it covers least of it."""
        part = self._told[self._at].part
        there = QRect(part.mapTo(self._window, QPoint(0, 0)), part.size())
        self._outline.setGeometry(there.adjusted(-OUTLINE, -OUTLINE, OUTLINE, OUTLINE))
        self.card.setFixedWidth(min(round(WIDTH * self._scale), self._window.width() - 2 * MARGIN))
        height = self.card.heightForWidth(self.card.width())
        self.card.resize(self.card.width(), max(height, self.card.sizeHint().height()))
        room = self._window.rect().adjusted(MARGIN, MARGIN, -MARGIN, -MARGIN)
        left = min(max(there.center().x() - self.card.width() // 2, room.left()), room.right() - self.card.width())
        below, above = there.bottom() + MARGIN, there.top() - MARGIN - self.card.height()
        if below + self.card.height() <= room.bottom():
            top = below
        elif above >= room.top():
            top = above
        else:  # a part as large as the window: inside it, at its foot
            left, top = room.right() - self.card.width(), there.bottom() - MARGIN - self.card.height()
        self.card.move(left, max(top, room.top()))

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if event is not None and event.type() == QEvent.Type.Resize and self.shown:
            self._place()
        return super().eventFilter(watched, event)
