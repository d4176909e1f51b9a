"""Lives of Notcher that end by a kill at a random moment, one after the other on the same files, and what each lost."""

from __future__ import annotations

import hashlib
import itertools
import json
import os
import signal
import sqlite3
import sys
import time
from collections import Counter
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, field, replace
from multiprocessing import get_context
from pathlib import Path
from typing import Any

import numpy as np
from PyQt6.QtWidgets import QApplication, QDialog

sys.path.insert(0, str(Path(__file__).parents[1] / "tests"))

import hands
from notcher.core.formats import Document, FileError, read_document, write_document
from notcher.core.formats.document.document import SCORE, document_data
from notcher.core.ledger import NOBODY_ID
from notcher.core.score import Phrase, Score
from notcher.core.sound import write_clip
from notcher.core.synthesis import render
from second_composer import second_case
from simulated_program import simulated_program

BUSY = ("editing", "saving", "taking", "planning")
LOST_AT_MOST_S = 2.0
LONGEST_LIFE_S = 5.0
START_S = 60.0
EDITS = ("7", "5", "S", "O", "Shift+Up", "Shift+Down", "Right", "Right", "Left", "K", "Ctrl+Z", "Shift+X", "W")
ROWS = ("students", "requests", "lessons", "takes", "passes", "sent")


@dataclass
class Chain:
    """What came of a chain of lives."""

    kills: Counter[str] = field(default_factory=Counter)
    """By what was being done."""
    opened: Counter[str] = field(default_factory=Counter)
    """How the life after it came to its document."""
    lost_s: list[float] = field(default_factory=list)
    """Age of the newest edit that came back, where a newer one did not, seconds before the kill."""
    faults: list[str] = field(default_factory=list)
    rows: int = 0
    rows_lost_s: list[float] = field(default_factory=list)
    takes_cut: int = 0
    takes_lost_s: list[float] = field(default_factory=list)
    saves: int = 0
    files_lost: int = 0

    def add(self, other: Chain) -> None:
        for name, value in vars(other).items():
            mine = getattr(self, name)
            if isinstance(mine, Counter):
                mine.update(value)
            elif isinstance(mine, list):
                mine += value
            else:
                setattr(self, name, mine + value)


# --- one life, in a process of its own ---
def digest(score: Score) -> str:
    """A few letters that tell one state of a solo from another, as it would be written."""
    text = json.dumps(document_data(Document(score))[SCORE] | {"id": ""})
    text = json.dumps(json.loads(text, parse_int=float), sort_keys=True)  # 2 and 2.0 are one number
    return hashlib.sha1(text.encode("utf-8")).hexdigest()[:12]


def solo_with_phrases(seed: int, *, length_s: float, phrase_s: float = 2.0) -> Score:
    """A solo of a random hand, cut into phrases."""
    solo = second_case(seed, length_s=length_s).score
    cuts = np.arange(0.0, length_s + phrase_s, phrase_s)
    phrases = tuple(Phrase(float(a), float(b), f"Call {n}") for n, (a, b) in enumerate(itertools.pairwise(cuts)))
    return replace(solo, phrases=phrases)


