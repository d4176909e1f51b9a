"""Loudspeakers: the simulated one keeps time and what it was given; the real one plays to a sound server."""

import os
import shutil
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest
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


PULSE = shutil.which("pulseaudio")


@pytest.mark.skipif(PULSE is None, reason="no sound server on this machine")
def test_the_real_one_plays_through_a_sound_server(tmp_path: Path) -> None:
    """A sound server without hardware; in a process of its own, since Qt looks for devices once.

    A machine that is busy elsewhere may stall the server itself, so one run of three without a gap is asked for.
    """
    script = Path(__file__).with_name("play_through_server.py")
    said = []
    for attempt in range(3):
        runtime = tmp_path / f"run{attempt}"
        runtime.mkdir(mode=0o700)
        environment = {**os.environ, "XDG_RUNTIME_DIR": str(runtime), "PULSE_SERVER": f"unix:{runtime}/pulse/native"}
        command = [sys.executable, str(script)]
        done = subprocess.run(command, env=environment, capture_output=True, text=True, timeout=60, check=False)
        if done.returncode == 0:
            return
        said.append(done.stdout + done.stderr)
    pytest.fail("\n".join(said))
