"""Groups by outline alone, lines of four bars: on constructed cases whose answer is counted by hand."""

from dataclasses import replace

import numpy as np
import pytest

from notcher.core.patterns import BoundaryReason, lines_of, patterns, phrases_of
from notcher.core.score import Attack, BeatMap, Note, Phrase, Score
from notcher.core.words import BendNames, Naming, StringNames, boundary_reason_words, group_place_words

SIXTEENTH_S = 0.125
DOWN = (18, 17, 14, 13, 10, 7, 6, 3)


def pulled_threes() -> Score:
    """Three notes a turn on string 2, one picked and two pulled, the hand lower each turn by no rule of its own."""
    rng = np.random.default_rng(7)
    notes = []
    for turn, fret in enumerate(DOWN):
        for step, over in enumerate((4, int(rng.integers(1, 4)), 0)):
            at_s = (3 * turn + step) * SIXTEENTH_S
            attack = Attack.PICK if step == 0 else Attack.PULL
            notes.append(Note(at_s, at_s + 0.11, 2, fret + over, attack))
    return Score(tuple(notes), beat_map=BeatMap.steady(120, 0.0))


def around(score: Score) -> Score:
    """Other music before it, so that its outline is something that not every step has."""
    rng = np.random.default_rng(3)
    plain = tuple(Note(at * 0.5, at * 0.5 + 0.3, int(rng.integers(1, 7)), int(rng.integers(1, 15))) for at in range(24))
    later = tuple(replace(note, onset_s=note.onset_s + 12, offset_s=note.offset_s + 12) for note in score.notes)
    return replace(score, notes=(*plain, *later))


def test_pulled_threes_are_a_group_though_no_turn_is_another_moved() -> None:
    score = around(pulled_threes())
    found = patterns(score)
    (group,) = found.outlines
    assert (group.first, group.size, group.count) == (24, 3, 8)
    assert group.against, "three sixteenths a turn over beats of four"
    assert group.starts == tuple((2, score.notes[24 + 3 * turn].fret) for turn in range(8))
    frets = ", ".join(str(fret) for _, fret in group.starts)
    assert (
        group_place_words(group, score.tuning)
        == f"in threes eight times, against the beat, from frets {frets} of string 2"
    )
    lettered = Naming(StringNames.LETTERS, bends=BendNames.STEPS)
    assert group_place_words(group, score.tuning, lettered).endswith(f"from frets {frets} of B string")


def test_they_save_nothing_and_scripts_do_not_see_them() -> None:
    score = around(pulled_threes())
    found = patterns(score)
    assert not any(group.first >= 24 for group in found.groups)
    assert found.to_learn == patterns(replace(score)).to_learn


@pytest.mark.slow
def test_music_without_a_pattern_has_no_groups() -> None:
    """Steps drawn anew for each of thirty solos: at most one chance find in them all (four bits to spare)."""
    found = 0
    for seed in range(30):
        rng = np.random.default_rng(seed)
        notes = tuple(
            Note(at * 0.25, at * 0.25 + 0.2, int(rng.integers(1, 7)), int(rng.integers(1, 20))) for at in range(120)
        )
        found += len(patterns(Score(notes, beat_map=BeatMap.steady(120, 0.0))).outlines)
    assert found <= 1


@pytest.mark.parametrize("length", [24, 60])
def test_a_run_up_is_no_group(length: int) -> None:
    notes = tuple(
        Note(at * 0.25, at * 0.25 + 0.2, 6 - at * 6 // length, 3 + at % max(1, length // 6)) for at in range(length)
    )
    assert patterns(Score(notes, beat_map=BeatMap.steady(120, 0.0))).outlines == ()


def two_bar_phrases(count: int) -> Score:
    notes, phrases = [], []
    for number in range(count):
        begin_s = 4.0 * number
        notes += [Note(begin_s + at * 0.5, begin_s + at * 0.5 + 0.4, 2, 5 + (3 * at + number) % 7) for at in range(6)]
        phrases.append(Phrase(begin_s, begin_s + 3.9, f"Phrase {number + 1}"))
    return Score(tuple(notes), beat_map=BeatMap.steady(120, 0.0), phrases=tuple(phrases))


def test_phrases_of_two_bars_make_lines_of_four() -> None:
    """Four bars of 4/4 at 120 are 8 s: plain arithmetic."""
    lines = lines_of(two_bar_phrases(8))
    assert [line.start_s for line in lines] == [0.0, 8.0, 16.0, 24.0]
    assert [len(line.phrases) for line in lines] == [2, 2, 2, 2]
    assert lines[0].reasons == (BoundaryReason.FIRST,)
    assert [line.reasons[0] for line in lines[1:]] == [
        BoundaryReason.FOUR_BARS,
        BoundaryReason.EIGHT_BARS,
        BoundaryReason.FOUR_BARS,
    ]
    assert boundary_reason_words(lines[1].reasons).startswith("after four bars, after a rest")


def test_no_phrases_no_lines() -> None:
    assert lines_of(Score()) == ()
    assert len(phrases_of(two_bar_phrases(2))) == 2
