"""Thousands of random acts at the window, by delivered keys, clicks, drags and wheels, and what they must not do."""

from __future__ import annotations

import logging
import sys
import threading
import time
import traceback
from collections import Counter
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np
from PyQt6.QtCore import QPoint, QPointF, Qt, QTimer, QtMsgType, qInstallMessageHandler
from PyQt6.QtGui import QKeySequence, QWheelEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QDialog, QMenu, QWidget

from endure_kills import solo_with_phrases
from notcher.core.formats import Document, musicxml_text, text_tab
from notcher.core.formats.document.document import SCORE, document_data, score_of
from notcher.core.score import Score
from notcher.core.synthesis import render
from simulated_program import simulated_program

STRETCH = 500
"""After so many acts all is undone and done again."""
LEFT_OUT = {"file.quit", "file.open", "file.by_hand", "file.demo", "file.keep_stretch"}
"""Their keys are not pressed: they end the walk or open something else, and what was undone could not be compared."""
NESTED_S = 0.3
QUICK = 8.0
WRITING = ["7", "12", "5", "Left", "Right", "Up", "Down", "Home", "End", "Return", "Space", "Escape", "Tab"]
ANSWERS = ("", "7", "E minor", "Watch", "-1", "1e9", "½", "0", "Ida", "12/8")
KINDS = ("command", "writing", "click", "drag", "wheel", "context menu", "window", "back to the tab")
CHANCES = (0.44, 0.25, 0.12, 0.05, 0.05, 0.03, 0.01, 0.05)
HARMLESS = ("qt.multimedia", "PulseAudio", "This plugin does not support", "propagateSizeHints")


@dataclass
class Walked:
    """What came of a walk: acts by kind, what should not have happened, how long the window took for an act."""

    kinds: Counter[str] = field(default_factory=Counter)
    faults: list[str] = field(default_factory=list)
    took_s: list[float] = field(default_factory=list)
    stretches: list[tuple[int, bool, bool]] = field(default_factory=list)
    """Steps that were undone, whether that gave the start, whether doing them again gave the end."""
    slowest: tuple[float, str] = (0.0, "")
    asked: int = 0
    nested: int = 0
    changed: int = 0


@contextmanager
def watched(walked: Walked) -> Iterator[None]:
    """Note whatever would have been a traceback, a fault in the log or a word of Qt's."""

    def noted(kind: type[BaseException], problem: BaseException, trace: object) -> None:
        where = traceback.extract_tb(problem.__traceback__)[-1:]
        at = f"{Path(where[0].filename).name}:{where[0].lineno}" if where else ""
        walked.faults.append(f"{kind.__name__}: {problem} {at}")
        traceback.print_exception(kind, problem, problem.__traceback__)

    def told(kind: QtMsgType, _context: object, words: str | None) -> None:
        grave = kind not in (QtMsgType.QtDebugMsg, QtMsgType.QtInfoMsg)
        if grave and words and not any(part in words for part in HARMLESS):
            walked.faults.append(f"Qt: {words}")

    class Log(logging.Handler):
        def emit(self, record: logging.LogRecord) -> None:
            walked.faults.append(f"log: {record.getMessage()}")

    handler, before = Log(logging.ERROR), (sys.excepthook, threading.excepthook)
    logging.getLogger("notcher").addHandler(handler)
    sys.excepthook = noted
    threading.excepthook = lambda args: noted(args.exc_type, args.exc_value or Exception(), None)
    qInstallMessageHandler(told)
    yield
    qInstallMessageHandler(None)
    sys.excepthook, threading.excepthook = before
    logging.getLogger("notcher").removeHandler(handler)


