"""What happens to computers: disks that are full or closed, files that go, clocks, devices, displays; and what Notcher
says and keeps then.

Each trouble is met in a process of its own (`python bench/endure_troubles.py NAME FOLDER`), by delivered keys.
"""

from __future__ import annotations

import itertools
import json
import os
import resource
import shutil
import subprocess
import sys
import time
from collections.abc import Callable
from dataclasses import replace
from datetime import datetime, timedelta
from pathlib import Path

import numpy as np

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PyQt6.QtCore import QTimer
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QDialog

sys.path.insert(0, str(Path(__file__).parents[1] / "tests"))
sys.path.insert(0, str(Path(__file__).parents[1] / "tests" / "devices"))

import hands
from endure_kills import EDITS, Life, digest, lines_of, lost_before, rows_on_disk, solo_with_phrases
from notcher.core.formats import Document, Recovery, read_document, write_document
from notcher.core.formats.document.changes import parts_of
from notcher.core.formats.document.document import SCORE, score_of
from notcher.core.formats.files.journal import Journal
from notcher.core.sound import write_clip
from notcher.core.synthesis import render
from notcher.devices import find_guitar_input, find_loudspeaker
from simulated_program import simulated_program

DISK_MB = 4
HERE = Path(__file__)


class Desk:
    """A window on a saved solo. state: where the program keeps what it keeps."""

    def __init__(self, folder: Path, state: Path, **given: object) -> None:
        self.app = QApplication.instance() or QApplication([])
        self.program = simulated_program(folder, state=state, **given)
        self.window, self.session = self.program.window, self.program.session

    def open(self, path: Path) -> None:
        self.program.open_path(str(path))
        self.until(lambda: bool(self.session.score.notes), "the solo")
        self.idle()
        self.press("Ctrl+2")

    def press(self, *keys: str) -> None:
        for chord in keys:
            if QApplication.activeWindow() is None:
                self.window.activateWindow()
                QTest.qWait(10)
            hands.press(chord)
            QTest.qWait(15)

    def idle(self, seconds: float = 0.1) -> None:
        QTest.qWait(round(1000 * seconds))
        self.until(lambda: not self.program.busy, "the end of the work")

    def until(self, done: Callable[[], bool], what: str, *, seconds: float = 60.0) -> None:
        end = time.monotonic() + seconds
        while not done():
            QTest.qWait(5)
            check(time.monotonic() < end, f"{what} comes ({self.said()})")

    def said(self) -> str:
        return self.window.notices.label.text() if self.window.notices.isVisible() else ""

    def hush(self) -> None:
        self.window.notices.quiet()

    def end(self) -> None:
        self.session.mark_saved(self.session.document, self.session.undo_stack.index())
        self.window.close()
        QTest.qWait(20)


def check(holds: bool, what: str) -> None:
    if not holds:
        raise AssertionError(what)


def tell(sentence: str) -> None:
    """What was said to the person: printed, and shown on the page."""
    print(json.dumps(sentence, ensure_ascii=False), flush=True)


def saved_solo(folder: Path, seed: int = 3, *, phrase_s: float = 2.0) -> Path:
    """A short solo in a file of its own."""
    solo = solo_with_phrases(seed, length_s=max(6.0, phrase_s), phrase_s=phrase_s)
    path = folder / "watch.notch"
    write_document(Document(replace(solo, title="Watch"), render(solo)), path)
    return path


# --- disks ---
class Disk:
    """A small disk that fills up, is closed, or holds a quota, and is itself again."""

    def __init__(self, folder: Path, kind: str) -> None:
        self.folder, self.kind = folder, kind
        folder.mkdir()
        self._mount(f"size={DISK_MB}m")

    def _mount(self, options: str) -> None:
        subprocess.run(["mount", "-t", "tmpfs", "-o", options, "notcher", str(self.folder)], check=True)

    def trouble(self) -> None:
        if self.kind == "full":
            with (self.folder / "filler").open("wb") as filler:
                while True:
                    try:
                        os.write(filler.fileno(), bytes(4096))
                    except OSError:
                        return
        elif self.kind == "read-only":
            # what is open for writing keeps a disk from being closed: as a file system does it after a fault of its own
            subprocess.run(["mount", "--bind", str(self.folder), str(self.folder)], check=True)
            subprocess.run(["mount", "-o", "remount,bind,ro", str(self.folder)], check=True)
        else:
            resource.setrlimit(resource.RLIMIT_FSIZE, (64, resource.RLIM_INFINITY))

    def over(self) -> None:
        if self.kind == "full":
            (self.folder / "filler").unlink()
        elif self.kind == "read-only":
            subprocess.run(["umount", str(self.folder)], check=True)
        else:
            resource.setrlimit(resource.RLIMIT_FSIZE, (resource.RLIM_INFINITY, resource.RLIM_INFINITY))


