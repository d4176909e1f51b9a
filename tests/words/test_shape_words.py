"""What comes again, in the words of an instructor."""

import pytest

from notcher.core.patterns import Kind, Occurrence, Pattern, Patterns
from notcher.core.score import TUNINGS
from notcher.core.theory import LikelyScale
from notcher.core.words import Naming, NoteNames, key_words, lick_words, moved_words, ordinal, shape_words, statement

# English ordinals, as any grammar has them (common practice, no source).
ORDINALS = {1: "1st", 2: "2nd", 3: "3rd", 4: "4th", 11: "11th", 12: "12th", 13: "13th", 21: "21st", 112: "112th"}


def at(first: int, *, frets: int | None = 0, strings: int | None = 0, semitones: int | None = 0) -> Occurrence:
    pairs = tuple((number, first + number) for number in range(4))
    return Occurrence(first, first + 3, frets, strings, semitones, pairs)


def shape(kind: Kind, *later: Occurrence, steps: int | None = None) -> Pattern:
    return Pattern(kind, (at(0), *later), 4, 4 * len(later), steps)


@pytest.mark.parametrize(("number", "said"), ORDINALS.items())
def test_ordinals(number: int, said: str) -> None:
    assert ordinal(number) == said


@pytest.mark.parametrize(
    ("found", "kind", "said"),
    [
        (at(8), Kind.EXACT, "the same"),
        (at(8, frets=2, semitones=2), Kind.ALONG_NECK, "the same, two frets up"),
        (at(8, frets=-1, semitones=-1), Kind.ALONG_NECK, "the same, one fret down"),
        (at(8, strings=-1, semitones=None), Kind.ACROSS_STRINGS, "the same, one string higher, on the same frets"),
        (at(8, strings=2, frets=None, semitones=-10), Kind.ACROSS_STRINGS,
         "the same, two strings lower, sounding the same shape"),
        (at(8, strings=None, frets=None, semitones=12), Kind.OCTAVE, "the same, an octave above"),
        (at(8, strings=None, frets=None, semitones=-12), Kind.OCTAVE, "the same, an octave below"),
    ],
)  # fmt: skip
def test_how_one_playing_lies_against_the_first(found: Occurrence, kind: Kind, said: str) -> None:
    assert moved_words(found, kind) == said


def test_several_ways_stand_in_one_clause() -> None:
    assert shape_words(shape(Kind.EXACT, at(8), at(16))) == "the same, twice"
    both = shape(Kind.ALONG_NECK, at(8, frets=2, semitones=2), at(16, frets=5, semitones=5))
    assert shape_words(both) == "the same, two frets up; five frets up"
    assert shape_words(shape(Kind.SEQUENCE, at(4), at(8), steps=2)).endswith("each turn starts two scale steps higher")


def test_what_stands_over_the_tab() -> None:
    moved = shape(Kind.ALONG_NECK, at(8, frets=2, semitones=2))
    assert [lick_words(2, moved, playing) for playing in (0, 1)] == ["2nd lick", "= 2nd lick, two frets up"]
    turned = shape(Kind.CELL, at(4), at(8))
    assert [lick_words(1, turned, playing) for playing in (0, 1)] == ["1st lick, three times", ""]


def test_the_statement_never_promises_what_is_not_there() -> None:
    assert statement(Patterns(0, ())) == "There are no notes yet."
    assert statement(Patterns(1, ())) == "1 note, and nothing comes again."
    assert statement(Patterns(8, (shape(Kind.EXACT, at(4)),))) == "Learn 4 notes, get 8."


def test_a_key_is_said_as_it_sounds_and_as_it_is_called() -> None:
    flat = [LikelyScale(3, "minor pentatonic", 0.9)]
    assert key_words(flat, TUNINGS["half-down"]) == "likely Eb minor pentatonic (90%), called E on this neck"
    other = Naming(notes=NoteNames.H_FOR_B)
    assert key_words([LikelyScale(11, "major", 0.5)], TUNINGS["standard"], other) == "likely H major (50%)"
    half = [LikelyScale(0, "half-whole", 0.8)]
    assert key_words(half, TUNINGS["standard"]).endswith("its shape is the same again every three frets")


@pytest.mark.parametrize(
    ("found", "said"),
    [(at(8, strings=None, frets=None, semitones=12), "the same, an octave above"),
     (at(8, frets=12, semitones=12), "the same, twelve frets up")],
)  # fmt: skip
def test_an_octave_on_the_same_string_is_so_many_frets(found: Occurrence, said: str) -> None:
    assert moved_words(found, Kind.ALONG_NECK) == said
