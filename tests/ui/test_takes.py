"""A student's take through the window: record, read, mark, hear; from a file; the delay; the footswitch."""

from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import QSettings, Qt
from PyQt6.QtTest import QTest
from pytestqt.qtbot import QtBot

from hands import act
from notcher.core.formats import Document, write_document
from notcher.core.proving import Result
from notcher.core.score import Score, excerpt
from notcher.core.sound import Clip, write_clip
from notcher.core.synthesis import SKILLS, performed, render
from notcher.ui.benches.teach.teach_bench import BOARD, TAKES
from notcher.ui.shell.program import Program
from notcher.ui.state.settings import Settings
from notcher.ui.state.shell import Bench

SPEED = 10.0


@pytest.fixture
def teaching(program: Program, qtbot: QtBot, lick: Score, lick_clip: Clip, tmp_path: Path) -> Program:
    """The lick with its recording on the Teach bench; simulated devices in which time flies."""
    path = tmp_path / "lick.notch"
    write_document(Document(lick, lick_clip), path)
    program.open_path(str(path))
    qtbot.waitUntil(lambda: program.score == lick and not program.busy, timeout=10_000)
    program.show(Bench.TEACH)
    program.player.speaker._speed = program.guitar._speed = SPEED
    return program


def recorded(program: Program, qtbot: QtBot) -> None:
    count = len(program.teach.takes.takes)
    qtbot.mouseClick(program.teach.take_button, Qt.MouseButton.LeftButton)
    assert program.teaching.recorder.state != "idle"
    qtbot.waitUntil(lambda: len(program.teach.takes.takes) > count and not program.busy, timeout=30_000)


@pytest.mark.parametrize(
    "along", ["click", *(pytest.param(along, marks=pytest.mark.slow) for along in ("band", "recording", "nothing"))]
)
def test_a_take_is_recorded_along_with_anything_and_marked(teaching: Program, qtbot: QtBot, along: str) -> None:
    teach, board = teaching.teach, teaching.teach.board
    teaching.settings.set("latency_ms", 120.0)
    teach.set_along(along)
    board.go(0, 4)
    recorded(teaching, qtbot)
    assert teach.pages.currentIndex() == TAKES
    take = teach.takes.take
    assert take is not None
    assert (take.take.pace, take.take.along, take.take.phrases) == (0.8, along, (teaching.score.phrases[0].id,))
    phrase_report = take.report.phrases[0]
    assert (len(phrase_report.notes), len(phrase_report.missed), len(phrase_report.wrong)) == (4, 0, 0)
    assert "4 of 4 notes played at 80 %" in teach.takes.summary.text()
    assert (phrase_report.bias_ms is None) == (along == "nothing")
    if phrase_report.bias_ms is not None:
        assert abs(phrase_report.bias_ms) < 60, "a few ms between reading both clocks, ten times as fast"
    heard = teaching.player.speaker.heard()
    assert (np.abs(heard).max() > 0.05) == (along != "silence")
    qtbot.mouseClick(teach.takes.mark_button, Qt.MouseButton.LeftButton)
    mark = teaching.passes[0]
    assert (mark.pace, mark.result) == (0.8, phrase_report.verdict)
    assert not teaching.session.undo_stack.canUndo(), "a mark is no edit of the music"
    assert not teaching.session.unsaved
    qtbot.mouseClick(teach.takes.back_button, Qt.MouseButton.LeftButton)
    assert teach.pages.currentIndex() == BOARD
    qtbot.mouseClick(teach.takes_button, Qt.MouseButton.LeftButton)
    assert teach.pages.currentIndex() == TAKES, "the takes can be shown again"


@pytest.mark.slow
def test_flat_bends_are_read_off_the_take(teaching: Program, qtbot: QtBot) -> None:
    teaching.settings.set("guitarist", "short of the top")
    teaching.apply_settings()
    assert "short of the top" in teaching.teach.take_words.text()
    assert teaching.guitar.skill.name == "short of the top"
    recorded(teaching, qtbot)
    words = teaching.teach.takes.words.text()
    assert "The bend of 1 step on string 3, fret 14 lands" in words
    assert "cents flat: play fret 16 first" in words
    assert "not known" in words, "the delay was never measured"
    assert "Measure the delay" in teaching.said
    image = teaching.teach.takes.landing.grab().toImage()
    assert (
        len({image.pixelColor(x, y).name() for x in range(0, image.width(), 2) for y in range(0, image.height(), 2)})
        > 4
    )
    for voice in (teaching.teach.takes.play_button, teaching.teach.takes.both_button):
        qtbot.mouseClick(voice, Qt.MouseButton.LeftButton)
        qtbot.waitUntil(lambda: teaching.player.playing, timeout=10_000)
        teaching.player.stop()


@pytest.mark.slow
def test_other_thresholds_judge_takes_again_without_hearing_them(teaching: Program, qtbot: QtBot) -> None:
    teaching.settings.set("guitarist", "short of the top")
    teaching.apply_settings()
    recorded(teaching, qtbot)
    takes = teaching.teach.takes
    heard = takes.take.report.heard
    assert takes.take.report.verdict is Result.SHAKY
    teaching.settings.set("take_bend_cents", 90.0)
    takes.judge_again(teaching.settings.thresholds)
    assert takes.take.report.verdict is Result.CLEAN
    assert takes.take.report.heard is heard
    assert takes.take_box.currentText().endswith("clean")
    assert takes.phrase_list.item(0).text() == "Ask: clean"


