"""The .notch document: a zip of score.json, the recording as FLAC, the measured pitch as .npz (no pickles) and the kept
earlier states."""

import io
import os
import zipfile
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any, BinaryIO

import numpy as np

from notcher.core.arrays import FloatArray
from notcher.core.formats.document.models import ModelError, score_from_data, to_data
from notcher.core.formats.document.upgrades import REVISIONS, SCORE, UPGRADES, Parts
from notcher.core.formats.files.archive import Archive, read_numbers
from notcher.core.formats.files.atomic import (
    LARGEST_JSON,
    FileError,
    atomic_write,
    held_against,
    json_bytes,
    parsed_json,
    version_of,
)
from notcher.core.hearing import EMPTY_TRACK, PitchTrack
from notcher.core.score import Revision, Score, derived_id, new_id
from notcher.core.score.identity import is_id
from notcher.core.sound import AudioError, Clip, write_clip
from notcher.core.sound.decode import read_clip_stream

VERSION = 1
RECORDING, PITCH = "recording.flac", "pitch.npz"
SCHEMAS = {SCORE: "score", REVISIONS: "revisions"}
MOST_BYTES = {SCORE: LARGEST_JSON, REVISIONS: LARGEST_JSON, RECORDING: 512 * 2**20, PITCH: 64 * 2**20}
MOST_ROW = 16 * 2**20
"""Bytes of one curve: an hour of frames takes five million."""
ARRAYS = ("times_s", "pitch_hz", "voicing", "level_db")
DAMAGED = "Restore the file from a copy; it was left as it is."
KIND = "Notcher document"
FOREIGN_ID = "This document's id was none of Notcher's; it has one of its own now."


@dataclass(frozen=True, slots=True, eq=False)
class Document:
    """What is kept together: the claim, the recording (None when written without one), the evidence, earlier states.

    attacks_s: shape (n,), rising, seconds: where attacks were heard. id: see `notcher.core.score.identity`.
    said: what there is to say of how it was read, in a sentence; not kept. Raises: ValueError for what is no id.
    """

    score: Score
    clip: Clip | None = None
    track: PitchTrack = EMPTY_TRACK
    attacks_s: FloatArray = field(default_factory=lambda: np.zeros(0))
    revisions: tuple[Revision, ...] = ()
    id: str = field(default_factory=new_id)
    said: str = ""

    def __post_init__(self) -> None:
        if not is_id(self.id):
            raise ValueError(f"{self.id!r} is no id")


