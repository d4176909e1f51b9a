"""For every pair of hands: Tab leads to everything on a bench and round again, and what has the keys shows it."""

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, QRect, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QMenuBar, QWidget
from pytestqt.qtbot import QtBot
from test_seen import pixels

from hands import at_rest, press, settled
from notcher.core.formats import Document
from notcher.core.score import Score
from notcher.painting.theme import THEMES
from notcher.ui.shell.program import Program

MOST_STOPS = 120
AROUND_PX, LEAST_PIXELS, LEAST_STEP = 3, 12, 24.0
"""Round a widget; so many pixels of it are so different in a colour once it has the keys."""


def stops(window: QWidget) -> set[QWidget]:
    """What Tab should lead to: in view, able, and meant to be reached so."""
    found = set()
    for widget in window.findChildren(QWidget):
        wants = widget.focusPolicy().value & Qt.FocusPolicy.TabFocus.value
        proxied = widget.focusProxy() is not None
        if wants and widget.isVisible() and widget.isEnabled() and not proxied and not isinstance(widget, QMenuBar):
            found.add(widget)
    return found


def around(window: QWidget, widget: QWidget) -> QRect:
    corner = widget.mapTo(window, QPoint(0, 0)) - QPoint(AROUND_PX, AROUND_PX)
    return QRect(corner, widget.size()).adjusted(0, 0, 2 * AROUND_PX, 2 * AROUND_PX) & window.rect()


def unseen(window: QWidget) -> tuple[list[str], set[QWidget]]:
    """Press Tab round the window; return what did not show that it had the keys, and what was reached."""
    missed, reached = [], set[QWidget]()
    now = window.grab().toImage()
    for _ in range(MOST_STOPS):
        widget = QApplication.focusWidget()
        assert widget is not None
        if widget in reached:
            return missed, reached
        reached.add(widget)
        where, before = around(window, widget), now
        press("Tab")
        QTest.qWait(10)
        now = window.grab().toImage()
        held, left = pixels(before, where), pixels(now, around(window, widget))
        changed = held.shape != left.shape or int((np.abs(held - left).max(axis=1) > LEAST_STEP).sum()) >= LEAST_PIXELS
        if not changed:
            missed.append(f"{type(widget).__name__} {widget.accessibleName()!r}")
    raise AssertionError("Tab does not come round")


@pytest.mark.slow
@pytest.mark.parametrize("theme", THEMES)
def test_tab_leads_everywhere_and_the_keys_are_seen(program: Program, demo: Document, qtbot: QtBot, theme: str) -> None:
    program.settings.set("theme", theme)
    program.apply_settings()
    program.open(demo, None)
    settled(program)
    QApplication.setCursorFlashTime(0)  # a blinking cursor is no answer to where the keys are
    wrong: dict[str, list[str]] = {}
    for number in range(1, 8):
        press(f"Ctrl+{number}")
        at_rest(program.window)
        missed, reached = unseen(program.window)
        never = [f"{type(w).__name__} {w.accessibleName()!r} is not reached" for w in stops(program.window) - reached]
        if missed or never:
            wrong[program.bench] = missed + never
    print(wrong)
    assert wrong == {}


@pytest.mark.slow
def test_a_still_playhead_stands_on_each_beat_in_turn(program: Program, qtbot: QtBot, lick: Score) -> None:
    """120 to the minute, the first at half a second: it is seen at every half second and nowhere between."""
    program.open(Document(lick), None)
    qtbot.waitUntil(lambda: QApplication.focusWidget() is not None, timeout=5_000)
    press("F6")
    qtbot.waitUntil(lambda: program.player.playing, timeout=20_000)
    press("Space")
    program.player.set_pace(1.0)
    program.player.set_count_in(False)
    shown: list[float] = []
    program.playhead.moved.connect(shown.append)

    def played() -> set[float]:
        shown.clear()
        press("Home")
        press("Return")
        shown.clear()
        press("Space")
        qtbot.waitUntil(lambda: program.player.playing and program.player.time_s > 2.3, timeout=10_000)
        seen = {round(time_s, 2) for time_s in shown}
        press("Space")
        return seen

    assert len(played()) > 10, "it glides"
    program.settings.set("still", True)
    program.apply_settings()
    steps = played()
    assert steps <= {0.5, 1.0, 1.5, 2.0, 2.5}
    assert len(steps) >= 3
