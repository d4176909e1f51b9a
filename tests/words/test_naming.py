"""Every sentence obeys the naming chosen; sizes, notes and places are called as practitioners call them."""

import pytest

from notcher.core.neck import PlacingObstacle, PlacingReason
from notcher.core.proving import Advice, DoubtState, Finding, ListedDoubt, Matter, Mention, Played, Status
from notcher.core.score import STANDARD, Aside, Attack, Doubt, DoubtKind, Excluded, Note, Score, Tone, bent_curve
from notcher.core.words import (
    BendNames,
    Naming,
    NoteNames,
    StringNames,
    advice_words,
    bend_goal,
    bend_name,
    bend_size,
    clock,
    doubt_words,
    figure,
    many,
    note_name,
    pitch_words,
    place_name,
    reason_words,
    row_words,
    seconds,
    verdict_words,
)

LETTERS, GERMAN = Naming(strings=StringNames.LETTERS), Naming(notes=NoteNames.H_FOR_B, decimal_mark=",")
SOLFEGE = Naming(notes=NoteNames.SYLLABLES)
TONES, FRETS = Naming(bends=BendNames.TONES), Naming(bends=BendNames.FRETS)


# ISO 16:1975 gives A4 = 440 Hz; that B is H, and B flat B, is common practice in German, no source
@pytest.mark.outside(
    what="the number of A4", source="ISO 16:1975; MIDI 1.0 note 69", tolerance="exact", why="names", kind="standard"
)
@pytest.mark.parametrize(
    ("midi", "letters", "german", "syllables"),
    [(60, "C4", "C4", "do4"), (69, "A4", "A4", "la4"), (71, "B4", "H4", "si4"), (70, "Bb4", "B4", "sib4")],
)
def test_notes_are_called_in_three_ways(midi: int, letters: str, german: str, syllables: str) -> None:
    assert [note_name(midi, naming) for naming in (Naming(), GERMAN, SOLFEGE)] == [letters, german, syllables]


def test_strings_are_called_by_number_or_letter() -> None:
    assert place_name(STANDARD, 2, 12) == "string 2, fret 12"
    assert place_name(STANDARD, 2, 12, LETTERS) == "B string, fret 12"
    assert place_name(STANDARD, 1, 3, LETTERS) == "e string, fret 3"


# a whole step is two frets (common practice, no source)
@pytest.mark.outside(
    what="a whole step is two frets", source="every method book", tolerance="exact", why="sizes", kind="practice"
)
@pytest.mark.parametrize(
    ("semitones", "steps", "tones", "frets"),
    [(0.5, "¼ step", "¼ tone", "½ fret"), (1, "½ step", "½ tone", "1 fret"), (2, "1 step", "1 tone", "2 frets"),
     (3, "1½ steps", "1½ tones", "3 frets"), (4, "2 steps", "2 tones", "4 frets")],
)  # fmt: skip
def test_bends_are_measured_in_steps_tones_or_frets(semitones: float, steps: str, tones: str, frets: str) -> None:
    assert [bend_size(semitones, naming) for naming in (Naming(), TONES, FRETS)] == [steps, tones, frets]
    assert bend_name(-semitones).startswith("−")


def test_the_decimal_mark_is_the_readers() -> None:
    assert figure(3.14159, 2, naming=GERMAN) == "3,14"
    assert figure(2.0, 1, signed=True) == "+2.0"
    assert seconds(1.5, 2, GERMAN) == "1,50 s"
    assert clock(61.24, GERMAN) == "1:01,2"
    assert [many(count, "note") for count in (0, 1, 2)] == ["0 notes", "1 note", "2 notes"]


def finding(status: Status, claimed: float, measured: float | None, **more: object) -> Finding:
    return Finding(0, status, claimed, measured, None, 0.5, **more)  # type: ignore[arg-type]


