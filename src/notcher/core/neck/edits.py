"""Edits that need the neck: the same pitch elsewhere, a fret typed, notes written, copied and moved."""

from collections.abc import Sequence
from dataclasses import replace
from enum import StrEnum

import numpy as np

from notcher.core.neck.fretboard import Place, places
from notcher.core.neck.placing import Placed, PlaceError, Sounding, place, place_score, sounding_of
from notcher.core.patterns import repeats
from notcher.core.score import EDGE_S, LAST_FRET, Note, Score, Tuning, new_id, retimed, struck_together
from notcher.core.score.form import with_phrase_near
from notcher.core.score.selection import Selection

REACH = 4
"""Notes on each side that a place is priced against."""
CONTEXT = 24
"""Notes before and after a phrase that its places are fitted to: what was told of the phrases beside it counts too."""

UNKNOWN_BEAT_S = 0.5  # a beat at 120, where none is known
LOW_HAND, TYPED_REACH = 7, 7
"""Up to this fret a single figure is a fret as it stands; so many frets away two figures are one fret."""


def neighbour_place(score: Score, note_id: str, direction: int) -> Place | None:
    """Return where a note's pitch lives on the nearest string in a direction (-1 higher, +1 lower); None if nowhere."""
    note = score.note(note_id)
    places_found = [
        where
        for where in places(score.fretted_midi(note), score.tuning)
        if (where.string - note.string) * direction > 0
    ]
    return min(places_found, key=lambda where: abs(where.string - note.string), default=None)


# --- of what is selected ---
def on_next_string(score: Score, chosen: Selection, direction: int, *, style: str) -> Score:
    """Put the note on the next string where its pitch lives, -1 higher. Raises: ValueError where none is."""
    where = neighbour_place(score, chosen.note(score).id, direction)
    if where is None:
        raise ValueError("this pitch lives on no string further that way")
    return put(score, chosen, where, style=style)


def over_strings(score: Score, chosen: Selection, direction: int, *, style: str) -> Score:
    """Put the note on the next string with its fret kept: another pitch. Raises: ValueError where none is."""
    note = chosen.note(score)
    if not 1 <= note.string + direction <= score.tuning.strings:
        raise ValueError("there is no string further that way")
    return put(score, chosen, Place(note.string + direction, note.fret), style=style)


def put(score: Score, chosen: Selection, where: Place, *, style: str) -> Score:
    """Put the note on a place; when its pitch stays, the rest of the phrase is placed anew around it."""
    note = chosen.note(score)
    if score.tuning.midi(where.string, where.fret) == score.fretted_midi(note):
        return moved_with_phrase(score, note.id, where, style=style)
    return moved(score, note.id, where)


def placed_near(score: Score, chosen: Selection, fret: int | None, *, style: str) -> Score:
    """Place the phrase around a fret, as far as its pitches allow; None for nowhere in particular."""
    return place_score(with_phrase_near(score, chosen.phrase(score), fret), style=style)


def place_on(score: Score, note_id: str, string: int) -> Place | None:
    """Return where a note's pitch lives on a string; None where it does not."""
    return next((where for where in places(score.fretted_midi(score.note(note_id)), score.tuning)
                 if where.string == string), None)  # fmt: skip


def on_string_beside(score: Score, note_id: str, by: int) -> Score:
    """Return the score with a note so many strings further (+1 lower), its pitch kept.

    Raises: ValueError where its pitch does not live there.
    """
    where = place_on(score, note_id, score.note(note_id).string + by)
    if where is None:
        raise ValueError("this pitch does not live on that string")
    return moved(score, note_id, where)


def moved(score: Score, note_id: str, where: Place) -> Score:
    """Return the score with a note put on a place by hand: the solver leaves it there from now on."""
    return score.with_note(
        note_id, string=where.string, fret=where.fret, finger=None, locked=True, doubt=None, certainty=1.0
    )


def moved_with_phrase(score: Score, note_id: str, where: Place, *, style: str = "position") -> Score:
    """Return the score with a note put on a place by hand and the rest of its phrase placed anew around it.

    Where a lick of the phrase comes again it goes to the same places. What was placed by hand or accepted stays, and so
    does all else outside the phrase.
    """
    score = moved(score, note_id, where)
    phrase = score.phrase_at(score.note(note_id).onset_s)
    if phrase is None:
        return score
    inside = score.notes_of(phrase)
    first, last = inside.start, inside.stop
    begin, end = max(0, first - CONTEXT), min(len(score.notes), last + CONTEXT)
    soundings = [
        sounding_of(score, note)
        if at in inside
        else replace(sounding_of(score, note), lock=Place(note.string, note.fret))
        for at, note in enumerate(score.notes[begin:end], start=begin)
    ]
    placed = place(soundings, score.tuning, style=style)[first - begin :]
    notes = list(score.notes)
    for at, position in zip(inside, placed, strict=False):
        if not notes[at].locked:
            notes[at] = replace(
                notes[at], string=position.place.string, fret=position.place.fret, finger=position.finger
            )
    for at, like in _repeats_of(score, inside).items():
        if at not in inside and not notes[at].locked:
            notes[at] = replace(notes[at], string=notes[like].string, fret=notes[like].fret, finger=notes[like].finger)
    return score.with_notes(notes)


