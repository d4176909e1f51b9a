"""A stretch at a practice pace, and checks that lapse when their claim changes."""

from dataclasses import replace

import numpy as np
import pytest

from notcher.core.score import (
    EDGE_S,
    Aside,
    BeatMap,
    Chord,
    Excluded,
    Note,
    Phrase,
    Score,
    Vibrato,
    bent_curve,
    excerpt,
    retimed,
    with_times,
)
from notcher.core.score.edits import unchecked_where_changed

SCORE = Score(
    (
        Note(1.0, 1.4, 3, 12),
        Note(2.0, 2.8, 2, 15, curve=bent_curve(2, 0.8), vibrato=Vibrato(0.4, 5.5, 25)),
        Note(3.0, 3.9, 2, 12),
    ),
    beat_map=BeatMap.steady(120, 0.5),
    chords=(Chord(0.5, "Em"), Chord(2.5, "C")),
    phrases=(Phrase(0.5, 2.5, "a"), Phrase(2.5, 4.5, "b")),
)


@pytest.mark.parametrize("pace", [0.5, 0.8, 1.0, 1.25])
def test_every_time_is_stretched_alike(pace: float) -> None:
    part = excerpt(SCORE, 1.5, 3.5, pace=pace, lead_s=2.0)
    assert [note.fret for note in part.notes] == [15, 12]
    first, second = part.notes
    assert first.onset_s == pytest.approx(2.0 + 0.5 / pace)
    assert first.duration_s == pytest.approx(0.8 / pace)
    assert first.curve.peak_semitones == 2
    assert first.curve.points[1][0] == pytest.approx(SCORE.notes[1].curve.points[1][0] / pace)
    # a wave is no slower at a slower pace: 4 to 7.5 Hz is what a finger does (common practice, no source)
    assert first.vibrato is not None
    assert (first.vibrato.from_s, first.vibrato.rate_hz) == (pytest.approx(0.4 / pace), 5.5)
    assert second.offset_s == pytest.approx(2.0 + (3.5 + EDGE_S - 1.5) / pace), (
        "the stretch ends, and so does its last note"
    )
    assert part.beat_map.tempo_bpm == pytest.approx(120 * pace)
    before = SCORE.beat_map.quarter_at(np.array([2.0, 3.0]))
    assert part.beat_map.quarter_at(np.array([note.onset_s for note in part.notes])) == pytest.approx(before)
    assert [(chord.name, round(chord.start_s, 6)) for chord in part.chords] == [
        ("Em", 2.0),
        ("C", round(2 + 1 / pace, 6)),
    ]
    assert [phrase.name for phrase in part.phrases] == ["a", "b"]
    assert part.phrases[1].end_s == pytest.approx(2.0 + 2.0 / pace)


@pytest.mark.parametrize(
    ("start_s", "end_s", "pace"), [(1.0, 1.0, 1.0), (2.0, 1.0, 1.0), (0.0, 1.0, 0.0), (0.0, 1.0, -1.0)]
)
def test_a_stretch_needs_a_length_and_a_pace(start_s: float, end_s: float, pace: float) -> None:
    with pytest.raises(ValueError, match="needs a length and a pace"):
        excerpt(SCORE, start_s, end_s, pace=pace)


def test_a_retimed_note_keeps_its_gesture() -> None:
    note = retimed(SCORE.notes[1], 7.0, 7.4)
    assert (note.onset_s, note.offset_s) == (7.0, 7.4)
    assert note.reading.bend_semitones == SCORE.notes[1].reading.bend_semitones
    assert note.curve.points[-1][0] <= 0.4
    with pytest.raises(ValueError, match="must end after it starts"):
        retimed(SCORE.notes[1], 7.4, 7.0)


def test_a_check_lapses_with_what_was_checked() -> None:
    checked = SCORE.with_notes(replace(note, checked=True) for note in SCORE.notes)
    assert unchecked_where_changed(SCORE, checked) is checked, "checking is no change of the claim"
    for harmless in ({"finger": 3}, {"remark": "late"}, {"slip": True}, {"stroke": None}, {"garnish": True}):
        changed = checked.with_note(checked.notes[0].id, **harmless)
        assert unchecked_where_changed(checked, changed) is changed
    for claim in ({"fret": 14}, {"string": 4}, {"onset_s": 1.1}, {"curve": bent_curve(1, 0.4)}):
        lapsed = unchecked_where_changed(checked, checked.with_note(checked.notes[0].id, **claim))
        assert [note.checked for note in lapsed.notes] == [False, True, True]
    assert unchecked_where_changed(checked, checked.without([checked.notes[0].id])) == checked.without(
        [checked.notes[0].id]
    )


def test_what_is_none_of_the_solos_is_moved_with_its_note() -> None:
    heard = Note(2.0, 2.6, 3, 7, curve=bent_curve(2, 0.6))
    score = replace(SCORE, excluded=(Excluded(2.0, 62.0, Aside.BAND, heard), Excluded(3.0, 40.0)))
    first, second = with_times(score, lambda time_s: time_s + 10).excluded
    assert first.note is not None
    assert (first.onset_s, first.note.onset_s, first.note.offset_s) == (12.0, 12.0, pytest.approx(12.6))
    assert (second.onset_s, second.note) == (13.0, None)


def test_a_chord_that_runs_into_a_stretch_is_that_one_and_no_namesake() -> None:
    chords = (Chord(0.5, "Em", certainty=0.4), Chord(1.2, "C", certainty=0.9), Chord(1.6, "Em", certainty=0.7))
    part = excerpt(replace(SCORE, chords=chords), 2.0, 3.5)
    assert part.chords == (Chord(0.0, "Em", certainty=0.7),)
