"""Windows of a sound are those of the padded sound, which is what they stand for."""

import librosa
import numpy as np
import pytest

from notcher.core.sound.windows import frames_of, mean_squares, stretch_of, windows_at

SOUND = np.random.default_rng(5).normal(size=3_000).astype(np.float32)


@pytest.mark.parametrize("span", [(0, 100), (-40, 60), (2_950, 3_100), (-10, 3_020), (-90, -20), (3_000, 3_050)])
def test_a_stretch_is_silent_beyond_the_sounds_ends(span: tuple[int, int]) -> None:
    padded = np.pad(SOUND, 200)
    assert np.array_equal(stretch_of(SOUND, *span), padded[span[0] + 200 : span[1] + 200])


# librosa's framing of the centred, zero-padded signal is the independent one.
@pytest.mark.outside(
    what="frames of a centred, padded signal",
    source="librosa (B. McFee et al., SciPy 2015): util.frame",
    tolerance="exact",
    why="samples",
    kind="library",
)
def test_frames_are_those_of_the_padded_sound() -> None:
    size, hop = 256, 64
    reference = librosa.util.frame(np.pad(SOUND, size // 2), frame_length=size, hop_length=hop).T
    assert np.array_equal(frames_of(SOUND, 0, 40, hop=hop, size=size, lead=size // 2), reference[:40])
    assert np.array_equal(frames_of(SOUND, 13, 21, hop=hop, size=size, lead=size // 2), reference[13:21])
    assert np.array_equal(windows_at(SOUND, np.array([640 - size // 2]), size), reference[10:11])


@pytest.mark.outside(
    what="loudness of frames",
    source="librosa (B. McFee et al., SciPy 2015): feature.rms",
    tolerance="1e-4",
    why="running sums",
    kind="library",
)
def test_mean_squares_are_those_of_the_frames() -> None:
    size, hop = 256, 64
    level = librosa.feature.rms(y=SOUND, frame_length=size, hop_length=hop, pad_mode="constant")[0] ** 2
    assert mean_squares(SOUND, level.size, hop=hop, window=size) == pytest.approx(level, rel=1e-4)
