"""The record of students: who they are, what they asked for, what was taught, how every pass went.

What is asked of it is answered as values; estimates are arithmetic over what was done before, and say so.
"""

import csv
import io
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Any

import numpy as np
from sqlalchemy import Table, delete, select
from sqlalchemy.dialects.sqlite import insert
from sqlalchemy.orm import Session

from notcher.core.ledger.models import Base, LessonRow, PassRow, RequestRow, StudentRow
from notcher.core.ledger.store import Ledger, LedgerError
from notcher.core.proving import Result
from notcher.core.score import new_id

NOT_SAID = "not said"
"""The student to whom marks belong that nobody said a name for."""
USUAL_NOTES_AN_HOUR = 120.0  # written and checked, before the record knows better (common practice, no source)
KEPT_TABLES = ("students", "requests", "lessons", "passes", "recordings")


@dataclass(frozen=True, slots=True)
class Student:
    """Someone who is taught. string_set, school, naming: by their names; empty where nothing was said."""

    name: str
    guitar: str = ""
    tuning: str = ""
    string_set: str = ""
    naming: str = ""
    school: str = ""
    notes: str = ""
    id: str = ""

    def __post_init__(self) -> None:
        if not self.name.strip():
            raise LedgerError("A student needs a name.", "Type one.")


@dataclass(frozen=True, slots=True)
class Request:
    """A solo that was asked for. asked_at, due, done_at: ISO 8601, empty where not said or not done."""

    student_id: str
    title: str
    version: str = ""
    stretch: str = ""
    sound: str = ""
    asked_at: str = ""
    due: str = ""
    document_id: str = ""
    estimated_h: float | None = None
    spent_h: float = 0.0
    note_count: int = 0
    done_at: str = ""
    id: str = ""


@dataclass(frozen=True, slots=True)
class LoggedPass:
    """One pass as it is kept. phrases: ids."""

    student_id: str
    document_id: str
    phrases: tuple[str, ...]
    pace: float
    result: Result
    played_at: str
    take_id: str = ""
    lesson_id: str | None = None
    id: str = ""


@dataclass(frozen=True, slots=True)
class Estimate:
    """Hours that a request will take: low, likely and high, and on how many requests that rests."""

    low_h: float
    likely_h: float
    high_h: float
    rests_on: int


