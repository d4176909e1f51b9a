"""What a person at the keys and the mouse meets: events go to whatever has the focus, as the toolkit delivers them."""

from pathlib import Path

import pytest
from PyQt6.QtCore import QPoint
from PyQt6.QtWidgets import QApplication, QWidget
from pytestqt.qtbot import QtBot

from hands import click, press
from notcher.core.score import Score
from notcher.painting.unclaimed_picture import unclaimed_rect
from notcher.ui.shell.program import Program
from notcher.ui.state.shell import Bench


@pytest.fixture
def opened(program: Program, qtbot: QtBot, lick_file: Path) -> Program:
    """The lick, opened as a recording and drafted."""
    program.opening.open_path(str(lick_file))
    qtbot.waitUntil(lambda: len(program.session.score.notes) == 6 and not program.jobs.busy, timeout=20_000)
    return program


def walk_to(wanted: QWidget) -> None:
    """Press Tab until a widget has the keys."""
    for _ in range(60):
        if QApplication.focusWidget() is wanted:
            return
        press("Tab")
    raise AssertionError("Tab does not lead there")


# --- whose keys they are ---
def test_whatever_was_in_view_the_tab_has_the_keys_once_something_is_open(
    program: Program, qtbot: QtBot, lick_file: Path
) -> None:
    press("Ctrl+4")
    assert program.window.bench is Bench.TEACH
    program.opening.open_path(str(lick_file))
    qtbot.waitUntil(lambda: len(program.session.score.notes) == 6 and not program.jobs.busy, timeout=20_000)
    assert program.session.selected == 0
    press("Right")
    press("5")
    assert program.session.score.notes[1].fret == 5
    assert not program.session.document.marks


def test_a_click_on_the_transport_leaves_the_keys_where_they_are(opened: Program) -> None:
    reel = opened.reel
    click(opened.window, reel.play_button)
    click(opened.window, reel.pace_slider, QPoint(20, reel.pace_slider.height() // 2))
    click(opened.window, reel.count_in_box, QPoint(8, reel.count_in_box.height() // 2))
    assert not opened.player.count_in
    assert opened.player.pace < 1
    press("Right")
    assert opened.session.selected == 1
    press("Space")
    assert not opened.player.playing
    assert not opened.player.preparing


def test_the_space_bar_ticks_the_box_that_has_the_keys(opened: Program) -> None:
    walk_to(opened.reel.count_in_box)
    counted = opened.player.count_in
    press("Space")
    assert opened.player.count_in is not counted
    assert not opened.player.preparing
    press("Ctrl+E")
    assert opened.player.count_in is counted
    press("Escape")
    press("Right")
    assert opened.session.selected == 1


def test_escape_leaves_a_field_then_all_but_one_note_then_what_is_said(opened: Program) -> None:
    session = opened.session
    press("Ctrl+Right")
    press("J")
    assert QApplication.focusWidget() is opened.notch.words
    press("Escape")
    assert QApplication.focusWidget() is opened.notch.tab
    assert len(session.selection) == 2
    press("Escape")
    assert session.selection == [session.selected]
    press("Ctrl+C")
    assert opened.window.notices.isVisible()
    press("Escape")
    assert not opened.window.notices.isVisible()


def test_home_end_and_pages(opened: Program) -> None:
    session, tab = opened.session, opened.notch.tab
    press("End")
    assert session.selected == 5
    press("Home")
    assert session.selected == 0
    for _ in range(6):
        press("Ctrl++")
    start_s = tab.frame.start_s
    press("PgDown")
    assert tab.frame.start_s > start_s
    press("PgUp")
    assert tab.frame.start_s == pytest.approx(start_s)
    press("Backspace")
    assert len(session.score.notes) == 5


def test_the_playhead_goes_by_notes_beats_bars_and_tenths(opened: Program, lick: Score) -> None:
    player, notes = opened.player, opened.session.score.notes
    press("Alt+Right")
    press("Alt+Right")
    assert player.time_s == pytest.approx(notes[1].onset_s)
    press("Alt+Left")
    assert player.time_s == pytest.approx(notes[0].onset_s)
    press("Alt+Shift+Right")
    assert player.time_s == pytest.approx(notes[0].onset_s + 0.1)
    opened.session.set_beat_map(lick.beat_map, "Beats")  # 120 to the minute, the first at half a second
    press("Alt+.")
    assert player.time_s == pytest.approx(1.0)
    press("Alt+PgDown")
    assert player.time_s == pytest.approx(2.5)
    press("Alt+,")
    assert player.time_s == pytest.approx(2.0)
    press("Alt+PgUp")
    assert player.time_s == pytest.approx(0.5)


def test_another_bench_and_back_is_no_other_selection(opened: Program, qtbot: QtBot) -> None:
    press("Right")
    press("Right")
    for keys in ("Ctrl+1", "Ctrl+4", "Ctrl+2"):
        press(keys)
    assert opened.session.selected == 2
    press("Right")
    assert opened.session.selected == 3


# --- what sounds and is not written ---
@pytest.mark.parametrize("steps", [0, 1, 3, 5])
def test_a_note_that_is_missing_is_written_from_what_was_heard(opened: Program, steps: int) -> None:
    session = opened.session
    for _ in range(steps):
        press("Right")
    gone = session.score.notes[steps]
    press("Del")
    assert len(session.unclaimed) == 1
    press("Shift+U")
    press("Ins")
    assert session.unclaimed == ()
    back = session.note
    assert back is not None
    assert len(session.score.notes) == 6
    assert (back.string, back.fret) == (gone.string, gone.fret)
    assert back.onset_s == pytest.approx(gone.onset_s, abs=0.02)
    assert back.offset_s == pytest.approx(gone.offset_s, abs=0.08)
    assert back.reading.bend_semitones == pytest.approx(gone.reading.bend_semitones, abs=0.15)
    assert (back.vibrato is None) == (gone.vibrato is None)
    press("Ctrl+Z")
    press("Ctrl+Z")
    assert session.score.notes[steps] == gone


def test_what_sounds_without_a_note_is_drawn_and_written_by_a_click(opened: Program) -> None:
    session, tab = opened.session, opened.notch.tab
    press("Right")
    bare = tab.grab().toImage()
    press("Del")
    sound = session.unclaimed[0]
    where = unclaimed_rect(tab.frame, sound)
    drawn = tab.grab().toImage()
    middle = round(where.center().x() * drawn.devicePixelRatio())
    rows = range(round(tab.frame.lane(sound.place.string).top()), round(where.bottom()) + 1)
    measured = {tab._theme.color("measured").name()}
    assert measured & {drawn.pixelColor(x, y).name() for x in range(middle - 40, middle + 40) for y in rows}
    assert drawn != bare
    click(opened.window, tab, where.center().toPoint())
    assert len(session.score.notes) == 6
    assert session.undo_stack.undoText() == "Write what sounds"


def test_nothing_is_stacked_on_a_note_and_nothing_written_twice(opened: Program) -> None:
    before = opened.session.score
    press("Return")  # the playhead to the selected note
    press("Ins")
    assert opened.session.score == before
    assert "a note is written here already" in opened.window.notices.label.text()
    press("Shift+U")
    assert "Every sound that was heard is written" in opened.window.notices.label.text()
