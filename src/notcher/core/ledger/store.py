"""The ledger's file: opened, checked, brought to this version; what cannot be read is refused and left as it is.

It is made and brought up in one transaction: a kill or a full disk in the middle of it leaves what was there before,
and SQLite's journal sees to that at the next opening ("Atomic Commit In SQLite", sqlite.org).

Sources: SQLAlchemy 2 and Alembic for all access; what SQLite says of a damaged or locked file is in its documentation
("Result and Error Codes"; "PRAGMA quick_check").
"""

import contextlib
import shutil
import sqlite3
import tempfile
from collections.abc import Iterator
from datetime import datetime
from pathlib import Path
from typing import Any

from alembic import command
from alembic.config import Config
from alembic.runtime.migration import MigrationContext
from alembic.script import ScriptDirectory
from sqlalchemy import URL, Connection, Engine, create_engine, event, inspect, text
from sqlalchemy.exc import DBAPIError, StatementError
from sqlalchemy.orm import Session, sessionmaker

from notcher.core.ledger.errors import DamagedLedgerError, LedgerError, StrangeRowError
from notcher.core.ledger.tables import TABLES

MIGRATIONS = Path(__file__).parent / "migrations"
HEADER = b"SQLite format 3\0"
WAIT_S = 3.0  # for another window that is writing
OWNER_FILE, OWNER_FOLDER = 0o600, 0o700
"""Who is taught what is nobody else's affair; what SQLite puts beside the file has the file's mode."""


class Ledger:
    """An open ledger."""

    def __init__(self, path: Path) -> None:
        """Open the ledger of a file, make it where there is none, and bring an older one to this version.

        Raises: LedgerError when it is newer, damaged, no ledger, locked, or may not be written; it is left alone.
        """
        self.path = path
        self._engine = _engine(path)
        try:
            with _told(path):
                self._bring_up()
        except BaseException:
            self.close()
            raise
        self._sessions = sessionmaker(self._engine)

    def _bring_up(self) -> None:
        head = ScriptDirectory(str(MIGRATIONS)).get_current_head()
        with self._engine.connect() as connection:
            revision = _revision_of(connection, self.path)
        if revision == head:
            return
        if revision is not None:
            back_up(self.path)  # as it was before this version touched it
        config = Config()
        config.set_main_option("script_location", str(MIGRATIONS))
        with self._engine.begin() as connection:
            connection.exec_driver_sql("BEGIN IMMEDIATE")  # all steps are one; of two windows one waits here
            if _revision_of(connection, self.path) != head:
                config.attributes["connection"] = connection
                command.upgrade(config, "head")

    @contextlib.contextmanager
    def session(self) -> Iterator[Session]:
        """Read and write in one piece: all of it is kept, or nothing. Raises: LedgerError."""
        with _told(self.path), self._sessions.begin() as session:
            yield session

    def close(self) -> None:
        self._engine.dispose()


def _revision_of(connection: Connection, path: Path) -> str | None:
    """The revision of a ledger, None for an empty file. Raises: LedgerError for what this Notcher cannot use."""
    if connection.execute(text("PRAGMA quick_check(1)")).scalar() != "ok":
        raise _damaged(path)
    revision = MigrationContext.configure(connection).get_current_revision()
    if revision is None and (tables := set(inspect(connection).get_table_names())):
        if tables <= {*TABLES, "alembic_version"}:
            raise _damaged(path)  # ours, and half made: something cut it off that SQLite could not put right
        raise LedgerError(f"{path.name!r} is no ledger of Notcher's.", "Move it away; it was left as it is.")
    if revision not in {None, *(step.revision for step in ScriptDirectory(str(MIGRATIONS)).walk_revisions())}:
        raise LedgerError(
            f"{path.name!r} was written by a newer Notcher.", "Open it with that one; it was left as it is."
        )
    return revision


KEEP = 10
"""Copies of a ledger that are kept."""


def back_up(path: Path, *, keep: int = KEEP) -> Path | None:
    """Copy a ledger beside itself, whole, and forget all but the newest copies; None where there is nothing to copy.

    SQLite's own online backup: another window may write meanwhile. Raises: LedgerError.
    """
    if not path.exists() or path.stat().st_size == 0:
        return None
    folder = path.parent / "backups"
    copy = folder / f"{path.stem}-{datetime.now():%Y%m%d-%H%M%S-%f}{path.suffix}"
    try:
        folder.mkdir(mode=OWNER_FOLDER, exist_ok=True)
    except OSError as problem:
        raise LedgerError(
            f"No backup can be made in {path.parent}: {problem.strerror}.", "Check the folder."
        ) from problem
    unfinished = copy.with_suffix(UNFINISHED)
    try:
        _copy(path, unfinished)
        if revision_of(unfinished, named=path) is None:  # cut off before anything was in it
            unfinished.unlink()
            return None
        unfinished.replace(copy)
    except LedgerError:
        unfinished.unlink(missing_ok=True)
        raise
    for old in (*backups(path)[keep:], *folder.glob(f"{path.stem}-*{UNFINISHED}")):
        old.unlink(missing_ok=True)
    return copy


UNFINISHED = ".part"
"""The ending of a copy that was not looked at yet."""


