"""The whole day, from a request to next week's lesson, rehearsed in a real window."""

import shutil
import subprocess
import sys
from pathlib import Path

import pytest


@pytest.mark.slow
@pytest.mark.skipif(not (shutil.which("xvfb-run") and shutil.which("openbox")), reason="no Xvfb or window manager")
@pytest.mark.parametrize(("which", "steps"), [("day", 25), ("others", 12)])
def test_the_day_is_walked_in_a_real_window(which: str, steps: int, tmp_path: Path) -> None:
    script = Path(__file__).with_name("drive_the_day.py")
    inside = f"openbox & exec {sys.executable} {script} {which} {tmp_path}"
    command = ["xvfb-run", "-a", "-s", "-screen 0 1280x800x24", "sh", "-c", inside]
    done = subprocess.run(command, capture_output=True, text=True, timeout=280, check=False)
    assert done.returncode == 0, done.stdout + done.stderr
    assert f"{steps} steps done" in done.stdout
