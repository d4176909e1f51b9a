"""A phrase as an instructor says it (common practice, no source), in every naming."""

import re

import pytest

from notcher.core.score import STANDARD, Attack, End, Note, Score, Tone, Vibrato, bent_curve
from notcher.core.words import (
    BendNames,
    Naming,
    StringNames,
    bend_said,
    fret_said,
    note_said,
    phrase_said,
    place_said,
    string_said,
)

LETTERS = Naming(strings=StringNames.LETTERS)


def notes(*places: tuple[int, int], apart_s: float = 0.25) -> Score:
    return Score(tuple(Note(apart_s * at, apart_s * (at + 0.9), *place) for at, place in enumerate(places)))


def test_frets_are_grouped_by_their_string_as_an_instructor_says_them() -> None:
    score = notes((2, 15), (2, 13), (3, 14))
    assert phrase_said(score, range(3)) == ["Fifteen, thirteen on the second string; fourteen on the third."]
    assert phrase_said(score, range(3), LETTERS) == ["Fifteen, thirteen on the B string; fourteen on the G string."]


def test_one_note_is_said_with_its_string_first() -> None:
    bent = Note(0.0, 1.0, 2, 15, curve=bent_curve(2, 1.0, released=True))
    assert place_said(Score((bent,)), bent) == "second string, fifteen, bend a whole step, let it down"
    assert place_said(Score((bent,)), bent, LETTERS).startswith("B string, fifteen")


def test_a_breath_is_a_new_sentence_and_none_grows_too_long() -> None:
    score = Score((Note(0.0, 0.4, 1, 5), Note(0.5, 0.9, 1, 8), Note(2.0, 2.4, 1, 0)))
    assert phrase_said(score, range(3)) == ["Five, eight on the first string.", "Open on the first string."]
    run = notes(*((1 + at % 6, 5) for at in range(20)))
    told = phrase_said(run, range(20))
    assert len(told) == 3
    assert sum(sentence.count("ive") for sentence in told) == 20, "no note is left out"


@pytest.mark.parametrize(
    ("changed", "words"),
    [
        ({"attack": Attack.HAMMER}, "hammer on to twelve"),
        ({"attack": Attack.PULL}, "pull off to twelve"),
        ({"attack": Attack.SLIDE}, "slide to twelve"),
        ({"attack": Attack.TAP}, "tap twelve"),
        ({"attack": Attack.SWELL}, "fade in twelve"),
        ({"curve": bent_curve(2, 1.0, prebent=True, released=True)}, "twelve already bent a whole step, let it down"),
        ({"attack": Attack.REPICK, "curve": bent_curve(2, 1.0, prebent=True)}, "strike again"),
        ({"curve": bent_curve(3, 1.0)}, "twelve, bend one and a half steps"),
        ({"vibrato": Vibrato(0.2, 5.5, 30)}, "twelve, with vibrato"),
        ({"tone": Tone.PALM_MUTE}, "twelve, muted with the palm"),
        ({"tone": Tone.NATURAL_HARMONIC}, "twelve, as a harmonic"),
        ({"end": End.CHOKED}, "twelve, choke it"),
        ({"end": End.SLIDES_AWAY}, "twelve, slide away"),
        ({"raked": True}, "rake into twelve"),
        ({"slid_in": True}, "slide in to twelve"),
    ],
)
def test_what_is_done_at_a_note_is_said(changed: dict, words: str) -> None:  # type: ignore[type-arg]
    assert note_said(Note(0.0, 1.0, 2, 12, **changed)) == words


def test_the_two_strings_of_one_letter_are_told_apart() -> None:
    score = Score(tuning=STANDARD)
    assert [string_said(score, string, LETTERS) for string in (1, 6, 5)] == [
        "high E string", "low E string", "A string",
    ]  # fmt: skip
    assert string_said(score, 6) == "sixth string"


def test_bends_are_said_in_every_naming() -> None:
    tones, frets = Naming(bends=BendNames.TONES), Naming(bends=BendNames.FRETS)
    sizes = (0.5, 1.0, 2.0, 3.0, 4.0)
    assert [bend_said(size) for size in sizes] == [
        "a quarter step", "a half step", "a whole step", "one and a half steps", "two steps",
    ]  # fmt: skip
    assert bend_said(3.0, tones) == "one and a half tones"
    assert [bend_said(size, frets) for size in sizes] == ["half a fret", "one fret", "two frets", "three frets",
                                                         "four frets"]  # fmt: skip


def test_every_fret_has_a_word() -> None:
    told = [fret_said(fret) for fret in range(25)]
    assert len(set(told)) == 25
    assert not any(re.search(r"\d", word) for word in told)
