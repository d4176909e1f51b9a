"""Writing so that a file is the old one or the new one, never half of each; checking what is read."""

import contextlib
import json
import math
import os
import re
import tempfile
from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache
from hashlib import blake2b
from importlib.resources import files
from pathlib import Path
from typing import Any, BinaryIO

from notcher.core.errors import NotcherError

LARGEST_JSON = 48 * 2**20  # a score of 100,000 notes
MOST_VALUES = 3_000_000
"""Lists and objects in a JSON text: each takes a hundred times the room in memory that it takes there."""
LONGEST_INT = 15
"""Digits of a whole number that a float still tells exactly."""
_SURROGATE = re.compile(rb"\\u[dD][89a-fA-F]")


class FileError(NotcherError):
    """A file cannot be read or written."""


@contextlib.contextmanager
def atomic_write(path: str | os.PathLike[str], *, mode: int | None = None) -> Iterator[BinaryIO]:
    """Open a new file beside `path`; it takes the old one's place only when everything was written.

    A symbolic link is followed: what it points to is replaced. The old file's permissions are kept; a new one has
    `mode`, or what the umask leaves. What a killed writer of the same file left behind is swept.

    Raises: FileError when the disk is full, the folder is missing or may not be written to.
    """
    target, temporary = Path(path), ""
    try:
        target = target.resolve() if target.is_symlink() else target
        old = target.stat() if target.exists() else None
        prefix = f".notcher-{blake2b(os.fsencode(target.name), digest_size=8).hexdigest()}-"
        _sweep(target.parent, prefix)
        handle, temporary = tempfile.mkstemp(prefix=prefix, suffix=f".{os.getpid()}.part", dir=target.parent)
        with os.fdopen(handle, "wb") as stream:
            yield stream
            stream.flush()
            os.fsync(stream.fileno())
        if old is not None:
            _keep_owner(temporary, old)
        Path(temporary).chmod(
            old.st_mode & 0o7777 if old is not None else NEW_FILE & ~_umask() if mode is None else mode
        )
        Path(temporary).replace(target)
        temporary = ""
        sync_folder(target.parent)
    except (OSError, RuntimeError) as problem:  # libsndfile reports a full disk as RuntimeError
        reason = getattr(problem, "strerror", None) or "the disk may be full"
        raise FileError(
            f"{Path(path).name!r} could not be written: {reason}.",
            "Choose another folder or free some space; nothing was lost.",
        ) from problem
    finally:
        if temporary:
            with contextlib.suppress(OSError):
                Path(temporary).unlink()


NEW_FILE = 0o666
"""Before the umask."""


def _umask() -> int:
    """The process's umask, as Linux tells it: to ask the system call for it is to change it."""
    with contextlib.suppress(OSError, StopIteration, ValueError):
        lines = Path("/proc/self/status").read_text("ascii", "replace").splitlines()
        return int(next(line for line in lines if line.startswith("Umask:")).split()[1], 8)
    return 0o022


def _keep_owner(temporary: str, old: os.stat_result) -> None:
    """Give a new file the old one's owner and group, where that is allowed."""
    new = Path(temporary).stat()
    if (new.st_uid, new.st_gid) != (old.st_uid, old.st_gid):
        with contextlib.suppress(OSError):
            os.chown(temporary, old.st_uid, old.st_gid)


def _sweep(folder: Path, prefix: str) -> None:
    """Take away what writers of one file that no longer run have left."""
    with contextlib.suppress(OSError):
        for left in folder.glob(f"{prefix}*.part"):
            pid = left.suffixes[-2][1:] if len(left.suffixes) > 1 else ""
            if not (pid.isdecimal() and Path(f"/proc/{pid}").exists()):
                left.unlink(missing_ok=True)


def link_words(path: str | os.PathLike[str]) -> str:
    """Return what saving will change of a file's ties to others, in a sentence; empty when nothing."""
    try:
        status = Path(path).stat()
    except OSError:
        return ""
    if status.st_nlink > 1:
        others = status.st_nlink - 1
        return f"The file had {others} other hard link{'s' if others > 1 else ''}: these keep what was saved before."
    if status.st_uid != os.geteuid() and os.geteuid() != 0:
        return "The file belonged to another user; it is yours now."
    return ""


LONGEST_NAME = 200
"""Bytes of a proposed file name: what systems allow is 255, and an ending comes behind it."""


def proposed_name(text: str) -> str:
    """Return what a file may be called that holds something of this title; never empty, never a way elsewhere."""
    whole = "".join(" " if letter in '/\\:*?"<>|' or not letter.isprintable() else letter for letter in text)
    cut = " ".join(whole.split()).encode("utf-8", "replace")[:LONGEST_NAME].decode("utf-8", "ignore")
    return cut.strip(" .") or "untitled"


def sync_folder(folder: Path) -> None:
    """Make the names in a folder outlive a power cut; what a file system cannot do is no failure."""
    with contextlib.suppress(OSError):
        handle = os.open(folder, os.O_RDONLY | os.O_DIRECTORY)
        try:
            os.fsync(handle)
        finally:
            os.close(handle)


