"""Loudspeakers: the simulated one keeps time and what it was given; the real one plays to a sound server."""

import numpy as np
from pytestqt.qtbot import QtBot

from notcher.core.arrays import FloatArray
from notcher.devices import SimulatedLoudspeaker, find_loudspeaker


class Ramp:
    """A source whose samples count upward, so that every gap would show."""

    sample_rate = 8_000

    def read(self, first: int, count: int) -> FloatArray:
        return np.repeat(np.arange(first, first + count, dtype=np.float32)[:, None], 2, axis=1)


def test_the_simulated_one_hears_everything_in_order_and_in_time(qtbot: QtBot) -> None:
    speaker = SimulatedLoudspeaker()
    speaker.play(Ramp())
    assert speaker.playing
    qtbot.waitUntil(lambda: speaker.position > 1_600, timeout=3_000)
    heard = speaker.heard()[:, 0]
    speaker.stop()
    assert np.array_equal(heard, np.arange(heard.size))
    assert not speaker.playing
    speaker.play(Ramp())
    assert speaker.position == 0, "a new source starts at its beginning"
    speaker.close()


def test_time_passes_faster_when_told(qtbot: QtBot) -> None:
    speaker = SimulatedLoudspeaker(speed=50.0)
    speaker.play(Ramp())
    qtbot.waitUntil(lambda: speaker.position > 8_000 * 5, timeout=2_000)
    speaker.stop()


def test_without_a_device_the_simulated_one_is_taken(qtbot: QtBot) -> None:
    from PyQt6.QtMultimedia import QMediaDevices

    speaker = find_loudspeaker()
    assert speaker.simulated == (not QMediaDevices.audioOutputs())
    assert speaker.description
    speaker.close()
