"""The record of students: kept, changed, deleted and brought back, out and in again, copied and restored.

SQLite's own integrity check says whether a file is whole (sqlite.org, "PRAGMA integrity_check"). Medians and quartiles
are held against the standard library's `statistics`; CSV is read back by its `csv`.
"""

import csv
import io
import json
import sqlite3
import statistics
from collections.abc import Iterator
from contextlib import closing
from dataclasses import replace
from pathlib import Path

import pytest
from alembic.autogenerate import compare_metadata
from alembic.runtime.migration import MigrationContext
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from sqlalchemy import create_engine

from notcher.core.ledger import (
    Catalogue,
    Ledger,
    LedgerError,
    LoggedPass,
    Record,
    Request,
    Student,
    back_up,
    backups,
    known_paces,
    restore,
)
from notcher.core.ledger.models import Base
from notcher.core.ledger.record import NOT_SAID, USUAL_NOTES_AN_HOUR
from notcher.core.ledger.store import KEEP
from notcher.core.proving import Result

ADA, BO = Student("Ada", guitar="solid body", string_set="10-46", school="pairs"), Student("Bo")


@pytest.fixture
def path(tmp_path: Path) -> Path:
    return tmp_path / "data" / "ledger.sqlite"


@pytest.fixture
def record(path: Path) -> Iterator[Record]:
    ledger = Ledger(path)
    yield Record(ledger)
    ledger.close()
    with closing(sqlite3.connect(path)) as connection:
        assert connection.execute("PRAGMA integrity_check").fetchall() == [("ok",)]
        assert connection.execute("PRAGMA foreign_key_check").fetchall() == []


def a_pass(
    student: Student, at: int, *, phrases: tuple[str, ...] = ("p1",), result: Result = Result.CLEAN
) -> LoggedPass:
    return LoggedPass(
        student.id, "solo", phrases, 0.5 + at / 100, result, f"2026-03-{1 + at:02d}T18:00:00", id=f"n{at}"
    )


def first_version(path: Path) -> None:
    """Write the file that the first version made, with one phrase in it, as SQLite told it then."""
    path.parent.mkdir(parents=True, exist_ok=True)
    with closing(sqlite3.connect(path)) as connection:
        connection.executescript(Path(__file__).with_name("first_version.sql").read_text(encoding="utf-8"))
        connection.commit()


# --- students ---
def test_students_are_kept_changed_and_found_by_name(record: Record, path: Path) -> None:
    bo, ada = record.put_student(BO), record.put_student(ADA)
    assert record.students() == [ada, bo]
    record.put_student(replace(ada, guitar="seven strings", notes="left hand is quick"))
    again = Ledger(path)
    assert Record(again).students() == [replace(ada, guitar="seven strings", notes="left hand is quick"), bo]
    again.close()


@pytest.mark.parametrize("name", ["", "  ", "\t"])
def test_a_student_needs_a_name(name: str) -> None:
    with pytest.raises(LedgerError, match="needs a name"):
        Student(name)


def test_a_deleted_student_can_be_brought_back_until_the_ledger_is_tidied(record: Record) -> None:
    ada = record.put_student(ADA)
    record.put_request(Request(ada.id, "Slow walk"))
    record.log([a_pass(ada, at) for at in range(3)])
    assert record.what_goes_with(ada.id) == {"requests": 1, "lessons": 0, "passes": 3}
    record.delete_student(ada.id)
    assert (record.students(), record.requests()) == ([], [])
    record.bring_back(ada.id)
    assert (record.students(), len(record.requests()), len(record.passes(ada.id))) == ([ada], 1, 3)
    record.delete_student(ada.id)
    assert record.tidy() == 1
    assert record.what_goes_with(ada.id) == {"requests": 0, "lessons": 0, "passes": 0}
    with pytest.raises(LedgerError, match="not in the ledger"):
        record.bring_back(ada.id)


def test_nobody_is_made_once(record: Record) -> None:
    assert record.nobody() == record.nobody()
    assert [student.name for student in record.students()] == [NOT_SAID]


# --- requests ---
def test_the_queue_is_by_what_is_due_and_then_by_when_it_was_asked(record: Record) -> None:
    ada = record.put_student(ADA)
    for title, asked, due in (("late", "2026-01-03", ""), ("soon", "2026-01-02", "2026-02-01"),
                              ("later", "2026-01-01", "2026-03-01"), ("first", "2026-01-01", "")):  # fmt: skip
        record.put_request(Request(ada.id, title, asked_at=asked, due=due))
    assert [one.title for one in record.requests()] == ["soon", "later", "first", "late"]
    soon = record.requests()[0]
    record.put_request(replace(soon, done_at="2026-01-20", spent_h=2.5))
    assert [one.title for one in record.requests()] == ["later", "first", "late"]
    assert len(record.requests(open_only=False)) == 4


