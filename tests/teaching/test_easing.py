"""Easier variants: what each level leaves, that rhythm and targets stay, and that every change can be refused alone.

Bends against their fret are plain arithmetic (two frets a whole step); the reach is the placing solver's own measure.
"""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from notcher.core.score import Attack, BeatMap, Chord, Note, Phrase, Score, Tone, Vibrato, bent_curve, excerpt
from notcher.core.score.edits import with_variant
from notcher.core.teaching import (
    LEVELS,
    NONE_REFUSED,
    Otherwise,
    Variation,
    Vary,
    as_variant,
    differs_from,
    easier,
    over_easy,
    put_back,
    target_ids,
    variation_words,
)
from notcher.core.teaching.easing import beat_worth
from notcher.core.teaching.variations import OtherNote
from notcher.core.teaching.words import other_note_words
from notcher.demo import demo_score


def phrase_of(*notes: Note, chords: tuple[Chord, ...] = ()) -> tuple[Score, Phrase]:
    """Notes as one phrase over quarters of half a second."""
    end_s = max(note.offset_s for note in notes) + 0.1
    phrase = Phrase(0.0, end_s, "Lick")
    score = Score(tuple(notes), beat_map=BeatMap.steady(120, 0.0), phrases=(phrase,), chords=chords)
    return score, score.phrases[0]


def words(change: Variation, score: Score) -> str:
    return variation_words(change, score, score.tuning)


# --- one kind of change each ---
def test_garnish_is_left_out_and_what_adorns_goes() -> None:
    squeal = Note(0.5, 0.9, 3, 7, tone=Tone.SQUEAL_HARMONIC, raked=True, vibrato=Vibrato(0.1, 5.0, 55))
    score, phrase = phrase_of(Note(0.0, 0.4, 3, 5), squeal, Note(1.0, 1.2, 2, 8, garnish=True), Note(1.5, 2.4, 2, 5))
    made = easier(score, phrase, 1)
    assert [(note.string, note.fret) for note in made.notes] == [(3, 5), (3, 7), (2, 5)]
    plain = made.notes[1]
    assert (plain.tone, plain.raked, plain.vibrato) == (Tone.NORMAL, False, None)
    assert [change.kind for change in made.changes] == [Vary.PLAINER, Vary.GARNISH]
    assert (
        words(made.changes[0], score) == "string 3, fret 7 without the pinch harmonic and the rake and the wide vibrato"
    )
    assert words(made.changes[1], score) == "string 2, fret 8 left out: it only adorns"


@pytest.mark.parametrize(("bend", "level", "frets"), [(4, 1, 4), (3, 1, 0), (3, 2, 3), (2, 2, 0), (2, 3, 2), (1, 3, 0)])
def test_a_bend_too_wide_becomes_its_fret(bend: int, level: int, frets: int) -> None:
    score, phrase = phrase_of(Note(0.0, 0.9, 2, 12, curve=bent_curve(bend, 0.9)), Note(1.0, 1.9, 2, 12))
    first = easier(score, phrase, level).notes[0]
    assert first.fret == 12 + frets
    assert bool(first.curve.points) is (frets == 0)


def test_a_bend_let_down_is_pulled_off_where_it_comes_back() -> None:
    score, phrase = phrase_of(Note(0.0, 1.0, 2, 12, curve=bent_curve(4, 1.0, released=True)), Note(1.5, 1.9, 3, 12))
    made = easier(score, phrase, 1)
    top, back = made.notes[:2]
    assert (top.fret, back.fret, back.attack) == (16, 12, Attack.PULL)
    assert top.offset_s == back.onset_s
    assert words(made.changes[0], score) == (
        "string 2, fret 16 instead of the bend of 2 steps, and let down to its own fret"
    )


def test_a_run_is_thinned_to_its_strong_notes() -> None:
    """Sixteenths at 120 are eight a second, level 2 leaves seven at most: those off the eighths go."""
    notes = [Note(0.125 * at, 0.125 * at + 0.12, 3, 5 + at % 4) for at in range(9)]
    score, phrase = phrase_of(*notes)
    made = easier(score, phrase, 2)
    assert [note.onset_s for note in made.notes] == [0.0, 0.25, 0.5, 0.75, 1.0]
    assert all(note.offset_s == pytest.approx(note.onset_s + 0.245, abs=0.01) for note in made.notes[:-1])
    assert {change.kind for change in made.changes} == {Vary.THIN}
    assert words(made.changes[0], score).endswith("left out: 8 notes a second are too quick here")


