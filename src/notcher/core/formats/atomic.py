"""Writing so that a file is the old one or the new one, never half of each; checking what is read."""

import contextlib
import json
import os
import tempfile
from collections.abc import Iterator
from functools import lru_cache
from importlib.resources import files
from pathlib import Path
from typing import Any, BinaryIO

from notcher.core.errors import NotcherError

LARGEST_JSON = 64 * 2**20


class FileError(NotcherError):
    """A file cannot be read or written."""


@contextlib.contextmanager
def atomic_write(path: str | os.PathLike[str]) -> Iterator[BinaryIO]:
    """Open a new file beside `path`; it takes the old one's place only when everything was written.

    Raises: FileError when the disk is full, the folder is missing or may not be written to.
    """
    target = Path(path)
    temporary = ""
    try:
        handle, temporary = tempfile.mkstemp(prefix=f".{target.name}.", suffix=".part", dir=target.parent)
        with os.fdopen(handle, "wb") as stream:
            yield stream
            stream.flush()
            os.fsync(stream.fileno())
        mode = target.stat().st_mode & 0o777 if target.exists() else 0o644
        Path(temporary).chmod(mode)
        Path(temporary).replace(target)
        temporary = ""
    except (OSError, RuntimeError) as problem:  # libsndfile reports a full disk as RuntimeError
        reason = getattr(problem, "strerror", None) or "the disk may be full"
        raise FileError(
            f"{target.name!r} could not be written: {reason}.",
            "Choose another folder or free some space; nothing was lost.",
        ) from problem
    finally:
        if temporary:
            with contextlib.suppress(OSError):
                Path(temporary).unlink()


@lru_cache
def schema(name: str) -> dict[str, Any]:
    """Return one of the JSON Schemas that ship with the package."""
    text = (files("notcher.core.formats") / "schemas" / f"{name}.schema.json").read_text("utf-8")
    result: dict[str, Any] = json.loads(text)
    return result


def checked_json(text: bytes, *, schema_name: str, file_name: str) -> dict[str, Any]:
    """Parse JSON and hold it against a schema. Raises: FileError that names the first fault and where it is."""
    remedy = "Restore the file from a copy, or make it again from the recording."
    if len(text) > LARGEST_JSON:
        raise FileError(f"{file_name!r} is too large to be a solo.", remedy)
    try:
        data = json.loads(text.decode("utf-8"), parse_constant=_refuse_constant)
    except (ValueError, RecursionError) as problem:
        raise FileError(f"{file_name!r} is damaged or no JSON text.", remedy) from problem
    if not isinstance(data, dict):
        raise FileError(f"{file_name!r} does not hold what its name promises.", remedy)
    return held_against(data, schema_name, file_name)


def held_against(data: dict[str, Any], schema_name: str, file_name: str) -> dict[str, Any]:
    """Return data that fits a schema. Raises: FileError that names the first fault and where it is."""
    from jsonschema import Draft202012Validator

    remedy = "Restore the file from a copy, or make it again from the recording."
    expected = schema(schema_name)["properties"]
    if data.get("format") != expected["format"]["const"]:
        raise FileError(f"{file_name!r} is not a {expected['format']['const']} file.", remedy)
    version, known = data.get("version"), expected["version"]["const"]
    if isinstance(version, int) and version > known:
        raise FileError(
            f"{file_name!r} was written by a newer Notcher (format {version}; this one reads {known}).",
            "Update Notcher to open it; the file was left as it is.",
        )
    fault = next(iter(Draft202012Validator(schema(schema_name)).iter_errors(data)), None)
    if fault is not None:
        where = "/".join(str(step) for step in fault.absolute_path) or "the top"
        raise FileError(f"{file_name!r} is damaged: at {where}, {fault.message[:120]}.", remedy)
    return data


def _refuse_constant(word: str) -> float:
    raise ValueError(f"{word} is no JSON number")


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
