"""A right click, or the menu key, offers what can be done with what lies there."""

import pytest
from PyQt6.QtCore import QEvent, QPoint, Qt
from PyQt6.QtGui import QContextMenuEvent, QHelpEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QMenu, QToolTip, QWidget
from pytestqt.qtbot import QtBot

from hands import press
from notcher.ui.commands.context_menu import CELL, LINE, NOTE, PHRASE, REEL, ROW
from notcher.ui.commands.wording import WORDING
from notcher.ui.shell.program import Program


def right_click(widget: QWidget, at: QPoint, *, keyboard: bool = False) -> QMenu:
    """Deliver what the desktop sends for a right click, or for the menu key; return the menu that opens."""
    reason = QContextMenuEvent.Reason.Keyboard if keyboard else QContextMenuEvent.Reason.Mouse
    QApplication.sendEvent(widget, QContextMenuEvent(reason, at, widget.mapToGlobal(at)))
    menu = QApplication.activePopupWidget()
    assert isinstance(menu, QMenu)
    return menu


def shown(menu: QMenu) -> list[str]:
    return [action.text().partition("\t")[0].replace("&", "") for action in menu.actions() if not action.isSeparator()]


def labels(ids: tuple[str, ...]) -> list[str]:
    return [WORDING[name].label for name in ids if name != LINE]


def choose(menu: QMenu, name: str) -> None:
    """Go down to an entry and press Return, as a person does."""
    entries = [action for action in menu.actions() if not action.isSeparator() and action.isEnabled()]
    at = [action.text().partition("\t")[0].replace("&", "") for action in entries].index(WORDING[name].label)
    for _ in range(at + 1):
        QTest.keyClick(menu, Qt.Key.Key_Down)
    QTest.keyClick(menu, Qt.Key.Key_Return)


def test_a_note_is_deleted_from_its_own_menu_and_comes_back(opened: Program) -> None:
    tab, before = opened.notch.tab, opened.score
    menu = right_click(tab, tab.note_rect(2).center().toPoint())
    assert shown(menu) == labels(NOTE)
    assert opened.session.note == before.notes[2], "what was clicked is what is meant"
    choose(menu, "note.delete")
    assert [note.id for note in opened.score.notes] == [n.id for n in before.notes if n.id != before.notes[2].id]
    press("Ctrl+Z")
    assert opened.score == before


def test_several_selected_notes_stay_selected(opened: Program) -> None:
    tab = opened.notch.tab
    press("Home")
    press("Ctrl+Right")
    assert len(opened.session.chosen.ids) == 2
    right_click(tab, tab.note_rect(1).center().toPoint()).close()
    assert len(opened.session.chosen.ids) == 2


def test_beside_the_notes_the_phrase_is_meant(opened: Program) -> None:
    tab, second = opened.notch.tab, opened.score.phrases[-1]
    x = round(tab.frame.x(second.start_s + 0.2))
    tab.show_span(second.start_s - 1.0, second.end_s)
    x = round(tab.frame.x(second.start_s + 0.2))
    menu = right_click(tab, QPoint(x, 5))
    assert shown(menu) == labels(PHRASE)
    menu.close()
    note = opened.session.note
    assert note is not None
    assert second.start_s - 0.05 <= note.onset_s <= second.end_s


def test_the_menu_key_opens_the_menu_of_what_is_selected(opened: Program) -> None:
    press("End")
    chosen = opened.session.note
    menu = right_click(opened.notch.tab, QPoint(3, 3), keyboard=True)
    assert shown(menu) == labels(NOTE)
    menu.close()
    assert opened.session.note == chosen


def test_a_cell_is_marked_from_its_menu(opened: Program) -> None:
    press("Ctrl+5")
    board = opened.teach.board
    menu = right_click(board, board.cell_center(0, 1).center().toPoint())
    assert shown(menu) == labels(CELL)
    choose(menu, "board.shaky")
    assert [str(mark.result) for mark in opened.passes] == ["shaky"]


def test_the_reel_and_the_rows_of_the_records_have_one(opened: Program) -> None:
    menu = right_click(opened.reel.strip, QPoint(20, 20))
    assert shown(menu) == labels(REEL)
    menu.close()
    press("Ctrl+7")
    menu = right_click(opened.record.bench.today.list.viewport(), QPoint(5, 5))  # type: ignore[arg-type]
    assert shown(menu) == labels(ROW)
    assert not menu.actions()[0].isEnabled(), "there is no row: greyed"
    assert menu.actions()[0].toolTip()
    menu.close()


@pytest.mark.parametrize("ids", [NOTE, PHRASE, CELL, ROW, REEL])
def test_what_is_offered_exists(ids: tuple[str, ...]) -> None:
    assert set(ids) - {LINE} <= set(WORDING)


# --- what a pointer that rests is told ---
def test_a_note_says_what_it_is_and_how_sure(opened: Program, qtbot: QtBot) -> None:
    tab = opened.notch.tab
    at = tab.note_rect(0).center().toPoint()
    QApplication.sendEvent(tab, QHelpEvent(QEvent.Type.ToolTip, at, tab.mapToGlobal(at)))
    assert "tring 3, fret 12" in QToolTip.text()
    assert "picked" in QToolTip.text()
    nowhere = QPoint(5, tab.height() - 3)
    QApplication.sendEvent(tab, QHelpEvent(QEvent.Type.ToolTip, nowhere, tab.mapToGlobal(nowhere)))
    qtbot.waitUntil(lambda: not QToolTip.text(), timeout=5_000)


def test_buttons_say_their_keys_as_they_are_now(opened: Program) -> None:
    assert opened.reel.play_button.toolTip() == "Play or stop (Space)"
    assert opened.teach.take_button.toolTip() == "Record a take, or stop (F8)"
    opened.commands.set_keys({"play.toggle": "Ctrl+Space"})
    assert opened.reel.play_button.toolTip() == "Play or stop (Ctrl+Space)"
    opened.commands.set_keys({"play.toggle": "Space"})
