"""The record of students in a ledger: read as a book, changed row by row, given out and taken in again.

The sounds of takes lie in a folder beside the ledger, as FLAC.
"""

import csv
import io
import json
import shutil
from collections.abc import Iterable, Mapping
from dataclasses import replace
from datetime import datetime, timedelta
from pathlib import Path
from typing import Any

from sqlalchemy import JSON, Column, Float, Integer, String, Table, delete, func, select
from sqlalchemy.dialects.sqlite import insert
from sqlalchemy.orm import Session

from notcher.core.formats.files.atomic import atomic_write
from notcher.core.formats.files.cells import guarded, unguarded
from notcher.core.ledger.book import Book
from notcher.core.ledger.errors import LedgerError
from notcher.core.ledger.store import OWNER_FILE, OWNER_FOLDER, Ledger
from notcher.core.ledger.tables import TABLES
from notcher.core.ledger.values import KeptTake, LoggedPass, Practised, RowChange, Student, columns_of, row_of
from notcher.core.proving import Result
from notcher.core.sound import Clip, read_clip, write_clip

ORDER = tuple(TABLES)  # each row after those it belongs to
AT_ONCE = tuple(name for name in TABLES if name != LoggedPass.TABLE)
PASSES = TABLES[LoggedPass.TABLE].c
NEWEST = select(func.max(PASSES.played_at)).scalar_subquery()
LIVE_DAYS = 180  # before the newest pass: what was not touched for longer is taught anew rather than repeated
DAY = func.substr(PASSES.played_at, 1, 10)
# the last pass of each day: beside a maximum SQLite takes all columns from its row (sqlite.org, "SELECT", 2.5)
DAYS = select(PASSES.student_id, PASSES.document_id, PASSES.phrases, DAY, PASSES.pace, PASSES.result,
              func.max(PASSES.played_at)).where(PASSES.played_at >= func.date(NEWEST, f"-{LIVE_DAYS} days")).group_by(
                  PASSES.student_id, PASSES.document_id, PASSES.phrases, DAY)  # fmt: skip
FORGOTTEN_AFTER = timedelta(days=1)  # what a window that was killed had deleted
NOTHING_TAKEN = "Nothing was taken in."


