"""Edits that need no neck, curves in words, kept states."""

from dataclasses import replace

import numpy as np
import pytest

from notcher.core.parsing import GestureError, gesture_from_text
from notcher.core.score import (
    FLAT,
    Attack,
    BeatMap,
    Chord,
    Note,
    PitchCurve,
    Revision,
    Score,
    Vibrato,
    bent_curve,
    changes,
)
from notcher.core.score.edits import (
    accepted,
    joined_with_next,
    snapped_onset,
    split,
    with_beat_at,
    with_chord,
    with_curve_point,
    with_end,
    with_new_curve_point,
    with_onset,
    without_curve_point,
)
from notcher.core.score.rhythm import counted
from notcher.core.words import count_word, gesture_words


def two(**more: object) -> Score:
    return Score((Note(0.0, 1.0, 2, 10, **more), Note(1.0, 2.0, 2, 10)), beat_map=BeatMap.steady(60, 0))  # type: ignore[arg-type]


def test_a_note_is_split_and_joined_again() -> None:
    score = two(curve=PitchCurve(((0.0, 0.0), (0.4, 2.0))), vibrato=Vibrato(0.5, 5, 20))
    cut, rest_id = split(score, score.notes[0].id, 0.6)
    assert cut.position(rest_id) == 1
    assert [(n.onset_s, n.offset_s) for n in cut.notes[:2]] == [(0.0, 0.6), (0.6, 1.0)]
    # the pitch goes on where it was: bent by two semitones at the cut
    assert cut.notes[1].curve.at(np.zeros(1))[0] == pytest.approx(2.0)
    assert cut.notes[1].attack is Attack.PICK
    whole = joined_with_next(cut, cut.notes[0].id).notes[0]
    times_s = np.linspace(0, 1, 21)
    assert whole.curve.at(times_s) == pytest.approx(score.notes[0].curve.at(times_s))
    with pytest.raises(ValueError, match="not inside"):
        split(score, score.notes[0].id, 1.5)
    with pytest.raises(ValueError, match="on one fret"):
        joined_with_next(score.with_note(score.notes[1].id, fret=12), score.notes[0].id)
    with pytest.raises(ValueError, match="no note follows"):
        joined_with_next(score, score.notes[1].id)


def test_onsets_and_ends_move_but_do_not_pass_each_other() -> None:
    both = two()
    first, second = (note.id for note in both.notes)
    assert with_onset(both, second, 0.98).note(second).onset_s == pytest.approx(0.98)
    assert with_end(both, first, 0.7).note(first).offset_s == 0.7
    with pytest.raises(ValueError, match="cannot pass"):
        with_onset(both, first, 1.2)
    with pytest.raises(ValueError, match="cannot pass"):
        with_end(both, first, -1)
    attacks = np.array([0.1, 0.99, 1.4])
    assert snapped_onset(1.0, attacks, -1) == 0.99
    assert snapped_onset(1.0, attacks, 1) == 1.4
    assert snapped_onset(2.0, attacks, 1) == 2.0


def test_a_curves_points_are_added_dragged_and_taken_away() -> None:
    both = two()
    note_id = both.notes[0].id
    score, point = with_new_curve_point(both, note_id, 0.3)
    score = with_curve_point(score, note_id, point, 0.35, 2.0)
    assert score.notes[0].curve.points == ((0.0, 0.0), (0.35, 2.0))
    # a point stays between its neighbours and inside its note
    assert with_curve_point(score, note_id, point, 9.0, 2.0).notes[0].curve.points[-1][0] == 1.0
    assert without_curve_point(score, note_id, 1).notes[0].curve == FLAT
    with pytest.raises(ValueError, match="point there already"):
        with_new_curve_point(score, note_id, 0.35)


def test_lanes_are_edited_in_place() -> None:
    score = with_chord(with_chord(two(), 1.0, "Am"), 0.0, "C")
    assert [chord.name for chord in score.chords] == ["C", "Am"]
    assert with_chord(score, 1.05, "F").chords == (Chord(0.0, "C"), Chord(1.05, "F"))
    assert with_chord(score, 1.0, " ").chords == (Chord(0.0, "C"),)


def test_a_chord_that_was_heard_is_certain_once_it_is_typed() -> None:
    heard = replace(two(), chords=(Chord(1.0, "Am", certainty=0.4),))
    assert with_chord(heard, 1.0, "Am").chords == (Chord(1.0, "Am"),)
    with pytest.raises(ValueError, match="between 0 and 1"):
        Chord(1.0, "Am", certainty=1.5)
    moved = with_beat_at(two(), 8, 8.2).beat_map
    assert moved.time_at(np.array([0.0, 8.0, 20.0])) == pytest.approx([0.0, 8.2, 20.0])
    with pytest.raises(ValueError, match="no beats"):
        with_beat_at(Score(), 1, 1.0)