def disk_of_the_solo(folder: Path, kind: str) -> None:
    """The disk that the solo is saved on."""
    disk = Disk(folder / "disk", kind)
    desk, file = Desk(folder, folder / "state"), saved_solo(disk.folder)
    before = file.read_bytes()
    desk.open(file)
    desk.press("Home", "Right", "S")
    edited = desk.session.score
    disk.trouble()
    there = sorted(path.name for path in disk.folder.iterdir())
    desk.press("Ctrl+S")
    desk.idle()
    check(bool(desk.said()), "a sentence says that it was not saved")
    tell(desk.said())
    check(file.read_bytes() == before, "the file is as it was")
    check(sorted(path.name for path in disk.folder.iterdir()) == there, "nothing half-written lies about")
    check(desk.session.unsaved, "the work counts as unsaved")
    for name, keys in (("solo.pdf", "Ctrl+Alt+W"), ("pack.zip", "Ctrl+Alt+N")):
        desk.hush()
        desk.press(keys)
        asked = hands.question()
        if name.endswith("zip"):
            hands.press("Return")
            hands.gone(asked)
        hands.answer(str(disk.folder / name))
        desk.idle(0.3)
        check(bool(desk.said()), f"a sentence says that {name} was not written")
        tell(desk.said())
        check(not (disk.folder / name).exists(), f"no half of {name} is left")
    disk.over()
    desk.hush()
    desk.press("Ctrl+2", "Ctrl+S")
    desk.idle()
    check(read_document(file).score == edited, "afterwards it is saved")
    desk.end()


def disk_of_the_program(folder: Path, kind: str) -> None:
    """The disk that unsaved work, the ledger and the settings lie on."""
    file = saved_solo(folder)
    disk = Disk(folder / "disk", kind)
    desk = Desk(disk.folder, disk.folder / "state")
    desk.open(file)
    desk.press("Ctrl+5", "C")
    desk.idle()
    desk.press("Ctrl+2", "Home", "S")
    desk.idle(0.8)
    disk.trouble()
    desk.hush()
    for _ in range(40):  # a last page may have room for some edits yet
        desk.press("Right", "S")
        desk.idle(0.6)
        if desk.said():
            break
    check(bool(desk.said()), "a sentence says that unsaved work cannot be kept")
    tell(desk.said())
    desk.hush()
    desk.press("Ctrl+5", "Right", "C")
    desk.idle(0.5)
    check(bool(desk.said()), "a sentence says that a mark cannot be noted")
    tell(desk.said())
    marks = len(desk.program.passes)
    check(marks == 2, f"both marks are seen: {marks}")
    desk.hush()
    desk.press("F8")
    desk.idle(0.5)
    tell(desk.said() or "(a take is recorded; it is kept once there is room)")
    desk.until(lambda: desk.program.teaching.recorder.state == "idle", "the end of the take")
    desk.idle()
    disk.over()
    desk.press("Escape", "Ctrl+5", "Right", "C", "Ctrl+2", "Right", "S")
    edited = desk.session.score
    desk.idle(1.0)
    marks, takes = set(desk.program.ledger.book.passes), set(desk.program.ledger.book.takes)
    desk.program.ledger.finish()
    there = rows_on_disk(disk.folder)
    check(marks <= there and takes <= there, "afterwards every mark and take is in the ledger")
    kept = sorted((disk.folder / "state" / "unsaved").glob("*/journal.jsonl"), key=lambda path: path.stat().st_mtime)
    check(bool(kept), "unsaved work is kept again")
    check(score_of(parts_of(Journal(kept[-1]).lines())[SCORE], "journal") == edited, "afterwards the last edit is kept")
    desk.end()