def revision_of(copy: Path, *, named: Path | None = None) -> str | None:
    """Open a copy and return its revision, None for an empty one: what does not open may not push out a good one.

    named: as what it is told when it cannot be used. Raises: LedgerError.
    """
    engine = _engine(copy)
    try:
        with _told(named or copy), engine.connect() as connection:
            return _revision_of(connection, named or copy)
    finally:
        engine.dispose()


def newest_good_copy(path: Path) -> Path | None:
    """Return the newest copy of a ledger that opens; None where none does."""
    for copy in backups(path):
        with contextlib.suppress(LedgerError):
            if revision_of(copy) is not None:
                return copy
    return None


def put_aside(path: Path) -> Path:
    """Move a ledger that cannot be used out of the way, and what SQLite left beside it; nothing of it is thrown away.

    Returns: where it lies. Raises: LedgerError.
    """
    aside = path.with_name(f"{path.stem}-{datetime.now():%Y%m%d-%H%M%S-%f}.damaged")
    try:
        path.replace(aside)
        for ending in ("-journal", "-wal", "-shm"):
            left = path.with_name(path.name + ending)
            if left.exists():
                left.replace(aside.with_name(aside.name + ending))
    except OSError as problem:
        raise LedgerError(f"{path.name!r} cannot be moved: {problem.strerror}.", "Check the folder.") from problem
    return aside


def backups(path: Path) -> list[Path]:
    """Return the copies of a ledger, the newest first."""
    return sorted((path.parent / "backups").glob(f"{path.stem}-*{path.suffix}"), reverse=True)


def restore(copy: Path, path: Path) -> None:
    """Put a copy in a ledger's place, after a copy of that was made; a damaged one is put aside, see there.

    Raises: LedgerError, with nothing changed.
    """
    with tempfile.TemporaryDirectory(dir=path.parent) as folder:
        fresh = Path(folder) / path.name
        try:
            shutil.copyfile(copy, fresh)
        except OSError as problem:
            raise LedgerError(f"{copy.name!r} cannot be read: {problem.strerror}.", "Choose another copy.") from problem
        Ledger(fresh).close()  # refused here, nothing is touched
        try:
            back_up(path, keep=KEEP + 1)  # which may not push out the one that is asked for
        except DamagedLedgerError:
            put_aside(path)
        _copy(fresh, path)


def _copy(of: Path, to: Path) -> None:
    with (
        _told(to),
        contextlib.closing(sqlite3.connect(of)) as source,
        contextlib.closing(sqlite3.connect(to)) as target,
    ):
        source.backup(target)


def _engine(path: Path) -> Engine:
    try:
        path.parent.mkdir(mode=OWNER_FOLDER, parents=True, exist_ok=True)
        path.touch(OWNER_FILE)
        status = path.stat()
        if status.st_mode & 0o077:
            path.chmod(OWNER_FILE)
        if 0 < status.st_size < len(HEADER):  # SQLite would write over so short a file
            raise _damaged(path)
    except OSError as problem:
        raise LedgerError(
            f"No ledger can be made in {path.parent}: {problem.strerror}.", "Check the folder's permissions."
        ) from problem
    engine = create_engine(URL.create("sqlite", database=str(path)), connect_args={"timeout": WAIT_S})

    @event.listens_for(engine, "connect")
    def _set_up(connection: sqlite3.Connection, _record: Any) -> None:
        connection.execute("PRAGMA foreign_keys = ON")

    return engine


@contextlib.contextmanager
def _told(path: Path) -> Iterator[None]:
    """Say in our words what SQLite says in its own."""
    try:
        yield
    except (DBAPIError, sqlite3.Error) as problem:
        code = getattr(getattr(problem, "orig", problem), "sqlite_errorname", "") or ""
        if code.startswith(("SQLITE_BUSY", "SQLITE_LOCKED")):
            raise LedgerError(
                f"{path.name!r} is being written by another program.", "Try again once that one is done."
            ) from problem
        if code.startswith(("SQLITE_READONLY", "SQLITE_CANTOPEN", "SQLITE_PERM")):
            raise LedgerError(
                f"{path.name!r} may not be written in {path.parent}.",
                "Check the permissions of the file and its folder.",
            ) from problem
        if code.startswith(("SQLITE_FULL", "SQLITE_IOERR")):
            raise LedgerError(f"{path.name!r} could not be written.", "Free some space; nothing was lost.") from problem
        if code.startswith("SQLITE_CONSTRAINT"):
            raise StrangeRowError(
                "Something here belongs to a student or lesson that is not in the ledger.", "Nothing was taken in."
            ) from problem
        if not code and isinstance(
            getattr(problem, "orig", problem), sqlite3.InterfaceError | sqlite3.ProgrammingError
        ):
            raise _strange() from problem
        if code.startswith(("SQLITE_CORRUPT", "SQLITE_NOTADB")):
            raise _damaged(path) from problem
        raise LedgerError(f"{path.name!r} cannot be used ({code or problem}).", "It was left as it is.") from problem
    except UnicodeDecodeError as problem:
        raise _damaged(path) from problem
    except (StatementError, UnicodeEncodeError, OverflowError) as problem:  # a value that no column takes
        raise _strange() from problem


def _strange() -> StrangeRowError:
    return StrangeRowError("A row here holds what no ledger can hold.", "Nothing was taken in.")


def _damaged(path: Path) -> DamagedLedgerError:
    return DamagedLedgerError(
        f"{path.name!r} is damaged or no ledger.", "Restore it from a copy, or move it away; it was left as it is."
    )
