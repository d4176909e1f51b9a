"""What could not be written into the ledger, kept elsewhere until it can: nothing that was noted is lost."""

import json
import shutil
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any

from notcher.core.formats.atomic import atomic_write
from notcher.core.ledger.errors import LedgerError
from notcher.core.ledger.values import Change, Row, columns_of, row_of
from notcher.core.sound import Clip, write_clip

if TYPE_CHECKING:
    from notcher.core.ledger.record import Record


class Unwritten:
    """A journal of changes, one JSON line each, and the sounds of takes. folder: where it lies."""

    def __init__(self, folder: Path) -> None:
        self.folder, self._journal = folder, folder / "changes.jsonl"

    @property
    def waiting(self) -> bool:
        """Whether anything waits to be written."""
        return self._journal.exists()

    def keep(self, changes: Sequence[Change], sounds: dict[str, Clip] | None = None) -> None:
        """Keep changes after those that wait already. Raises: LedgerError when not even that is possible."""
        try:
            (self.folder / "takes").mkdir(parents=True, exist_ok=True)
            for take_id, clip in (sounds or {}).items():
                with atomic_write(self.folder / "takes" / f"{take_id}.flac") as stream:
                    write_clip(clip, stream, kind="FLAC")
            line = json.dumps([[_data(change.before), _data(change.after)] for change in changes], ensure_ascii=False)
            with self._journal.open("a", encoding="utf-8") as journal:
                journal.write(f"{line}\n")
        except OSError as problem:
            raise LedgerError(
                f"What you noted can be kept nowhere: {problem.strerror}.", "Free some space before you close Notcher."
            ) from problem

    def changes(self) -> list[Change]:
        """Return what waits, in order; a line that a kill has torn is the last one and was never whole."""
        found: list[Change] = []
        if self.waiting:
            for line in self._journal.read_text("utf-8", errors="replace").splitlines():
                try:
                    found += [Change(_row(before), _row(after)) for before, after in json.loads(line)]
                except (ValueError, TypeError, LedgerError):
                    break
        return found

    def write_into(self, record: "Record") -> None:
        """Write all that waits, and forget it. Raises: LedgerError, and it goes on waiting."""
        if not self.waiting:
            return
        record.apply(self.changes())
        for sound in (self.folder / "takes").glob("*.flac"):
            record.sounds.mkdir(exist_ok=True)
            shutil.move(sound, record.sounds / sound.name)
        self._journal.unlink()


def _data(row: Row | None) -> Any:
    return None if row is None else [row.TABLE, columns_of(row)]


def _row(data: Any) -> Row | None:
    return None if data is None else row_of(data[0], data[1])
