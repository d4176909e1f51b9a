"""What is done with the record: students, requests, lessons and what was given out; all of it out and in again."""

from collections.abc import Callable, Iterable, Mapping
from dataclasses import replace
from datetime import date, datetime
from pathlib import Path
from typing import Any

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QWidget

from notcher.core.errors import CancelCheck, Progress
from notcher.core.ledger import (
    NOBODY_ID,
    NOT_SAID,
    Book,
    KeptTake,
    KnownDocument,
    KnownRecording,
    LedgerRow,
    Lesson,
    LoggedPass,
    Request,
    RowChange,
    Sent,
    Student,
)
from notcher.core.ledger.files import find_document, find_recording
from notcher.core.neck.strings import STRING_SETS
from notcher.core.teaching import (
    INTERVALS,
    Entry,
    LessonOrder,
    accuracy_words,
    day_of,
    done_requests,
    estimate_reason,
    rule_words,
    sheet_lines,
    solo_words,
    who_words,
)
from notcher.core.words import Naming, StringNames, day_words, many
from notcher.ui.benches.ledger.ledger_bench import PAGES, LedgerBench
from notcher.ui.benches.ledger.list_page import changed_since
from notcher.ui.state.ledger_state import LedgerState
from notcher.ui.state.session import Session
from notcher.ui.state.settings import Settings
from notcher.ui.state.shell import Bench, Shell
from notcher.ui.widgets.asking import (
    ask_choice,
    ask_file_to_open,
    ask_file_to_write,
    ask_folder,
    ask_what_to_do,
    tell,
)
from notcher.ui.widgets.form import Field, ask_form
from notcher.ui.widgets.lesson_forms import ask_held, ask_lesson
from notcher.ui.widgets.pages import write_page

AS_SET = ("as in the settings", "")


