"""Written time as note values: bars that add up, ties, tuplets, beams, two voices."""

import itertools
from fractions import Fraction

import numpy as np
import pytest
from music21 import duration as m21_duration
from music21 import meter as m21_meter

from made_scores import METERS, any_score
from notcher.core.score import FOUR_FOUR, BeatMap, Meter, Note, Score
from notcher.core.score.notation import NAMES, Bar, NotatedPiece, beam_edges, value_of, written_bars
from notcher.core.score.rhythm import TICKS


def steady(*spans: tuple[float, float], meter: Meter = FOUR_FOUR, string: int = 2, pickup: float = 0.0) -> Score:
    """A solo at 60 felt quarters a minute: spans are seconds, which are quarters."""
    beats = BeatMap.steady(60 / meter.beat_quarters, 0.0, meter, pickup=pickup)
    notes = [Note(start + 8.0, end + 8.0, string, 5) for start, end in spans]
    return Score(tuple(notes), beat_map=beats.moved(8.0))


def m21(piece: NotatedPiece) -> m21_duration.Duration:
    """A written value as music21 has it."""
    value = piece.value
    names = {"64th": "64th", "128th": "128th", "256th": "256th"} | {name: name for name in NAMES}
    made = m21_duration.Duration(type=names[value.name], dots=value.dots)
    if value.kind != (1, 1):
        made.appendTuplet(m21_duration.Tuplet(value.kind[0], value.kind[1]))
    return made


@pytest.mark.slow
@pytest.mark.outside(
    what="written values of a bar add up to its meter",
    source="music21 (M. Cuthbert, C. Ariza, ISMIR 2010)",
    tolerance="exact",
    why="fractions of a quarter",
    kind="library",
)
@pytest.mark.parametrize("seed", range(16))
def test_the_values_of_each_bar_add_up_to_its_meter(seed: int) -> None:
    """Against music21's durations and its meters' bar lengths: the main voice fills each bar to the last tick."""
    score = any_score(seed)
    for bar in written_bars(score):
        told = m21_meter.TimeSignature(str(bar.meter)).barDuration.quarterLength
        assert Fraction(bar.end - bar.start, TICKS) == told or bar.implicit
        if any(value_of(piece.length).name == "256th" for piece in bar.pieces):
            continue  # a length that no value has, drawn as the smallest and told exactly
        if bar.pieces[0].whole_bar:
            continue
        total = sum((Fraction(m21(piece).quarterLength) for piece in bar.pieces), Fraction(0))
        assert total == Fraction(bar.end - bar.start, TICKS), bar


@pytest.mark.slow
@pytest.mark.parametrize("seed", range(12))
def test_every_note_is_written_once_and_tied_pieces_join(seed: int) -> None:
    score = any_score(seed)
    bars = written_bars(score)
    struck = [index for bar in bars for voice in bar.voices for piece in voice if not piece.tied_from
              for index in piece.indices]  # fmt: skip
    assert sorted(struck) == list(range(len(score.notes)))
    for voice in (0, 1):
        pieces = [piece for bar in bars for piece in (bar.pieces if voice == 0 else bar.second)]
        for before, after in itertools.pairwise(pieces):
            assert before.end <= after.start
            if before.tied_to:
                assert after.tied_from
                assert (after.start, after.indices) == (before.end, before.indices)


def test_a_note_over_a_bar_line_is_two_values_with_a_tie() -> None:
    first, second = written_bars(steady((3.0, 5.0), (5.0, 6.0)))
    assert [(piece.value.name, piece.tied_to) for piece in first.pieces if not piece.rest] == [("quarter", True)]
    assert [(p.value.name, p.tied_from) for p in second.pieces if not p.rest] == [("quarter", True), ("quarter", False)]


def test_six_in_a_beat_are_one_tuplet_and_three_another() -> None:
    """Six even notes in a quarter are written 16ths under a 6, three are eighths under a 3 (common practice)."""
    six = steady(*((at / 6, (at + 1) / 6) for at in range(6)), *((1 + at / 3, 1 + (at + 1) / 3) for at in range(3)))
    (bar,) = written_bars(six)
    assert bar.tuplets == (6, 3)
    assert [piece.value.name for piece in bar.pieces[:9]] == ["16th"] * 6 + ["eighth"] * 3
    assert {piece.tuplet for piece in bar.pieces[:6]} == {0}


def test_a_note_held_under_others_has_a_voice_of_its_own() -> None:
    """One string rings for four quarters while another plays four: two voices, the higher one with its stems up."""
    notes = [Note(8.0, 12.0, 1, 12), *(Note(8.0 + at, 9.0 + at, 3, 5 + at) for at in range(4))]
    score = Score(tuple(sorted(notes, key=lambda n: (n.onset_s, n.string))), beat_map=BeatMap.steady(60, 8.0))
    (bar,) = written_bars(score)
    (held,) = bar.second
    assert (held.value.name, held.up, held.indices) == ("whole", True, (0,))
    assert all(piece.up is False for piece in bar.pieces if not piece.rest)


def test_without_voices_a_note_ends_where_the_next_begins() -> None:
    notes = (Note(8.0, 12.0, 1, 12), Note(9.0, 10.0, 3, 5), Note(10.0, 11.0, 3, 7), Note(11.0, 12.0, 3, 5))
    (bar,) = written_bars(Score(notes, beat_map=BeatMap.steady(60, 8.0)), voices=False)
    assert not bar.second
    assert [piece.length for piece in bar.pieces] == [TICKS] * 4


@pytest.mark.parametrize("meter", METERS, ids=str)
def test_beams_end_with_the_bar(meter: Meter) -> None:
    edges = beam_edges(meter)
    assert edges[-1] == round(meter.quarters * TICKS)
    assert all(np.diff([0, *edges]) > 0)


@pytest.mark.parametrize(
    ("meter", "groups"),
    [(Meter(6, 8), [3, 3]), (Meter(3, 4), [2, 2, 2]), (Meter(5, 8), [3, 2]), (Meter(7, 8), [2, 2, 3])],
    ids=str,
)
def test_eighths_are_beamed_by_the_felt_beat(meter: Meter, groups: list[int]) -> None:
    """Compound bars in threes, simple ones by the quarter, odd ones in twos and threes (common practice, no source)."""
    count = sum(groups)
    score = steady(*((at / 2, (at + 1) / 2) for at in range(count)), meter=meter)
    (bar,) = written_bars(score)
    beams = [piece.beam for piece in bar.pieces]
    assert [beams.count(beam) for beam in dict.fromkeys(beams)] == groups


def test_a_pickup_bar_is_as_long_as_its_pickup() -> None:
    score = steady((-1.0, 0.0), (0.0, 1.0), pickup=1.0)
    bars: tuple[Bar, ...] = written_bars(score)
    assert (bars[0].number, bars[0].implicit, bars[0].end - bars[0].start) == (0, True, TICKS)
