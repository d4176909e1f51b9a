"""The window obeys: nothing changes by accident, the space bar plays, what sounds is seen, offers are a key away."""

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtGui import QKeySequence, QWheelEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QLabel, QPushButton, QScrollArea, QToolButton, QWidget
from pytestqt.qtbot import QtBot

from hands import answer, choose, click, gone, press, question, settled, walk_to
from notcher.core.formats import AutosaveStore, Document, write_document
from notcher.core.mixing import MissingPart, missing_parts
from notcher.core.neck import Place
from notcher.core.score import EMPTY_SCORE, Chord, Score
from notcher.core.sound import Clip
from notcher.painting.tab_frame import TabFrame
from notcher.ui.playback.sources import PlaybackSource
from notcher.ui.shell.program import Program
from real_window import needs_a_screen, walked


def turn_wheel(
    window: QWidget, widget: QWidget, steps: int = -3, held: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier
) -> None:
    """Turn the wheel over a widget.

    Qt hands a wheel that is turned by a person from what lies there to its parents until one takes it; one that a
    program sends stays where it was sent, so the way upward is walked here.
    """
    at = QPointF(widget.mapTo(window, widget.rect().center()))
    lies_there = window.childAt(at.toPoint())
    while lies_there is not None:
        place = QPointF(lies_there.mapFrom(window, at.toPoint()))
        event = QWheelEvent(place, window.mapToGlobal(at), QPoint(), QPoint(0, 120 * steps), Qt.MouseButton.NoButton,
                            held, Qt.ScrollPhase.NoScrollPhase, False)  # fmt: skip
        QApplication.sendEvent(lies_there, event)
        if event.isAccepted() or lies_there.isWindow():
            return
        lies_there = lies_there.parentWidget()


# --- nothing changes by accident ---
def test_the_wheel_over_a_field_scrolls_the_panel_and_changes_nothing(opened: Program) -> None:
    opened.window.resize(1280, 620)
    press("Ctrl+1")
    settled(opened)
    hear = opened.hear
    before = opened.score.beat_map, opened.score.tuning, hear.tempo_box.value()
    area = next(area for area in hear.findChildren(QScrollArea) if area.isAncestorOf(hear.tempo_box))
    area.ensureWidgetVisible(hear.tempo_box)
    bar = area.verticalScrollBar()
    assert bar is not None
    assert bar.maximum() > 0, "it can be scrolled"
    bar.setValue(min(bar.value(), bar.maximum() - 1))
    at = bar.value()
    turn_wheel(opened.window, hear.tempo_box)
    assert bar.value() > at
    turn_wheel(opened.window, hear.tempo_box, 1)
    walk_to(hear.tempo_box)
    area.ensureWidgetVisible(hear.tempo_box)
    turn_wheel(opened.window, hear.tempo_box)
    assert (opened.score.beat_map, opened.score.tuning, hear.tempo_box.value()) == before


@pytest.mark.parametrize("keys", ["W", "9", "Del", "K"])
def test_keys_go_to_an_open_list_and_not_to_the_tab_behind_it(opened: Program, qtbot: QtBot, keys: str) -> None:
    before, box = opened.score, opened.reel.source_box
    press("Ctrl+2")
    click(opened.window, box)
    rows = box.view()
    assert rows is not None
    qtbot.waitUntil(rows.isVisible, timeout=5_000)
    popup = rows.window()
    assert popup is not None
    handle = popup.windowHandle()
    assert handle is not None
    QTest.keySequence(handle, QKeySequence(keys))
    settled(opened)
    assert opened.score == before
    assert rows.isVisible()
    QTest.keyClick(handle, Qt.Key.Key_Escape)
    qtbot.waitUntil(lambda: not rows.isVisible(), timeout=5_000)


