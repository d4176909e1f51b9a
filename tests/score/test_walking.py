"""From note to note, by ids; times and strings are written out so that each step can be read off."""

from dataclasses import replace

import pytest

from notcher.core.score import BeatMap, Note, Phrase, Score
from notcher.core.score.doubt import BY_HAND
from notcher.core.score.selection import NO_SELECTION, Selection
from notcher.core.score.walking import from_next_beat, in_next_phrase, next_doubtful, note_beside, on_other_string

STRINGS = (3, 2, 2, 4, 1, 3)
SCORE = Score(
    tuple(Note(0.4 * at, 0.4 * at + 0.3, string, 7) for at, string in enumerate(STRINGS)),
    beat_map=BeatMap.steady(60, 0.0),
    phrases=(Phrase(0.0, 0.8), Phrase(0.8, 1.6), Phrase(1.6, 2.4)),
)
IDS = [note.id for note in SCORE.notes]


def index(note_id: str) -> int:
    return IDS.index(note_id)


def test_one_further_and_no_further_than_the_ends() -> None:
    assert [index(note_beside(SCORE, IDS[2], by)) for by in (1, -1, 3, 9, -9)] == [3, 1, 5, 5, 0]
    assert note_beside(SCORE, "gone", 1) == IDS[0]
    assert note_beside(Score(), "", 1) == ""


def test_by_phrase() -> None:
    assert [index(in_next_phrase(SCORE, IDS[at], 1)) for at in range(6)] == [2, 2, 4, 4, 4, 5]
    assert [index(in_next_phrase(SCORE, IDS[at], -1)) for at in range(6)] == [0, 0, 0, 2, 2, 4]
    assert in_next_phrase(replace(SCORE, phrases=()), IDS[3], 1) == IDS[3]


def test_by_beat() -> None:
    """Beats at 0, 1 and 2 s; notes every 0.4 s."""
    assert [index(from_next_beat(SCORE, IDS[at], 1)) for at in (0, 2, 3)] == [3, 3, 5]
    assert [index(from_next_beat(SCORE, IDS[at], -1)) for at in (5, 4, 3, 1)] == [3, 3, 3, 0]
    early = SCORE.with_note(IDS[2], onset_s=0.97, offset_s=1.1)
    assert index(from_next_beat(early, IDS[0], 1)) == 2, "a little early belongs to the beat"


def test_by_string() -> None:
    assert [index(on_other_string(SCORE, IDS[at], -1)) for at in (0, 1, 2, 4, 5)] == [1, 4, 4, 4, 4]
    assert [index(on_other_string(SCORE, IDS[at], 1)) for at in (0, 1, 2, 3, 5)] == [3, 0, 3, 3, 3]


def test_by_doubt_round_and_round() -> None:
    score = SCORE.with_note(IDS[1], doubt=BY_HAND).with_note(IDS[4], doubt=BY_HAND)
    assert [index(next_doubtful(score, IDS[at], 1)) for at in range(6)] == [1, 4, 4, 4, 1, 1]
    assert [index(next_doubtful(score, IDS[at], -1)) for at in range(6)] == [4, 4, 1, 1, 1, 4]
    assert index(next_doubtful(score, "", 1)) == 1
    assert next_doubtful(SCORE, IDS[0], 1) == ""


def test_a_selection_finds_its_notes_and_their_phrase() -> None:
    chosen = Selection((IDS[3], IDS[2], "gone"), IDS[3])
    assert [index(note.id) for note in chosen.notes(SCORE)] == [2, 3], "in time order, those that are there"
    assert chosen.note(SCORE).id == IDS[3]
    assert chosen.phrase(SCORE) == SCORE.phrases[1]
    whole = Selection((IDS[5],), IDS[5]).phrase_notes(SCORE)
    assert (whole.ids, whole.note_id) == ((IDS[4], IDS[5]), IDS[5])
    bare = replace(SCORE, phrases=())
    assert chosen.phrase_notes(bare) is chosen
    for ask in (NO_SELECTION.note, NO_SELECTION.phrase):
        with pytest.raises(ValueError, match="no note is selected"):
            ask(SCORE)
    with pytest.raises(ValueError, match="no phrase lies here"):
        chosen.phrase(bare)
    with pytest.raises(ValueError, match="not there"):
        Selection(("gone",), "gone").note(SCORE)
