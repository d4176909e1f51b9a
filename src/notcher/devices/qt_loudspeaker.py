"""The machine's loudspeaker through Qt Multimedia, pulled from memory."""

import numpy as np
from PyQt6.QtCore import QIODevice, QObject, QTimer
from PyQt6.QtMultimedia import QAudioFormat, QAudioSink, QMediaDevices

from notcher.devices.loudspeaker import Loudspeaker, Source

CHANNELS, BYTES = 2, 4
BUFFER_S = 0.2
WATCH_MS, LOST_AFTER = 250, 4
"""A dead sound server says nothing: no progress for this many looks means the device is gone."""


class _Feed(QIODevice):
    """Hands samples to the sink; silence when nothing plays, so that the sink stays open and starts at once."""

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self.source: Source | None = None
        self.given = 0  # samples handed out since the sink was opened
        self.begun_at = 0
        self.open(QIODevice.OpenModeFlag.ReadOnly)

    def begin(self, source: Source | None) -> None:
        self.source, self.begun_at = source, self.given

    def readData(self, maxlen: int) -> bytes:
        count = min(maxlen // (CHANNELS * BYTES), 8192)
        if self.source is None:
            part = np.zeros((count, CHANNELS), dtype=np.float32)
        else:
            part = np.ascontiguousarray(self.source.read(self.given - self.begun_at, count), dtype=np.float32)
        self.given += count
        return part.tobytes()

    def bytesAvailable(self) -> int:
        return 1 << 20

    def isSequential(self) -> bool:
        return True


class QtLoudspeaker(Loudspeaker):
    """Plays through the default output."""

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        device = QMediaDevices.defaultAudioOutput()
        self.description = device.description()
        self._sink: QAudioSink | None = None
        self._feed: _Feed | None = None
        self._rate = 0
        self._seen_usecs, self._still = -1, 0
        self._watch = QTimer(self)
        self._watch.setInterval(WATCH_MS)
        self._watch.timeout.connect(self._on_watch)

    def play(self, source: Source) -> None:
        if self._sink is None or source.sample_rate != self._rate:
            self._open(source.sample_rate)
        if self._feed is not None:
            self._feed.begin(source)
            self._seen_usecs, self._still = -1, 0
            self._watch.start()

    def stop(self) -> None:
        self._watch.stop()
        if self._feed is not None:
            self._feed.begin(None)

    @property
    def playing(self) -> bool:
        return self._feed is not None and self._feed.source is not None

    @property
    def position(self) -> int:
        if self._sink is None or self._feed is None:
            return 0
        processed = round(self._sink.processedUSecs() * 1e-6 * self._rate)
        return int(np.clip(processed - self._feed.begun_at, 0, self._feed.given - self._feed.begun_at))

    def close(self) -> None:
        self.stop()
        if self._sink is not None:
            self._sink.stop()
            self._sink.deleteLater()
            self._sink = None
        if self._feed is not None:
            self._feed.close()
            self._feed = None

    def _open(self, sample_rate: int) -> None:
        self.close()
        wanted = QAudioFormat()
        wanted.setSampleRate(sample_rate)
        wanted.setChannelCount(CHANNELS)
        wanted.setSampleFormat(QAudioFormat.SampleFormat.Float)
        device = QMediaDevices.defaultAudioOutput()
        if device.isNull() or not device.isFormatSupported(wanted):
            self.lost.emit(f"The loudspeaker cannot play {sample_rate} Hz stereo. Choose another output in the system.")
            return
        self._rate = sample_rate
        self._sink = QAudioSink(device, wanted, self)
        self._sink.setBufferSize(round(BUFFER_S * sample_rate) * CHANNELS * BYTES)
        self._feed = _Feed(self)
        self._sink.start(self._feed)

    def _on_watch(self) -> None:
        if self._sink is None:
            return
        usecs = self._sink.processedUSecs()
        self._still = self._still + 1 if usecs == self._seen_usecs else 0
        self._seen_usecs = usecs
        if self._still >= LOST_AFTER:
            self.close()
            self.lost.emit("The loudspeaker stopped answering. Check the sound settings; the work goes on in silence.")
