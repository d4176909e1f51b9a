"""A whole solo as a value; every edit makes a new one."""

import math
from bisect import bisect_left
from collections.abc import Iterable
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from notcher.core.score.beat_map import NO_BEAT_MAP, BeatMap
from notcher.core.score.note import HARMONIC_PARTIALS, Note, Tone
from notcher.core.score.practice import Mark
from notcher.core.score.tuning import STANDARD, Tuning


@dataclass(frozen=True, slots=True)
class Phrase:
    """A named stretch of the recording; also used for sections, which hold phrases.

    near_fret: around which fret the instructor wants it played, if anywhere.
    """

    start_s: float
    end_s: float
    name: str = ""
    section: bool = False
    near_fret: int | None = None

    def __post_init__(self) -> None:
        if not 0 <= self.start_s < self.end_s:
            raise ValueError("a phrase must end after it starts")


@dataclass(frozen=True, slots=True)
class Chord:
    """A chord symbol and when it begins to sound; it lasts until the next."""

    start_s: float
    name: str


@dataclass(frozen=True, slots=True)
class Excluded:
    """Something that was heard and is not the solo's: when, and its pitch as a MIDI number."""

    onset_s: float
    midi: float


def _note_order(note: Note) -> tuple[float, int]:
    return (note.onset_s, note.string)


@dataclass(frozen=True, slots=True)
class Score:
    """Notes in time order (then by string), tuning, beat map, chords, phrases, how practice went, what to overhear."""

    notes: tuple[Note, ...] = ()
    tuning: Tuning = STANDARD
    beat_map: BeatMap = NO_BEAT_MAP
    chords: tuple[Chord, ...] = ()
    phrases: tuple[Phrase, ...] = ()
    title: str = ""
    marks: tuple[Mark, ...] = ()
    excluded: tuple[Excluded, ...] = ()

    def __post_init__(self) -> None:
        if list(self.notes) != sorted(self.notes, key=_note_order):
            raise ValueError("notes must be in time order")
        if any(note.string > self.tuning.strings for note in self.notes):
            raise ValueError(f"a note lies on a string that this neck of {self.tuning.strings} does not have")

    def fretted_midi(self, note: Note) -> float:
        """Return what the note's place sounds before any bend."""
        return self.tuning.midi(note.string, note.fret)

    def sounding_midi(self, note: Note) -> float:
        """Return what is heard of the unbent note: a natural harmonic sounds a partial of its open string."""
        touched = note.fret - self.tuning.capo
        if note.tone is Tone.NATURAL_HARMONIC and touched in HARMONIC_PARTIALS:
            return self.tuning.midi(note.string, self.tuning.capo) + 12 * math.log2(HARMONIC_PARTIALS[touched])
        return self.fretted_midi(note)

    def pitch_at(self, note: Note, since_s: float = 0.0) -> float:
        """Return what is heard of a note so long after its onset, its curve counted in; level past the curve's ends."""
        return self.sounding_midi(note) + float(note.curve.at(np.array([since_s]))[0])

    def with_notes(self, notes: Iterable[Note]) -> "Score":
        """Return the score with other notes, put in order."""
        return replace(self, notes=tuple(sorted(notes, key=_note_order)))

    def with_note(self, index: int, **changes: Any) -> "Score":
        """Return the score with one note changed. Raises: ValueError for what no note can be."""
        changed = replace(self.notes[index], **changes)
        return self.with_notes((*self.notes[:index], changed, *self.notes[index + 1 :]))

    def with_inserted(self, note: Note) -> "Score":
        return self.with_notes((*self.notes, note))

    def without(self, indices: Iterable[int]) -> "Score":
        gone = set(indices)
        return replace(self, notes=tuple(note for index, note in enumerate(self.notes) if index not in gone))

    def first_after(self, time_s: float) -> int:
        """Return the index of the first note that starts at or after a time; len(notes) when there is none."""
        return bisect_left(self.notes, time_s, key=lambda note: note.onset_s)

    def phrase_at(self, time_s: float) -> Phrase | None:
        """Return the innermost phrase that holds a time."""
        holding = [phrase for phrase in self.phrases if phrase.start_s <= time_s < phrase.end_s and not phrase.section]
        return min(holding, key=lambda phrase: phrase.end_s - phrase.start_s, default=None)

    def chord_at(self, time_s: float) -> str:
        """Return the chord that sounds at a time, empty before the first."""
        return next((chord.name for chord in reversed(self.chords) if chord.start_s <= time_s + 1e-9), "")


EMPTY_SCORE = Score()
