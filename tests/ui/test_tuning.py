"""Tuning and capo are chosen at any time, by keys: for a recording, a reopened document, a solo by hand."""

from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QComboBox, QLineEdit

from hands import answer, choose, gone, press, question, settled
from notcher.core.formats import read_document
from notcher.core.score import USUAL_TUNINGS, Score
from notcher.ui.benches.hear.tuning_dialog import TuningDialog
from notcher.ui.shell.program import Program


def asked() -> TuningDialog:
    press("Ctrl+Shift+T")
    dialog = question()
    assert isinstance(dialog, TuningDialog)
    return dialog


def walk(dialog: TuningDialog, name: str) -> None:
    """Press Tab until the field of this name has the keys."""
    for _ in range(20):
        focused = QApplication.focusWidget()
        assert focused is not None
        if focused.accessibleName() == name:
            return
        press("Tab")
    raise AssertionError(f"no field {name}")


def accept(program: Program, dialog: TuningDialog) -> None:
    press("Return")
    gone(dialog)
    settled(program)


def put_capo(program: Program, dialog: TuningDialog, fret: str) -> None:
    """Put a capo on, the frets kept as they are played."""
    walk(dialog, "Capo")
    press("Ctrl+A")
    QTest.keyClicks(QApplication.focusWidget(), fret)
    walk(dialog, "What stays")
    press("Down")
    accept(program, dialog)


def pick(words: str) -> None:
    box = QApplication.focusWidget()
    assert isinstance(box, QComboBox)
    press("Home")
    for _ in range(box.count()):
        if box.currentText().startswith(words):
            return
        press("Down")
    raise AssertionError(f"no tuning {words}")


def pitches(score: Score) -> list[float]:
    return [score.sounding_midi(note) for note in score.notes]


def places(score: Score) -> list[tuple[int, int]]:
    return [(note.string, note.fret) for note in score.notes]


def test_a_reopened_recording_is_tuned_anew_and_sounds_the_same(opened: Program, lick: Score, tmp_path: Path) -> None:
    dialog = asked()
    pick("Half a step down")
    assert dialog.strings.text() == "Eb2 Ab2 Db3 Gb3 Bb3 Eb4"
    accept(opened, dialog)
    assert opened.score.tuning == USUAL_TUNINGS["half-down"]
    assert pitches(opened.score) == pitches(lick)
    assert places(opened.score) != places(lick)
    opened.saving.save_to(tmp_path / "again.notch")
    settled(opened)
    assert read_document(tmp_path / "again.notch").score.tuning == USUAL_TUNINGS["half-down"]
    press("Ctrl+Z")
    assert opened.score == lick


def test_frets_are_kept_where_that_is_said_and_a_capo_takes_them_along(opened: Program, lick: Score) -> None:
    dialog = asked()
    put_capo(opened, dialog, "2")
    assert opened.score.tuning.capo == 2
    assert places(opened.score) == [(string, fret + 2) for string, fret in places(lick)]
    assert pitches(opened.score) == [midi + 2 for midi in pitches(lick)]
    press("Ctrl+1")
    settled(opened)
    assert "capo at fret 2" in opened.hear.tuning_facts.text()


def test_a_solo_by_hand_is_written_on_seven_strings(program: Program) -> None:
    press("Ctrl+N")
    answer("4/4")
    settled(program)
    dialog = asked()
    pick("7 strings, drop A")
    accept(program, dialog)
    assert program.score.tuning.open_midi[-1] == 33, "A1: MIDI 1.0, middle C is 60"
    press("Ctrl+2")
    for _ in range(6):
        press("Ctrl+Down")


def test_ones_own_tuning_is_kept_by_name_and_forgotten(opened: Program) -> None:
    dialog = asked()
    walk(dialog, "Open strings, lowest first")
    press("Ctrl+A")
    QTest.keyClicks(QApplication.focusWidget(), "C G C F Bb E")
    press("Tab")
    line = QApplication.focusWidget()
    assert isinstance(line, QLineEdit)
    QTest.keyClicks(line, "Lamp tuning")
    accept(opened, dialog)
    # each string in the octave next to the usual one: C2 G2 C3 F3 Bb3 E4
    assert opened.score.tuning.open_midi == (64, 58, 53, 48, 43, 36)
    dialog = asked()
    assert dialog.box.currentText().startswith("Lamp tuning"), "it is in the list"
    QTest.mouseClick(dialog.forget, Qt.MouseButton.LeftButton)
    choose("Cancel")
    assert opened.settings.own_tunings == {}


def test_what_is_no_tuning_or_does_not_fit_is_said_and_changes_nothing(opened: Program, lick: Score) -> None:
    dialog = asked()
    walk(dialog, "Open strings, lowest first")
    press("Ctrl+A")
    QTest.keyClicks(QApplication.focusWidget(), "H J K L")
    press("Return")
    assert "is no tuning" in dialog.trouble.text()
    press("Esc")
    gone(dialog)
    dialog = asked()
    put_capo(opened, dialog, "12")
    assert opened.score == lick
    assert "Keep the pitches instead" in opened.said
