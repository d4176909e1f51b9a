"""Delay effects: found where one is, with its published cepstral signature, and taken out."""

import numpy as np
import pytest

from lead_cases import make_case, render_case
from notcher.core.hearing.echo import find_echo, without_echo
from notcher.core.hearing.pitch import RATE
from notcher.core.sound import resampled


@pytest.fixture(scope="module")
def dry() -> np.ndarray:
    clip = render_case(make_case(102, length_s=20.0))
    return np.asarray(resampled(clip.samples[:, 0], from_rate=clip.sample_rate, to_rate=RATE))


def echoed(sound: np.ndarray, lag: int, gain: float, *, feeds_back: bool) -> np.ndarray:
    result = sound.copy()
    for first in range(lag, sound.size, lag):
        last = min(first + lag, sound.size)
        source = result if feeds_back else sound
        result[first:last] += gain * source[first - lag : last - lag]
    return result


# Bogert, Healy and Tukey, 1963: log|1 + g e^-jwL|^2 = 2 sum (-1)^(k+1) g^k / k cos(kwL); with feedback all plus.
@pytest.mark.outside(
    what="the cepstrum of an echo",
    source="B. Bogert, M. Healy, J. Tukey, 1963: series of log|1 + g e^-jwL|",
    tolerance="1 ms; 0.03 of its gain",
    why="one step of the cepstrum",
    kind="derivation",
)
@pytest.mark.parametrize(
    ("lag_s", "gain", "feeds_back"), [(0.32, 0.25, False), (0.45, 0.4, False), (0.375, 0.35, True)]
)
def test_a_delay_is_measured_and_taken_out(dry: np.ndarray, lag_s: float, gain: float, feeds_back: bool) -> None:
    wet = echoed(dry, round(lag_s * RATE), gain, feeds_back=feeds_back)
    echo = find_echo(wet)
    assert echo is not None
    assert echo.lag_s == pytest.approx(lag_s, abs=1 / RATE)
    assert echo.gain == pytest.approx(gain, abs=0.03)
    assert echo.feeds_back == feeds_back
    left = without_echo(wet, echo) - dry
    # three hundredths of gain left over are 30 dB below the guitar
    assert np.sqrt(np.mean(left**2)) < 10 ** (-28 / 20) * np.sqrt(np.mean(dry**2))


def test_a_dry_guitar_that_repeats_itself_is_no_echo(dry: np.ndarray) -> None:
    assert find_echo(dry) is None
    assert find_echo(np.zeros(20 * RATE, dtype=np.float32)) is None
    assert find_echo(dry[: RATE // 2]) is None, "too short to tell"
