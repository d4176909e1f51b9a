"""What tests do to the program, through the doors that a person uses."""

import gc
import time
from weakref import WeakKeyDictionary

from PyQt6 import sip
from PyQt6.QtCore import QPoint, Qt, QTimer
from PyQt6.QtGui import QImage, QKeySequence
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QAbstractSpinBox, QApplication, QDialog, QLineEdit, QMainWindow, QPushButton, QWidget

from notcher.ui.shell.program import Program
from notcher.ui.state.session import Session

MOMENT_MS = 400
"""A timer of this and less waits for the end of an edit; longer ones save, or tell two typed figures apart."""


TIMERS: WeakKeyDictionary[Program, list[QTimer]] = WeakKeyDictionary()
"""What each program has for timers; they are made with it."""


def act(program: Program, name: str) -> None:
    """Run a command by its id, as its menu entry, its keys and the finder do."""
    program.run(name)


def press(keys: str) -> None:
    """Deliver keys to whatever has the focus."""
    focused = QApplication.focusWidget()
    assert focused is not None, "nothing has the focus"
    QTest.keySequence(focused, QKeySequence(keys))


def walk_to(wanted: QWidget) -> None:
    """Press Tab until a widget has the keys."""
    for _ in range(60):
        if QApplication.focusWidget() is wanted:
            return
        press("Tab")
    raise AssertionError("Tab does not lead there")


def click(window: QMainWindow, widget: QWidget, at: QPoint | None = None) -> None:
    """Click with the mouse: on whatever lies there in the window, as the toolkit finds it."""
    handle = window.windowHandle()
    assert handle is not None
    where = widget.mapTo(window, widget.rect().center() if at is None else at)
    QTest.mouseClick(handle, Qt.MouseButton.LeftButton, pos=where)


def drag(window: QMainWindow, widget: QWidget, start: QPoint, end: QPoint) -> None:
    """Drag the mouse over the window from one point of a widget to another, in small steps."""
    handle = window.windowHandle()
    assert handle is not None
    first, last = widget.mapTo(window, start), widget.mapTo(window, end)
    QTest.mousePress(handle, Qt.MouseButton.LeftButton, pos=first)
    for step in range(1, 9):
        QTest.mouseMove(handle, first + (last - first) * step / 8)
        QTest.qWait(2)
    QTest.mouseRelease(handle, Qt.MouseButton.LeftButton, pos=last)


def question(timeout_ms: int = 5_000) -> QDialog:
    """Return the dialog that waits for an answer, once it has the keys."""
    end = time.monotonic() + timeout_ms / 1000
    while time.monotonic() < end:
        asked = QApplication.activeModalWidget()
        if isinstance(asked, QDialog) and asked.isActiveWindow() and QApplication.focusWidget() is not None:
            return asked
        QTest.qWait(5)
    raise AssertionError("nothing asks for anything")


def answer(*texts: str) -> None:
    """Type answers over what a dialog suggests, with Tab from one field to the next, and press Return."""
    asked = question()
    for at, text in enumerate(texts):
        line = QApplication.focusWidget()
        assert line is not None
        if isinstance(line, QLineEdit | QAbstractSpinBox):
            QTest.keySequence(line, QKeySequence("Ctrl+A"))
        QTest.keyClicks(line, text)
        QTest.keyClick(line, Qt.Key.Key_Return if at == len(texts) - 1 else Qt.Key.Key_Tab)
    gone(asked)


def choose(words: str) -> None:
    """Click the button with these words in the dialog that asks."""
    asked = question()
    buttons = {button.text().replace("&", ""): button for button in asked.findChildren(QPushButton)}
    assert words in buttons, f"no button {words!r} among {sorted(buttons)}"
    QTest.mouseClick(buttons[words], Qt.MouseButton.LeftButton)
    gone(asked)


def gone(asked: QDialog) -> None:
    """Wait until a dialog has closed; then do what a window manager does, and give the window below the keys back."""
    for _ in range(500):
        if sip.isdeleted(asked) or not asked.isVisible():
            QTest.qWait(10)
            if QApplication.activeModalWidget() is None and QApplication.activeWindow() is None:
                for window in QApplication.topLevelWidgets():
                    if isinstance(window, QMainWindow) and window.isVisible():
                        window.activateWindow()
            QTest.qWait(10)
            return
        QTest.qWait(5)
    raise AssertionError("the dialog stays open")


def settled(program: Program, *, timeout_ms: int = 30_000) -> None:
    """Wait until nothing is about to happen: no job, nothing asked of the record, no timer that waits for a moment."""
    timers = TIMERS.get(program)
    if timers is None:
        timers = TIMERS[program] = [thing for thing in gc.get_objects() if type(thing) is QTimer]
    end, calm = time.monotonic() + timeout_ms / 1000, 0
    while calm < 2:
        assert time.monotonic() < end, "the program does not come to rest"
        QTest.qWait(2)
        waits = any(
            timer.isActive() and timer.isSingleShot() and timer.interval() <= MOMENT_MS
            for timer in timers
            if not sip.isdeleted(timer)
        )
        calm = 0 if waits or program.busy or program.ledger._tasks else calm + 1


def selected_at(session: Session) -> int | None:
    """Where in the solo the note lies that keys act on first; None for none."""
    return session.score.index_of(session.selected)


def all_selected_at(session: Session) -> list[int]:
    """Where in the solo all selected notes lie."""
    return [session.score.position(note_id) for note_id in session.chosen.ids]


def select_at(session: Session, index: int, *, extend: bool = False) -> None:
    """Choose a note by where it lies."""
    session.select(session.score.notes[index].id, extend=extend)


def at_rest(widget: QWidget) -> QImage:
    """Wait until a view's picture stays as it is, and return it."""
    before = None
    for _ in range(200):
        QTest.qWait(15)
        now = widget.grab().toImage()
        if now == before:
            return now
        before = now
    raise AssertionError("the view does not come to rest")
