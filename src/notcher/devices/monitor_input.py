"""An input that Qt does not offer, as what an output plays, read from the sound server by its own recorder."""

import shutil

import numpy as np
from PyQt6.QtCore import QObject, QProcess

from notcher.core.arrays import FloatArray
from notcher.core.sound import Clip
from notcher.devices.guitar_input import GuitarInput

RATE, LATENCY_MS, START_MS = 44_100, 30, 3_000


class MonitorInput(GuitarInput):
    """Keeps one channel of a source of the sound server, by its name."""

    def __init__(self, name: str, description: str, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._name, self.description = name, description
        self._process: QProcess | None = None
        self._parts: list[FloatArray] = []
        self._count, self._rest = 0, b""

    @property
    def recording(self) -> bool:
        return self._process is not None

    @property
    def position(self) -> int:
        return self._count

    @property
    def sample_rate(self) -> int:
        return RATE

    @property
    def level(self) -> float:
        return float(np.abs(self._parts[-1]).max()) if self._parts and self._parts[-1].size else 0.0

    def start(self) -> bool:
        recorder = shutil.which("parec")
        if recorder is None:
            self.lost.emit("The sound server's recorder is missing. Install pulseaudio-utils, or choose another input.")
            return False
        self._parts, self._count, self._rest = [], 0, b""
        self._process = QProcess(self)
        self._process.readyReadStandardOutput.connect(self._read)
        self._process.finished.connect(self._on_finished)
        self._process.start(
            recorder,
            [f"--device={self._name}", "--format=float32le", f"--rate={RATE}", "--channels=1", "--raw",
             f"--latency-msec={LATENCY_MS}"],
        )  # fmt: skip
        return self._process.waitForStarted(START_MS)

    def since(self, position: int) -> FloatArray:
        kept = np.concatenate(self._parts) if self._parts else np.zeros(0, dtype=np.float32)
        return kept[max(0, position) :]

    def stop(self) -> Clip:
        process, self._process = self._process, None
        if process is not None:
            process.finished.disconnect(self._on_finished)
            process.terminate()
            process.waitForFinished(START_MS)
            process.deleteLater()
        samples, self._parts = self.since(0), []
        return Clip(samples[:, None], RATE, "take")

    def _read(self) -> None:
        if self._process is None:
            return
        raw = self._rest + self._process.readAllStandardOutput().data()
        whole = len(raw) // 4 * 4
        self._rest = raw[whole:]
        if whole:
            self._parts.append(np.frombuffer(raw[:whole], dtype="<f4").astype(np.float32))
            self._count += whole // 4

    def _on_finished(self) -> None:
        if self._process is not None:
            self._process = None  # what was kept stays, so that a take is not lost with its device
            self.lost.emit("The guitar input went away. What was played until then is kept; plug it in to go on.")
