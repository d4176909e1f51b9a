"""An instructor's day at the window, from a request to next week's lesson: delivered keys and clicks, counted.

`./dev bench day` writes what each step takes; the tests walk the same day in a real window.
"""

from __future__ import annotations

import sys
import time
import zipfile
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from datetime import datetime, timedelta
from pathlib import Path

import numpy as np
from PyQt6.QtCore import QPoint
from PyQt6.QtGui import QKeySequence
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QAbstractSpinBox, QApplication, QDialog, QLineEdit, QMainWindow, QWidget

sys.path.insert(0, str(Path(__file__).parents[1] / "tests"))

import hands as delivered
from notcher.core.formats import text_tab
from notcher.core.score import STANDARD, Score
from notcher.core.sound import Clip, write_clip
from notcher.core.synthesis import render
from notcher.ui.shell.program import Program
from notcher.ui.state.shell import Bench
from second_composer import second_case
from simulated_program import simulated_program
from version_pairs import version_pair

MONDAY = datetime(2026, 3, 2, 9, 0)
RATE = 44_100
NOTE_MS = 400
"""So long a quick hand takes from note to note when it writes."""
QUICK = 8.0
"""So many times as fast as on a desk the simulated loudspeaker and the simulated student play."""


class HurtError(AssertionError):
    """A step of the day cannot be done."""


# --- what lies on the desk in the morning ---
@dataclass(frozen=True)
class Desk:
    """Files of an invented day. solo: what was played in the recordings."""

    folder: Path
    solo: Score

    @property
    def recording(self) -> Path:
        return self.folder / "Kelp line.flac"


def laid_out(folder: Path, *, seed: int = 41, length_s: float = 26.0) -> Desk:
    """Write the day's recordings: a random hand's solo over a band, and the same as it comes in on worse days.

    A folder in which they lie already is taken as it is.
    """
    case = second_case(seed, length_s=length_s)
    solo = replace(case.score, title="Kelp line")
    desk = Desk(folder, solo)
    if folder.exists():
        return desk
    folder.mkdir(parents=True)
    lead = render(solo).samples[:, 0]
    band = _band(solo, lead.size)
    both = np.stack([lead + 0.5 * band[:, 0], lead + 0.5 * band[:, 1]], axis=1)
    _write(both, desk.recording)
    _write(np.stack([lead, 0.6 * band.mean(axis=1)], axis=1), folder / "One side.wav")
    _write(_slower(lead, cents=-130.0)[:, None], folder / "Half a step down, flat.wav")
    _write(_over_the_telephone(lead)[:, None], folder / "Telephone.mp3")
    pause = np.zeros((2 * RATE, 2))
    _write(np.concatenate([0.3 * band, pause, both, pause] * 3, axis=0), folder / "Long evening.ogg")
    other = version_pair(solo, seed).second
    _write(render(other).samples[:, :1], folder / "Another night.wav")
    (folder / "from a student.txt").write_text(text_tab(solo), encoding="utf-8")
    return desk


def _write(samples: np.ndarray, path: Path) -> None:
    peak = float(np.abs(samples).max()) or 1.0
    clip = Clip((0.8 * samples / peak).astype(np.float32), RATE, path.stem)
    write_clip(clip, path, kind=path.suffix[1:].upper())


def _band(solo: Score, count: int) -> np.ndarray:
    """Two notes of a bass and of an organ to a bar, apart in the stereo picture; shape (count, 2)."""
    beats_s = 60.0 / (solo.beat_map.tempo_bpm or 100.0)
    times = np.arange(count) / RATE
    bar = (times / (2 * beats_s)).astype(int)
    since_s = times - bar * 2 * beats_s
    bass_hz = 55.0 * 2 ** (np.array([0, 5, 7, 3])[bar % 4] / 12)
    fade = np.exp(-1.5 * since_s)
    bass = fade * np.sin(2 * np.pi * bass_hz * since_s)
    organ = [sum(np.sin(2 * np.pi * m * bass_hz * since_s) for m in parts) for parts in ((4, 5), (4, 6))]
    return np.stack([0.4 * bass + 0.1 * fade * side for side in organ], axis=1)


def _slower(samples: np.ndarray, *, cents: float) -> np.ndarray:
    """As off a tape that runs slow."""
    at = np.arange(0, samples.size - 1, 2 ** (cents / 1200))
    return np.interp(at, np.arange(samples.size), samples)