def test_keys_behind_an_open_menu_do_nothing(opened: Program, qtbot: QtBot) -> None:
    before = opened.score
    press("Ctrl+2")
    bar = opened.window.menuBar()
    assert bar is not None
    click(opened.window, bar, bar.actionGeometry(bar.actions()[1]).center())
    menu = QApplication.activePopupWidget()
    assert menu is not None
    handle = menu.windowHandle()
    assert handle is not None
    for keys in ("W", "9", "Del"):
        QTest.keySequence(handle, QKeySequence(keys))
    settled(opened)
    assert opened.score == before
    while QApplication.activePopupWidget() is not None:
        QTest.keyClick(handle, Qt.Key.Key_Escape)


@pytest.mark.slow
@needs_a_screen
def test_real_wheel_and_keys_change_nothing_by_accident(lick: Score, lick_clip: Clip, tmp_path: Path) -> None:
    path = tmp_path / "lick.notch"
    write_document(Document(lick, lick_clip), path)
    assert "the window obeys" in walked("drive_real_hands.py", path, tmp_path)


def test_what_is_said_moves_nothing_that_somebody_is_about_to_click(opened: Program) -> None:
    opened.window.notices.quiet()
    settled(opened)
    before = [widget.mapTo(opened.window, QPoint()) for widget in (opened.notch.tab, opened.reel.play_button)]
    opened.window.notice("Something was said. " * 12)
    opened.window.offer("Something is offered. " * 4, ("Take it", lambda: None), ("Leave it", lambda: None))
    settled(opened)
    assert [widget.mapTo(opened.window, QPoint()) for widget in (opened.notch.tab, opened.reel.play_button)] == before
    assert opened.window.notices.label.toolTip().startswith("Something was said.")


@pytest.fixture
def left_behind(lick: Score) -> Callable[[Program], Path]:
    """Leaves unsaved work of a Notcher that no longer runs."""

    def leave(program: Program) -> Path:
        store = AutosaveStore(program.autosave.recovery.folder, "gone")
        store.save_delta(Document(lick, id="gone"), None, None)
        assert store._lock is not None
        store._lock.release()
        return store.folder

    return leave


def test_unsaved_work_is_a_key_away_and_named_by_it(program: Program, left_behind: Callable[[Program], Path]) -> None:
    left_behind(program)
    program.opening.offer_unsaved()
    assert [button.text() for button in program.window.notices.buttons] == [
        "Open it (F12)", "Throw it away… (Shift+F12)"
    ]  # fmt: skip
    press("F12")
    settled(program)
    assert program.score.title == "Lick"
    assert not program.window.notices.buttons


@pytest.mark.parametrize("way", ["kept", "thrown", "brought back"])
def test_throwing_unsaved_work_away_asks_and_can_be_undone_until_the_end(
    program: Program, left_behind: Callable[[Program], Path], way: str
) -> None:
    folder = left_behind(program)
    program.opening.offer_unsaved()
    press("Shift+F12")
    asked = question()
    default = next(button for button in asked.findChildren(QPushButton) if button.isDefault())
    assert default.text().replace("&", "") == "Keep it", "what Return takes deletes nothing"
    if way == "kept":
        press("Return")
        gone(asked)
        assert program.window.notices.buttons[0].text() == "Open it (F12)"
    else:
        choose("Throw it away")
        assert "goes when Notcher ends" in program.window.notices.offered.text()
        assert folder.exists()
        press("F12" if way == "brought back" else "Shift+F12")
        words = [button.text() for button in program.window.notices.buttons]
        assert words[:1] == (["Open it (F12)"] if way == "brought back" else [])
    program.close()
    assert folder.exists() == (way != "thrown")


# --- the space bar ---
@pytest.mark.parametrize("bench", [1, 2, 3, 4, 5, 6, 7])
def test_space_plays_wherever_one_is(opened: Program, bench: int) -> None:
    press(f"Ctrl+{bench}")
    settled(opened)
    for _ in range(6):  # and on whatever has the keys there, but where text is typed
        focused = QApplication.focusWidget()
        assert focused is not None
        if not focused.inherits("QLineEdit"):
            press("Space")
            assert opened.player.playing or opened.player.preparing, f"{focused} {focused.accessibleName()}"
            press("Space")
            assert not opened.player.playing
        press("Tab")


