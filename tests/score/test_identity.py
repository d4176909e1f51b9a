"""Identities: a document, a section, a phrase, a variant and a note each keep one id for life."""

from dataclasses import replace

import pytest

from notcher.core.neck import copied, pasted, place_score, retuned
from notcher.core.score import (
    TUNINGS,
    BeatMap,
    Note,
    Phrase,
    Score,
    Section,
    Variant,
    changes,
    derived_id,
    excerpt,
    new_id,
    with_derived_ids,
)
from notcher.core.score.edits import derived_variant, joined_with_next, split, unchecked_where_changed, with_variant
from notcher.core.score.form import with_phrase, with_phrase_near, with_section, without_section


@pytest.fixture
def score() -> Score:
    notes = tuple(Note(0.5 * i, 0.5 * i + 0.5, 2, 10 + i % 3) for i in range(8))
    phrases = (Phrase(0.0, 2.0, "a"), Phrase(2.0, 4.0, "b"))
    return Score(notes, beat_map=BeatMap.steady(120, 0), phrases=phrases, sections=(Section(0.0, 4.0, "A"),))


def ids(score: Score) -> list[str]:
    return [note.id for note in score.notes]


def test_everything_has_an_id_and_no_two_have_the_same(score: Score) -> None:
    every = [*ids(score), *(phrase.id for phrase in score.phrases), *(section.id for section in score.sections)]
    assert all(every)
    assert len(set(every)) == len(every)
    assert new_id() != new_id()
    with pytest.raises(ValueError, match="have the same id"):
        score.with_notes([*score.notes, replace(score.notes[0], onset_s=9.0, offset_s=9.5)])


def test_what_says_the_same_is_equal_whichever_it_is() -> None:
    assert Note(0, 1, 1, 5, id="a") == Note(0, 1, 1, 5, id="b")
    assert Score((Note(0, 1, 1, 5),)) == Score((Note(0, 1, 1, 5),))


def test_edits_keep_ids(score: Score) -> None:
    before = ids(score)
    assert ids(score.with_note(score.notes[3].id, fret=5)) == before
    assert ids(place_score(score)) == before
    assert ids(retuned(score, TUNINGS["drop-d"])) == before
    assert ids(excerpt(score, 1.0, 2.0, pace=0.5)) == before[2:4]
    later = score.with_note(score.notes[0].id, onset_s=3.2, offset_s=3.4)
    assert later.notes[later.index_of(before[0]) or 0].onset_s == 3.2, "found again by its id, not by its index"
    assert score.without([score.notes[0].id]).note_of(before[0]) is None


def test_of_a_split_the_first_part_keeps_it_of_a_join_the_earlier(score: Score) -> None:
    apart, rest_id = split(score, score.notes[2].id, 1.2)
    assert ids(apart)[2] == ids(score)[2]
    assert rest_id not in ids(score)
    remarked = apart.with_note(rest_id, remark="again").with_note(score.notes[2].id, remark="once")
    joined = joined_with_next(remarked, score.notes[2].id)
    assert ids(joined) == ids(score)
    assert joined.notes[2].remark == "once; again", "what was remarked of either stays"


def test_what_is_pasted_is_something_else(score: Score) -> None:
    twice, _ = pasted(score, copied(score.notes[:2]), 6.0)
    assert ids(twice)[:8] == ids(score)
    assert len(set(ids(twice))) == 10
    thrice, _ = pasted(twice, copied(score.notes[:2]), 8.0)
    assert len(set(ids(thrice))) == 12


def test_derived_ids_follow_from_what_is_said(score: Score) -> None:
    first, second = with_derived_ids(score), with_derived_ids(Score(score.notes, phrases=score.phrases))
    assert ids(first) == ids(second)
    assert [phrase.id for phrase in first.phrases] == [phrase.id for phrase in second.phrases]
    assert derived_id("note", 1) != derived_id("note", 2)
    # two that say the same are told apart by their order
    twin = Score((Note(0, 1, 1, 5), Note(0, 1, 1, 5)))
    assert len(set(ids(with_derived_ids(twin)))) == 2


def test_changes_pair_notes_by_their_ids(score: Score) -> None:
    """Moved by a second onto another note's time, it is still the same note."""
    now = score.with_note(score.notes[1].id, onset_s=1.52, offset_s=1.9, fret=3)
    found = changes(score, now)
    assert [(str(change.kind), change.before.id, change.after.id) for change in found] == [  # type: ignore[union-attr]
        ("moved", ids(score)[1], ids(score)[1])
    ]


