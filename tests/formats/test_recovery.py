"""Kept states and unsaved work: written whole, found again, also after the process was killed."""

import json
import os
import signal
import subprocess
import sys
import textwrap
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from pytestqt.qtbot import QtBot

from notcher.core.formats import Document, FileError, Recovery, read_document, write_document
from notcher.core.score import Note, Phrase, Revision, Score, Stroke
from notcher.core.sound import Clip, beside
from notcher.ui.shell.program import Program


def document(title: str = "Watch") -> Document:
    note = Note(0.5, 1.0, 2, 10, stroke=Stroke.UP, slip=True, remark="late")
    score = Score((note,), title=title, phrases=(Phrase(0, 2, "a", near_fret=12),))
    clip = Clip(np.zeros((4_410, 1), dtype=np.float32), 44_100, "watch.wav")
    return Document(score, clip, revisions=(Revision("first", "2026-01-02T03:04:05", replace(score, notes=())),))


def test_kept_states_travel_with_the_document(tmp_path: Path) -> None:
    kept = document()
    write_document(kept, tmp_path / "a.notch")
    read = read_document(tmp_path / "a.notch")
    assert read.score == kept.score
    assert read.revisions == kept.revisions


def test_unsaved_work_is_found_by_the_next_process(tmp_path: Path) -> None:
    gone = Recovery(tmp_path, process=2**22 + 7)  # no process has a number above 2^22: proc(5)
    gone.keep(document(), Path("watch.notch"))
    changed = replace(document(), clip=None)
    first = document()
    gone.keep(first, None)
    gone.keep(replace(first, score=first.score.without([0])), None)
    unsaved = next(Recovery(tmp_path).found())
    read = Recovery(tmp_path).read(unsaved)
    assert read.score.notes == ()
    assert read.clip is not None
    assert unsaved.title == "Watch"
    Recovery(tmp_path).discard(unsaved)
    assert list(Recovery(tmp_path).found()) == []
    mine = Recovery(tmp_path)
    mine.keep(changed, None)
    assert list(mine.found()) == [], "what still runs is left alone"
    mine.forget()
    assert list(tmp_path.glob("*-*/*")) == []


def test_damaged_remains_are_passed_over_or_said(tmp_path: Path) -> None:
    (tmp_path / "1-1").mkdir()
    (tmp_path / "1-1" / "about.json").write_text("{", "utf-8")
    assert list(Recovery(tmp_path).found()) == []
    gone = Recovery(tmp_path, process=2**22 + 7)
    gone.keep(document(), None)
    unsaved = next(Recovery(tmp_path).found())
    (unsaved.folder / "score.json").write_text(json.dumps({"format": "notcher-score", "version": 99}), "utf-8")
    with pytest.raises(FileError, match="newer Notcher"):
        Recovery(tmp_path).read(unsaved)
    with pytest.raises(FileError, match="cannot be kept"):
        Recovery(Path("/proc/nowhere")).keep(document(), None)


KILLED = """
    import os, sys, time
    from pathlib import Path
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    from PyQt6.QtCore import QSettings
    from PyQt6.QtWidgets import QApplication
    from notcher.core.formats import read_document
    from notcher.devices import SimulatedLoudspeaker
    from notcher.ui.state.settings import Settings
    from notcher.ui.shell.program import Program
    app = QApplication([])
    folder = Path(sys.argv[1])
    program = Program(
        Settings(QSettings(str(folder / "s.ini"), QSettings.Format.IniFormat)), SimulatedLoudspeaker(),
        recovery=folder / "unsaved",
    )
    program.window.show()
    program.session.open(read_document(folder / "watch.notch"), folder / "watch.notch")
    program.autosave.every(0.05)
    program.notch.edits.type_fret(17)
    until = time.monotonic() + 20
    while not list(folder.glob("unsaved/*/about.json")) and time.monotonic() < until:
        app.processEvents()
    print("kept", flush=True)
    while True:
        app.processEvents()
"""


@pytest.mark.slow
def test_a_killed_window_loses_nothing(tmp_path: Path, program: Program, qtbot: QtBot) -> None:
    """The process is killed as the kernel does it; the next window offers the work and opens it."""
    write_document(document(), tmp_path / "watch.notch")
    script = textwrap.dedent(KILLED)
    with subprocess.Popen([sys.executable, "-c", script, str(tmp_path)], stdout=subprocess.PIPE, text=True) as process:
        assert process.stdout is not None
        assert process.stdout.readline() == "kept\n"
        os.kill(process.pid, signal.SIGKILL)
        process.wait(timeout=10)
    assert read_document(tmp_path / "watch.notch").score.notes[0].fret == 10, "the saved file is as it was"
    program.opening.offer_unsaved()  # the fixture keeps its recovery in the same folder
    assert "Unsaved work on “Watch”" in program.window.notices.label.text()
    open_it = program.window.notices.buttons[0]
    assert (open_it.text(), open_it.isVisible()) == ("Open it", True)
    open_it.click()
    qtbot.waitUntil(lambda: bool(program.session.score.notes), timeout=10_000)
    assert program.session.score.notes[0].fret == 17
    assert "changed" in program.window.windowTitle()
    program.session.open(Document(Score()), None)


def test_two_sounds_beside_each_other() -> None:
    left = Clip(np.ones((10, 2), dtype=np.float32), 44_100)
    right = Clip(np.full((4, 1), 0.5, dtype=np.float32), 44_100)
    both = beside(left, right).samples
    assert both[:, 0].tolist() == [1.0] * 10
    assert both[:, 1].tolist() == [0.5] * 4 + [0.0] * 6
    with pytest.raises(ValueError, match="one sample rate"):
        beside(left, Clip(right.samples, 48_000))