def test_space_plays_after_a_dialog_and_after_a_banner(opened: Program) -> None:
    press("Ctrl+M")
    answer("lean on it")
    press("Space")
    assert opened.player.playing or opened.player.preparing
    press("Space")
    opened.window.offer("Something is offered.", ("Take it", opened.window.withdraw))
    walk_to(opened.window.notices.buttons[0])
    press("Return")
    settled(opened)
    assert not opened.window.notices.buttons
    assert QApplication.focusWidget() is not None, "the keys are not lost with the button"
    press("Space")
    assert opened.player.playing or opened.player.preparing


def test_return_opens_the_card_that_is_chosen_on_the_start_page(program: Program) -> None:
    walk_to(program.window.ways_in.buttons["file.by_hand"])
    press("Return")
    asked = question()
    assert asked.windowTitle() == "Write by hand"
    press("Esc")
    gone(asked)
    assert QApplication.focusWidget() is not None


# --- what sounds ---
@pytest.mark.parametrize(
    ("keys", "source", "words"),
    [("F5", PlaybackSource.RECORDING, "Recording (F5)"), ("F6", PlaybackSource.TAB, "Tab (F6)"),
     ("F7", PlaybackSource.BOTH, "Recording + tab (F7)"), ("Shift+F4", PlaybackSource.BAND, "Band (Shift+F4)"),
     ("F4", PlaybackSource.MIX, "Full mix (F4)")],
)  # fmt: skip
def test_a_key_plays_what_it_names_and_the_transport_shows_it(
    opened: Program, qtbot: QtBot, keys: str, source: PlaybackSource, words: str
) -> None:
    opened.session.edit("Chord", replace(opened.score, chords=(Chord(0.0, "Am"),)))
    press(keys)
    qtbot.waitUntil(lambda: opened.player.playing, timeout=20_000)
    assert opened.sources.chosen is source
    assert opened.reel.source_box.currentText() == words


def test_what_is_heard_is_chosen_by_the_mouse_and_goes_on(opened: Program, qtbot: QtBot) -> None:
    press("Space")
    qtbot.waitUntil(lambda: opened.player.playing, timeout=20_000)
    box = opened.reel.source_box
    click(opened.window, box)
    rows = box.view()
    assert rows is not None
    qtbot.waitUntil(rows.isVisible, timeout=5_000)
    qtbot.keyClick(rows, Qt.Key.Key_Down)
    qtbot.keyClick(rows, Qt.Key.Key_Return)
    settled(opened)
    assert opened.sources.chosen is PlaybackSource.TAB
    assert opened.player.playing


def test_a_solo_by_hand_is_heard_by_its_key(program: Program, qtbot: QtBot) -> None:
    press("Ctrl+N")
    answer("4/4")
    settled(program)
    press("F6")
    assert "There are no notes yet" in program.said
    press("5")
    settled(program)
    assert len(program.score.notes) == 1
    press("F6")
    qtbot.waitUntil(lambda: program.player.playing, timeout=20_000)
    assert program.player.clip is not None
    assert np.abs(program.player.clip.samples).max() > 0.01


def test_pace_begins_at_full_speed_and_is_the_documents_own(opened: Program, lick: Score, tmp_path: Path) -> None:
    assert opened.player.pace == 1.0
    first, other = opened.session.path, tmp_path / "other.notch"
    write_document(Document(lick), other)
    press("Ctrl+Down")
    press("Ctrl+Down")
    assert opened.player.pace == pytest.approx(0.9)
    opened.open_path(str(other))
    settled(opened)
    assert opened.player.pace == 1.0
    opened.open_path(str(first))
    settled(opened)
    assert opened.player.pace == pytest.approx(0.9)


