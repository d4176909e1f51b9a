"""Chord symbols and grips against the standard that names the kinds and against music21."""

import music21
import pytest

from notcher.core.neck.voicing import voicing
from notcher.core.score import STANDARD
from notcher.core.theory import ChordError, chord_tones
from notcher.core.theory.chord_symbol import QUALITIES


@pytest.mark.outside(
    what="tones of every chord symbol",
    source="music21 (M. Cuthbert, C. Ariza, ISMIR 2010): ChordSymbol",
    tolerance="exact",
    why="pitch classes",
    kind="library",
)
@pytest.mark.parametrize(
    "name",
    ["Em", "C", "F#m7", "Bb7", "Gmaj7", "Asus4", "Dsus2", "C#dim", "Eaug", "Am7b5", "D/F#", "G9", "Fm6", "Bdim7"],
)
def test_tones_are_those_of_music21(name: str) -> None:
    """music21's ChordSymbol is the independent reader (M. Cuthbert and C. Ariza, ISMIR 2010); it writes flats as -."""
    other = music21.harmony.ChordSymbol(name.replace("b5", "@").replace("b", "-").replace("@", "b5"))
    assert chord_tones(name).pitch_classes == {pitch.pitchClass for pitch in other.pitches}


@pytest.mark.parametrize(
    ("name", "same"), [("Emin7", "Em7"), ("E-7", "Em7"), ("EM7", "Emaj7"), ("Cm(maj7)", "Cmmaj7"), ("C6/9", "C69")]
)
def test_other_spellings_mean_the_same(name: str, same: str) -> None:
    assert chord_tones(name) == chord_tones(same)


@pytest.mark.parametrize("name", ["", "H", "Cwhat", "C/", "C/x", "C/Gm"])
def test_what_is_no_chord_is_refused(name: str) -> None:
    if name == "C/":
        assert chord_tones(name) == chord_tones("C")
        return
    with pytest.raises(ChordError, match="no chord"):
        chord_tones(name)


# The open grips that every chord book for guitar begins with, lowest string first (common practice, no source).
@pytest.mark.parametrize(
    ("name", "grip"),
    [
        ("E", "022100"), ("Em", "022000"), ("A7", "x02020"), ("Am", "x02210"), ("C", "x32010"), ("D", "xx0232"),
        ("Dm", "xx0231"), ("G", "320003"), ("G7", "320001"), ("B7", "x21202"), ("F", "133211"), ("D7", "xx0212"),
    ],
)  # fmt: skip
def test_grips_are_those_of_the_first_chord_book(name: str, grip: str) -> None:
    found = voicing(chord_tones(name), STANDARD)
    assert "".join("x" if fret is None else str(fret) for fret in reversed(found)) == grip


@pytest.mark.slow
@pytest.mark.parametrize("root", ["C", "F#", "Ab"])
@pytest.mark.parametrize("kind", QUALITIES)
def test_every_kind_of_chord_can_be_held(root: str, kind: str) -> None:
    chord = chord_tones(root + kind)
    grip = voicing(chord, STANDARD)
    struck = [(midi, fret) for midi, fret in zip(STANDARD.open_midi, grip, strict=True) if fret is not None]
    assert len(struck) >= 3
    assert {round(midi + fret) % 12 for midi, fret in struck} <= chord.pitch_classes
    assert round(min(midi + fret for midi, fret in struck)) % 12 == chord.bass


# Degrees and their alterations as MusicXML 4.0 counts them (W3C, 2021, element degree).
@pytest.mark.outside(
    what="altered, added and left-out degrees",
    source="MusicXML 4.0, element degree (W3C, 2021)",
    tolerance="exact",
    why="degrees",
    kind="standard",
)
@pytest.mark.parametrize(
    ("name", "tones"),
    [
        ("C7b9#9", {0, 4, 7, 10, 1, 3}), ("G13b9", {7, 11, 2, 5, 4, 8}), ("Amno3", {9, 4}), ("C(no3)", {0, 7}),
        ("Cmaj7#11", {0, 4, 7, 11, 6}), ("Gm7add11", {7, 10, 2, 5, 0}), ("C7b5#9", {0, 4, 6, 10, 3}),
        ("Dsus2", {2, 4, 9}), ("C7sus4", {0, 5, 7, 10}), ("Emadd9/B", {4, 7, 11, 6}), ("F#m7b5", {6, 9, 0, 4}),
    ],
)  # fmt: skip
def test_altered_added_and_left_out_degrees(name: str, tones: set[int]) -> None:
    assert chord_tones(name).pitch_classes == tones


@pytest.mark.parametrize("name", ["C7b8", "Cadd", "Cno", "C7sus9", "Cadd9x", "C7b9b"])
def test_half_read_names_are_refused(name: str) -> None:
    with pytest.raises(ChordError, match="no chord"):
        chord_tones(name)
