"""Decoding, focus, overviews, stretching: against general-purpose libraries and plain arithmetic."""

from pathlib import Path

import librosa
import numpy as np
import pytest
import soundfile

from conftest import RATE, sine
from notcher.core.errors import Cancelled
from notcher.core.sound import (
    AudioError,
    Clip,
    Overview,
    beside,
    focused,
    has_middle,
    is_wide,
    peak_dbfs,
    read_clip,
    resampled,
    spectrogram,
    stretched,
    write_clip,
)


@pytest.mark.outside(
    what="what WAV, FLAC and OGG keep of a sound",
    source="quantisation to 24 bits: steps of 2^-23 (a compact disc has 2^-15)",
    tolerance="2e-7; -30 dB for OGG",
    why="half a step; OGG is lossy",
    kind="derivation",
)
@pytest.mark.parametrize("kind", ["WAV", "FLAC", "OGG"])
def test_what_is_written_is_read_again(tmp_path: Path, kind: str) -> None:
    clip = Clip(np.column_stack([sine(220, 1.0), sine(330, 1.0)]), RATE)
    path = tmp_path / f"tone.{kind.lower()}"
    write_clip(clip, path, kind=kind)
    back = read_clip(path)
    assert (back.sample_rate, back.samples.shape) == (RATE, clip.samples.shape)
    error = np.sqrt(np.mean((back.samples - clip.samples) ** 2))
    # 24 bits leave 2^-23; a lossy file at standard quality stays 30 dB below the tone
    assert error < (2e-7 if kind != "OGG" else 0.35 * 10 ** (-30 / 20))


def test_a_sound_above_full_scale_is_lowered_as_a_whole(tmp_path: Path) -> None:
    clip = Clip(sine(220, 0.2, level=2.0)[:, None], RATE)
    write_clip(clip, tmp_path / "loud.wav", kind="WAV")
    back = read_clip(tmp_path / "loud.wav").samples
    # a clipped sine is flat on top; a lowered one keeps its shape
    assert np.corrcoef(back[:, 0], clip.samples[:, 0])[0, 1] > 0.99999


@pytest.mark.parametrize(
    ("name", "content", "words"),
    [
        ("missing.wav", None, "no file"),
        ("text.wav", b"this is a shopping list", "cannot be read as sound"),
        ("empty.wav", b"", "cannot be read as sound"),
        ("cut.flac", b"fLaC\x00\x00", "cannot be read as sound"),
    ],
)
def test_bad_files_are_refused_in_one_sentence(tmp_path: Path, name: str, content: bytes | None, words: str) -> None:
    if content is not None:
        (tmp_path / name).write_bytes(content)
    with pytest.raises(AudioError, match=words):
        read_clip(tmp_path / name)


def test_a_file_without_samples_is_refused(tmp_path: Path) -> None:
    soundfile.write(tmp_path / "nothing.wav", np.zeros((0, 1)), RATE)
    with pytest.raises(AudioError, match="no sound at all"):
        read_clip(tmp_path / "nothing.wav")


def test_stray_infinities_become_silence(tmp_path: Path) -> None:
    samples = sine(220, 0.1)
    samples[100] = np.inf
    soundfile.write(tmp_path / "odd.wav", samples, RATE, subtype="FLOAT")
    assert np.isfinite(read_clip(tmp_path / "odd.wav").samples).all()


# Full scale is 0 dB; half of it is 20 log10(1/2) = -6.02 dB (AES17's decibels relative to full scale).
def test_peak_level_is_decibels_below_full_scale() -> None:
    assert peak_dbfs(np.array([0.5])) == pytest.approx(-6.02, abs=0.01)
    assert peak_dbfs(np.zeros(4)) == -np.inf


def test_resampling_keeps_a_tone() -> None:
    tone = resampled(sine(1000, 1.0), from_rate=RATE, to_rate=22_050)
    wanted = sine(1000, 1.0, rate=22_050)
    middle = slice(2000, -2000)
    assert np.abs(tone[middle] - wanted[middle]).max() < 1e-3


def test_focus_takes_the_named_part() -> None:
    left, right = sine(220, 0.5), sine(330, 0.5)
    clip = Clip(np.column_stack([left, right]), RATE)
    assert np.allclose(focused(clip, "left"), left)
    assert np.allclose(focused(clip, "right"), right)
    assert np.allclose(focused(clip, "mid"), (left + right) / 2)
    assert np.allclose(focused(clip, "side"), (left - right) / 2)
    with pytest.raises(ValueError, match="focus must be one of"):
        focused(clip, "above")


def test_the_centre_mask_keeps_the_middle_and_drops_the_sides() -> None:
    middle, side = sine(440, 2.0), sine(700, 2.0)
    clip = Clip(np.column_stack([middle + side, middle]), RATE)
    kept = np.abs(np.fft.rfft(focused(clip, "auto")))
    plain = np.abs(np.fft.rfft(focused(clip, "mid")))
    at = [round(hertz * 2.0) for hertz in (440, 700)]
    assert kept[at[0]] == pytest.approx(plain[at[0]], rel=0.1)
    assert kept[at[1]] < 0.1 * plain[at[1]], "20 dB less than by plain addition"