class Walk:
    """A seeded hand at the window. folder: where all that is written goes."""

    def __init__(self, app: QApplication, folder: Path, seed: int) -> None:
        self.app, self.dice, self.walked = app, np.random.default_rng(seed), Walked()
        self.program = simulated_program(folder, speed=QUICK)
        self.window = self.program.window
        solo = solo_with_phrases(seed, length_s=20.0)
        self.document = Document(solo, render(solo))
        self.opened = False
        self.program.session.opened.connect(self._on_opened)
        self._delivering_since, self.last = 0.0, ""
        self._nested = QTimer()
        self._nested.timeout.connect(self._on_nested)
        self._nested.start(100)
        self.keys = [c.keys for c in self.program.commands if c.keys and c.id not in LEFT_OUT]

    def _on_opened(self) -> None:
        self.opened = True

    def begin(self) -> Score:
        """Open the solo as it was; return it."""
        session = self.program.session
        session.mark_saved(session.document, session.undo_stack.index())
        session.open(self.document, None)
        self.to_the_tab()
        self.opened = False
        return session.document.score

    def to_the_tab(self) -> None:
        """Answer what is asked and go back to the tab."""
        for _ in range(12):
            if (waiting := self._asking()) is None:
                break
            self._keys(waiting, "Escape")
            if self._asking() is waiting and isinstance(waiting, QDialog):
                waiting.reject()
        self.program.teaching.recorder.cancel()
        for keys in ("Escape", "Escape", "Ctrl+2", "Escape"):
            self._keys(self._focused(), keys)

    def walk(self, acts: int) -> Walked:
        """Do that many acts, and undo all of them now and then."""
        start, since = self.begin(), 0
        for number in range(acts):
            kind = str(self.dice.choice(KINDS, p=CHANCES))
            before = self.program.document.score
            begun = time.perf_counter()
            try:
                self._act(kind)
                self.app.processEvents()
                took_s = time.perf_counter() - begun
                self.walked.took_s.append(took_s)
                self.walked.slowest = max(self.walked.slowest, (took_s, self.last))
                QTest.qWait(int(self.dice.integers(0, 12)))
                self._answer()
            except Exception as problem:
                sys.excepthook(type(problem), problem, problem.__traceback__)
            self.walked.kinds[kind] += 1
            since += 1
            after = self.program.document.score
            if after is not before:
                self.walked.changed += 1
                self._check(after, number)
            if self.opened:  # something else was opened: what was before is another document's
                start, since = self.begin(), 0
            elif since == STRETCH or number == acts - 1:
                self._there_and_back(start)
                start, since = self.begin(), 0
        self.end()
        return self.walked

    def _there_and_back(self, start: Score) -> None:
        """Undo all that was done by pressing the keys for it, then do it again."""
        self.to_the_tab()
        self._settle()
        stack, end = self.program.session.undo_stack, self.program.document.score
        steps = stack.index()
        self._press_until("Ctrl+Z", lambda: not stack.canUndo(), stack.count())
        same = _same(self.program.document.score, start)
        self._press_until("Ctrl+Shift+Z", lambda: stack.index() >= steps, stack.count())
        self.walked.stretches.append((steps, same, _same(self.program.document.score, end)))

    def _press_until(self, keys: str, done: Callable[[], bool], most: int) -> None:
        for _ in range(most + 20):
            if done():
                return
            self._keys(self._focused(), keys)
            self.app.processEvents()

    def end(self) -> None:
        self.to_the_tab()
        session = self.program.session
        session.mark_saved(session.document, session.undo_stack.index())
        self.window.close()
        self.app.processEvents()

    # --- acts ---
    def _act(self, kind: str) -> None:
        if kind == "command":
            self._keys(self._focused(), str(self.dice.choice(self.keys)))
        elif kind == "writing":
            self._keys(self._focused(), str(self.dice.choice(WRITING)))
        elif kind == "back to the tab":
            for keys in ("Escape", "Ctrl+2", "Escape"):
                self._keys(self._focused(), keys)
        elif kind == "window":
            self.window.resize(int(self.dice.integers(900, 1900)), int(self.dice.integers(600, 1100)))
        else:
            self._by_mouse(kind)

    def _by_mouse(self, kind: str) -> None:
        handle, at = self.window.windowHandle(), self._somewhere()
        self.last = f"{kind} at {type(self.window.childAt(at)).__name__}"
        assert handle is not None
        modifier = self.dice.choice([Qt.KeyboardModifier.NoModifier] * 4 + [Qt.KeyboardModifier.ShiftModifier])
        left, right = Qt.MouseButton.LeftButton, Qt.MouseButton.RightButton
        if kind == "click":
            (QTest.mouseDClick if self.dice.random() < 0.15 else QTest.mouseClick)(handle, left, modifier, at)
        elif kind == "context menu":
            QTest.mouseClick(handle, right, modifier, at)
        elif kind == "drag":
            to = self._somewhere()
            QTest.mousePress(handle, left, modifier, at)
            for step in range(1, 5):
                QTest.mouseMove(handle, at + (to - at) * step / 4)
            QTest.mouseRelease(handle, left, modifier, to)
        else:
            turn = QPoint(0, int(self.dice.choice([-120, 120, 240])))
            held = Qt.KeyboardModifier.ControlModifier if self.dice.random() < 0.4 else modifier
            where = QPointF(at)
            event = QWheelEvent(where, QPointF(handle.mapToGlobal(at)), QPoint(), turn, Qt.MouseButton.NoButton, held,
                                Qt.ScrollPhase.NoScrollPhase, False)  # fmt: skip
            QApplication.sendEvent(handle, event)

    def _somewhere(self) -> QPoint:
        size = self.window.size()
        return QPoint(int(self.dice.integers(2, size.width() - 2)), int(self.dice.integers(2, size.height() - 2)))

    def _answer(self) -> None:
        """Answer what is asked: a line and Return, the next button, or Escape; Escape at the latest."""
        for turn in range(8):
            waiting = self._asking()
            if waiting is None:
                return
            self.walked.asked += 1
            way = self.dice.random()
            if turn >= 5 or way < 0.4:
                self._keys(waiting, "Escape")
            elif isinstance(waiting, QMenu):
                self._keys(waiting, str(self.dice.choice(["Down", "Up", "Right", "Return"])))
            elif way < 0.7:
                QTest.keyClicks(self._focused(), str(self.dice.choice(ANSWERS)))
                self._keys(self._focused(), "Return")
            else:
                for keys in ("Tab", str(self.dice.choice(["Space", "Down", "Up"]))):
                    self._keys(self._focused(), keys)
            QTest.qWait(8)

    def _asking(self) -> QWidget | None:
        """The menu or the dialog that waits."""
        popup = QApplication.activePopupWidget()
        if popup is not None:
            return popup
        return next((w for w in QApplication.topLevelWidgets() if isinstance(w, QDialog) and w.isVisible()), None)

    def _focused(self) -> QWidget:
        active = QApplication.activeWindow()
        if (active is None or not active.isVisible()) and self._asking() is None:  # what a window manager does
            self.window.activateWindow()
            QTest.qWait(5)
        return QApplication.activePopupWidget() or QApplication.focusWidget() or self._asking() or self.window

    def _keys(self, to: QWidget, keys: str) -> None:
        for chord in [keys] if not keys.isdigit() else list(keys):
            self._delivering_since, self.last = time.monotonic(), f"{chord} at {type(to).__name__}"
            QTest.keySequence(to, QKeySequence(chord))
        self._delivering_since = 0.0

    def _on_nested(self) -> None:
        """The toolkit's file dialog waits inside a key for its own question (no such file): close that."""
        since, waiting = self._delivering_since, QApplication.activeModalWidget()
        if since and waiting is not None and time.monotonic() > since + NESTED_S:
            self.walked.nested += 1
            QTest.keyClick(waiting, Qt.Key.Key_Escape)

    # --- what must hold ---
    def _check(self, score: Score, number: int) -> None:
        """Whether a score is one that can be saved, read, written down and told from itself."""
        try:
            if problem := wrong_with(score, whole=number % 20 == 0):
                self.walked.faults.append(f"act {number}: {problem}")
        except Exception as problem:
            sys.excepthook(type(problem), problem, problem.__traceback__)

    def _settle(self) -> None:
        until = time.monotonic() + 20
        while self.program.busy and time.monotonic() < until:
            QTest.qWait(5)