def test_a_check_lapses_by_id(score: Score) -> None:
    checked = score.with_note(score.notes[2].id, checked=True)
    same = checked.with_note(checked.notes[2].id, remark="as recorded")
    assert unchecked_where_changed(checked, same).notes[2].checked
    moved = checked.with_note(checked.notes[2].id, fret=3)
    assert not unchecked_where_changed(checked, moved).notes[2].checked
    assert unchecked_where_changed(checked, moved, [checked.notes[2].id]).notes[2].checked, (
        "it was looked at as it is now"
    )


def test_a_phrase_is_no_longer_proved_when_a_claim_in_it_changes(score: Score) -> None:
    first = score.phrases[0]
    proved = replace(score, phrases=(replace(first, proved=True), *score.phrases[1:]))
    assert unchecked_where_changed(score, proved).phrases[0].proved
    inside = next(proved.notes[at] for at in proved.notes_of(first))
    outside = next(note for note in proved.notes if not first.holds(note.onset_s))
    for note, looked_at, stays in ((inside, (), False), (inside, (inside.id,), True), (outside, (), True)):
        changed = proved.with_note(note.id, fret=note.fret + 1)
        assert unchecked_where_changed(proved, changed, looked_at).phrases[0].proved is stays
    assert not unchecked_where_changed(proved, proved.without([inside.id])).phrases[0].proved
    assert unchecked_where_changed(proved, proved.with_note(inside.id, remark="softly")).phrases[0].proved


def test_a_phrase_is_found_by_its_id_not_by_its_name(score: Score) -> None:
    """Two phrases of one name: the wish for one is no wish for the other."""
    twins = replace(score, phrases=tuple(replace(phrase, name="Lick") for phrase in score.phrases))
    wished = with_phrase_near(twins, twins.phrases[1], 12)
    assert [phrase.near_fret for phrase in wished.phrases] == [None, 12]
    assert [phrase.id for phrase in wished.phrases] == [phrase.id for phrase in twins.phrases]


def test_phrases_give_way_and_keep_their_ids(score: Score) -> None:
    made = with_phrase(score, Phrase(1.0, 3.0, "middle"))
    assert [(phrase.name, phrase.start_s, phrase.end_s) for phrase in made.phrases] == [
        ("a", 0.0, 1.0), ("middle", 1.0, 3.0), ("b", 3.0, 4.0),
    ]  # fmt: skip
    assert [made.phrases[0].id, made.phrases[2].id] == [phrase.id for phrase in score.phrases]
    assert [phrase.name for phrase in with_phrase(score, Phrase(0.0, 4.0, "all")).phrases] == ["all"]


def test_sections_hold_phrases_and_repeat_one_another(score: Score) -> None:
    first = score.sections[0]
    assert [phrase.name for phrase in score.phrases_in(first)] == ["a", "b"]
    form = with_section(score, Section(4.0, 8.0, "A", repeats=first.id))
    assert form.sections[1].repeats == first.id
    with pytest.raises(ValueError, match="not there"):
        with_section(score, Section(4.0, 8.0, "A", repeats="nobody"))
    alone = without_section(form, first.id)
    assert [(section.name, section.repeats) for section in alone.sections] == [("A", "")]
    assert alone.phrases == form.phrases


def test_a_variant_is_derived_by_ids_and_stands_for_its_phrase(score: Score) -> None:
    phrase = score.phrases[0]
    variant = derived_variant(score, phrase, "easier")
    assert [note.source for note in variant.notes] == ids(score)[:4]
    assert not {note.id for note in variant.notes} & set(ids(score))
    easier = replace(variant, notes=(replace(variant.notes[0], fret=8), *variant.notes[2:]))
    kept = with_variant(score, easier)
    assert kept.notes == score.notes, "as recorded stays"
    played = kept.with_variant(kept.variants[0])
    assert [note.fret for note in played.notes] == [8, 12, 10, 11, 12, 10, 11]
    with pytest.raises(ValueError, match="not there any more"):
        with_variant(score, Variant("nobody", "easier"))
    gone = replace(kept, phrases=score.phrases[1:])
    assert gone.with_variant(gone.variants[0]) == gone
