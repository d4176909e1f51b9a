"""Loudspeakers: the simulated one keeps time and what it was given; the real one plays to a sound server."""

import numpy as np
import pytest
from pytestqt.qtbot import QtBot

from notcher.core.arrays import FloatArray
from notcher.devices import QtLoudspeaker, SimulatedLoudspeaker, find_loudspeaker


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
    assert speaker.position < 800, "a new source starts at its beginning: not a tenth of a second has passed"
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


class Plugged:
    """A device as Qt describes one."""

    def __init__(self, *, supported: bool = True) -> None:
        self._supported = supported

    def isNull(self) -> bool:  # noqa: N802 - Qt's name
        return False

    def isFormatSupported(self, _form: object) -> bool:  # noqa: N802
        return self._supported

    def description(self) -> str:
        return "Practice amp"


class Sink:
    """A sink that another program holds (no stream), or one whose server died (a stream that goes nowhere)."""

    held = True

    def __init__(self, *_: object) -> None: ...
    def setBufferSize(self, _size: int) -> None: ...  # noqa: N802
    def start(self) -> object:
        return None if self.held else self

    def write(self, raw: bytes) -> int:
        return len(raw)

    def bytesFree(self) -> int:  # noqa: N802
        return 8_000

    def processedUSecs(self) -> int:  # noqa: N802
        return 0

    def stop(self) -> None: ...
    def deleteLater(self) -> None: ...  # noqa: N802


@pytest.mark.parametrize(
    ("supported", "held", "words"),
    [
        (False, True, "cannot play 8000 Hz stereo. Choose another output"),
        (True, True, "could not be opened. Check that no other program holds it."),
        (True, False, "stopped answering. Check the sound settings; the work goes on in silence."),
    ],
)
def test_what_is_wrong_with_a_real_one_is_said(
    qtbot: QtBot, monkeypatch: pytest.MonkeyPatch, supported: bool, held: bool, words: str
) -> None:
    module = "notcher.devices.qt_loudspeaker"
    monkeypatch.setattr(f"{module}.QMediaDevices.defaultAudioOutput", lambda: Plugged(supported=supported))
    monkeypatch.setattr(f"{module}.QAudioSink", type("One", (Sink,), {"held": held}))
    monkeypatch.setattr(f"{module}.WATCH_MS", 10)
    speaker = QtLoudspeaker()
    said: list[str] = []
    speaker.lost.connect(said.append)
    speaker.play(Ramp())
    qtbot.waitUntil(lambda: bool(said), timeout=3_000)
    assert words in said[0]
    assert not speaker.playing
    speaker.close()
    assert speaker.position == 0
