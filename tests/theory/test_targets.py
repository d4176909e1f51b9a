"""What each note is to the chord under it."""

import music21
import pytest

from notcher.core.score import BeatMap, Chord, Note, Score, Tuning, bent_curve
from notcher.core.theory import (
    LikelyScale,
    Outside,
    Role,
    chord_tones,
    degree,
    named_key,
    outside_notes,
    ranked_keys,
    scale_of,
    share_on_beats,
    targets,
)
from notcher.core.words import outside_words

CHORDS = ("C", "Em", "G7", "Fmaj7", "Dm7b5", "Asus4", "Bdim", "Eaug", "C#m7", "Bb7", "F#m", "A9")


def line(*midi: int, chords: tuple[tuple[float, str], ...] = ((0.0, "C"),), tuning: Tuning | None = None) -> Score:
    """A note a beat on the highest string, a beat being a second."""
    neck = tuning or Tuning()
    notes = tuple(Note(at, at + 0.9, 1, pitch - round(neck.open_midi[0])) for at, pitch in enumerate(midi))
    told = tuple(Chord(start_s, name) for start_s, name in chords)
    return Score(notes, neck, BeatMap.steady(60, 0.0), told)


# music21's chord members (M. Cuthbert and C. Ariza, ISMIR 2010) decide what is a chord tone; it writes flats as -.
@pytest.mark.outside(
    what="which notes are chord tones",
    source="music21 (M. Cuthbert, C. Ariza, ISMIR 2010)",
    tolerance="exact",
    why="pitch classes",
    kind="library",
)
@pytest.mark.parametrize("name", CHORDS)
def test_chord_tones_are_music21s_chord_members(name: str) -> None:
    other = music21.harmony.ChordSymbol(name.replace("b5", "@").replace("b", "-").replace("@", "b5"))
    members = {pitch.pitchClass for pitch in other.pitches}
    for midi in range(64, 76):
        (found,) = targets(line(midi, chords=((0.0, name),)))
        assert found.in_chord == (midi % 12 in members)


# The generic size of each member over the root, by music21's interval names.
@pytest.mark.outside(
    what="degrees over the root",
    source="music21 (M. Cuthbert, C. Ariza, ISMIR 2010): interval names",
    tolerance="exact",
    why="numbers",
    kind="library",
)
@pytest.mark.parametrize("name", CHORDS)
def test_degrees_are_the_intervals_over_the_root(name: str) -> None:
    other = music21.harmony.ChordSymbol(name.replace("b5", "@").replace("b", "-").replace("@", "b5"))
    root = other.root()
    for pitch in other.pitches:
        size = music21.interval.Interval(root, pitch).generic.simpleUndirected
        told = degree(chord_tones(name), pitch.midi).lstrip("b#")
        assert (int(told) - 1) % 7 + 1 == (size - 1) % 7 + 1


# S. Kostka and D. Payne, "Tonal Harmony", 4th ed. 2000, ch. 11: passing and neighbouring tones, appoggiatura.
@pytest.mark.outside(
    what="passing and neighbouring tones, appoggiatura",
    source="S. Kostka, D. Payne, Tonal Harmony, 4th ed. 2000, ch. 11",
    tolerance="exact",
    why="the definitions",
    kind="derivation",
)
@pytest.mark.parametrize(
    ("midi", "roles"),
    [
        ((64, 65, 67), [Role.CHORD_TONE, Role.PASSING, Role.CHORD_TONE]),
        ((67, 65, 64), [Role.CHORD_TONE, Role.PASSING, Role.CHORD_TONE]),
        ((64, 65, 64), [Role.CHORD_TONE, Role.NEIGHBOUR, Role.CHORD_TONE]),
        ((72, 71, 72), [Role.CHORD_TONE, Role.NEIGHBOUR, Role.CHORD_TONE]),
        ((64, 69, 67), [Role.CHORD_TONE, Role.APPROACH, Role.CHORD_TONE]),
        ((72, 66, 67), [Role.CHORD_TONE, Role.APPROACH, Role.CHORD_TONE]),
        ((64, 74, 79), [Role.CHORD_TONE, Role.EXTENSION, Role.CHORD_TONE]),
    ],
)
def test_tones_outside_the_chord_by_what_they_do(midi: tuple[int, ...], roles: list[Role]) -> None:
    assert [found.role for found in targets(line(*midi))] == roles


def test_a_bend_that_reaches_a_chord_tone_is_bent_into_it() -> None:
    score = line(65, 67)
    bent = score.with_note(score.notes[0].id, curve=bent_curve(2.0, 0.9))
    assert [found.role for found in targets(bent)] == [Role.BENT_INTO, Role.CHORD_TONE]
    assert targets(bent)[0].degree == "5"


