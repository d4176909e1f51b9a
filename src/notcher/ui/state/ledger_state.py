"""The record of students as the window knows it: the book, who is chosen, and what was done to it, to be undone.

What is changed is seen at once and written behind the window, in order; what cannot be written is kept beside the
program's state and written once it can be.
"""

from collections.abc import Callable, Sequence
from dataclasses import replace
from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtGui import QUndoCommand, QUndoStack

from notcher.core.errors import CancelCheck, NotcherError, Progress
from notcher.core.formats import Document
from notcher.core.formats.document.models import to_data
from notcher.core.ledger import NOBODY, NOBODY_ID, Book, LedgerRow, RowChange, Sent, Student
from notcher.core.ledger.errors import DamagedLedgerError
from notcher.core.ledger.pending_changes import PendingChanges
from notcher.core.sound import Clip
from notcher.ui.state.jobs import Jobs
from notcher.ui.state.settings import Settings

if TYPE_CHECKING:
    from notcher.core.ledger.record import Record
    from notcher.core.ledger.store import Ledger

Task = Callable[["Record"], Any]


class EditRecord(QUndoCommand):
    """Put, change or take away rows; the menu shows its name."""

    def __init__(self, state: "LedgerState", name: str, changes: Sequence[RowChange], sounds: dict[str, Clip]) -> None:
        super().__init__(name)
        self._state, self._changes, self._sounds = state, changes, sounds

    def redo(self) -> None:
        self._state.apply(self._changes, self._sounds)

    def undo(self) -> None:
        self._state.apply([change.undone for change in reversed(self._changes)])


