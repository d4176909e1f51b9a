"""Snapshots and unsaved work: written whole, found again, also after the process was killed."""

import json
import os
import resource
import signal
import subprocess
import sys
import textwrap
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from pytestqt.qtbot import QtBot

from notcher.core.formats import AutosaveStore, Document, FileError, Recovery, read_document, write_document
from notcher.core.formats.files.journal import Journal
from notcher.core.hearing import PitchTrack
from notcher.core.proving import Take
from notcher.core.score import Key, Note, Phrase, PickStroke, Revision, Score
from notcher.core.sound import Clip, beside
from notcher.ui.shell.program import Program


def document(title: str = "Watch") -> Document:
    note = Note(0.5, 1.0, 2, 10, stroke=PickStroke.UP, slip=True, remark="late")
    score = Score((note,), title=title, phrases=(Phrase(0, 2, "a", near_fret=12),))
    clip = Clip(np.zeros((4_410, 1), dtype=np.float32), 44_100, "watch.wav")
    return Document(score, clip, revisions=(Revision("first", "2026-01-02T03:04:05", replace(score, notes=())),))


def test_kept_states_travel_with_the_document(tmp_path: Path) -> None:
    kept = document()
    write_document(kept, tmp_path / "a.notch")
    read = read_document(tmp_path / "a.notch")
    assert read.score == kept.score
    assert read.revisions == kept.revisions


def owner_gone(kept: AutosaveStore) -> None:
    """What a kill does to the lock: the kernel closes the file."""
    assert kept._lock is not None
    kept._lock.release()


def take_of(name: str = "Take 1") -> Take:
    return Take("take-1", name, ("p",), 0.0, 2.0, 0.5, "click", 0.1)


def test_unsaved_work_is_found_once_its_owner_is_gone(tmp_path: Path) -> None:
    first = document()
    kept = AutosaveStore(tmp_path, first.id)
    kept.save_delta(first, Path("watch.notch"), None)
    kept.save_sound(first.clip)  # type: ignore[arg-type]
    recovery = Recovery(tmp_path)
    assert list(recovery.found()) == [], "whose owner lives is left alone"
    # every kind of edit, one line each
    score = first.score.with_note(first.score.notes[0].id, fret=12)
    score = score.with_inserted(Note(1.0, 1.5, 3, 5))
    score = replace(score, title="Second watch", key=Key("F#", "dorian"))
    now = replace(first, score=score)
    kept.save_delta(now, None, None)
    now = replace(now, score=score.without([score.notes[0].id]))
    kept.save_delta(now, None, None)
    now = replace(now, revisions=(*first.revisions, first.revisions[0]))
    kept.save_delta(now, None, None)
    now = replace(now, track=PitchTrack(*(np.arange(4.0) for _ in range(4))), attacks_s=np.array([0.5, 1.0]))
    kept.save_delta(now, None, None)
    owner_gone(kept)
    unsaved = next(recovery.found())
    read = recovery.read(unsaved).document
    assert read.score == now.score
    assert [note.id for note in read.score.notes] == [note.id for note in now.score.notes]
    assert read.id == first.id
    assert read.revisions == now.revisions
    assert read.attacks_s.tolist() == [0.5, 1.0]
    assert read.clip is not None
    assert read.clip.name == "watch.wav"
    recovery.discard(unsaved)
    assert list(recovery.found()) == []


def test_a_torn_line_loses_only_itself(tmp_path: Path) -> None:
    """The kernel may cut the last write anywhere; each prefix of the journal gives a state that was there."""
    first = document()
    kept = AutosaveStore(tmp_path, first.id)
    states = [first.score]
    for fret in (12, 13, 14):
        states.append(states[-1].with_note(first.score.notes[0].id, fret=fret))
    for score in states:
        kept.save_delta(replace(first, score=score), None, None)
    owner_gone(kept)
    journal = kept.folder / "journal.jsonl"
    whole = journal.read_bytes()
    begun = whole.index(b"\n") + 1
    recovery = Recovery(tmp_path)
    for cut in range(begun, len(whole) + 1, 7):
        journal.write_bytes(whole[:cut])
        fret = recovery.read(next(recovery.found())).document.score.notes[0].fret
        lines = whole[:cut].count(b"\n")
        assert fret in (states[lines - 1].notes[0].fret, states[min(lines, 3)].notes[0].fret)