# --- files that go or change ---
def drafting(folder: Path) -> tuple[Desk, Path, Path]:
    """A window on a fresh draft, its recording, and where it may be saved."""
    recording = folder / "watch.wav"
    write_clip(render(solo_with_phrases(3, length_s=6.0)), recording, kind="WAV")
    desk = Desk(folder, folder / "state")
    desk.open(recording)
    return desk, recording, folder / "kept.notch"


def recording_vanishes(folder: Path) -> None:
    """A recording is deleted while its draft is open; then a file of the list of recent ones is gone."""
    desk, recording, file = drafting(folder)
    recording.unlink()
    desk.press("Home", "S", "Space")
    desk.until(lambda: desk.program.player.playing, "the sound")
    desk.press("Space", "Ctrl+S")
    hands.answer(str(file))
    desk.idle()
    check(read_document(file).clip is not None, "the recording is saved with the solo")
    desk.end()
    desk = Desk(folder, folder / "state")
    desk.program.open_path(str(recording))
    desk.idle()
    check(bool(desk.said()), "a sentence says that the recording is not there")
    tell(desk.said())
    desk.end()


def recording_changes(folder: Path) -> None:
    """A recording becomes another sound, or none, while its draft is open; the draft keeps what it heard."""
    desk, recording, file = drafting(folder)
    clip = desk.session.document.clip
    check(clip is not None, "there is a recording")
    recording.write_bytes(b"no sound at all")
    desk.press("Home", "S", "Ctrl+S")
    hands.answer(str(file))
    desk.idle()
    kept = read_document(file).clip
    assert clip is not None
    assert kept is not None
    check(bool(np.abs(kept.samples - clip.samples).max() < 1e-3), "what was heard is what is saved")
    desk.program.open_path(str(recording))
    desk.idle()
    check(bool(desk.said()), "a sentence says that it is no sound")
    tell(desk.said())
    desk.end()


def document_vanishes(folder: Path) -> None:
    """The folder of a saved solo is gone when it is saved again: it is said, and saved elsewhere."""
    away = folder / "stick"
    away.mkdir()
    desk, file = Desk(folder, folder / "state"), saved_solo(away)
    desk.open(file)
    desk.press("Home", "S")
    edited = desk.session.score
    shutil.rmtree(away)
    desk.press("Ctrl+S")
    desk.idle()
    check(bool(desk.said()), "a sentence says that it was not saved")
    tell(desk.said())
    desk.press("Ctrl+Shift+S")
    hands.answer(str(folder / "elsewhere.notch"))
    desk.idle()
    check(read_document(folder / "elsewhere.notch").score == edited, "it is saved elsewhere")
    desk.end()


# --- clocks ---
def clock_set_back(folder: Path) -> None:
    """The clock on the wall jumps a year back between marks, lessons and saves."""
    now = [datetime(2026, 3, 2, 9, 0)]
    file = saved_solo(folder)
    desk = Desk(folder, folder / "state", now=lambda: now[0])
    desk.open(file)
    for step in (timedelta(0), timedelta(days=7), timedelta(days=-372), timedelta(days=1), timedelta(days=400)):
        now[0] += step
        desk.press("Ctrl+5", "P", "C", "Shift+G")
        asked = QApplication.activeModalWidget()
        if isinstance(asked, QDialog):
            hands.press("Return")
            hands.gone(asked)
        desk.idle()
        desk.press("Ctrl+7", "1")
        desk.idle()
        desk.press("Ctrl+2", "Home", "S", "Ctrl+S")
        desk.idle()
    marks = len(desk.program.passes)
    check(marks == 5, f"all five marks are there: {marks}")
    check(all(np.isfinite(value) for value in desk.program.practice.due.values()), "what is due is a number")
    check(not desk.session.unsaved, "everything is saved")
    desk.end()
    file_clock_back(folder)
    tell("Five marks, their lessons and saves are all there; what is due is told by the clock as it stands.")