class Life:
    """A window on the chain's files; writes what it has seen to its log, a line each, until it is killed."""

    def __init__(self, folder: Path, first: Path, log: Path, seed: int) -> None:
        self.app, self.dice = QApplication([]), np.random.default_rng(seed)
        self._log = os.open(log, os.O_WRONLY | os.O_CREAT | os.O_APPEND)
        self._rows: set[str] = set()
        self._digest = ""
        self.program = simulated_program(folder)
        self.window = self.program.window
        self._open(first)

    def _open(self, first: Path) -> None:
        session, opening = self.program.session, self.program.opening
        opening.offer_unsaved()
        buttons = self.window.notices.buttons
        if buttons:
            self._wait(lambda: buttons[0].isVisible() and buttons[0].width() > 20)
            hands.click(self.window, buttons[0])
        else:
            opening.open_path(str(first))
        self._wait(lambda: bool(session.score.notes))
        if not buttons:
            self._wait(lambda: not self.program.busy)  # a recording was heard to its end
        self.tell("opened", way="unsaved work" if buttons else "file", digest=digest(session.score))
        self._digest = digest(session.score)
        self._keys("Ctrl+2")

    def _wait(self, done: Any) -> None:
        until = time.monotonic() + START_S
        while not done():
            self.app.processEvents()
            time.sleep(0.002)
            if time.monotonic() > until:
                self.tell("stuck", words=self.window.notices.label.text() + self.window.notices.offered.text())
                os._exit(1)

    def tell(self, kind: str, **values: object) -> None:
        os.write(self._log, json.dumps({"t": time.monotonic(), "kind": kind, **values}).encode() + b"\n")

    def live(self, busy: str) -> None:
        """Do one thing over and over, with edits between."""
        while True:
            for _ in range(int(self.dice.integers(1, 6))):
                self._keys(str(self.dice.choice(EDITS)))
            getattr(self, f"_{busy}")()

    def _keys(self, *keys: str) -> None:
        for chord in keys:
            hands.press(chord)
            self._pass(float(self.dice.uniform(0.01, 0.08)))

    def _pass(self, seconds: float) -> None:
        """Let time pass, and note what became another."""
        until = time.monotonic() + seconds
        while True:
            self.app.processEvents()
            self._look()
            if time.monotonic() >= until:
                return
            time.sleep(0.004)

    def _look(self) -> None:
        now = digest(self.program.document.score)
        if now != self._digest:
            self._digest = now
            self.tell("score", digest=now)
        book = self.program.ledger.book
        rows = {f"{name}/{row_id}" for name in ROWS for row_id in getattr(book, name) if row_id != NOBODY_ID}
        if fresh := rows - self._rows:
            self._rows |= fresh
            self.tell("rows", ids=sorted(fresh))

    def _editing(self) -> None:
        self._keys("Home", *["Right"] * int(self.dice.integers(0, 12)))

    def _saving(self) -> None:
        self._keys("Ctrl+S")
        asked = QApplication.activeModalWidget()
        if isinstance(asked, QDialog):  # never saved: it stays so
            hands.press("Escape")
            hands.gone(asked)
        elif not self.program.session.unsaved:
            self.tell("saved")

    def _taking(self) -> None:
        self._keys("F8")
        recorder, input_ = self.program.teaching.recorder, self.program.guitar
        until = time.monotonic() + float(self.dice.uniform(0.5, 4.0))
        while time.monotonic() < until:
            self._pass(0.05)
            if recorder.state == "recording":
                self.tell("taking", seconds=input_.position / input_.sample_rate)
        self._keys("F8")
        self._pass(0.3)
        self._keys("Escape", "Ctrl+2")

    def _planning(self) -> None:
        self._keys("Ctrl+5", "P")
        self._pass(0.2)
        self._keys("C", "Right", "C", "Shift+G")
        self._pass(0.1)
        asked = QApplication.activeModalWidget()
        if isinstance(asked, QDialog):
            hands.press("Return")
            hands.gone(asked)
        self._keys("Ctrl+2")


# --- a chain of lives ---
def chain(folder: Path, *, seed: int, kills: int, saved: bool) -> Chain:
    """Kill so many lives; each goes on where the one before was cut off. saved: the solo has a file of its own."""
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    dice, told = np.random.default_rng(seed), Chain()
    solo = solo_with_phrases(seed, length_s=8.0)
    folder.mkdir(parents=True)
    first = folder / ("watch.notch" if saved else "watch.wav")
    if saved:
        write_document(Document(solo, render(solo)), first)
    else:
        write_clip(render(solo), first, kind="WAV")
    takes: dict[str, float] = {}
    before: list[dict[str, Any]] = []
    killed_at = 0.0
    for number in range(kills + 1):
        calm = number == kills
        busy = BUSY[number % len(BUSY)]
        log = folder / f"life-{number}.jsonl"
        process = _begun(folder, first, log, seed * 10_000 + number, "" if calm else busy)
        lines = _until_opened(log)
        if not lines or lines[0]["kind"] != "opened":
            told.faults.append(f"chain {seed}, life {number}: did not open: {lines}")
            os.kill(process, signal.SIGKILL)
            os.waitpid(process, 0)
            break
        told.opened[lines[0]["way"]] += 1
        anew = lines[0]["way"] == "file" and not saved
        _compare(told, before, lines[0], killed_at, f"chain {seed}, life {number}", anew=anew)
        time.sleep(4.0 if calm else float(dice.uniform(0.05, LONGEST_LIFE_S)))
        os.kill(process, signal.SIGKILL)
        killed_at = time.monotonic()
        os.waitpid(process, 0)
        before = lines_of(log)
        if not calm:
            told.kills[busy] += 1
            told.saves += sum(line["kind"] == "saved" for line in before)
            _takes_cut(told, folder, before, killed_at, takes)
        _check_rows(told, folder, before, killed_at, f"chain {seed}, life {number}")
        _check_file(told, first if saved else None, f"chain {seed}, life {number}")
    there = rows_on_disk(folder)
    told.faults += [f"chain {seed}: a take of {s:.1f} s is gone" for take, s in takes.items() if take not in there]
    return told


def _begun(folder: Path, first: Path, log: Path, seed: int, busy: str) -> int:
    process = os.fork()
    if process == 0:
        try:
            errors = os.open(folder / "errors.txt", os.O_WRONLY | os.O_CREAT | os.O_APPEND)
            os.dup2(errors, 2)
            life = Life(folder, first, log, seed)
            if busy:
                life.live(busy)
            life._pass(1e9)
        finally:
            os._exit(1)
    return process


def lines_of(log: Path) -> list[dict[str, Any]]:
    """The lines of a life; the last may be torn."""
    lines = log.read_bytes().split(b"\n")[:-1] if log.exists() else []
    return [json.loads(line) for line in lines]


