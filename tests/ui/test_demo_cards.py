"""The demo explains itself in six cards, by delivered keys and clicks, and is left alone at once if wanted."""

import pytest
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from hands import click, gone, press, question
from notcher.ui.shell.demo_cards import DemoCards
from notcher.ui.shell.program import Program
from notcher.ui.state.settings import Settings


def by_finder(words: str) -> None:
    press("Ctrl+Space")
    finder = question()
    QTest.keyClicks(QApplication.focusWidget(), words)
    press("Return")
    gone(finder)


@pytest.fixture
def cards(program: Program, qtbot: QtBot) -> DemoCards:
    """Over the demo, opened as a person opens it."""
    qtbot.waitUntil(lambda: QApplication.focusWidget() is not None, timeout=5_000)
    by_finder("open demo")
    qtbot.waitUntil(lambda: program.cards.shown, timeout=60_000)
    QTest.qWait(50)
    return program.cards


def test_six_cards_point_at_parts_in_view(program: Program, cards: DemoCards, qtbot: QtBot) -> None:
    seen = []
    while cards.shown:
        seen.append(cards.title.text())
        there = cards.card.geometry()
        assert program.window.rect().contains(there)
        assert len(cards.words.text()) < 220
        click(program.window, cards.next)
    assert len(set(seen)) == 6
    assert program.notch.tab.hasFocus()  # not the button that the last of them was about


def test_the_keys_stay_in_the_tab_and_escape_leaves_the_cards(program: Program, cards: DemoCards, qtbot: QtBot) -> None:
    qtbot.waitUntil(lambda: not program.jobs.busy, timeout=60_000)
    assert program.notch.tab.hasFocus()
    press("Right")
    assert cards.shown
    press("F3")
    assert cards.count.text() == "2 of 6"
    press("Escape")
    assert not cards.shown
    assert program.notch.tab.hasFocus()


def test_they_come_by_themselves_once(program: Program, cards: DemoCards, settings: Settings, qtbot: QtBot) -> None:
    click(program.window, cards.leave_button)
    assert not cards.shown
    assert not settings.tell_once("demo cards")
    qtbot.waitUntil(lambda: not program.jobs.busy, timeout=60_000)
    by_finder("cards explain")
    assert cards.shown
    press("Ctrl+5")
    assert not cards.shown
