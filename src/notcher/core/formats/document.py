"""The .notch document: a zip of score.json, the recording as FLAC, the measured pitch as .npz (no pickles), and the
kept earlier states."""

import io
import os
import zipfile
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np

from notcher.core.arrays import FloatArray
from notcher.core.formats.atomic import LARGEST_JSON, FileError, atomic_write, checked_json, json_bytes
from notcher.core.formats.scorejson import (
    revisions_from_data,
    revisions_to_data,
    score_from_data,
    score_to_data,
)
from notcher.core.hearing import EMPTY_TRACK, PitchTrack
from notcher.core.score import Revision, Score
from notcher.core.sound import AudioError, Clip, write_clip
from notcher.core.sound.decode import read_clip_stream

SCORE, RECORDING, PITCH, REVISIONS = "score.json", "recording.flac", "pitch.npz", "revisions.json"
MOST_BYTES = {SCORE: LARGEST_JSON, RECORDING: 4 * 2**30, PITCH: 512 * 2**20, REVISIONS: LARGEST_JSON}
ARRAYS = ("times_s", "pitch_hz", "voicing", "level_db")


@dataclass(frozen=True, slots=True, eq=False)
class Document:
    """What is kept together: the claim, the recording (None when written without one), the evidence, earlier states.

    strikes_s: shape (n,), rising, seconds: where attacks were heard.
    """

    score: Score
    clip: Clip | None = None
    track: PitchTrack = EMPTY_TRACK
    attacks_s: FloatArray = field(default_factory=lambda: np.zeros(0))
    revisions: tuple[Revision, ...] = ()


def write_document(document: Document, path: str | os.PathLike[str]) -> None:
    """Save a document whole, or leave what was there. Raises: FileError."""
    with atomic_write(path) as stream, zipfile.ZipFile(stream, "w", zipfile.ZIP_DEFLATED) as archive:
        name = document.clip.name if document.clip is not None else None
        archive.writestr(SCORE, json_bytes(score_to_data(document.score, recording=name)))
        if document.clip is not None:
            sound = io.BytesIO()
            write_clip(document.clip, sound, kind="FLAC")
            archive.writestr(RECORDING, sound.getvalue(), zipfile.ZIP_STORED)
        if document.track.times_s.size:
            arrays = io.BytesIO()
            kept = {key: getattr(document.track, key) for key in ARRAYS}
            np.savez_compressed(arrays, strikes_s=document.attacks_s, **kept)  # the name in files
            archive.writestr(PITCH, arrays.getvalue(), zipfile.ZIP_STORED)
        if document.revisions:
            archive.writestr(REVISIONS, json_bytes(revisions_to_data(document.revisions)))


def read_document(path: str | os.PathLike[str]) -> Document:
    """Open a document. Raises: FileError that says what is wrong; the file is left as it is."""
    file = Path(path)
    if not file.is_file():
        raise FileError(f"There is no file {file.name!r} at that place.", "Check the name and the folder.")
    try:
        with zipfile.ZipFile(file) as archive:
            parts = {name: _part(archive, name, file.name) for name in MOST_BYTES}
    except (zipfile.BadZipFile, OSError, EOFError, ValueError, NotImplementedError, RuntimeError) as problem:
        raise FileError(
            f"{file.name!r} is damaged or no Notcher document.", "Restore it from a copy; the file was left as it is."
        ) from problem
    text = parts[SCORE]
    if text is None:
        raise FileError(f"{file.name!r} holds no score.", "Open a .notch document, or draft the recording again.")
    data = checked_json(text, schema_name="score", file_name=file.name)
    score = score_from_data(data, file_name=file.name)
    track, attacks_s = _evidence(parts[PITCH], file.name)
    return Document(
        score, _clip(parts[RECORDING], data, file.name), track, attacks_s, _revisions(parts[REVISIONS], file.name)
    )


def _revisions(text: bytes | None, file_name: str) -> tuple[Revision, ...]:
    if text is None:
        return ()
    return revisions_from_data(checked_json(text, schema_name="revisions", file_name=file_name), file_name=file_name)


def _part(archive: zipfile.ZipFile, name: str, file_name: str) -> bytes | None:
    if name not in archive.namelist():
        return None
    if archive.getinfo(name).file_size > MOST_BYTES[name]:
        raise FileError(f"{file_name!r} claims to hold a {name} of absurd size.", "Do not trust this file.")
    return archive.read(name)


def _clip(sound: bytes | None, data: dict[str, object], file_name: str) -> Clip | None:
    if sound is None:
        return None
    recording = data["recording"]
    name = str(recording["file"]) if isinstance(recording, dict) else file_name
    try:
        return read_clip_stream(io.BytesIO(sound), name)
    except AudioError as problem:
        raise FileError(f"The recording inside {file_name!r} is damaged.", "Restore the file from a copy.") from problem


def _evidence(arrays: bytes | None, file_name: str) -> tuple[PitchTrack, FloatArray]:
    """The measured pitch, and where attacks were heard (older files do not say)."""
    if arrays is None:
        return EMPTY_TRACK, np.zeros(0)
    try:
        with np.load(io.BytesIO(arrays), allow_pickle=False) as store:
            track = PitchTrack(*(np.asarray(store[key], dtype=np.float64) for key in ARRAYS))
            return track, np.asarray(store["strikes_s"] if "strikes_s" in store.files else [], dtype=np.float64)
    except (ValueError, KeyError, OSError, EOFError, zipfile.BadZipFile) as problem:
        raise FileError(
            f"The measured pitch inside {file_name!r} is damaged.", "Restore the file, or draft the recording again."
        ) from problem
