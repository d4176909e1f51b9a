"""A folder of recordings drafted in one go, as at a terminal."""

import json
import shutil
import subprocess
import sys
import time
from pathlib import Path

import numpy as np
import pytest

from notcher.cli import main
from notcher.core.formats import read_document
from notcher.core.sound import Clip, write_clip


@pytest.fixture
def folder(tmp_path: Path, lick_file: Path) -> Path:
    """Two recordings, one of them in a folder of its own, something that only looks like one, and a note beside."""
    made = tmp_path / "evening"
    (made / "second set").mkdir(parents=True)
    shutil.copy(lick_file, made / f"first{lick_file.suffix}")
    shutil.copy(lick_file, made / "second set" / f"again{lick_file.suffix}")
    (made / "torn.wav").write_text("no sound")
    (made / "names.txt").write_text("who played")
    return made


@pytest.mark.slow
def test_a_folder_is_drafted_and_gone_on_with(
    folder: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str], lick_file: Path
) -> None:
    out = tmp_path / "drafts"
    words = ["draft", str(folder), "-o", str(out), "--jobs", "2", "--score"]
    assert main(words) == 0
    said = capsys.readouterr()
    lines = sorted(said.out.splitlines())
    assert [line.split(":")[0] for line in lines] == [f"again{lick_file.suffix}", f"first{lick_file.suffix}"]
    assert all(" notes" in line and " s heard in " in line for line in lines)
    assert "torn.wav: " in said.err
    assert said.err.splitlines()[-1].startswith("2 drafted, 1 could not be: ")
    first = out / f"first{lick_file.suffix}.events.json"
    again = out / "second set" / f"again{lick_file.suffix}.events.json"
    events = json.loads(first.read_text("utf-8"))
    assert len(events["notes"]) == 6
    assert read_document(again.with_name(f"again{lick_file.suffix}.notch")).clip is not None
    assert json.loads(again.read_text("utf-8"))["notes"] == events["notes"], "heard alike, alone or beside others"
    before = first.stat().st_mtime_ns
    again.unlink()
    assert main(words) == 0
    said = capsys.readouterr()
    assert first.stat().st_mtime_ns == before, "what is there already is left alone"
    assert again.exists()
    assert said.err.splitlines()[-1].startswith("1 drafted, 1 had a draft already, 1 could not be: ")


@pytest.mark.parametrize(
    ("more", "says"),
    [
        ((), "There is no recording in 'empty'."),
        (("--f0", "a.csv"), "--f0"),
    ],
)
def test_what_cannot_be_done_is_said_in_a_line(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], more: tuple[str, ...], says: str
) -> None:
    empty = tmp_path / "empty"
    empty.mkdir()
    assert main(["draft", str(empty), "-o", str(tmp_path / "out"), *more]) == 2
    said = capsys.readouterr().err
    assert len(said.splitlines()) == 1
    assert says in said


def test_none_at_a_time_is_refused(folder: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["draft", str(folder), "-o", str(tmp_path / "out"), "--jobs", "0"]) == 2
    assert "0 at a time is none" in capsys.readouterr().err
    assert not (tmp_path / "out").exists()


def _in_session(session: int) -> list[str]:
    """Which processes belong to a session, by what they are called with (proc(5): the sixth field of stat)."""
    found = []
    for process in Path("/proc").glob("[0-9]*"):
        try:
            fields = (process / "stat").read_text("ascii", "replace").rsplit(") ", 1)[1].split()
            if int(fields[3]) == session and fields[0] != "Z":
                found.append((process / "cmdline").read_bytes().replace(b"\0", b" ").decode("utf-8", "replace"))
        except (OSError, IndexError, ValueError):
            continue
    return found


@pytest.mark.slow
def test_no_worker_outlives_a_kill(tmp_path: Path) -> None:
    source = tmp_path / "evening"
    source.mkdir()
    random = np.random.default_rng(3)
    for name in ("a", "b"):
        noise = random.normal(0, 0.1, (90 * 44_100, 2)).astype(np.float32)
        write_clip(Clip(noise, 44_100), source / f"{name}.wav", kind="WAV")
    words = [sys.executable, "-m", "notcher", "draft", str(source), "-o", str(tmp_path / "out"), "--jobs", "2"]
    with subprocess.Popen(words, start_new_session=True, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL) as batch:
        end = time.monotonic() + 60
        while len(_in_session(batch.pid)) < 4 and time.monotonic() < end:  # itself, what begins them, and two
            time.sleep(0.05)
        time.sleep(1.0)  # in the middle of it
        assert batch.poll() is None
        batch.kill()
    end = time.monotonic() + 5
    while _in_session(batch.pid) and time.monotonic() < end:
        time.sleep(0.05)
    assert _in_session(batch.pid) == []
