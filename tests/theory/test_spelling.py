"""Keys and how notes are spelled in them, against music21 and the circle of fifths."""

import music21
import pytest

from notcher.core.score import Key, key_from_text
from notcher.core.score.key import SCALES
from notcher.core.theory import spelled, spelled_name

MODES = ["major", "dorian", "phrygian", "lydian", "mixolydian", "locrian"]


@pytest.mark.outside(
    what="signatures of every key",
    source="music21 (M. Cuthbert, C. Ariza, ISMIR 2010)",
    tolerance="exact",
    why="counts of sharps",
    kind="library",
)
@pytest.mark.parametrize("tonic", ["C", "G", "D", "A", "E", "F", "Bb", "Eb", "F#", "Db"])
@pytest.mark.parametrize("scale", [*MODES, "natural minor"])
def test_signatures_are_those_of_an_independent_library(tonic: str, scale: str) -> None:
    mode = "minor" if scale == "natural minor" else scale
    other = music21.key.Key(tonic.replace("b", "-"), mode)
    if abs(other.sharps) <= 7:
        assert Key(tonic, scale).fifths == other.sharps
    else:
        with pytest.raises(ValueError, match="more than seven signs"):
            Key(tonic, scale)


@pytest.mark.outside(
    what="spelling of the degrees of a key",
    source="music21 (M. Cuthbert, C. Ariza, ISMIR 2010)",
    tolerance="exact",
    why="letters and signs",
    kind="library",
)
@pytest.mark.parametrize("tonic", ["C", "E", "Bb", "F#", "Db", "Ab", "B"])
@pytest.mark.parametrize("scale", ["major", "natural minor", "harmonic minor"])
def test_a_scale_has_one_note_a_letter(tonic: str, scale: str) -> None:
    """Seven tones, seven letters, each the pitch that music21 gives its degree."""
    try:
        key = Key(tonic, scale)
    except ValueError:
        pytest.skip("more than seven signs")
    kinds = {"major": "MajorScale", "natural minor": "MinorScale", "harmonic minor": "HarmonicMinorScale"}
    degrees = getattr(music21.scale, kinds[scale])(tonic.replace("b", "-")).getPitches()[:7]
    names = [spelled_name(pitch.midi, key) for pitch in degrees]
    assert names == [pitch.name.replace("-", "b") for pitch in degrees]


def test_f_sharp_or_g_flat_is_the_keys_to_say() -> None:
    assert spelled_name(66, Key("D")) == "F#"
    assert spelled_name(66, Key("Db")) == "Gb"
    assert spelled_name(66) == "F#"
    # B sharp lies in the octave below the C that it sounds like (scientific pitch notation, ASA 1960)
    assert spelled(60, Key("C#")) == ("B", 1, 3)
    assert spelled(59, Key("Gb")) == ("C", -1, 4)


def test_keys_are_read_as_they_are_said() -> None:
    assert key_from_text("F# minor") == Key("F#", "natural minor")
    assert key_from_text("bb") == Key("Bb", "major")
    assert key_from_text("D♭ Lydian") == Key("Db", "lydian")
    for wrong in ("H", "c minor pentatonics", "Fb locrian", ""):
        with pytest.raises(ValueError):
            key_from_text(wrong)
    for scale in SCALES:
        assert Key("A", scale).scale == scale


@pytest.mark.slow
@pytest.mark.parametrize("scale", list(SCALES))
@pytest.mark.parametrize("semitones", range(-12, 13))
def test_a_key_is_moved_to_the_pitch_it_sounds(scale: str, semitones: int) -> None:
    key = Key("E", scale)
    moved = key.moved(semitones)
    assert music21.pitch.Pitch(moved.tonic.replace("b", "-")).pitchClass == (4 + semitones) % 12
    assert abs(moved.fifths) <= 6, "there is always a name with at most six signs (circle of fifths)"


def test_e_minor_half_a_step_down_is_e_flat_minor() -> None:
    assert Key("E", "natural minor").moved(-1) == Key("Eb", "natural minor")
