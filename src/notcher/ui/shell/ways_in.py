"""What an empty window offers: three large ways in, the files opened lately, and what is due today."""

import itertools
from collections.abc import Callable, Iterable, Sequence
from functools import partial
from pathlib import Path
from typing import Any

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QKeySequence
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QSizePolicy, QVBoxLayout, QWidget

from notcher.ui.widgets.plain import Label

MOST_RECENT, MOST_DUE = 5, 5  # what fits under the ways in
WAYS = (
    ("file.open", "Open a recording", "Audio of a solo, or a saved document. It can be dropped here as well."),
    ("file.by_hand", "Write by hand", "An empty neck and a beat, for a solo without a recording."),
    ("file.demo", "Try the demo", "A made-up solo, to hear, correct, prove and teach."),
)
"""Commands by their ids, their words here, and what they are for."""


class WaysIn(QWidget):
    """Says through `chosen` which command is wanted, through `file_chosen` which file, `due_chosen` which thing due."""

    chosen = pyqtSignal(str)
    file_chosen = pyqtSignal(str)
    due_chosen = pyqtSignal(object)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.buttons: dict[str, QPushButton] = {}
        self.recent: list[QPushButton] = []
        self.due: list[QPushButton] = []
        row = QHBoxLayout()
        row.setSpacing(16)
        for name, words, purpose in WAYS:
            row.addWidget(self._way(name, words, purpose), 1, Qt.AlignmentFlag.AlignTop)
        self._lately, self._files = _titled_column("Recent solos")
        self._today, self._things = _titled_column("Due today")
        column = QVBoxLayout(self)
        column.setContentsMargins(48, 24, 48, 24)
        column.addStretch(2)
        column.addLayout(row)
        column.addSpacing(24)
        below = QHBoxLayout()
        below.setSpacing(32)
        below.addWidget(self._lately, 1)
        below.addWidget(self._today, 1)
        column.addLayout(below)
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

    @property
    def tips(self) -> dict[QWidget, str]:
        """The ways in, each with its command."""
        return {button: name for name, button in self.buttons.items()}

    def show_recent(self, paths: Sequence[str]) -> None:
        """Offer the files that were opened lately and are still there."""
        there = [path for path in paths if Path(path).is_file()][:MOST_RECENT]
        rows = [(f"{Path(path).name}   ({Path(path).parent})", partial(self.file_chosen.emit, path)) for path in there]
        self.recent = _filled(self._files, self.recent, rows)
        self._lately.setVisible(bool(self.recent))
        self._give_tab_order()

    @property
    def _ways(self) -> list[QPushButton]:
        """All that can be chosen, as it is read."""
        return [*self.buttons.values(), *self.recent, *self.due]

    def _give_tab_order(self) -> None:
        for before, after in itertools.pairwise(self._ways):
            QWidget.setTabOrder(before, after)

    def show_due(self, things: Sequence[tuple[str, Any]]) -> None:
        """Offer what is due today or late: words, and what each stands for."""
        rows = [(words, partial(self.due_chosen.emit, thing)) for words, thing in things[:MOST_DUE]]
        if len(things) > MOST_DUE:
            rows.append((f"{len(things) - MOST_DUE} more …", partial(self.chosen.emit, "bench.ledger")))
        self.due = _filled(self._things, self.due, rows)
        self._today.setVisible(bool(self.due))
        self._give_tab_order()

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
                ways = self._ways
                at = ways.index(focused) + (1 if forward else -1)
                ways[at % len(ways)].setFocus(Qt.FocusReason.TabFocusReason)
                return
        super().keyPressEvent(event)


def _titled_column(title: str) -> tuple[QWidget, QVBoxLayout]:
    """A list with its heading, and the rows of it."""
    whole, heading, rows = QWidget(), Label(title), QVBoxLayout()
    heading.setProperty("title", True)
    rows.setSpacing(4)
    column = QVBoxLayout(whole)
    column.setContentsMargins(0, 0, 0, 0)
    column.addWidget(heading)
    column.addLayout(rows)
    column.addStretch(1)
    whole.hide()
    return whole, rows


def _filled(
    column: QVBoxLayout, before: Iterable[QPushButton], rows: Iterable[tuple[str, Callable[[], None]]]
) -> list[QPushButton]:
    """Put other buttons into a list."""
    for button in before:
        column.removeWidget(button)
        button.deleteLater()
    buttons = []
    for words, chosen in rows:
        button = QPushButton(words)
        button.setProperty("file", True)
        button.clicked.connect(chosen)
        button.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        column.addWidget(button)
        buttons.append(button)
    return buttons
