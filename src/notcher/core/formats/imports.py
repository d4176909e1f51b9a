"""Files of others that can be read as a score; the ending says as what."""

import os
from dataclasses import replace
from pathlib import Path

from notcher.core.formats.events import read_events
from notcher.core.formats.files.atomic import FileError
from notcher.core.formats.import_result import MOST_READ, MOST_UNREAD, ImportResult, Unread
from notcher.core.formats.jams import read_jams
from notcher.core.formats.midi.reading import read_midi
from notcher.core.formats.musicxml.reading import MOST_BYTES, read_musicxml
from notcher.core.formats.texttab.reading import has_tab, read_text_tab
from notcher.core.score import Score
from notcher.core.score.limits import CHORD_CHARS, NAME_CHARS

LOOKED_AT = 20_000  # characters; a mail says before what it is about
TEXT, MUSICXML, EVENTS = (".txt", ".tab"), (".musicxml", ".mxl", ".xml"), (".json",)
MIDI, JAMS = (".mid", ".midi"), (".jams",)
OTHERS = (*TEXT, *MUSICXML, *MIDI, *JAMS)
IMPORT_ENDINGS = " ".join(f"*{ending}" for ending in OTHERS)


def is_importable(path: str | os.PathLike[str]) -> bool:
    """Return whether a file's ending is that of a tab or a score of others."""
    return Path(path).suffix.lower() in OTHERS


def read_import(path: str | os.PathLike[str], *, part: str = "") -> ImportResult:
    """Read somebody else's file as a score. part: which of several is wanted, by its name.

    What is longer than a score may hold is cut, and said. Raises: FileError that says what is wrong with it.
    """
    file = Path(path)
    try:
        result = _read(file, part)
    except ValueError as problem:  # what no solo can be, see `score.limits`
        raise FileError(f"{file.name!r} is no solo: {problem}.", "Cut the solo out of it, and open that.") from problem
    return _with_cuts_said(result)


def read_pasted(text: str) -> ImportResult:
    """Read a tab that was copied as text. Raises: FileError."""
    try:
        return _with_cuts_said(read_text_tab(text))
    except ValueError as problem:
        raise FileError(f"What was copied is no solo: {problem}.", "Copy the tab alone, and paste that.") from problem


def looks_like_tab(text: str) -> bool:
    """Return whether a text holds lines of tab; it may still hold no note."""
    return has_tab(text[:LOOKED_AT])


def _with_cuts_said(result: ImportResult) -> ImportResult:
    """Name among what could not be read what was too long."""
    cut = [f"{what} was cut to {most:,} characters" for what, most, texts in _texts(result.score)
           for text in texts if len(text) == most and text.endswith("…")]  # fmt: skip
    unread = (*result.unread, *(Unread(1, 1, words) for words in cut))
    return replace(result, unread=unread[:MOST_UNREAD])


def _texts(score: Score) -> list[tuple[str, int, list[str]]]:
    """What is written in a score: of what, how long it may be, and the texts."""
    return [
        ("the title", NAME_CHARS, [score.title]),
        ("a chord", CHORD_CHARS, [chord.name for chord in score.chords]),
        ("the name of a phrase", NAME_CHARS, [phrase.name for phrase in score.phrases]),
        ("the name of a section", NAME_CHARS, [section.name for section in score.sections]),
    ]


def _read(file: Path, part: str) -> ImportResult:
    ending = file.suffix.lower()
    if ending in EVENTS:
        score, recording = read_events(file, most=MOST_READ)
        return ImportResult(replace(score, title=score.title or Path(recording.file).stem), timed=True)
    if not is_importable(file):
        raise FileError(
            f"Notcher cannot read {ending or 'a file without an ending'!r}.",
            f"Use one of {', '.join((*OTHERS, '.events.json'))}.",
        )
    try:
        if file.stat().st_size > MOST_BYTES:
            raise FileError(f"{file.name!r} is of absurd size.", "Choose another file.")
        data = file.read_bytes()
    except FileNotFoundError as problem:
        raise FileError(f"There is no file {file.name!r} at that place.", "Check the name and the folder.") from problem
    except OSError as problem:
        raise FileError(f"{file.name!r} cannot be read: {problem.strerror}.", "Check its permissions.") from problem
    if ending in MUSICXML:
        return read_musicxml(data, title=file.stem, part=part)
    if ending in MIDI:
        return read_midi(data, title=file.stem, part=part)
    if ending in JAMS:
        return read_jams(data, title=file.stem)
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError:
        text = data.decode("cp1252", errors="replace")
    return read_text_tab(text, title=file.stem)