class Record:
    """Reads and writes the record in a ledger; every method may raise LedgerError."""

    def __init__(self, ledger: Ledger) -> None:
        self.ledger = ledger

    # --- reading ---
    def read(self, *students: str) -> Book:
        """Return all rows but the passes, and those of some students, by their ids."""
        with self.ledger.session() as session:
            tables = {name: _rows(session, _table(name)) for name in AT_ONCE}
            book = Book(**{name: {row.id: row for row in rows} for name, rows in tables.items()})  # type: ignore[arg-type]
            table = _table(LoggedPass.TABLE)
            for student_id in students:
                rows = session.execute(select(table).where(table.c.student_id == student_id)).mappings()
                book = book.with_passes(student_id, (row_of(table.name, row) for row in rows))  # type: ignore[misc]
            days = tuple(Practised(*row[:2], tuple(row[2].split()), *row[3:5], Result(row[5]))
                         for row in session.execute(DAYS))  # fmt: skip
        return replace(book, days=days)

    # --- writing ---
    def apply(self, changes: Iterable[RowChange]) -> None:
        """Put, change and take away rows, all of them or none."""
        ordered = sorted(changes, key=lambda change: ORDER.index(change.row.TABLE))
        with self.ledger.session() as session:
            for change in ordered:
                if change.after is not None:
                    _put(session, _table(change.after.TABLE), columns_of(change.after))
            for change in reversed(ordered):
                if change.after is None:
                    table = _table(change.row.TABLE)
                    session.execute(delete(table).where(table.c.id == change.row.id))

    def put(self, *rows: Any) -> None:
        """Put rows, new or changed."""
        self.apply(RowChange(None, row) for row in rows)

    def tidy(self, *, deleted: Iterable[str] = (), now: datetime | None = None) -> int:
        """Delete for good what was deleted: rows by their ids, and what nobody has brought back for a day.

        Done when the program ends. Returns: how many rows.
        """
        before = ((now or datetime.now()) - FORGOTTEN_AFTER).isoformat()
        mine, count = set(deleted), 0
        with self.ledger.session() as session:
            for name in (KeptTake.TABLE, Student.TABLE):
                table = _table(name)
                marked = session.execute(select(table.c.id, table.c.gone_at).where(table.c.gone_at.is_not(None)))
                ids = [row.id for row in marked if row.id in mine or row.gone_at < before]
                session.execute(delete(table).where(table.c.id.in_(ids)))
                count += len(ids)
            take_ids = set(session.scalars(select(_table(KeptTake.TABLE).c.id)))
        for sound in self.sounds.glob("*.flac"):
            if sound.stem in mine and sound.stem not in take_ids:
                sound.unlink(missing_ok=True)
        return count

    # --- sounds ---
    @property
    def sounds(self) -> Path:
        """The folder with the sounds of takes."""
        return self.ledger.path.parent / "takes"

    def put_sound(self, take_id: str, clip: Clip) -> None:
        """Keep the sound of a take. Raises: FileError."""
        try:
            self.sounds.mkdir(mode=OWNER_FOLDER, exist_ok=True)
        except OSError as problem:
            raise LedgerError(
                f"No folder for takes can be made beside {self.ledger.path.name!r}: {problem.strerror}.",
                "Check the folder.",
            ) from problem
        with atomic_write(self.sounds / f"{take_id}.flac", mode=OWNER_FILE) as stream:
            write_clip(clip, stream, kind="FLAC")

    def sound(self, take_id: str) -> Clip:
        """Return the sound of a take. Raises: AudioError."""
        return read_clip(self.sounds / f"{take_id}.flac")

    # --- all of it, out and in ---
    def all_data(self) -> dict[str, list[dict[str, Any]]]:
        """Return everything but the catalogue, which is gathered again, as plain values, by table."""
        with self.ledger.session() as session:
            return {name: _plain_rows(session, _table(name)) for name in TABLES}

    def take_data(self, data: object) -> int:
        """Take in what `all_data` gave, here or elsewhere; what has a known id is replaced. Returns: rows.

        Raises: LedgerError, with nothing taken in, for what is no such data.
        """
        if not isinstance(data, dict) or not data or not all(isinstance(rows, list) for rows in data.values()):
            raise LedgerError("This is no record of Notcher's.", f"It has lists named {', '.join(TABLES)}.")
        if unknown := sorted(set(data) - set(TABLES)):
            raise LedgerError(f"There is no table {unknown[0]!r}.", f"There are {', '.join(TABLES)}.")
        with self.ledger.session() as session:
            return sum(_take_row(session, name, row) for name in TABLES for row in data.get(name, []))

    def csv_of(self, name: str) -> str:
        """Return one table as CSV. Raises: LedgerError for a table that is not there."""
        table = _table(name)
        with self.ledger.session() as session:
            return _csv(table, _plain_rows(session, table))

    def take_csv(self, name: str, text: str) -> int:
        """Take in one table of CSV, as `csv_of` gave it. Returns: rows. Raises: LedgerError, with nothing taken in."""
        table = _table(name)
        reader = csv.DictReader(io.StringIO(text, newline=""), strict=True)
        try:
            rows = [(reader.line_num, row) for row in reader]
        except csv.Error as problem:
            raise LedgerError(f"Line {reader.line_num} is no CSV: {problem}.", NOTHING_TAKEN) from problem
        return self.take_data({name: [_read_row(table, row, line) for line, row in rows]})

    def give_out(self, folder: Path) -> int:
        """Write into a folder every table as CSV, all of it as JSON, and the sounds of takes. Returns: rows."""
        data = self.all_data()
        try:
            folder.mkdir(mode=OWNER_FOLDER, parents=True, exist_ok=True)
            for name in TABLES:
                with atomic_write(folder / f"{name}.csv", mode=OWNER_FILE) as stream:
                    stream.write(_csv(_table(name), data[name]).encode("utf-8"))
            with atomic_write(folder / JSON_NAME, mode=OWNER_FILE) as stream:
                stream.write(json.dumps(data, ensure_ascii=False, indent=1).encode("utf-8"))
            _copy_sounds(self.sounds, folder / "takes", [row["id"] for row in data[KeptTake.TABLE]])
        except OSError as problem:
            raise LedgerError(f"{folder.name!r} cannot be written: {problem.strerror}.", "Choose another.") from problem
        return sum(len(rows) for rows in data.values())

    def take_file(self, file: Path) -> int:
        """Take in a JSON file or one table's CSV, whose name is the table's, with the sounds beside it. Returns: rows.

        Raises: LedgerError, with nothing taken in.
        """
        try:
            text = file.read_text("utf-8-sig")
        except (OSError, UnicodeDecodeError) as problem:
            raise LedgerError(f"{file.name!r} cannot be read.", "Choose a text file that may be read.") from problem
        if file.suffix.lower() == ".csv":
            count = self.take_csv(file.stem, text)
        else:
            try:
                data = json.loads(text)
            except (ValueError, RecursionError) as problem:
                raise LedgerError(f"{file.name!r} is no JSON.", NOTHING_TAKEN) from problem
            count = self.take_data(data)
        with self.ledger.session() as session:
            takes = session.scalars(select(_table(KeptTake.TABLE).c.id)).all()
        _copy_sounds(file.parent / "takes", self.sounds, takes)
        return count


