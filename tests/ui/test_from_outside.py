"""Every control has a name and a role for those who do not see it: looked at from outside, over AT-SPI."""

import shutil
from pathlib import Path

import pytest

from real_window import needs_a_screen, walked

LAUNCHER = Path("/usr/libexec/at-spi-bus-launcher")


@pytest.mark.outside(
    what="names and roles of everything in the window",
    source="AT-SPI, asked over D-Bus from another process",
    tolerance="none nameless",
    why="names",
    kind="library",
)
@pytest.mark.slow
@needs_a_screen
@pytest.mark.skipif(not (shutil.which("dbus-run-session") and LAUNCHER.exists()), reason="no AT-SPI bus here")
def test_nothing_is_nameless_from_outside(lick_file: Path, tmp_path: Path) -> None:
    said = walked("drive_from_outside.py", lick_file, tmp_path, within="dbus-run-session --", timeout_s=200)
    assert "named throughout" in said
