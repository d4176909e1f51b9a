"""Scales against music21's, and which scale a line is in."""

import music21
import numpy as np
import pytest

from notcher.core.score import SCALES
from notcher.core.theory import STEPS, LikelyScale, likely_scales

MUSIC21 = {
    "major": music21.scale.MajorScale,
    "natural minor": music21.scale.MinorScale,
    "harmonic minor": music21.scale.HarmonicMinorScale,
    "melodic minor": music21.scale.MelodicMinorScale,
    "dorian": music21.scale.DorianScale,
    "phrygian": music21.scale.PhrygianScale,
    "lydian": music21.scale.LydianScale,
    "mixolydian": music21.scale.MixolydianScale,
    "locrian": music21.scale.LocrianScale,
    "whole tone": music21.scale.WholeToneScale,
}


@pytest.mark.outside(
    what="steps of every scale",
    source="music21 (M. Cuthbert, C. Ariza, ISMIR 2010): scale",
    tolerance="exact",
    why="semitones",
    kind="library",
)
@pytest.mark.parametrize("scale", MUSIC21)
def test_steps_are_those_of_music21(scale: str) -> None:
    """music21 is the independent reader (M. Cuthbert and C. Ariza, ISMIR 2010); melodic minor is meant rising."""
    pitches = MUSIC21[scale]("D").getPitches("D4", "D5")
    assert tuple(pitch.midi - 62 for pitch in pitches if pitch.midi < 74) == STEPS[scale]


def test_scales_that_music21_lacks_have_their_defining_property() -> None:
    black_keys = {1, 3, 6, 8, 10}
    assert {(6 + step) % 12 for step in STEPS["major pentatonic"]} == black_keys, "F# major pentatonic"
    assert {(3 + step) % 12 for step in STEPS["minor pentatonic"]} == black_keys, "D# minor pentatonic"
    assert set(STEPS["blues"]) == {*STEPS["minor pentatonic"], 6}, "with the flat fifth (common practice, no source)"
    for scale, first in (("half-whole", 1), ("whole-half", 2)):
        steps = np.diff([*STEPS[scale], 12])
        assert steps.tolist() == [first, 3 - first] * 4
    assert set(STEPS) == set(SCALES)


def _line(tonic: int, scale: str) -> list[float]:
    up = [57.0 + (tonic - 9) % 12 + step for step in (*STEPS[scale], 12)]
    return [*up, *reversed(up)] * 2


@pytest.mark.parametrize("scale", STEPS)
def test_a_scale_up_and_down_is_recognised(scale: str) -> None:
    """Twice; scales of the same notes are told apart by how often their root comes."""
    for tonic in (0, 5, 10):
        line = _line(tonic, scale)
        found = likely_scales(line, [0.4] * len(line))
        same_notes = [guess for guess in found[:3] if guess.pitch_classes == LikelyScale(tonic, scale, 0).pitch_classes]
        assert found[0] in same_notes, f"{scale} on {tonic} was taken for {found[0]}"
    assert sum(guess.weight for guess in found) == pytest.approx(1.0)


def test_passing_notes_do_not_change_the_scale() -> None:
    line, seconds = _line(9, "minor pentatonic"), [0.5] * 24
    for at in (8, 3):
        line.insert(at, line[at] - 1)
        seconds.insert(at, 0.08)
    found = likely_scales(line, seconds)[0]
    assert (found.tonic, found.scale) in {(9, "minor pentatonic"), (9, "blues")}
    assert likely_scales([], []) == []