JSON_NAME = "record.json"


def _copy_sounds(source: Path, target: Path, take_ids: Iterable[str]) -> None:
    """Copy the sounds of takes that are not there yet."""
    for take_id in take_ids:
        sound, copy = source / f"{take_id}.flac", target / f"{take_id}.flac"
        if sound.is_file() and not copy.exists():
            target.mkdir(mode=OWNER_FOLDER, exist_ok=True)
            shutil.copyfile(sound, copy)
            copy.chmod(OWNER_FILE)


def _rows(session: Session, table: Table) -> list[Any]:
    return [row_of(table.name, row) for row in session.execute(select(table)).mappings()]


def _plain_rows(session: Session, table: Table) -> list[dict[str, Any]]:
    return [dict(row) for row in session.execute(select(table)).mappings()]


def _csv(table: Table, rows: Iterable[Mapping[str, Any]]) -> str:
    stream = io.StringIO()
    writer = csv.DictWriter(stream, [column.name for column in table.columns], lineterminator="\n")
    writer.writeheader()
    for row in rows:
        writer.writerow({key: _cell(table.c[key], value) for key, value in row.items()})
    return stream.getvalue()


def _table(name: str) -> Table:
    if name not in TABLES:
        raise LedgerError(f"There is no table {name!r}.", f"There are {', '.join(TABLES)}.")
    return TABLES[name]


def _put(session: Session, table: Table, columns: Mapping[str, Any]) -> None:
    # replaced in place: deleting a student first would take the passes along
    session.execute(insert(table).values(columns).on_conflict_do_update(index_elements=["id"], set_=columns))


def _take_row(session: Session, name: str, row: object) -> int:
    table = _table(name)
    columns = {column.name: column for column in table.columns}
    if not isinstance(row, dict) or not set(row) <= set(columns):
        unknown = sorted(map(str, set(row) - set(columns))) if isinstance(row, dict) else row
        raise LedgerError(f"This is no row of {name}: {unknown}.", NOTHING_TAKEN)
    defaults = {key: _default(column) for key, column in columns.items()}
    whole = defaults | {key: value for key, value in row.items() if value is not None}
    if missing := [key for key, column in columns.items() if not column.nullable and whole[key] is None]:
        raise LedgerError(f"A row of {name} has no {missing[0]}.", NOTHING_TAKEN)
    for key, column in columns.items():
        if whole[key] is not None and not isinstance(whole[key], _types(column)):
            raise LedgerError(f"A row of {name} has a {key} of the wrong kind: {whole[key]!r}.", NOTHING_TAKEN)
    try:
        row_of(name, whole)
    except LedgerError as problem:
        raise LedgerError(problem.problem, NOTHING_TAKEN) from problem
    _put(session, table, whole)
    return 1


def _types(column: Column[Any]) -> tuple[type, ...]:
    if isinstance(column.type, JSON):
        return (dict, list)
    if isinstance(column.type, Float):
        return (float, int)
    return (int,) if isinstance(column.type, Integer) else (str,)


def _default(column: Column[Any]) -> Any:
    if column.default is None:
        return None
    value: Any = getattr(column.default, "arg", None)
    return value(None) if callable(value) else value


def _cell(column: Column[Any], value: Any) -> Any:
    if isinstance(column.type, JSON):
        return json.dumps(value, ensure_ascii=False)
    return guarded(value) if isinstance(value, str) else value


def _read_row(table: Table, row: Mapping[Any, Any], line: int) -> dict[str, Any]:
    """The values of one line of CSV; an empty cell is as good as none, where there can be none."""
    result: dict[str, Any] = {}
    for key, text in row.items():
        if key not in table.c or text is None:
            raise LedgerError(f"Line {line} of {table.name} has {'no' if text is None else 'an unknown'} column {key}.",
                              NOTHING_TAKEN)  # fmt: skip
        if text == "" and (table.c[key].nullable or not isinstance(table.c[key].type, String)):
            continue
        kind = table.c[key].type
        try:
            if isinstance(kind, JSON):
                result[key] = json.loads(text)
            elif isinstance(kind, Float):
                result[key] = float(text)
            else:
                result[key] = int(text) if isinstance(kind, Integer) else unguarded(text)
        except (ValueError, RecursionError) as problem:
            raise LedgerError(
                f"Line {line} of {table.name}: {key} cannot be {text[:40]!r}.", NOTHING_TAKEN
            ) from problem
    return result
