"""Chords proposed from what a band plays: tones of music21's chord members, laid over each other."""

import music21
import numpy as np
import pytest

from notcher.core.hearing import RATE, proposed_chords
from notcher.core.hearing.harmony import chroma
from notcher.core.theory import chord_tones

BEAT_S = 0.5


def sounding(*names: str, beats: int = 4) -> np.ndarray:
    """Each chord for so many beats: its members in two octaves, with three partials each."""
    times_s = np.arange(round(beats * BEAT_S * RATE)) / RATE
    parts = []
    for name in names:
        members = {pitch.pitchClass for pitch in music21.harmony.ChordSymbol(name).pitches}
        hertz = [440 * 2 ** ((midi - 69) / 12) for midi in range(48, 72) if midi % 12 in members]
        waves = (np.sin(2 * np.pi * f * k * times_s) / k**2 for f in hertz for k in (1, 2, 3))
        parts.append(0.05 * np.sum(list(waves), axis=0))
    return np.concatenate(parts).astype(np.float32)


def proposed(sound: np.ndarray, *, shift: int = 0) -> list[tuple[float, str]]:
    times_s = np.arange(0.0, sound.size / RATE - 0.1, BEAT_S)
    bars = np.arange(times_s.size) % 4 == 0
    found = proposed_chords(chroma(sound), times_s, bars, shift=shift)
    assert all(0 < chord.certainty <= 1 for chord in found)
    return [(chord.start_s, chord.name) for chord in found]


# music21's chord members are the independent source (M. Cuthbert and C. Ariza, ISMIR 2010).
@pytest.mark.outside(
    what="tones of the triads that are laid over each other",
    source="music21 (M. Cuthbert, C. Ariza, ISMIR 2010)",
    tolerance="exact",
    why="chord names",
    kind="library",
)
def test_triads_are_proposed_where_they_change() -> None:
    assert proposed(sounding("C", "Am", "F", "G")) == [(0.0, "C"), (2.0, "Am"), (4.0, "F"), (6.0, "G")]


@pytest.mark.parametrize("name", ["E", "F#m", "Dm", "A"])
def test_one_chord_stays_one(name: str) -> None:
    ((start_s, found),) = proposed(sounding(name, name))
    assert start_s == 0.0
    assert chord_tones(found).root == chord_tones(name).root
    assert chord_tones(found).pitch_classes >= chord_tones(name).pitch_classes


def test_chords_are_called_as_on_the_neck() -> None:
    """A half step down E sounds as Eb: what sounds as Eb is called E."""
    assert proposed(sounding("E-", "A-"), shift=-1) == [(0.0, "E"), (2.0, "A")]


def test_less_than_two_beats_are_nothing() -> None:
    assert proposed_chords(chroma(sounding("C")), np.zeros(1), np.ones(1, dtype=bool)) == ()
