"""What the doctor says of this machine, and of one where things are missing."""

import subprocess
import sys
from pathlib import Path

import pytest

from notcher import doctor
from notcher.cli import main


def test_ten_lines_and_what_is_needed_is_there(capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["doctor"]) == 0
    lines = capsys.readouterr().out.splitlines()
    assert len(lines) == 10
    names = ("version", "packages", "display", "loudspeaker", "guitar input", "voice", "footswitch", "fonts", "disk")
    assert all(line.startswith(name) for line, name in zip(lines, names, strict=False))
    assert "two notes were played and heard as they are" in lines[-1]


@pytest.mark.slow
def test_nothing_else_is_said_in_a_terminal() -> None:
    """The toolkit talks of libraries that it looked for."""
    done = subprocess.run([sys.executable, "-m", "notcher", "doctor"], capture_output=True, text=True, timeout=60)
    assert (done.returncode, done.stderr) == (0, "")


def test_a_disk_that_cannot_be_written_is_told(
    monkeypatch: pytest.MonkeyPatch, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path))
    monkeypatch.setattr(doctor.os, "access", lambda *_: False)
    assert main(["doctor"]) == 3
    line = next(line for line in capsys.readouterr().out.splitlines() if line.startswith("disk"))
    assert "missing" in line
    assert "cannot be written" in line


def test_a_package_that_is_not_there_is_named(
    monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    monkeypatch.setattr(doctor.importlib.metadata, "requires", lambda _name: ["no-such-package>=1,<2", "numpy>=2"])
    assert main(["doctor"]) == 3
    assert "no-such-package not installed" in capsys.readouterr().out