def test_a_note_is_counted_and_its_push_kept() -> None:
    # eight notes to the bar are counted "1 & 2 & ..." (common practice, no source)
    onsets = [0.5 * i + (0.03 if i == 3 else 0) for i in range(8)]
    score = Score(tuple(Note(t, t + 0.4, 1, 5) for t in onsets), beat_map=BeatMap.steady(60, 0))
    assert [count_word(counted(score, i)[0]) for i in range(4)] == ["1", "&", "2", "&"]
    assert counted(score, 3)[1] == pytest.approx(0.03, abs=1e-6)
    with pytest.raises(ValueError):
        counted(replace(score, beat_map=BeatMap()), 0)


@pytest.mark.parametrize(
    ("words", "points"),
    [
        # a step is two semitones, so 1½ steps are three (common practice, no source)
        ("bend 1½ over 200 ms, hold, release", ((0.0, 0.0), (0.2, 3.0), (0.48, 3.0), (0.63, 0.0))),
        ("pre-bend 1, hold for 100 ms, release over 0.15 s", ((0.0, 2.0), (0.1, 2.0), (0.25, 0.0))),
        ("bend 1 1/2 over 200 ms", ((0.0, 0.0), (0.2, 3.0))),
        ("dip ½", ((0.0, 0.0), (0.24, 0.0), (0.39, -1.0), (0.54, 0.0))),
        ("start ½ below, hold for 80 ms, return over 120 ms", ((0.0, -1.0), (0.08, -1.0), (0.2, 0.0))),
        ("dive 1 over 100 ms, return ½ below over 200 ms", ((0.0, 0.0), (0.1, -2.0), (0.3, -1.0))),
        ("flat", ()),
    ],
)
def test_a_curve_is_typed_in_words_and_said_in_words(words: str, points: tuple[tuple[float, float], ...]) -> None:
    read = gesture_from_text(words, duration_s=0.8)
    assert read.curve.points == points
    again = gesture_from_text(gesture_words(read.curve, read.vibrato), duration_s=0.8)
    assert again.curve.points == points


def test_a_vibrato_is_typed() -> None:
    assert gesture_from_text("1½", duration_s=0.8) == gesture_from_text("bend 1½", duration_s=0.8)
    assert gesture_from_text("bend ½ over 100 ms, vibrato 6 Hz 30 cents", duration_s=1).vibrato == Vibrato(0.1, 6, 30)


@pytest.mark.parametrize(
    ("words", "trouble"),
    [
        ("", "Nothing was typed"),
        ("bend", "how far"),
        ("jump 1", "no step of a curve"),
        ("bend 40", "No string bends by 40"),
        ("bend 1 over 2 s", "lasts only 800 ms"),
        ("vibrato 90 hz", "No finger"),
    ],
)
def test_words_that_make_no_curve_are_refused(words: str, trouble: str) -> None:
    with pytest.raises(GestureError, match=trouble):
        gesture_from_text(words, duration_s=0.8)


def test_two_states_are_compared_note_by_note() -> None:
    before = Score(tuple(Note(float(i), i + 0.8, 2, 10 + i) for i in range(5)))
    after = before.with_note(before.notes[0].id, string=3, fret=14).with_note(
        before.notes[1].id, curve=bent_curve(2, 0.8)
    )
    after = after.with_note(before.notes[2].id, onset_s=2.04).with_note(before.notes[3].id, attack=Attack.HAMMER)
    after = after.without([before.notes[4].id])
    after = after.with_inserted(Note(6.0, 6.5, 1, 5))
    found = changes(before, after)
    assert [change.kind for change in found] == ["moved", "re-bent", "re-timed", "changed", "removed", "added"]
    assert [change.onset_s for change in found] == sorted(change.onset_s for change in found)
    assert changes(before, before) == []
    assert Revision("a", "2026-01-01T10:00:00", before).score is before


def test_an_accepted_note_is_undoubted_and_held_where_it_lies_and_else_the_same() -> None:
    note = Note(1.0, 1.5, 2, 7, Attack.HAMMER, bent_curve(2.0, 0.5), certainty=0.4, remark="late", id="n")
    taken = accepted(note)
    assert (taken.certainty, taken.doubt, taken.locked, taken.id) == (1.0, None, True, "n")
    assert replace(taken, certainty=0.4, locked=False) == note
    assert accepted(taken) is taken
