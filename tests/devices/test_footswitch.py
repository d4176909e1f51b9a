"""Footswitches: MIDI bytes as the specification has them, a device made of a pipe, and keys."""

import os
from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QWidget
from pytestqt.qtbot import QtBot

from notcher.devices import Footswitch, KeyFootswitch, MidiFootswitch, find_footswitch
from notcher.devices.footswitch import MidiBytes


# MIDI 1.0 Detailed Specification: status bytes 0x80 up, running status, real-time bytes anywhere, 1 or 2 data bytes.
@pytest.mark.outside(
    what="running status, real-time bytes and message lengths of MIDI",
    source="MIDI 1.0 Detailed Specification",
    tolerance="exact",
    why="bytes",
    kind="standard",
)
@pytest.mark.parametrize(
    ("raw", "messages"),
    [
        ([0xB0, 64, 127], [(0xB0, 64, 127)]),
        ([0xB0, 64, 127, 64, 0], [(0xB0, 64, 127), (0xB0, 64, 0)]),
        ([0xB3, 0xF8, 64, 0xFE, 127], [(0xB3, 64, 127)]),
        ([0xC0, 5, 6], [(0xC0, 5, 0), (0xC0, 6, 0)]),
        ([0xF0, 1, 2, 3, 0xF7, 0xB0, 66, 64], [(0xB0, 66, 64)]),
        ([1, 2, 3], []),
        ([0x90, 60, 100], [(0x90, 60, 100)]),
    ],
)
def test_bytes_become_messages(raw: list[int], messages: list[tuple[int, int, int]]) -> None:
    whole, piecewise = MidiBytes(), MidiBytes()
    assert whole.messages(bytes(raw)) == messages
    assert [message for byte in raw for message in piecewise.messages(bytes([byte]))] == messages


def pressed(switch: Footswitch) -> list[int]:
    steps: list[int] = []
    switch.pressed.connect(steps.append)
    return steps


def test_a_midi_device_is_stepped_on_and_unplugged(qtbot: QtBot, tmp_path: Path) -> None:
    """A pipe stands for the raw device: what is read from it is the same."""
    (tmp_path / "snd").mkdir()
    os.mkfifo(tmp_path / "snd" / "midiC1D0")
    switch = find_footswitch(root=tmp_path)
    assert isinstance(switch, MidiFootswitch)
    assert "midiC1D0" in switch.description
    steps, words = pressed(switch), []
    switch.lost.connect(words.append)
    pipe = os.open(tmp_path / "snd" / "midiC1D0", os.O_WRONLY)
    # on from 64; held is one step; another controller is the second switch; a program change is a step too
    os.write(pipe, bytes([0xB0, 64, 127, 64, 100, 64, 0, 64, 64, 64, 63, 0xB0, 66, 127, 0xC0, 1]))
    qtbot.waitUntil(lambda: len(steps) == 4, timeout=2_000)
    assert steps == [1, 1, 2, 2]
    os.close(pipe)
    qtbot.waitUntil(lambda: bool(words), timeout=2_000)
    assert words == ["The footswitch went away. Its two keys F9 and F10 do the same."]
    switch.close()


def test_without_a_device_two_keys_do(qtbot: QtBot, tmp_path: Path) -> None:
    switch = find_footswitch(root=tmp_path)
    assert isinstance(switch, KeyFootswitch)
    assert switch.simulated
    widget = QWidget()
    qtbot.addWidget(widget)
    with qtbot.waitActive(widget):
        widget.show()
        widget.activateWindow()
    switch.attach(widget)
    steps = pressed(switch)
    for key in (Qt.Key.Key_F9, Qt.Key.Key_A, Qt.Key.Key_F10):
        QTest.keyClick(widget, key)
    assert steps == [1, 2]
    switch.close()
