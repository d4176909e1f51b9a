"""Starts a sound server with a silent sink, plays a tone through QtLoudspeaker, records what arrives, checks it."""

import sys
import time

import numpy as np
from PyQt6.QtCore import QCoreApplication
from sound_server import RATE, heard_at, recorded_sink

from notcher.core.arrays import FloatArray


class Tone:
    sample_rate = RATE

    def read(self, first: int, count: int) -> FloatArray:
        wave = 0.5 * np.sin(2 * np.pi * 441 * np.arange(first, first + count) / RATE)
        return np.repeat(wave.astype(np.float32)[:, None], 2, axis=1)


def main() -> int:
    with recorded_sink() as take:
        app = QCoreApplication(sys.argv)
        from notcher.devices import find_loudspeaker

        speaker = find_loudspeaker()
        assert not speaker.simulated, "the server's sink was not found"
        speaker.play(Tone())
        until = time.monotonic() + 12
        while speaker.position < 3 * RATE and time.monotonic() < until:
            app.processEvents()
            time.sleep(0.005)
        assert speaker.position > RATE, f"only {speaker.position} samples in 12 s"
        speaker.close()
    heard = heard_at(take)
    loud = heard[np.flatnonzero(np.abs(heard) > 0.01)[0] :][: 2 * RATE]
    # 441 Hz at 0.5: no step from sample to sample is larger than 2 pi f / rate times the level
    assert np.abs(np.diff(loud)).max() < 1.2 * 0.5 * 2 * np.pi * 441 / RATE
    return 0


if __name__ == "__main__":
    sys.exit(main())
