"""The record of students: kept, changed, deleted and brought back, out and in again, copied and restored.

SQLite's own integrity check says whether a file is whole (sqlite.org, "PRAGMA integrity_check"). Medians and quartiles
are held against the standard library's `statistics`; CSV is read back by its `csv`.
"""

import csv
import io
import json
import re
import shutil
import sqlite3
import statistics
import subprocess
import sys
from collections.abc import Iterator
from contextlib import closing
from dataclasses import replace
from datetime import datetime
from pathlib import Path

import numpy as np
import pytest
from alembic.autogenerate import compare_metadata
from alembic.runtime.migration import MigrationContext
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from sqlalchemy import create_engine, text

from notcher.core.catalogue.tables import Base
from notcher.core.ledger import (
    NOBODY,
    USUAL_NOTES_AN_HOUR,
    KeptTake,
    KnownDocument,
    LedgerError,
    Lesson,
    LoggedPass,
    Request,
    RowChange,
    Sent,
    Student,
    Wished,
    store,
)
from notcher.core.ledger.errors import DamagedLedgerError, StrangeRowError
from notcher.core.ledger.pending_changes import PendingChanges
from notcher.core.ledger.record import JSON_NAME, TABLES, Record
from notcher.core.ledger.store import KEEP, Ledger, back_up, backups, newest_good_copy, restore
from notcher.core.proving import Result, Take
from notcher.core.sound import Clip

ADA = Student("Ada", guitar="solid body", string_set="10 to 46", lesson_order="pairs", id="ada")
BO = Student("Bo", id="bo")


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


def a_take(student: Student = ADA, name: str = "t1") -> KeptTake:
    take = Take(name, "Take 1", ("p1", "p2"), 0.5, 2.5, 0.8, "click", 0.12, "2026-03-01T18:00:00")
    return KeptTake(student.id, "solo", take)


def everything() -> list[object]:
    """A row of every table."""
    return [
        ADA,
        KnownDocument("copy", "solo", "Slow walk", "walk.notch", 140, ({"id": "p1", "name": "Call", "bpm": 92.0},)),
        Request(ADA.id, "Slow walk", "live", "from 1:10", "neck pickup", "2026-02-01", "2026-03-01", "copy"),
        Lesson(ADA.id, "copy", "2026-03-01", minutes=30.0, plan={"steps": []}, did="Call at 60", id="l1"),
        a_take(),
        LoggedPass(ADA.id, "solo", ("p1", "p2"), 0.7, Result.SHAKY, "2026-03-01T18:01:00", "t1", "l1"),
        Wished(ADA.id, "solo", {"order": []}),
        Sent(ADA.id, "copy", "Slow walk", "2026-03-02", {"notes": []}),
    ]  # fmt: skip


# --- rows ---
def test_every_row_is_read_as_it_was_put(record: Record, path: Path) -> None:
    rows = everything()
    record.put(*rows)
    again = Ledger(path)
    book = Record(again).read(ADA.id)
    again.close()
    for row in rows:
        assert getattr(book, row.TABLE)[row.id] == row  # type: ignore[attr-defined]
    assert [day.day for day in book.days] == ["2026-03-01"]


def test_changes_are_made_and_undone_in_any_order_of_tables(record: Record) -> None:
    rows = everything()
    changes = [RowChange(None, row) for row in reversed(rows)]  # those that others belong to come last
    record.apply(changes)
    assert len(record.read(ADA.id).lessons) == 1
    record.apply(change.undone for change in changes)
    assert record.all_data() == {name: [] for name in TABLES}


def test_a_change_that_cannot_be_made_changes_nothing(record: Record) -> None:
    with pytest.raises(LedgerError, match="not in the ledger"):
        record.put(ADA, a_pass(replace(ADA, id="nobody here"), 0))
    assert record.read().present == []


