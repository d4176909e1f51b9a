"""Work that was not saved, kept where it can be found again after a crash.

Each open document has a folder of its own: a lock that its owner holds while it lives, a journal of the edits, copies
of the recording and of the measured pitch, and a take that is being recorded. Saving takes the journal away,
closing the folder.
"""

import contextlib
import json
import os
import shutil
import threading
from collections.abc import Iterator
from dataclasses import dataclass, replace
from datetime import datetime
from pathlib import Path
from typing import Any

import numpy as np
from filelock import FileLock

from notcher.core.arrays import FloatArray
from notcher.core.formats.document.changes import change_between, parts_of, whole_change
from notcher.core.formats.document.document import (
    PITCH,
    RECORDING,
    Document,
    evidence_bytes,
    own_id,
    read_document,
    read_evidence,
    revisions_of,
    score_of,
    upgraded,
)
from notcher.core.formats.document.models import ModelError, from_data, to_data
from notcher.core.formats.document.upgrades import SCORE
from notcher.core.formats.files.atomic import FileError, atomic_write, json_bytes, sync_folder
from notcher.core.formats.files.journal import Journal
from notcher.core.formats.files.locks import held, held_lock
from notcher.core.hearing import EMPTY_TRACK
from notcher.core.proving import Take
from notcher.core.sound import AudioError, Clip, read_clip, write_clip

JOURNAL, ABOUT, LOCK = "journal.jsonl", "about.json", "lock"
TAKES = "takes"
LONGEST_JOURNAL = 32 * 2**20
"""Above this the journal is begun anew with the whole document: some ten thousand edits of a long solo."""


@dataclass(frozen=True, slots=True)
class Unsaved:
    """Work left behind by a Notcher that no longer runs: where it lies, its title, its file if it had one, when."""

    folder: Path
    title: str
    path: Path | None
    kept_at: datetime


@dataclass(frozen=True, slots=True, eq=False)
class Recovered:
    """What came back. missing: what did not, in a sentence, else empty. takes: those cut off, and their sound."""

    document: Document
    missing: str = ""
    takes: tuple[tuple[Take, Clip], ...] = ()


class AutosaveStore:
    """Keeps one open document; its methods may be called from any thread, one at a time goes on.

    folder: of all unsaved work. path: the document's own file, if it has one. source: the file that the recording came
    from, for the seconds until it is copied.
    """

    def __init__(self, folder: Path, document_id: str) -> None:
        self.folder = folder / f"{document_id}-{os.getpid()}-{id(self):x}"
        self._journal = Journal(self.folder / JOURNAL)
        self._turn = threading.Lock()
        self._lock: FileLock | None = None
        self._before: Document | None = None
        self._evidence: object = None
        self._sound: Clip | None = None  # the recording that was copied
        self._over = False

    @property
    def begun(self) -> bool:
        """Whether anything was kept since the document was opened or saved."""
        return self._before is not None

    def save_delta(self, document: Document, path: Path | None, source: Path | None) -> None:
        """Keep a document as it is now: what changed since it was kept last. Raises: FileError."""
        with self._turn:
            if self._over:
                return
            try:
                self._save(document, path, source)
            except (OSError, FileError) as problem:
                raise FileError(
                    f"Unsaved work cannot be kept: {_reason(problem)}.", "Save often, or free some space."
                ) from problem

    def _save(self, document: Document, path: Path | None, source: Path | None) -> None:
        self._begin()
        before = self._before
        other_sound = before is not None and before.clip is not document.clip
        if other_sound:
            self._evidence = None
            (self.folder / PITCH).unlink(missing_ok=True)
        if document.track is not self._evidence and document.track.times_s.size:
            with atomic_write(self.folder / PITCH) as stream:
                stream.write(evidence_bytes(document))
            self._evidence = document.track
        if before is None or other_sound or not 0 < self._journal.size <= LONGEST_JOURNAL:
            self._note_about(document, path, source)
            self._journal.begin(whole_change(document))
        elif change := change_between(before, document):
            self._journal.append(change)
        self._before = document

    def _note_about(self, document: Document, path: Path | None, source: Path | None) -> None:
        about = {"title": document.score.title, "path": _text(path), "source": _text(source)}
        with atomic_write(self.folder / ABOUT) as stream:
            stream.write(json_bytes(about))

    def save_sound(self, clip: Clip) -> None:
        """Copy the recording, which takes seconds and is done once; edits are kept meanwhile. Raises: FileError."""
        with self._turn:
            if self._over:
                return
            self._begin()
        if (self.folder / RECORDING).exists() and self._sound is clip:
            return
        try:
            with atomic_write(self.folder / RECORDING) as stream:
                write_clip(clip, stream, kind="FLAC")
            self._sound = clip
        except FileError:
            if not self._over:  # given up meanwhile, folder and all
                raise

    def _begin(self) -> None:
        if self._lock is None:
            self.folder.mkdir(parents=True, exist_ok=True)
            self._lock = held_lock(self.folder / LOCK)
            sync_folder(self.folder.parent)

    def drop_take_stream(self, take_id: str) -> None:
        """A take is kept whole elsewhere: what was written while it was recorded goes."""
        for ending in (".raw", ".json"):
            (self.folder / TAKES / f"{take_id}{ending}").unlink(missing_ok=True)

    def take_stream(
        self, take: Take, document: Document, path: Path | None, source: Path | None, *, sample_rate: int
    ) -> "TakeStream":
        """Begin to keep a take of a document that is being recorded, one channel. Raises: FileError."""
        with self._turn:
            try:
                self._begin()
                if path is None:  # nothing else could tell what the take belongs to
                    self._save(document, path, source)
                else:
                    self._note_about(document, path, source)
                (self.folder / TAKES).mkdir(exist_ok=True)
                return TakeStream(self.folder / TAKES, take, sample_rate)
            except (OSError, FileError) as problem:
                raise FileError(
                    f"The take is recorded, but not kept in case of a crash: {_reason(problem)}.", "Free some space."
                ) from problem

    def saved(self) -> None:
        """The document was saved: there is nothing to recover, and its recording stays at hand."""
        with self._turn:
            self._journal.discard()
            self._before = None

    def discard(self) -> None:
        """Take all away: the document was saved or given up, and is left."""
        with self._turn:
            self._over = True
            shutil.rmtree(self.folder, ignore_errors=True)
            if self._lock is not None:
                self._lock.release()
                self._lock = None


