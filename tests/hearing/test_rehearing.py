"""Hearing again replaces notes only: what is the same keeps its id, what a person made stays."""

from dataclasses import replace

import pytest

from notcher.core.hearing import Hint, heard_again, rest_heard, steered
from notcher.core.score import (
    TUNINGS,
    BeatMap,
    Chord,
    DoubtKind,
    Excluded,
    Key,
    Meter,
    Note,
    Phrase,
    PitchCurve,
    Score,
    Section,
    with_derived_ids,
)

NOTES = tuple(Note(0.5 * i, 0.5 * i + 0.4, 2, 10 + i % 3) for i in range(8))


@pytest.fixture
def before() -> Score:
    phrases = (Phrase(0.0, 2.0, "Call", near_fret=12), Phrase(2.0, 4.0, "Answer"))
    return Score(
        NOTES, beat_map=BeatMap.steady(96, 0.1, Meter(6, 8)), chords=(Chord(0.0, "Am"),), phrases=phrases,
        title="Watch", sections=(Section(0.0, 4.0, "A"),), key=Key("A", "dorian"), excluded=(Excluded(4.5, 69.0),),
    )  # fmt: skip


def as_heard(*notes: Note) -> Score:
    """A new draft, as the hearing gives it."""
    fresh = Score(beat_map=BeatMap.steady(120, 0.0), phrases=(Phrase(0.0, 4.0, "1"),), title="file")
    return with_derived_ids(fresh.with_notes(notes))


def test_only_notes_are_replaced(before: Score) -> None:
    after = heard_again(before, as_heard(*(replace(note, onset_s=note.onset_s + 0.01) for note in NOTES)))
    for name in ("beat_map", "chords", "phrases", "title", "sections", "key", "excluded", "variants"):
        assert getattr(after, name) == getattr(before, name), name
    assert [phrase.id for phrase in after.phrases] == [phrase.id for phrase in before.phrases]


def test_a_note_that_is_still_the_same_keeps_its_id_and_its_remarks(before: Score) -> None:
    said = before.with_note(
        before.notes[1].id, remark="lean on it", slip=True, division="thirds", starts_at=1.5, garnish=True
    )
    curve = PitchCurve(((0.0, 0.0), (0.1, 2.0)))
    after = heard_again(said, as_heard(*(replace(n, onset_s=n.onset_s + 0.02, curve=curve) for n in NOTES)))
    assert [note.id for note in after.notes[:6]] == [note.id for note in before.notes[:6]]
    note = after.notes[1]
    assert (note.remark, note.slip, note.division, note.starts_at, note.garnish) == (
        "lean on it", True, "thirds", 1.5, True,
    )  # fmt: skip
    assert note.curve == curve, "and it is as it is heard now"


def test_a_new_pitch_is_another_note(before: Score) -> None:
    after = heard_again(before, as_heard(replace(NOTES[0], fret=3), *NOTES[1:]))
    assert after.notes[0].id not in {note.id for note in before.notes}
    assert after.notes[1].id == before.notes[1].id


def test_places_put_by_hand_stay(before: Score) -> None:
    locked = before.with_note(
        before.notes[0].id, string=3, fret=14, finger=3, locked=True
    )  # 14 on string 3 is 10 on string 2
    after = heard_again(locked, as_heard(*NOTES))
    assert (after.notes[0].string, after.notes[0].fret, after.notes[0].finger) == (3, 14, 3)


def test_what_a_person_made_and_is_not_heard_stays_in_doubt(before: Score) -> None:
    made = before.with_inserted(Note(4.2, 4.5, 1, 5, locked=True, id="mine"))
    after = heard_again(made, as_heard(*NOTES))
    kept = after.note_of("mine")
    assert kept is not None
    assert kept.doubt is not None
    assert kept.doubt.kind is DoubtKind.NOT_HEARD_AGAIN
    # a note that nobody touched and nobody hears is gone: it can be undone
    assert len(heard_again(before, as_heard(*NOTES[1:])).notes) == 7


def test_the_persons_word_stands_where_another_pitch_is_heard(before: Score) -> None:
    corrected = before.with_note(before.notes[2].id, fret=5, locked=True)
    after = heard_again(corrected, as_heard(*NOTES))
    at_one = [note for note in after.notes if abs(note.onset_s - 1.0) < 0.1]
    assert [(note.fret, note.id) for note in at_one] == [(5, before.notes[2].id)]


def test_what_is_not_the_solos_is_not_written_again(before: Score) -> None:
    after = heard_again(before, as_heard(*NOTES, Note(4.52, 4.9, 2, 10)))  # A4, said not to be the solo's
    assert all(abs(note.onset_s - 4.52) > 0.01 for note in after.notes)


def test_a_retuned_neck_stays(before: Score) -> None:
    """Heard in standard tuning, written on the neck that the instructor has chosen: the pitches are the same."""
    down = replace(before, notes=(), tuning=TUNINGS["half-down"])
    after = heard_again(down, as_heard(*NOTES))
    assert [after.fretted_midi(note) for note in after.notes] == [before.fretted_midi(note) for note in NOTES]


def test_a_hint_replaces_only_what_lies_under_it(before: Score) -> None:
    hint = Hint(0.9, 2.1, 60.0, 80.0)
    after = steered(before, as_heard(*(replace(note, fret=note.fret + 1) for note in NOTES)), hint)
    same = [note.id for note in after.notes if note.id in {old.id for old in before.notes}]
    assert same == [note.id for note in before.notes if not (note.offset_s > 0.9 and note.onset_s < 2.1)]


def test_the_rest_comes_and_what_was_done_meanwhile_stays() -> None:
    begun = as_heard(*NOTES[:4])
    begun = replace(begun, phrases=(Phrase(0.0, 2.0, "1"),))
    whole = replace(as_heard(*NOTES), phrases=(Phrase(0.0, 1.9, "1"), Phrase(1.9, 4.0, "2")))
    # meanwhile: a fret is corrected, a note taken away, a chord and a beat are set, the phrase is called otherwise
    now = begun.with_note(begun.notes[0].id, fret=5, locked=True).without([begun.notes[2].id])
    tapped = BeatMap.steady(90, 0.2)
    named = (replace(now.phrases[0], name="Call"),)
    now = replace(now, chords=(Chord(0.0, "Am"),), beat_map=tapped, phrases=named, key=Key("A"))
    after = rest_heard(begun, now, whole)
    assert [(note.onset_s, note.fret) for note in after.notes] == [
        (0.0, 5), (0.5, 11), (1.5, 10), (2.0, 11), (2.5, 12), (3.0, 10), (3.5, 11),
    ]  # fmt: skip
    assert [note.id for note in after.notes[:3]] == [note.id for note in now.notes]
    assert (after.chords, after.beat_map, after.key) == (now.chords, tapped, now.key)
    assert [phrase.name for phrase in after.phrases] == ["Call", "2"] or [p.name for p in after.phrases] == ["Call"]
    # untouched, all is as the whole draft has it, and the phrase that is the same keeps its id
    plain = rest_heard(begun, begun, whole)
    assert plain.notes == whole.notes
    assert plain.beat_map == whole.beat_map
    assert [phrase.end_s for phrase in plain.phrases] == [1.9, 4.0]
    assert plain.phrases[0].id == begun.phrases[0].id