def test_hours_are_estimated_by_the_pace_so_far(record: Record) -> None:
    ada = record.put_student(ADA)
    unknown = record.estimate(240)
    assert (unknown.low_h, unknown.likely_h, unknown.high_h, unknown.rests_on) == (
        *[240 / USUAL_NOTES_AN_HOUR] * 3, 0,
    )  # fmt: skip
    rates = [60.0, 90.0, 100.0, 150.0, 200.0]
    for rate in rates:
        record.put_request(Request(ada.id, "done", note_count=300, spent_h=300 / rate, done_at="2026-01-20"))
    record.put_request(Request(ada.id, "not measured", note_count=0, spent_h=1.0, done_at="2026-01-20"))
    low, middle, high = statistics.quantiles(rates, n=4, method="inclusive")
    known = record.estimate(240)
    assert known.rests_on == 5
    assert (known.low_h, known.likely_h, known.high_h) == pytest.approx((240 / high, 240 / middle, 240 / low))


# --- passes ---
def test_a_pass_is_kept_once_however_often_it_is_told(record: Record) -> None:
    ada, bo = record.put_student(ADA), record.put_student(BO)
    passes = [a_pass(ada, at, result=result) for at, result in enumerate(Result)]
    record.log(passes[:2])
    record.log(passes)
    record.log([])
    assert record.passes(ada.id) == passes
    assert record.passes(ada.id, document_id="another") == record.passes(bo.id) == []


def test_joins_tell_of_no_phrase_alone(record: Record) -> None:
    ada = record.put_student(ADA)
    record.log([a_pass(ada, 0), a_pass(ada, 1, phrases=("p1", "p2")), a_pass(ada, 2, phrases=("p2",)), a_pass(ada, 3)])
    assert {key: [one.id for one in found] for key, found in known_paces(record.passes(ada.id)).items()} == {
        "p1": ["n0", "n3"],
        "p2": ["n2"],
    }


def test_a_pass_of_nobody_is_refused(record: Record) -> None:
    with pytest.raises(LedgerError, match="not in the ledger"):
        record.log([a_pass(replace(ADA, id="nobody"), 0)])


# --- out and in ---
TEXT = st.text(st.characters(exclude_categories=("Cs", "Cc")), max_size=20)


@settings(suppress_health_check=[HealthCheck.function_scoped_fixture], max_examples=15, deadline=None)
@given(
    name=TEXT.filter(str.strip), notes=TEXT, hours=st.floats(0, 1e4), paces=st.lists(st.floats(0.25, 1.5), max_size=5)
)
def test_everything_goes_out_and_comes_in_the_same(tmp_path_factory: pytest.TempPathFactory, name: str, notes: str,
                                                   hours: float, paces: list[float]) -> None:  # fmt: skip
    folder = tmp_path_factory.mktemp("both")
    here, there = Ledger(folder / "here.sqlite"), Ledger(folder / "there.sqlite")
    one, other = Record(here), Record(there)
    student = one.put_student(Student(name, notes=notes))
    one.put_request(Request(student.id, notes, estimated_h=hours))
    one.log([replace(a_pass(student, at), pace=pace) for at, pace in enumerate(paces)])
    data = json.loads(json.dumps(one.all_data()))
    assert other.take_data(data) == 2 + len(paces)
    assert other.take_data(data) == 2 + len(paces)
    assert other.all_data() == one.all_data()
    here.close()
    there.close()


def test_a_student_taken_in_again_keeps_the_passes_that_are_here(record: Record) -> None:
    ada = record.put_student(ADA)
    data = record.all_data()
    record.log([a_pass(ada, 0)])
    record.put_student(replace(ada, name="Ada L."))
    record.take_data(data)
    assert record.students() == [ada]
    assert len(record.passes(ada.id)) == 1


def test_tables_go_out_as_csv(record: Record) -> None:
    ada = record.put_student(replace(ADA, notes='says "louder", then\nstops'))
    record.log([a_pass(ada, 0)])
    rows = list(csv.DictReader(io.StringIO(record.csv_of("students"))))
    assert [(row["name"], row["notes"]) for row in rows] == [("Ada", 'says "louder", then\nstops')]
    assert next(csv.DictReader(io.StringIO(record.csv_of("passes"))))["result"] == "clean"
    with pytest.raises(LedgerError, match="no table 'phrases'"):
        record.csv_of("phrases")


STUDENT = {
    "id": "a",
    "name": "Ada",
    "guitar": "",
    "tuning": "",
    "string_set": "",
    "naming": "",
    "school": "",
    "notes": "",
}

OF_NOBODY = {"id": "n", "student_id": "b", "document_id": "", "phrases": "", "pace": 1.0, "result": "clean",
             "played_at": "", "take_id": ""}  # fmt: skip


