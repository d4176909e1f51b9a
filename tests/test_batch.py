"""A folder of recordings drafted in one go, as at a terminal."""

import json
import shutil
from pathlib import Path

import pytest

from notcher.cli import main
from notcher.core.formats import read_document


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
