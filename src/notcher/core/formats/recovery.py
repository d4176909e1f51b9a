"""Work that was not saved, kept where it can be found again after a crash.

Each open document has a folder of its own: the whole document as it was first kept, with the recording, and after that
only the score, which is small and quickly written.
"""

import json
import os
import shutil
from collections.abc import Iterator
from dataclasses import dataclass, replace
from datetime import datetime
from pathlib import Path

from notcher.core.formats.atomic import (
    LARGEST_JSON,
    FileError,
    atomic_write,
    checked_json,
    json_bytes,
    read_bytes,
)
from notcher.core.formats.document import Document, read_document, write_document
from notcher.core.formats.scorejson import score_from_data, score_to_data

WHOLE, SCORE, ABOUT = "document.notch", "score.json", "about.json"


@dataclass(frozen=True, slots=True)
class Unsaved:
    """Work left behind by a Notcher that no longer runs: where it lies, its title, its file if it had one, when."""

    folder: Path
    title: str
    path: Path | None
    kept_at: datetime


class Recovery:
    """Keeps the document of one running Notcher, and finds those of others that are gone.

    folder: where all of them lie. process: the number of the process that keeps; its own by default.
    """

    def __init__(self, folder: Path, *, process: int | None = None) -> None:
        self._all, self._process, self._kept = folder, process or os.getpid(), 0
        self._whole: Document | None = None

    @property
    def _own(self) -> Path:
        return self._all / f"{self._process}-{self._kept}"

    def keep(self, document: Document, path: Path | None) -> None:
        """Keep a document as it is now. Raises: FileError."""
        whole = self._whole
        if whole is None or whole.clip is not document.clip:
            self.forget()
            self._kept += 1
        try:
            self._own.mkdir(parents=True, exist_ok=True)
        except OSError as problem:
            raise FileError(
                f"Unsaved work cannot be kept: {problem.strerror}.", "Save often, or free some space."
            ) from problem
        if self._whole is None:
            write_document(document, self._own / WHOLE)
            self._whole = document
        with atomic_write(self._own / SCORE) as stream:
            stream.write(json_bytes(score_to_data(document.score, recording=None)))
        about = {"title": document.score.title, "path": None if path is None else str(path), "process": self._process}
        with atomic_write(self._own / ABOUT) as stream:
            stream.write(json_bytes(about))

    def forget(self) -> None:
        """Take away what was kept of the own document: it was saved, or given up."""
        if self._whole is not None:
            shutil.rmtree(self._own, ignore_errors=True)
        self._whole = None

    def found(self) -> Iterator[Unsaved]:
        """Yield what other processes left behind, newest first; what cannot be read is passed over."""
        folders = sorted(self._all.glob("*-*"), key=lambda folder: folder.stat().st_mtime, reverse=True)
        for folder in folders:
            try:
                about = json.loads((folder / ABOUT).read_text("utf-8"))
                kept_at = datetime.fromtimestamp((folder / SCORE).stat().st_mtime)
                path = None if about["path"] is None else Path(about["path"])
                gone = folder != self._own and not _runs(int(about["process"])) and (folder / WHOLE).is_file()
                title = str(about["title"])
            except (OSError, ValueError, KeyError, TypeError):
                continue
            if gone:
                yield Unsaved(folder, title, path, kept_at)

    def read(self, unsaved: Unsaved) -> Document:
        """Return the work as it was kept last. Raises: FileError."""
        document = read_document(unsaved.folder / WHOLE)
        text = read_bytes(unsaved.folder / SCORE, most=LARGEST_JSON)
        data = checked_json(text, schema_name="score", file_name=SCORE)
        return replace(document, score=score_from_data(data, file_name=SCORE))

    def discard(self, unsaved: Unsaved) -> None:
        shutil.rmtree(unsaved.folder, ignore_errors=True)


def _runs(process: int) -> bool:
    """Whether another process runs; what bears this one's number is left from before a restart of the machine."""
    if process == os.getpid():
        return False
    try:
        os.kill(process, 0)
    except ProcessLookupError:
        return False
    except PermissionError:
        return True
    return True