@pytest.mark.slow
def test_the_delay_is_measured_and_taken_off(teaching: Program, qtbot: QtBot) -> None:
    assert teaching.settings.latency_s(teaching.guitar.description) is None
    teaching.player.speaker._speed = teaching.guitar._speed = 3.0
    act(teaching, "delay.cable")
    qtbot.waitUntil(lambda: teaching.settings.latency_s(teaching.guitar.description) is not None, timeout=30_000)
    # the simulated room is 120 ms late; its clock ticks every 20 ms, three times as fast
    assert teaching.settings.latency_s(teaching.guitar.description) == pytest.approx(0.12, abs=0.07)
    assert "ms late" in teaching.said
    recorded(teaching, qtbot)
    phrase_report = teaching.teach.takes.take.report.phrases[0]
    assert phrase_report.bias_ms is not None
    assert abs(phrase_report.bias_ms) < 70
    # a guitarist is no clap: what cannot be measured is said, and the old figure stays
    before = teaching.settings.latency_s(teaching.guitar.description)
    teaching.guitar.expect_sound = lambda *_: None
    teaching.guitar._sound = np.zeros(44_100 * 10, dtype=np.float32)
    act(teaching, "delay.claps")
    qtbot.waitUntil(lambda: "Too few claps" in teaching.said, timeout=30_000)
    assert teaching.settings.latency_s(teaching.guitar.description) == before


@pytest.mark.slow
def test_a_take_comes_from_a_file(teaching: Program, qtbot: QtBot, lick: Score, tmp_path: Path) -> None:
    played = performed(excerpt(lick, 0.5, 2.7, pace=0.5), SKILLS["steady hand"], begin_s=1.3)
    write_clip(render(played.score), tmp_path / "take.wav", kind="WAV")
    teaching.teach.board.go(0, 1)
    teaching.teaching.takes.open_take(tmp_path / "take.wav")
    qtbot.waitUntil(lambda: bool(teaching.teach.takes.takes) and not teaching.busy, timeout=20_000)
    take = teaching.teach.takes.take
    assert take.take.name == "Take 1: take"
    assert take.report.verdict is Result.CLEAN
    assert take.report.phrases[0].bias_ms is None
    # what cannot be read is no take; what cannot be judged is one all the same
    for name, words, count in (("gone.wav", "There is no file", 1), ("noise.wav", "No guitar was heard", 2)):
        if name == "noise.wav":
            quiet = Clip(np.zeros((44_100, 1), np.float32), 44_100)
            write_clip(quiet, tmp_path / name, kind="WAV")
        teaching.teaching.takes.open_take(tmp_path / name)
        qtbot.waitUntil(lambda words=words: words in teaching.said, timeout=10_000)
        assert teaching.teaching.recorder.state == "idle"
        assert len(teaching.practice.takes) == count


@pytest.mark.slow
def test_a_take_can_be_ended_early_and_a_lost_input_keeps_it(teaching: Program, qtbot: QtBot) -> None:
    recorder, teach = teaching.teaching.recorder, teaching.teach
    teaching.player.speaker._speed = teaching.guitar._speed = 2.0
    teach.board.go(0, 6)
    qtbot.mouseClick(teach.take_button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: recorder.state == "recording", timeout=10_000)
    assert teach.take_button.text() == "End the take"
    qtbot.waitUntil(lambda: recorder.share > 0.75, timeout=10_000)
    qtbot.mouseClick(teach.take_button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: len(teach.takes.takes) == 1 and recorder.state == "idle", timeout=10_000)
    teach.show_takes(False)
    qtbot.mouseClick(teach.take_button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: recorder.state == "recording" and recorder.share > 0.75, timeout=10_000)
    teaching.guitar.lost.emit("The guitar input went away.")
    assert "went away" in teaching.said
    qtbot.waitUntil(lambda: len(teach.takes.takes) == 2 and recorder.state == "idle", timeout=10_000)
    teach.show_takes(False)
    qtbot.mouseClick(teach.take_button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: recorder.state == "recording", timeout=10_000)
    teaching.guitar.lost.emit("The guitar input went away.")  # before anything was played
    qtbot.waitUntil(lambda: recorder.state == "idle", timeout=10_000)
    said = teaching.said
    assert said.startswith("The guitar input went away. "), "why nothing was heard is said before that nothing was"
    teach.show_takes(False)
    qtbot.mouseClick(teach.take_button, Qt.MouseButton.LeftButton)
    recorder.cancel()
    assert recorder.state == "idle"
    assert len(teach.takes.takes) == 3


@pytest.mark.slow
def test_the_footswitch_does_what_the_settings_say(teaching: Program, qtbot: QtBot) -> None:
    QTest.keyClick(teaching.teach.board, Qt.Key.Key_F9)
    qtbot.waitUntil(lambda: teaching.player.playing, timeout=10_000)
    QTest.keyClick(teaching.teach.board, Qt.Key.Key_F9)
    assert not teaching.player.playing
    teaching.settings.set("switch_2", "pace.faster")
    pace = teaching.player.pace
    QTest.keyClick(teaching.teach.board, Qt.Key.Key_F10)
    assert teaching.player.pace == pytest.approx(pace + 0.05)


@pytest.mark.slow
def test_simulated_devices_are_named_in_sight(teaching: Program) -> None:
    assert teaching.reel.device_label.text() == "Simulated: all devices"
    assert "keys F9 and F10" in teaching.reel.device_label.toolTip()


@pytest.mark.slow
def test_thresholds_come_from_the_settings(tmp_path: Path) -> None:
    settings = Settings(QSettings(str(tmp_path / "s.ini"), QSettings.Format.IniFormat))
    assert settings.thresholds.missed_share == 0.25
    settings.set("take_missed_share", 40.0)
    settings.set("take_bend_cents", 900.0)  # out of bounds: as good as none
    assert (settings.thresholds.missed_share, settings.thresholds.bend_cents) == (0.4, 25.0)