def test_the_book_changes_as_the_ledger_does(record: Record) -> None:
    changes = [RowChange(None, row) for row in everything()]
    book = record.read(ADA.id).changed(changes)
    record.apply(changes)
    read = record.read(ADA.id)
    assert replace(book, days=()) == replace(read, days=())
    undone = [change.undone for change in reversed(changes)]
    record.apply(undone)
    assert book.changed(undone) == record.read(ADA.id)


# --- students ---
def test_students_stand_by_name_and_nobody_comes_last(record: Record) -> None:
    record.put(NOBODY, BO, ADA, Student("zed", id="zed"))
    assert [student.name for student in record.read().present] == ["Ada", "Bo", "zed", "no student"]
    record.put(replace(ADA, guitar="seven strings", notes="left hand is quick"))
    assert record.read().students[ADA.id].guitar == "seven strings"


@pytest.mark.parametrize("name", ["", "  ", "\t"])
def test_a_student_needs_a_name(name: str) -> None:
    with pytest.raises(LedgerError, match="needs a name"):
        Student(name)


def test_a_deleted_student_can_be_brought_back_until_the_ledger_is_tidied(record: Record) -> None:
    record.put(*everything(), BO)
    record.put_sound("t1", Clip(np.zeros((100, 1), np.float32), 44_100))
    book = record.read(ADA.id)
    assert book.what_goes_with(ADA.id) == {"requests": 1, "lessons": 1, "passes": 1, "takes": 1, "sent": 1}
    deleted = RowChange(ADA, replace(ADA, gone_at=datetime.now().isoformat()))
    record.apply([deleted])
    book = record.read(ADA.id)
    assert (book.present, book.queue(), book.lessons_of()) == ([BO], [], [])
    assert record.tidy() == 0, "another window that closes throws nothing away"
    record.apply([deleted.undone])
    assert record.read(ADA.id).what_goes_with(ADA.id)["passes"] == 1
    record.apply([deleted])
    assert record.tidy(deleted=[ADA.id, "t1"]) == 1
    assert {name: len(rows) for name, rows in record.all_data().items() if rows} == {"students": 1, "documents": 1}
    assert list(record.sounds.glob("*")) == [], "and its sounds"


def test_what_a_killed_window_had_deleted_goes_after_a_day(record: Record) -> None:
    record.put(replace(ADA, gone_at="2026-03-01T12:00:00"), replace(BO, gone_at="2026-03-02T11:00:00"))
    assert record.tidy(now=datetime(2026, 3, 2, 12, 30)) == 1
    assert set(record.read().students) == {BO.id}


# --- requests ---
def test_the_queue_is_by_what_is_due_and_then_by_when_it_was_asked(record: Record) -> None:
    record.put(ADA)
    for title, asked, due in (("late", "2026-01-03", ""), ("soon", "2026-01-02", "2026-02-01"),
                              ("later", "2026-01-01", "2026-03-01"), ("first", "2026-01-01", "")):  # fmt: skip
        record.put(Request(ADA.id, title, asked_at=asked, due=due))
    queue = record.read().queue()
    assert [one.title for one in queue] == ["soon", "later", "first", "late"]
    record.put(replace(queue[0], done_at="2026-01-20", spent_h=2.5))
    assert [one.title for one in record.read().queue()] == ["later", "first", "late"]
    assert len(record.read().queue(open_only=False)) == 4


@pytest.mark.outside(
    what="quartiles of the pace so far",
    source="Python's statistics.quantiles",
    tolerance="1e-6",
    why="floating point",
    kind="library",
)
def test_hours_are_estimated_by_the_pace_so_far(record: Record) -> None:
    record.put(ADA)
    unknown = record.read().estimate(240)
    assert (unknown.low_h, unknown.likely_h, unknown.high_h, unknown.rests_on) == (
        *[240 / USUAL_NOTES_AN_HOUR] * 3, 0,
    )  # fmt: skip
    rates = [60.0, 90.0, 100.0, 150.0, 200.0]
    for rate in rates:
        record.put(Request(ADA.id, "done", note_count=300, spent_h=300 / rate, done_at="2026-01-20"))
    record.put(Request(ADA.id, "not measured", note_count=0, spent_h=1.0, done_at="2026-01-20"))
    low, middle, high = statistics.quantiles(rates, n=4, method="inclusive")
    known = record.read().estimate(240)
    assert known.rests_on == 5
    assert (known.low_h, known.likely_h, known.high_h) == pytest.approx((240 / high, 240 / middle, 240 / low))


