"""A loudspeaker for machines without one: keeps time, keeps what it was given."""

import numpy as np
from PyQt6.QtCore import QElapsedTimer, QObject, QTimer

from notcher.core.arrays import FloatArray
from notcher.devices.loudspeaker import Loudspeaker, SampleSource

TICK_MS = 20  # as the real one
KEPT_S = 600  # of what was played, for the tests to hear


class SimulatedLoudspeaker(Loudspeaker):
    """Takes sound in real time; `heard` returns what a listener would have got.

    speed: how many seconds pass in one, for tests.
    """

    description = "simulated loudspeaker: this machine has no sound device"
    simulated = True

    def __init__(self, parent: QObject | None = None, *, speed: float = 1.0) -> None:
        super().__init__(parent)
        self._taken, self._speed = 0, speed
        self._kept: list[FloatArray] = []
        self._clock = QElapsedTimer()
        self._timer = QTimer(self)
        self._timer.setInterval(TICK_MS)
        self._timer.timeout.connect(self._on_tick)

    def play(self, source: SampleSource) -> None:
        self._source, self._taken, self._kept = source, 0, []
        self._clock.start()
        self._timer.start()

    def stop(self) -> None:
        self._timer.stop()
        self._source = None

    @property
    def position(self) -> int:
        return self._due if self._source is not None else self._taken

    @property
    def _due(self) -> int:
        """How much would have been heard by now; what was taken follows tick by tick."""
        rate = self._source.sample_rate if self._source is not None else 0
        return round(self._clock.nsecsElapsed() * 1e-9 * self._speed * rate)

    def heard(self) -> FloatArray:
        """Return everything taken since `play`, shape (n, 2), at the source's rate."""
        return np.concatenate(self._kept) if self._kept else np.zeros((0, 2), dtype=np.float32)

    def _on_tick(self) -> None:
        if self._source is None:
            return
        due = self._due
        if due > self._taken:
            part = self._source.read(self._taken, due - self._taken)
            self._taken = due
            self._kept.append(part)
        if self._taken > KEPT_S * self._source.sample_rate and len(self._kept) > 1:
            self._kept.pop(0)
