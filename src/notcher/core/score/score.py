"""A whole solo as a value; every edit makes a new one."""

import math
from bisect import bisect_left
from collections.abc import Iterable
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from notcher.core.arrays import FloatArray
from notcher.core.score.beat_map import NO_BEAT_MAP, BeatMap
from notcher.core.score.note import Note
from notcher.core.score.practice import Mark
from notcher.core.score.tuning import STANDARD, Tuning
from notcher.core.score.vocabulary import HARMONIC_PARTIALS, Tone

EDGE_S = 0.01
"""A note belongs to the stretch that begins up to two analysis frames (5.8 ms each) after its onset."""
SAME_CHORD_S = 0.1  # two chords cannot begin closer than this
TAPPED_HARMONIC_SEMITONES = 12.0
"""Tapped at half of the sounding length, twelve frets above the finger (Fletcher and Rossing 1998, ch. 9: nodes)."""


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

    def holds(self, time_s: float) -> bool:
        """Whether what begins at a time belongs to it; the same rule as `Score.notes_between`."""
        return self.start_s - EDGE_S <= time_s < self.end_s - EDGE_S


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
        """Return what is heard of the unbent note.

        A natural harmonic sounds a partial of its open string, a tapped one the octave of its fret.
        """
        touched = note.fret - self.tuning.capo
        if note.tone is Tone.NATURAL_HARMONIC and touched in HARMONIC_PARTIALS:
            return self.tuning.midi(note.string, self.tuning.capo) + 12 * math.log2(HARMONIC_PARTIALS[touched])
        if note.tone is Tone.TAPPED_HARMONIC:
            return self.fretted_midi(note) + TAPPED_HARMONIC_SEMITONES
        return self.fretted_midi(note)

    def pitch_at(self, note: Note, since_s: FloatArray | float = 0.0) -> FloatArray:
        """Return what is heard of a note at times after its onset: pitch curve and vibrato counted in, semitones.

        since_s: seconds, any shape, which is kept; past the curve's ends the pitch is level.
        """
        return np.asarray(self.sounding_midi(note) + note.deviation_at(since_s))

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

    def notes_between(self, start_s: float, end_s: float) -> range:
        """Return the indices of the notes that belong to a stretch, each to one of two that adjoin; see `EDGE_S`."""
        return range(self.first_after(start_s - EDGE_S), self.first_after(end_s - EDGE_S))

    def notes_of(self, phrase: Phrase) -> range:
        """Return the indices of a phrase's notes."""
        return self.notes_between(phrase.start_s, phrase.end_s)

    @property
    def plain_phrases(self) -> tuple[Phrase, ...]:
        """The phrases that are no sections."""
        return tuple(phrase for phrase in self.phrases if not phrase.section)

    def phrase_at(self, time_s: float) -> Phrase | None:
        """Return the innermost phrase that holds a time."""
        holding = [phrase for phrase in self.plain_phrases if phrase.holds(time_s)]
        return min(holding, key=lambda phrase: phrase.end_s - phrase.start_s, default=None)

    def chord_beginning_at(self, time_s: float) -> Chord | None:
        """Return the chord that begins within a tenth of a second of a time."""
        return next((chord for chord in self.chords if abs(chord.start_s - time_s) <= SAME_CHORD_S), None)

    def chord_at(self, time_s: float) -> str:
        """Return the chord that sounds at a time, empty before the first."""
        return next((chord.name for chord in reversed(self.chords) if chord.start_s <= time_s + 1e-9), "")


EMPTY_SCORE = Score()
