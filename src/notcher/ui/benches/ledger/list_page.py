"""The pages of the Students bench that are lists: what is due, the queue, what was given out."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Any

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QHeaderView, QTableWidget, QTableWidgetItem, QVBoxLayout, QWidget

from notcher.core.formats.document.models import score_from_data
from notcher.core.ledger import Book
from notcher.core.score import Score
from notcher.core.teaching import (
    INTERVALS,
    Due,
    Entry,
    agenda,
    day_of,
    due_words,
    entry_words,
    estimate_reason,
    estimate_words,
    solo_words,
    who_words,
)
from notcher.core.words import Naming, changed_words, day_words, hours, many
from notcher.ui.widgets.plain import Label, plain_tip
from notcher.ui.widgets.tables import as_list

SOON_DAYS = 7  # that stand on the page of today beside what is due


@dataclass(frozen=True)
class ListLine:
    """One row of a list: its cells, and what it stands for."""

    cells: tuple[str, ...]
    stands_for: Any


@dataclass(frozen=True)
class Listing:
    """A list: its heads, its rows, what is said over it, or where it is empty. wide: the column with room."""

    heads: tuple[str, ...]
    lines: Sequence[ListLine]
    said: str
    empty: str
    wide: int


@dataclass(frozen=True)
class Seen:
    """What the pages are made from. open_score: of the document that is open, under its id."""

    book: Book
    student_id: str
    today: date
    naming: Naming
    open_id: str = ""
    open_score: Score | None = None


Make = Callable[[Seen], Listing]


def today_list(shown: Seen) -> Listing:
    """Return what is due today or late, of all students, and what is due within a week."""
    entries = agenda(shown.book, until=shown.today + timedelta(days=SOON_DAYS))
    now = [entry for entry in entries if entry.due <= shown.today]
    soon = [entry for entry in entries if entry.due > shown.today and entry.kind is not Due.REVIEW]
    lines = [_entry_line(shown, entry) for entry in (*now, *soon)]
    text = f"{day_words(shown.today)}: {many(len(now), 'thing')} due, {many(len(soon), 'thing')} within a week."
    empty = "Nothing is due today. What students ask for stands in the queue, lessons come here from the Teach bench."
    return Listing(("Due", "Who", "What"), lines, text, empty, 2)


def due_today(book: Book, today: date) -> list[tuple[str, Entry]]:
    """Return what is due today or late, of all students, in one line each."""
    entries = agenda(book, until=today)
    return [
        (f"{who_words(book, entry.student_id)}: {entry_words(entry, book)} ({due_words(entry.due, today)})", entry)
        for entry in entries
    ]


def due_list(shown: Seen) -> Listing:
    """Return all that is to come for the chosen student."""
    lines = [_entry_line(shown, entry) for entry in agenda(shown.book, student_id=shown.student_id)]
    text = f"{who_words(shown.book, shown.student_id)}: {many(len(lines), 'thing')} to come. {INTERVALS}"
    empty = f"Nothing is to come. {INTERVALS}"
    return Listing(("Due", "Who", "What"), lines, text, empty, 2)


def _entry_line(shown: Seen, entry: Entry) -> ListLine:
    due = f"{day_words(entry.due)}, {due_words(entry.due, shown.today)}"
    return ListLine((due, who_words(shown.book, entry.student_id), entry_words(entry, shown.book)), entry)


def queue_list(shown: Seen) -> Listing:
    """Return what was asked for and is not done, with the hours it will take."""
    book, naming = shown.book, shown.naming
    lines, low, high = [], 0.0, 0.0
    for request in book.queue():
        notes = book.notes_of(request)
        estimate = book.estimate(notes)
        low, high = low + estimate.low_h, high + estimate.high_h
        due = day_of(request.due)
        lines.append(
            ListLine(
                (
                    "" if due is None else f"{day_words(due)}, {due_words(due, shown.today)}",
                    who_words(book, request.student_id),
                    ", ".join(
                        part for part in (request.title, request.version, request.stretch, request.sound) if part
                    ),
                    many(notes, "note") if notes else "not opened yet",
                    estimate_words(estimate, naming) if notes else "not known",
                    hours(request.spent_h, naming) if request.spent_h else "",
                ),
                request,
            )
        )
    whole = f"{hours(low, naming)} to {hours(high, naming)} in all. " if high else ""
    text = f"{many(len(lines), 'request')}: {whole}{estimate_reason(book, naming)}"
    empty = "No solo is asked for. R notes a request."
    return Listing(("Due", "Who", "What", "Notes", "Hours", "Spent"), lines, text, empty, 2)


def sent_list(shown: Seen) -> Listing:
    """Return what the chosen student was given, and what has changed in the open solo since."""
    lines = []
    for sent in shown.book.sent_to(shown.student_id):
        day = day_of(sent.sent_at)
        texts = changed_since(shown, sent)
        words = "open it to see" if texts is None else many(len(texts), "change") if texts else "nothing"
        lines.append(ListLine(("" if day is None else day_words(day), sent.title or "Untitled", words), sent))
    who = who_words(shown.book, shown.student_id)
    times = many(len(lines), "time")
    text = f"{who} was given something {times}. Of the solo that is open it is told what has changed since."
    empty = f"Nothing was given out yet to {who}: Ctrl+Alt+E notes that the open solo was."
    return Listing(("Given on", "Solo", "Changed since"), lines, text, empty, 1)


def changed_since(shown: Seen, sent: Any) -> list[str] | None:
    """Return what has changed since a state was given out, in words; None while its solo is not open."""
    if shown.open_score is None or shown.book.practice_id(shown.open_id) != shown.book.practice_id(sent.document_id):
        return None
    return changed_words(score_from_data(dict(sent.music)), shown.open_score, shown.naming)


class ListPage(QWidget):
    """One list with what is said over it and, under it, more about the chosen row."""

    opened = pyqtSignal(object)  # what the row stands for, of the one that was double-clicked

    def __init__(self, make: Make, name: str, more: Callable[[Seen, Any], str], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._make, self._more = make, more
        self._seen: Seen | None = None
        self._lines: Sequence[ListLine] = ()
        self.said, self.list, self.more = Label(), QTableWidget(0, 1), Label()
        self.focus: QWidget = self.list
        self.said.setWordWrap(True)
        self.said.setProperty("soft", True)
        self.more.setWordWrap(True)
        self.more.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.list.setAccessibleName(name)
        self.list.setTabKeyNavigation(False)
        self.list.setWordWrap(False)
        self.list.currentCellChanged.connect(lambda *_: self._tell())
        self.list.cellDoubleClicked.connect(lambda *_: self.opened.emit(self.chosen))
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.said)
        column.addWidget(self.list, 1)
        column.addWidget(self.more)

    def show_theme(self, scale: float) -> None:
        rows = self.list.verticalHeader()
        if rows is not None:
            rows.setDefaultSectionSize(round(27 * scale))

    @property
    def chosen(self) -> Any:
        """What the chosen row stands for; None where there is none."""
        row = self.list.currentRow()
        return self._lines[row].stands_for if 0 <= row < len(self._lines) else None

    def choose(self, row_id: str) -> None:
        """Choose the row that stands for something, by its id."""
        keys = [self._key(line.stands_for) for line in self._lines]
        if row_id in keys:
            self.list.setCurrentCell(keys.index(row_id), 0)

    def show_book(self, shown: Seen) -> None:
        listing, before = self._make(shown), self._key(self.chosen)
        self._seen, self._lines = shown, listing.lines
        self.said.setText(listing.said if listing.lines else listing.empty)
        table = self.list
        table.blockSignals(True)
        table.setColumnCount(len(listing.heads))
        table.setRowCount(len(listing.lines))
        as_list(table, stretched=listing.wide)
        table.setHorizontalHeaderLabels(listing.heads)
        heads = table.horizontalHeader()
        if heads is not None:
            heads.show()
            heads.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft)
            for column in range(len(listing.heads)):
                wide = column == listing.wide
                mode = QHeaderView.ResizeMode.Stretch if wide else QHeaderView.ResizeMode.ResizeToContents
                heads.setSectionResizeMode(column, mode)
        for row, line in enumerate(listing.lines):
            for column, words in enumerate(line.cells):
                item = QTableWidgetItem(words)
                item.setToolTip(plain_tip(words))
                table.setItem(row, column, item)
        keys = [self._key(line.stands_for) for line in listing.lines]
        table.blockSignals(False)
        if keys:
            table.setCurrentCell(keys.index(before) if before in keys else 0, 0)
        self._tell()

    @staticmethod
    def _key(stands_for: Any) -> object:
        return getattr(stands_for, "row_id", "") or getattr(stands_for, "id", None) or stands_for

    def _tell(self) -> None:
        words = self._more(self._seen, self.chosen) if self._seen is not None and self.chosen is not None else ""
        self.more.setText(words)
        self.more.setVisible(bool(words))


def solo_of(shown: Seen, row: Any) -> str:
    """Return what is known of the solo that a row is about, under its list."""
    document_id = getattr(row, "document_id", "")
    if not document_id:
        waiting = "No recording or tab was opened for it yet: Return asks for one, Ctrl+L takes the one that is open."
        return waiting if hasattr(row, "title") else ""
    solo = shown.book.known(document_id)
    if solo is None:
        return solo_words(shown.book, document_id)
    place = solo.path or "not saved yet"
    return f"{solo_words(shown.book, document_id)}, {many(solo.note_count, 'note')}: {place}"