def test_a_volume_that_cannot_act_says_so(opened: Program) -> None:
    click(opened.window, opened.reel.volumes_button)
    asked = question()
    assert "no sides to tell it by" in asked.missing.text()  # type: ignore[attr-defined]
    press("Esc")
    gone(asked)


def test_which_parts_of_a_mix_are_missing(lick: Score) -> None:
    noise = np.random.default_rng(1).normal(0, 0.1, (88_200, 2)).astype(np.float32)
    assert missing_parts(Clip(noise, 44_100), lick).get("lead") is None, "two sides that differ"
    alike = Clip(np.repeat(noise[:, :1], 2, axis=1), 44_100)
    assert missing_parts(alike, lick) == {"lead": MissingPart.NO_PICTURE, "band": MissingPart.NO_CHORDS}
    assert set(missing_parts(None, EMPTY_SCORE)) == {"recording", "lead", "tab", "band", "click"}


# --- names and pitches ---
def test_a_harmonic_is_called_by_what_sounds_and_can_be_muted(opened: Program) -> None:
    press("Ctrl+2")
    press("Home")

    def facts() -> str:
        settled(opened)
        return opened.notch.facts.text()

    assert facts().startswith("<b>String 3, fret 12</b>")
    press("7")
    press("C")
    assert "sounds D5" in facts(), "open G3 and an octave and a fifth: MIDI 74 (MIDI 1.0)"
    press("Z")
    assert "natural harmonic, palm mute" in facts()
    press("Z")
    press("B")
    assert "tapped harmonic" in facts()
    press("W")
    press("/")
    assert "hammered-on down" not in facts()
    assert "hammered down" not in facts()
    press("Shift+D")
    press("Ctrl+M")
    answer("lean on it")
    assert "lean on it" in facts(), "a remark is read on a doubted note as well"
    assert "<b>?</b>" in facts()


def test_the_count_dialog_shows_its_sign(opened: Program) -> None:
    press("Ctrl+2")
    press("Ctrl+Shift+C")
    asked = question()
    label = next(label for label in asked.findChildren(QLabel) if "count" in label.text())
    assert "2 &&," in label.text(), "which Qt shows as one"
    press("Esc")
    gone(asked)


# --- another string at the same time ---
def notes_at(program: Program, onset_s: float) -> list[tuple[int, int]]:
    return [(note.string, note.fret) for note in program.score.notes if abs(note.onset_s - onset_s) < 0.01]


@pytest.mark.parametrize("way", ["keys", "Ins", "Shift+click", "Ctrl+click"])
def test_a_second_string_is_written_in_one_act(opened: Program, way: str) -> None:
    press("Ctrl+2")
    press("Home")
    settled(opened)
    first = opened.score.notes[0]
    if way.endswith("click"):
        neck = opened.notch.neck
        modifier = {"Shift": Qt.KeyboardModifier.ShiftModifier, "Ctrl": Qt.KeyboardModifier.ControlModifier}[way[:-6]]
        spot = neck._spot(Place(2, 13)).toPoint()
        handle = opened.window.windowHandle()
        assert handle is not None
        QTest.mouseClick(handle, Qt.MouseButton.LeftButton, modifier, neck.mapTo(opened.window, spot))
    else:
        press("Return")  # the playhead goes to the note
        press("Alt+Shift+Up" if way == "keys" else "Ins")
        wanted = 2 if way == "keys" else 4
        assert opened.notch.writing.next_spot == (first.onset_s, wanted)
        while wanted != 2:
            press("Alt+Shift+Up")
            wanted = opened.notch.writing.next_spot[1]  # type: ignore[index]
        press("1")
        press("3")
    settled(opened)
    assert notes_at(opened, first.onset_s) == [(2, 13), (3, 12)]
    press("Ctrl+Z")
    assert notes_at(opened, first.onset_s) == [(3, 12)], "it is one step"


