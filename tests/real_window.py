"""Scripts that walk through the window in a process of their own, under Xvfb and a window manager."""

import shutil
import subprocess
import sys
from pathlib import Path

import pytest

HERE = Path(__file__).parent / "ui"
needs_a_screen = pytest.mark.skipif(
    not (shutil.which("xvfb-run") and shutil.which("openbox")), reason="no Xvfb or window manager"
)


def walked(script: str, *words: object, within: str = "", timeout_s: float = 120) -> str:
    """Run a script of tests/ui under a real window system; return what it printed. within: what it is run by.

    A window manager gives the window the keys, as it does on a desk.
    """
    told = " ".join(str(word) for word in words)
    inside = f"openbox & exec {within} {sys.executable} {HERE / script} {told}"
    command = ["xvfb-run", "-a", "-s", "-screen 0 1280x800x24", "sh", "-c", inside]
    done = subprocess.run(command, capture_output=True, text=True, timeout=timeout_s, check=False)
    assert done.returncode == 0, done.stdout + done.stderr
    return done.stdout