# --- passes and takes ---
def test_passes_are_read_of_the_students_that_are_asked_for(record: Record) -> None:
    record.put(ADA, BO, *(a_pass(ADA, at, result=result) for at, result in enumerate(Result)))
    record.put(replace(a_pass(BO, 7), document_id="other"))
    book = record.read(ADA.id)
    assert [row.id for row in book.passes_of(ADA.id)] == ["n0", "n1", "n2"]
    assert book.passes_of(BO.id) == []
    assert [(day.student_id, day.day) for day in book.days] == [
        *((ADA.id, f"2026-03-0{at}") for at in (1, 2, 3)), (BO.id, "2026-03-08"),
    ]  # fmt: skip
    assert [row.id for row in record.read(BO.id).passes_of(BO.id, "other")] == ["n7"]


def test_of_each_day_the_last_pass_is_told(record: Record) -> None:
    early, late = a_pass(ADA, 0, result=Result.MISSED), a_pass(ADA, 0)
    record.put(ADA, early, replace(late, id="later", played_at="2026-03-01T18:30:00", pace=0.8))
    (day,) = record.read().days
    assert (day.pace, day.result) == (0.8, Result.CLEAN)


def test_a_copy_of_a_document_shares_its_practice(record: Record) -> None:
    record.put(ADA, KnownDocument("copy", "solo"), KnownDocument("solo", "solo"), a_pass(ADA, 0), a_take())
    book = record.read(ADA.id)
    for name in ("solo", "copy"):
        assert (len(book.passes_of(ADA.id, name)), len(book.takes_of(ADA.id, name))) == (1, 1)
        assert book.last_student(name) == ADA.id
    assert book.last_student("another") == ""


# --- what cannot be written ---
def test_what_is_not_written_waits_and_is_written_in_order(record: Record, tmp_path: Path) -> None:
    waiting = PendingChanges(tmp_path / "waiting")
    clip = Clip(np.zeros((50, 1), np.float32), 44_100)
    assert not waiting.waiting
    waiting.keep([RowChange(None, row) for row in everything()], {"t1": clip})
    waiting.keep([RowChange(ADA, replace(ADA, name="Ada L."))])
    with (tmp_path / "waiting" / "changes.jsonl").open("a") as journal:
        journal.write('[[null, ["students", {"id": "to')  # a kill has torn it
    assert len(PendingChanges(tmp_path / "waiting").changes()) == len(everything()) + 1
    PendingChanges(tmp_path / "waiting").write_into(record)
    book = record.read(ADA.id)
    assert (book.students[ADA.id].name, len(book.passes), len(book.takes)) == ("Ada L.", 1, 1)
    assert record.sound("t1").samples.shape == (50, 1)
    assert not waiting.waiting


# --- out and in ---
TEXT = st.text(st.characters(exclude_categories=("Cs", "Cc")), max_size=20)


@pytest.mark.slow
@settings(suppress_health_check=[HealthCheck.function_scoped_fixture], max_examples=15, deadline=None)
@given(
    name=TEXT.filter(str.strip), notes=TEXT, hours=st.floats(0, 1e4), paces=st.lists(st.floats(0.25, 1.5), max_size=5)
)
def test_everything_goes_out_and_comes_in_the_same(tmp_path_factory: pytest.TempPathFactory, name: str, notes: str,
                                                   hours: float, paces: list[float]) -> None:  # fmt: skip
    folder = tmp_path_factory.mktemp("both")
    here, there = Ledger(folder / "here.sqlite"), Ledger(folder / "there.sqlite")
    one, other = Record(here), Record(there)
    student = Student(name, notes=notes, scale_mm=hours)
    one.put(*everything(), student, Request(student.id, name, estimated_h=hours))
    one.put(*(replace(a_pass(student, at), pace=pace) for at, pace in enumerate(paces)))
    data = json.loads(json.dumps(one.all_data()))
    count = sum(len(rows) for rows in data.values())
    assert [other.take_data(data), other.take_data(data)] == [count, count]
    assert other.all_data() == one.all_data()
    third = Ledger(folder / "third.sqlite")
    for table in TABLES:
        Record(third).take_csv(table, one.csv_of(table))
    assert Record(third).all_data() == one.all_data()
    for ledger in (here, there, third):
        ledger.close()