@lru_cache
def schema(name: str) -> dict[str, Any]:
    """Return one of the JSON Schemas that ship with the package."""
    text = (files("notcher.core.formats") / "schemas" / f"{name}.schema.json").read_text("utf-8")
    result: dict[str, Any] = json.loads(text)
    return result


REMEDY = "Restore the file from a copy, or make it again from the recording."


def checked_json(text: bytes, *, schema_name: str, file_name: str) -> dict[str, Any]:
    """Parse JSON and hold it against a schema. Raises: FileError that names the first fault and where it is."""
    data = parsed_json(text, file_name=file_name)
    version_of(data, schema_name, file_name, newest=schema(schema_name)["properties"]["version"]["const"])
    held_against(data, schema_name, file_name)
    return data


def parsed_json(text: bytes, *, file_name: str) -> dict[str, Any]:
    """Parse a JSON object of finite numbers and whole characters. Raises: FileError."""
    if len(text) > LARGEST_JSON:
        raise FileError(f"{file_name!r} is too large to be a solo.", REMEDY)
    if text.count(b"{") + text.count(b"[") > MOST_VALUES:
        raise FileError(f"{file_name!r} holds too many things to be a solo.", REMEDY)
    try:
        data = json.loads(
            text.decode("utf-8"), parse_constant=_refuse_constant, parse_float=_finite, parse_int=_bounded
        )
        if _SURROGATE.search(text):
            json.dumps(data, ensure_ascii=False).encode("utf-8")  # half a character cannot be written again
    except (ValueError, RecursionError, MemoryError) as problem:
        raise FileError(f"{file_name!r} is damaged or no JSON text.", REMEDY) from problem
    if not isinstance(data, dict):
        raise FileError(f"{file_name!r} does not hold what its name promises.", REMEDY)
    return data


def version_of(data: dict[str, Any], schema_name: str, file_name: str, *, newest: int) -> int:
    """Return the version of a file's data. Raises: FileError for another format, or one newer than this Notcher."""
    expected = schema(schema_name)["properties"]["format"]["const"]
    if data.get("format") != expected:
        raise FileError(f"{file_name!r} is not a {expected} file.", REMEDY)
    version = data.get("version")
    if not isinstance(version, int) or isinstance(version, bool) or version < 1:
        raise FileError(f"{file_name!r} does not say which version it is.", REMEDY)
    if version > newest:
        raise FileError(
            f"{file_name!r} was written by a newer Notcher (format {version}; this one reads {newest}).",
            "Update Notcher to open it; the file was left as it is.",
        )
    return version


def held_against(data: Any, schema_name: str, file_name: str) -> None:
    """Hold data against a schema. Raises: FileError that names the first fault and where it is."""
    from fastjsonschema import JsonSchemaValueException

    try:
        _validator(schema_name)(data)
    except RecursionError as problem:
        raise FileError(f"{file_name!r} is damaged: it is nested too deeply.", REMEDY) from problem
    except JsonSchemaValueException as problem:
        where = "/".join(problem.path[1:]) or "the top"
        raise FileError(f"{file_name!r} is damaged: at {where}, {_fault(problem)[:120]}.", REMEDY) from problem


def _fault(problem: Any) -> str:
    """What a schema has against a value, in one clause."""
    if problem.rule == "required":
        return f"{', '.join(name for name in problem.rule_definition if name not in problem.value)} is missing"
    return f"it {problem.message.removeprefix(problem.name).strip()}"


@lru_cache
def _validator(schema_name: str) -> Any:
    import fastjsonschema

    return fastjsonschema.compile(schema(schema_name), use_default=False)


def _refuse_constant(word: str) -> float:
    raise ValueError(f"{word} is no JSON number")


def _finite(word: str) -> float:
    number = float(word)
    if not math.isfinite(number):
        raise ValueError(f"{word} is no number of this world")
    return number


def _bounded(word: str) -> int:
    if len(word) > LONGEST_INT:
        raise ValueError("a whole number of absurd length")
    return int(word)


def json_bytes(data: dict[str, Any]) -> bytes:
    """Return JSON as it is written to every file: UTF-8, one blank between, a line end last."""
    return (json.dumps(data, ensure_ascii=False, allow_nan=False, indent=1) + "\n").encode("utf-8")


def read_bytes(path: str | os.PathLike[str], *, most: int) -> bytes:
    """Return a file's bytes. Raises: FileError when it is missing, unreadable or larger than `most`."""
    file = Path(path)
    if not file.is_file():
        raise FileError(f"There is no file {file.name!r} at that place.", "Check the name and the folder.")
    try:
        if file.stat().st_size > most:
            raise FileError(f"{file.name!r} is too large.", "Check that it is the right file.")
        return file.read_bytes()
    except OSError as problem:
        raise FileError(f"{file.name!r} cannot be read: {problem.strerror}.", "Check its permissions.") from problem


@dataclass(frozen=True, slots=True)
class FileStamp:
    """What tells whether a file is still the one that was read: its inode, its size, when it was written."""

    inode: int
    size: int
    written_ns: int


def stamp_of(path: str | os.PathLike[str]) -> FileStamp | None:
    """Return a file's stamp; None when it is not there."""
    try:
        status = Path(path).stat()
    except OSError:
        return None
    return FileStamp(status.st_ino, status.st_size, status.st_mtime_ns)
