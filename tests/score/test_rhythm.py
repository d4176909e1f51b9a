"""Rhythm read as a person would: triplets wherever they begin, odd groups, no rest from a late finger."""

from fractions import Fraction

import numpy as np
import pytest

from notcher.core.score import BeatMap, Note, Score
from notcher.core.score.rhythm import DIVISIONS, GRIDS, TICKS, measured_swing, played_late_s, written_times
from notcher.core.words import count_word


def played(beats: list[Fraction], *, tempo: float = 90, jitter_s: float = 0.0, hold: float = 0.9) -> Score:
    """Notes on given beats, the last of them two beats long, each held for a share of the time to the next."""
    dice = np.random.default_rng(3)
    beat_map = BeatMap.steady(tempo, 0.5)
    times_s = beat_map.time_at(np.array([float(beat) for beat in [*beats, beats[-1] + 2]]))
    lengths_s = np.diff(times_s) * hold
    onsets_s = times_s[:-1] + dice.normal(0, jitter_s, len(beats))
    return Score((), beat_map=beat_map).with_notes(
        Note(float(a), float(a + b), 1, 5) for a, b in zip(onsets_s, lengths_s, strict=True)
    )


# A tuplet of n puts n equal notes in the time of the beat: the definition (E. Gould, "Behind Bars", 2011, ch. 7).
@pytest.mark.outside(
    what="what a tuplet is",
    source="E. Gould, Behind Bars, 2011, ch. 7",
    tolerance="exact",
    why="the definition",
    kind="derivation",
)
@pytest.mark.parametrize("count", [2, 3, 4, 5, 6, 7, 8])
def test_a_beat_of_equal_notes_is_divided_by_their_number(count: int) -> None:
    beats = [Fraction(beat) + Fraction(at, count) for beat in range(3) for at in range(count)] + [Fraction(3)]
    times = written_times(played(beats, tempo=60, jitter_s=0.004))
    assert [Fraction(time.onset, TICKS) for time in times] == beats
    assert [Fraction(time.length, TICKS) for time in times[:-1]] == [Fraction(1, count)] * (3 * count)


@pytest.mark.parametrize("jitter_s", [0.0, 0.006])
def test_triplets_may_begin_on_the_second_half_of_a_beat(jitter_s: float) -> None:
    half, third = Fraction(1, 2), Fraction(1, 3)
    beats = [Fraction(0), 1 + half, 1 + half + third, 1 + half + 2 * third, 2 + half, Fraction(3), Fraction(4)]
    times = written_times(played(beats, tempo=96, jitter_s=jitter_s))
    assert [Fraction(time.onset, TICKS) for time in times] == beats


def test_every_part_of_every_grid_is_a_whole_number_of_ticks() -> None:
    for grid in GRIDS:
        assert all(part * TICKS % DIVISIONS == 0 for part in grid.parts), grid.name
        assert len(set(grid.parts)) == len(grid.parts)


# Staccato halves the sound, not the written value (E. Gould, "Behind Bars", 2011, ch. 5).
def test_short_notes_of_a_run_are_written_whole() -> None:
    beats = [Fraction(at, 4) for at in range(8)] + [Fraction(2)]
    times = written_times(played(beats, hold=0.4))
    assert [Fraction(time.length, TICKS) for time in times[:-1]] == [Fraction(1, 4)] * 8


def test_a_late_finger_makes_no_rest_and_a_silence_does() -> None:
    beats = [Fraction(0), Fraction(2), Fraction(4)]
    assert [time.length for time in written_times(played(beats, hold=0.93))][:2] == [2 * TICKS] * 2
    assert [time.length for time in written_times(played(beats, hold=0.5))][:2] == [TICKS] * 2


@pytest.mark.parametrize("share", [0.6, 0.5])
def test_how_late_is_kept(share: float) -> None:
    late_s = share / 60
    score = played([Fraction(at) for at in range(8)])
    moved = score.with_note(score.notes[3].id, onset_s=score.notes[3].onset_s + late_s)
    assert written_times(moved)[3].onset == written_times(score)[3].onset
    assert played_late_s(moved)[3] == pytest.approx(late_s, abs=1e-6)


def test_an_even_hand_is_told_finer_than_a_loose_one() -> None:
    """At 168 beats a minute a third from the half beat lies 30 ms from a fourth: only an even hand tells it."""
    half, third = Fraction(1, 2), Fraction(1, 3)
    beats = [bar * 4 + half + at * third for bar in range(6) for at in range(6)]
    times = written_times(played(beats, tempo=168, jitter_s=0.003))
    assert [Fraction(time.onset, TICKS) for time in times] == beats
    assert count_word(times[0]) == "&"
    assert [count_word(time) for time in times[1:3]] == ["ta", "ta"]


# The swing ratio is the first eighth's length over the second's (Friberg and Sundstrom, Music Perception 19, 2002).
@pytest.mark.outside(
    what="the swing ratio",
    source="A. Friberg, A. Sundström, Music Perception 19, 2002: first eighth over second",
    tolerance="0.02",
    why="planted scatter of the onsets",
    kind="derivation",
)
@pytest.mark.parametrize("ratio", [1.0, 1.5, 2.0, 2.5])
def test_how_far_a_stretch_swings_is_measured(ratio: float) -> None:
    share = ratio / (ratio + 1)
    beats = [Fraction(beat) + part for beat in range(8) for part in (Fraction(0), Fraction(share))]
    score = played(beats, jitter_s=0.004)
    assert measured_swing(score, 0.0, 8.0) == pytest.approx(share, abs=0.02)
    assert measured_swing(score, 0.0, 2.0) is None, "two beats tell nothing"


def test_triplets_do_not_swing() -> None:
    assert measured_swing(played([Fraction(at, 3) for at in range(24)]), 0.0, 8.0) is None
