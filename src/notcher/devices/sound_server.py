"""What the sound server has, and when that changes: Qt does not tell of every device that goes, nor of monitors.

`pactl` comes with PulseAudio and PipeWire; without it only what Qt tells is known.
"""

import shutil
import subprocess
from dataclasses import dataclass

from PyQt6.QtCore import QObject, QProcess, QTimer, pyqtSignal
from PyQt6.QtMultimedia import QMediaDevices

ASK_S, SETTLE_MS = 2.0, 150  # a server answers within this, or not at all; a device comes with several events
MONITOR = ".monitor"
EVENTS = tuple(f"'{what}' on {where} ".encode() for what in ("new", "remove") for where in ("source", "sink"))


@dataclass(frozen=True, slots=True)
class Plugged:
    """What is plugged in now, by the server's names, each with its description."""

    inputs: dict[str, str]
    outputs: dict[str, str]


class SoundServer(QObject):
    """Tells through `changed` that devices came or went."""

    changed = pyqtSignal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._media = QMediaDevices(self)
        self._settle = QTimer(self)
        self._settle.setSingleShot(True)
        self._settle.setInterval(SETTLE_MS)
        self._settle.timeout.connect(self.changed)
        for came_or_went in (self._media.audioInputsChanged, self._media.audioOutputsChanged):
            came_or_went.connect(self._settle.start)
        self._events: QProcess | None = None
        self._pactl = shutil.which("pactl")
        if self._pactl is not None and _listed(self._pactl, "sinks") is not None:
            self._events = QProcess(self)
            self._events.readyReadStandardOutput.connect(self._on_events)
            self._events.start(self._pactl, ["subscribe"])

    def _on_events(self) -> None:
        if self._events is None:
            return
        text = self._events.readAllStandardOutput().data()
        if any(event in text for event in EVENTS):
            self._settle.start()

    @property
    def plugged(self) -> Plugged:
        """What is there now; monitors of outputs are among the inputs, as the last of them."""
        inputs = {bytes(device.id().data()).decode(): device.description() for device in QMediaDevices.audioInputs()}
        outputs = {bytes(device.id().data()).decode(): device.description() for device in QMediaDevices.audioOutputs()}
        sources = _listed(self._pactl, "sources") if self._pactl is not None else None
        sinks = _listed(self._pactl, "sinks") if self._pactl is not None else None
        if sources is None or sinks is None:
            return Plugged(inputs, outputs)
        real = [name for name in sources if not name.endswith(MONITOR)]
        monitors = [name for name in sources if name.endswith(MONITOR)]
        return Plugged(
            {name: inputs.get(name, name) for name in real}
            | {name: f"what {outputs.get(name.removesuffix(MONITOR), name)} plays" for name in monitors},
            {name: outputs.get(name, name) for name in sinks},
        )

    def close(self) -> None:
        """Listen no more."""
        if self._events is not None:
            self._events.kill()
            self._events.waitForFinished(500)
            self._events = None


def _listed(pactl: str, kind: str) -> list[str] | None:
    """The names of all of a kind; None where no server answers."""
    try:
        done = subprocess.run(
            [pactl, "list", "short", kind], capture_output=True, text=True, timeout=ASK_S, check=False
        )
    except (OSError, subprocess.SubprocessError):
        return None
    rows = [line.split("\t") for line in done.stdout.splitlines()]
    return [row[1] for row in rows if len(row) > 1] if done.returncode == 0 else None
