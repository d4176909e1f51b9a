"""Phrases are cut, joined and their borders moved; they never overlap, and no note is touched."""

from itertools import pairwise

import numpy as np
import pytest

from notcher.core.score import Note, Phrase, Score
from notcher.core.score.edits import derived_variant, with_variant
from notcher.core.score.form import free_name, joined_phrases, split_phrase, with_border, with_phrases, without_phrase

NOTES = tuple(Note(0.5 * at, 0.5 * at + 0.4, 2, 5 + at % 7) for at in range(24))


def four() -> Score:
    """Four phrases of three seconds, the first two adjoin, a rest of a second before the third."""
    spans = ((0.0, 3.0), (3.0, 6.0), (7.0, 9.0), (9.0, 12.0))
    return Score(NOTES, phrases=tuple(Phrase(a, b, f"Phrase {k}") for k, (a, b) in enumerate(spans, start=1)))


def spans(score: Score) -> list[tuple[float, float]]:
    return [(phrase.start_s, phrase.end_s) for phrase in score.phrases]


def test_what_adjoins_goes_along_and_a_rest_stays_a_rest() -> None:
    score = four()
    first, second, third, _ = score.phrases
    assert spans(with_border(score, first.id, end_s=2.0))[:2] == [(0.0, 2.0), (2.0, 6.0)]
    assert spans(with_border(score, second.id, start_s=3.5))[:2] == [(0.0, 3.5), (3.5, 6.0)]
    assert spans(with_border(score, third.id, start_s=7.5))[1:3] == [(3.0, 6.0), (7.5, 9.0)]
    assert spans(with_border(score, second.id, end_s=8.0))[1:3] == [(3.0, 8.0), (8.0, 9.0)], "what is reached gives way"


def test_a_phrase_keeps_its_id_and_its_variants_when_cut_and_joined() -> None:
    score = four()
    second = score.phrases[1]
    score = with_variant(score, derived_variant(score, second, "easier"))
    cut = split_phrase(score, second.id, 4.5, free_name(score, second.name))
    assert [phrase.name for phrase in cut.phrases] == ["Phrase 1", "Phrase 2", "Phrase 5", "Phrase 3", "Phrase 4"]
    assert cut.phrases[1].id == second.id
    assert cut.variants == score.variants
    whole = joined_phrases(cut, second.id)
    assert spans(whole) == spans(score)
    gone = without_phrase(whole, second.id)
    assert len(gone.phrases) == 3
    assert gone.variants == ()
    assert gone.notes == NOTES


def test_proposed_phrases_that_are_there_keep_what_was_said_of_them() -> None:
    score = four()
    proposed = (Phrase(0.0, 3.0, "new"), Phrase(3.0, 12.0, "rest"))
    kept = with_phrases(score, proposed)
    assert [phrase.name for phrase in kept.phrases] == ["Phrase 1", "rest"]
    assert kept.phrases[0].id == score.phrases[0].id


@pytest.mark.parametrize("seed", range(8))
def test_whatever_is_done_phrases_stand_in_order_and_never_overlap(seed: int) -> None:
    dice, score = np.random.default_rng(seed), four()
    for _ in range(60):
        if not score.phrases:
            break
        phrase = score.phrases[int(dice.integers(len(score.phrases)))]
        at_s = float(dice.uniform(0, 12))
        try:
            match int(dice.integers(5)):
                case 0:
                    score = with_border(score, phrase.id, start_s=at_s)
                case 1:
                    score = with_border(score, phrase.id, end_s=at_s)
                case 2:
                    score = split_phrase(score, phrase.id, at_s, free_name(score, phrase.name))
                case 3:
                    score = joined_phrases(score, phrase.id)
                case _ if len(score.phrases) > 2:
                    score = without_phrase(score, phrase.id)
        except ValueError:
            continue  # refused, and nothing changed
        assert all(before.end_s <= after.start_s + 0.01 for before, after in pairwise(score.phrases))
        assert len({one.id for one in score.phrases}) == len(score.phrases)
        assert score.notes == NOTES
