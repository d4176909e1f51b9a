"""The Ledger bench: students on the left, and of the record one page at a time."""

from collections.abc import Callable, Mapping
from datetime import date
from typing import Any

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QStackedWidget,
    QTextBrowser,
    QVBoxLayout,
    QWidget,
)

from notcher.core.ledger import Student
from notcher.core.teaching import sheet_html, sheet_lines
from notcher.core.words import USUAL, Naming, many
from notcher.painting.theme import Theme
from notcher.ui.benches.ledger.list_page import (
    ListPage,
    Seen,
    changed_since,
    due_list,
    queue_list,
    sent_list,
    solo_of,
    today_list,
)
from notcher.ui.benches.ledger.plot_pages import HoursPage, ProgressPage
from notcher.ui.state.ledger_state import LedgerState
from notcher.ui.state.session import Session
from notcher.ui.widgets.flow import FlowLayout
from notcher.ui.widgets.plain import Label

PAGES = ("Today", "Queue", "Due", "Progress", "What we did", "Hours", "Given out")
PAGE_COMMANDS = tuple(f"ledger.{name.lower().replace(' ', '_')}" for name in PAGES)
STUDENT_ACTS = ("student.new", "student.change")
ACTS = {
    "Today": ("request.new", "ledger.open", "lesson.was_held", "lesson.date"),
    "Queue": ("request.new", "ledger.change", "request.hours", "request.done", "ledger.open"),
    "Due": ("ledger.open", "lesson.was_held", "lesson.date"),
    "Progress": ("ledger.why",),
    "What we did": ("ledger.sheet",),
    "Hours": ("ledger.why",),
    "Given out": ("ledger.give_state", "ledger.changes", "ledger.open", "ledger.take_away"),
}
"""What a page has buttons for, by the ids of the commands."""
TOLD = 6  # changes since a state was given out, that are listed


