"""The decoder, the pitch read off partials, and the small helpers, against general libraries."""

import librosa
import numpy as np
import pytest

from conftest import sine
from notcher.core.hearing import RATE, find_beats
from notcher.core.hearing.onsets import onset_curve
from notcher.core.hearing.partials import refined
from notcher.core.hearing.pitch import HOP_S, PitchTrack
from notcher.core.hearing.robust import median, percentile
from notcher.core.hearing.viterbi import best_path


@pytest.mark.slow
@pytest.mark.outside(
    what="the cheapest path through a lattice (Viterbi, 1967)",
    source="librosa (B. McFee et al., SciPy 2015): sequence.viterbi",
    tolerance="1e-5",
    why="single precision",
    kind="library",
)
@pytest.mark.parametrize("moments", [1, 2, 127, 128, 129, 700])
def test_the_cheapest_path_is_librosas(moments: int) -> None:
    """librosa.sequence.viterbi on the same chances; runs side by side may not change the path (Viterbi, 1967)."""
    dice = np.random.default_rng(moments)
    chance = dice.dirichlet(np.ones(5), size=moments)
    change = dice.dirichlet(np.ones(5), size=5)
    start = np.full(5, 0.2)
    theirs = librosa.sequence.viterbi(chance.T, change, p_init=start)
    cost = -np.log(change)
    ours = best_path(-np.log(chance), lambda at: np.repeat(cost[None], at.size, axis=0))

    def price(path: np.ndarray) -> float:
        return float(-np.log(chance[np.arange(moments), path]).sum() + cost[path[:-1], path[1:]].sum())

    assert price(ours) == pytest.approx(price(theirs), rel=1e-5)
    if moments == 1:
        with pytest.raises(ValueError, match="at least one moment"):
            best_path(np.zeros((0, 3)), lambda at: np.zeros((at.size, 3, 3)))


@pytest.mark.slow
@pytest.mark.outside(
    what="running percentiles", source="numpy.percentile", tolerance="1e-6", why="floating point", kind="library"
)
def test_percentiles_are_numpys() -> None:
    values = np.random.default_rng(1).standard_normal(37)
    for percent in (0, 18, 50, 92, 100):
        assert percentile(values, percent) == pytest.approx(np.percentile(values, percent))
    assert median(values) == pytest.approx(np.median(values))
    with pytest.raises(IndexError):
        median(np.zeros(0))


@pytest.mark.slow
def test_partials_tell_the_pitch_through_another_tone() -> None:
    """Six partials of 220 Hz beside a louder tone a sixth below: the rough pitch is 20 cents off, the partials know."""
    tone = sum(sine(220 * k, 1.0, rate=RATE, level=0.2 / k) for k in range(1, 7)) + sine(131.0, 1.0, rate=RATE)
    frames = RATE // 128
    rough = np.full(frames, 220 * 2 ** (20 / 1200))
    rough[: frames // 3] = np.nan
    track = PitchTrack(np.arange(frames) * HOP_S, rough, np.ones(frames), np.zeros(frames))
    found = refined(track, np.asarray(tone, dtype=np.float32)).pitch_hz
    assert np.isnan(found[: frames // 3]).all()
    # 2 cents: a fifth of what listeners accept in a bend (common practice, no source)
    assert np.abs(1200 * np.log2(found[frames // 3 + 5 : -20] / 220)).max() < 2
    masked = refined(track, np.asarray(tone, dtype=np.float32), np.zeros(frames, dtype=bool)).pitch_hz
    assert np.array_equal(masked, rough, equal_nan=True)


@pytest.mark.slow
@pytest.mark.outside(
    what="the bar recurs in the accents",
    source="J. Brown, JASA 94, 1993: autocorrelation of accents",
    tolerance="50 ms",
    why="a bar begins on the accent, within a hop of the curve",
    kind="derivation",
)
@pytest.mark.parametrize("beats", [3, 4])
def test_the_meter_is_read_off_the_accents(beats: int) -> None:
    """Brown, JASA 94, 1993: what recurs in the accents is the bar."""
    times_s = np.arange(0.3, 24, 0.5)
    sound = sum(
        librosa.clicks(times=times_s[phase::beats], sr=RATE, length=24 * RATE, click_freq=1000) * level
        for phase, level in enumerate((1.0, 0.3, 0.4 if beats == 3 else 0.7, 0.3)[:beats])
    )
    beat_map = find_beats(onset_curve(np.asarray(sound, dtype=np.float32)).flux)
    assert str(beat_map.meter) == f"{beats}/4"
    # a bar begins on the accent
    assert beat_map.first_beat_s is not None
    assert abs((beat_map.first_beat_s - 0.3 + 0.25) % (0.5 * beats) - 0.25) < 0.05


@pytest.mark.outside(
    what="beats of a tempo that drifts",
    source="D. Ellis, JNMR 36, 2007; MIREX beat tracking",
    tolerance="70 ms for 90 %",
    why="the window of the published score",
    kind="derivation",
)
def test_beats_are_followed_where_the_tempo_drifts() -> None:
    """Ellis, JNMR 36, 2007: the chain of beats bends with the tempo; scored within 70 ms (MIREX beat tracking)."""
    times_s = 0.4 + np.cumsum(np.linspace(60 / 96, 60 / 108, 40))
    sound = librosa.clicks(times=times_s, sr=RATE, length=30 * RATE).astype(np.float32)
    beat_map = find_beats(onset_curve(sound).flux)
    beats = np.array([beat.time_s for beat in beat_map.beats_between(times_s[2], times_s[-2])])
    nearest = np.abs(beats[:, None] - times_s).min(axis=1)
    assert np.mean(nearest < 0.07) > 0.9
    assert len(beats) == pytest.approx(37, abs=2)
