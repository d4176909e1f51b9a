"""Edits that need the neck: the same pitch elsewhere, a fret typed, the claim laid on the evidence."""

from dataclasses import replace

import numpy as np

from notcher.core.arrays import FloatArray
from notcher.core.neck.fretboard import Place, places
from notcher.core.neck.placing import Placed, place, sounding_of
from notcher.core.score import LAST_FRET, Note, Score, Tuning

REACH = 4
"""Notes on each side that a place is priced against."""


def neighbour_place(score: Score, index: int, direction: int) -> Place | None:
    """Return where a note's pitch lives on the nearest string in a direction (-1 higher, +1 lower); None if nowhere."""
    note = score.notes[index]
    found = [
        where
        for where in places(score.fretted_midi(note), score.tuning)
        if (where.string - note.string) * direction > 0
    ]
    return min(found, key=lambda where: abs(where.string - note.string), default=None)


def moved(score: Score, index: int, where: Place) -> Score:
    """Return the score with a note put on a place by hand: the solver leaves it there from now on."""
    return score.with_note(
        index, string=where.string, fret=where.fret, finger=None, locked=True, doubt="", certainty=1.0
    )


def typed_fret(score: Score, index: int, fret: int) -> Score:
    """Return the score with a note on another fret of its string. Raises: ValueError beyond the neck."""
    if not score.tuning.capo <= fret <= LAST_FRET:
        raise ValueError(f"this neck has frets {score.tuning.capo} to {LAST_FRET}")
    return moved(score, index, Place(score.notes[index].string, fret))


def inserted_at(score: Score, time_s: float, *, like: Note | None) -> tuple[Score, int]:
    """Return the score with a new note at a time, on the place of `like`, and its index."""
    following = score.first_after(time_s)
    room_s = score.notes[following].onset_s - time_s if following < len(score.notes) else 0.3
    length_s = float(np.clip(room_s, 0.06, 0.3))
    place = Place(like.string, like.fret) if like is not None else Place(min(3, score.tuning.strings), 12)
    note = Note(time_s, time_s + length_s, place.string, place.fret, locked=True)
    changed = score.with_inserted(note)
    return changed, changed.notes.index(note)


def nudged(score: Score, index: int, by_s: float) -> tuple[Score, int]:
    """Return the score with a note's onset moved, its end kept, and its new index. Raises: ValueError past its end."""
    note = score.notes[index]
    onset_s = max(0.0, note.onset_s + by_s)
    if note.offset_s - onset_s < 0.02:
        raise ValueError("the onset cannot pass the note's end")
    changed = replace(note, onset_s=onset_s)
    result = score.with_notes((*score.notes[:index], changed, *score.notes[index + 1 :]))
    return result, result.notes.index(changed)


def alternatives(score: Score, index: int, *, school: str = "position") -> Placed:
    """Return where else a note could go, its neighbours staying where they are, with the extra cost of each place."""
    first, last = max(0, index - REACH), min(len(score.notes), index + REACH + 1)
    soundings = [
        replace(sounding_of(score, note), lock=None if at == index else Place(note.string, note.fret))
        for at, note in enumerate(score.notes[first:last], start=first)
    ]
    return place(soundings, score.tuning, school=school)[index - first]


def retuned(score: Score, tuning: Tuning, *, school: str = "position") -> Score:
    """Return the score on another tuning: every note keeps its sound and finds its place anew.

    Raises: PlaceError when a note is not on that neck.
    """
    soundings = [replace(sounding_of(score, note), lock=None) for note in score.notes]
    placed = place(soundings, tuning, school=school)
    notes = tuple(
        replace(note, string=found.place.string, fret=found.place.fret, finger=found.finger, locked=False)
        for note, found in zip(score.notes, placed, strict=True)
    )
    return replace(score, notes=(), tuning=tuning).with_notes(notes)


def measured_deviation(
    score: Score, note: Note, times_s: FloatArray, midi: FloatArray
) -> tuple[FloatArray, FloatArray]:
    """Return what the recording did under a note: seconds after its onset, semitones from its fretted pitch.

    times_s, midi: the pitch track, shape (n_frames,), NaN where nothing was heard. Returns: shape (n,) each.
    """
    first, last = np.searchsorted(times_s, [note.onset_s, note.offset_s])
    deviation = midi[first:last] - score.tuning.offset_cents / 100 - score.fretted_midi(note)
    return times_s[first:last] - note.onset_s, deviation