def test_a_verdict_obeys_the_naming() -> None:
    score = Score((Note(0, 1, 2, 12, curve=bent_curve(2, 1.0)),))
    short = finding(Status.BEND, 200.0, 150.0)
    said = "stops 50 cents short of {}: half a fret above fret 13; the tab says fret 14"
    assert [verdict_words(short, score, naming) for naming in (Naming(), TONES, FRETS)] == [
        said.format(goal) for goal in ("the whole step", "the whole tone", "the two frets")
    ]
    other = finding(Status.PITCH, 0.0, -100.0)
    assert verdict_words(other, score, GERMAN).startswith("sounds like fret 11 (B4)")
    assert verdict_words(other, score).startswith("sounds like fret 11 (Bb4)")


def test_what_is_mentioned_follows_the_verdict() -> None:
    score = Score((Note(0, 1, 2, 12, Attack.HAMMER),))
    maybe = finding(Status.AGREES, 0.0, 0.0, heard_attack=Attack.PICK, mentions=(Mention.MAYBE_ATTACK,))
    assert verdict_words(maybe, score) == "agrees; maybe was picked; the tab says hammered"


def test_doubts_and_reasons_are_said_from_their_values() -> None:
    place = Doubt(DoubtKind.EQUAL_PLACE, place=(3, 17))
    assert doubt_words(place, STANDARD) == "two places are as easy: also string 3, fret 17"
    assert doubt_words(place, STANDARD, LETTERS) == "two places are as easy: also G string, fret 17"
    assert doubt_words(Doubt(DoubtKind.TONE, 0.6, Tone.PALM_MUTE), STANDARD) == "60% sure that it is a palm mute"
    assert doubt_words(Doubt(DoubtKind.OFF_BEAT, -0.08), STANDARD) == "80 ms ahead of the beat"
    assert reason_words(PlacingReason(PlacingObstacle.SHIFT, 1)) == "costs a shift of 1 fret"
    assert reason_words(PlacingReason(PlacingObstacle.SHIFT, 3)) == "costs a shift of 3 frets"


@pytest.mark.parametrize("kind", list(DoubtKind))
def test_every_kind_of_doubt_has_its_words(kind: DoubtKind) -> None:
    assert doubt_words(Doubt(kind, 0.5, Tone.DEAD, (2, 5), "as it was"), STANDARD)


@pytest.mark.parametrize("kind", list(PlacingObstacle))
def test_every_reason_has_its_words(kind: PlacingObstacle) -> None:
    assert reason_words(PlacingReason(kind, 2.0))


def test_a_bend_aims_at_something_in_every_naming() -> None:
    assert bend_goal(3) == "the step and a half"
    assert bend_goal(5, FRETS) == "5 frets"


@pytest.mark.parametrize("why", list(Aside))
def test_what_is_not_the_solos_is_said_with_its_reason(why: Aside) -> None:
    row = ListedDoubt(1.0, 1.3, DoubtState.EXCLUDED, 0.0, excluded=Excluded(1.0, 57.0, why))
    words = row_words(row, Score())
    assert words.startswith("A3 ")
    assert len(words) > len("A3 lies")
    assert not row.waiting


@pytest.mark.parametrize(
    ("off_cents", "said"),
    [(-40.0, "lands 40 cents flat"), (-54.0, "lands 54 cents flat"), (-95.0, "was bent only ½ step, 95 cents off")],
)
def test_advice_speaks_of_the_size_that_was_played(off_cents: float, said: str) -> None:
    note = Note(0.5, 1.5, 3, 14, curve=bent_curve(2, 1.0))
    played = Played(0, Finding(0, Status.BEND, 200.0, 200.0 + off_cents, 0.0, 0.5), bend=2.0, landed_cents=off_cents)
    told = advice_words(Advice(Matter.BEND, off_cents, (played,)), Score((note,)), Score((note,)))
    assert said in told
    assert "play fret 16 first" in told


# a half step is 100 cents (Ellis in Helmholtz, "On the Sensations of Tone", 1885)
@pytest.mark.parametrize(
    ("semitones", "words"),
    [(0, "It sounds as recorded."), (1.05, "It sounds 1 half step and 5 cents higher than recorded."),
     (-2, "It sounds 2 half steps lower than recorded."), (0.3, "It sounds 30 cents higher than recorded.")],
)  # fmt: skip
def test_how_far_a_sound_was_moved(semitones: float, words: str) -> None:
    assert pitch_words(semitones) == words