def test_landing_on_the_change() -> None:
    score = line(67, 67, 69, 72, chords=((0.0, "C"), (2.0, "Am"), (3.02, "F")))
    assert [found.lands_on_change for found in targets(score)] == [False, False, True, True]
    assert [found.chord for found in targets(score)] == ["C", "C", "Am", "F"]
    late = score.with_note(score.notes[2].id, onset_s=2.3, offset_s=2.9)
    assert not targets(late)[2].lands_on_change
    assert share_on_beats(targets(score)) == 1.0


def test_chords_are_called_as_on_the_neck() -> None:
    """A half step down, what is fretted as C is called C, though B sounds."""
    low = Tuning((63, 58, 54, 49, 44, 39))
    (found,) = targets(line(71, tuning=low))
    assert (found.role, found.degree) == (Role.CHORD_TONE, "1")


def test_without_chords_there_are_no_targets_and_nonsense_is_passed_over() -> None:
    assert targets(line(64, 65, chords=())) == ()
    assert targets(line(64, 65, chords=((0.0, "Xyz"),))) == ()
    assert share_on_beats(()) is None


# --- keys ---
# music21's scales give the pitches; every one of them is likeliest in itself or in its relative.
@pytest.mark.outside(
    what="the key of a scale played through",
    source="music21 (M. Cuthbert, C. Ariza, ISMIR 2010): scales",
    tolerance="exact",
    why="key or its relative",
    kind="library",
)
@pytest.mark.parametrize(
    ("tonic", "scale", "pitches"),
    [
        ("A", "harmonic minor", music21.scale.HarmonicMinorScale("A").getPitches("A3", "A5")),
        ("C", "major", music21.scale.MajorScale("C").getPitches("C4", "C6")),
        ("G", "whole tone", music21.scale.WholeToneScale("G").getPitches("G3", "G5")),
    ],
)
def test_a_scale_played_through_is_found(tonic: str, scale: str, pitches: list[music21.pitch.Pitch]) -> None:
    midi = [pitch.midi for pitch in pitches]
    notes = [Note(at / 2, at / 2 + 0.45, 3, value - 55) for at, value in enumerate(midi) if 0 <= value - 55 <= 24]
    score = Score(tuple(notes))
    best = ranked_keys(score)[0]
    assert best.pitch_classes == {value % 12 for value in midi}
    inside = scale_of(score, score.notes, ranked_keys(score))
    assert inside is not None
    assert inside.pitch_classes <= best.pitch_classes
    if scale != "whole tone":
        assert (named_key(best.tonic, best.scale).tonic, best.scale) == (tonic, scale)


def test_keys_have_the_name_with_the_fewest_signs() -> None:
    assert str(named_key(1, "major")) == "Db major"
    assert str(named_key(8, "natural minor")) == "G# natural minor"
    assert ranked_keys(Score()) == []
    assert scale_of(Score(), (), []) is None


# Chromatic passing and approach tones: S. Kostka and D. Payne, "Tonal Harmony", 4th ed. 2000, ch. 11.
@pytest.mark.parametrize(
    ("midi", "what"),
    [
        ((67, 66, 65), [Outside.PASSES]),
        ((67, 66, 67), [Outside.LEADS_IN]),
        ((72, 66, 67), [Outside.LEADS_IN]),
        ((67, 66, 72), [Outside.FROM_OUTSIDE]),
        ((67, 66), [Outside.FROM_OUTSIDE]),
        ((67, 69, 71), []),
    ],
)
def test_what_notes_outside_a_scale_do(midi: tuple[int, ...], what: list[Outside]) -> None:
    c_major = LikelyScale(0, "major", 1.0)
    found = outside_notes(line(*midi, chords=()), c_major)
    assert [kind for _, kind in found] == what
    assert [at for at, _ in found] == [at for at, pitch in enumerate(midi) if pitch % 12 not in c_major.pitch_classes]


def test_how_many_are_outside_is_said() -> None:
    assert outside_words(()) == "no note outside"
    assert outside_words(((3, Outside.FROM_OUTSIDE),)) == "1 note outside"
    assert outside_words(((3, Outside.LEADS_IN),)) == "1 note outside, which is a half step into it"
    both = ((3, Outside.PASSES), (5, Outside.FROM_OUTSIDE), (7, Outside.LEADS_IN))
    assert outside_words(both) == "3 notes outside, 2 of them half steps into it"