def test_a_string_that_is_taken_is_refused_with_a_way_out_and_escape_gives_it_up(opened: Program) -> None:
    press("Ctrl+2")
    press("Home")
    press("Alt+Shift+Down")
    assert opened.notch.writing.next_spot is not None
    press("Esc")
    assert opened.notch.writing.next_spot is None
    before = opened.score
    neck = opened.notch.neck
    handle = opened.window.windowHandle()
    assert handle is not None
    at = neck.mapTo(opened.window, neck._spot(Place(3, 5)).toPoint())
    QTest.mouseClick(handle, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ShiftModifier, at)
    assert opened.score == before
    assert "select that note to change it, or choose another string" in opened.said


# --- smaller in the tab ---
def test_the_wheel_scrolls_and_zooms_the_picture_on_hear(opened: Program) -> None:
    press("Ctrl+2")
    press("Ctrl++")
    press("Ctrl+1")
    settled(opened)
    picture, frame = opened.hear.picture, opened.notch.tab.frame
    turn_wheel(opened.window, picture)
    after = opened.notch.tab.frame
    assert after.start_s > frame.start_s
    assert picture._span_s[0] == pytest.approx(max(0.0, after.start_s))
    turn_wheel(opened.window, picture, 2, Qt.KeyboardModifier.ControlModifier)
    assert opened.notch.tab.frame.px_per_s > after.px_per_s


def double_click(program: Program, at: QPoint, modifier: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier) -> None:
    handle = program.window.windowHandle()
    assert handle is not None
    where = program.notch.tab.mapTo(program.window, at)
    QTest.mouseClick(handle, Qt.MouseButton.LeftButton, modifier, where)
    QTest.mouseDClick(handle, Qt.MouseButton.LeftButton, modifier, where)


def test_a_double_click_on_a_note_selects_its_phrase(opened: Program) -> None:
    press("Ctrl+2")
    settled(opened)
    before, tab = opened.score, opened.notch.tab
    double_click(opened, tab.note_rect(1).center().toPoint())
    assert len(opened.session.chosen.ids) == 4, "all notes of the first phrase"
    assert opened.score == before
    note = opened.score.notes[1]
    middle = QPoint(round(tab.frame.x(note.onset_s + 0.6 * note.duration_s)), round(tab.frame.y(note.string)))
    double_click(opened, middle, Qt.KeyboardModifier.ControlModifier)
    assert len(opened.score.notes[1].curve.points) == len(before.notes[1].curve.points) + 1


def test_selected_notes_move_together_or_say_which_did_not(opened: Program) -> None:
    press("Ctrl+2")
    press("Home")
    before = opened.score
    double_click(opened, opened.notch.tab.note_rect(0).center().toPoint())
    assert len(opened.session.chosen.ids) == 4
    press("Shift+Right")
    later = [after.onset_s - note.onset_s for note, after in zip(before.notes, opened.score.notes, strict=True)]
    assert later == pytest.approx([0.01] * 4 + [0.0] * 2)
    press("Ctrl+Z")
    assert opened.score == before, "it is one step"
    first = next(note for note in opened.score.notes if note.id == opened.session.selected)
    press("1")
    press(str(first.fret + 2 - 10))
    assert [note.fret for note in opened.score.notes[:4]] == [note.fret + 2 for note in before.notes[:4]]
    press("Ctrl+Z")
    assert opened.score == before
    press("Shift+Up")
    moved = [(note.string, note.fret) for note in opened.score.notes[:4]]
    assert moved[2] == (1, before.notes[2].fret - 5), "a fourth lies five frets lower"
    opened.session.undo_stack.undo()
    for _ in range(3):
        press("Ctrl+Shift+Up")
    assert "notes stayed as they were" in opened.said or "Not changed" in opened.said


