"""Phrases are cut where a listener cuts them, and each cut says why.

That a rest, a long note and a bar line end phrases, and that equal beginnings are heard as beginnings: the gap rule,
the metrical parallelism and the length rule of D. Temperley, "The Cognition of Basic Musical Structures", 2001, ch. 3.
"""

from dataclasses import replace

import pytest

from notcher.core.patterns import BoundaryReason, boundaries, phrases_of
from notcher.core.patterns.phrasing import strokes
from notcher.core.score import BeatMap, Note, Score


def line(*lengths: float, rests: dict[int, float] | None = None, beats: bool = True) -> Score:
    """Notes one after the other, lengths in beats at 120 a minute; rests: beats of silence before a note."""
    notes, at = [], 0.0
    for index, length in enumerate(lengths):
        at += (rests or {}).get(index, 0.0) / 2
        notes.append(Note(at, at + length / 2, 2, 5 + index % 5))
        at += length / 2
    return Score(tuple(notes), beat_map=BeatMap.steady(120, 0.0) if beats else BeatMap())


def begins(score: Score) -> list[int]:
    return [boundary.first for boundary in boundaries(score)]


@pytest.mark.parametrize("beats", [True, False])
def test_a_rest_ends_a_phrase_and_says_so(beats: bool) -> None:
    score = line(*[0.5] * 16, rests={8: 1.0}, beats=beats)
    assert begins(score) == [0, 8]
    assert boundaries(score)[1].reasons[0] is BoundaryReason.REST


def test_a_long_note_ends_a_phrase_without_any_rest() -> None:
    score = line(*[0.5] * 7, 4.5, *[0.5] * 8)
    assert begins(score) == [0, 8]
    assert BoundaryReason.LONG_NOTE in boundaries(score)[1].reasons


def test_where_something_begins_again_a_phrase_begins() -> None:
    lick = [(3, 7), (3, 9), (2, 8), (2, 10), (1, 8), (1, 10), (2, 10), (3, 9)]
    bridge = [(1, 12), (2, 13), (3, 11), (4, 12), (2, 11), (1, 9), (3, 12), (4, 14)]
    places = [*lick, *bridge, *lick]
    score = Score(
        tuple(Note(at / 4, at / 4 + 0.25, string, fret) for at, (string, fret) in enumerate(places)),
        beat_map=BeatMap.steady(120, 0.0),
    )
    assert 16 in begins(score)
    assert BoundaryReason.AGAIN in next(found for found in boundaries(score) if found.first == 16).reasons


def test_staccato_is_no_breath_and_one_long_note_may_be_a_phrase() -> None:
    short = line(*[0.25] * 12, rests=dict.fromkeys(range(1, 12), 0.2))
    assert begins(short) == [0]
    assert begins(line(*[0.5] * 8, 4.0, rests={8: 3.0})) == [0, 8]


def test_what_is_struck_together_is_never_torn() -> None:
    single = line(*[0.5] * 16, rests={8: 1.0})
    doubled = single.with_notes([*single.notes, *(replace(n, string=1, id="") for n in single.notes)])
    assert strokes(doubled.notes).tolist() == list(range(0, 32, 2))
    assert begins(doubled) == [0, 16]


def test_phrases_hold_every_note_once_and_nothing_is_no_phrase(lick: Score) -> None:
    found = phrases_of(replace(lick, phrases=()))
    assert [round(phrase.start_s, 1) for phrase in found] == [0.5, 3.5]
    assert sum(len(lick.notes_of(phrase)) for phrase in found) == len(lick.notes)
    assert phrases_of(Score()) == ()
    assert boundaries(Score()) == ()


@pytest.mark.slow
def test_ten_thousand_equal_notes_are_cut_into_even_phrases() -> None:
    notes = tuple(Note(at / 8, at / 8 + 0.12, 2, 5) for at in range(10_000))
    found = phrases_of(Score(notes, beat_map=BeatMap.steady(120, 0.0)))
    assert 100 < len(found) < 5_000
