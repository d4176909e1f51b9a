"""A solo written by hand, note after note, by delivered keys and clicks."""

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from hands import answer, click, press
from notcher.core.neck import Place, fret_near
from notcher.core.score import Score
from notcher.ui.shell.program import Program


@pytest.fixture
def by_hand(program: Program, qtbot: QtBot) -> Program:
    qtbot.waitUntil(lambda: QApplication.focusWidget() is not None)
    press("Ctrl+N")
    answer("4/4", "120")
    qtbot.waitUntil(lambda: QApplication.focusWidget() is program.notch.tab)
    return program


def places(score: Score) -> list[tuple[int, int]]:
    return [(note.string, note.fret) for note in score.notes]


def onsets(score: Score) -> list[float]:
    return [round(note.onset_s, 3) for note in score.notes]


def slow() -> None:
    """Wait as a person does between two frets of one figure that could be one of two."""
    QTest.qWait(350)


@pytest.mark.slow
def test_figures_write_note_after_note_and_arrows_choose_the_string(by_hand: Program) -> None:
    for keys in ("1", "2", "5", "Up", "2", "5", "Down", "Down", "4", "2"):
        press(keys)
    score = by_hand.session.score
    assert places(score) == [(3, 12), (3, 15), (2, 12), (2, 15), (4, 14), (4, 12)]
    assert onsets(score) == [0.0, 0.25, 0.5, 0.75, 1.0, 1.25], "an eighth apart at 120 to the minute"
    press("Ctrl+Z")
    assert places(by_hand.session.score)[-1] == (4, 14), "a fret of two figures was one step"
    for _ in range(4):
        press("Ctrl+Z")
    assert places(by_hand.session.score) == [(3, 12)]


def test_a_step_is_left_silent_and_steps_are_made_longer(by_hand: Program) -> None:
    for keys in ("5", "Right", "7", "=", "5"):
        press(keys)
    assert onsets(by_hand.session.score) == [0.0, 0.5, 1.0]


def test_what_is_struck_otherwise_is_said_of_the_note_just_written(by_hand: Program) -> None:
    for keys in ("5", "7", "W", "5", "E"):
        press(keys)
    assert [str(note.attack) for note in by_hand.session.score.notes] == ["pick", "hammer", "pull"]


@pytest.mark.slow
def test_an_earlier_note_is_corrected_and_nothing_is_written(by_hand: Program) -> None:
    for keys in ("5", "7", "8", "Left", "Left"):
        press(keys)
    press("6")
    assert places(by_hand.session.score) == [(3, 6), (3, 7), (3, 8)]
    press("End")
    slow()
    press("5")
    assert places(by_hand.session.score) == [(3, 6), (3, 7), (3, 8), (3, 5)]


@pytest.mark.slow
def test_without_writing_figures_correct_and_arrows_walk(by_hand: Program) -> None:
    for keys in ("5", "7", "Ctrl+I", "9"):
        press(keys)
    assert places(by_hand.session.score) == [(3, 5), (3, 9)]
    slow()
    press("Ctrl+I")
    press("1")
    assert len(by_hand.session.score.notes) == 3


def test_the_neck_writes_too_and_the_next_string_is_seen_in_words(by_hand: Program) -> None:
    neck = by_hand.notch.neck
    click(by_hand.window, neck, neck._spot(Place(2, 8)).toPoint())
    press("6")
    assert places(by_hand.session.score) == [(2, 8), (2, 6)]
    press("Down")
    assert "next note is written on string 3" in by_hand.notch.tab.accessibleDescription()


def test_a_note_at_the_same_time_stands_there_also_where_the_next_one_was_put_elsewhere(by_hand: Program) -> None:
    neck, window = by_hand.notch.neck, by_hand.window
    press("5")
    for _ in range(8):
        press("Right")
    handle = window.windowHandle()
    assert handle is not None
    at = neck.mapTo(window, neck._spot(Place(2, 5)).toPoint())
    QTest.mouseClick(handle, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ShiftModifier, at)
    first, second = by_hand.session.score.notes
    assert (first.onset_s, first.offset_s) == (second.onset_s, second.offset_s)
    assert {first.string, second.string} == {2, 3}


# by reasoning: within reach the last figure is enough, both figures say it in full, a 0 says it anywhere
@pytest.mark.parametrize(
    ("figures", "hand", "fret"),
    [("4", 12, 14), ("4", 5, 4), ("0", 12, 10), ("0", 3, 0), ("12", 3, 12), ("12", 12, 12), ("22", 12, None),
     ("05", 12, 5), ("02", 3, None), ("25", 15, None), ("99", 5, None)],
)  # fmt: skip
def test_figures_mean_frets_near_the_hand(figures: str, hand: float, fret: int | None) -> None:
    assert fret_near(figures, hand) == fret


@pytest.mark.slow
def test_what_is_written_note_after_note_needs_few_keys(by_hand: Program) -> None:
    """Two bars of eight in a box, up and down: fewer than 1.8 keys a note."""
    line = [(6, 5), (6, 8), (5, 5), (5, 7), (4, 5), (4, 7), (3, 5), (3, 7), (2, 5), (2, 8), (1, 5), (1, 8), (1, 5),
            (2, 8), (2, 5), (3, 7)]  # fmt: skip
    keys, string = 0, 3
    for wanted, fret in line:
        while string != wanted:
            press("Down" if wanted > string else "Up")
            string += 1 if wanted > string else -1
            keys += 1
        press(str(fret))
        keys += 1
    assert places(by_hand.session.score) == line
    assert keys / len(line) <= 1.8
