"""What the record holds, as values: one class for the rows of each table, and rows turned into values and back."""

from collections.abc import Mapping
from dataclasses import Field, dataclass, field, fields
from typing import Any, ClassVar

from notcher.core.ledger.errors import LedgerError
from notcher.core.proving import Result, Take
from notcher.core.score import new_id

NOT_SAID, NOBODY_ID = "no student", "not-said"
"""The student to whom marks belong that nobody said a name for."""


@dataclass(frozen=True, slots=True)
class Student:
    """Someone who is taught. string_set, lesson_order, naming: by their names; empty where nothing was said.

    scale_mm: of the guitar's strings, 0 where nothing was said. sheets: what this student's sheets are like, as
    `told_choices` says it in JSON; empty where nothing was chosen. gone_at: when deleted, ISO 8601.
    """

    TABLE: ClassVar[str] = "students"
    name: str
    guitar: str = ""
    tuning: str = ""
    string_set: str = ""
    naming: str = ""
    lesson_order: str = ""
    notes: str = ""
    scale_mm: float = 0.0
    sheets: str = ""
    gone_at: str | None = None
    id: str = field(default_factory=new_id)

    def __post_init__(self) -> None:
        if not self.name.strip():
            raise LedgerError("A student needs a name.", "Type one.")


NOBODY = Student(NOT_SAID, id=NOBODY_ID)


@dataclass(frozen=True, slots=True)
class Request:
    """A solo that was asked for. asked_at, due, done_at: ISO 8601, empty where not said or not done.

    estimated_h: as it was estimated when the solo's notes were first known. note_count: 0 while they are not.
    """

    TABLE: ClassVar[str] = "requests"
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
    id: str = field(default_factory=new_id)

    def __post_init__(self) -> None:
        if not self.title.strip():
            raise LedgerError("A request needs a title.", "Type what was asked for.")


@dataclass(frozen=True, slots=True)
class Lesson:
    """A lesson, planned or held. plan: as `notcher plan` prints it. did: what was done, in the instructor's words."""

    TABLE: ClassVar[str] = "lessons"
    student_id: str
    document_id: str = ""
    planned_for: str = ""
    held_at: str = ""
    minutes: float = 0.0
    plan: Mapping[str, Any] = field(default_factory=dict)
    did: str = ""
    id: str = field(default_factory=new_id)


@dataclass(frozen=True, slots=True)
class LoggedPass:
    """One pass as it is kept. phrases: ids, two of a join. played_at: ISO 8601, empty where nobody knows."""

    TABLE: ClassVar[str] = "passes"
    student_id: str
    document_id: str
    phrases: tuple[str, ...]
    pace: float
    result: Result
    played_at: str
    take_id: str = ""
    lesson_id: str | None = None
    id: str = field(default_factory=new_id)


@dataclass(frozen=True, slots=True)
class KeptTake:
    """A take of a student; its sound lies beside the ledger, under its id. gone_at: when it was thrown away."""

    TABLE: ClassVar[str] = "takes"
    student_id: str
    document_id: str
    take: Take
    gone_at: str | None = None

    @property
    def id(self) -> str:
        return self.take.id


@dataclass(frozen=True, slots=True)
class Wished:
    """What is wanted otherwise in the lessons of one student on one solo, as `wishes_data` says it."""

    TABLE: ClassVar[str] = "wishes"
    student_id: str
    document_id: str
    wishes: Mapping[str, Any] = field(default_factory=dict)

    @property
    def id(self) -> str:
        return f"{self.student_id} {self.document_id}"


@dataclass(frozen=True, slots=True)
class Sent:
    """A state of a transcription that a student was given. music: the score, as `formats.models` says it."""

    TABLE: ClassVar[str] = "sent"
    student_id: str
    document_id: str
    title: str
    sent_at: str
    music: Mapping[str, Any] = field(default_factory=dict)
    id: str = field(default_factory=new_id)


@dataclass(frozen=True, slots=True)
class KnownDocument:
    """A document that was open here. practice_id: under which its practice is kept; a copy shares it.

    phrases: of each its id, its name and its tempo, as it was last. path: empty while it was never saved.
    """

    TABLE: ClassVar[str] = "documents"
    id: str
    practice_id: str
    title: str = ""
    path: str = ""
    note_count: int = 0
    phrases: tuple[Mapping[str, Any], ...] = ()


@dataclass(frozen=True, slots=True)
class KnownRecording:
    """A recording by its content, so that a moved file is found again. size: bytes. id: SHA-256 of the file."""

    TABLE: ClassVar[str] = "recordings"
    id: str
    path: str
    document_id: str = ""
    seconds: float = 0.0
    size: int = 0


@dataclass(frozen=True, slots=True)
class Practised:
    """How a stretch went last on one day, ISO 8601: read off the passes, never written."""

    student_id: str
    document_id: str
    phrases: tuple[str, ...]
    day: str
    pace: float
    result: Result


LedgerRow = Student | Request | Lesson | LoggedPass | KeptTake | Wished | Sent | KnownDocument | KnownRecording
KINDS: dict[str, type[LedgerRow]] = {
    kind.TABLE: kind
    for kind in (Student, KnownDocument, KnownRecording, Request, Lesson, KeptTake, LoggedPass, Wished, Sent)
}
"""By table, in an order in which each row comes after those it belongs to."""


def stored_fields(kind: type[Any]) -> list[tuple[type[Any], "Field[Any]"]]:
    """Return the fields that a kind of row is kept by, each with the class it stands in; a take's are its row's."""
    own = [(kind, entry) for entry in fields(kind) if entry.name != "take"]
    return own + [(Take, entry) for entry in fields(Take) if entry.name != "student"] if kind is KeptTake else own


@dataclass(frozen=True, slots=True)
class RowChange:
    """One row before and after; None where there is none."""

    before: LedgerRow | None
    after: LedgerRow | None

    @property
    def undone(self) -> "RowChange":
        return RowChange(self.after, self.before)

    @property
    def row(self) -> LedgerRow:
        """The row that it is about. Raises: ValueError for one of nothing."""
        row = self.after if self.after is not None else self.before
        if row is None:
            raise ValueError("a change is of a row")
        return row


def columns_of(row: LedgerRow) -> dict[str, Any]:
    """Return a row as its table's columns hold it."""
    result: dict[str, Any] = {"id": row.id}
    for owner, entry in stored_fields(type(row)):
        value = getattr(row.take if owner is Take and isinstance(row, KeptTake) else row, entry.name)
        if isinstance(value, tuple):
            value = list(value) if isinstance(row, KnownDocument) else " ".join(value)
        result[entry.name] = str(value) if isinstance(value, Result) else value
    return result


def row_of(table: str, columns: Mapping[Any, Any]) -> LedgerRow:
    """Return the row that columns hold. Raises: LedgerError for what no row can hold."""
    try:
        kind, values = KINDS[table], dict(columns)
        if "phrases" in values:
            values["phrases"] = tuple(values["phrases"] if kind is KnownDocument else values["phrases"].split())
        if kind is LoggedPass:
            values["result"] = Result(values["result"])
        if kind is Wished:
            values.pop("id")  # it follows from the others
        if kind is KeptTake:
            values["take"] = Take(**{entry.name: values.pop(entry.name) for owner, entry in stored_fields(kind)
                                   if owner is Take})  # fmt: skip
        return kind(**values)
    except (ValueError, TypeError, AttributeError, KeyError) as problem:
        raise LedgerError(
            f"A row of {table} holds what it cannot: {problem}.", "Restore the ledger from a copy."
        ) from (problem)