def test_a_folder_is_given_out_and_taken_in_with_the_sounds(record: Record, tmp_path: Path) -> None:
    record.put(*everything())
    record.put_sound("t1", Clip(np.full((50, 1), 0.5, np.float32), 44_100))
    assert record.give_out(tmp_path / "out") == len(everything())
    assert {file.name for file in (tmp_path / "out").iterdir()} == {
        JSON_NAME, "takes", *(f"{name}.csv" for name in TABLES)
    }  # fmt: skip
    other = Ledger(tmp_path / "other" / "ledger.sqlite")
    assert Record(other).take_file(tmp_path / "out" / JSON_NAME) == len(everything())
    assert Record(other).all_data() == record.all_data()
    assert np.abs(Record(other).sound("t1").samples - 0.5).max() < 1e-3
    assert Record(other).take_file(tmp_path / "out" / "students.csv") == 1
    other.close()


def test_a_student_taken_in_again_keeps_the_passes_that_are_here(record: Record) -> None:
    record.put(ADA)
    data = record.all_data()
    record.put(a_pass(ADA, 0), replace(ADA, name="Ada L."))
    record.take_data(data)
    assert record.read().present == [ADA]
    assert len(record.read(ADA.id).passes_of(ADA.id)) == 1


def test_tables_go_out_as_csv(record: Record) -> None:
    record.put(replace(ADA, notes='says "louder", then\nstops'), a_pass(ADA, 0))
    rows = list(csv.DictReader(io.StringIO(record.csv_of("students"))))
    assert [(row["name"], row["notes"]) for row in rows] == [("Ada", 'says "louder", then\nstops')]
    assert next(csv.DictReader(io.StringIO(record.csv_of("passes"))))["result"] == "clean"
    with pytest.raises(LedgerError, match="no table 'phrases'"):
        record.csv_of("phrases")


@pytest.mark.slow
@pytest.mark.parametrize(
    ("table", "text", "said"),
    [
        ("students", "id,name,shoe\na,Ada,43\n", "Line 2 of students has an unknown column shoe"),
        ("students", "id,name\na\n", "Line 2 of students has no column name"),
        ("students", "id,name,scale_mm\na,Ada,long\n", "Line 2 of students: scale_mm cannot be 'long'"),
        ("students", 'id,name\na,"Ada\n', "is no CSV"),
        ("students", "id,name\na,\n", "needs a name"),
        ("lessons", "id,student_id,plan\na,ada,{\n", "plan cannot be"),
        ("passes", "id,student_id,document_id,phrases,pace,result,played_at\nn,ada,d,p,1,good,2026\n", "cannot"),
        ("shoes", "id\na\n", "no table 'shoes'"),
    ],
)
def test_what_is_no_such_csv_is_refused_with_its_line(record: Record, table: str, text: str, said: str) -> None:
    record.put(BO)
    with pytest.raises(LedgerError, match=re.escape(said)):
        record.take_csv(table, text)
    assert record.read().present == [BO]


STUDENT = {
    "id": "a",
    "name": "Ada",
    "guitar": "",
    "tuning": "",
    "string_set": "",
    "naming": "",
    "lesson_order": "",
    "notes": "",
}

