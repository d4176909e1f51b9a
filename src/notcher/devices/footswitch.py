"""Footswitches: one that speaks MIDI through a raw device, and one made of keys."""

import contextlib
import os
from pathlib import Path

from PyQt6.QtCore import QObject, QSocketNotifier, Qt, pyqtSignal
from PyQt6.QtGui import QKeySequence, QShortcut
from PyQt6.QtWidgets import QWidget

SWITCHES = 2  # the usual pedal has two
MIDI_DEVICES = ("snd/midiC*D*", "midi*")
CONTROL_CHANGE, PROGRAM_CHANGE, ON_FROM = 0xB0, 0xC0, 64
"""MIDI 1.0 Detailed Specification (MIDI Association, 1996): a switch is off below 64 and on from there."""


class Footswitch(QObject):
    """Tells which switch was stepped on, 1 or 2."""

    pressed = pyqtSignal(int)
    lost = pyqtSignal(str)
    description = ""
    simulated = False

    def attach(self, window: QWidget) -> None:
        """Work while this window does; only keys need one."""

    def close(self) -> None:
        """Let the device go."""


class KeyFootswitch(Footswitch):
    """Two keys in place of two switches; a pedal that types, as most with a plug do, can be set to them."""

    description = "keys F9 and F10 in place of a footswitch"
    simulated = True
    KEYS = (Qt.Key.Key_F9, Qt.Key.Key_F10)

    def attach(self, window: QWidget) -> None:
        for number, key in enumerate(self.KEYS, start=1):
            shortcut = QShortcut(QKeySequence(key), window)
            shortcut.setAutoRepeat(False)
            shortcut.activated.connect(lambda number=number: self.pressed.emit(number))


class MidiFootswitch(Footswitch):
    """Reads a raw MIDI device: a controller that goes on, or a program change, is a step on a switch.

    The first controller that speaks is switch 1, the next one 2. Raises: OSError when the device cannot be opened.
    """

    def __init__(self, device: Path, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.description = f"MIDI footswitch at {device.name}"
        self._file = os.open(device, os.O_RDONLY | os.O_NONBLOCK)
        self._bytes = MidiBytes()
        self._seen: list[int] = []
        self._on: set[int] = set()
        self._notifier: QSocketNotifier | None = QSocketNotifier(
            self._file,  # type: ignore[call-overload]  # the stub knows only a pointer
            QSocketNotifier.Type.Read,
            self,
        )
        self._notifier.activated.connect(self._on_bytes)

    def close(self) -> None:
        if self._notifier is not None:
            self._notifier.setEnabled(False)
            self._notifier.deleteLater()
            self._notifier = None
            os.close(self._file)

    def _on_bytes(self) -> None:
        try:
            raw = os.read(self._file, 256)
        except BlockingIOError:
            return
        except OSError:
            raw = b""
        if not raw:
            self.close()
            self.lost.emit("The footswitch went away. Its two keys F9 and F10 do the same.")
            return
        for status, first, second in self._bytes.messages(raw):
            self._on_message(status, first, second)

    def _on_message(self, status: int, first: int, second: int) -> None:
        if status & 0xF0 == PROGRAM_CHANGE:
            self.pressed.emit(first % SWITCHES + 1)
        elif status & 0xF0 == CONTROL_CHANGE:
            if first not in self._seen:
                self._seen.append(first)
            down = second >= ON_FROM
            if down and first not in self._on:
                self.pressed.emit(self._seen.index(first) % SWITCHES + 1)
            (self._on.add if down else self._on.discard)(first)


class MidiBytes:
    """Puts bytes together to channel messages, running status and real-time bytes in between included.

    mido's parser (1.3.3) does neither: it loses the second step of a pedal that leaves the status out, and a message
    that a clock tick falls into.
    """

    def __init__(self) -> None:
        self._status = 0
        self._data: list[int] = []

    def messages(self, raw: bytes) -> list[tuple[int, int, int]]:
        """Return (status, first, second) of each message that is complete now; second is 0 where there is none."""
        result = []
        for byte in raw:
            if byte >= 0xF8:
                continue  # real time: may stand anywhere
            if byte >= 0x80:
                self._status, self._data = (byte if byte < 0xF0 else 0), []
                continue
            if not self._status:
                continue  # inside a system message
            self._data.append(byte)
            needed = 1 if self._status & 0xE0 == 0xC0 else 2
            if len(self._data) == needed:
                result.append((self._status, self._data[0], self._data[1] if needed == 2 else 0))
                self._data = []
        return result


def midi_devices(root: Path = Path("/dev")) -> list[Path]:
    """Return the raw MIDI devices of this machine."""
    return [path for pattern in MIDI_DEVICES for path in sorted(root.glob(pattern))]


def find_footswitch(parent: QObject | None = None, *, root: Path = Path("/dev")) -> Footswitch:
    """Return the first MIDI device that can be opened as a footswitch, or two keys."""
    for device in midi_devices(root):
        with contextlib.suppress(OSError):
            return MidiFootswitch(device, parent)
    return KeyFootswitch(parent)
