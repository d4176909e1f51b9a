"""Which pulse is the beat: traps of 2 to 3 and of 1 to 2, meters of three to the beat."""

import numpy as np
import pytest

from notcher.core.arrays import FloatArray
from notcher.core.hearing.beats import find_beats
from notcher.core.hearing.onsets import onset_curve
from notcher.core.hearing.pitch import RATE
from notcher.core.hearing.pulse import pulses

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


def test_the_notes_tell_the_beat_from_its_two_thirds() -> None:
    """144 beats a minute in eighths and quarters: without the notes a slower pulse is as good."""
    onsets_s = played(SIXTEENTHS, 60 / 144, bars=12)
    sound = librosa.clicks(times=onsets_s, sr=RATE, length=22 * RATE).astype(np.float32)
    assert find_beats(onset_curve(sound).flux, onsets_s).tempo_bpm == pytest.approx(144, rel=0.04)