def test_a_mono_file_is_its_own_focus() -> None:
    tone = sine(220, 0.3)
    assert np.allclose(focused(Clip(tone[:, None], RATE), "auto"), tone)


@pytest.mark.parametrize("span", [(0, 44_100), (1000, 1500), (-5000, 60_000), (40_000, 90_000)])
def test_an_overview_loses_no_extreme(span: tuple[int, int]) -> None:
    samples = np.random.default_rng(3).standard_normal(44_100).astype(np.float32)
    low, high = Overview(samples).columns(*span, 300)
    inside = samples[max(0, span[0]) : max(0, span[1])]
    assert low.min() <= inside.min()
    assert high.max() >= inside.max()
    # a column may take in a neighbour's cell of 64 samples, never more than what is there
    assert low.min() >= samples.min()


@pytest.mark.slow
@pytest.mark.parametrize("pace", [0.25, 0.5, 0.8, 1.5])
def test_another_pace_keeps_the_pitch_and_the_exact_length(pace: float) -> None:
    clip = Clip(sine(329.63, 3.0)[:, None], RATE)
    slow = stretched(clip, pace)
    assert slow.samples.shape[0] == round(3.0 * RATE / pace)
    heard = librosa.yin(slow.samples[RATE // 2 : -RATE // 2, 0], fmin=200, fmax=500, sr=RATE, frame_length=4096)
    # 5 cents: about what trained listeners can tell (from memory)
    assert abs(1200 * np.log2(np.median(heard) / 329.63)) < 5


@pytest.mark.slow
def test_a_long_stretch_has_no_hole_at_its_joints() -> None:
    clip = Clip(sine(220, 9.0)[:, None], RATE)
    slow = stretched(clip, 0.5).samples[:, 0]
    loud = np.sqrt(np.mean(slow[: slow.size // 441 * 441].reshape(-1, 441) ** 2, axis=1))[20:-20]
    assert loud.min() > 0.25 * np.median(loud)


def test_stretching_can_be_stopped_and_has_bounds() -> None:
    clip = Clip(sine(220, 1.0)[:, None], RATE)
    with pytest.raises(Cancelled):
        stretched(clip, 0.5, cancelled=lambda: True)
    with pytest.raises(ValueError, match="pace must lie between"):
        stretched(clip, 0.1)


def test_the_spectrogram_is_brightest_at_the_tone() -> None:
    shade = spectrogram([sine(440, 1.0)], RATE).shade
    # A4 is MIDI 69; the picture starts at 33 and has three rows a semitone
    assert int(shade[:, 25].argmax()) == (69 - 33) * 3


@pytest.mark.outside(
    what="pitches of both sides of a slowed sound",
    source="librosa (B. McFee et al., SciPy 2015): yin",
    tolerance="5 cents",
    why="its parabolic interpolation",
    kind="library",
)
def test_two_sounds_beside_each_other_keep_their_pitches_when_slowed() -> None:
    """librosa's YIN on each side: a semitone apart they must not pull at each other."""
    hertz = (392.0, 415.3)
    left, right = (Clip(sine(tone_hz, 1.0)[:, None], RATE) for tone_hz in hertz)
    slow = stretched(beside(left, right), 0.5)
    assert slow.groups == (1, 1)
    for side, true in enumerate(hertz):
        part = slow.samples[20_000:60_000, side].copy()
        heard = float(np.median(librosa.yin(part, fmin=300, fmax=500, sr=RATE)))
        assert abs(1200 * np.log2(heard / true)) < 5


@pytest.mark.slow
@pytest.mark.parametrize(("shared", "wide", "middle"), [(1.0, False, True), (0.9, True, True), (0.0, True, False)])
def test_how_much_two_sides_share_is_told_over_all_of_a_long_sound(shared: float, wide: bool, middle: bool) -> None:
    """Sides of equal power with a share s in common correlate by s: their difference keeps 1 - s of both energies."""
    dice = np.random.default_rng(4)
    common, *own = (dice.standard_normal(700_000) for _ in range(3))
    sides = [0.1 * (np.sqrt(shared) * common + np.sqrt(1 - shared) * part) for part in own]
    clip = Clip(np.stack(sides, axis=1).astype(np.float32), RATE)
    assert (is_wide(clip), has_middle(clip)) == (wide, middle)
    np.testing.assert_allclose(clip.mixed(), np.mean(clip.samples, axis=1), atol=1e-6)


def test_a_coarse_overview_keeps_the_peaks_at_every_zoom() -> None:
    samples = np.random.default_rng(3).uniform(-1, 1, 4096).astype(np.float32)
    coarse = Overview(samples, fine=False)
    low, high = coarse.columns(512, 1024, 64)
    assert low.min() == samples[512:1024].min()
    assert high.max() == samples[512:1024].max()
