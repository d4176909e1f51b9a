"""How late a take arrives: clicks through a muffled cable, claps with human scatter, and what is refused."""

import numpy as np
import pytest

from notcher.core.proving import LatencyError, calibration_clicks, clap_delay_s, loop_back_delay_s
from notcher.core.sound import Clip

RATE = 44_100


def through(delay_s: float, *, level: float = 0.2, noise: float = 0.003, rate: int = RATE) -> tuple[Clip, np.ndarray]:
    clicks, times_s = calibration_clicks(rate)
    dice = np.random.default_rng(1)
    early = clicks.samples[max(0, round(-delay_s * rate)) :, 0]
    sound = np.concatenate([np.zeros(max(0, round(delay_s * rate))), level * early, np.zeros(rate)])
    muffled = np.convolve(sound, np.ones(5) / 5, "same") + noise * dice.standard_normal(sound.size)
    return Clip(muffled[:, None].astype(np.float32), rate), times_s


@pytest.mark.slow
@pytest.mark.parametrize("rate", [44_100, 48_000, 22_050])
@pytest.mark.parametrize("delay_s", [-0.1, 0.0, 0.0123, 0.18, 0.78, 1.4])
def test_a_cable_is_measured_to_a_tenth_of_a_millisecond(delay_s: float, rate: int) -> None:
    clip, times_s = through(delay_s, rate=rate)
    # half a sample each way where the delay falls between two, and the filter's own two samples
    assert loop_back_delay_s(clip, times_s) == pytest.approx(delay_s, abs=2.5 / rate + 1e-4)


@pytest.mark.outside(
    what="scatter of hands around a click",
    source="B. Repp, Psychonomic Bulletin & Review 12, 2005",
    tolerance="15 ms",
    why="one standard deviation of the planted scatter",
    kind="memory",
)
def test_claps_are_measured_within_their_own_scatter() -> None:
    """Hands scatter by 10 to 30 ms around a click (B. Repp, Psychonomic Bulletin & Review 12, 2005): 15 ms here."""
    _, times_s = calibration_clicks(RATE, even=True)
    dice = np.random.default_rng(2)
    sound = 0.002 * dice.standard_normal(RATE * 9)
    for time_s in times_s:
        first = round((time_s + 0.16 - 0.03 + dice.normal(0, 0.015)) * RATE)
        sound[first : first + 1500] += 0.4 * dice.standard_normal(1500) * np.exp(-np.arange(1500) / 250)
    clip = Clip(sound[:, None].astype(np.float32), RATE)
    assert clap_delay_s(clip, times_s) == pytest.approx(0.13, abs=0.015)


def test_what_cannot_be_measured_is_said() -> None:
    clip, times_s = through(0.1, level=0.0)
    with pytest.raises(LatencyError, match=r"at most -3\d dBFS, but only \d of 8 clicks"):
        loop_back_delay_s(clip, times_s)
    nothing = Clip(np.zeros((RATE * 6, 1), np.float32), RATE)
    with pytest.raises(LatencyError, match="Nothing came back through the input: its loudest moment is silence"):
        loop_back_delay_s(nothing, times_s)
    _, times_s = calibration_clicks(RATE, even=True)
    silent = Clip(np.zeros((RATE * 6, 1), np.float32), RATE)
    with pytest.raises(LatencyError, match="Too few claps"):
        clap_delay_s(silent, times_s)
    dice = np.random.default_rng(3)
    sound = np.zeros(RATE * 9)
    for time_s in times_s:
        first = round((time_s + dice.uniform(-0.2, 0.25)) * RATE)
        sound[first : first + 1500] += 0.4 * dice.standard_normal(1500) * np.exp(-np.arange(1500) / 250)
    with pytest.raises(LatencyError, match="scatters by"):
        clap_delay_s(Clip(sound[:, None].astype(np.float32), RATE), times_s)


def test_clicks_that_a_loudspeaker_has_changed_are_told_by_their_beginnings() -> None:
    """Loud, overdriven and ringing in a room: no click is like itself any more, all eight are there."""
    clicks, times_s = calibration_clicks(RATE)
    dice = np.random.default_rng(4)
    room = dice.standard_normal(round(0.12 * RATE)) * np.exp(-np.arange(round(0.12 * RATE)) / 900)
    sound = np.convolve(np.abs(clicks.samples[:, 0]), room)
    sound = np.clip(3 * sound / np.abs(sound).max(), -0.78, 0.78)
    late = np.concatenate([np.zeros(round(0.31 * RATE)), sound, np.zeros(RATE)]) + 0.001 * dice.standard_normal(
        sound.size + round(0.31 * RATE) + RATE
    )
    delay_s = loop_back_delay_s(Clip(late[:, None].astype(np.float32), RATE), times_s)
    assert delay_s == pytest.approx(0.31, abs=0.006), (
        "beginnings are told to two milliseconds, three windows of a click"
    )
