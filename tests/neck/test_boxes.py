"""Boxes of scales, numbered, and the one a phrase is played in."""

from notcher.core.neck import box_of, boxes
from notcher.core.score import Note, Tuning
from notcher.core.theory import LikelyScale
from notcher.core.words import box_words


# Box 1 of the minor pentatonic has its root under the first finger on the lowest string: in A at fret 5, frets 5 and 8
# there, 5 and 7 on the next three, 5 and 8 on the highest two (common practice, no source: every method book's first).
def test_the_first_box_of_a_minor_is_at_the_fifth_fret() -> None:
    scale = LikelyScale(9, "minor pentatonic", 1.0)
    first = next(box for box in boxes(scale, Tuning()) if box.hand == 5)
    assert first.number == 1
    assert first.frets == ((5, 8), (5, 8), (5, 7), (5, 7), (5, 7), (5, 8))
    notes = [Note(at / 4, at / 4 + 0.2, 1 + at % 3, 5 + 3 * (at % 2 == 0 and at % 3 != 2)) for at in range(12)]
    assert box_of(notes, scale, Tuning()) == first
    assert box_words(first) == "box 1, fret 5"


def test_what_lies_in_no_box_has_none() -> None:
    scale = LikelyScale(9, "minor pentatonic", 1.0)
    assert box_of([], scale, Tuning()) is None
    assert box_of([Note(0, 1, 1, 0)], scale, Tuning()) is None
    wide = [Note(at, at + 0.9, 1, fret) for at, fret in enumerate((1, 6, 11, 14, 19, 22))]
    assert box_of(wide, scale, Tuning()) is None


def test_the_blue_note_makes_no_box_of_its_own() -> None:
    """Blues boxes are the minor pentatonic's (common practice, no source); in A the blue note is D sharp."""
    blues, plain = LikelyScale(9, "blues", 1.0), LikelyScale(9, "minor pentatonic", 1.0)
    assert boxes(blues, Tuning()) == boxes(plain, Tuning())
