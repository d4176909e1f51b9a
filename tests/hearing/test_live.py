"""The pitch that sounds now: against the frequency that was made, and against librosa's own YIN."""

import librosa
import numpy as np
import pytest

from conftest import RATE, sine
from notcher.core.hearing.live import live_pitch, samples_needed
from notcher.core.score import Note, Score, midi_to_hz
from notcher.core.synthesis import render


@pytest.mark.parametrize("hertz", [82.41, 110.0, 196.0, 329.63, 440.0, 659.26, 987.77, 1318.5])
def test_a_tone_is_heard_within_two_cents_from_forty_milliseconds(hertz: float) -> None:
    sound = sine(hertz, 0.2) + sine(2 * hertz, 0.2, level=0.25) + sine(3 * hertz, 0.2, level=0.12)
    heard = live_pitch(sound[: samples_needed(RATE)], RATE)
    assert heard is not None
    assert samples_needed(RATE) / RATE < 0.04
    assert 1200 * np.log2(heard.hz / hertz) == pytest.approx(0.0, abs=2.0)


@pytest.mark.outside(
    what="the pitch that sounds now",
    source="librosa (B. McFee et al., SciPy 2015): yin",
    tolerance="5 cents, 10 on string 6",
    why="four periods of a low string are all it is given",
    kind="library",
)
def test_plucked_strings_are_heard_as_librosa_s_yin_hears_them() -> None:
    for string, fret in ((6, 3), (4, 7), (3, 12), (2, 12), (1, 15)):
        score = Score((Note(0.0, 1.0, string, fret),))
        sound = render(score, sample_rate=RATE, duration_s=1.0).samples[:, 0]
        part = sound[round(0.4 * RATE) :][: samples_needed(RATE)]
        heard = live_pitch(part, RATE)
        theirs = librosa.yin(part, fmin=70, fmax=1600, sr=RATE, frame_length=part.size, center=False)[0]
        assert heard is not None
        near = 10.0 if string == 6 else 5.0  # four periods of a low string are all that it is given
        assert 1200 * np.log2(heard.hz / theirs) == pytest.approx(0.0, abs=near)
        wanted = float(midi_to_hz(score.tuning.open_midi[string - 1] + fret))
        assert 1200 * np.log2(heard.hz / wanted) == pytest.approx(0.0, abs=8.0), "a stiff string lies a little high"


def test_silence_noise_and_too_little_sound_have_no_pitch() -> None:
    noise = np.random.default_rng(3).normal(0, 0.1, samples_needed(RATE)).astype(np.float32)
    for sound in (np.zeros(samples_needed(RATE), np.float32), noise, sine(440, 0.01), 0.001 * sine(440, 0.2)):
        assert live_pitch(sound, RATE) is None
