"""What comes of reading somebody else's file: a score, and what of it could not be read."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import TypeVar

from notcher.core.formats.files.atomic import FileError
from notcher.core.neck import PlaceError
from notcher.core.neck.placing import place_long, sounding_of
from notcher.core.score import LAST_FRET, Note, Score

Point = TypeVar("Point")
MOST_READ = 20_000
"""Notes that are read from a file of others: an hour of five a second."""
MOST_UNREAD = 200  # lines about what could not be read; more say nothing new


@dataclass(frozen=True, slots=True)
class Unread:
    """Something that could not be read. line, column: from 1. what: in one clause."""

    line: int
    column: int
    what: str

    def __str__(self) -> str:
        return f"line {self.line}, column {self.column}: {self.what}"


@dataclass(frozen=True, slots=True)
class ImportResult:
    """A score as it was read. timed: its times are in the proportions of a rhythm. parts: of several that have notes
    the names; part: the one that was read."""

    score: Score
    unread: tuple[Unread, ...] = ()
    timed: bool = False
    parts: tuple[str, ...] = ()
    part: str = ""


def check_note_count(count: int, most: int = MOST_READ) -> None:
    """Raises: FileError for more notes than are read from somebody else's file."""
    if count > most:
        raise FileError(f"This file holds more than {most:,} notes, and a solo has hundreds.",
                        "Cut the solo out of it, and open that.")  # fmt: skip


def placed(score: Score, unplaced: Sequence[str], pitches: dict[str, float]) -> Score:
    """Return the score with the notes that carried no string and fret put where a hand finds them.

    unplaced: their ids. pitches: their MIDI numbers, by id. Raises: PlaceError when a pitch is on no string.
    """
    if not unplaced:
        return score
    wanted = set(unplaced)
    soundings = []
    for note in score.notes:
        locked = replace(note, locked=note.id not in wanted)
        sounding = sounding_of(score, locked)
        if note.id in wanted:
            sounding = replace(sounding, fretted_midi=pitches[note.id], harmonic_midi=None)
        soundings.append(sounding)
    placings = place_long(soundings, score.tuning)
    notes = [
        replace(note, string=put.place.string, fret=put.place.fret, finger=put.finger or None)
        if note.id in wanted
        else note
        for note, put in zip(score.notes, placings, strict=True)
    ]
    return score.with_notes(notes)


def thinned(points: tuple[Point, ...], most: int) -> tuple[Point, ...]:
    """Return at most so many of some points, evenly taken, the first and the last among them."""
    if len(points) <= most:
        return points
    return tuple(points[round(at * (len(points) - 1) / (most - 1))] for at in range(most))


def without_overlaps(notes: Sequence[Note]) -> list[Note]:
    """Return notes in time order, each ending where the next on its string begins at the latest."""
    ordered = sorted(notes, key=lambda note: (note.onset_s, note.string))
    last: dict[int, int] = {}
    for at, note in enumerate(ordered):
        before = last.get(note.string)
        if before is not None and ordered[before].onset_s < note.onset_s < ordered[before].offset_s:
            ordered[before] = replace(ordered[before], offset_s=note.onset_s)
        last[note.string] = at
    return ordered


__all__ = ["LAST_FRET", "MOST_UNREAD", "ImportResult", "PlaceError", "Unread", "placed", "thinned", "without_overlaps"]
