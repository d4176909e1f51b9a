"""Guitar inputs: the simulated guitarist plays in time and late, the real one says what is wrong, in one sentence."""

import numpy as np
import pytest
from PyQt6.QtCore import QCoreApplication, Qt
from PyQt6.QtMultimedia import QAudioFormat, QMediaDevices
from pytestqt.qtbot import QtBot

from notcher.core.hearing import draft
from notcher.core.score import Note, Score
from notcher.core.sound import Clip
from notcher.core.synthesis import SKILLS
from notcher.devices import GuitarInput, QtGuitarInput, SimulatedGuitarist, find_guitar_input
from notcher.devices.qt_guitar_input import mono

SCORE = Score((Note(0.2, 0.7, 3, 12), Note(0.8, 1.4, 2, 12)))


def test_the_guitarist_keeps_real_time_and_arrives_late(qtbot: QtBot) -> None:
    guitarist = SimulatedGuitarist(latency_s=0.2, speed=4.0)
    guitarist.expect(SCORE, 0.5)
    assert guitarist.start()
    qtbot.waitUntil(lambda: guitarist.position > 2.4 * guitarist.sample_rate, timeout=5_000)
    assert guitarist.recording
    clip = guitarist.stop()
    assert not guitarist.recording
    assert clip.duration_s > 2.4
    onsets = [note.onset_s for note in draft(clip, tuning=SCORE.tuning).score.notes]
    # half a second of lead, 0.2 s of delay; a steady hand is within 20 ms, the hearing within 15
    assert onsets == pytest.approx([0.9, 1.5], abs=0.035)


def test_every_skill_has_a_name_and_the_level_is_shown(qtbot: QtBot) -> None:
    for name in SKILLS:
        guitarist = SimulatedGuitarist(skill=name)
        assert name in guitarist.description
        assert guitarist.simulated
    guitarist.play_as("in a hurry")
    guitarist.expect_sound(Clip(np.full((44_100, 2), 0.5, np.float32), 44_100), 0.0)
    guitarist._speed = 20.0
    guitarist.start()
    qtbot.waitUntil(lambda: guitarist.level > 0.1, timeout=2_000)
    guitarist.close()
    assert guitarist.level == 0


def test_without_a_device_the_simulated_one_is_taken(qtbot: QtBot) -> None:
    assert find_guitar_input().simulated == (not QMediaDevices.audioInputs())


def said(device: GuitarInput) -> list[str]:
    sentences: list[str] = []
    device.lost.connect(sentences.append)
    return sentences


@pytest.mark.skipif(bool(QMediaDevices.audioInputs()), reason="this machine has an input")
def test_a_real_input_that_is_not_there_says_so(qtbot: QtBot) -> None:
    device = QtGuitarInput()
    sentences = said(device)
    assert not device.start()
    assert sentences == ["There is no audio input any more. Plug it in again, or take a file."]
    assert device.stop().samples.shape == (0, 1)


def test_a_denied_microphone_is_said(qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(QCoreApplication, "checkPermission", lambda *_: Qt.PermissionStatus.Denied)
    device = QtGuitarInput()
    sentences = said(device)
    assert not device.start()
    assert "does not let Notcher hear the input" in sentences[0]


class Held:
    """An input that another program holds: Qt gives no stream for it."""

    def __init__(self, *_: object) -> None: ...
    def setBufferSize(self, _size: int) -> None: ...  # noqa: N802 - Qt's name
    def start(self) -> None: ...
    def stop(self) -> None: ...
    def deleteLater(self) -> None: ...  # noqa: N802


class Plugged:
    """A device with an odd rate and four channels."""

    def isNull(self) -> bool:  # noqa: N802
        return False

    def description(self) -> str:
        return "Stage box"

    def preferredFormat(self) -> QAudioFormat:  # noqa: N802
        odd = QAudioFormat()
        odd.setSampleRate(37_500)
        odd.setChannelCount(4)
        odd.setSampleFormat(QAudioFormat.SampleFormat.Int32)
        return odd

    def isFormatSupported(self, form: QAudioFormat) -> bool:  # noqa: N802
        return form.channelCount() == 4


def test_a_busy_device_is_said_and_an_odd_rate_is_taken(qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("notcher.devices.qt_guitar_input.QMediaDevices.defaultAudioInput", lambda: Plugged())
    monkeypatch.setattr("notcher.devices.qt_guitar_input.QAudioSource", Held)
    device = QtGuitarInput()
    sentences = said(device)
    assert not device.start()
    assert sentences[0].startswith("“Stage box” could not be opened. Check that no other program holds it")
    assert device.sample_rate == 37_500
    assert not device.recording


@pytest.mark.parametrize(
    ("kind", "numbers", "code"),
    [("Int16", "<i2", 16_384), ("Int32", "<i4", 1_073_741_824), ("Float", "<f4", 0.5), ("UInt8", "u1", 192)],
)
def test_every_sample_format_becomes_one_float_channel(kind: str, numbers: str, code: float) -> None:
    form = QAudioFormat()
    form.setChannelCount(2)
    form.setSampleFormat(QAudioFormat.SampleFormat[kind])
    silent = 128 if kind == "UInt8" else 0
    raw = np.array([[code, code], [code, silent], [silent, silent]], dtype=np.dtype(numbers)).tobytes()
    assert mono(raw, form) == pytest.approx([0.5, 0.25, 0.0])
