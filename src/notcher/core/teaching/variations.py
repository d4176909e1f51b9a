"""One change that makes a variant of a phrase: of which note, into what, and why; values that the window words.

A variant is worked out anew from the original whenever a change is refused, so that what rests on a refused change is
right as well. What a finished variant has otherwise is read off its notes by the ids they are derived from.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np

from notcher.core.score import End, Note, Phrase, PitchCurve, Score, Tone, Variant, new_id


class Vary(StrEnum):
    """What is done to a note."""

    GARNISH = "garnish"  # left out: it only adorns
    PLAINER = "plainer"  # the note stays, what adorns it goes
    BEND = "bend"  # the fret that it is bent to, plain
    THIN = "thin"  # left out of a run that is too quick
    REACH = "reach"  # put where the hand reaches
    SHAPE = "shape"  # the same shape elsewhere on the neck
    PLACED = "placed"  # placed anew: the shape does not fit there
    FITTED = "fitted"  # another degree, so that it is the same in the other chord
    OUT_OF_NECK = "out of neck"  # left out: no string has it


@dataclass(frozen=True, slots=True)
class Variation:
    """One change. source: the id of the note it is made of. after: what stands there now, nothing where it is left out.

    amount: in the unit of its kind: semitones of a bend, notes a second of a run, millimetres beyond an easy reach,
    frets or semitones that it moves.
    """

    kind: Vary
    source: str
    after: tuple[Note, ...] = ()
    amount: float = 0.0

    @property
    def key(self) -> tuple[Vary, str]:
        """What it is known by when it is refused."""
        return self.kind, self.source


Refused = frozenset[tuple[Vary, str]]
NONE_REFUSED: Refused = frozenset()


@dataclass(frozen=True, slots=True)
class Varied:
    """A phrase made otherwise: the notes, in time order, each with the id it is derived from, and what was done."""

    notes: tuple[Note, ...]
    changes: tuple[Variation, ...]


def as_variant(phrase: Phrase, name: str, varied: Varied) -> Variant:
    """Return what was made as a variant of a phrase."""
    return Variant(phrase.id, name, varied.notes, new_id())


def derived(note: Note) -> Note:
    """Return a note of a variant: another one, that knows which it comes from."""
    return replace(note, source=note.source or note.id, id=new_id(), readings=())


class Otherwise(StrEnum):
    """In what a note of a variant is not the original's."""

    LEFT_OUT = "left out"
    ADDED = "added"
    BEND = "bend"
    PITCH = "pitch"
    PLACE = "place"
    PLAINER = "plainer"
    STRUCK = "struck"
    TIME = "time"


@dataclass(frozen=True, slots=True)
class OtherNote:
    """One note that a variant has otherwise. before: the original's, after: the variant's; None where there is none."""

    kind: Otherwise
    before: Note | None
    after: Note | None

    @property
    def onset_s(self) -> float:
        note = self.before or self.after
        return note.onset_s if note is not None else 0.0


def differs_from(original: Score, variant: Variant) -> tuple[OtherNote, ...]:
    """Return what a variant has otherwise than its phrase, in time order; nothing when the phrase is gone."""
    phrase = original.phrase_of(variant.phrase)
    if phrase is None:
        return ()
    mine = [original.notes[at] for at in original.notes_of(phrase)]
    by_source: dict[str, list[Note]] = {}
    for note in variant.notes:
        by_source.setdefault(note.source, []).append(note)
    ids = {note.id for note in mine}
    other_notes: list[OtherNote] = []
    for note in mine:
        notes = by_source.get(note.id, [])
        if not notes:
            other_notes.append(OtherNote(Otherwise.LEFT_OUT, note, None))
        for number, other in enumerate(notes):
            kind = _kind(original, note, other) if number == 0 else Otherwise.ADDED
            if kind is not None:
                other_notes.append(OtherNote(kind, note if number == 0 else None, other))
    other_notes += [OtherNote(Otherwise.ADDED, None, note) for note in variant.notes if note.source not in ids]
    return tuple(sorted(other_notes, key=lambda other: other.onset_s))


def _kind(score: Score, note: Note, other: Note) -> Otherwise | None:
    if abs(note.onset_s - other.onset_s) > 1e-6:
        return Otherwise.TIME
    if round(note.reading.bend_semitones) != round(other.reading.bend_semitones):
        return Otherwise.BEND
    if round(score.fretted_midi(note)) != round(score.fretted_midi(other)):
        return Otherwise.PITCH
    if (note.string, note.fret) != (other.string, other.fret):
        return Otherwise.PLACE
    if note.attack is not other.attack:
        return Otherwise.STRUCK
    if adorned(note) != adorned(other):
        return Otherwise.PLAINER
    return None


def adorned(note: Note) -> tuple[object, ...]:
    """Return what adorns a note: all that can go while it stays."""
    return (
        note.vibrato is not None,
        note.raked,
        note.slid_in,
        note.tone if note.tone is Tone.SQUEAL_HARMONIC else Tone.NORMAL,
        note.end is End.SLIDES_AWAY,
    )


def put_back(original: Score, variant: Variant, sources: Iterable[str]) -> Variant:
    """Return a variant with some notes as the original has them again, by the ids of the original's notes."""
    wanted = set(sources)
    notes = [note for note in variant.notes if note.source not in wanted]
    again = [derived(note) for note in original.notes if note.id in wanted]
    return replace(variant, notes=in_time(original, [*notes, *again]))


def in_time(score: Score, notes: Sequence[Note]) -> tuple[Note, ...]:
    """Return notes in time order, none sounding into the next one on its string."""
    ordered = sorted(notes, key=lambda note: (note.onset_s, note.string))
    result = list(ordered)
    last: dict[int, int] = {}
    for at, note in enumerate(ordered):
        before = last.get(note.string)
        if before is not None and result[before].offset_s > note.onset_s > result[before].onset_s:
            result[before] = _cut(result[before], note.onset_s)
        last[note.string] = at
    return tuple(result)


def _cut(note: Note, offset_s: float) -> Note:
    length_s = offset_s - note.onset_s
    curve = note.curve
    if curve.points:
        points = [point for point in curve.points if point[0] < length_s]
        curve = PitchCurve((*points, (length_s, float(curve.at(np.array([length_s]))[0]))))
    wave = note.vibrato if note.vibrato is not None and note.vibrato.from_s < length_s else None
    return replace(note, offset_s=offset_s, curve=curve, vibrato=wave)
