"""The real loudspeaker and the real input, where a sound server can be started on this machine.

Each script runs in a process of its own, since Qt looks for devices once. A machine that is busy elsewhere may stall
the server itself, so one clean run of five is asked for.
"""

import os
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

SOUND_SERVER = shutil.which("pulseaudio")


LONG = ("take_through_server.py", "loop_through_server.py", "devices_through_server.py")


@pytest.mark.skipif(SOUND_SERVER is None, reason="no sound server on this machine")
@pytest.mark.parametrize(
    "script", ["play_through_server.py", *(pytest.param(name, marks=pytest.mark.slow) for name in LONG)]
)
def test_through_a_sound_server(script: str, tmp_path: Path) -> None:
    said = []
    for attempt in range(5):
        runtime = tmp_path / f"run{attempt}"
        runtime.mkdir(mode=0o700)
        environment = {**os.environ, "XDG_RUNTIME_DIR": str(runtime), "PULSE_SERVER": f"unix:{runtime}/pulse/native"}
        command = [sys.executable, str(Path(__file__).with_name(script))]
        done = subprocess.run(command, env=environment, capture_output=True, text=True, timeout=100, check=False)
        if done.returncode == 0:
            return
        said.append(done.stdout + done.stderr)
    pytest.fail("\n".join(said))