def _repeats_of(score: Score, inside: range) -> dict[int, int]:
    """Return, for each note of a lick that comes again inside a span of notes, the same note in that span."""
    notes = score.notes
    midi = [score.fretted_midi(note) for note in notes]
    again = repeats(midi, [note.onset_s for note in notes], [note.attack for note in notes])
    first_of = again | {first: first for first in again.values()}
    by_first = {first_of[at]: at for at in reversed(inside) if at in first_of}
    return {at: by_first[first] for at, first in first_of.items() if first in by_first}


def typed_fret(score: Score, note_id: str, fret: int) -> Score:
    """Return the score with a note on another fret of its string. Raises: ValueError beyond the neck."""
    if not score.tuning.capo <= fret <= LAST_FRET:
        raise ValueError(f"this neck has frets {score.tuning.capo} to {LAST_FRET}")
    return moved(score, note_id, Place(score.note(note_id).string, fret))


def fret_near(figures: str, hand: float) -> int | None:
    """Return the fret that one or two typed figures mean to a hand at a fret; None when the second begins another.

    Near the hand the last figure is enough: at fret 12 a 4 is fret 14. Both figures say any fret within reach; a 0
    before a figure says that fret itself, wherever the hand is.
    """
    fret = int(figures)
    if len(figures) == 1:
        return min(range(fret, LAST_FRET + 1, 10), key=lambda near: (abs(near - hand), near))
    low = hand <= LOW_HAND
    as_said = not low if figures[0] == "0" else low or abs(fret - hand) <= TYPED_REACH
    return fret if fret <= LAST_FRET and as_said else None


def hand_at(score: Score, note_id: str) -> float | None:
    """Return around which fret the hand is at a note, by its neighbours' frets; None where there are none."""
    at = score.index_of(note_id)
    if at is None:
        return None
    beside = (*score.notes[max(0, at - REACH) : at], *score.notes[at + 1 : at + 1 + REACH])
    frets = [note.fret for note in beside if note.fret > score.tuning.capo]
    return float(np.median(frets)) if frets else None


def means_both(figures: str, hand: float) -> bool:
    """Whether two figures are rather one fret than two: the first by itself is far from the hand, both together not."""
    both = int(figures)
    return both <= LAST_FRET and abs(int(figures[0]) - hand) > TYPED_REACH and abs(both - hand) <= TYPED_REACH


def inserted_at(score: Score, time_s: float, *, like: Note | None) -> tuple[Score, str]:
    """Return the score with a new note at a time, on the place of `like`, and its id."""
    following = score.first_after(time_s)
    room_s = score.notes[following].onset_s - time_s if following < len(score.notes) else 0.3
    length_s = float(np.clip(room_s, 0.06, 0.3))
    place = Place(like.string, like.fret) if like is not None else Place(min(3, score.tuning.strings), 12)
    note = Note(time_s, time_s + length_s, place.string, place.fret, locked=True, id=new_id())
    return score.with_inserted(note), note.id


def appended(
    score: Score, note_id: str, *, beats: float, place: Place | None = None, at_s: float | None = None
) -> tuple[Score, str]:
    """Return the score with a note written after another, and its id.

    note_id: of the note before; empty to begin at the first beat. beats: from its onset to the new one, 0 for the same
    time and length. place: None takes the place of the note before. at_s: the onset, when it was pointed at. Without a
    beat map a beat lasts half a second.
    """
    before = score.note_of(note_id)
    onset_s = next_onset_s(score, note_id, beats=beats) if at_s is None else at_s
    beat_s = _beat_s(score, before)
    where = place or (Place(before.string, before.fret) if before is not None else Place(3, 12))
    offset_s = before.offset_s if before is not None and beats == 0 else onset_s + 0.95 * max(beats, 0.1) * beat_s
    note = Note(onset_s, offset_s, where.string, where.fret, locked=True, id=new_id())
    return score.with_inserted(note), note.id


def free_strings(score: Score, note_id: str) -> tuple[int, ...]:
    """Return the strings on which nothing begins together with a note, highest first."""
    onset_s = score.note(note_id).onset_s
    taken = {note.string for note in score.notes if struck_together(note.onset_s, onset_s)}
    return tuple(string for string in range(1, score.tuning.strings + 1) if string not in taken)


