"""Sections over phrases, marks of like phrases, and cutting itself against trying every way to cut."""

from dataclasses import replace
from itertools import combinations, pairwise

import numpy as np
import pytest

from notcher.core.patterns import boundaries, patterns, phrase_marks, phrases_of, sections_of
from notcher.core.patterns.cutting import best_cuts
from notcher.core.patterns.marks import _letter
from notcher.core.patterns.sections import OF_BOUNDARY, ON_EIGHT, ON_FOUR, _beginnings, _near
from notcher.core.score import BeatMap, Note, Phrase, Score
from notcher.core.words import boundary_words, section_words

VERSE = (7, 9, 10, 9, 7, 5, 7, 9)
BRIDGE = (12, 14, 15, 17, 15, 12, 14, 10)


# The whole space is small enough to be searched.
@pytest.mark.parametrize("seed", range(8))
def test_no_way_to_cut_is_better(seed: int) -> None:
    table = np.random.default_rng(seed).normal(size=(10, 10))

    def total(cuts: list[int]) -> float:
        edges = [0, *cuts, 9]
        return sum(float(table[a, b]) for a, b in pairwise(edges))

    found = best_cuts(9, lambda end: table[:end, end])
    every = (list(cuts) for size in range(9) for cuts in combinations(range(1, 9), size))
    assert total(found) == pytest.approx(max(total(cuts) for cuts in every))


def form(*parts: tuple[int, ...]) -> Score:
    """Each part eight bars of 4/4: four phrases of two bars, notes and a rest, on strings of their own."""
    notes, phrases = [], []
    for number, frets in enumerate(parts):
        for line in range(4):
            begin_s = (number * 32 + line * 8) / 2
            for at, fret in enumerate(frets):
                onset_s = begin_s + at / 2 * 0.75
                notes.append(Note(onset_s, onset_s + 0.35, 1 + line, fret + (at * line) % 3))
            phrases.append(Phrase(begin_s, begin_s + 3.5, f"Line {len(phrases) + 1}"))
    return Score(tuple(notes), beat_map=BeatMap.steady(120, 0.0), phrases=tuple(phrases))


def test_eight_bars_are_a_section_and_the_same_again_says_so() -> None:
    score = form(VERSE, BRIDGE, VERSE)
    found = sections_of(score, patterns(score))
    assert [round(proposed.section.start_s, 3) for proposed in found] == [0.0, 16.0, 32.0]
    first, other, again = (proposed.section for proposed in found)
    assert (first.repeats, other.repeats) == ("", "")
    assert again.repeats == first.id
    assert section_words(found) == "Part 3 as part 1"
    assert replace(score, sections=tuple(proposed.section for proposed in found)).sections[2].repeats == first.id


def test_another_ending_of_a_section_is_said() -> None:
    score = form(VERSE, BRIDGE, VERSE)
    own = score.with_notes(
        replace(note, fret=note.fret + 3) if index >= len(score.notes) - 3 else note
        for index, note in enumerate(score.notes)
    )
    assert section_words(sections_of(own, patterns(own))) == "Part 3 as part 1, with another ending"


def test_one_phrase_is_no_form() -> None:
    score = form(VERSE)
    assert sections_of(replace(score, phrases=score.phrases[:1]), patterns(score)) == ()


def test_like_phrases_have_the_same_letter() -> None:
    score = form(VERSE, BRIDGE, VERSE)
    marks = phrase_marks(score, patterns(score))
    lines = [marks.get(phrase.id, "") for phrase in score.phrases]
    assert lines[:4] == lines[8:]
    assert all(lines[:4])
    assert not set(lines[4:8]) & set(lines[:4]) - {""}


def test_why_phrases_begin_is_counted() -> None:
    score = replace(form(VERSE), phrases=())
    assert len(phrases_of(score)) == 4
    assert boundary_words(boundaries(score)) == "3 after a rest"


def test_eight_bars_before_it_make_a_beginning_likelier_than_four() -> None:
    score = form(VERSE, VERSE)
    parts = score.phrases
    worth, _ = _beginnings(score, parts)
    cuts = boundaries(score)
    on_bars = []
    for at, part in enumerate(parts):
        near = _near(score, cuts, part.start_s)
        on_bars.append(worth[at] - (OF_BOUNDARY * near.worth if near is not None else 0.0))
    # a part every two bars: 0, 2, 4 … 14
    expected = [ON_FOUR + ON_EIGHT, 0, ON_FOUR, 0] * 2
    assert on_bars == pytest.approx(expected)


def test_letters_go_on_after_z() -> None:
    assert [_letter(at) for at in (0, 25, 26, 27, 52)] == ["A", "Z", "AA", "BB", "AAA"]