def file_clock_back(folder: Path) -> None:
    """Unsaved work whose files lie in the future is found all the same."""
    desk = Desk(folder, folder / "later")
    desk.open(folder / "watch.notch")
    desk.press("Home", "S")
    desk.idle(0.8)
    desk.press("Right", "W")
    edited = desk.session.score
    desk.idle(0.8)
    kept = desk.program.autosave.store
    for path in kept.folder.iterdir():
        os.utime(path, (time.time() + 3e7, time.time() + 3e7))
    lock = kept._lock
    assert lock is not None
    lock.release(force=True)  # what a kill does
    recovery = Recovery(folder / "later" / "unsaved")
    found = next(recovery.found())
    check(recovery.read(found).document.score == edited, "the work comes back")
    desk.end()


# --- devices ---
def loudspeaker_unplugged(folder: Path) -> None:
    """The sound server's sink goes away while a loop sounds, then the server itself."""
    from sound_server import RATE, started

    server = started(f"module-null-sink sink_name=nul rate={RATE} channels=2")
    desk = Desk(folder, folder / "state", speaker=find_loudspeaker())
    check(not desk.program.speaker.simulated, "the server's sink is found")
    desk.open(saved_solo(folder))
    desk.press("L", "Space")
    desk.until(lambda: desk.program.player.time_s > 0.6, "the loop")
    server.terminate()
    server.wait()
    desk.until(lambda: bool(desk.said()), "a sentence", seconds=20)
    tell(desk.said())
    desk.until(lambda: desk.program.player.playing, "the playhead goes on without it", seconds=10)
    desk.press("Space", "Home", "S")
    check(desk.session.unsaved, "the work goes on")
    desk.end()


def guitar_unplugged(folder: Path) -> None:
    """The audio interface goes away while a take is recorded: what was played till then is kept."""
    from sound_server import RATE, started

    server = started(f"module-null-sink sink_name=nul rate={RATE} channels=2",
                     "module-remap-source master=nul.monitor source_name=mic")  # fmt: skip
    subprocess.run(["pactl", "set-default-source", "mic"], check=True)
    desk = Desk(folder, folder / "state", speaker=find_loudspeaker(), guitar=find_guitar_input())
    check(not desk.program.guitar.simulated, "the server's input is found")
    desk.open(saved_solo(folder, phrase_s=8.0))
    desk.press("F8")
    desk.until(lambda: desk.program.teaching.recorder.state == "recording", "the recording")
    desk.until(lambda: desk.program.guitar.position > 1.5 * desk.program.guitar.sample_rate, "a second and a half")
    for module in ("module-remap-source", "module-null-sink"):  # of one alone the server finds another by itself
        subprocess.run(["pactl", "unload-module", module], check=True)
    desk.until(lambda: bool(desk.said()), "a sentence", seconds=20)
    tell(desk.said())
    desk.until(lambda: desk.program.teaching.recorder.state == "idle", "the end of the take")
    desk.idle()
    takes = desk.program.practice.takes
    check(len(takes) == 1, f"the take is kept: {len(takes)}")
    held: list[float] = []
    desk.program.practice.with_clip(takes[0].id, lambda clip: held.append(clip.duration_s), lambda _problem: None)
    desk.idle()
    check(bool(held) and held[0] > 1.0, f"with what was played till then: {held}")
    desk.end()
    server.terminate()
    server.wait()


# --- displays ---
def display_gone(folder: Path) -> None:
    """The display goes away under the window; the next start brings the work back."""
    file = saved_solo(folder)
    log = folder / "life.jsonl"
    number = 90 + os.getpid() % 400
    display = subprocess.Popen(["Xvfb", f":{number}", "-screen", "0", "1280x800x24"], stderr=subprocess.DEVNULL)
    time.sleep(1.0)
    home = {**os.environ, "QT_QPA_PLATFORM": "xcb", "DISPLAY": f":{number}"}
    words = [sys.executable, str(HERE), "life", str(folder), str(file), str(log)]
    manager = subprocess.Popen(["openbox"], env=home, stderr=subprocess.DEVNULL)
    life = subprocess.Popen(words, env=home, stderr=subprocess.PIPE, text=True)
    until = time.monotonic() + 60
    while len(lines_of(log)) < 12 and time.monotonic() < until:
        time.sleep(0.05)
    gone_at = time.monotonic()
    display.kill()
    try:
        _, said = life.communicate(timeout=20)
    except subprocess.TimeoutExpired:
        life.kill()
        raise
    manager.wait(timeout=10)
    check("Traceback" not in said, f"no traceback: {said[-300:]}")
    states = [line for line in lines_of(log) if "digest" in line]
    check(len(states) > 5, "it was edited")
    recovery = Recovery(folder / "state" / "unsaved")
    found = next(recovery.found(), None)
    score = recovery.read(found).document.score if found is not None else read_document(file).score
    lost_s = lost_before(gone_at, states, digest(score))
    assert lost_s is not None, "a state came back that never was"
    check(lost_s < 2.0, f"at most two seconds are lost: {lost_s:.2f} s")
    tell(f"The program ends with the display; the next start offers the work, {max(lost_s, 0):.1f} s of it lost.")


