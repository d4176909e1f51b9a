"""What comes again: shapes by their kind, how few notes are left to learn, and that every claim holds when played out.

The kinds are translations of sets of points (D. Meredith, K. Lemström and G. A. Wiggins, JNMR 31, 2002); the expected
moves are plain arithmetic on strings and frets.
"""

from dataclasses import replace
from fractions import Fraction
from itertools import combinations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from notcher.core.errors import Cancelled
from notcher.core.patterns import Kind, Patterns, patterns
from notcher.core.patterns.events import events_of
from notcher.core.patterns.repeats import moved_cells
from notcher.core.score import BeatMap, Note, Score, bent_curve
from notcher.core.words import group_words, shape_words, statement
from notcher.demo import demo_score

LICK = [(1, 2, 8), (1, 2, 10), (2, 3, 9), (1, 2, 8), (3, 3, 7), (2, 3, 9), (1, 4, 10)]
"""(eighths, string, fret)."""
OTHER = [(2, 4, 12), (1, 3, 12), (3, 5, 10), (1, 4, 7), (2, 2, 13), (1, 3, 14), (2, 5, 12)]
Row = tuple[int, int, int]


def solo(*licks: list[Row], rest: int = 4, tempo: float = 120, begin_s: float = 0.5) -> Score:
    """Licks one after the other with rests of so many eighths between them."""
    notes, at, eighth_s = [], 0, 30.0 / tempo
    for lick in licks:
        for length, string, fret in lick:
            start_s = begin_s + at * eighth_s
            notes.append(Note(start_s, start_s + 0.92 * length * eighth_s, string, fret))
            at += length
        at += rest
    return Score(tuple(notes), beat_map=BeatMap.steady(tempo, begin_s))


def moved(lick: list[Row], *, strings: int = 0, frets: int = 0) -> list[Row]:
    return [(length, string + strings, fret + frets) for length, string, fret in lick]


def kinds(found: Patterns) -> list[Kind]:
    return [shape.kind for shape in found.shapes]


# --- one kind each ---
def test_a_lick_that_comes_again_is_learned_once() -> None:
    found = patterns(solo(LICK, OTHER, LICK))
    assert kinds(found) == [Kind.EXACT]
    first, again = found.shapes[0].occurrences
    assert (first.first, first.last, again.first, again.last) == (0, 6, 14, 20)
    assert (found.count, found.to_learn) == (21, 14)
    assert shape_words(found.shapes[0]) == "the same"
    assert statement(found) == "Learn 14 notes, get 21."


@pytest.mark.parametrize("frets", [2, -3, 5])
def test_along_the_neck(frets: int) -> None:
    found = patterns(solo(LICK, OTHER, moved(LICK, frets=frets)))
    assert kinds(found) == [Kind.ALONG_NECK]
    again = found.shapes[0].occurrences[1]
    assert (again.frets, again.strings, again.semitones) == (frets, 0, frets)


def test_across_strings_keeping_what_sounds() -> None:
    """From strings 3 and 4 to 2 and 3 a fourth up: between strings 3 and 2 lie four frets, elsewhere five."""
    low = [(1, 4, 7), (1, 4, 9), (2, 3, 7), (1, 4, 7), (3, 3, 9), (2, 3, 7), (1, 4, 10)]
    high = [(length, string - 1, fret + (1 if string == 3 else 0)) for length, string, fret in low]
    found = patterns(solo(low, OTHER, high))
    again = found.shapes[0].occurrences[1]
    assert found.shapes[0].kind is Kind.ACROSS_STRINGS
    assert (again.strings, again.semitones, again.frets) == (-1, 5, None)
    assert shape_words(found.shapes[0]) == "the same, one string higher, sounding the same shape"


def test_across_strings_keeping_the_frets() -> None:
    low = [(1, 5, 7), (1, 5, 9), (2, 4, 7), (1, 5, 7), (3, 4, 9), (2, 3, 7), (1, 4, 10)]
    found = patterns(solo(low, OTHER, moved(low, strings=-1)))
    again = found.shapes[0].occurrences[1]
    assert (found.shapes[0].kind, again.strings, again.frets) == (Kind.ACROSS_STRINGS, -1, 0)
    assert again.semitones is None, "the interval from string to string is not even"


