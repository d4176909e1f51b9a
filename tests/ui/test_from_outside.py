"""Every control has a name and a role for those who do not see it: looked at from outside, over AT-SPI."""

import shutil
import subprocess
import sys
from pathlib import Path

import pytest

TOOLS = ("xvfb-run", "openbox", "dbus-run-session")
LAUNCHER = Path("/usr/libexec/at-spi-bus-launcher")


@pytest.mark.slow
@pytest.mark.skipif(not all(map(shutil.which, TOOLS)) or not LAUNCHER.exists(), reason="no AT-SPI bus here")
def test_nothing_is_nameless_from_outside(lick_file: Path, tmp_path: Path) -> None:
    script = Path(__file__).with_name("drive_from_outside.py")
    inside = f"openbox & exec dbus-run-session -- {sys.executable} {script} {lick_file} {tmp_path}"
    command = ["xvfb-run", "-a", "-s", "-screen 0 1280x800x24", "sh", "-c", inside]
    done = subprocess.run(command, capture_output=True, text=True, timeout=200, check=False)
    assert done.returncode == 0, done.stdout + done.stderr
    assert "named throughout" in done.stdout