def _until_opened(log: Path) -> list[dict[str, Any]]:
    until = time.monotonic() + START_S + 10
    while not (lines := lines_of(log)) and time.monotonic() < until:
        time.sleep(0.01)
    return lines


def _compare(
    told: Chain, before: list[dict[str, Any]], opened: dict[str, Any], killed_at: float, where: str, *, anew: bool
) -> None:
    """What of the life before came back: its last state, or one of its last two seconds.

    anew: a recording without a file was heard again, since nothing had been kept of its draft.
    """
    states = [line for line in before if "digest" in line]
    if not states:
        return
    lost_s = lost_before(killed_at, states, states[0]["digest"] if anew else opened["digest"])
    if lost_s is None:
        told.faults.append(f"{where}: a state came back that never was")
    elif lost_s > 0:
        told.lost_s.append(lost_s)
        if lost_s > LOST_AT_MOST_S:
            told.faults.append(f"{where}: an edit of {lost_s:.2f} s before the kill is lost")


def lost_before(ended_at: float, states: list[dict[str, Any]], came_back: str) -> float | None:
    """Age of the oldest edit that did not come back, seconds, 0 when all did; None for a state that never was."""
    found = [at for at, line in enumerate(states) if line["digest"] == came_back]
    if not found:
        return None
    return 0.0 if found[-1] == len(states) - 1 else ended_at - float(states[found[-1] + 1]["t"])


def rows_on_disk(folder: Path) -> set[str]:
    """Ids of all rows in the ledger's file, or beside it; raises what SQLite says of a damaged one."""
    path, found = folder / "state" / "data" / "ledger.sqlite", set()
    if path.exists():
        with sqlite3.connect(path) as ledger:
            said = ledger.execute("PRAGMA integrity_check").fetchone()[0]
            if said != "ok":
                raise sqlite3.DatabaseError(said)
            tables = {name for (name,) in ledger.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
            for name in tables & set(ROWS):
                found |= {str(row_id) for (row_id,) in ledger.execute(f"SELECT id FROM {name}")}
        ledger.close()
    beside = folder / "state" / "unwritten" / "changes.jsonl"
    if beside.exists():
        for line in beside.read_text("utf-8").splitlines():
            found |= {str(part) for part in line.replace('"', " ").split()}
    return found


def _check_rows(told: Chain, folder: Path, lines: list[dict[str, Any]], killed_at: float, where: str) -> None:
    seen = [(line["t"], row) for line in lines if line["kind"] == "rows" for row in line["ids"]]
    told.rows += len(seen)
    if not seen:
        return
    try:
        there = rows_on_disk(folder)
    except sqlite3.DatabaseError as problem:
        told.faults.append(f"{where}: the ledger is damaged: {problem}")
        return
    for at, row in seen:
        if row.split("/")[1] not in there:
            told.rows_lost_s.append(killed_at - at)
            if killed_at - at > LOST_AT_MOST_S:
                told.faults.append(f"{where}: {row} of {killed_at - at:.2f} s before the kill is lost")


def _takes_cut(
    told: Chain, folder: Path, lines: list[dict[str, Any]], killed_at: float, takes: dict[str, float]
) -> None:
    """A take that was being recorded lies on the disk but for its last moments."""
    last = next((line for line in reversed(lines) if line["kind"] == "taking"), None)
    if last is None or killed_at - last["t"] > 0.12:
        return
    recorded_at = time.time() - (time.monotonic() - last["t"])
    if any(sound.stat().st_mtime > recorded_at - 0.1 for sound in (folder / "state").glob("**/takes/*.flac")):
        return  # it had come to its end, and is in the ledger
    raws = sorted((folder / "state" / "unsaved").glob("*/takes/*.raw"), key=lambda raw: raw.stat().st_mtime)
    kept_s = raws[-1].stat().st_size / 4 / 44_100 if raws else 0.0
    told.takes_cut += 1
    told.takes_lost_s.append(last["seconds"] + killed_at - last["t"] - kept_s)
    if kept_s > 0:
        takes[raws[-1].stem] = kept_s


def _check_file(told: Chain, file: Path | None, where: str) -> None:
    if file is not None:
        try:
            read_document(file)
        except FileError as problem:
            told.files_lost += 1
            told.faults.append(f"{where}: the file is lost: {problem}")


def kills(folder: Path, *, seed: int, count: int) -> Chain:
    """Kill that many lives, in chains side by side: every other solo has a file of its own."""
    whole, each = Chain(), 25
    chains = [(folder / f"chain-{n}", seed * 100 + n, min(each, count - n * each), n % 2 == 0)
              for n in range(-(-count // each))]  # fmt: skip
    with ProcessPoolExecutor(os.cpu_count(), mp_context=get_context("spawn"), max_tasks_per_child=1) as pool:
        for told in pool.map(_chain, chains):
            whole.add(told)
    return whole


def _chain(words: tuple[Path, int, int, bool]) -> Chain:
    folder, seed, count, saved = words
    return chain(folder, seed=seed, kills=count, saved=saved)