class Record:
    """Reads and writes the record in a ledger; every method may raise LedgerError."""

    def __init__(self, ledger: Ledger) -> None:
        self.ledger = ledger

    # --- students ---
    def students(self) -> list[Student]:
        """Return all students that are not deleted, by name."""
        with self.ledger.session() as session:
            rows = session.scalars(select(StudentRow).where(StudentRow.gone_at.is_(None)).order_by(StudentRow.name))
            return [_student(row) for row in rows]

    def put_student(self, student: Student) -> Student:
        """Keep a student, new or changed, and return it with its id."""
        kept = student if student.id else replace(student, id=new_id())
        with self.ledger.session() as session:
            session.merge(StudentRow(**_fields(kept)))
        return kept

    def what_goes_with(self, student_id: str) -> dict[str, int]:
        """Return how many requests, lessons and passes would go with a student."""
        with self.ledger.session() as session:
            return {
                name: len(session.scalars(select(row.id).where(row.student_id == student_id)).all())
                for name, row in (("requests", RequestRow), ("lessons", LessonRow), ("passes", PassRow))
            }

    def delete_student(self, student_id: str) -> None:
        """Hide a student with all that belongs to it; it can be brought back until the ledger is tidied."""
        self._mark_gone(student_id, datetime.now().isoformat(timespec="seconds"))

    def bring_back(self, student_id: str) -> None:
        """Undo a deletion."""
        self._mark_gone(student_id, None)

    def _mark_gone(self, student_id: str, when: str | None) -> None:
        with self.ledger.session() as session:
            row = session.get(StudentRow, student_id)
            if row is None:
                raise LedgerError("This student is not in the ledger any more.", "Another window has deleted it.")
            row.gone_at = when

    def tidy(self) -> int:
        """Delete for good what was deleted; done when the program ends. Returns: how many students."""
        with self.ledger.session() as session:
            gone = session.scalars(select(StudentRow.id).where(StudentRow.gone_at.is_not(None))).all()
            session.execute(delete(StudentRow).where(StudentRow.id.in_(gone)))
        return len(gone)

    def nobody(self) -> Student:
        """Return the student "not said", who is made where there is none."""
        found = next((student for student in self.students() if student.name == NOT_SAID), None)
        return found or self.put_student(Student(NOT_SAID))

    # --- requests ---
    def requests(self, *, open_only: bool = True) -> list[Request]:
        """Return the queue: what is due first before what is due later, then by when it was asked."""
        with self.ledger.session() as session:
            asked = select(RequestRow).join(StudentRow, StudentRow.id == RequestRow.student_id)
            asked = asked.where(StudentRow.gone_at.is_(None))
            if open_only:
                asked = asked.where(RequestRow.done_at == "")
            rows = [Request(**_columns(row)) for row in session.scalars(asked)]
        return sorted(rows, key=lambda row: (row.due or "9999", row.asked_at))

    def put_request(self, request: Request) -> Request:
        kept = request if request.id else replace(request, id=new_id())
        if not kept.asked_at:
            kept = replace(kept, asked_at=datetime.now().isoformat(timespec="seconds"))
        with self.ledger.session() as session:
            session.merge(RequestRow(**_fields(kept)))
        return kept

    def estimate(self, note_count: int) -> Estimate:
        """Return how long a solo of so many notes will take, by what the requests that are done have taken.

        The median of the instructor's own notes an hour and its quartiles; a common figure until three are done.
        """
        done = [row for row in self.requests(open_only=False) if row.done_at and row.spent_h > 0 and row.note_count > 0]
        rates = np.array([row.note_count / row.spent_h for row in done])
        if rates.size < 3:
            rates = np.append(rates, [USUAL_NOTES_AN_HOUR] * (3 - rates.size))
        slow, usual, quick = np.percentile(rates, [25, 50, 75])
        return Estimate(note_count / quick, note_count / usual, note_count / slow, len(done))

    # --- passes ---
    def log(self, passes: Iterable[LoggedPass]) -> None:
        """Keep passes; one with an id that is there already is left as it is, so that nothing is counted twice."""
        rows = [
            {**_fields(played), "id": played.id or new_id(), "phrases": " ".join(played.phrases),
             "result": str(played.result)}
            for played in passes
        ]  # fmt: skip
        if not rows:
            return
        with self.ledger.session() as session:
            known = set(session.scalars(select(PassRow.id).where(PassRow.id.in_([row["id"] for row in rows]))))
            fresh = [row for row in rows if row["id"] not in known]
            if fresh:
                session.execute(insert(PassRow), fresh)

    def passes(self, student_id: str, *, document_id: str = "") -> list[LoggedPass]:
        """Return a student's passes in the order they were played, of one document or of all."""
        with self.ledger.session() as session:
            asked = select(_table("passes")).where(PassRow.student_id == student_id)
            if document_id:
                asked = asked.where(PassRow.document_id == document_id)
            rows = session.execute(asked.order_by(PassRow.played_at, PassRow.id)).mappings()
            return [_pass(row) for row in rows]

    # --- all of it, out and in ---
    def all_data(self) -> dict[str, list[dict[str, Any]]]:
        """Return everything but the catalogue as plain values, by table."""
        with self.ledger.session() as session:
            return {name: [dict(row._mapping) for row in session.execute(select(_table(name)))] for name in KEPT_TABLES}

    def take_data(self, data: dict[str, list[dict[str, Any]]]) -> int:
        """Take in what `all_data` gave, here or elsewhere; what has a known id is replaced. Returns: rows.

        Raises: LedgerError, with nothing taken in, for what is no such data.
        """
        if not isinstance(data, dict) or not all(isinstance(data.get(name, []), list) for name in KEPT_TABLES):
            raise LedgerError("This is no record of Notcher's.", f"It has lists named {', '.join(KEPT_TABLES)}.")
        with self.ledger.session() as session:
            return sum(_take_row(session, name, row) for name in KEPT_TABLES for row in data.get(name, []))

    def csv_of(self, name: str) -> str:
        """Return one table as CSV. Raises: LedgerError for a table that is not there."""
        if name not in KEPT_TABLES:
            raise LedgerError(f"There is no table {name!r}.", f"There are {', '.join(KEPT_TABLES)}.")
        stream = io.StringIO()
        writer = csv.DictWriter(stream, [column.name for column in _table(name).columns], lineterminator="\n")
        writer.writeheader()
        writer.writerows(self.all_data()[name])
        return stream.getvalue()


def _table(name: str) -> Table:
    return Base.metadata.tables[name]


def _take_row(session: Session, name: str, row: object) -> int:
    table = _table(name)
    known = {column.name: column for column in table.columns}
    if not isinstance(row, dict) or not set(row) <= set(known):
        unknown = sorted(set(row) - set(known)) if isinstance(row, dict) else row
        raise LedgerError(f"This is no row of {name}: {unknown}.", "Nothing was taken in.")
    if missing := [key for key, column in known.items() if not column.nullable and row.get(key) is None]:
        raise LedgerError(f"A row of {name} has no {missing[0]}.", "Nothing was taken in.")
    key = next(iter(table.primary_key.columns)).name
    # replaced in place: deleting a student first would take the passes along
    session.execute(insert(table).values(row).on_conflict_do_update(index_elements=[key], set_=row))
    return 1


def _fields(value: Any) -> dict[str, Any]:
    return {name: getattr(value, name) for name in value.__dataclass_fields__}


def _columns(row: Base) -> dict[str, Any]:
    return {column.name: getattr(row, column.name) for column in row.__table__.columns}


def _student(row: StudentRow) -> Student:
    return Student(**{name: value for name, value in _columns(row).items() if name != "gone_at"})


def _pass(row: Mapping[Any, Any]) -> LoggedPass:
    return LoggedPass(**{**row, "phrases": tuple(row["phrases"].split()), "result": Result(row["result"])})


def known_paces(passes: Sequence[LoggedPass]) -> dict[str, list[LoggedPass]]:
    """Return the passes of each single phrase, by its id, in order; joins tell of no phrase alone."""
    found: dict[str, list[LoggedPass]] = {}
    for played in passes:
        if len(played.phrases) == 1:
            found.setdefault(played.phrases[0], []).append(played)
    return found
