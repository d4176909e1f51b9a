"""The whole path through the real window: open, correct, undo, loop slowly, save, reopen, write out."""

from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PyQt6.QtGui import QDragEnterEvent, QDropEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from hands import act, answer, choose, press, select_at, selected_at
from notcher.core.formats import read_document
from notcher.core.score import Attack
from notcher.ui.shell.program import Program
from notcher.ui.state.settings import Settings
from notcher.ui.state.shell import Bench
from real_window import needs_a_screen, walked


@pytest.fixture
def opened(program: Program, qtbot: QtBot, lick_file: Path) -> Program:
    """The window with the lick drafted."""
    program.open_path(str(lick_file))
    qtbot.waitUntil(lambda: len(program.score.notes) == 6 and not program.busy, timeout=20_000)
    return program


@pytest.mark.slow
def test_the_whole_path(opened: Program, qtbot: QtBot, tmp_path: Path) -> None:
    session, player = opened.session, opened.player
    drafted = session.score
    # correct a fret by pointing at the note and typing two figures: one step
    point = opened.notch.tab.note_rect(2).center().toPoint()
    qtbot.mouseClick(opened.notch.tab, Qt.MouseButton.LeftButton, pos=point)
    assert selected_at(session) == 2
    press("1")
    press("4")
    assert session.score.notes[2].fret == 14
    assert session.undo_stack.undoText() == "Move note to fret 14"
    session.undo_stack.undo()
    assert session.score == drafted
    session.undo_stack.redo()
    corrected = session.score
    # loop its phrase at half pace; the simulated loudspeaker hears it without a click at the seam
    act(opened, "loop.toggle")
    player.set_pace(0.5)
    player.set_count_in(False)
    player.speaker._speed = 12.0
    qtbot.mouseClick(opened.reel.play_button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: player.playing, timeout=20_000)
    length = player.stream.length
    span_s = session.score.phrases[0].end_s - session.score.phrases[0].start_s
    assert length == pytest.approx(2 * span_s * player.stream.sample_rate, abs=2), "half pace is twice as long"
    qtbot.waitUntil(lambda: player.speaker.position > 2.2 * length, timeout=20_000)
    heard = player.speaker.heard()
    assert session.score.phrases[0].start_s <= player.time_s <= session.score.phrases[0].end_s
    qtbot.mouseClick(opened.reel.play_button, Qt.MouseButton.LeftButton)
    assert not player.playing
    steps = np.abs(np.diff(heard[:, 0]))
    seams = max(steps[at - 4 : at + 4].max() for at in (length, 2 * length))
    assert seams <= np.percentile(steps, 99.5), f"a step of {seams:.4f} at the seam"
    # save, reopen, compare, write out
    path = tmp_path / "lick.notch"
    press("Ctrl+S")
    answer(str(path))
    qtbot.waitUntil(lambda: session.path == path and not opened.busy, timeout=10_000)
    assert "changed" not in opened.window.windowTitle()
    assert read_document(path).score == corrected
    opened.open_path(str(path))
    qtbot.waitUntil(lambda: session.path == path and not opened.busy, timeout=10_000)
    assert session.score == corrected
    for ending in (".txt", ".musicxml"):
        opened.saving.export_to(str(tmp_path / f"lick{ending}"))
        assert (tmp_path / f"lick{ending}").stat().st_size > 200
    assert opened.settings.recent[0] == str(path)


@pytest.mark.slow
def test_everything_is_corrected_by_keys(opened: Program) -> None:
    session, tab = opened.session, opened.notch.tab
    tab.setFocus()
    select_at(session, 0)
    press("Right")
    assert selected_at(session) == 1
    press("Down")
    assert session.note.onset_s == pytest.approx(3.5, abs=0.02), "the next phrase"  # type: ignore[union-attr]
    press("Up")
    assert selected_at(session) == 0
    steps = (
        (lambda: press("Shift+Down"), "Move note to string 4, fret 17"),
        (lambda: press("Shift+Up"), "Move note to string 3, fret 12"),
        (lambda: press("Shift+Right"), "Nudge onset"),
        (lambda: press("S"), "Bend 1"),
        (lambda: press("S"), "Bend 1¼"),
        (lambda: press("Shift+S"), "Bend 1"),
        (lambda: press("A"), "Match the recording"),
        (lambda: press("Ins"), "Insert note"),
        (lambda: press("Del"), "Delete note"),
    )
    seen = [session.score]
    for do, name in steps:
        do()
        assert session.undo_stack.undoText() == name
        seen.append(session.score)
    for score in reversed(seen[:-1]):
        session.undo_stack.undo()
        assert session.score == score
    assert session.undo_stack.isClean()


def test_what_cannot_be_done_is_said_and_changes_nothing(opened: Program) -> None:
    before = opened.score
    opened.notch.editor.type_fret(25)
    assert "frets 0 to 24" in opened.said
    select_at(opened.session, 2)
    for _ in range(4):
        opened.run("place.higher_string")
    assert "no string further that way" in opened.said
    while opened.session.undo_stack.canUndo():
        opened.session.undo_stack.undo()
    assert opened.score == before