def written_beside(score: Score, note_id: str, place: Place) -> tuple[Score, str]:
    """Return the score with another string struck together with a note and held as long, and the new note's id.

    What still rang on that string ends there. Raises: ValueError where that string is struck there already.
    """
    note = score.note(note_id)
    if place.string not in free_strings(score, note_id):
        raise ValueError(
            f"string {place.string} is struck here already: select that note to change it, or choose another string"
        )
    rings = {
        other.id: replace(other, offset_s=note.onset_s)
        for other in score.notes
        if other.string == place.string and other.onset_s < note.onset_s < other.offset_s
    }
    return appended(score.with_changed(rings), note_id, beats=0.0, place=place)


def next_onset_s(score: Score, note_id: str, *, beats: float) -> float:
    """Return when a note written some beats after another would begin; see `appended`."""
    before = score.note_of(note_id)
    if before is None:
        return _beginning_s(score)
    return later(score, before.onset_s, beats=beats)


def later(score: Score, time_s: float, *, beats: float) -> float:
    """Return the time some felt beats after another, seconds; without a beat map a beat lasts half a second."""
    if not score.beat_map.known:
        return time_s + beats * UNKNOWN_BEAT_S
    beat_map = score.beat_map
    return beat_map.time(beat_map.quarter_of(beat_map.felt(beat_map.quarter(time_s)) + beats))


def _beat_s(score: Score, before: Note | None) -> float:
    return 60.0 / score.beat_map.tempo_at(before.onset_s if before else 0.0) if score.beat_map.known else UNKNOWN_BEAT_S


def _beginning_s(score: Score) -> float:
    """Where a solo begins: with its pickup, else with bar 1."""
    beat_map = score.beat_map
    return max(0.0, beat_map.time(-beat_map.pickup)) if beat_map.known else 0.0


def copied(notes: Sequence[Note]) -> tuple[Note, ...]:
    """Return notes to be pasted, their time counted from the first one's onset; they are others, with no id yet."""
    start_s = notes[0].onset_s if notes else 0.0
    return tuple(
        replace(n, onset_s=n.onset_s - start_s, offset_s=n.offset_s - start_s, starts_at=None, id="") for n in notes
    )


def under_copied(score: Score, notes: Sequence[Note], time_s: float) -> tuple[str, ...]:
    """Return the ids of the notes that sound where copied ones would be put."""
    end_s = time_s + max((note.offset_s for note in notes), default=0.0)
    before_end = score.notes[: score.first_after(end_s - EDGE_S)]
    return tuple(note.id for note in before_end if note.offset_s > time_s + EDGE_S)


def pasted(
    score: Score,
    notes: Sequence[Note],
    time_s: float,
    *,
    semitones: int = 0,
    frets: int = 0,
    strings: int = 0,
    instead: Sequence[str] = (),
    style: str = "position",
) -> tuple[Score, str]:
    """Return the score with copied notes put at a time, and the id of the first.

    semitones: moves the pitch, and every note is placed anew. frets: moves the shape along its strings. strings: moves
    the shape over the strings, frets kept (+1 is lower). instead: ids of the notes that give way to them.
    Raises: ValueError when the shape leaves the neck; PlaceError when a pitch does.
    """
    if not notes:
        raise ValueError("nothing was copied yet")
    at = [replace(n, onset_s=n.onset_s + time_s, offset_s=n.offset_s + time_s, id=new_id()) for n in notes]
    if strings or frets:
        on_strings = all(1 <= n.string + strings <= score.tuning.strings for n in at)
        if not (on_strings and all(score.tuning.capo <= n.fret + frets <= LAST_FRET for n in at)):
            raise ValueError("the shape would leave the neck")
        at = [replace(n, string=n.string + strings, fret=n.fret + frets, locked=True) for n in at]
    if semitones:
        soundings = [
            replace(sounding, fretted_midi=sounding.fretted_midi + semitones, lock=None, harmonic_midi=None)
            for sounding in (sounding_of(score, n) for n in at)
        ]
        placed = place(soundings, score.tuning, style=style)
        at = [
            replace(n, string=position.place.string, fret=position.place.fret, finger=position.finger, locked=False)
            for n, position in zip(at, placed, strict=True)
        ]
    remaining = score.without(instead)
    return remaining.with_notes((*remaining.notes, *at)), at[0].id


def inserted(score: Score, note: Note, midi: float, *, style: str = "position") -> tuple[Score, str]:
    """Return the score with a note of a fretted pitch put where its neighbours' hand can take it, and its id.

    note: everything but its place. Raises: PlaceError when the pitch is on no string.
    """
    at = score.first_after(note.onset_s)
    around = score.notes[max(0, at - REACH) : at + REACH]
    soundings = [replace(sounding_of(score, other), lock=Place(other.string, other.fret)) for other in around]
    attack, size = note.attack, note.reading.bend_semitones
    new = Sounding(note.onset_s, note.offset_s, midi, attack, size, note.tone)
    position = min(at, REACH)
    placed = place([*soundings[:position], new, *soundings[position:]], score.tuning, style=style)[position]
    note_id = note.id if note.id and score.note_of(note.id) is None else new_id()
    where = placed.place
    written = replace(note, string=where.string, fret=where.fret, finger=placed.finger, doubt=None, id=note_id)
    return score.with_inserted(written), note_id