def _over_the_telephone(samples: np.ndarray, *, hiss_db: float = -24.0) -> np.ndarray:
    """Without lows and highs, and with hiss."""
    spectrum = np.fft.rfft(samples)
    hz = np.fft.rfftfreq(samples.size, 1 / RATE)
    narrow = np.fft.irfft(spectrum / (1 + (200 / np.maximum(hz, 1)) ** 4) / (1 + (hz / 4_500) ** 4), samples.size)
    noise = np.random.default_rng(7).normal(size=samples.size)
    return narrow + noise * np.sqrt(np.mean(narrow**2)) * 10 ** (hiss_db / 20)


# --- the hands ---
@dataclass
class Step:
    """One step of the day. lesson: it is done in every lesson, and may take three acts at most."""

    name: str
    lesson: bool = False
    acts: int = 0
    letters: int = 0
    seconds: float = 0.0


@dataclass
class Hands:
    """Delivers keys and clicks to whatever has the focus, and counts them.

    A key or a chord of keys, a click, a drag, and a line of typed words each are one act; letters are counted beside.
    """

    app: QApplication
    steps: list[Step] = field(default_factory=list)

    def step(self, name: str, *, lesson: bool = False) -> Step:
        self.steps.append(Step(name, lesson))
        return self.steps[-1]

    def press(self, *keys: str) -> None:
        for chord in keys:
            QTest.keySequence(self._focused, QKeySequence(chord))
            self.steps[-1].acts += 1
            self.app.processEvents()

    def type(self, words: str) -> None:
        focused = self._focused
        if isinstance(focused, QLineEdit | QAbstractSpinBox):
            QTest.keySequence(focused, QKeySequence("Ctrl+A"))  # typed over what is proposed: part of typing
        QTest.keyClicks(focused, words)
        self.steps[-1].acts += 1
        self.steps[-1].letters += len(words)
        self.app.processEvents()

    def answer(self, *words: str) -> None:
        """Fill the fields of what is asked, one after the other, and press Return."""
        asked = self.question()
        for at, line in enumerate(words):
            if at:
                self.press("Tab")
            if line:
                self.type(line)
        self.press("Return")
        delivered.gone(asked)

    def question(self) -> QDialog:
        return delivered.question(20_000)

    def click(self, window: QMainWindow, widget: QWidget, at: QPoint | None = None) -> None:
        delivered.click(window, widget, at)
        self.steps[-1].acts += 1
        self.app.processEvents()

    def drag(self, window: QMainWindow, widget: QWidget, start: QPoint, end: QPoint) -> None:
        delivered.drag(window, widget, start, end)
        self.steps[-1].acts += 1
        self.app.processEvents()

    def wait(self, done: Callable[[], bool], what: str, *, seconds: float = 90.0) -> None:
        until = time.monotonic() + seconds
        while not done():
            self.app.processEvents()
            time.sleep(0.003)
            if time.monotonic() > until:
                raise HurtError(f"{self.steps[-1].name}: {what} does not come")

    @property
    def _focused(self) -> QWidget:
        self.wait(lambda: QApplication.focusWidget() is not None, "a place for keys", seconds=5)
        focused = QApplication.focusWidget()
        assert focused is not None
        return focused


