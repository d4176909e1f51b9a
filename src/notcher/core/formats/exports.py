"""What a score can be written as; the file's ending chooses."""

import os
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from notcher.core.formats.files.atomic import FileError, atomic_write
from notcher.core.formats.jams import jams_bytes
from notcher.core.formats.midi.writing import midi_bytes
from notcher.core.formats.musicxml.writing import musicxml_text
from notcher.core.formats.note_table import note_table
from notcher.core.formats.texttab.writing import text_tab
from notcher.core.hearing import EMPTY_TRACK, PitchTrack
from notcher.core.score import Score


@dataclass(frozen=True, slots=True)
class Format:
    """A format that a score can be written as. name: as menus show it. loses: what it does not hold, in a sentence.

    made: the file's bytes, from a score and what was measured.
    """

    name: str
    loses: str
    made: Callable[[Score, PitchTrack], bytes]


def _text(writer: Callable[[Score], str]) -> Callable[[Score, PitchTrack], bytes]:
    return lambda score, _track: writer(score).encode("utf-8")


EXPORTS: dict[str, Format] = {
    ".txt": Format("Text tab", "Text tab holds no lengths, no exact curves and no widths of vibrato.", _text(text_tab)),
    ".musicxml": Format(
        "MusicXML 4.0",
        "MusicXML holds written time and of a curve its sizes; played time, remarks, doubts and variants stay behind.",
        _text(musicxml_text),
    ),
    ".mid": Format(
        "MIDI",
        "MIDI holds pitches and times, not how a note is struck or ends; remarks, doubts and variants stay behind.",
        midi_bytes,
    ),
    ".jams": Format(
        "JAMS",
        "JAMS holds notes, curves, beats, chords and phrases; strings and frets stand in its sandbox.",
        jams_bytes,
    ),
    ".csv": Format(
        "Table of notes", "The table holds the notes alone: no beats, chords, phrases or variants.", _text(note_table)
    ),
}


def export(score: Score, path: str | os.PathLike[str], track: PitchTrack = EMPTY_TRACK) -> None:
    """Write a score in the format that the file's ending names. track: what was measured of its recording.

    Raises: FileError for an unknown ending or when it cannot be written.
    """
    ending = Path(path).suffix.lower()
    if ending not in EXPORTS:
        raise FileError(
            f"Notcher cannot write {ending or 'a file without an ending'!r}.", f"Use one of {', '.join(EXPORTS)}."
        )
    data = EXPORTS[ending].made(score, track)
    with atomic_write(path) as stream:
        stream.write(data)
