"""What could not be written into the ledger, kept elsewhere until it can: nothing that was noted is lost."""

import shutil
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any

from notcher.core.formats.files.atomic import atomic_write
from notcher.core.formats.files.journal import Journal, parsed_line
from notcher.core.ledger.errors import LedgerError, StrangeRowError
from notcher.core.ledger.values import LedgerRow, RowChange, columns_of, row_of
from notcher.core.sound import Clip, write_clip

if TYPE_CHECKING:
    from notcher.core.ledger.record import Record

ASIDE = "aside.jsonl"
"""Lines that could not be read or belong to nobody: nothing that was noted is thrown away."""


class PendingChanges:
    """A journal of changes, one JSON line each, and the sounds of takes. folder: where it lies."""

    def __init__(self, folder: Path) -> None:
        self.folder, self._journal = folder, Journal(folder / "changes.jsonl")

    @property
    def waiting(self) -> bool:
        """Whether anything waits to be written."""
        return self._journal.path.exists()

    def keep(self, changes: Sequence[RowChange], sounds: dict[str, Clip] | None = None) -> None:
        """Keep changes after those that wait already. Raises: LedgerError when not even that is possible."""
        try:
            (self.folder / "takes").mkdir(parents=True, exist_ok=True)
            for take_id, clip in (sounds or {}).items():
                with atomic_write(self.folder / "takes" / f"{take_id}.flac") as stream:
                    write_clip(clip, stream, kind="FLAC")
            self._journal.append([[_data(change.before), _data(change.after)] for change in changes])
        except OSError as problem:
            raise LedgerError(
                f"What you noted can be kept nowhere: {problem.strerror}.", "Free some space before you close Notcher."
            ) from problem

    def changes(self) -> list[RowChange]:
        """Return what waits, in order; lines that cannot be read are passed over."""
        return [change for _line, changes in self._lines() for change in changes]

    def _lines(self) -> list[tuple[str, list[RowChange]]]:
        """The journal's lines and what they hold; one that a kill or a fault of the disk has torn holds nothing."""
        try:
            return [(line, _changes(line)) for line in self._journal.lines()]
        except OSError as problem:
            raise LedgerError(f"What waits cannot be read: {problem.strerror}.", "Check the disk.") from problem

    def write_into(self, record: "Record") -> None:
        """Write all that waits, and forget it; what no ledger can take is put aside and kept.

        Raises: LedgerError, and it goes on waiting.
        """
        if not self.waiting:
            return
        lines = self._lines()
        aside = [line for line, changes in lines if not changes]
        try:
            record.apply([change for _line, changes in lines for change in changes])
        except StrangeRowError:  # one line may not keep all others waiting for ever
            for line, changes in lines:
                try:
                    record.apply(changes)
                except StrangeRowError:
                    aside.append(line)
        for sound in (self.folder / "takes").glob("*.flac"):
            record.sounds.mkdir(exist_ok=True)
            shutil.move(sound, record.sounds / sound.name)
        if aside:
            Journal(self.folder / ASIDE).append_lines(*(f"{line}\n".encode() for line in aside))
        self._journal.discard()


def _changes(line: str) -> list[RowChange]:
    try:
        changes = [RowChange(_row(before), _row(after)) for before, after in parsed_line(line)]
        return changes if all(change.row for change in changes) else []
    except (ValueError, TypeError, LookupError, RecursionError, LedgerError):
        return []


def _data(row: LedgerRow | None) -> Any:
    return None if row is None else [row.TABLE, columns_of(row)]


def _row(data: Any) -> LedgerRow | None:
    return None if data is None else row_of(data[0], data[1])