class LedgerController(QObject):
    """Asks, and changes the record; each change can be undone there."""

    open_requested = pyqtSignal(str, str)  # a document's path, a phrase's id
    recording_requested = pyqtSignal(str)  # a recording's path
    file_requested = pyqtSignal(str, object)  # under which title it is asked for, and what is told the chosen path
    replaced = pyqtSignal()  # another ledger is in place

    def __init__(
        self, session: Session, ledger: LedgerState, bench: LedgerBench, settings: Settings, shell: Shell,
        today: Callable[[], date], parent: QWidget,
    ) -> None:  # fmt: skip
        super().__init__(parent)
        self._session, self._ledger, self._bench, self._settings = session, ledger, bench, settings
        self._shell, self._today, self._parent = shell, today, parent
        self._wanted: Entry | Request | Lesson | Sent | None = None  # its solo is being opened
        self._answers: tuple[Request, Path] | None = None  # a request, and the file opened for it
        bench.solo_requested.connect(self._open_solo)

    # --- what can be done ---
    @property
    def _row(self) -> Request | Lesson | Sent | None:
        """The row of the record that is chosen, straight or in what is due."""
        return self._row_of(self._bench.chosen)

    def _row_of(self, chosen: Any) -> Request | Lesson | Sent | None:
        book = self._ledger.book
        if isinstance(chosen, Entry):
            return book.requests.get(chosen.row_id) or book.lessons.get(chosen.row_id)
        return chosen if isinstance(chosen, Request | Lesson | Sent) else None

    def student_need(self) -> str:
        chosen = self._ledger.student.id
        return "" if chosen != NOBODY_ID else "This is no student: choose one, or S makes one."

    def row_need(self) -> str:
        return "" if self._row is not None else "No request, lesson or sheet is chosen here."

    def solo_need(self) -> str:
        about: str = getattr(self._bench.chosen, "document_id", "")
        return "" if about or isinstance(self._row, Request) else "The chosen row is about no solo."

    def request_need(self) -> str:
        return "" if isinstance(self._row, Request) else "No request is chosen: 2 shows the queue."

    def lesson_need(self) -> str:
        return "" if isinstance(self._row, Lesson) else "No lesson is chosen: 1 and 3 show those that are planned."

    def open_need(self) -> str:
        return "" if self._session.score.notes else "No solo is open."

    # --- students ---
    def new_student(self) -> None:
        self._ask_student(Student("new"), "A new student", new=True)

    def change_student(self) -> None:
        self._ask_student(self._ledger.student, "About the student", new=False)

    def _ask_student(self, student: Student, title: str, *, new: bool) -> None:
        def then(values: Mapping[str, Any]) -> None:
            changed = replace(student, **values)
            self._ledger.put("New student" if new else "Change the student", changed)
            if new:
                self._ledger.choose(changed.id)

        fields = (
            Field("name", "Name", "" if new else student.name, hint="as you call them"),
            Field("guitar", "Guitar", student.guitar, hint="solid body, seven strings …"),
            Field("tuning", "Tuning", student.tuning, hint="standard, half a step down …"),
            Field("string_set", "Strings", student.string_set, "choice", _choices(STRING_SETS)),
            Field("scale_mm", "Scale length", student.scale_mm, "number", high=800, unit=" mm", low_words=AS_SET[0]),
            Field("naming", "Strings are called by", student.naming, "choice", _choices(StringNames)),
            Field("lesson_order", "Teaching order", student.lesson_order, "choice", _choices(LessonOrder)),
            Field("notes", "Notes", student.notes, "long"),
        )  # fmt: skip
        ask_form(self._parent, title, fields, then, self._today())

    def delete_student(self) -> None:
        """Say what goes with the student; it comes back by undo until the program ends."""
        student, book = self._ledger.student, self._ledger.book
        counts = book.what_goes_with(student.id)
        words = {"requests": "request", "lessons": "lesson", "passes": "pass", "takes": "take", "sent": "sheet"}
        plurals = {"passes": "passes"}
        texts = [many(count, words[name], plurals.get(name, "")) for name, count in counts.items() if count]
        goes = f"{', '.join(texts)} will go with {student.name}. " if texts else ""

        def delete() -> None:
            deleted = replace(student, gone_at=datetime.now().isoformat(timespec="seconds"))
            self._ledger.edit(f"Delete {student.name}", RowChange(student, deleted))
            self._ledger.choose(NOBODY_ID)

        ask_what_to_do(
            self._parent, "Delete the student",
            f"{goes}Until Notcher ends, undo on the Students bench brings all of it back.",
            ((f"Keep {student.name}", lambda: None), (f"Delete {student.name}", delete)),
        )  # fmt: skip

    def adopt_need(self) -> str:
        return self.student_need() or self.open_need()

    def adopt(self) -> None:
        """Give the chosen student what was marked and taken on the open solo before anybody was chosen."""
        ledger, document_id = self._ledger, self._session.document.id

        def done(book: Book) -> None:
            student = ledger.student
            rows: list[LoggedPass | KeptTake] = [
                *book.passes_of(NOBODY_ID, document_id), *book.takes_of(NOBODY_ID, document_id)
            ]  # fmt: skip
            changes = [RowChange(row, replace(row, student_id=student.id)) for row in rows]
            if not changes:
                self._shell.notice("Nothing on this solo is unassigned.")
                return
            ledger.edit(f"Give marks to {student.name}", *changes)
            self._shell.notice(f"{many(len(changes), 'mark or take', 'marks and takes')} belong to {student.name} now.")

        ledger.ask(lambda record: record.read(NOBODY_ID), done)

    # --- requests ---
    def new_request(self) -> None:
        student_id = self._ledger.student.id
        open_id = self._session.document.id if self._session.score.notes else ""
        self._ask_request(Request(student_id, "new"), "A request", open_id, new=True)

    def _ask_request(self, request: Request, title: str, open_id: str, *, new: bool) -> None:
        book, score = self._ledger.book, self._session.document.score
        students = [(student.name, student.id) for student in book.present]
        solos = [("not opened yet", "")]
        if open_id:
            solos.append((f"the one that is open: {score.title or 'Untitled'}", open_id))
        if request.document_id and request.document_id != open_id:
            solos.append((solo_words(book, request.document_id), request.document_id))
        facts = score.facts

        def then(values: Mapping[str, Any]) -> None:
            changed = replace(request, **{**values, "note_count": round(values["note_count"])})
            if not changed.asked_at:
                changed = replace(changed, asked_at=datetime.now().isoformat(timespec="seconds"))
            rows: list[LedgerRow] = []
            if changed.student_id not in book.students:  # a name was typed that nobody has yet
                rows.append(student := Student(changed.student_id or NOT_SAID))
                changed = replace(changed, student_id=student.id)
            self._ledger.put("Note a request" if new else "Change a request", *rows, self._with_estimate(changed))
            if new:
                self._bench.show_row(PAGES.index("Queue"), changed.id)

        fields = (
            Field("title", "Solo", "" if new else request.title, hint="what was asked for"),
            Field("student_id", "For whom", request.student_id, "choice or new", students),
            Field("version", "Version", facts.version if new and open_id else request.version, hint="studio, live …"),
            Field("stretch", "Part of the song", request.stretch, hint="all, from 2:10 to 2:55 …"),
            Field("sound", "Guitar pickup and effects", facts.pickup if new and open_id else request.sound),
            Field("due", "Due", request.due, "day"),
            Field("document_id", "Its tab or recording", request.document_id, "choice", solos),
            Field("note_count", "About how many notes", request.note_count, "number", low_words="not known"),
        )
        ask_form(self._parent, title, fields, then, self._today())

    def _with_estimate(self, request: Request) -> Request:
        """The request with the hours it will take, as they were estimated when its notes were first known."""
        count = self._ledger.book.notes_of(request)
        if request.document_id == self._session.document.id:
            count = len(self._session.document.score.notes)
        if count and not request.note_count:
            request = replace(request, note_count=count)
        if request.estimated_h is None and count:
            request = replace(request, estimated_h=round(self._ledger.book.estimate(count).likely_h, 2))
        return request

    def link(self) -> None:
        """Say that the request is about the solo that is open."""
        row = self._row
        if isinstance(row, Request):
            linked = self._with_estimate(replace(row, document_id=self._session.document.id))
            self._ledger.put("Link a request to the solo", linked)

    def add_hours(self) -> None:
        row = self._row
        if not isinstance(row, Request):
            return

        def then(values: Mapping[str, Any]) -> None:
            self._ledger.put("Add hours", replace(row, spent_h=round(row.spent_h + values["more_h"], 2)))

        more = Field("more_h", "Hours more", 0.5, "number", low=0.05, high=1000, decimals=2, unit=" h")
        ask_form(self._parent, f"Hours spent on {row.title}", (more,), then)

    def done(self) -> None:
        """The request is done: ask for the hours it took."""
        row = self._row
        if not isinstance(row, Request):
            return

        def then(values: Mapping[str, Any]) -> None:
            count = round(values["note_count"])
            request = replace(row, spent_h=values["spent_h"], note_count=count, done_at=values["done_at"])
            self._ledger.put("A request is done", request)

        fields = (
            Field("done_at", "Done on", self._today().isoformat(), "day"),
            Field("spent_h", "Hours it took", row.spent_h, "number", high=1000, decimals=2, unit=" h"),
            Field("note_count", "Notes", self._ledger.book.notes_of(row), "number"),
        )
        ask_form(self._parent, f"{row.title} is done", fields, then, self._today())

    # --- lessons ---
    def plan_lesson(self) -> None:
        """Put a lesson of the chosen student on a day."""
        solo = self._session.document.id if self._session.score.notes else ""
        lesson = Lesson(
            self._ledger.student.id, solo, self._today().isoformat(), minutes=self._settings.get("lesson_minutes")
        )
        ask_lesson(self._parent, self._ledger, lesson, self._today())

    def held(self) -> None:
        row = self._row
        if isinstance(row, Lesson):
            ask_held(self._parent, self._ledger, row, self._today(), self._settings.naming)

    def change_row(self) -> None:
        """Change the chosen request or lesson."""
        row = self._row
        if isinstance(row, Request):
            open_id = self._session.document.id if self._session.score.notes else ""
            self._ask_request(row, "The request", open_id, new=False)
        elif isinstance(row, Lesson):
            ask_lesson(self._parent, self._ledger, row, self._today())
        else:
            self._shell.notice("What was given out stays as it was: Del takes it off the list.")

    def take_away(self) -> None:
        """Take the chosen request, lesson or sheet off the record."""
        row = self._row
        if row is not None:
            called = {Request: "request", Lesson: "lesson", Sent: "sheet"}[type(row)]
            self._ledger.edit(f"Take a {called} away", RowChange(row, None))
            self._shell.notice(f"The {called} is off the record. Undo on the Students bench brings it back.")

    # --- what is given out ---
    def give_state(self) -> None:
        """Note that the chosen student was given the open solo as it is now."""
        session, ledger = self._session, self._ledger
        title = session.document.score.title or "Untitled"
        ledger.give_out("Give a state out", session.document, title)
        who = who_words(ledger.book, ledger.student.id)
        self._shell.notice(
            f"“{title}” as it is now is noted as given to {who}. The Students bench tells what changes from here on."
        )

    # --- opening its solo ---
    def open_solo(self) -> None:
        self._open_solo(self._bench.chosen)

    def _open_solo(self, chosen: Any) -> None:
        """Open what a row is about, for its student; a file that was moved is looked for."""
        document_id, book = getattr(chosen, "document_id", ""), self._ledger.book
        row = self._row_of(chosen)
        if not document_id and isinstance(row, Request):
            self._open_for(row)
            return
        if not document_id:
            self._shell.notice(self.solo_need())
            return
        self._wanted = chosen
        if book.practice_id(self._session.document.id) == book.practice_id(document_id):
            self.go_on()
            return
        document = book.known(document_id)
        home = book.practice_id(document_id)
        recording = next((row for row in book.recordings.values() if row.document_id == home), None)
        if document is not None and document.path:
            self._find(document)
        elif recording is not None:
            self._find(recording)
        else:
            self._shell.notice("Where this solo lies is not known: open it once, and it is known again.")

    def _open_for(self, request: Request) -> None:
        """Ask for the recording or tab that a request is about, open it and say so in the record."""

        def then(path: str) -> None:
            self._answers = (request, Path(path))
            self.recording_requested.emit(path)

        self.file_requested.emit(f"The recording or tab of “{request.title or 'the request'}”", then)

    def _find(self, lost_file: KnownDocument | KnownRecording) -> None:
        old, phrase = Path(lost_file.path), next(iter(getattr(self._wanted, "phrases", ())), "")
        folders = self._folders(old)

        def work(_progress: Progress, cancelled: CancelCheck) -> Path | None:
            if isinstance(lost_file, KnownDocument):
                return find_document(lost_file, folders, cancelled=cancelled)
            return find_recording(lost_file, folders, cancelled=cancelled)

        def done(path: Path | None) -> None:
            if path is None:
                self._wanted = None
                self._shell.notice(f"“{old.name}” is not in {old.parent} any more, nor near it: open it once by hand.")
                return
            if path != old:
                self._ledger.note(replace(lost_file, path=str(path)))
                self._shell.notice(f"“{old.name}” was moved; it was found again as “{path}”.")
            if isinstance(lost_file, KnownDocument):
                self.open_requested.emit(str(path), phrase)
            else:
                self.recording_requested.emit(str(path))

        self._shell.run_job(f"Looking for {old.name}", work, done)

    def _folders(self, old: Path) -> list[Path]:
        """Where a moved file may lie: near where it was, and where others lie."""
        folders = [Path(row.path).parent for row in self._ledger.book.documents.values() if row.path]
        recent = [Path(path).parent for path in self._settings.recent]
        near = [
            place for place in (old.parent, old.parent.parent) if place != place.parent and place != Path.home().parent
        ]
        return list(dict.fromkeys(place for place in (*near, *folders, *recent) if place.is_dir()))

    def go_on(self) -> None:
        """What was wanted is open now: teach it to its student."""
        answers, session = self._answers, self._session
        if answers is not None and answers[1] in (session.source, session.path):
            self._answers = None
            request = self._ledger.book.requests.get(answers[0].id, answers[0])
            self._ledger.choose(request.student_id)
            linked = self._with_estimate(replace(request, document_id=session.document.id))
            self._ledger.put("Open the solo of a request", linked)
        wanted, self._wanted = self._wanted, None
        if wanted is not None:
            self._ledger.choose(wanted.student_id)
            self._shell.show_bench(Bench.TEACH)

    # --- out and in ---
    def ask_give_out(self) -> None:
        ask_folder(self._parent, "Give the whole record out into", self._give_out)

    def _give_out(self, folder: str) -> None:
        place = Path(folder) / f"notcher-record-{self._today().isoformat()}"

        def done(count: int) -> None:
            self._shell.notice(
                f"{many(count, 'row')} and the takes were written into “{place.name}” in {place.parent}."
            )

        self._ledger.ask(lambda record: record.give_out(place), done, self._shell.tell_failure)

    def ask_take_in(self) -> None:
        filters = "The record (*.json *.csv)"
        ask_file_to_open(self._parent, "Take a record in", filters, lambda path: self._take_in(Path(path)))

    def _take_in(self, file: Path) -> None:
        def done(count: int) -> None:
            self._ledger.undo_stack.clear()  # what it would undo may be another row by now
            self._ledger.read_again()
            self._shell.notice(f"{many(count, 'row')} taken in from “{file.name}”.")

        self._ledger.ask(lambda record: record.take_file(file), done, self._shell.tell_failure)

    def ask_restore(self) -> None:
        """Offer the copies that were made."""
        from notcher.core.ledger.store import backups

        copies = backups(self._ledger.path)
        if not copies:
            self._shell.notice("There is no copy yet: one is made at each start, before anything is written.")
            return
        names = {_copy_name(copy): copy for copy in copies}
        ask_choice(
            self._parent, "Go back to a copy", "The ledger as it is now is kept as a copy before. Go back to that of",
            list(names), next(iter(names)), lambda name: self._restore(names[name]),
        )  # fmt: skip

    def _restore(self, copy: Path) -> None:
        from notcher.core.ledger.store import restore

        path, words = self._ledger.path, f"The ledger is that of {_copy_name(copy)} again."
        self._replace(lambda: restore(copy, path), words)

    def _replace(self, replacing: Callable[[], object], words: str) -> None:
        """Put another file in the ledger's place, and open it. words: what is said then."""

        def work(_progress: Progress, _cancelled: CancelCheck) -> None:
            replacing()

        def done(_none: object) -> None:
            self.replaced.emit()
            self._ledger.reopen()
            self._shell.notice(words)

        self._ledger.close()
        self._shell.run_job("Going back", work, done)

    def offer_mending(self, problem: str, copy: Path | None) -> None:
        """Offer the newest copy of a ledger that cannot be used, or an empty one; either way it is put aside first."""
        offers = [] if copy is None else [(f"Use the copy of {_copy_name(copy)}", lambda: self._mend(copy))]
        self._shell.offer(
            f"{problem} Until then what you note is kept beside it.",
            *offers,
            ("Put it aside and begin anew", lambda: self._mend(None)),
        )

    def _mend(self, copy: Path | None) -> None:
        from notcher.core.ledger.store import put_aside, restore

        path = self._ledger.path
        whose = "A new record was begun" if copy is None else f"The record is that of {_copy_name(copy)}"
        self._shell.withdraw()
        self._replace(
            lambda: put_aside(path) if copy is None else restore(copy, path),
            f"{whose}; the damaged one lies beside it, ending in “.damaged”.",
        )

    # --- the sheet ---
    def ask_sheet(self) -> None:
        """Ask where to write what we did, as a page or as text."""
        name = f"{self._ledger.student.name}, what we did.pdf"
        ask_file_to_write(self._parent, "Write what we did", name, "A page (*.pdf);;Text (*.txt)", self._write_sheet)

    def _write_sheet(self, path: str) -> None:
        lines = sheet_lines(self._ledger.book, self._ledger.student.id, self._naming)
        write_page(path, lines, self._shell)

    def changes_need(self) -> str:
        """Why what changed cannot be written; empty when it can."""
        chosen = self._bench.chosen
        if not isinstance(chosen, Sent):
            return "Nothing that was given out is chosen: 7 shows it."
        texts = changed_since(self._bench.seen, chosen)
        if texts is None:
            return "Its solo is not open: Return opens it."
        return "" if texts else "Nothing has changed since it was given out."

    def ask_changes(self) -> None:
        """Ask where to write what has changed since the chosen state was given out, as a page or as text."""
        sent = self._bench.chosen
        if not isinstance(sent, Sent):
            return
        texts, sent_day = changed_since(self._bench.seen, sent) or [], day_of(sent.sent_at)
        since = "" if sent_day is None else f" since {day_words(sent_day)}"
        lines = [("title", f"{sent.title or 'Untitled'}: what changed{since}"), *(("line", line) for line in texts)]
        name = f"{sent.title or 'Untitled'}, what changed.pdf"
        ask_file_to_write(
            self._parent, "Write what changed", name, "A page (*.pdf);;Text (*.txt)",
            lambda path: write_page(path, lines, self._shell),
        )  # fmt: skip

    @property
    def _naming(self) -> Naming:
        """How things are called for the chosen student."""
        naming, called = self._settings.naming, self._ledger.student.naming
        return replace(naming, strings=StringNames(called)) if called else naming

    # --- why ---
    def why(self) -> None:
        """Say on what the figures of the page in view rest."""
        book, naming = self._ledger.book, self._settings.naming
        text = {
            "Today": INTERVALS,
            "Queue": estimate_reason(book, naming),
            "Due": INTERVALS,
            "Progress": f"{rule_words(naming)}\n\n{self._bench.progress.more.text()}",
            "What we did": "Each line is what was marked on the practice board that day, or your own note.",
            "Hours": f"{accuracy_words(done_requests(book), naming)}\n\n{estimate_reason(book, naming)}",
            "Given out": "Notes are paired by their identity; what is not the same any more is a change.",
        }[PAGES[self._bench.page]]
        tell(self._parent, f"Why: {PAGES[self._bench.page]}", text)


def _choices(names: Iterable[str]) -> list[tuple[str, str]]:
    return [AS_SET, *((str(name), str(name)) for name in names)]


def _copy_name(copy: Path) -> str:
    """The moment of a copy, as its name tells it."""
    try:
        made_at = datetime.strptime(copy.stem.split("-", 1)[1], "%Y%m%d-%H%M%S-%f")
    except (ValueError, IndexError):
        return copy.name
    return f"{day_words(made_at.date())}, {made_at:%H:%M:%S}"