OF_NOBODY = {"id": "n", "student_id": "b", "document_id": "", "phrases": "", "pace": 1.0, "result": "clean",
             "played_at": "", "take_id": ""}  # fmt: skip


@pytest.mark.slow
@pytest.mark.parametrize(
    ("data", "said"),
    [
        ([], "no record"),
        ({"students": {}}, "no record"),
        ({"shoes": []}, "no table 'shoes'"),
        ({"students": ["Ada"]}, "no row of students"),
        ({"students": [STUDENT, {**STUDENT, "shoe": 43}]}, "shoe"),
        ({"students": [STUDENT, {"id": "b"}]}, "no name"),
        ({"students": [STUDENT], "passes": [OF_NOBODY]}, "not in the ledger"),
        ({"students": [{**STUDENT, "name": ["Ada"]}]}, "wrong kind"),
        ({"students": [{**STUDENT, "name": " "}]}, "needs a name"),
    ],
)  # fmt: skip
def test_what_is_no_record_is_refused_and_nothing_of_it_is_taken(record: Record, data: object, said: str) -> None:
    with pytest.raises(LedgerError, match=said):
        record.take_data(data)  # type: ignore[arg-type]
    assert record.read().present == []


# --- the file ---
def with_a_step_more(folder: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """Let the ledger have one version more than it has: what the next release may do."""
    shutil.copytree(store.MIGRATIONS, folder / "migrations")
    (folder / "migrations" / "versions" / "next.py").write_text(
        """
import sqlalchemy as sa
from alembic import op

revision, down_revision, branch_labels, depends_on = "next", "0001", None, None


def upgrade() -> None:
    op.add_column("students", sa.Column("motto", sa.String, nullable=False, server_default="slowly"))
""",
        "utf-8",
    )
    monkeypatch.setattr(store, "MIGRATIONS", folder / "migrations")


def test_an_older_file_is_brought_up_with_its_rows_and_a_copy_is_made_first(
    path: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    ledger = Ledger(path)
    Record(ledger).put(ADA)
    ledger.close()
    before = sqlite_text(path)
    with_a_step_more(tmp_path, monkeypatch)
    ledger = Ledger(path)
    with ledger.session() as session:
        assert session.execute(text("SELECT name, motto FROM students")).all() == [("Ada", "slowly")]
    ledger.close()
    (copy,) = backups(path)
    assert sqlite_text(copy) == before


def sqlite_text(path: Path) -> list[str]:
    with closing(sqlite3.connect(path)) as connection:
        return list(connection.iterdump())


def test_the_migrations_make_what_the_tables_say(path: Path) -> None:
    Ledger(path).close()
    with create_engine(f"sqlite:///{path}").connect() as connection:
        assert compare_metadata(MigrationContext.configure(connection), Base.metadata) == []


def test_a_full_disk_is_told_and_nothing_is_half_written(record: Record, monkeypatch: pytest.MonkeyPatch) -> None:
    """SQLite says SQLITE_FULL as on a full disk once a file may have no more pages (sqlite.org, max_page_count)."""
    record.put(ADA)
    with record.ledger.session() as session:
        pages = session.execute(text("PRAGMA page_count")).scalar()
        session.execute(text(f"PRAGMA max_page_count = {pages}"))
    with pytest.raises(LedgerError, match="could not be written"):
        record.put(*(replace(a_pass(ADA, at % 28), id=f"m{at}") for at in range(3_000)))
    assert record.read(ADA.id).passes_of(ADA.id) == []


def test_a_ledger_that_may_not_be_written_is_read_and_told(record: Record, path: Path) -> None:
    record.put(ADA)
    with record.ledger.session() as session:
        session.execute(text("PRAGMA query_only = ON"))
    with pytest.raises(LedgerError, match="may not be written"):
        record.put(BO)
    assert record.read().present == [ADA]
    with record.ledger.session() as session:
        session.execute(text("PRAGMA query_only = OFF"))


def test_ten_copies_are_kept_and_the_newest_can_be_restored(record: Record, path: Path) -> None:
    for at in range(KEEP + 3):
        record.put(Student(f"Student {at:02d}"))
        back_up(path)
    assert len(backups(path)) == KEEP
    record.put(ADA)
    oldest = backups(path)[-1]
    restore(oldest, path)
    assert [one.name for one in record.read().present] == [f"Student {at:02d}" for at in range(4)]
    restore(backups(path)[0], path)  # as it was before that
    assert "Ada" in [one.name for one in record.read().present]


def test_a_copy_of_an_older_version_is_restored_as_this_one(
    record: Record, path: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    record.put(ADA)
    old = back_up(path)
    assert old is not None
    before = old.read_bytes()
    record.put(BO)
    with_a_step_more(tmp_path, monkeypatch)
    restore(old, path)
    assert record.read().present == [ADA]
    with record.ledger.session() as session:
        assert session.execute(text("SELECT motto FROM students")).scalar() == "slowly"
    assert old.read_bytes() == before


@pytest.mark.parametrize(
    "damage", [b"not a database, and long enough to be read as one" * 50, b"SQLite format 3\0" + b"\xff" * 4096]
)
def test_a_damaged_ledger_is_put_aside_when_a_copy_is_restored(path: Path, damage: bytes) -> None:
    ledger = Ledger(path)
    Record(ledger).put(ADA)
    ledger.close()
    copy = back_up(path)
    assert copy is not None
    path.write_bytes(damage)
    with pytest.raises(LedgerError, match="damaged or no ledger"):
        Ledger(path)
    assert path.read_bytes() == damage
    restore(copy, path)
    ledger = Ledger(path)
    assert [one.name for one in Record(ledger).read().present] == ["Ada"]
    ledger.close()
    (aside,) = path.parent.glob("*.damaged")
    assert aside.read_bytes() == damage


def test_what_is_no_copy_is_not_restored(record: Record, path: Path, tmp_path: Path) -> None:
    record.put(ADA)
    wrong = tmp_path / "wrong.sqlite"
    wrong.write_bytes(b"no ledger at all" * 100)
    for copy in (wrong, tmp_path / "missing.sqlite"):
        with pytest.raises(LedgerError):
            restore(copy, path)
    assert [one.name for one in record.read().present] == ["Ada"]


def test_nothing_is_copied_where_there_is_nothing(path: Path) -> None:
    assert back_up(path) is None
    assert backups(path) == []


def test_two_windows_write_the_same_ledger(record: Record, path: Path) -> None:
    other = Ledger(path)
    two = Record(other)
    record.put(ADA)
    for at in range(10):
        (record if at % 2 else two).put(a_pass(ADA, at))
    assert [len(one.read(ADA.id).passes) for one in (record, two)] == [10, 10]
    other.close()


@pytest.mark.slow
@pytest.mark.parametrize(
    "line",
    [
        '[[null, ["passes", {"id": ', '[[null, ["nothing", {}]]]', "[[null, null]]", "[[[], 5]]", "{}", "\x00\x00",
        '[[null, ["passes", {"id": "p", "student_id": "nobody there", "document_id": "d", "phrases": "", "pace": 0.5, '
        '"result": "clean", "played_at": "2026-03-02", "take_id": "", "lesson_id": null}]]]',
        '[[null, ["students", {"id": "c", "name": {"a": 1}, "guitar": "", "string_set": "", "lesson_order": ""}]]]',
    ],
)  # fmt: skip
def test_a_line_that_no_ledger_takes_keeps_no_other_waiting(record: Record, tmp_path: Path, line: str) -> None:
    """A full disk or a bad one may leave anything in the middle of what waits."""
    waiting = PendingChanges(tmp_path / "waiting")
    waiting.keep([RowChange(None, ADA)])
    with (tmp_path / "waiting" / "changes.jsonl").open("a") as journal:
        journal.write(f"{line}\n")
    waiting.keep([RowChange(None, BO)])
    waiting.write_into(record)
    assert {"ada", "bo"} <= set(record.read().students)
    assert not waiting.waiting
    assert (tmp_path / "waiting" / "aside.jsonl").read_text().rstrip("\n") == line, "it is kept all the same"


def test_a_window_that_waits_in_vain_says_so(record: Record, path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("notcher.core.ledger.store.WAIT_S", 0.05)
    other = Ledger(path)
    with closing(sqlite3.connect(path, isolation_level=None)) as writing:
        writing.execute("BEGIN IMMEDIATE")
        with pytest.raises(LedgerError, match="written by another program"):
            Record(other).put(ADA)
    assert record.read().present == []
    other.close()


@pytest.mark.parametrize("value", ["\ud800", 2**70])
def test_a_value_that_no_column_takes_is_refused(record: Record, value: object) -> None:
    with pytest.raises(StrangeRowError, match="no ledger can hold"):
        record.put(replace(ADA, notes=value))  # type: ignore[arg-type]
    assert record.read().present == []


@pytest.mark.slow
def test_however_it_is_cut_off_the_ledger_opens_again() -> None:
    bench = Path(__file__).parents[2] / "bench" / "endure_ledger.py"
    done = subprocess.run([sys.executable, str(bench), "--cuts", "24", "--seed", "8"], capture_output=True, text=True)
    assert done.returncode == 0, done.stdout + done.stderr
    assert "cut off" in done.stdout, "some were"


def test_what_is_half_made_is_damaged_and_never_copied(path: Path) -> None:
    path.parent.mkdir()
    with closing(sqlite3.connect(path)) as connection:
        connection.executescript(
            "CREATE TABLE students (id VARCHAR); CREATE TABLE alembic_version (version_num VARCHAR);"
        )
    for refused in (lambda: Ledger(path), lambda: back_up(path)):
        with pytest.raises(DamagedLedgerError, match="damaged or no ledger"):
            refused()
    assert not list((path.parent / "backups").iterdir())


def test_the_newest_copy_that_opens_is_found(record: Record, path: Path) -> None:
    assert newest_good_copy(path) is None
    record.put(ADA)
    good = back_up(path)
    for content in (b"", b"SQLite format 3\0" + b"\x00" * 4000):
        (path.parent / "backups" / f"ledger-99991231-{len(content)}.sqlite").write_bytes(content)
    assert newest_good_copy(path) == good


def test_the_record_is_its_owners_alone(record: Record, path: Path, tmp_path: Path) -> None:
    record.put(ADA)
    record.give_out(tmp_path / "out")
    back_up(path)
    ours = [path.parent, *path.parent.rglob("*"), tmp_path / "out", *(tmp_path / "out").rglob("*")]
    assert {place.name: oct(place.stat().st_mode & 0o077) for place in ours if place.stat().st_mode & 0o077} == {}


@pytest.mark.parametrize("take_id", ["../../outside", "a/b", "", ".", "x" * 65])
def test_a_take_whose_id_is_a_way_to_another_place_is_not_taken_in(
    record: Record, tmp_path: Path, take_id: str
) -> None:
    record.put(ADA)
    data = record.all_data()
    row = {"id": take_id, "student_id": "ada", "document_id": "d", "name": "One", "phrases": "p", "start_s": 0.0,
           "end_s": 1.0, "pace": 1.0, "along": "", "made_at": "2026-01-01"}  # fmt: skip
    with pytest.raises(LedgerError, match="no id of a take"):
        record.take_data({**data, "takes": [row]})


@pytest.mark.parametrize("folder", ["a?b", "a%20b", "#a;b", "ö x"])
def test_a_ledger_lies_in_a_folder_of_any_name(tmp_path: Path, folder: str) -> None:
    path = tmp_path / folder / "ledger.sqlite"
    ledger = Ledger(path)
    Record(ledger).put(ADA)
    ledger.close()
    assert back_up(path) is not None
    assert [place.name for place in tmp_path.iterdir()] == [folder]
    ledger = Ledger(path)
    assert Record(ledger).read().present == [ADA]
    ledger.close()
