"""A sound server of the test's own, up before anybody asks it."""

import os
import subprocess
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import numpy as np

from notcher.core.arrays import FloatArray

READY_S = 15.0
RATE = 44_100


def started(*modules: str) -> "subprocess.Popen[bytes]":
    """Start the server with its modules and wait until it answers, however busy the machine is."""
    asked = [part for module in ("module-native-protocol-unix auth-anonymous=1", *modules) for part in ("-L", module)]
    server = subprocess.Popen(["pulseaudio", "-n", "--high-priority=yes", "--exit-idle-time=-1", *asked])
    until = time.monotonic() + READY_S
    while subprocess.run(["pactl", "info"], capture_output=True, check=False).returncode != 0:
        assert time.monotonic() < until, "the sound server did not come up"
        time.sleep(0.1)
    return server


@contextmanager
def recorded_sink() -> Iterator[Path]:
    """Start a server with a silent sink and record what arrives there, until the block ends; see `heard_at`."""
    server = started(f"module-null-sink sink_name=nul rate={RATE} channels=2")
    take = Path(os.environ["XDG_RUNTIME_DIR"]) / "take.raw"
    recorder = subprocess.Popen(["parecord", "--raw", "--format=float32le", f"--rate={RATE}", "--channels=2",
                                 "--latency-msec=20", "-d", "nul.monitor", str(take)])  # fmt: skip
    try:
        yield take
    finally:
        for process in (recorder, server):
            process.terminate()
            process.wait()


def heard_at(take: Path) -> FloatArray:
    """Return what was recorded, its left side."""
    raw = take.read_bytes()
    return np.frombuffer(raw[: len(raw) // 8 * 8], dtype=np.float32).reshape(-1, 2)[:, 0]
