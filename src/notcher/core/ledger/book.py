"""All of the record that is read at once, as one value; what is asked of it is arithmetic over its rows."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace
from typing import Any, TypeVar

import numpy as np

from notcher.core.ledger.values import (
    NOBODY_ID,
    KeptTake,
    KnownDocument,
    KnownRecording,
    LedgerRow,
    Lesson,
    LoggedPass,
    Practised,
    Request,
    RowChange,
    Sent,
    Student,
    Wished,
)

USUAL_NOTES_AN_HOUR = 120.0  # written and checked, before the record knows better (common practice, no source)
LEAST_DONE = 3  # requests, before the record's own pace counts alone
Kept = TypeVar("Kept", bound=LedgerRow)


@dataclass(frozen=True, slots=True)
class Estimate:
    """Hours that a request will take: low, likely and high, and on how many requests that rests."""

    low_h: float
    likely_h: float
    high_h: float
    rests_on: int


@dataclass(frozen=True, slots=True)
class Book:
    """The rows of each table, by their ids.

    passes: of the students in read_of alone; there are many. days: of practice, of all, in the last half year.
    """

    students: Mapping[str, Student] = field(default_factory=dict)
    documents: Mapping[str, KnownDocument] = field(default_factory=dict)
    recordings: Mapping[str, KnownRecording] = field(default_factory=dict)
    requests: Mapping[str, Request] = field(default_factory=dict)
    lessons: Mapping[str, Lesson] = field(default_factory=dict)
    takes: Mapping[str, KeptTake] = field(default_factory=dict)
    passes: Mapping[str, LoggedPass] = field(default_factory=dict)
    wishes: Mapping[str, Wished] = field(default_factory=dict)
    sent: Mapping[str, Sent] = field(default_factory=dict)
    read_of: frozenset[str] = frozenset()
    days: tuple[Practised, ...] = ()

    def changed(self, changes: Iterable[RowChange]) -> "Book":
        """Return the book with rows put, changed and taken away."""
        tables: dict[str, dict[str, Any]] = {}
        for change in changes:
            row = change.row
            table = tables.setdefault(row.TABLE, dict(getattr(self, row.TABLE)))
            if change.after is None:
                table.pop(row.id, None)
            else:
                table[row.id] = change.after
        return replace(self, **tables)  # type: ignore[arg-type]

    def with_passes(self, student_id: str, passes: Iterable[LoggedPass]) -> "Book":
        """Return the book with all passes of one more student."""
        others = {key: row for key, row in self.passes.items() if row.student_id != student_id}
        return replace(self, passes=others | {row.id: row for row in passes}, read_of=self.read_of | {student_id})

    # --- students ---
    @property
    def present(self) -> list[Student]:
        """All students that are not deleted, by name; the one nobody said comes last."""
        there = (student for student in self.students.values() if student.gone_at is None)
        return sorted(there, key=lambda student: (student.id == NOBODY_ID, student.name.casefold(), student.id))

    def _theirs(self, rows: Mapping[str, Kept], student_id: str) -> list[Kept]:
        """A student's rows, or those of all that are present for an empty id."""
        wanted = {student_id} if student_id else {student.id for student in self.present}
        return [
            row
            for row in rows.values()
            if getattr(row, "student_id", "") in wanted and getattr(row, "gone_at", None) is None
        ]

    def what_goes_with(self, student_id: str) -> dict[str, int]:
        """Return how much of each table would go with a student."""
        tables = {"requests": self.requests, "lessons": self.lessons, "passes": self.passes, "takes": self.takes,
                  "sent": self.sent}  # fmt: skip
        return {name: len(self._theirs(rows, student_id)) for name, rows in tables.items()}  # type: ignore[type-var]

    # --- requests ---
    def queue(self, *, student_id: str = "", open_only: bool = True) -> list[Request]:
        """Return the requests: what is due first before what is due later, then by when it was asked."""
        rows = [row for row in self._theirs(self.requests, student_id) if not (open_only and row.done_at)]
        return sorted(rows, key=lambda row: (row.due or "9999", row.asked_at, row.id))

    def estimate(self, note_count: int) -> Estimate:
        """Return how long a solo of so many notes will take, by what the requests that are done have taken.

        The median of the instructor's own notes an hour and its quartiles; a common figure stands in until three are
        done.
        """
        finished = [
            row for row in self.queue(open_only=False) if row.done_at and row.spent_h > 0 and row.note_count > 0
        ]
        rates = np.array([row.note_count / row.spent_h for row in finished])
        if rates.size < LEAST_DONE:
            rates = np.append(rates, [USUAL_NOTES_AN_HOUR] * (LEAST_DONE - rates.size))
        slow, usual, quick = np.percentile(rates, [25, 50, 75])
        return Estimate(note_count / quick, note_count / usual, note_count / slow, len(finished))

    def notes_of(self, request: Request) -> int:
        """Return how many notes a request is about: of its solo once that is open, else what was said."""
        document = self.documents.get(request.document_id)
        return document.note_count if document is not None and document.note_count else request.note_count

    # --- what was done ---
    def practice_id(self, document_id: str) -> str:
        """Return under which id the practice of a document is kept."""
        document = self.documents.get(document_id)
        return document.practice_id if document is not None else document_id

    def passes_of(self, student_id: str, document_id: str = "") -> list[LoggedPass]:
        """Return a student's passes in the order they were played, of one solo or of all."""
        wanted = self.practice_id(document_id)
        rows = (row for row in self.passes.values() if row.student_id == student_id)
        return sorted(
            (row for row in rows if not document_id or row.document_id == wanted),
            key=lambda row: (row.played_at, row.id),
        )

    def takes_of(self, student_id: str, document_id: str) -> list[KeptTake]:
        """Return a student's takes of a solo that were not thrown away, in the order they were made."""
        wanted = self.practice_id(document_id)
        rows = (row for row in self.takes.values() if row.student_id == student_id and row.gone_at is None)
        return sorted((row for row in rows if row.document_id == wanted), key=lambda row: (row.take.made_at, row.id))

    def lessons_of(self, student_id: str = "", *, taught: bool | None = None) -> list[Lesson]:
        """Return lessons by when they were held, or else are planned; of one student or of all."""
        rows = [row for row in self._theirs(self.lessons, student_id) if taught is None or bool(row.held_at) is taught]
        return sorted(rows, key=lambda row: (row.held_at or row.planned_for, row.id))

    def sent_to(self, student_id: str = "") -> list[Sent]:
        """Return what was given out, the newest first."""
        return sorted(self._theirs(self.sent, student_id), key=lambda row: (row.sent_at, row.id), reverse=True)

    def wishes_of(self, student_id: str, document_id: str) -> Wished:
        """Return what is wanted otherwise in a student's lessons on a solo."""
        wanted = Wished(student_id, self.practice_id(document_id))
        return self.wishes.get(wanted.id, wanted)

    def solo(self, practice_id: str) -> KnownDocument | None:
        """Return the document that practice was on; of several copies one whose place is known."""
        copies = [row for row in self.documents.values() if row.practice_id == practice_id]
        return max(copies, key=lambda row: (bool(row.path), row.id == practice_id), default=None)

    def known(self, document_id: str) -> KnownDocument | None:
        """Return a document by its own id, or else by the one its practice is kept under."""
        return self.documents.get(document_id) or self.solo(document_id)

    def phrase_names(self, practice_id: str) -> dict[str, str]:
        """Return what the phrases of a solo are called, by id."""
        solo = self.solo(practice_id)
        return {row["id"]: row["name"] for row in solo.phrases} if solo is not None else {}

    def last_student(self, document_id: str) -> str:
        """Return who practised a solo last, else who asked for it; empty where nobody did."""
        wanted, present = self.practice_id(document_id), {student.id for student in self.present}
        dated = [(row.take.made_at, row.student_id) for row in self.takes.values() if row.document_id == wanted]
        dated += [(row.day, row.student_id) for row in self.days if row.document_id == wanted]
        dated += [(row.played_at, row.student_id) for row in self.passes.values() if row.document_id == wanted]
        dated += [(row.held_at or row.planned_for, row.student_id) for row in self.lessons.values()
                  if self.practice_id(row.document_id) == wanted]  # fmt: skip
        dated += [(row.asked_at, row.student_id) for row in self.requests.values() if row.document_id == document_id]
        return max((row for row in dated if row[1] in present), default=("", ""))[1]