def nearest_place(midi: float, neck: Tuning, near: Place) -> Place:
    """Return where a pitch lives: on the same string when it is there, else at the nearest fret.

    Raises: ValueError when it is nowhere on this neck.
    """
    candidates = places(midi, neck)
    if not candidates:
        raise ValueError("the pitch that was heard is nowhere on this neck")
    return min(candidates, key=lambda where: (where.string != near.string, abs(where.fret - near.fret), where.string))


def alternatives(score: Score, note_id: str, *, style: str = "position") -> Placed:
    """Return where else a note could go while its neighbours stay, with the extra cost of each place and its reason."""
    index = score.position(note_id)
    first, last = max(0, index - REACH), min(len(score.notes), index + REACH + 1)
    soundings = [
        replace(sounding_of(score, note), lock=None if at == index else Place(note.string, note.fret))
        for at, note in enumerate(score.notes[first:last], start=first)
    ]
    return place(soundings, score.tuning, style=style, why=True)[index - first]


class Keeps(StrEnum):
    """What of a solo stays when the neck is tuned anew or gets a capo."""

    PITCHES = "pitches"
    FRETS = "frets"


def retuned(score: Score, tuning: Tuning, *, keeps: Keeps = Keeps.PITCHES, style: str = "position") -> Score:
    """Return the score on another tuning or with another capo.

    keeps: its pitches, so that every note finds its place anew; or its frets as they are played, so that it sounds
    otherwise: with a capo they go up the neck together with it. Variants that have no tuning of their own follow.
    Raises: PlaceError when a note is not on that neck.
    """
    change = _places_anew if keeps is Keeps.PITCHES else _frets_kept
    variants = tuple(
        variant if variant.tuning is not None else replace(variant, notes=change(score, variant.notes, tuning, style))
        for variant in score.variants
    )
    notes = change(score, score.notes, tuning, style)
    return replace(score, notes=(), tuning=tuning, variants=variants).with_notes(notes)


def _places_anew(score: Score, notes: tuple[Note, ...], tuning: Tuning, style: str) -> tuple[Note, ...]:
    placed = place([replace(sounding_of(score, note), lock=None) for note in notes], tuning, style=style)
    return tuple(
        replace(note, string=position.place.string, fret=position.place.fret, finger=position.finger, locked=False)
        for note, position in zip(notes, placed, strict=True)
    )


def _frets_kept(score: Score, notes: tuple[Note, ...], tuning: Tuning, _style: str) -> tuple[Note, ...]:
    by = tuning.capo - score.tuning.capo
    nowhere = sum(note.string > tuning.strings or not tuning.capo <= note.fret + by <= LAST_FRET for note in notes)
    if nowhere:
        raise PlaceError(
            f"{nowhere} of the {len(notes)} notes would lie on no string or fret of that neck.",
            "Keep the pitches instead, or choose another tuning or capo.",
        )
    return tuple(replace(note, fret=note.fret + by) for note in notes) if by else notes


KEPT = ("id", "remark", "division", "starts_at", "slip", "readings")
"""What a note keeps of its own when it is made like another one."""
Partner = tuple[str, int | None, int | None, int | None]


def corrected_elsewhere(score: Score, note_id: str, partners: Sequence[Partner]) -> Score:
    """Return the score with some notes made what one note is, each where its own lick lies.

    partners: each note's id, and by how many frets, strings and semitones it lies from the one; None where that is not
    told. Their times and remarks stay. One whose place the neck does not have stays as it is.
    """
    note, changed = score.note(note_id), {}
    for other_id, frets, strings, semitones in partners:
        other = score.note_of(other_id)
        if other is None:
            continue
        string = other.string if strings is None else note.string + strings
        if not 1 <= string <= score.tuning.strings:
            continue
        if frets is not None:
            fret = note.fret + frets
        elif semitones is not None:
            fret = round(score.fretted_midi(note) + semitones - score.tuning.midi(string, 0))
        else:
            fret = other.fret
        if score.tuning.capo <= fret <= LAST_FRET:
            like = retimed(note, other.onset_s, other.offset_s)
            own_fields = {name: getattr(other, name) for name in KEPT}
            changed[other_id] = replace(
                like, string=string, fret=fret, locked=True, certainty=1.0, doubt=None, **own_fields
            )
    return score.with_changed(changed)