def test_an_octave_above_on_other_strings() -> None:
    low = [(1, 6, 5), (1, 6, 8), (2, 5, 5), (1, 5, 7), (3, 6, 8), (2, 5, 5), (1, 4, 5)]
    high = [(1, 4, 7), (1, 4, 10), (2, 3, 7), (1, 3, 9), (3, 4, 10), (2, 3, 7), (1, 2, 8)]
    found = patterns(solo(low, OTHER, high))
    again = found.shapes[0].occurrences[1]
    assert (found.shapes[0].kind, again.semitones) == (Kind.OCTAVE, 12)
    assert shape_words(found.shapes[0]) == "the same, an octave above"


@pytest.mark.parametrize(("frets", "says"), [(0, "the same with another ending"), (2, ", with another ending")])
def test_another_ending(frets: int, says: str) -> None:
    ending = [(2, 1, 8), (4, 1, 12)]
    found = patterns(solo(LICK, OTHER, [*moved(LICK[:5], frets=frets), *ending]))
    shape = found.shapes[0]
    assert (shape.kind, shape.notes) == (Kind.OTHER_ENDING, 5)
    first, again = shape.occurrences
    assert (first.first, first.last, again.first, again.last) == (0, 6, 14, 20), "whole playings"
    assert (first.but, again.but) == ((5, 6), (19, 20))
    assert again.frets == frets
    assert shape_words(shape).endswith(says)


def test_another_beginning_says_so() -> None:
    found = patterns(solo(LICK, OTHER, [(2, 1, 8), (1, 1, 12), *LICK[2:]]))
    assert found.shapes[0].kind is Kind.OTHER_ENDING
    assert shape_words(found.shapes[0]) == "the same with another beginning"


def test_a_cell_is_its_smallest_turn() -> None:
    cell = [(1, 2, 12), (1, 2, 8), (1, 3, 10)]
    found = patterns(solo(cell * 4, OTHER, rest=3))
    assert [shape.kind for shape in found.shapes] == [Kind.CELL]
    assert [(at.first, at.last) for at in found.shapes[0].occurrences] == [(0, 2), (3, 5), (6, 8), (9, 11)]
    assert found.to_learn == 19 - 9
    (group,) = found.groups
    assert (group.first, group.last, group.size, group.count) == (0, 11, 3, 4)
    assert group.beats == pytest.approx(Fraction(3, 2)), "threes in eighths: against the beat"
    assert group_words(group) == "in threes four times"


def test_a_sequence_goes_down_the_scale() -> None:
    """Fours down C major: each turn begins one step lower, though the semitones differ from turn to turn."""
    scale = [(2, 13), (2, 12), (2, 10), (2, 8), (3, 10), (3, 9), (3, 7), (4, 10), (4, 9), (4, 7)]
    turns = [(1, *scale[start + step]) for start in range(6) for step in (0, 1, 3, 2)]
    found = patterns(solo(turns))
    shape = found.shapes[0]
    assert (shape.kind, shape.steps, len(shape.occurrences)) == (Kind.SEQUENCE, -1, 6)
    assert shape_words(shape) == "a figure of 4 notes, six times: each turn starts one scale step lower"
    assert found.to_learn == 4


def test_a_run_is_no_sequence_and_a_repeated_note_no_cell() -> None:
    run = [(1, 3, fret) for fret in (5, 7, 9)] + [(1, 2, fret) for fret in (6, 8, 10)] + [(1, 1, f) for f in (7, 8, 10)]
    assert patterns(solo(run)).groups == ()
    assert patterns(solo([(1, 2, 8)] * 12)).groups == ()


def test_the_same_rhythm_with_other_notes_saves_nothing() -> None:
    lengths = [1, 2, 1, 3, 1, 1, 4, 2, 1]
    first = [(length, 2 + at % 2, 5 + at) for at, length in enumerate(lengths)]
    other = [(length, 4 - at % 3, 12 - at) for at, length in enumerate(lengths)]
    found = patterns(solo(first, other))
    rhythms = [shape for shape in found.shapes if shape.kind is Kind.RHYTHM]
    assert rhythms
    assert all(shape.saves == 0 for shape in rhythms)
    assert found.to_learn == found.count


# --- tolerance ---
def test_one_note_more_is_said_and_the_rest_is_still_the_same() -> None:
    garnished = [*LICK[:3], (1, 1, 8), *LICK[3:]]
    garnished[2] = (1, *garnished[2][1:])  # the garnish takes half of the note before it
    found = patterns(solo(LICK, OTHER, garnished))
    again = found.shapes[0].occurrences[1]
    assert again.but == (17,)
    assert len(again.pairs) >= 6