def test_what_was_slurred_from_a_note_that_is_gone_is_slurred_from_the_one_before() -> None:
    notes = [
        Note(0.0, 0.125, 3, 5), Note(0.125, 0.25, 3, 7, Attack.HAMMER),
        Note(0.25, 0.375, 3, 8, Attack.HAMMER), Note(0.375, 0.9, 3, 7, Attack.PULL),
    ]  # fmt: skip
    score, phrase = phrase_of(*notes)
    made = easier(score, phrase, 2)
    assert [(note.fret, note.attack) for note in made.notes] == [(5, Attack.PICK), (7, Attack.HAMMER)]


def test_a_reach_is_shortened() -> None:
    """Frets 1 and 5 together: 126 mm on the usual scale, where the little finger lies 98 mm from the first at ease."""
    notes = [Note(0.0, 0.9, 4, 5), Note(0.0, 0.9, 5, 1), Note(1.5, 2.4, 4, 5), Note(1.5, 2.4, 5, 1)]
    score, phrase = phrase_of(*notes)
    assert max(over_easy(score, score.notes)) > LEVELS[3].over_mm
    made = easier(score, phrase, 3)
    assert max(over_easy(score, made.notes)) <= LEVELS[3].over_mm
    same = {round(score.fretted_midi(note)) % 12 for note in notes}
    assert {round(score.fretted_midi(note)) % 12 for note in made.notes} <= same


# --- what holds for all ---
def test_targets_are_tones_of_the_chord_on_the_beat() -> None:
    """Over Am the notes A C E are in the chord; D on beat 3 is not."""
    notes = [
        Note(0.0, 0.4, 3, 2),
        Note(0.5, 0.9, 2, 1),
        Note(1.0, 1.4, 2, 3),
        Note(1.5, 1.7, 1, 0),
        Note(1.75, 1.9, 2, 0),
    ]
    score, phrase = phrase_of(*notes, chords=(Chord(0.0, "Am"),))
    assert target_ids(score, phrase) == {score.notes[at].id for at in (0, 1, 3, 4)}


@pytest.mark.slow
@pytest.mark.parametrize("level", LEVELS)
def test_every_easier_phrase_of_the_demo_is_playable_and_keeps_its_targets(level: int) -> None:
    score, limits = demo_score(), LEVELS[level]
    for phrase in score.phrases:
        made = easier(score, phrase, level)
        assert max(over_easy(score, made.notes), default=0.0) <= limits.over_mm + 1e-6
        assert max(note.reading.bend_semitones for note in made.notes) <= limits.bend_semitones + 0.3
        assert target_ids(score, phrase) <= {note.source for note in made.notes}
        onsets_s = {note.id: note.onset_s for note in score.notes}
        firsts: dict[str, float] = {}
        for note in made.notes:
            firsts.setdefault(note.source, note.onset_s)
        assert all(onsets_s[source] == at_s for source, at_s in firsts.items()), "the rhythm stays"


@pytest.mark.slow
@settings(max_examples=25, deadline=None)
@given(st.integers(0, 10_000), st.sampled_from([1, 2, 3]))
def test_any_refused_change_is_not_made(seed: int, level: int) -> None:
    dice = np.random.default_rng(seed)
    notes, at_s = [], 0.0
    for _ in range(int(dice.integers(2, 14))):
        length_s = float(dice.choice([0.1, 0.125, 0.25, 0.5]))
        fret, bend = int(dice.integers(1, 20)), float(dice.choice([0, 0, 0, 1, 2, 3]))
        curve = bent_curve(bend, length_s)
        notes.append(Note(at_s, at_s + 0.9 * length_s, int(dice.integers(1, 7)), fret, curve=curve,
                          garnish=bool(dice.random() < 0.1)))  # fmt: skip
        at_s += length_s
    score, phrase = phrase_of(*notes)
    made = easier(score, phrase, level)
    for change in made.changes[:3]:
        again = easier(score, phrase, level, refused=frozenset({change.key}))
        assert change.key not in {other.key for other in again.changes}
    refused = NONE_REFUSED
    while found := {change.key for change in easier(score, phrase, level, refused=refused).changes}:
        refused = refused | found
    left = easier(score, phrase, level, refused=refused).notes
    assert [(n.onset_s, n.string, n.fret) for n in left] == [(n.onset_s, n.string, n.fret) for n in score.notes]