class TakeStream:
    """Writes a take to the disk while it is recorded; a kill loses what was not written yet."""

    def __init__(self, folder: Path, take: Take, sample_rate: int) -> None:
        self._raw, self._about = folder / f"{take.id}.raw", folder / f"{take.id}.json"
        self._about.write_bytes(json_bytes({"take": to_data(take), "sample_rate": sample_rate}))
        self._stream = self._raw.open("ab")

    def write(self, samples: FloatArray) -> None:
        """Append one channel's samples; they are on the disk when this returns."""
        self._stream.write(np.asarray(samples, dtype="<f4").tobytes())
        self._stream.flush()
        os.fdatasync(self._stream.fileno())

    def close(self) -> None:
        """The recording is over; the file stays until the take is kept whole, or given up."""
        with contextlib.suppress(OSError):  # what a full disk did not take was said when it was written
            self._stream.close()

    def give_up(self) -> None:
        """Nobody wants this take."""
        self.close()
        self._raw.unlink(missing_ok=True)
        self._about.unlink(missing_ok=True)


class Recovery:
    """Finds what others that are gone have left. folder: where all unsaved work lies."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder

    def found(self) -> Iterator[Unsaved]:
        """Yield what was left behind, newest first; what is of no use any more is cleared away."""
        folders = [folder for folder in self.folder.glob("*-*") if folder.is_dir()]
        for folder in sorted(folders, key=_changed_at, reverse=True):
            try:
                with held(folder / LOCK) as ours:
                    if not ours:
                        continue
                    if not self._worth(folder):
                        shutil.rmtree(folder, ignore_errors=True)
                        continue
                about = json.loads((folder / ABOUT).read_text("utf-8")) if (folder / ABOUT).exists() else {}
                path = None if about.get("path") is None else Path(about["path"])
                yield Unsaved(folder, str(about.get("title", "")), path, datetime.fromtimestamp(_changed_at(folder)))
            except (OSError, ValueError, AttributeError, TypeError):
                continue

    @staticmethod
    def _worth(folder: Path) -> bool:
        return (folder / JOURNAL).exists() or any((folder / TAKES).glob("*.raw"))

    def read(self, unsaved: Unsaved) -> Recovered:
        """Return the work as it was kept last. Raises: FileError, also when another Notcher has taken it."""
        folder = unsaved.folder
        try:
            with held(folder / LOCK) as ours:
                if ours:
                    return self._read(unsaved)
        except OSError as problem:
            if folder.is_dir():
                raise FileError(f"The unsaved work cannot be read: {problem.strerror}.", "Try again.") from problem
        raise FileError("Another window has opened this work already.", "Look there.")

    def _read(self, unsaved: Unsaved) -> Recovered:
        folder = unsaved.folder
        about: dict[str, Any] = {}
        with contextlib.suppress(OSError, ValueError):
            about = json.loads((folder / ABOUT).read_text("utf-8"))
        saved, takes = self._saved(about), self._cut_takes(folder)
        if not (folder / JOURNAL).exists():
            if saved is None:
                raise FileError("Only a take was left, and the tab it belongs to is gone.", "Open the tab again.")
            return Recovered(saved, takes=takes)
        name = "the unsaved work"
        try:
            texts = {part: json_bytes(value) for part, value in parts_of(Journal(folder / JOURNAL).lines()).items()}
        except (ValueError, OverflowError, KeyError, TypeError, AttributeError, RecursionError) as problem:
            raise FileError("The unsaved work is damaged.", "Open the file that was saved last.") from problem
        data = upgraded(texts, name)
        clip, missing = self._clip(folder, about, data[SCORE]["recording"], saved)
        track, attacks_s = (EMPTY_TRACK, np.zeros(0)) if saved is None else (saved.track, saved.attacks_s)
        if (folder / PITCH).exists():
            track, attacks_s = read_evidence((folder / PITCH).read_bytes(), name)
        document = Document(
            score_of(data[SCORE], name),
            clip,
            track,
            attacks_s,
            revisions_of(data, name),
            own_id(data[SCORE]["id"]),
        )
        return Recovered(document, missing, takes)

    @staticmethod
    def _saved(about: dict[str, Any]) -> Document | None:
        """The document as it was saved last."""
        with contextlib.suppress(FileError):
            if about.get("path"):
                return read_document(about["path"])
        return None

    @staticmethod
    def _clip(
        folder: Path, about: dict[str, Any], recording: dict[str, Any] | None, saved: Document | None
    ) -> tuple[Clip | None, str]:
        """The recording: the copy, else that of the saved document, else the file it came from."""
        if recording is None:
            return None, ""
        with contextlib.suppress(AudioError):
            return replace(read_clip(folder / RECORDING), name=recording["file"]), ""
        if saved is not None and saved.clip is not None:
            return saved.clip, ""
        with contextlib.suppress(AudioError):
            if about.get("source"):
                return read_clip(about["source"]), ""
        return None, f"The recording {recording['file']!r} was not found again; the tab is whole."

    @staticmethod
    def _cut_takes(folder: Path) -> tuple[tuple[Take, Clip], ...]:
        """The takes that were being recorded when the program ended, as far as they had come."""
        result = []
        for raw in sorted((folder / TAKES).glob("*.raw")):
            try:
                about = json.loads(raw.with_suffix(".json").read_text("utf-8"))
                take = from_data(about["take"], Take)
                samples = np.frombuffer(raw.read_bytes()[: raw.stat().st_size // 4 * 4], dtype="<f4")
                clip = Clip(np.nan_to_num(samples.astype(np.float32))[:, None], int(about["sample_rate"]), take.name)
            except (OSError, ValueError, KeyError, TypeError, ModelError):
                continue
            if samples.size:
                result.append((replace(take, name=f"{take.name} (cut off)"), clip))
        return tuple(result)

    def discard(self, unsaved: Unsaved) -> None:
        shutil.rmtree(unsaved.folder, ignore_errors=True)


def _changed_at(folder: Path) -> float:
    """When anything in a folder was written last, seconds."""
    files = [folder / JOURNAL, folder / ABOUT, folder]
    return max((file.stat().st_mtime for file in files if file.exists()), default=0.0)


def _reason(problem: OSError | FileError) -> str:
    """What the system said."""
    cause = problem if isinstance(problem, OSError) else problem.__cause__
    return getattr(cause, "strerror", None) or "the disk may be full"


def _text(path: Path | None) -> str | None:
    return None if path is None else str(path.absolute())