# --- the day ---
class Day:
    """The instructor, the window and the desk. shots: told a name when there is something to be looked at."""

    def __init__(
        self, app: QApplication, desk: Desk, home: Path, *, shots: Callable[[str, QMainWindow], None] | None = None
    ) -> None:
        self.app, self.desk, self.home, self.hands = app, desk, home, Hands(app)
        self.now = MONDAY
        self._shots = shots or (lambda _name, _window: None)
        self.program = self.begin()

    def begin(self) -> Program:
        """Start Notcher as it is started in the morning."""
        self.program = simulated_program(
            self.home, speed=QUICK, now=lambda: self.now, clock=lambda: QUICK * time.monotonic()
        )
        return self.program

    def end(self) -> None:
        """Close the window; what a walk leaves unsaved is no question."""
        program = self.program
        program.saved()
        program.close()
        self.app.processEvents()

    def idle(self) -> None:
        QTest.qWait(40)
        self.hands.wait(lambda: not self.program.busy, "the end of the work")

    def look(self, name: str) -> None:
        self._shots(name, self.program.window)

    def said(self) -> str:
        return self.program.said

    def check(self, holds: bool, what: str) -> None:
        if not holds:
            raise HurtError(f"{self.hands.steps[-1].name}: {what} (said: {self.said()!r})")

    def walk(self) -> list[Step]:
        """The whole day, then next week."""
        for part in (
            self.request, self.opened, self.checked, self.first_phrase, self.proved, self.meaning, self.easier,
            self.saved, self.planned, self.taught, self.a_take, self.marked, self.handed_out,
        ):  # fmt: skip
            self._timed(part)
        self.end()
        self.now = MONDAY + timedelta(days=7)
        self.begin()
        for part in (self.next_week, self.revised):
            self._timed(part)
        self.end()
        return self.hands.steps

    def walk_other_days(self) -> list[Step]:
        """What comes in on other days, each begun from an empty window."""
        for part in (
            self.by_hand, self.students_tab, self.second_version, self.long_evening, self.half_step_down,
            self.one_side, self.telephone,
        ):  # fmt: skip
            self._timed(part)
            self.end()
            self.begin()
        self.end()
        return self.hands.steps

    def _timed(self, part: Callable[[], None]) -> None:
        begun, first = time.monotonic(), len(self.hands.steps)
        part()
        for step in self.hands.steps[first:]:
            step.seconds = (time.monotonic() - begun) / (len(self.hands.steps) - first)

    # each of these is a part of the day; what it does is what a person does
    def request(self) -> None:
        hands, program = self.hands, self.program
        hands.step("a request is noted, for somebody new")
        hands.press("Ctrl+7")
        self.idle()
        hands.press("R")
        hands.answer("Kelp line", "Sunniva")
        self.idle()
        queue = [request.title for request in program.ledger.book.queue()]
        self.check(queue == ["Kelp line"], "the request stands in the queue")
        self.look("queue")

    def opened(self) -> None:
        hands, program = self.hands, self.program
        hands.step("its recording is opened")
        hands.press("Return")
        hands.answer(str(self.desk.recording))
        begun = time.monotonic()
        hands.wait(lambda: bool(program.score.notes), "the first notes")
        self.first_s = time.monotonic() - begun
        self.first_heard = len(program.score.notes)
        self.check(program.bench is Bench.NOTCH, "the tab is in view")

    def first_phrase(self) -> None:
        hands, program = self.hands, self.program
        hands.step("the first phrase is read and heard")
        hands.press("L", "Space")
        hands.wait(lambda: program.player.playing, "the loop")
        hands.press("Space")
        self.idle()
        hands.press("L")
        self.check(len(program.score.notes) > self.first_heard or self.first_heard > 20, "the rest is there")
        self.look("first phrase")

    def checked(self) -> None:
        hands, program = self.hands, self.program
        hands.step("lead, tuning and beat are checked")
        hands.press("Ctrl+1")
        self.check(program.bench is Bench.HEAR, "the Hear bench is in view")
        self.look("hear")
        hands.press("Ctrl+2")

    def proved(self) -> None:
        hands, program = self.hands, self.program
        hands.step("every finding is settled")
        prove = program.prove
        hands.press("Ctrl+3")
        hands.wait(lambda: prove.row is not None and not program.busy, "the findings")
        self.look("prove")
        for _ in range(80):
            row = prove.row
            if row is None or not row.waiting:
                break
            hands.press("C" if row.state.name == "OPEN" else "K")
            self.idle()
        self.check("0 findings open" in prove.summary.text(), f"all are settled: {prove.summary.text()}")

    def meaning(self) -> None:
        hands, program = self.hands, self.program
        hands.step("phrases and shapes are read")
        hands.press("Ctrl+4")
        self.idle()
        self.look("shapes")
        hands.step("chords and target notes are shown")
        hands.press("Ctrl+2", "Ctrl+Alt+H")
        self.idle()
        hands.press("Ctrl+Alt+D")
        self.idle()
        self.check(bool(program.score.chords), "chords are proposed")
        self.look("targets")

    def easier(self) -> None:
        hands, program = self.hands, self.program
        hands.step("an easier variant of a phrase")
        hands.press("Home", "Ctrl+Shift+E")
        hands.answer()
        self.check(len(program.document.score.variants) == 1, "there is a variant")

    def saved(self) -> None:
        hands, program = self.hands, self.program
        hands.step("saved for the first time")
        hands.press("Ctrl+S")
        hands.answer(str(self.home / "Kelp line.notch"))
        self.idle()
        self.check(program.session.path is not None, "there is a file")

    def planned(self) -> None:
        hands, program = self.hands, self.program
        hands.step("the lesson is planned", lesson=True)
        hands.press("Ctrl+5", "P")
        self.idle()
        self.check(program.teach.plan.plan is not None, "there is a plan")
        self.check(program.ledger.student.name == "Sunniva", "it is hers")
        self.look("plan")

    def taught(self) -> None:
        hands, program = self.hands, self.program
        hands.step("the lesson runs by itself", lesson=True)
        hands.press("Shift+Return")
        hands.wait(lambda: program.teaching.runner.runs and program.player.playing, "the first step")
        hands.step("the stand: two lines on the whole screen", lesson=True)
        hands.press("F11")
        self.idle()
        self.check(program.whole_screen.on, "the stand fills the screen")
        self.look("stand")
        hands.step("back from the stand, and the lesson ended", lesson=True)
        hands.press("Esc", "Shift+Return")
        self.check(not program.teaching.runner.runs, "the lesson is over")
        program.settings.set("switch_1", "walk_words.next")
        hands.step("walked through by foot, five notes said", lesson=False)
        for _ in range(5):
            hands.press("F9")
        self.idle()
        self.check(len(program.teaching.walk.voice.said) >= 5, "five are said")
        program.player.stop()

    def a_take(self) -> None:
        hands, program = self.hands, self.program
        takes = program.teach.takes
        hands.step("a take is recorded and checked", lesson=True)
        hands.press("N", "N", "F8")  # not of the whole solo: of the phrase that is new
        hands.wait(lambda: bool(takes.takes) and program.teaching.recorder.state == "idle", "the take")
        self.idle()
        self.look("take")
        hands.step("its verdict goes on the board", lesson=True)
        before = len(program.passes)
        hands.press("V")
        self.check(len(program.passes) == before + 1, "it is marked")

    def marked(self) -> None:
        hands, program = self.hands, self.program
        hands.step("a phrase is marked clean", lesson=True)
        hands.press("Escape", "C")
        self.check(bool(program.passes), "it is marked")
        hands.step("what was done goes into the ledger", lesson=True)
        hands.press("Shift+G")
        hands.answer()
        self.idle()
        self.check(bool(program.ledger.book.lessons), "the lesson is kept")

    def handed_out(self) -> None:
        hands, program = self.hands, self.program
        hands.step("the sheet as PDF", lesson=True)
        hands.press("Ctrl+Alt+W")
        hands.answer(str(self.home / "sheet.pdf"))
        self.idle()
        self.check((self.home / "sheet.pdf").exists(), "there is a sheet")
        hands.step("a practice pack", lesson=True)
        hands.press("Ctrl+Alt+N")
        hands.answer()
        hands.press("Return")
        hands.wait(lambda: bool(program.ledger.book.sent), "the pack")
        self.idle()
        self.look("pack")

    def next_week(self) -> None:
        hands, program = self.hands, self.program
        hands.step("next week: what is due, and go on", lesson=True)
        hands.press("Ctrl+7")
        hands.wait(lambda: program.record.bench.chosen is not None, "what is due")
        self.look("due")
        hands.press("Return")
        hands.wait(lambda: program.bench is Bench.TEACH and program.session.path is not None, "the solo")
        self.idle()
        hands.step("the next lesson is planned", lesson=True)
        hands.press("P")
        self.idle()
        self.check(program.teach.plan.plan is not None, "there is a plan")

    def revised(self) -> None:
        hands, program = self.hands, self.program
        hands.step("a note is corrected and saved")
        hands.press("Ctrl+2", "Home", "Right", "S", "Ctrl+S")
        self.idle()
        hands.step("what changed since it was given out")
        hands.press("Ctrl+7", "7")
        self.idle()
        self.look("given out")
        table = program.record.bench.sent.list
        self.check(table.rowCount() > 0 and "1 change" in table.item(0, 2).text(), "the change is told")
        hands.step("the revision is sent with what changed")
        hands.press("Ctrl+Alt+N")
        hands.answer("1", "50")
        hands.answer(str(self.home / "again.zip"))
        self.idle()
        with zipfile.ZipFile(self.home / "again.zip") as pack:
            page = pack.read("index.html").decode()
        self.check("What changed since you got it last" in page and "bent otherwise" in page, "the pack tells it")

    # --- other days ---
    def by_hand(self) -> None:
        """Eight notes to a bar, by keys alone: no hand leaves the keyboard."""
        hands, program = self.hands, self.program
        hands.step("a solo is begun by hand")
        hands.press("Ctrl+N")
        hands.answer()
        self.idle()
        step = hands.step("written by keys, eight notes to a bar")
        for string, fret in by_hand_line(self.desk.solo):
            while (far := string - program.notch.writing.string) != 0:
                hands.press("Down" if far > 0 else "Up")
            for figure in figures_for(fret, [note.fret for note in program.score.notes]):
                hands.press(figure)
            QTest.qWait(NOTE_MS)
        written = [(note.string, note.fret) for note in program.score.notes]
        self.check(written == by_hand_line(self.desk.solo), "the line stands there")
        self.keys_a_note = step.acts / len(written)
        self.look("by hand")

    def students_tab(self) -> None:
        hands, program = self.hands, self.program
        hands.step("a student's text tab is brought in")
        hands.press("Ctrl+O")
        hands.answer(str(self.desk.folder / "from a student.txt"))
        hands.wait(lambda: len(program.score.notes) > 20, "the tab")
        hands.step("laid over the recording, and proved")
        hands.press("Ctrl+Alt+R")
        hands.answer(str(self.desk.recording))
        hands.wait(lambda: program.document.clip is not None and not program.busy, "the recording")
        hands.press("Ctrl+3")
        hands.wait(lambda: bool(program.prove.summary.text()) and not program.busy, "the findings")
        found = sum(note.doubt is None for note in program.score.notes)
        self.check(found > 0.8 * len(program.score.notes), "most notes are found")
        self.look("student's tab")

    def second_version(self) -> None:
        hands, program = self.hands, self.program
        self._open("Kelp line.flac")
        hands.step("a second version is compared")
        hands.press("Ctrl+Alt+O")
        hands.answer(str(self.desk.folder / "Another night.wav"))
        hands.wait(lambda: program.bench is Bench.SHAPES and not program.busy, "the comparison")
        self.idle()
        hands.press("N", "Return")
        self.look("versions")

    def long_evening(self) -> None:
        hands, program = self.hands, self.program
        self._open("Long evening.ogg", whole=False)
        strip, length_s = program.reel.strip, program.document.clip.duration_s
        hands.step("of a long evening one solo is kept")
        begin, end = (round(strip.width() * share) for share in (0.51 / 3 + 0.005, 0.98 / 3 + 0.005))
        middle = strip.height() // 2
        hands.drag(program.window, strip, QPoint(begin, middle), QPoint(end, middle))
        hands.press("Ctrl+Alt+X")
        hands.wait(lambda: program.document.clip.duration_s < length_s / 2, "the stretch")
        self.idle()
        self.check(len(program.score.notes) > 20, "its notes are written")
        self.look("kept")

    def half_step_down(self) -> None:
        hands, program = self.hands, self.program
        self._open("Half a step down, flat.wav")
        flat = program.score.tuning.offset_cents
        self.check(-35 < flat < -25, f"30 cents flat is found ({flat:.1f})")
        hands.step("tuned half a step down")
        hands.press("Ctrl+1")
        box = program.hear.tuning_box
        hands.click(program.window, box)
        self.look("tunings")
        hands.press("H", "Return")
        self.idle()
        self.check(program.score.tuning.open_midi[0] == STANDARD.open_midi[0] - 1, "the neck is lower")
        self._agrees(semitones=-1, stretch=2 ** (130 / 1200))

    def one_side(self) -> None:
        self._open("One side.wav")
        self._agrees()

    def telephone(self) -> None:
        self._open("Telephone.mp3", whole=True)
        self._agrees(least=0.7)

    def _open(self, name: str, *, whole: bool = True) -> None:
        hands, program = self.hands, self.program
        hands.step(f"opened: {name}")
        hands.press("Ctrl+O")
        hands.answer(str(self.desk.folder / name))
        hands.wait(lambda: bool(program.score.notes), "the first notes")
        if whole:
            self.idle()

    def _agrees(self, *, semitones: int = 0, stretch: float = 1.0, least: float = 0.8) -> None:
        """Hold what was heard against what was played: the share of notes at their time and pitch."""
        found, played = self.program.score, self.desk.solo
        heard = [(note.onset_s, found.fretted_midi(note) + note.reading.bend_semitones) for note in found.notes]
        right = sum(
            any(
                abs(at_s - stretch * note.onset_s) < 0.08
                and abs(midi - semitones - played.fretted_midi(note) - note.reading.bend_semitones) < 0.6
                for at_s, midi in heard
            )
            for note in played.notes
        )
        self.check(right >= least * len(played.notes), f"{right} of {len(played.notes)} notes are heard")
        self.hands.steps[-1].name += f" ({right} of {len(played.notes)} notes heard)"


def by_hand_line(solo: Score) -> list[tuple[int, int]]:
    """Four bars of eight, as they lie on the neck."""
    return [(note.string, note.fret) for note in solo.notes[:32]]


def figures_for(fret: int, before: list[int]) -> str:
    """What is typed for a fret: its last figure where the hand is near, else all of it."""
    from notcher.core.neck import fret_near

    recent = [played for played in before[-4:] if played]
    hand = float(np.median(recent or [0]))
    short = str(fret % 10)
    return short if fret_near(short, hand) == fret else f"{fret:02d}"