@pytest.mark.slow
def test_a_variant_says_what_it_has_otherwise_and_can_be_put_back() -> None:
    score = demo_score()
    phrase = max(score.phrases, key=lambda phrase: len(easier(score, phrase, 3).changes))
    variant = as_variant(phrase, "easier", easier(score, phrase, 3))
    score = with_variant(score, variant)
    others = differs_from(score, variant)
    assert others
    plain = put_back(score, variant, {other.before.id for other in others if other.before is not None})
    assert differs_from(score, plain) == ()
    first = next(other for other in others if other.before is not None)
    assert first.before is not None
    one = put_back(score, variant, {first.before.id})
    assert first.before.id not in {o.before.id for o in differs_from(score, one) if o.before is not None}


def test_a_bend_is_told_from_a_fret() -> None:
    score, phrase = phrase_of(Note(0.0, 0.9, 2, 12, curve=bent_curve(4, 0.9)), Note(1.0, 1.9, 2, 12))
    variant = as_variant(phrase, "easier", easier(score, phrase, 1))
    (other,) = differs_from(score, variant)
    assert other.kind is Otherwise.BEND


def test_what_is_no_level_or_no_phrase_is_refused() -> None:
    score, phrase = phrase_of(Note(0.0, 0.9, 2, 12))
    with pytest.raises(ValueError, match="levels 1 to 3"):
        easier(score, phrase, 4)
    with pytest.raises(ValueError, match="no notes"):
        easier(replace(score, notes=()), phrase, 1)


def test_an_edit_of_what_is_in_view_is_the_variants() -> None:
    """The score as a variant plays it, edited, is folded back: the phrase to the variant, all else to the solo."""
    score = demo_score()
    phrase = score.phrases[1]
    variant = as_variant(phrase, "easier", easier(score, phrase, 3))
    score = with_variant(score, variant)
    view = score.with_variant(variant)
    at = view.notes_of(phrase)[0]
    edited = view.with_note(view.notes[at].id, fret=view.notes[at].fret + 1).with_note(
        view.notes[0].id, fret=view.notes[0].fret + 1
    )
    whole = score.merge_variant_edit(variant, edited)
    assert whole.notes[0].fret == score.notes[0].fret + 1
    own = whole.notes_of(phrase)
    assert [whole.notes[k] for k in own] == [score.notes[k] for k in score.notes_of(phrase)]
    assert whole.variants[0].notes[0].fret == variant.notes[0].fret + 1
    assert score.merge_variant_edit(variant, view) == score
    assert excerpt(whole, phrase.start_s, phrase.end_s).notes


def test_what_is_left_out_and_what_is_new_is_called_so() -> None:
    score, note = Score(()), Note(0.0, 0.5, 2, 12)
    gone = other_note_words(OtherNote(Otherwise.LEFT_OUT, note, None), score, score.tuning)
    new = other_note_words(OtherNote(Otherwise.ADDED, None, note), score, score.tuning)
    assert (gone, new) == ("string 2, fret 12 is left out", "string 2, fret 12 is new")


# the first beat of a bar is the strongest, then the other beats, then what lies half-way (common practice, no source)
@pytest.mark.parametrize(("quarter", "worth"), [(0.0, 4), (4.0, 4), (1.0, 3), (3.0, 3), (1.5, 2), (2.25, 1)])
def test_how_strong_a_place_in_the_bar_is(quarter: float, worth: int) -> None:
    score = Score((Note(0.5 + 0.5 * quarter, 3.0, 2, 12),), beat_map=BeatMap.steady(120, 0.5))
    assert beat_worth(score, score.notes[0]) == worth