def test_a_clean_end_leaves_nothing(tmp_path: Path) -> None:
    first = document()
    kept = AutosaveStore(tmp_path, first.id)
    kept.save_delta(first, None, None)
    kept.saved()
    owner_gone(kept)
    assert list(Recovery(tmp_path).found()) == [], "what was saved is no crash"
    other = AutosaveStore(tmp_path, first.id)
    other.save_delta(first, None, None)
    other.discard()
    other.save_delta(first, None, None)  # a job that still ran when the window closed
    assert list(tmp_path.glob("*-*")) == []


def test_a_take_that_was_being_recorded_comes_back(tmp_path: Path) -> None:
    first = document()
    write_document(first, tmp_path / "watch.notch")
    kept = AutosaveStore(tmp_path / "unsaved", first.id)
    kept.save_delta(first, tmp_path / "watch.notch", None)
    stream = kept.take_stream(take_of(), first, tmp_path / "watch.notch", None, sample_rate=8_000)
    played = np.sin(np.arange(4_000) / 10).astype(np.float32)
    stream.write(played[:2_400])
    stream.write(played[2_400:])
    stream.close()
    owner_gone(kept)
    recovery = Recovery(tmp_path / "unsaved")
    read = recovery.read(next(recovery.found()))
    ((take, clip),) = read.takes
    assert take.name == "Take 1 (cut off)"
    assert np.array_equal(clip.samples[:, 0], played)
    assert read.document.clip is not None, "the recording comes from the saved file"


@pytest.mark.parametrize("has_file", [True, False])
def test_a_take_comes_back_also_where_nothing_was_edited(tmp_path: Path, has_file: bool) -> None:
    first = document()
    file = tmp_path / "watch.notch" if has_file else None
    if file is not None:
        write_document(first, file)
    kept = AutosaveStore(tmp_path / "unsaved", first.id)
    stream = kept.take_stream(take_of(), first, file, None, sample_rate=8_000)
    stream.write(np.ones(800, dtype=np.float32))
    stream.close()
    owner_gone(kept)
    recovery = Recovery(tmp_path / "unsaved")
    read = recovery.read(next(recovery.found()))
    assert [take.name for take, _clip in read.takes] == ["Take 1 (cut off)"]
    assert read.document.score == first.score


def test_what_is_missing_is_said(tmp_path: Path) -> None:
    first = document()
    kept = AutosaveStore(tmp_path, first.id)
    kept.save_delta(first, None, tmp_path / "gone.wav")
    owner_gone(kept)
    recovered = Recovery(tmp_path).read(next(Recovery(tmp_path).found()))
    assert recovered.document.clip is None
    assert "'watch.wav' was not found again" in recovered.missing


def test_damaged_remains_are_passed_over_or_said(tmp_path: Path) -> None:
    (tmp_path / "1-1").mkdir()
    (tmp_path / "1-1" / "about.json").write_text("{", "utf-8")
    assert list(Recovery(tmp_path).found()) == []
    kept = AutosaveStore(tmp_path, "d")
    kept.save_delta(document(), None, None)
    owner_gone(kept)
    unsaved = next(Recovery(tmp_path).found())
    newer = {"whole": {"score.json": {"format": "notcher-score", "version": 99}}}
    (unsaved.folder / "journal.jsonl").write_text(json.dumps(newer), "utf-8")
    with pytest.raises(FileError, match="newer Notcher"):
        Recovery(tmp_path).read(unsaved)
    (unsaved.folder / "journal.jsonl").write_text("nothing", "utf-8")
    with pytest.raises(FileError, match="damaged"):
        Recovery(tmp_path).read(unsaved)
    with pytest.raises(FileError, match="cannot be kept"):
        AutosaveStore(Path("/proc/nowhere"), "d").save_delta(document(), None, None)