@pytest.mark.parametrize(
    ("data", "said"),
    [
        ([], "no record"),
        ({"students": {}}, "no record"),
        ({"students": ["Ada"]}, "no row of students"),
        ({"students": [STUDENT, {**STUDENT, "shoe": 43}]}, "shoe"),
        ({"students": [STUDENT, {"id": "b"}]}, "no name"),
({"students": [STUDENT], "passes": [OF_NOBODY]}, "not in the ledger"),
        ({"students": [{**STUDENT, "name": ["Ada"]}]}, "cannot be used"),
    ],
)  # fmt: skip
def test_what_is_no_record_is_refused_and_nothing_of_it_is_taken(record: Record, data: object, said: str) -> None:
    with pytest.raises(LedgerError, match=said):
        record.take_data(data)  # type: ignore[arg-type]
    assert record.students() == []


# --- the file ---
def test_a_file_of_the_first_version_keeps_its_catalogue_and_a_copy_is_made_first(path: Path) -> None:
    first_version(path)
    ledger = Ledger(path)
    assert Catalogue(ledger).size == 1
    Record(ledger).put_student(ADA)
    ledger.close()
    (copy,) = backups(path)
    with closing(sqlite3.connect(copy)) as connection:
        assert connection.execute("SELECT version_num FROM alembic_version").fetchall() == [("0001",)]
        assert connection.execute("SELECT name FROM phrases").fetchall() == [("Slow walk",)]


@pytest.mark.parametrize("start", ["new", "first"])
def test_the_migrations_make_what_the_tables_say(path: Path, start: str) -> None:
    if start == "first":
        first_version(path)
    Ledger(path).close()
    with create_engine(f"sqlite:///{path}").connect() as connection:
        context = MigrationContext.configure(connection, opts={"compare_type": False})  # SQLite has no more than five
        assert compare_metadata(context, Base.metadata) == []


def test_ten_copies_are_kept_and_the_newest_can_be_restored(record: Record, path: Path) -> None:
    for at in range(KEEP + 3):
        record.put_student(Student(f"Student {at:02d}"))
        back_up(path)
    assert len(backups(path)) == KEEP
    record.put_student(ADA)
    oldest = backups(path)[-1]
    restore(oldest, path)
    assert [one.name for one in record.students()] == [f"Student {at:02d}" for at in range(4)]
    restore(backups(path)[0], path)  # as it was before that
    assert "Ada" in [one.name for one in record.students()]


def test_a_copy_of_an_older_version_is_restored_as_this_one(record: Record, path: Path, tmp_path: Path) -> None:
    old = tmp_path / "old.sqlite"
    first_version(old)
    before = old.read_bytes()
    restore(old, path)
    assert record.students() == []
    assert Catalogue(record.ledger).size == 1
    assert old.read_bytes() == before


@pytest.mark.parametrize(
    "damage", [b"not a database, and long enough to be read as one" * 50, b"SQLite format 3\0" + b"\xff" * 4096]
)
def test_a_damaged_ledger_is_put_aside_when_a_copy_is_restored(path: Path, damage: bytes) -> None:
    ledger = Ledger(path)
    Record(ledger).put_student(ADA)
    ledger.close()
    copy = back_up(path)
    assert copy is not None
    path.write_bytes(damage)
    with pytest.raises(LedgerError, match="damaged or no ledger"):
        Ledger(path)
    assert path.read_bytes() == damage
    restore(copy, path)
    ledger = Ledger(path)
    assert [one.name for one in Record(ledger).students()] == ["Ada"]
    ledger.close()
    assert path.with_suffix(".damaged").read_bytes() == damage


def test_what_is_no_copy_is_not_restored(record: Record, path: Path, tmp_path: Path) -> None:
    record.put_student(ADA)
    wrong = tmp_path / "wrong.sqlite"
    wrong.write_bytes(b"no ledger at all" * 100)
    for copy in (wrong, tmp_path / "missing.sqlite"):
        with pytest.raises(LedgerError):
            restore(copy, path)
    assert [one.name for one in record.students()] == ["Ada"]


def test_nothing_is_copied_where_there_is_nothing(path: Path) -> None:
    assert back_up(path) is None
    assert backups(path) == []


def test_two_windows_write_the_same_ledger(record: Record, path: Path) -> None:
    other = Ledger(path)
    two = Record(other)
    ada = record.put_student(ADA)
    for at in range(10):
        (record if at % 2 else two).log([a_pass(ada, at)])
    assert len(record.passes(ada.id)) == len(two.passes(ada.id)) == 10
    other.close()


def test_a_window_that_waits_in_vain_says_so(record: Record, path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("notcher.core.ledger.store.WAIT_S", 0.05)
    other = Ledger(path)
    with closing(sqlite3.connect(path, isolation_level=None)) as writing:
        writing.execute("BEGIN IMMEDIATE")
        with pytest.raises(LedgerError, match="written by another program"):
            Record(other).put_student(ADA)
    assert record.students() == []
    other.close()
