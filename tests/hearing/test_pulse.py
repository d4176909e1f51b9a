"""Which pulse is the beat: traps of 2 to 3 and of 1 to 2, meters of three to the beat."""

import numpy as np
import pytest

from notcher.core.arrays import FloatArray
from notcher.core.hearing.beats import find_beats
from notcher.core.hearing.harmony import CHROMA_HOP_S, chord_changes, chroma
from notcher.core.hearing.onsets import onset_curve
from notcher.core.hearing.pitch import RATE
from notcher.core.hearing.pulse import RATIOS, pulses

librosa = pytest.importorskip("librosa")

# Bars of four felt beats as method books write them (common practice, no source): where in each beat a note begins.
EIGHTHS = ((0, 1 / 2), (0, 1 / 2), (0,), (0, 1 / 2))
SIXTEENTHS = ((0, 1 / 4, 1 / 2, 3 / 4), (0, 1 / 2), (0, 1 / 2, 3 / 4), (0,))
IN_THREE = ((0, 1 / 3, 2 / 3), (0, 2 / 3), (0, 1 / 3, 2 / 3), (0,))


def played(bar: tuple[tuple[float, ...], ...], beat_s: float, *, bars: int = 8, loose_s: float = 0.012) -> FloatArray:
    """Onsets of a bar over and over, as loosely as a hand plays."""
    exact = [
        (number + place) * beat_s
        for number in range(bars * len(bar))
        for place in bar[number % len(bar)]
    ]  # fmt: skip
    return 0.5 + np.sort(np.array(exact) + np.random.default_rng(3).normal(0, loose_s, len(exact)))


@pytest.mark.outside(
    what="a chain of beats at two thirds of the tempo",
    source="M. Davies et al., 2009",
    tolerance="4 %",
    why="their bound for a right tempo",
    kind="derivation",
)
@pytest.mark.parametrize(("tempo", "bar"), [
    (80.0, EIGHTHS), (104.0, EIGHTHS), (132.0, EIGHTHS), (80.0, SIXTEENTHS), (120.0, SIXTEENTHS), (150.0, SIXTEENTHS),
])  # fmt: skip
@pytest.mark.parametrize("slip", [1.0, 2 / 3, 3 / 2, 0.5])
def test_a_chain_that_slipped_is_put_right(tempo: float, bar: tuple[tuple[float, ...], ...], slip: float) -> None:
    """Right is within 4 % (M. Davies et al., "Evaluation methods for musical audio beat tracking", 2009)."""
    chain_s = 60 / (tempo * slip)
    best = pulses((played(bar, 60 / tempo) - 0.5) / chain_s, chain_s)[0]
    assert 60 / (best.ratio * chain_s) == pytest.approx(tempo, rel=0.04)
    assert not best.compound


def test_three_to_the_beat_is_a_meter_of_eighths() -> None:
    best = pulses((played(IN_THREE, 0.9) - 0.5) / 0.9, 0.9)[0]
    assert (best.ratio, best.compound) == (1.0, True)


@pytest.mark.slow
def test_the_notes_tell_the_beat_from_its_two_thirds() -> None:
    """144 beats a minute in eighths and quarters: without the notes a slower pulse is as good."""
    onsets_s = played(SIXTEENTHS, 60 / 144, bars=12)
    sound = librosa.clicks(times=onsets_s, sr=RATE, length=22 * RATE).astype(np.float32)
    assert find_beats(onset_curve(sound).flux, onsets_s).tempo_bpm == pytest.approx(144, rel=0.04)


CHORDS = ((60, 64, 67), (57, 60, 64), (65, 69, 72), (55, 59, 62))


def strummed(bar: int, *, bars: int = 8, beat_s: float = 0.5) -> FloatArray:
    """A chord a bar, struck on every beat alike."""
    beat = np.arange(round(beat_s * RATE)) / RATE
    parts = [np.zeros(round(0.5 * RATE))]
    for number in range(bars * bar):
        chord = CHORDS[number // bar % len(CHORDS)]
        tone = sum(
            np.sin(2 * np.pi * 440 * 2 ** ((midi - 69) / 12) * k * beat) / k for midi in chord for k in (1, 2, 3)
        )
        parts.append(tone * np.exp(-4 * beat))
    return np.concatenate(parts).astype(np.float32) / 8


@pytest.mark.parametrize("bar", [3, 4])
def test_bars_begin_where_chords_change(bar: int) -> None:
    sound = strummed(bar)
    beat_map = find_beats(onset_curve(sound).flux, None, chroma(sound))
    assert beat_map.tempo_bpm == pytest.approx(120, rel=0.02)
    assert beat_map.meter.beats == bar
    downbeats_s = (0.5 + bar * 0.5 * np.arange(8) - beat_map.time_at(np.array([0.0]))[0]) % (bar * 0.5)
    assert np.all(np.minimum(downbeats_s, bar * 0.5 - downbeats_s) < 0.07)


@pytest.mark.slow
@pytest.mark.outside(
    what="the strongest pitch classes of a sound",
    source="librosa (B. McFee et al., SciPy 2015): chromagram",
    tolerance="the same classes",
    why="names, not levels",
    kind="library",
)
def test_pitch_classes_agree_with_librosa() -> None:
    """B. McFee et al., "librosa", SciPy 2015: its chromagram names the same strongest classes."""
    sound = strummed(4, bars=4)
    ours = chroma(sound)
    theirs = librosa.feature.chroma_stft(y=sound, sr=RATE, hop_length=2048, n_fft=4096).T
    for bar in range(4):
        span = slice(round((0.6 + 2 * bar) / CHROMA_HOP_S), round((2.4 + 2 * bar) / CHROMA_HOP_S))
        expected = {midi % 12 for midi in CHORDS[bar]}
        assert set(np.argsort(ours[span].mean(axis=0))[-3:]) == expected
        assert set(np.argsort(theirs[span].mean(axis=0))[-3:]) == expected


def test_the_same_chord_again_is_no_change() -> None:
    changes = chord_changes(chroma(strummed(4)), 0.5 + 0.5 * np.arange(32))
    inside = np.delete(changes, np.arange(0, 32, 4))
    assert inside.max() < 0.1 < changes[4::4].min()


def test_what_a_beat_is_mistaken_for_is_mistaken_for_it_too() -> None:
    assert sorted(RATIOS) == pytest.approx(sorted(1 / ratio for ratio in RATIOS))
