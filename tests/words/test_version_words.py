"""In what two versions differ, in words."""

from dataclasses import replace

import pytest

from notcher.core.proving import Differs, Version, compared
from notcher.core.score import BeatMap, Note, Score, bent_curve
from notcher.core.words import comparison_words, difference_words

FRETS = [5, 8, 5, 7, 8, 10, 8, 7, 5, 8, 7, 5]


def line(*frets: int) -> Score:
    notes = tuple(Note(0.5 * at, 0.5 * at + 0.4, 2, fret) for at, fret in enumerate(frets))
    return Score(notes, beat_map=BeatMap.steady(120, 0.0))


@pytest.mark.parametrize(
    ("other", "kind", "words"),
    [([*FRETS[:4], 9, *FRETS[5:]], Differs.PITCH, ("string 2, fret 8", "string 2, fret 9")),
     ([*FRETS[:5], *FRETS[6:]], Differs.LEFT_OUT, ("string 2, fret 10",))],
)  # fmt: skip
def test_a_difference_names_both_places(other: list[int], kind: Differs, words: tuple[str, ...]) -> None:
    first, second = line(*FRETS), line(*other)
    if kind is Differs.LEFT_OUT:
        second = line(*FRETS).without([line(*FRETS).notes[5].id])
        second = Score(tuple(note for at, note in enumerate(line(*FRETS).notes) if at != 5), beat_map=first.beat_map)
    comparison = compared(Version(first), Version(second))
    assert [difference.kind for difference in comparison.differences] == [kind]
    said = difference_words(comparison.differences[0], comparison)
    for word in words:
        assert word in said
    assert "1" in comparison_words(comparison) or "one" in comparison_words(comparison).lower()


def test_another_bend_is_told_on_both_sides() -> None:
    first = line(*FRETS)
    notes = list(first.notes)
    notes[4] = replace(notes[4], curve=bent_curve(2, 0.4))
    comparison = compared(Version(first), Version(replace(first, notes=()).with_notes(notes)))
    assert [difference.kind for difference in comparison.differences] == [Differs.BEND]
    said = difference_words(comparison.differences[0], comparison)
    assert "here" in said
    assert "bent" in said or "bend" in said