KILLED = """
    import os, sys, time
    from pathlib import Path
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    from PyQt6.QtCore import QSettings
    from PyQt6.QtTest import QTest
    from PyQt6.QtWidgets import QApplication
    from notcher.core.formats import read_document
    from notcher.devices import SimulatedLoudspeaker
    from notcher.ui.state.settings import Settings
    from notcher.ui.shell.program import Program
    app = QApplication([])
    folder = Path(sys.argv[1])
    program = Program(
        Settings(QSettings(str(folder / "s.ini"), QSettings.Format.IniFormat)), SimulatedLoudspeaker(),
        state=folder / "state",
    )
    program.window.show()
    QTest.qWaitForWindowActive(program.window)
    program.open(read_document(folder / "watch.notch"), folder / "watch.notch")
    QTest.keyClicks(QApplication.focusWidget(), "17")
    QTest.qWait(1000)
    QTest.keyClicks(QApplication.focusWidget(), "o")
    edited = time.monotonic()
    while time.monotonic() < edited + 2.0:
        app.processEvents()
    print("two seconds after the last key", flush=True)
    while True:
        app.processEvents()
"""


@pytest.mark.slow
def test_a_kill_loses_no_more_than_two_seconds(tmp_path: Path, program: Program, qtbot: QtBot) -> None:
    """The process is killed as the kernel does it; the next window offers the work and opens it."""
    write_document(document(), tmp_path / "watch.notch")
    script = textwrap.dedent(KILLED)
    with subprocess.Popen([sys.executable, "-c", script, str(tmp_path)], stdout=subprocess.PIPE, text=True) as process:
        assert process.stdout is not None
        assert process.stdout.readline() == "two seconds after the last key\n"
        os.kill(process.pid, signal.SIGKILL)
        process.wait(timeout=10)
    assert read_document(tmp_path / "watch.notch").score.notes[0].fret == 10, "the saved file is as it was"
    program.opening.offer_unsaved()  # the fixture keeps its state in the same folder
    assert "Unsaved work on “Watch”" in program.window.notices.offered.text()
    open_it = program.window.notices.buttons[0]
    assert (open_it.text(), open_it.isVisible()) == ("Open it (F12)", True)
    open_it.click()
    qtbot.waitUntil(lambda: bool(program.score.notes), timeout=10_000)
    assert program.score.notes[0].fret == 17
    assert program.score.notes[0].garnish
    assert "changed" in program.window.windowTitle()
    assert [revision.name for revision in program.document.revisions] == ["first"]
    program.open(Document(Score()), None)


def test_a_line_that_the_disk_does_not_take_leaves_no_half_of_itself(tmp_path: Path) -> None:
    """Files are kept from growing as by a quota (setrlimit(2), RLIMIT_FSIZE: EFBIG), then may grow again."""
    first = document()
    kept = AutosaveStore(tmp_path, first.id)
    kept.save_delta(first, None, None)
    journal = kept.folder / "journal.jsonl"
    before, score = journal.read_bytes(), first.score.with_note(first.score.notes[0].id, fret=12)
    soft, hard = resource.getrlimit(resource.RLIMIT_FSIZE)
    resource.setrlimit(resource.RLIMIT_FSIZE, (len(before) + 5, hard))
    try:
        with pytest.raises(FileError, match="cannot be kept: File too large"):
            kept.save_delta(replace(first, score=score), None, None)
        with pytest.raises(FileError, match="not kept in case of a crash: File too large"):
            kept.take_stream(take_of("x" * 9999), first, tmp_path / "watch.notch", None, sample_rate=8_000)
        with pytest.raises(FileError, match="could not be written: File too large"):
            write_document(first, tmp_path / "watch.notch")
    finally:
        resource.setrlimit(resource.RLIMIT_FSIZE, (soft, hard))
    assert journal.read_bytes() == before
    later = score.with_note(score.notes[0].id, fret=13)
    kept.save_delta(replace(first, score=later), None, None)
    owner_gone(kept)
    assert Recovery(tmp_path).read(next(Recovery(tmp_path).found())).document.score == later


def test_two_sounds_beside_each_other() -> None:
    left = Clip(np.ones((10, 2), dtype=np.float32), 44_100)
    right = Clip(np.full((4, 1), 0.5, dtype=np.float32), 44_100)
    both = beside(left, right).samples
    assert both[:, 0].tolist() == [1.0] * 10
    assert both[:, 1].tolist() == [0.5] * 4 + [0.0] * 6
    with pytest.raises(ValueError, match="one sample rate"):
        beside(left, Clip(right.samples, 48_000))


def test_a_journal_is_thrown_away_twice(tmp_path: Path) -> None:
    journal = Journal(tmp_path / "journal")
    journal.discard()
    assert not journal.path.exists()