def life(folder: Path, file: Path, log: Path) -> None:
    """Edit over and over, in the application's own loop, until something ends it."""
    lived = Life(folder, file, log, 5)
    edits, timer = itertools.cycle(EDITS), QTimer()

    def edit() -> None:
        hands.press(next(edits))
        lived._look()

    timer.timeout.connect(edit)
    timer.start(80)
    os._exit(lived.app.exec())  # nothing is taken down any more: the display is gone


TROUBLES: dict[str, tuple[str, Callable[[Path], None]]] = {
    "disk-full": ("the solo's disk is full", lambda folder: disk_of_the_solo(folder, "full")),
    "disk-read-only": ("the solo's disk becomes read-only", lambda folder: disk_of_the_solo(folder, "read-only")),
    "disk-quota": ("files may not grow (quota)", lambda folder: disk_of_the_solo(folder, "quota")),
    "state-full": ("the program's own disk is full", lambda folder: disk_of_the_program(folder, "full")),
    "state-read-only": (
        "the program's own disk becomes read-only", lambda folder: disk_of_the_program(folder, "read-only"),
    ),
    "state-quota": ("the program's own files may not grow", lambda folder: disk_of_the_program(folder, "quota")),
    "recording-vanishes": ("a recording is deleted while open", recording_vanishes),
    "recording-changes": ("a recording becomes something else while open", recording_changes),
    "document-vanishes": ("the folder of a solo is gone", document_vanishes),
    "clock": ("the clock jumps a week on, a year back, a year on", clock_set_back),
    "loudspeaker": ("the loudspeaker goes while a loop sounds", loudspeaker_unplugged),
    "guitar": ("the audio interface goes while a take is recorded", guitar_unplugged),
    "display": ("the display goes away", display_gone),
}  # fmt: skip
MOUNTS = ("disk-", "state-")
SERVED = ("loudspeaker", "guitar")


def meet(name: str, folder: Path) -> tuple[bool, list[str]]:
    """Meet one trouble in a process of its own; return whether all held, and what was said."""
    folder.mkdir(parents=True)
    command = [sys.executable, str(HERE), name, str(folder)]
    if name.startswith(MOUNTS):
        command = ["unshare", "--user", "--map-root-user", "--mount", *command]
    environment = dict(os.environ)
    if name in SERVED:
        runtime = folder / "run"
        runtime.mkdir(mode=0o700)
        environment |= {"XDG_RUNTIME_DIR": str(runtime), "PULSE_SERVER": f"unix:{runtime}/pulse/native"}
    if name in SERVED:  # no pipe: a server that is left over would hold it open
        with folder.with_suffix(".txt").open("w+", encoding="utf-8") as out:
            code = subprocess.run(command, env=environment, stdout=out, stderr=out, timeout=200, check=False).returncode
        subprocess.run(["pkill", "-f", str(folder)], check=False)
        text = folder.with_suffix(".txt").read_text("utf-8")
    else:  # no file: where files may not grow, what is said could not be kept either
        done = subprocess.run(command, env=environment, capture_output=True, text=True, timeout=200, check=False)
        code, text = done.returncode, done.stdout + done.stderr
    said = [json.loads(line) for line in text.splitlines() if line.startswith('"')]
    if code:
        said.append((text.strip().splitlines() or [f"ended with {code}"])[-1])
        print(text[-3000:], file=sys.stderr)
    return code == 0 and "Traceback" not in text, said


if __name__ == "__main__":
    if sys.argv[1] == "life":
        life(*map(Path, sys.argv[2:5]))
    else:
        TROUBLES[sys.argv[1]][1](Path(sys.argv[2]))