def test_tapping_leaves_the_picture_where_it_is_and_is_one_step(opened: Program) -> None:
    press("Ctrl+2")
    press("Home")
    opened.notch.tab.go_to(3.0)
    settled(opened)
    before, steps = opened.notch.tab.frame.start_s, opened.session.undo_stack.index()
    for _ in range(8):
        press(";")
        QTest.qWait(120)
    assert opened.notch.tab.frame.start_s == before
    assert opened.session.undo_stack.index() == steps + 1
    assert opened.session.undo_stack.undoText() == "Tap the beat"


def test_two_figures_typed_slowly_are_one_fret_where_the_first_makes_no_sense(opened: Program) -> None:
    press("Ctrl+2")
    press("Home")
    press("1")
    QTest.qWait(800)
    press("4")
    assert opened.score.notes[0].fret == 14, "beside frets 12 to 15 a 1 is no fret"
    QTest.qWait(1_700)
    press("9")
    assert opened.score.notes[0].fret == 9
    QTest.qWait(800)
    press("7")
    assert opened.score.notes[0].fret == 7, "two frets in the hand's reach are two corrections"


def test_all_of_the_tab_is_there_at_once_when_the_view_changes(
    opened: Program, monkeypatch: pytest.MonkeyPatch
) -> None:
    press("Ctrl+2")
    settled(opened)
    tab, tiles = opened.notch.tab, opened.notch.tab._tiles
    empty: list[int] = []

    def paint_old(painter: object, frame: TabFrame, number: int, *_rest: object) -> None:
        empty.extend([] if tiles._covered(number, frame.px_per_s) else [number])

    monkeypatch.setattr(tiles, "_paint_old", paint_old)
    for keys in ("Ctrl++", "PgDown", "Ctrl+-", "PgUp", "Ctrl+-"):
        press(keys)
        tab.repaint()
        assert not empty, f"after {keys} these places are blank"


def test_a_note_that_is_not_bent_is_called_so(opened: Program) -> None:
    press("Ctrl+2")
    press("Home")
    settled(opened)
    assert opened.notch.words.text() == "no bend"
    press("S")
    settled(opened)
    assert opened.notch.words.text().startswith("bend")
    press("J")
    press("Ctrl+A")
    QTest.keyClicks(QApplication.focusWidget(), "no bend")
    press("Return")
    assert not opened.score.notes[0].curve.points


# --- files ---
@pytest.mark.parametrize("folder", ["y", "one", "y/y"])
def test_return_opens_the_path_that_is_typed(program: Program, lick: Score, tmp_path: Path, folder: str) -> None:
    path = tmp_path / folder / "lick.notch"
    path.parent.mkdir(parents=True)
    write_document(Document(lick), path)
    press("Ctrl+O")
    asked = question()
    line = QApplication.focusWidget()
    for letter in str(path):
        QTest.keyClicks(line, letter)
    QTest.qWait(150)  # the names that begin so are listed
    target = QApplication.activePopupWidget() or line
    QTest.keyClick(target, Qt.Key.Key_Return)
    gone(asked)
    settled(program)
    assert program.score.title == "Lick"


def test_the_buttons_of_a_file_dialog_have_room_for_their_icons(program: Program) -> None:
    program.apply_settings()
    press("Ctrl+O")
    asked = question()
    buttons = [
        button for button in asked.findChildren(QToolButton) if button.isVisible() and not button.icon().isNull()
    ]
    assert len(buttons) >= 4
    for button in buttons:
        colours = {button.grab().toImage().pixel(x, y) for x in range(4, button.width() - 4) for y in range(4, 20)}
        assert len(colours) > 1, f"{button.objectName()} shows nothing"
    press("Esc")
    gone(asked)


def test_unsaved_work_is_asked_about_once(opened: Program, lick: Score, tmp_path: Path) -> None:
    other = tmp_path / "other.notch"
    write_document(Document(replace(lick, title="Other")), other)
    press("Ctrl+2")
    press("9")
    settled(opened)
    opened.open_path(str(other))
    choose("Give them up")
    settled(opened)
    assert opened.score.title == "Other"
    assert QApplication.activeModalWidget() is None
