"""A bend between the sizes is written as it was measured, and doubted."""

import pytest

from notcher.core.hearing import draft
from notcher.core.score import DoubtKind, Note, Score, bent_curve
from notcher.core.synthesis import render
from notcher.core.words import bend_name, doubt_words


# Quarters of a step are 50 cents; listeners accept 10 to 15 cents (common practice, no source).
@pytest.mark.parametrize(
    ("semitones", "written", "doubted"), [(1.75, "17", True), (2.0, "1", False), (1.5, "¾", False)]
)
def test_what_lies_between_the_sizes_is_written_in_cents(semitones: float, written: str, doubted: bool) -> None:
    notes: list[Note] = []
    for start_s in (0.5, 3.5, 6.5):  # what is not bent tells how the guitar is tuned
        notes += [Note(start_s + 0.4 * at, start_s + 0.4 * at + 0.35, 2, fret) for at, fret in enumerate((10, 12, 13))]
        notes.append(Note(start_s + 1.2, start_s + 2.3, 2, 12, curve=bent_curve(semitones, 1.1)))
    heard = draft(render(Score(tuple(notes)), duration_s=9.5)).score
    bends = [note for note in heard.notes if note.bent]
    assert len(bends) == 3
    for note in bends:
        name = bend_name(note.reading.bend_semitones)
        assert name.startswith(written)
        assert ("¢" in name) == doubted
        is_between = note.doubt is not None and note.doubt.kind is DoubtKind.BETWEEN_SIZES
        assert is_between == doubted
        if note.doubt is not None and doubted:
            assert doubt_words(note.doubt, heard.tuning).endswith("between ¾ and 1 step")
