"""The machine's loudspeaker through Qt Multimedia, fed ahead of time from memory."""

import os

import numpy as np
from PyQt6.QtCore import QIODevice, QObject, QTimer
from PyQt6.QtMultimedia import QAudioDevice, QAudioFormat, QAudioSink, QMediaDevices

from notcher.devices.loudspeaker import Loudspeaker, SampleSource

CHANNELS, BYTES = 2, 4  # stereo, 32-bit floats
FRAME_BYTES = CHANNELS * BYTES
BUFFER_S, FEED_MS = 0.3, 20  # survives a busy window; refilled fifteen times within it
SERVER_MS = int(os.environ.setdefault("PULSE_LATENCY_MSEC", "300"))
"""What the sound server holds ahead. Qt asks it for some 17 ms, which left gaps whenever the machine was busy; at
300 ms there were none (measured). The variable is libpulse's own and has to be set before Qt first talks to it."""
WATCH_MS, LOST_AFTER, BEGINS_WITHIN = 250, 6, 24
"""A dead sound server says nothing: no progress for this many looks means the device is gone. The first sound takes a
second on a machine at rest, and several where it is busy (measured); until then it may take the third number."""


class QtLoudspeaker(Loudspeaker):
    """Plays through an output; silent in between, so that the device stays open and starts at once."""

    def __init__(self, parent: QObject | None = None, *, name: str = "") -> None:
        """name: the sound server's; empty for the system's choice."""
        super().__init__(parent)
        self._name = name
        self.description = self._device.description()
        self._sink: QAudioSink | None = None
        self._inlet: QIODevice | None = None
        self._rate = 0
        self._given, self._begun_at = 0, 0  # samples handed out since the sink was opened
        self._seen_usecs, self._still = -1, 0
        self._feed, self._watch = QTimer(self), QTimer(self)
        self._feed.setInterval(FEED_MS)
        self._watch.setInterval(WATCH_MS)
        self._feed.timeout.connect(self._on_feed)
        self._watch.timeout.connect(self._on_watch)

    @property
    def _device(self) -> QAudioDevice:
        named = (device for device in QMediaDevices.audioOutputs() if device.id().data() == self._name.encode())
        return next(named, QMediaDevices.defaultAudioOutput())

    def play(self, source: SampleSource) -> None:
        if self._sink is None or source.sample_rate != self._rate:
            self._open(source.sample_rate)
        if self._sink is not None:
            self._source, self._begun_at = source, self._given
            self._seen_usecs, self._still = -1, 0
            self._watch.start()
            self._on_feed()

    def stop(self) -> None:
        self._watch.stop()
        self._source = None

    @property
    def position(self) -> int:
        if self._sink is None:
            return 0
        processed = round((self._sink.processedUSecs() * 1e-6 - SERVER_MS / 1000) * self._rate)
        return int(np.clip(processed - self._begun_at, 0, self._given - self._begun_at))

    def close(self) -> None:
        self.stop()
        self._feed.stop()
        if self._sink is not None:
            self._sink.stop()
            self._sink.deleteLater()
        self._sink, self._inlet = None, None

    def _open(self, sample_rate: int) -> None:
        self.close()
        wanted = QAudioFormat()
        wanted.setSampleRate(sample_rate)
        wanted.setChannelCount(CHANNELS)
        wanted.setSampleFormat(QAudioFormat.SampleFormat.Float)
        device = self._device
        if device.isNull() or not device.isFormatSupported(wanted):
            self.lost.emit(f"The loudspeaker cannot play {sample_rate} Hz stereo. Choose another output in the system.")
            return
        self._rate, self._given, self._begun_at = sample_rate, 0, 0
        self._sink = QAudioSink(device, wanted, self)
        self._sink.setBufferSize(round(BUFFER_S * sample_rate) * FRAME_BYTES)
        self._inlet = self._sink.start()
        if self._inlet is None:
            self.close()
            self.lost.emit("The loudspeaker could not be opened. Check that no other program holds it.")
            return
        self._feed.start()

    def _on_feed(self) -> None:
        """Fill what is free; silence when nothing plays."""
        if self._sink is None or self._inlet is None:
            return
        count = self._sink.bytesFree() // FRAME_BYTES
        if count <= 0:
            return
        if self._source is None:
            part = np.zeros((count, CHANNELS), dtype=np.float32)
        else:
            part = np.ascontiguousarray(self._source.read(self._given - self._begun_at, count), dtype=np.float32)
        written = self._inlet.write(part.tobytes())
        self._given += max(0, written) // FRAME_BYTES

    def _on_watch(self) -> None:
        if self._sink is None:
            return
        usecs = self._sink.processedUSecs()
        self._still = self._still + 1 if usecs == self._seen_usecs else 0
        self._seen_usecs = usecs
        if self._still >= (LOST_AFTER if usecs > 0 else BEGINS_WITHIN):
            self.close()
            self.lost.emit("The loudspeaker stopped answering. Check the sound settings; the work goes on in silence.")
