"""The first recording comes with six cards that explain the window; by delivered keys and clicks."""

import os
import shutil
import subprocess
import sys
from pathlib import Path

import pytest
from PyQt6.QtCore import QSettings
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from hands import answer, click, gone, press, question
from notcher.demo import demo_audio
from notcher.ui.shell.program import Program
from notcher.ui.shell.tour_cards import TourCards
from notcher.ui.state.settings import Settings


def by_finder(words: str) -> None:
    press("Ctrl+Space")
    finder = question()
    QTest.keyClicks(QApplication.focusWidget(), words)
    press("Return")
    gone(finder)


@pytest.fixture
def settings(tmp_path: Path) -> Settings:
    """Of a new user."""
    return Settings(QSettings(str(tmp_path / "settings.ini"), QSettings.Format.IniFormat))


@pytest.fixture
def cards(program: Program, qtbot: QtBot) -> TourCards:
    """Over the demo, opened as a person opens it."""
    qtbot.waitUntil(lambda: QApplication.focusWidget() is not None, timeout=5_000)
    by_finder("open demo")
    qtbot.waitUntil(lambda: program.cards.shown, timeout=60_000)
    QTest.qWait(50)
    return program.cards


def test_six_cards_point_at_parts_in_view(program: Program, cards: TourCards, qtbot: QtBot) -> None:
    seen = []
    while cards.shown:
        seen.append(cards.title.text())
        there = cards.card.geometry()
        assert program.window.rect().contains(there)
        assert len(cards.words.text()) < 220
        click(program.window, cards.next)
    assert len(set(seen)) == 6
    assert program.notch.tab.hasFocus()  # not the button that the last of them was about


@pytest.mark.slow
def test_the_keys_stay_in_the_tab_and_escape_leaves_the_cards(program: Program, cards: TourCards, qtbot: QtBot) -> None:
    qtbot.waitUntil(lambda: not program.busy, timeout=60_000)
    assert program.notch.tab.hasFocus()
    press("Right")
    assert cards.shown
    press("F3")
    assert cards.count.text() == "2 of 6"
    press("Escape")
    assert not cards.shown
    assert program.notch.tab.hasFocus()


@pytest.mark.slow
def test_they_come_by_themselves_once(program: Program, cards: TourCards, settings: Settings, qtbot: QtBot) -> None:
    click(program.window, cards.leave_button)
    assert not cards.shown
    assert not settings.tell_once("tour")
    qtbot.waitUntil(lambda: not program.busy, timeout=60_000)
    by_finder("quick tour")
    assert cards.shown
    press("Ctrl+5")
    assert not cards.shown


@pytest.mark.slow
def test_they_come_over_the_first_recording_of_ones_own(program: Program, tmp_path: Path, qtbot: QtBot) -> None:
    own = [tmp_path / name for name in ("watch.flac", "bell.flac")]
    for file in own:
        shutil.copy(demo_audio("lead"), file)
    qtbot.waitUntil(lambda: QApplication.focusWidget() is not None, timeout=5_000)
    for file in own:
        press("Ctrl+O")
        answer(str(file))
        qtbot.waitUntil(lambda file=file: program.score.title == file.stem, timeout=60_000)  # type: ignore[misc]
        QTest.qWait(50)
        assert program.cards.shown == (file is own[0])
        qtbot.waitUntil(lambda: not program.busy, timeout=60_000)
        program.saved()


@pytest.mark.slow
def test_they_come_over_the_demo_that_a_terminal_opens(tmp_path: Path) -> None:
    """As `notcher demo` starts it, at home where nothing was ever opened; a second start tells nothing again."""
    script = """
import os
from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QApplication, QLabel
from notcher.ui.shell import application
def look():
    seen = [part.text() for part in QApplication.allWidgets() if isinstance(part, QLabel) and part.isVisible()]
    if "1 of 6" in seen or any("notes" in text for text in seen):
        print("1 of 6" in seen, flush=True)
        os._exit(0)
def painted():
    painted.timer = QTimer()
    painted.timer.timeout.connect(look)
    painted.timer.start(50)
application.run("demo", painted)
"""
    homes = dict.fromkeys(("HOME", "XDG_CONFIG_HOME", "XDG_DATA_HOME", "XDG_STATE_HOME"), str(tmp_path))
    for told in ("True", "False"):
        done = subprocess.run(
            [sys.executable, "-c", script], env={**os.environ, **homes}, capture_output=True, text=True, timeout=90,
            check=True,
        )  # fmt: skip
        assert done.stdout.strip() == told
