"""The pitch tracker against known tones, the YIN paper's definition and librosa's pYIN on the same sound."""

import librosa
import numpy as np
import pytest

from conftest import sine
from notcher.core.errors import Cancelled
from notcher.core.hearing import HOP_S, RATE, PitchTrack, track_pitch
from notcher.core.hearing.pitch import LONGEST_LAG, WINDOW, _best_path, _normalised_difference
from notcher.core.score import Note, Score, bent_curve, midi_to_hz
from notcher.core.sound import resampled
from notcher.core.synthesis import render


def cents(heard_hz: np.ndarray, true_hz: float) -> np.ndarray:
    return 1200 * np.log2(heard_hz / true_hz)


# The range asked of a lead: below the lowest dropped string up to fret 24 bent two steps.
@pytest.mark.parametrize("hertz", [65.0, 73.42, 82.41, 196.0, 440.0, 987.77, 1318.51, 1661.2])
def test_a_steady_tone_is_followed_to_the_cent(hertz: float) -> None:
    rich = sum(sine(hertz * k, 1.0, rate=RATE, level=0.4 / k) for k in range(1, 8) if hertz * k < RATE / 2)
    track = track_pitch(np.asarray(rich, dtype=np.float32))
    middle = track.pitch_hz[20:-20]
    assert not np.isnan(middle).any()
    # 2 cents: a fifth of what listeners accept in a bend (common practice, no source)
    assert np.abs(cents(middle, hertz)).max() < 2.0


@pytest.mark.outside(
    what="the difference function and its running mean",
    source="A. de Cheveigné, H. Kawahara, JASA 111, 2002, eq. 6 and 8",
    tolerance="1e-6",
    why="summed directly in double precision",
    kind="derivation",
)
def test_the_difference_function_is_the_papers() -> None:
    """de Cheveigné and Kawahara, JASA 111, 2002: eq. 6 summed directly, eq. 8 divided by its running mean."""
    frame = np.random.default_rng(5).standard_normal(WINDOW + LONGEST_LAG)
    direct = np.array([np.sum((frame[:WINDOW] - frame[lag : lag + WINDOW]) ** 2) for lag in range(LONGEST_LAG + 1)])
    mean = np.cumsum(direct[1:]) / np.arange(1, LONGEST_LAG + 1)
    expected = np.concatenate([[1.0], direct[1:] / mean])
    energy = np.array([[np.sum(frame[lag : lag + WINDOW] ** 2) for lag in range(LONGEST_LAG + 1)]])
    assert _normalised_difference(frame[None, :], energy)[0] == pytest.approx(expected, rel=1e-6)


@pytest.mark.outside(
    what="the pitch of a plucked string",
    source="librosa (B. McFee et al., SciPy 2015): pyin",
    tolerance="6 cents",
    why="half of its bins of 10 cents, and its smoothing",
    kind="library",
)
@pytest.mark.slow
def test_it_agrees_with_pyin_on_a_plucked_string() -> None:
    clip = render(Score((Note(0.2, 1.8, 3, 9),)), duration_s=2.0)
    sound = resampled(clip.samples[:, 0], from_rate=clip.sample_rate, to_rate=RATE)
    ours = track_pitch(sound)
    theirs, _, _ = librosa.pyin(sound, fmin=180, fmax=500, sr=RATE, frame_length=2048, hop_length=128)
    span = slice(round(0.4 / HOP_S), round(1.6 / HOP_S))
    # pYIN's own grid is 10 cents
    assert abs(np.median(cents(ours.pitch_hz[span], 1.0)) - np.median(cents(theirs[span], 1.0))) < 6


def test_a_bend_is_followed_all_the_way() -> None:
    score = Score((Note(0.2, 1.4, 3, 14, curve=bent_curve(2, 1.2, rise_s=0.2)),))
    clip = render(score, duration_s=1.6)
    track = track_pitch(resampled(clip.samples[:, 0], from_rate=clip.sample_rate, to_rate=RATE))
    span = track.span(0.25, 1.35)
    true = 69 + score.notes[0].curve.at(track.times_s[span] - 0.2)
    # the window is 35 ms: on a slope of 10 semitones a second it blurs a little
    assert np.nanmax(np.abs(track.midi[span] - true)) < 0.2
    assert np.abs(track.midi[track.span(0.6, 1.3)] - 71).max() < 0.02


def test_silence_and_noise_hold_no_pitch() -> None:
    assert np.isnan(track_pitch(np.zeros(RATE, dtype=np.float32)).pitch_hz).all()
    noise = np.random.default_rng(1).standard_normal(3 * RATE).astype(np.float32) * 0.1
    assert np.mean(~np.isnan(track_pitch(noise).pitch_hz)) < 0.05


def test_the_level_is_in_decibels() -> None:
    # a sine of amplitude 0.5 has a mean square of 1/8: -9.03 dB
    track = track_pitch(sine(220, 1.0, rate=RATE, level=0.5))
    assert np.median(track.level_db) == pytest.approx(-9.03, abs=0.3)


def test_the_track_is_checked_and_can_be_stopped() -> None:
    with pytest.raises(ValueError, match="one length"):
        PitchTrack(np.zeros(3), np.zeros(2), np.zeros(3), np.zeros(3))
    with pytest.raises(ValueError, match="one channel"):
        track_pitch(np.zeros((10, 2), dtype=np.float32))
    with pytest.raises(Cancelled):
        track_pitch(np.zeros(RATE, dtype=np.float32), cancelled=lambda: True)


def test_progress_rises_to_one() -> None:
    shares: list[float] = []
    track_pitch(np.zeros(10 * RATE, dtype=np.float32), progress=shares.append)
    assert shares == sorted(shares)
    assert shares[-1] == 1.0


def test_the_tuning_scale_is_iso_16() -> None:
    assert midi_to_hz(69) == 440.0


@pytest.mark.parametrize(("gain", "follows"), [(0.5, True), (0.2, False)])
def test_a_frame_that_fits_far_better_is_followed_through_a_leap(gain: float, follows: bool) -> None:
    """A frame of another pitch, a minor third away, beside one that fits worse by `gain`."""
    lags = np.tile(200.0 * 2 ** (np.array([0.0, -3.0]) / 12), (7, 1))
    costs = np.tile([0.0, 0.8], (7, 1))
    costs[3] = gain, 0.0
    path = _best_path(lags, costs, np.zeros(7, dtype=bool))
    assert path.tolist() == [0, 0, 0, int(follows), 0, 0, 0]