@pytest.mark.slow
@pytest.mark.parametrize("bench", [Bench.HEAR, Bench.NOTCH, Bench.PROVE, Bench.TEACH])
def test_benches_show_without_a_document_and_with_one(opened: Program, qtbot: QtBot, bench: Bench) -> None:
    opened.window.bench_buttons[bench].click()
    assert opened.bench == bench
    picture = opened.window.grab().toImage()
    colors = {picture.pixel(x, y) for x in range(0, picture.width(), 7) for y in range(60, 600, 7)}
    assert len(colors) > 5, "something is drawn"


@pytest.mark.slow
def test_the_rung_board_plays_and_marks(opened: Program, qtbot: QtBot) -> None:
    opened.show(Bench.TEACH)
    board = opened.teach.board
    QTest.keyClick(board, Qt.Key.Key_Down)
    QTest.keyClick(board, Qt.Key.Key_Right)
    assert (board.row, board.column) == (1, 2)
    QTest.keyClick(board, Qt.Key.Key_C)
    mark = opened.passes[0]
    assert (mark.phrases, mark.pace, mark.result) == ((opened.score.phrases[1].id,), 0.6, "clean")
    QTest.keyClick(board, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: opened.player.playing, timeout=20_000)
    assert opened.player.pace == 0.6
    opened.player.stop()
    QTest.keyClick(board, Qt.Key.Key_Backspace)
    assert opened.passes == []
    centre = board.cell_center(0, 0).center().toPoint()
    qtbot.mouseClick(board, Qt.MouseButton.LeftButton, pos=centre)
    assert (board.row, board.column) == (0, 0)


@pytest.mark.slow
def test_the_hear_bench_retunes_and_sets_the_beats(opened: Program) -> None:
    hear, session = opened.hear, opened.session
    before = session.score
    names = [hear.tuning_box.itemText(i) for i in range(hear.tuning_box.count())]
    at = next(i for i, name in enumerate(names) if name.startswith("Drop D"))
    hear.tuning_box.setCurrentIndex(at)
    hear.tuning_box.activated.emit(at)
    assert session.score.tuning.open_midi[-1] == 38
    sounding = [session.score.fretted_midi(note) for note in session.score.notes]
    assert sounding == [before.fretted_midi(note) for note in before.notes]
    for at_s in (1.0, 1.5, 2.0, 2.5):
        hear.tap(at_s, along=True)
    assert session.score.beat_map.tempo_bpm == pytest.approx(120)
    hear.tempo_box.setValue(90)
    hear.tempo_box.editingFinished.emit()
    assert session.score.beat_map.tempo_bpm == pytest.approx(90)


@pytest.mark.slow
def test_hearing_again_can_be_undone(opened: Program, qtbot: QtBot) -> None:
    opened.run("note.delete")
    shorter = opened.score
    opened.hear.hear_button.click()
    qtbot.waitUntil(lambda: len(opened.score.notes) == 6 and not opened.busy, timeout=20_000)
    opened.session.undo_stack.undo()
    assert opened.score == shorter


def test_a_draft_can_be_cancelled(program: Program, qtbot: QtBot, lick_file: Path) -> None:
    program.open_path(str(lick_file))
    assert program.window.work_strip.isVisible()
    program.window.work_strip.cancel_button.click()
    assert not program.window.work_strip.isVisible()
    qtbot.wait(300)
    assert program.score.notes == ()


@pytest.mark.slow
@pytest.mark.parametrize(
    ("name", "content", "words"),
    [
        ("missing.wav", None, "There is no file"),
        ("text.wav", b"just words", "cannot be read as sound"),
        ("bad.notch", b"PK\x03\x04", "damaged or no Notcher document"),
    ],
)
def test_bad_files_are_said_and_lose_nothing(
    opened: Program, qtbot: QtBot, tmp_path: Path, name: str, content: bytes | None, words: str
) -> None:
    before = opened.score
    if content is not None:
        (tmp_path / name).write_bytes(content)
    opened.open_path(str(tmp_path / name))
    qtbot.waitUntil(lambda: words in opened.said, timeout=10_000)
    assert opened.window.notices.isVisible()
    assert opened.score == before


@pytest.mark.slow
def test_a_failed_save_is_said_and_keeps_the_changes(opened: Program, qtbot: QtBot, tmp_path: Path) -> None:
    opened.run("note.delete")
    press("Ctrl+S")
    answer(str(tmp_path / "no folder" / "no.notch"))
    qtbot.waitUntil(lambda: not opened.busy, timeout=10_000)
    assert "could not be written" in opened.said
    assert "changed" in opened.window.windowTitle()


@pytest.mark.slow
@pytest.mark.parametrize("said", ["Cancel", "Give them up"])
def test_unsaved_changes_are_guarded(opened: Program, said: str) -> None:
    press("Del")
    opened.close()
    assert opened.window.isVisible()
    choose(said)
    QTest.qWait(20)
    assert opened.window.isVisible() == (said == "Cancel")