class LedgerState(QObject):
    """Opens the ledger once it is needed, and is asked for all that stands in it."""

    changed = pyqtSignal()
    opened = pyqtSignal()
    student_changed = pyqtSignal()
    notice = pyqtSignal(str)
    damaged = pyqtSignal(str, object)
    """The ledger cannot be used as it is: why, and the newest copy that can be, None where there is none."""

    def __init__(
        self,
        jobs: Jobs,
        settings: Settings,
        path: Path,
        unwritten: Path,
        undo_stack: QUndoStack,
        parent: QObject | None = None,
    ) -> None:
        """path: of the ledger, which is made when it is first needed. unwritten: a folder for what it does not take."""
        super().__init__(parent)
        self.path, self.unwritten = path, PendingChanges(unwritten)
        self._jobs, self._settings = jobs, settings
        self.book, self.undo_stack = Book(students={NOBODY_ID: NOBODY}), undo_stack
        self.ledger: Ledger | None = None
        self.trouble = ""  # why the ledger is not open, once that was tried
        self._student_id = settings.student_id
        self._tasks: list[tuple[Task, Callable[[Any], None], Callable[[Exception], None]]] = []
        self._running = self._opening = self._told = self._damage_told = False
        self._gone: set[str] = set()

    # --- opening ---
    def open(self) -> None:
        """Open the ledger beside the window, if it is not open yet; what was asked for meanwhile is done then."""
        if self.ledger is not None or self._opening:
            return
        self._opening, student_id = True, self._student_id
        path, unwritten = self.path, self.unwritten

        def work(_progress: Progress, _cancelled: CancelCheck) -> "tuple[Ledger, Book]":
            from notcher.core.ledger.record import Record
            from notcher.core.ledger.store import Ledger, back_up, newest_good_copy

            try:
                back_up(path)  # once a start, before anything is written
                ledger = Ledger(path)
            except DamagedLedgerError as problem:
                problem.copy = newest_good_copy(path)
                raise
            record = Record(ledger)
            unwritten.write_into(record)
            return ledger, record.read(student_id)

        self._jobs.start("ledger open", work, finished=self._on_opened, failed=self._on_not_opened)

    def _on_opened(self, opened: "tuple[Ledger, Book]") -> None:
        self.ledger, book = opened
        self._opening, self.trouble = False, ""
        # what was noted while it was opening is on its way and seen already
        self._take(book)
        self.opened.emit()
        self._go_on()

    def _on_not_opened(self, problem: Exception) -> None:
        self._opening = False
        self.trouble = str(problem) if isinstance(problem, NotcherError) else f"{type(problem).__name__}: {problem}"
        self.book = self.book.changed(self.unwritten.changes())
        self.changed.emit()
        if isinstance(problem, DamagedLedgerError):
            if not self._damage_told:
                self._damage_told = True
                self.damaged.emit(problem.problem, problem.copy)
        else:
            self.notice.emit(f"{self.trouble} Until then what you note is kept beside it.")
        tasks, self._tasks = self._tasks, []
        for _task, _done, failed in tasks:
            failed(problem)

    def _take(self, book: Book) -> None:
        """Take a book that was read; rows that are noted and not written yet stay."""
        students = {**book.students, NOBODY_ID: NOBODY}
        self.book = self._with_pending(replace(book, students=students))
        if self.student.id != self._student_id:
            self._student_id = self.student.id
            self.student_changed.emit()
        self.changed.emit()

    def _with_pending(self, book: Book) -> Book:
        pending = (task.changes for task, _done, _failed in self._tasks if isinstance(task, _Write))
        return book.changed(change for changes in pending for change in changes)

    def read_again(self) -> None:
        """Read what another window may have written, once all of ours is."""
        if self.ledger is None or self._running or self.unwritten.waiting:
            self.open()
            return
        student_id = self._student_id
        self.ask(lambda record: record.read(student_id), self._take)

    def reopen(self) -> None:
        """Open another file in the ledger's place: a copy was put there."""
        self.close()
        self._damage_told = False
        self.undo_stack.clear()
        self.book = Book(students={NOBODY_ID: NOBODY})
        self.open()

    # --- who is taught ---
    @property
    def student(self) -> Student:
        """The chosen student; nobody while none is chosen."""
        chosen = self.book.students.get(self._student_id)
        if chosen is None or chosen.gone_at is not None:
            return self.book.students.get(NOBODY_ID, NOBODY)
        return chosen

    def choose(self, student_id: str) -> None:
        """Choose who is taught; kept for the next start."""
        if student_id == self._student_id:
            return
        self._student_id = student_id
        self._settings.keep_student(student_id)
        self.student_changed.emit()
        self.changed.emit()
        self._read_passes(student_id)

    def _read_passes(self, student_id: str) -> None:
        if student_id in self.book.read_of:
            return

        def done(book: Book) -> None:
            self.book = self._with_pending(self.book.with_passes(student_id, book.passes.values()))
            self.changed.emit()

        self.ask(lambda record: record.read(student_id), done)

    # --- changing ---
    def edit(self, name: str, *changes: RowChange, sounds: dict[str, Clip] | None = None) -> None:
        """Make a change of the record that can be undone. sounds: of takes, by id."""
        if changes:
            self.undo_stack.push(EditRecord(self, name, changes, sounds or {}))

    def put(self, name: str, *rows: LedgerRow) -> None:
        """Put rows, new or changed, as a step that can be undone."""
        self.edit(name, *(RowChange(getattr(self.book, row.TABLE).get(row.id), row) for row in rows))

    def give_out(self, name: str, document: Document, title: str) -> None:
        """Note that the chosen student was given something of a document, with its music as it is now."""
        music = to_data(replace(document.score, variants=()))
        now = datetime.now().isoformat(timespec="seconds")
        self.put(name, Sent(self.student.id, document.id, title, now, music))

    def note(self, *rows: LedgerRow) -> None:
        """Put rows that nobody undoes: what the program itself has seen."""
        fresh = [RowChange(old, row) for row in rows if (old := getattr(self.book, row.TABLE).get(row.id)) != row]
        if fresh:
            self.apply(fresh)

    def apply(self, changes: Sequence[RowChange], sounds: dict[str, Clip] | None = None) -> None:
        """Change the book at once and the ledger behind it; what undoing and redoing does."""
        whole = self._with_nobody(changes)
        self.book = self.book.changed(whole)
        self._gone |= {
            row.id for change in whole if (row := change.after) is not None and getattr(row, "gone_at", None)
        }
        self.changed.emit()
        write = _Write(self.unwritten, whole, sounds or {})
        self._tasks.append((write, lambda _none: None, lambda problem: self._on_not_written(write, problem)))
        self.open()
        self._go_on()

    def _with_nobody(self, changes: Sequence[RowChange]) -> Sequence[RowChange]:
        """What belongs to nobody needs nobody in the ledger."""
        theirs = any(getattr(change.after, "student_id", "") == NOBODY_ID for change in changes)
        return [RowChange(None, self.book.students.get(NOBODY_ID, NOBODY)), *changes] if theirs else changes

    def _on_not_written(self, write: "_Write", problem: Exception) -> None:
        try:
            self.unwritten.keep(write.changes, write.sounds)
        except NotcherError as worse:
            self.notice.emit(str(worse))
            return
        if not self._told:  # once is enough; it is tried again with the next change and at the next start
            self._told = True
            if not self.trouble:
                self.notice.emit(f"{problem} What you noted is kept beside it and written once it can be.")

    def ask(
        self, task: Task, when_done: Callable[[Any], None], failed: Callable[[Exception], None] | None = None
    ) -> None:
        """Have something read or written in its turn, beside the window. task: given the record."""
        self._tasks.append((task, when_done, failed or (lambda problem: self.notice.emit(str(problem)))))
        self.open()
        self._go_on()

    def in_turn(self, then: Callable[[], None]) -> None:
        """Go on once all that was asked before is done, or the ledger cannot be opened."""
        self.ask(lambda _record: None, lambda _none: then(), lambda _problem: then())

    def _go_on(self) -> None:
        """Do the next task, if none is being done."""
        if self._running or self.ledger is None or not self._tasks:
            return
        self._running = True
        ledger, (task, when_done, failed) = self.ledger, self._tasks[0]

        def work(_progress: Progress, _cancelled: CancelCheck) -> Any:
            from notcher.core.ledger.record import Record

            return task(Record(ledger))

        def ended(tell: Callable[[Any], None]) -> Callable[[Any], None]:
            def end(result: Any) -> None:
                self._running = False
                del self._tasks[0]
                tell(result)
                self._go_on()

            return end

        self._jobs.start("ledger", work, finished=ended(when_done), failed=ended(failed))

    def holds_sound(self, take_id: str) -> bool:
        """Whether the sound of a take is on the disk."""
        places = (self.path.parent / "takes", self.unwritten.folder / "takes")
        return any((place / f"{take_id}.flac").exists() for place in places)

    # --- the end ---
    def finish(self) -> None:
        """The program ends: write what still waits, throw away for good what was deleted, and close."""
        if self.ledger is None and not self._tasks:
            return  # it was not needed, and is slow to load
        from notcher.core.ledger.record import Record

        record = None if self.ledger is None else Record(self.ledger)
        tasks, self._tasks = self._tasks, []
        for task, _done, failed in tasks:
            if isinstance(task, _Write):  # one whose thread had written it is written again, which changes nothing
                try:
                    if record is None:
                        raise NotcherError("The ledger is not open.", self.trouble)
                    task(record)
                except NotcherError as problem:
                    failed(problem)
        if record is not None:
            try:
                record.tidy(deleted=self._gone)
            except NotcherError:
                self._told = True  # it is tidied at the next end
        self.close()

    def close(self) -> None:
        if self.ledger is not None:
            self.ledger.close()
            self.ledger = None


class _Write:
    """Writes some changes, after what waited before them."""

    def __init__(self, unwritten: PendingChanges, changes: Sequence[RowChange], sounds: dict[str, Clip]) -> None:
        self._unwritten, self.changes, self.sounds = unwritten, changes, sounds

    def __call__(self, record: "Record") -> None:
        self._unwritten.write_into(record)
        for take_id, clip in self.sounds.items():
            record.put_sound(take_id, clip)
        record.apply(self.changes)
