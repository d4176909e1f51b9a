"""A journal: a file to which JSON values are appended, one a line, each of them whole on the disk or not at all."""

import json
import os
from pathlib import Path
from typing import Any

from notcher.core.formats.files.atomic import atomic_write


class Journal:
    """Appends and reads the lines of one file; only a kill can tear a line, and only the last."""

    def __init__(self, path: Path) -> None:
        self.path = path

    @property
    def size(self) -> int:
        """Bytes; 0 where nothing was written."""
        return self.path.stat().st_size if self.path.exists() else 0

    def begin(self, value: Any) -> None:
        """Begin anew with one value, in place of what was there. Raises: OSError, FileError."""
        with atomic_write(self.path) as stream:
            stream.write(_line(value))

    def append(self, *values: Any) -> None:
        """Append values: all of them are on the disk afterwards, or nothing. Raises: OSError."""
        self.append_lines(*(_line(value) for value in values))

    def append_lines(self, *lines: bytes) -> None:
        """Append lines as they are, each with its end. Raises: OSError."""
        with self.path.open("ab", buffering=0) as stream:
            before = stream.tell()
            try:
                rest = memoryview(b"".join(lines))
                while rest:
                    rest = rest[stream.write(rest) :]
                os.fsync(stream.fileno())
            except OSError:
                stream.truncate(before)  # a line that is half there would hide all that come after it
                raise

    def lines(self) -> list[str]:
        """Return the lines as they stand there, torn ones too; none where there is no file. Raises: OSError."""
        if not self.path.exists():
            return []
        return [line for line in self.path.read_bytes().decode("utf-8", errors="replace").split("\n") if line]

    def discard(self) -> None:
        """Take the file away, if it is there."""
        self.path.unlink(missing_ok=True)


def parsed_line(line: str) -> Any:
    """Return what a line holds. Raises: ValueError for one that was torn."""
    return json.loads(line)


def _line(value: Any) -> bytes:
    return json.dumps(value, ensure_ascii=False, allow_nan=False, separators=(",", ":")).encode("utf-8") + b"\n"
