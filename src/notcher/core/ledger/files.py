"""Documents and recordings that were moved, found again: a document by its id, a recording by its content."""

import hashlib
import os
from collections.abc import Iterable, Iterator
from pathlib import Path

from notcher.core.errors import CancelCheck, Cancelled, never_cancelled
from notcher.core.formats import FileError, read_score
from notcher.core.ledger.values import KnownDocument, KnownRecording

MOST_FILES = 50_000  # that are looked at: more is a whole disk


def content_id(path: Path) -> str:
    """Return the SHA-256 of a file's content, as hexadecimal digits (FIPS 180-4). Raises: OSError."""
    with path.open("rb") as stream:
        return hashlib.file_digest(stream, "sha256").hexdigest()


def find_document(
    document: KnownDocument, folders: Iterable[Path], *, cancelled: CancelCheck = never_cancelled
) -> Path | None:
    """Return where a document lies now: where it was, else under one of the folders, those of its name first.

    Raises: Cancelled.
    """
    old = Path(document.path)
    if document.path and old.is_file():
        return old
    files = [file for file in _files(folders, cancelled) if file.suffix == ".notch"]
    for file in sorted(files, key=lambda file: file.name != old.name):
        if cancelled():
            raise Cancelled
        try:
            if read_score(file)[0] == document.id:
                return file
        except (FileError, OSError):
            continue
    return None


def find_recording(
    recording: KnownRecording, folders: Iterable[Path], *, cancelled: CancelCheck = never_cancelled
) -> Path | None:
    """Return where a recording lies now, by its size and then its content. Raises: Cancelled."""
    old = Path(recording.path)
    if old.is_file():
        return old
    for file in _files(folders, cancelled):
        try:
            if file.stat().st_size == recording.size and content_id(file) == recording.id:
                return file
        except OSError:
            continue
    return None


def _files(folders: Iterable[Path], cancelled: CancelCheck) -> Iterator[Path]:
    """All files under some folders, each once; what may not be read is passed over."""
    visited: set[str] = set()
    for folder in folders:
        for place, inside, names in os.walk(folder):
            if cancelled():
                raise Cancelled
            inside[:] = [name for name in inside if not name.startswith(".")]
            if place in visited or len(visited) > MOST_FILES:
                inside.clear()
                continue
            visited.add(place)
            yield from (Path(place, name) for name in names)
