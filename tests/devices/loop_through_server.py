"""Plays a counted-in loop through a sound server with a silent sink, by the player itself, and checks what arrives."""

import os
import subprocess
import sys
import time
from pathlib import Path

import numpy as np
from PyQt6.QtCore import QCoreApplication
from sound_server import started

from notcher.core.score import BeatMap
from notcher.core.sound import Clip

RATE = 44_100


def main() -> int:
    server = started(f"module-null-sink sink_name=nul rate={RATE} channels=2")
    take = Path(os.environ["XDG_RUNTIME_DIR"]) / "loop.raw"
    record = ["parecord", "--raw", "--format=float32le", f"--rate={RATE}", "--channels=2", "--latency-msec=20", "-d",
              "nul.monitor", str(take)]  # fmt: skip
    recorder = subprocess.Popen(record)
    try:
        app = QCoreApplication(sys.argv)
        from notcher.devices import find_loudspeaker
        from notcher.ui.playback.player import Player
        from notcher.ui.state.jobs import Jobs

        speaker, jobs = find_loudspeaker(), Jobs()
        assert not speaker.simulated, "the server's sink was not found"
        player, rounds = Player(speaker, jobs), []
        player.went_round.connect(lambda: rounds.append(player.time_s))
        tone = 0.5 * np.sin(2 * np.pi * 441 * np.arange(6 * RATE) / RATE).astype(np.float32)
        player.load(Clip(np.column_stack([tone, tone]), RATE), BeatMap.steady(120, 0.0))
        player.set_loop((2.0, 3.0))  # whole periods: the seam can be as smooth as the tone
        player.play()
        until = time.monotonic() + 20
        while len(rounds) < 3 and time.monotonic() < until:
            app.processEvents()
            time.sleep(0.005)
        assert len(rounds) == 3, f"it went round {len(rounds)} times in 20 s"
        player.stop()
        jobs.shut_down()
        speaker.close()
    finally:
        recorder.terminate()
        recorder.wait()
        server.terminate()
        server.wait()
    raw = take.read_bytes()
    heard = np.frombuffer(raw[: len(raw) // 8 * 8], dtype=np.float32).reshape(-1, 2)[:, 0]
    block = RATE // 100
    loud = np.abs(heard[: heard.size // block * block]).reshape(-1, block).max(axis=1) > 0.05
    begins = np.flatnonzero(loud & ~np.concatenate([[False], loud[:-1]])) / 100
    # four clicks, half a second apart at 120, then the loop on the next beat
    assert np.allclose(np.diff(begins[:5]), 0.5, atol=0.03), begins[:6]
    first = round(begins[4] * RATE) + RATE // 20
    body = heard[first : first + 3 * RATE]
    assert np.abs(np.diff(body)).max() < 1.2 * 0.5 * 2 * np.pi * 441 / RATE, "a seam clicks"
    levels = np.abs(body[: body.size // block * block]).reshape(-1, block).max(axis=1)
    assert levels.min() > 0.4, "a gap in the loop"
    return 0


if __name__ == "__main__":
    sys.exit(main())
