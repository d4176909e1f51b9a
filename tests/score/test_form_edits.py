"""What is said of a phrase, a section, a bar and its rhythm, by notes; checked bar by bar at 120 beats a minute."""

from dataclasses import replace

import pytest

from notcher.core.score import BeatMap, Key, Meter, Note, Phrase, Score, Section, Swing
from notcher.core.score.form_edits import (
    bar_of,
    begun_here,
    ended_here,
    section_of,
    sections_before,
    split_here,
    swung,
    with_meter_from,
    with_phrase_key,
    with_phrase_name,
    with_phrase_of,
    with_repeat,
    with_section_around,
    without_section_here,
)
from notcher.core.score.selection import NO_SELECTION, Selection

SCORE = Score(
    tuple(Note(0.5 * at, 0.5 * at + 0.4, 3, 5 + at % 4) for at in range(16)),
    beat_map=BeatMap.steady(120, 0.0),
    phrases=(Phrase(0.0, 2.0, "Call"), Phrase(2.0, 4.0, "Answer"), Phrase(5.0, 8.0, "End")),
)


def at(*indices: int, score: Score = SCORE) -> Selection:
    return Selection(tuple(score.notes[index].id for index in indices), score.notes[indices[0]].id)


def spans(score: Score) -> list[tuple[str, float, float]]:
    return [(phrase.name, phrase.start_s, phrase.end_s) for phrase in score.phrases]


def test_the_bars_of_the_notes_swing_and_then_do_not() -> None:
    once = swung(SCORE, at(4, 5))
    assert [(part.start, part.end) for part in once.beat_map.swings] == [(4.0, 8.0)], "bar 2, four quarters"
    assert once.beat_map.swings[0].share == pytest.approx(2 / 3), "two thirds where nothing tells"
    assert swung(once, at(6)).beat_map.swings == ()
    wide = replace(SCORE, beat_map=replace(SCORE.beat_map, swings=(Swing(0.0, 16.0, 0.62),)))
    cut = swung(wide, at(4, 9))
    assert [(part.start, part.end, part.share) for part in cut.beat_map.swings] == [
        (0.0, 4.0, 0.62),
        (12.0, 16.0, 0.62),
    ]
    later = swung(once, at(9))
    assert [(part.start, part.end) for part in later.beat_map.swings] == [(4.0, 8.0), (8.0, 12.0)]


def test_swing_follows_the_playing() -> None:
    """Eighths whose first takes three fifths of the beat: 0.3 s and 0.2 s at 120."""
    notes = [Note(0.5 * beat + part, 0.5 * beat + part + 0.15, 3, 5) for beat in range(8) for part in (0.0, 0.3)]
    score = Score(tuple(notes), beat_map=BeatMap.steady(120, 0.0))
    ids = tuple(note.id for note in score.notes)
    share = swung(score, Selection(ids, ids[0])).beat_map.swings[0].share
    assert share == pytest.approx(0.6, abs=0.01)


def test_a_bar_is_found_and_takes_a_meter() -> None:
    assert [bar_of(SCORE, at(index)) for index in (0, 3, 4, 15)] == [1, 1, 2, 4]
    before = replace(SCORE, beat_map=BeatMap.steady(120, 3.0))
    assert bar_of(before, at(0, score=before)) == 1
    once = with_meter_from(SCORE, at(4), "2/4 once", keeps_felt=True)
    assert [(change.bar, change.meter) for change in once.beat_map.meters] == [
        (1, Meter(4, 4)), (2, Meter(2, 4)), (3, Meter(4, 4)),
    ]  # fmt: skip
    on = with_meter_from(SCORE, at(4), " 3/4 ", keeps_felt=True)
    assert [(change.bar, change.meter) for change in on.beat_map.meters] == [(1, Meter(4, 4)), (2, Meter(3, 4))]


@pytest.mark.parametrize("edit", [swung, bar_of])
def test_without_beats_it_is_said_what_to_do(edit) -> None:  # type: ignore[no-untyped-def]
    with pytest.raises(ValueError, match="tap them on the Hear bench first"):
        edit(replace(SCORE, beat_map=BeatMap()), at(0))


def test_notes_become_a_phrase_of_their_own() -> None:
    after = with_phrase_of(SCORE, at(8, 9), " Turn ")
    assert spans(after)[2] == ("Turn", 4.0, 4.9)
    legato = SCORE.with_note(SCORE.notes[9].id, offset_s=5.2)
    assert spans(with_phrase_of(legato, at(8, 9, score=legato), "Turn"))[2] == ("Turn", 4.0, 5.0), "up to the next note"
    last = with_phrase_of(SCORE, at(15), "Last")
    assert spans(last)[-1] == ("Last", 7.5, 7.9)
    with pytest.raises(ValueError, match="no note is selected"):
        with_phrase_of(SCORE, NO_SELECTION, "Turn")