@pytest.mark.parametrize("seed", range(5))
def test_hands_that_are_20_ms_off_hide_nothing(seed: int) -> None:
    dice = np.random.default_rng(seed)
    score = solo(LICK, OTHER, moved(LICK, frets=2))
    loose = score.with_notes(
        replace(note, onset_s=max(0.0, note.onset_s + float(dice.uniform(-0.02, 0.02)))) for note in score.notes
    )
    assert patterns(loose).to_learn == 14


def test_what_is_bent_elsewhere_is_not_the_same_note() -> None:
    score = solo(LICK, OTHER, LICK)
    bent = score.with_note(score.notes[17].id, curve=bent_curve(2.0, score.notes[17].duration_s))
    again = patterns(bent).shapes[0].occurrences[1]
    assert 17 in again.but


# --- the statement ---
def played_out(score: Score, found: Patterns) -> None:
    """Every reference, followed: the note it leads to, moved as is said, is the note."""
    events = events_of(score)
    for shape in found.shapes:
        if shape.kind is Kind.RHYTHM:
            continue
        for again in shape.occurrences[1:]:
            for earlier, later in again.pairs:
                assert earlier < later, "a reference leads back"
                for value, by in (
                    (events.fret, again.frets),
                    (events.string, again.strings),
                    (events.midi, again.semitones),
                ):
                    assert by is None or value[later] - value[earlier] == by
                assert events.gesture[later] == events.gesture[earlier]


@pytest.mark.slow
@settings(max_examples=60, deadline=None)
@given(st.lists(st.tuples(st.sampled_from([1, 2, 3]), st.integers(1, 4), st.integers(5, 9)), min_size=2, max_size=40))
def test_every_statement_holds_when_it_is_played_out(rows: list[Row]) -> None:
    score = solo(rows, rows[: len(rows) // 2], rows)
    found = patterns(score)
    played_out(score, found)
    assert found.to_learn == found.count - len(found.explained)
    assert sum(shape.saves for shape in found.shapes) == found.count - found.to_learn
    for shape in found.shapes:
        assert len(shape.occurrences) > 1
        for at in shape.occurrences:
            inside = {later for _, later in at.pairs}
            assert set(at.but) == set(range(at.first, at.last + 1)) - inside


def test_the_demo_holds_when_it_is_played_out() -> None:
    demo = demo_score()
    found = patterns(demo)
    played_out(demo, found)
    assert found.to_learn < found.count


def test_no_choice_of_the_said_shapes_leaves_fewer_notes() -> None:
    """Brute force: of all subsets of the shapes the whole set explains most, and none of them is superfluous."""
    found = patterns(solo(LICK, OTHER, LICK, moved(LICK, frets=2), OTHER[:6]))
    sets = [shape.explained for shape in found.shapes if shape.kind is not Kind.RHYTHM]
    best = max(len(frozenset().union(*chosen)) for size in range(len(sets) + 1) for chosen in combinations(sets, size))
    assert found.count - found.to_learn == best
    for left_out in range(len(sets)):
        others = frozenset().union(*(explained for at, explained in enumerate(sets) if at != left_out))
        assert len(others) < best


# --- what is no solo ---
@pytest.mark.parametrize("beats", [True, False])
@pytest.mark.parametrize("count", [0, 1, 2, 3])
def test_few_notes_are_no_trouble(count: int, beats: bool) -> None:
    score = Score(tuple(Note(at, at + 0.5, 2, 5 + at) for at in range(count)))
    score = replace(score, beat_map=BeatMap.steady(120, 0.0)) if beats else score
    found = patterns(score)
    assert (found.count, found.to_learn, found.shapes) == (count, count, ())


def test_overlapping_notes_and_no_beats() -> None:
    notes = solo(LICK, OTHER, LICK).notes
    doubled = Score(()).with_notes([*notes, *(replace(note, string=1, fret=12, id="") for note in notes)])
    assert patterns(doubled).to_learn < doubled.notes.__len__()


def test_it_can_be_stopped() -> None:
    score = solo(*[LICK, OTHER] * 12)
    with pytest.raises(Cancelled):
        patterns(score, cancelled=lambda: True)


def test_every_note_of_a_cell_that_moves_has_its_like_in_the_first() -> None:
    cell = [60, 63, 65, 64]
    line = [midi + 2 * turn for turn in range(3) for midi in cell]
    assert moved_cells([50, *line]) == {1 + at: 1 + at % 4 for at in range(4, 12)}
    assert moved_cells(line[:8]) == {}, "twice is no cell"
