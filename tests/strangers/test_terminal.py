"""What reaches a terminal is ours alone, and a name that is no UTF-8 is said to be so (PEP 383: as Python keeps it)."""

import json
import os
import random
import subprocess
import sys
from contextlib import suppress
from pathlib import Path

import pytest

from hands import click
from notcher.core.errors import NotcherError, readable
from notcher.core.sound import AudioError, Clip, read_clip, write_clip
from notcher.ui.shell.program import Program


def test_decoders_of_damaged_files_write_nothing_past_us(
    tmp_path: Path, lick_clip: Clip, capfd: pytest.CaptureFixture[str]
) -> None:
    whole, damaged = tmp_path / "a.mp3", tmp_path / "b.mp3"
    write_clip(lick_clip, whole, kind="MP3")
    chance = random.Random(2)
    content = bytearray(whole.read_bytes())
    for _ in range(60):
        content[chance.randrange(len(content) // 10, len(content))] = chance.randrange(256)
    damaged.write_bytes(content)
    with suppress(AudioError):
        read_clip(damaged)
    print("still heard", file=sys.stderr)
    assert capfd.readouterr().err == "still heard\n"


@pytest.mark.slow
def test_a_recording_whose_name_is_no_utf_8_is_drafted_and_written(tmp_path: Path, lick_file: Path) -> None:
    name = tmp_path / os.fsdecode(b"caf\xe9.wav")
    os.link(lick_file, name)
    words = [sys.executable, "-m", "notcher"]
    out = tmp_path / "a.events.json"
    done = subprocess.run([*words, "draft", name, "-o", out, "--quiet"], capture_output=True, check=False)
    assert (done.returncode, done.stderr) == (0, b"")
    assert json.loads(out.read_text("utf-8"))["recording"]["file"] == "caf\ufffd.wav"
    done = subprocess.run([*words, "prove", name, lick_file], capture_output=True, check=False)
    assert done.returncode == 2
    assert "'caf\ufffd.wav' is damaged or no Notcher document" in done.stderr.decode("utf-8")
    assert "The name is no UTF-8: rename the file" in done.stderr.decode("utf-8")


def test_only_a_name_that_is_no_utf_8_is_said_to_be_none() -> None:
    bad = os.fsdecode(b"caf\xe9.wav")
    assert readable(bad) == readable(repr(bad)).strip("'") == "caf\ufffd.wav"
    assert "no UTF-8" in str(NotcherError(f"{bad!r} is missing.", "Look."))
    assert str(NotcherError("'café.wav' is missing.", "Look.")) == "'café.wav' is missing. Look."


@pytest.mark.slow
def test_the_window_opens_it_and_says_so(program: Program, lick_file: Path, tmp_path: Path, qtbot) -> None:  # type: ignore[no-untyped-def]
    name = tmp_path / os.fsdecode(b"caf\xe9.wav")
    os.link(lick_file, name)
    program.ledger.open()
    program.open_path(str(name))
    qtbot.waitUntil(lambda: bool(program.score.notes), timeout=60_000)
    assert "“caf\ufffd.wav”: The name is no UTF-8" in program.window.notices.offered.text()
    click(program.window, program.window.notices.buttons[0])
    assert not program.window.notices.buttons
    assert program.score.title == "caf\ufffd"
    qtbot.waitUntil(lambda: not program.busy, timeout=60_000)
    assert [recording.path for recording in program.ledger.book.recordings.values()] in ([], [""])