@pytest.mark.slow
def test_a_file_can_be_dropped(program: Program, qtbot: QtBot, lick_file: Path) -> None:
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(lick_file))])
    how = (Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier)
    QApplication.sendEvent(program.window, QDragEnterEvent(QPoint(10, 10), *how))
    QApplication.sendEvent(program.window, QDropEvent(QPointF(10, 10), *how))
    qtbot.waitUntil(lambda: len(program.score.notes) == 6 and not program.busy, timeout=20_000)
    assert program.settings.recent == [str(lick_file)]


def test_the_tab_zooms_pans_and_marks_loops(opened: Program, qtbot: QtBot) -> None:
    tab = opened.notch.tab
    tab.show_span(0.0, 6.0)
    assert tab.frame.start_s <= 0.0 <= 6.0 <= tab.frame.end_s
    before = tab.frame.px_per_s
    tab.zoom(2.0)
    assert tab.frame.px_per_s == pytest.approx(2 * before)
    left, right = (QPoint(round(tab.frame.x(time_s)), 10) for time_s in (1.0, 2.0))
    tab.go_to(0.0)
    left, right = (QPoint(round(tab.frame.x(time_s)), 10) for time_s in (1.0, 2.0))
    qtbot.mousePress(tab, Qt.MouseButton.LeftButton, pos=left)
    qtbot.mouseMove(tab, right)
    qtbot.mouseRelease(tab, Qt.MouseButton.LeftButton, pos=right)
    assert opened.player.loop_span == pytest.approx((1.0, 2.0), abs=0.01)
    empty = QPoint(round(tab.frame.x(0.2)), round(tab.frame.y(6)))
    opened.player.set_loop(None)
    qtbot.mouseClick(tab, Qt.MouseButton.LeftButton, pos=empty)
    assert opened.player.time_s == pytest.approx(0.2, abs=0.01)


def test_the_reel_seeks_and_loops_phrases(opened: Program, qtbot: QtBot) -> None:
    strip = opened.reel.strip
    length_s = opened.document.clip.duration_s  # type: ignore[union-attr]
    qtbot.mouseClick(strip, Qt.MouseButton.LeftButton, pos=QPoint(strip.width() // 2, strip.height() - 10))
    assert opened.player.time_s == pytest.approx(length_s / 2, abs=0.02)
    x = round(4.5 / length_s * strip.width())
    qtbot.mouseClick(strip, Qt.MouseButton.LeftButton, pos=QPoint(x, 8))
    phrase = opened.score.phrases[1]
    assert opened.player.loop_span == (phrase.start_s, phrase.end_s)


@pytest.mark.slow
def test_playing_on_at_another_pace_follows_the_recording(opened: Program, qtbot: QtBot) -> None:
    player = opened.player
    player.set_loop(None)
    player.set_pace(0.8)
    player.seek(4.0)
    player.speaker._speed = 10.0
    act(opened, "play.toggle")
    qtbot.waitUntil(lambda: player.playing, timeout=20_000)
    qtbot.waitUntil(lambda: player.time_s > 4.5, timeout=10_000)
    qtbot.waitUntil(lambda: not player.playing, timeout=10_000)
    assert player.time_s > 5.5, "it stops by itself at the end"


def test_the_neck_map_moves_the_note(opened: Program, qtbot: QtBot) -> None:
    select_at(opened.session, 0)
    neck = opened.notch.neck
    place = next(other.place for other in neck._places if other.place.string == 4)
    qtbot.mouseClick(neck, Qt.MouseButton.LeftButton, pos=neck._spot(place).toPoint())
    assert (opened.session.note.string, opened.session.note.fret) == tuple(place)  # type: ignore[union-attr]


@pytest.mark.slow
def test_looks_and_settings(opened: Program, settings: Settings) -> None:
    act(opened, "view.theme")
    assert settings.get("theme") == "stage"
    settings.set("text_scale", 1.6)
    opened.apply_settings()
    assert opened.notch.tab.frame.scale == 1.6
    settings._store.setValue("up_after", "nonsense")
    settings._store.setValue("nudge_ms", 1e9)
    assert settings.get("up_after") == 0.0, "what is out of bounds is as good as nothing"
    assert settings.get("nudge_ms") == 10.0


@pytest.mark.slow
def test_the_draft_says_how_sure_it_is(opened: Program) -> None:
    press("Right")
    QTest.qWait(20)
    assert "bend 1" in opened.notch.facts.text()
    assert "like fret" in opened.notch.facts.text()
    assert opened.score.notes[3].attack is Attack.HAMMER


@pytest.mark.slow
@needs_a_screen
def test_in_a_real_window(lick_file: Path, tmp_path: Path) -> None:
    """The same path under a real window system, in a process of its own."""
    assert "whole path done" in walked("drive_real_window.py", lick_file, tmp_path)
