"""Second readings: stepping through them puts each in the place of the other and loses nothing."""

from dataclasses import replace

import numpy as np
import pytest

from notcher.core.formats.document.models import score_from_data, to_data
from notcher.core.hearing import draft
from notcher.core.score import Attack, Note, NoteAlternative, Score, bent_curve
from notcher.core.score.edits import read_otherwise
from notcher.core.words import reading_words

BEND = Note(1.0, 2.0, 2, 10, curve=bent_curve(2.0, 1.0), certainty=0.7, id="bend")
NEXT = Note(2.0, 3.0, 2, 12, id="next")
HAMMERED = NoteAlternative(
    0.25, 0.0, 1.0, (Note(0.0, 0.3, 2, 10, id="x"), Note(0.3, 1.0, 2, 12, Attack.HAMMER, id="y"))
)
PREBENT = NoteAlternative(0.05, 0.0, 1.0, (Note(0.0, 1.0, 2, 9, curve=bent_curve(3.0, 1.0), id="z"),))


@pytest.fixture
def score() -> Score:
    return Score().with_notes([replace(BEND, readings=(HAMMERED, PREBENT)), NEXT])


def test_a_bend_can_be_read_as_a_hammered_note(score: Score) -> None:
    found, index = read_otherwise(score, score.notes[0].id), 0
    assert [(note.onset_s, note.fret, note.attack) for note in found.notes] == [
        (1.0, 10, Attack.PICK), (1.3, 12, Attack.HAMMER), (2.0, 12, Attack.PICK),
    ]  # fmt: skip
    assert index == 0
    assert found.notes[0].id == BEND.id
    assert found.notes[2] is score.notes[1]


@pytest.mark.parametrize("step", [1, -1])
def test_stepping_through_all_readings_comes_back(score: Score, step: int) -> None:
    found, index, seen = score, 0, []
    for _ in range(3):
        found = read_otherwise(found, score.notes[0].id, step)
        index = found.position(score.notes[0].id)
        seen.append(found.notes)
        assert len(found.notes[index].readings) == 2
    assert seen[0] != seen[1] != seen[2] == score.notes
    assert [note.id for note in seen[2]] == [note.id for note in score.notes]
    assert found.notes[0].certainty == BEND.certainty


def test_a_step_back_undoes_a_step(score: Score) -> None:
    there = read_otherwise(score, score.notes[0].id)
    back = read_otherwise(there, score.notes[0].id, -1)
    assert back.notes == score.notes
    kept = back.notes[0].readings[0].notes
    assert [(note.fret, note.attack) for note in kept] == [(note.fret, note.attack) for note in HAMMERED.notes]
    assert [note.offset_s for note in kept] == pytest.approx([0.3, 1.0])


def test_a_note_that_a_person_put_there_stays(score: Score) -> None:
    there = read_otherwise(score, score.notes[0].id)
    by_hand = there.with_note(there.notes[1].id, fret=13, locked=True)
    back = read_otherwise(by_hand, score.notes[0].id, -1)
    assert by_hand.notes[1] in back.notes


def test_without_a_reading_it_is_said(score: Score) -> None:
    with pytest.raises(ValueError, match="nothing else was heard"):
        read_otherwise(score, score.notes[1].id)


def test_readings_are_kept_in_a_document(score: Score) -> None:
    found = score_from_data(to_data(score))
    assert found == score
    assert found.notes[0].readings == score.notes[0].readings


def test_a_reading_is_said_in_words(score: Score) -> None:
    words = [reading_words(reading, score.notes[0], score) for reading in score.notes[0].readings]
    assert words[0] == "picked, then 1 note more (25%)"
    assert words[1].startswith("picked, fret 9, bend 1½ steps")


@pytest.mark.slow
def test_a_draft_offers_what_it_doubts() -> None:
    """A step of the pitch with half an attack: whichever is written, the other is offered."""
    from lead_cases import make_case, render_case

    found = draft(render_case(make_case(102, length_s=15.0))).score
    offered = [note for note in found.notes if note.readings]
    assert offered
    for note in offered:
        chances = [reading.p for reading in note.readings]
        assert chances == sorted(chances, reverse=True)
        assert sum(chances) <= 1 - note.certainty + 1e-3
        assert chances[0] <= 0.5
        after = read_otherwise(found, note.id)
        index = after.position(note.id)
        assert after.notes[index].id == note.id
        assert len({other.id for other in after.notes}) == len(after.notes)
        assert np.all(np.diff([other.onset_s for other in after.notes]) >= 0)
