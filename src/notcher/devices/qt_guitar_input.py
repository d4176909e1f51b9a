"""The machine's audio input through Qt Multimedia."""

from typing import Any

import numpy as np
from PyQt6.QtCore import QCoreApplication, QIODevice, QMicrophonePermission, QObject, Qt, QTimer
from PyQt6.QtMultimedia import QAudio, QAudioDevice, QAudioFormat, QAudioSource, QMediaDevices

from notcher.core.arrays import FloatArray
from notcher.core.sound import Clip
from notcher.devices.guitar_input import GuitarInput

USUAL_RATE, BUFFER_S, TICK_MS = 44_100, 0.5, 20  # Hz; held against a busy window; read as the loudspeaker is fed
LOST_AFTER_TICKS = 150
"""Nothing arriving for three seconds means that the device is gone; a dead server does not say so."""
FORMATS: dict[QAudioFormat.SampleFormat, tuple[Any, float]] = {
    QAudioFormat.SampleFormat.Float: (np.dtype("<f4"), 1.0),
    QAudioFormat.SampleFormat.Int16: (np.dtype("<i2"), 32_768.0),
    QAudioFormat.SampleFormat.Int32: (np.dtype("<i4"), 2_147_483_648.0),
    QAudioFormat.SampleFormat.UInt8: (np.dtype("u1"), 128.0),
}


class QtGuitarInput(GuitarInput):
    """Keeps an input's sound, mixed to one channel, at whatever rate the device has."""

    def __init__(self, parent: QObject | None = None, *, name: str = "") -> None:
        """name: the sound server's; empty for the system's choice."""
        super().__init__(parent)
        self._name = name
        self.description = self._device.description()
        self._source: QAudioSource | None = None
        self._outlet: QIODevice | None = None
        self._format = QAudioFormat()
        self._parts: list[FloatArray] = []
        self._count, self._still, self._rest = 0, 0, b""
        self._ticks = QTimer(self)
        self._ticks.setInterval(TICK_MS)
        self._ticks.timeout.connect(self._on_tick)

    @property
    def _device(self) -> QAudioDevice:
        named = (device for device in QMediaDevices.audioInputs() if device.id().data() == self._name.encode())
        return next(named, QMediaDevices.defaultAudioInput())

    @property
    def recording(self) -> bool:
        return self._source is not None

    @property
    def position(self) -> int:
        return self._count

    @property
    def sample_rate(self) -> int:
        return self._format.sampleRate() if self._format.isValid() else USUAL_RATE

    @property
    def level(self) -> float:
        return float(np.abs(self._parts[-1]).max()) if self._parts and self._parts[-1].size else 0.0

    def start(self) -> bool:
        application = QCoreApplication.instance()
        denied = Qt.PermissionStatus.Denied
        if application is not None and application.checkPermission(QMicrophonePermission()) == denied:
            return self._refused(
                "The system does not let Notcher hear the input. Allow the microphone in its settings."
            )
        device = self._device
        if device.isNull():
            return self._refused("There is no audio input any more. Plug it in again, or take a file.")
        self._format = self._fitting(device.preferredFormat())
        if not device.isFormatSupported(self._format):
            self._format = device.preferredFormat()
        if self._format.sampleFormat() not in FORMATS:
            return self._refused(
                f"“{device.description()}” gives sound that Notcher cannot read. Choose another input."
            )
        self._parts, self._count, self._still, self._rest = [], 0, 0, b""
        self._source = QAudioSource(device, self._format, self)
        self._source.setBufferSize(round(BUFFER_S * self.sample_rate) * self._format.bytesPerFrame())
        self._outlet = self._source.start()
        if self._outlet is None or self._source.error() != QAudio.Error.NoError:
            self._release()
            return self._refused(
                f"“{device.description()}” could not be opened. Check that no other program holds it, then try again."
            )
        self._ticks.start()
        return True

    def since(self, position: int) -> FloatArray:
        later, end = [], self._count
        for part in reversed(self._parts):
            if end <= position:
                break
            later.append(part)
            end -= part.size
        samples = np.concatenate(later[::-1]) if later else np.zeros(0, dtype=np.float32)
        return samples[max(0, position - end) :]

    def stop(self) -> Clip:
        if self._outlet is not None:
            self._read()
        self._release()
        samples = np.concatenate(self._parts) if self._parts else np.zeros(0, dtype=np.float32)
        self._parts = []
        return Clip(samples[:, None], self.sample_rate, "take")

    def _fitting(self, preferred: QAudioFormat) -> QAudioFormat:
        """One float channel at the usual rate, or at the device's own where that is another."""
        wanted = QAudioFormat(preferred)
        wanted.setSampleRate(preferred.sampleRate() if preferred.sampleRate() > 0 else USUAL_RATE)
        wanted.setChannelCount(1)
        wanted.setSampleFormat(QAudioFormat.SampleFormat.Float)
        return wanted

    def _refused(self, sentence: str) -> bool:
        self.lost.emit(sentence)
        return False

    def _release(self) -> None:
        self._ticks.stop()
        if self._source is not None:
            self._source.stop()
            self._source.deleteLater()
        self._source, self._outlet = None, None

    def _read(self) -> None:
        """Take what has arrived; a frame that is still incomplete waits for the rest."""
        if self._outlet is None:
            return
        raw = self._rest + self._outlet.readAll().data()
        whole = len(raw) // self._format.bytesPerFrame() * self._format.bytesPerFrame()
        self._rest = raw[whole:]
        if whole:
            self._parts.append(mono(raw[:whole], self._format))
            self._count += self._parts[-1].size

    def _on_tick(self) -> None:
        before = self._count
        self._read()
        self._still = self._still + 1 if self._count == before else 0
        lost = self._device.isNull()
        failed = self._source is not None and self._source.error() not in (
            QAudio.Error.NoError,
            QAudio.Error.UnderrunError,
        )
        if lost or failed or self._still > LOST_AFTER_TICKS:
            self._release()  # what was kept stays, so that a take is not lost with its device
            self.lost.emit("The guitar input went away. What was played until then is kept; plug it in to go on.")


def mono(raw: bytes, form: QAudioFormat) -> FloatArray:
    """Return whole frames as one channel, float32, full scale ±1. Raises: ValueError for a format nobody reads."""
    if form.sampleFormat() not in FORMATS:
        raise ValueError("no such sample format")
    kind, full = FORMATS[form.sampleFormat()]
    values = np.frombuffer(raw, dtype=kind).astype(np.float32)
    if form.sampleFormat() == QAudioFormat.SampleFormat.UInt8:
        values = values - np.float32(128)
    return np.asarray(values.reshape(-1, max(1, form.channelCount())).mean(axis=1) / np.float32(full))