class SheetPage(QWidget):
    """What we did, as the student gets it."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.text = QTextBrowser()
        self.text.setAccessibleName("What we did")
        self.text.setFrameShape(QFrame.Shape.NoFrame)
        self.focus: QWidget = self.text
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.text)

    def show_book(self, shown: Seen) -> None:
        self.text.setHtml(sheet_html(sheet_lines(shown.book, shown.student_id, shown.naming)))


def _changes_told(shown: Seen, sent: Any) -> str:
    texts = changed_since(shown, sent)
    if texts is None:
        return solo_of(shown, sent)
    more = len(texts) - TOLD
    return "\n".join([*texts[:TOLD], *([f"and {many(more, 'change')} more"] if more > 0 else [])])


class LedgerBench(QWidget):
    """Shows the record and says what is wanted of a row."""

    solo_requested = pyqtSignal(object)  # what the row stands for
    command_requested = pyqtSignal(str)

    def __init__(
        self, session: Session, ledger: LedgerState, today: Callable[[], date], parent: QWidget | None = None
    ) -> None:
        """today: what day it is."""
        super().__init__(parent)
        self._session, self._ledger, self._today = session, ledger, today
        self._naming = USUAL
        self.acts: dict[str, QPushButton] = {}
        self.students, self.about, self.pages = QListWidget(), Label(), QStackedWidget()
        makes = (today_list, queue_list, due_list)
        self.today, self.queue, self.due = (
            ListPage(make, name, solo_of) for make, name in zip(makes, PAGES, strict=False)
        )
        self.progress, self.sheet, self.hours = ProgressPage(), SheetPage(), HoursPage()
        self.sent = ListPage(sent_list, PAGES[-1], _changes_told)
        self._made = (self.today, self.queue, self.due, self.progress, self.sheet, self.hours, self.sent)
        self.buttons = [QPushButton(name) for name in PAGES]
        self._lay_out()
        ledger.changed.connect(self.refresh)
        ledger.student_changed.connect(self.refresh)
        session.score_changed.connect(self.refresh)
        self.students.currentRowChanged.connect(self._on_student)
        for page in (self.today, self.queue, self.due, self.sent):
            page.opened.connect(self.solo_requested)

    def _lay_out(self) -> None:
        left = QFrame()
        left.setProperty("card", True)
        self._left = left
        column = QVBoxLayout(left)
        title = Label("Students")
        title.setProperty("title", True)
        self.students.setAccessibleName("Students")
        self.students.setSpacing(3)
        self.about.setWordWrap(True)
        self.about.setProperty("soft", True)
        self.about.setAlignment(Qt.AlignmentFlag.AlignTop)
        for widget, room in ((title, 0), (self.students, 3), (self.about, 2)):
            column.addWidget(widget, room)
        for name in STUDENT_ACTS:
            column.addWidget(self._act(name))
        right = QFrame()
        right.setProperty("card", True)
        heads = FlowLayout(spacing=4)
        for at, button in enumerate(self.buttons):
            button.setCheckable(True)
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            button.clicked.connect(lambda _checked=False, at=at: self.show_page(at))
            heads.addWidget(button)
        for page in self._made:
            self.pages.addWidget(page)
        acts = FlowLayout()
        for name in dict.fromkeys(name for names in ACTS.values() for name in names):
            acts.addWidget(self._act(name))
        inside = QVBoxLayout(right)
        inside.addLayout(heads)
        inside.addWidget(self.pages, 1)
        inside.addLayout(acts)
        row = QHBoxLayout(self)
        row.setContentsMargins(8, 8, 8, 8)
        row.addWidget(left)
        row.addWidget(right, 1)
        self._show_heads()

    def _act(self, name: str) -> QPushButton:
        """A button for a command; its words come with the commands."""
        button = QPushButton()
        button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        button.clicked.connect(lambda: self.command_requested.emit(name))
        self.acts[name] = button
        return button

    @property
    def page_tips(self) -> dict[QWidget, str]:
        """The heads of the pages, each with its command."""
        return dict(zip(self.buttons, PAGE_COMMANDS, strict=True))

    def name_acts(self, labels: Mapping[str, str]) -> None:
        """Call the buttons as their commands are called. labels: by the commands' ids."""
        for name, button in self.acts.items():
            button.setText(labels[name])

    # --- looks ---
    def show_theme(self, theme: Theme, scale: float) -> None:
        for lists in (self.today, self.queue, self.due, self.sent):
            lists.show_theme(scale)
        self.progress.show_theme(theme, scale)
        self.hours.show_theme(theme, scale)
        self._left.setFixedWidth(round(90 + 130 * scale))

    def set_naming(self, naming: Naming) -> None:
        self._naming = naming
        self.refresh()

    # --- pages ---
    @property
    def page(self) -> int:
        return self.pages.currentIndex()

    def show_page(self, at: int) -> None:
        """Bring a page to the front, with the keys."""
        self.pages.setCurrentIndex(at)
        self._show_heads()
        self.refresh()
        if self.isVisible():
            self.setFocus()

    def show_row(self, at: int, row_id: str) -> None:
        """Bring a page to the front with one of its rows chosen."""
        self.show_page(at)
        page = self._made[at]
        if isinstance(page, ListPage):
            page.choose(row_id)

    def setFocus(self, reason: Qt.FocusReason = Qt.FocusReason.OtherFocusReason) -> None:
        """Give the page in view the keys; a focus proxy would take the students out of the way of Tab."""
        self._made[self.page].focus.setFocus(reason)

    def _show_heads(self) -> None:
        for at, button in enumerate(self.buttons):
            button.setChecked(at == self.page)
        shown = (*STUDENT_ACTS, *ACTS[PAGES[self.page]])
        for name, act in self.acts.items():
            act.setVisible(name in shown)

    @property
    def chosen(self) -> Any:
        """What the chosen row of the page in view stands for; None where there is none."""
        page = self._made[self.page]
        return page.chosen if isinstance(page, ListPage) else None

    @property
    def seen(self) -> Seen:
        session = self._session
        return Seen(
            self._ledger.book, self._ledger.student.id, self._today(), self._naming, session.document.id,
            session.document.score if session.document.score.notes else None,
        )  # fmt: skip

    def refresh(self) -> None:
        """Show what stands in the record now; only what is in view is made."""
        if not self.isVisible():
            return
        self._show_students()
        self._made[self.page].show_book(self.seen)

    def showEvent(self, event: object) -> None:
        self.refresh()

    # --- students ---
    def _show_students(self) -> None:
        book, chosen = self._ledger.book, self._ledger.student
        rows = [(student.name, student.id) for student in book.present]
        shown = [self.students.item(at) for at in range(self.students.count())]
        self.students.blockSignals(True)
        if rows != [(item.text(), item.data(Qt.ItemDataRole.UserRole)) for item in shown if item is not None]:
            self.students.clear()
            for name, student_id in rows:
                item = QListWidgetItem(name)
                item.setData(Qt.ItemDataRole.UserRole, student_id)
                self.students.addItem(item)
        self.students.setCurrentRow([student_id for _, student_id in rows].index(chosen.id))
        self.students.blockSignals(False)
        self.about.setText(about_words(chosen))

    def _on_student(self, row: int) -> None:
        item = self.students.item(row)
        if item is not None:
            self._ledger.choose(str(item.data(Qt.ItemDataRole.UserRole)))


def about_words(student: Student) -> str:
    """Return what is noted of a student."""
    facts = (
        ("Guitar", student.guitar),
        ("Tuning", student.tuning),
        ("Strings", student.string_set),
        ("Scale length", f"{student.scale_mm:.0f} mm" if student.scale_mm else ""),
        ("Strings called by", student.naming),
        ("Taught", student.lesson_order),
    )
    lines = [f"{label}: {value}" for label, value in facts if value]
    return "\n".join([*lines, *([student.notes] if student.notes else [])])