# --- writing ---
def write_document(document: Document, path: str | os.PathLike[str]) -> None:
    """Save a document whole, or leave what was there; what could not be opened again is not written.

    Raises: FileError.
    """
    texts = {name: json_bytes(data) for name, data in document_data(document).items()}
    _check_readable(texts, Path(path).name)
    with atomic_write(path) as stream, zipfile.ZipFile(stream, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, text in texts.items():
            archive.writestr(name, text)
        if document.clip is not None:
            archive.writestr(RECORDING, _flac(document.clip), zipfile.ZIP_STORED)
        if document.track.times_s.size:
            archive.writestr(PITCH, evidence_bytes(document), zipfile.ZIP_STORED)


def _check_readable(texts: Mapping[str, bytes], file_name: str) -> None:
    """Read what is about to be written, as it will be read. Raises: FileError."""
    try:
        parts = upgraded(texts, file_name)
        score_of(parts[SCORE], file_name)
        revisions_of(parts, file_name)
    except FileError as problem:
        raise FileError(
            f"{file_name!r} was not written, for it could not be opened again ({problem.problem.rstrip('.')}).",
            "Undo the last edit and save again; what was saved before is as it was.",
        ) from problem


def document_data(document: Document) -> Parts:
    """Return the JSON parts of a document by their file names."""
    parts: Parts = {SCORE: score_to_data(document.score, document_id=document.id, recording=_name(document.clip))}
    if document.revisions:
        parts[REVISIONS] = revisions_to_data(document.revisions)
    return parts


def _name(clip: Clip | None) -> str | None:
    return None if clip is None else clip.name


def score_to_data(score: Score, *, document_id: str, recording: str | None) -> dict[str, Any]:
    """Return what score.json holds. recording: the name of the file that was heard, if any."""
    head = {"format": "notcher-score", "version": VERSION, "id": document_id, "title": score.title}
    about = {"recording": None if recording is None else {"file": recording}}
    data: dict[str, Any] = to_data(score)
    return head | about | {"notes": []} | data


def revisions_to_data(revisions: tuple[Revision, ...]) -> dict[str, Any]:
    """Return what revisions.json holds, in order."""
    rows = [
        {
            "name": revision.name,
            "saved_at": revision.saved_at,
            "score": score_to_data(revision.score, document_id="state", recording=None),
        }
        for revision in revisions
    ]
    return {"format": "notcher-revisions", "version": VERSION, "revisions": rows}


def _flac(clip: Clip) -> bytes:
    sound = io.BytesIO()
    write_clip(clip, sound, kind="FLAC")
    return sound.getvalue()


def evidence_bytes(document: Document) -> bytes:
    """Return the measured pitch and the heard attacks as an .npz."""
    arrays = io.BytesIO()
    curves = {key: getattr(document.track, key) for key in ARRAYS}
    np.savez_compressed(arrays, attacks_s=document.attacks_s, **curves)
    return arrays.getvalue()


# --- reading ---
def read_document(path: str | os.PathLike[str]) -> Document:
    """Open a document. Raises: FileError that says what is wrong; the file is left as it is."""
    file = Path(path)
    if not file.is_file():
        raise FileError(f"There is no file {file.name!r} at that place.", "Check the name and the folder.")
    try:
        with file.open("rb") as stream:
            return read_document_stream(stream, file.name)
    except OSError as problem:
        raise FileError(f"{file.name!r} cannot be read: {problem.strerror}.", "Check its permissions.") from problem


def read_score(path: str | os.PathLike[str]) -> tuple[str, Score]:
    """Return a document's id and its score, without its sounds: quick, for looking through many. Raises: FileError."""
    file = Path(path)
    try:
        with file.open("rb") as stream, Archive(stream, file.name, KIND) as archive:
            text = archive.read(SCORE, MOST_BYTES[SCORE])
    except OSError as problem:
        raise FileError(f"{file.name!r} cannot be read: {problem.strerror}.", "Check its permissions.") from problem
    if text is None:
        raise FileError(f"{file.name!r} holds no score.", DAMAGED)
    data = upgraded({SCORE: text}, file.name)[SCORE]
    return own_id(data["id"]), score_of(data, file.name)


def read_document_stream(stream: BinaryIO, file_name: str) -> Document:
    """Read a document from an open binary stream. Raises: FileError; OSError of the stream."""
    with Archive(stream, file_name, KIND) as archive:
        parts = {name: archive.read(name, most) for name, most in MOST_BYTES.items()}
    if parts[SCORE] is None:
        raise FileError(f"{file_name!r} holds no score.", "Open a .notch document, or draft the recording again.")
    texts = {name: text for name in SCHEMAS if (text := parts[name]) is not None}
    return _document(upgraded(texts, file_name), parts[RECORDING], parts[PITCH], file_name)


def upgraded(
    texts: Mapping[str, bytes],
    file_name: str,
    *,
    newest: int = VERSION,
    steps: Mapping[int, Callable[[Parts], Parts]] = UPGRADES,
) -> Parts:
    """Return the JSON parts of a document, checked, as the newest version says them. Raises: FileError.

    steps: from each older version to the next.
    """
    data = {name: parsed_json(text, file_name=file_name) for name, text in texts.items() if name in SCHEMAS}
    if SCORE not in data:
        raise FileError(f"{file_name!r} holds no score.", DAMAGED)
    for version in range(version_of(data[SCORE], "score", file_name, newest=newest), newest):
        try:
            data = steps[version](data)
        except (LookupError, TypeError, ValueError, OverflowError, AttributeError) as problem:
            raise FileError(f"{file_name!r} is damaged: it is no document of version {version}.", DAMAGED) from problem
    for name, part in data.items():
        held_against(part, SCHEMAS[name], file_name)
    for revision in data.get(REVISIONS, {}).get("revisions", ()):
        held_against(revision["score"], SCHEMAS[SCORE], file_name)
    return data


def _document(parts: Parts, recording: bytes | None, pitch: bytes | None, file_name: str) -> Document:
    about = parts[SCORE]["recording"]
    clip = None if recording is None else _clip(recording, about["file"] if about else file_name, file_name)
    track, attacks_s = (EMPTY_TRACK, np.zeros(0)) if pitch is None else read_evidence(pitch, file_name)
    return Document(
        score_of(parts[SCORE], file_name),
        clip,
        track,
        attacks_s,
        revisions_of(parts, file_name),
        own_id(parts[SCORE]["id"]),
        "" if is_id(parts[SCORE]["id"]) else FOREIGN_ID,
    )


def own_id(text: str) -> str:
    """Return a document's id; for what is none, one that follows from it, so that it is the same at every reading."""
    return text if is_id(text) else derived_id("document", text)


def score_of(data: dict[str, Any], file_name: str) -> Score:
    """Return the score of a checked score.json. Raises: FileError for values that no solo can have."""
    try:
        return score_from_data({key: value for key, value in data.items() if key not in HEAD})
    except ModelError as problem:
        raise FileError(f"{file_name!r} is damaged: {problem}.", DAMAGED) from problem


HEAD = ("format", "version", "id", "recording")


def revisions_of(parts: Parts, file_name: str) -> tuple[Revision, ...]:
    """Return the kept states of checked parts. Raises: FileError."""
    rows = parts[REVISIONS]["revisions"] if REVISIONS in parts else ()
    return tuple(Revision(row["name"], row["saved_at"], score_of(row["score"], file_name)) for row in rows)


def _clip(sound: bytes, name: str, file_name: str) -> Clip:
    try:
        return read_clip_stream(io.BytesIO(sound), name)
    except AudioError as problem:
        raise FileError(f"The recording inside {file_name!r} cannot be read: {problem.problem}", DAMAGED) from problem


def read_evidence(arrays: bytes, file_name: str) -> tuple[PitchTrack, FloatArray]:
    """Return the measured pitch, and where attacks were heard. Raises: FileError."""
    try:
        with Archive(io.BytesIO(arrays), file_name) as store:
            columns = [read_numbers(store.read(f"{key}.npy", MOST_ROW) or b"") for key in ARRAYS]
            attacks_s = read_numbers(store.read("attacks_s.npy", MOST_ROW) or b"")
        times_s = columns[0]
        whole = all(column.shape == (times_s.size,) for column in columns)
        if not (whole and _rising(times_s) and _rising(attacks_s)):
            raise ValueError("its columns do not fit each other")
        return PitchTrack(*columns), attacks_s
    except Exception as problem:  # what a damaged header makes numpy raise is anything from TypeError to MemoryError
        raise FileError(
            f"The measured pitch inside {file_name!r} is damaged.", "Restore the file, or draft the recording again."
        ) from problem


def _rising(times_s: FloatArray) -> bool:
    return bool(np.isfinite(times_s).all() and (np.diff(times_s) > 0).all())