def _same(score: Score, other: Score) -> bool:
    """Whether two scores say the same, also by the identities of their notes."""
    return score == other and [note.id for note in score.notes] == [note.id for note in other.notes]


def wrong_with(score: Score, *, whole: bool) -> str:
    """What is wrong with a score, if anything. whole: it is written down as well."""
    ids = [note.id for note in score.notes]
    if len(set(ids)) != len(ids):
        return "two notes are one"
    for note in score.notes:
        if not (0 <= note.onset_s < note.offset_s and np.isfinite(note.offset_s)):
            return f"a note lasts from {note.onset_s} to {note.offset_s} s"
        if not (1 <= note.string <= len(score.tuning.open_midi) and 0 <= note.fret <= 36):
            return f"a note lies on string {note.string}, fret {note.fret}"
    if [note.onset_s for note in score.notes] != sorted(note.onset_s for note in score.notes):
        return "notes are out of order"
    data = document_data(Document(score))[SCORE]
    if not _same(score_of(data, "the walk"), score):
        return "it is read otherwise than it was written"
    if whole:
        text_tab(score)
        musicxml_text(score)
    return ""


def random_acts(folder: Path, *, seed: int, acts: int) -> Walked:
    """Walk at a window of its own in an application that was made."""
    app = QApplication.instance() or QApplication([])
    assert isinstance(app, QApplication)
    walk = Walk(app, folder, seed)
    with watched(walk.walked):
        return walk.walk(acts)
