"""What a new user meets first, and what a lesson needs in its midst, by delivered keys and clicks."""

from datetime import date, timedelta
from pathlib import Path

import pytest
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QAbstractButton, QApplication, QLabel
from pytestqt.qtbot import QtBot

from hands import answer, click, gone, press, question, settled
from notcher.core.ledger import Request, Student
from notcher.ui.playback.player import PaceReason
from notcher.ui.shell.program import Program
from notcher.ui.state.shell import Bench


def test_the_count_in_waits_for_the_first_loop(opened: Program) -> None:
    box = opened.reel.count_in_box
    assert not box.isChecked()
    press("L")
    assert box.isChecked()
    click(opened.window, box)
    press("L")
    press("L")
    assert not box.isChecked(), "what was switched off by hand stays off"


def test_the_transport_says_why_it_is_slower(opened: Program) -> None:
    words = opened.reel.reason_label
    assert not words.text()
    press("Ctrl+Down")
    assert words.text() == PaceReason.CHOSEN
    press("Ctrl+S")
    opened.open_path(str(opened.session.path))
    settled(opened)
    assert words.text() == PaceReason.LAST_TIME
    assert "95 %" in opened.reel.pace_label.toolTip()
    press("Ctrl+Up")
    assert not words.text(), "at full speed there is nothing to say"
    press("Ctrl+5")
    press("Return")
    assert words.text() == PaceReason.TEMPO_STEP


def test_rests_and_rounds_are_set_beside_the_loop(opened: Program) -> None:
    press("L")
    click(opened.window, opened.reel.rounds_button)
    asked = question()
    press("Tab")
    answer("4", "2")
    assert not asked.isVisible()
    assert opened.player.gap_s == 4.0
    assert opened.transport.up_after == 2
    assert opened.settings.get("loop_gap") == 4.0


@pytest.fixture
def due(program: Program, tmp_path: Path, qtbot: QtBot) -> Program:
    """Two requests, one of them late, and a solo that was opened before."""
    today = date.today()
    recent = tmp_path / "Fog bell.notch"
    recent.write_bytes(b"")
    program.settings.add_recent(str(recent))
    program.window.ways_in.show_recent(program.settings.recent)
    marit = Student("Marit", "marit")
    program.ledger.put("New student", marit)
    for title, days in (("First watch", 0), ("Kelp line", -3), ("Later tune", 5)):
        due_on = (today + timedelta(days=days)).isoformat()
        program.ledger.put("New request", Request(marit.id, title, due=due_on))
    settled(program)
    qtbot.waitUntil(lambda: bool(program.window.ways_in.due))
    return program


def test_the_start_page_shows_what_is_due_and_what_was_open(due: Program) -> None:
    page = due.window.ways_in
    texts = [button.text() for button in page.due]
    assert [words.split(" (")[0] for words in texts] == [
        "Marit: Kelp line was asked for",
        "Marit: First watch was asked for",
    ]
    assert [button.text().split()[:2] for button in page.recent] == [["Fog", "bell.notch"]]
    assert due.window.bench is Bench.NOTCH
    for _ in range(len(page.buttons) + len(page.recent)):
        press("Down")
    assert QApplication.focusWidget() is page.due[0]
    press("Return")
    asked = question()  # no recording was opened for it yet: which one is it?
    assert "Kelp line" in asked.windowTitle()
    press("Escape")
    gone(asked)


def test_every_button_says_what_it_does(opened: Program) -> None:
    buttons = opened.window.findChildren(QAbstractButton)
    silent = [button.text() for button in buttons if not button.toolTip() and not button.objectName().startswith("qt_")]
    assert not silent
    assert len(buttons) > 60


def test_the_question_mark_says_on_what_the_difficulty_rests(opened: Program) -> None:
    press("Ctrl+5")
    settled(opened)
    QTest.qWait(20)
    assert "bend effort: medium" in opened.teach.advice.text(), "a whole step on the third string"
    click(opened.window, opened.teach.why_button)
    asked = question()
    told = " ".join(label.text() for label in asked.findChildren(QLabel))
    assert "The hardest bend here asks for 7.0 newtons" in told
    press("Escape")
    gone(asked)