def test_a_phrase_is_named_and_keyed() -> None:
    assert [name for name, _, _ in spans(with_phrase_name(SCORE, at(5), " Reply "))] == ["Call", "Reply", "End"]
    keyed = with_phrase_key(SCORE, at(5), Key("A", "dorian"))
    assert [phrase.key for phrase in keyed.phrases] == [None, Key("A", "dorian"), None]
    assert with_phrase_key(keyed, at(5), None) == SCORE
    with pytest.raises(ValueError, match="no phrase lies here"):
        with_phrase_name(SCORE, at(8), "Nowhere")


def test_borders_follow_the_selected_note() -> None:
    assert spans(begun_here(SCORE, at(8)))[2] == ("End", 4.0, 8.0), "between phrases it is the next one's first"
    assert spans(begun_here(SCORE, at(5)))[1] == ("Answer", 2.5, 4.0)
    assert spans(ended_here(SCORE, at(6)))[1] == ("Answer", 2.0, pytest.approx(3.4))
    assert spans(ended_here(SCORE, at(8)))[1] == ("Answer", 2.0, pytest.approx(4.4)), "between phrases the one before"
    long = SCORE.with_note(SCORE.notes[6].id, offset_s=3.9)
    assert spans(ended_here(long, at(6, score=long)))[1] == ("Answer", 2.0, 3.5), "the next note is not of it"
    bare = replace(SCORE, phrases=())
    for edit in (begun_here, ended_here):
        with pytest.raises(ValueError, match="make one of the selected notes first"):
            edit(bare, at(3, score=bare))
    first = replace(SCORE, phrases=SCORE.phrases[:1])
    with pytest.raises(ValueError, match="make one"):
        begun_here(first, at(9, score=first))
    last = replace(SCORE, phrases=SCORE.phrases[2:])
    with pytest.raises(ValueError, match="make one"):
        ended_here(last, at(3, score=last))


def test_a_phrase_is_cut_before_the_note() -> None:
    after = split_here(SCORE, at(6))
    assert [(start, end) for _, start, end in spans(after)] == [(0.0, 2.0), (2.0, 3.0), (3.0, 4.0), (5.0, 8.0)]
    names = [name for name, _, _ in spans(after)]
    assert len(set(names)) == 4
    assert names[:2] == ["Call", "Answer"]


def test_sections_hold_the_phrases_of_their_notes() -> None:
    made = with_section_around(SCORE, at(1, 5), " Verse ")
    assert [(part.name, part.start_s, part.end_s) for part in made.sections] == [("Verse", 0.0, 4.0)]
    again = with_section_around(made, at(0, 7), "First verse")
    assert [part.name for part in again.sections] == ["First verse"], "the same stretch is called otherwise"
    two = with_section_around(again, at(11), "Second")
    assert [(part.name, part.start_s) for part in two.sections] == [("First verse", 0.0), ("Second", 5.0)]
    with pytest.raises(ValueError, match="no phrase lies here"):
        with_section_around(SCORE, at(8), "Nowhere")
    assert section_of(two, NO_SELECTION) is None
    assert section_of(two, at(8)) is None
    here = section_of(two, at(12))
    assert here is not None
    assert here.name == "Second"
    nested = replace(SCORE, sections=(Section(0.0, 8.0, "All"), Section(2.0, 4.0, "Inner")))
    inner, outer = section_of(nested, at(5, score=nested)), section_of(nested, at(1, score=nested))
    assert (inner and inner.name, outer and outer.name) == ("Inner", "All")


def test_a_section_repeats_one_before_it_or_none() -> None:
    two = with_section_around(with_section_around(SCORE, at(1, 5), "Verse"), at(11), "Again")
    assert [part.name for part in sections_before(two, at(11))] == ["Verse"]
    assert sections_before(two, at(1)) == ()
    assert sections_before(two, at(8)) == ()
    same = with_repeat(two, at(11), "Verse")
    assert same.sections[1].repeats == two.sections[0].id
    assert with_repeat(same, at(11), "none").sections[1].repeats == ""
    gone = without_section_here(two, at(12))
    assert [part.name for part in gone.sections] == ["Verse"]
    assert gone.phrases == two.phrases
    for edit in (without_section_here, lambda score, chosen: with_repeat(score, chosen, "Verse")):
        with pytest.raises(ValueError, match="no section lies here"):
            edit(two, at(8))
