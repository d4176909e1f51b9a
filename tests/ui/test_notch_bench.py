"""Correcting and writing on the Notch bench through the real window: every key, drag and dialog is one named step."""

from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtGui import QImage
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QDialogButtonBox
from pytestqt.qtbot import QtBot

from hands import act, all_selected_at, answer, choose, gone, press, question, select_at, selected_at, walk_to
from notcher.core.formats import Document
from notcher.core.neck import Place
from notcher.core.score import (
    Attack,
    BeatMap,
    End,
    Note,
    NoteAlternative,
    Phrase,
    PickStroke,
    PitchCurve,
    Score,
    Tone,
    bent_curve,
)
from notcher.core.sound import Clip
from notcher.painting.tab_picture import curve_handles
from notcher.ui.commands.keys_dialog import KeysDialog
from notcher.ui.shell.program import Program
from notcher.ui.shell.states import StatesDialog
from notcher.ui.tab.tab_view import TabView


@pytest.fixture
def notched(program: Program, lick: Score, lick_clip: Clip) -> Program:
    """The lick as written, with its recording; the tab has the keys."""
    program.open(Document(lick, lick_clip, attacks_s=np.array([0.5, 0.98, 2.0, 3.52])), None)
    return program


FIELDS: tuple[tuple[str, Callable[[Note], object], object], ...] = (
    ("attack.hammer", lambda n: n.attack, Attack.HAMMER),
    ("attack.tap", lambda n: n.attack, Attack.TAP),
    ("attack.swell", lambda n: n.attack, Attack.SWELL),
    ("tone.palm_mute", lambda n: n.tone, Tone.PALM_MUTE),
    ("tone.natural_harmonic", lambda n: n.tone, Tone.NATURAL_HARMONIC),
    ("end.choked", lambda n: n.end, End.CHOKED),
    ("end.slides_away", lambda n: n.end, End.SLIDES_AWAY),
    ("note.raked", lambda n: n.raked, True),
    ("note.slid_in", lambda n: n.slid_in, True),
    ("note.garnish", lambda n: n.garnish, True),
    ("note.slip", lambda n: n.slip, True),
    ("note.doubt", lambda n: bool(n.doubt), True),
    ("finger.3", lambda n: n.finger, 3),
    ("stroke.next", lambda n: n.stroke, PickStroke.DOWN),
    ("place.lock", lambda n: n.locked, True),
    ("note.vibrato", lambda n: n.vibrato is not None, True),
    ("bend.further", lambda n: n.reading.bend_semitones, 2.0),
    ("bend.curl", lambda n: n.reading.names, ("curl",)),
    ("bend.prebend", lambda n: "prebend" in n.reading.names, True),
)


@pytest.mark.slow
@pytest.mark.parametrize(("name", "field", "value"), FIELDS)
def test_an_action_changes_its_field_and_is_undone(
    notched: Program, name: str, field: Callable[[Note], object], value: object
) -> None:
    session, before = notched.session, notched.score
    select_at(session, 0)
    act(notched, name)
    assert field(session.score.notes[0]) == value
    assert session.score.notes[1:] == before.notes[1:]
    session.undo_stack.undo()
    assert session.score == before


@pytest.mark.slow
def test_keys_reach_the_tab_and_can_be_changed(notched: Program, qtbot: QtBot) -> None:
    session, tab = notched.session, notched.notch.tab
    select_at(session, 0)
    QTest.keyClick(tab, Qt.Key.Key_W)
    assert session.score.notes[0].attack is Attack.HAMMER
    act(notched, "edit.keys")
    dialog = question()
    assert isinstance(dialog, KeysDialog)
    ok, restore = (
        dialog.findChild(QDialogButtonBox).button(which)
        for which in (QDialogButtonBox.StandardButton.Ok, QDialogButtonBox.StandardButton.RestoreDefaults)
    )

    def give(words: str, keys: str) -> None:
        """Find a command by its words, and press the keys that it shall have."""
        walk_to(dialog.words)
        press("Ctrl+A")
        QTest.keyClicks(QApplication.focusWidget(), words)
        press("Return")
        press("Return")
        press(keys)

    give("Tapped", "W")
    assert "would do both" in dialog.trouble.text()
    qtbot.mouseClick(ok, Qt.MouseButton.LeftButton)
    assert dialog.isVisible(), "one of the two has to change first"
    give("Hammer-on", "Ctrl+W")
    assert dialog.trouble.text() == ""
    qtbot.mouseClick(ok, Qt.MouseButton.LeftButton)
    gone(dialog)
    QTest.keyClick(tab, Qt.Key.Key_W)
    assert session.score.notes[0].attack is Attack.TAP
    assert notched.settings.keys("attack.tap") == "W"
    assert notched.settings.keys("end.choked") is None, "what stays usual is not stored"
    dialog.show()
    qtbot.mouseClick(restore, Qt.MouseButton.LeftButton)
    assert dialog.chosen["attack.hammer"] == "W"


def test_several_notes_are_changed_as_one_step(notched: Program) -> None:
    session = notched.session
    select_at(session, 0)
    act(notched, "select.next")
    act(notched, "select.next")
    assert all_selected_at(session) == [0, 1, 2]
    act(notched, "tone.palm_mute")
    assert [note.tone for note in session.score.notes[:4]] == [Tone.PALM_MUTE] * 3 + [Tone.NORMAL]
    assert all_selected_at(session) == [0, 1, 2], "a change keeps the selection"
    act(notched, "note.delete")
    assert session.undo_stack.undoText() == "Delete 3 notes"
    session.undo_stack.undo()
    session.undo_stack.undo()
    act(notched, "select.phrase")
    assert all_selected_at(session) == [0, 1, 2, 3]


def test_walking_by_beat_string_and_doubt(notched: Program) -> None:
    session = notched.session
    select_at(session, 0)
    act(notched, "walk.next_beat")
    assert selected_at(session) == 1  # the beat map is 120 a minute from 0.5 s: the next beat is at 1.0 s
    act(notched, "walk.higher_string")
    assert session.note.string == 2  # type: ignore[union-attr]
    act(notched, "note.doubt")
    select_at(session, 0)
    act(notched, "walk.previous_doubt")
    assert session.note.doubt  # type: ignore[union-attr]
    act(notched, "phrase.accept")
    assert not any(note.doubt for note in session.score.notes)


def test_time_is_edited_by_keys(notched: Program) -> None:
    session = notched.session
    select_at(session, 1)
    act(notched, "onset.attack_before")
    assert session.note.onset_s == 0.98  # type: ignore[union-attr]
    act(notched, "end.later")
    assert session.note.offset_s == pytest.approx(1.91)  # type: ignore[union-attr]
    act(notched, "end.attack_next")
    assert session.note.offset_s == 2.0  # type: ignore[union-attr]
    act(notched, "end.attack_before")
    assert "cannot pass" in notched.said, "the strike before is the note's own"
    notched.player.seek(1.4)
    act(notched, "note.split")
    assert session.note.onset_s == pytest.approx(1.4)  # type: ignore[union-attr]
    select_at(session, 1)
    act(notched, "note.join")
    assert len(session.score.notes) == 6
    select_at(session, 5)
    act(notched, "note.join")
    assert "no note follows" in notched.said


def test_a_curve_is_typed_and_dragged(notched: Program, qtbot: QtBot) -> None:
    session, notch = notched.session, notched.notch
    select_at(session, 4)
    act(notched, "curve.type")
    notch.words.setText("bend 1½ over 200 ms, hold for 100 ms")
    QTest.keyClick(notch.words, Qt.Key.Key_Return)
    assert session.note.curve == PitchCurve(((0.0, 0.0), (0.2, 3.0), (0.3, 3.0)))  # type: ignore[union-attr]
    notch.words.setFocus()
    notch.words.setText("wobble")
    QTest.keyClick(notch.words, Qt.Key.Key_Return)
    assert "no step of a curve" in notched.said
    tab = notch.tab
    tab.show_span(3.0, 5.0)
    steps = session.undo_stack.count()
    note = session.note
    assert note is not None
    spot = curve_handles(tab.frame, note)[2].toPoint()
    down = QPoint(spot.x(), round(tab.frame.y(note.string, 2.0)))
    qtbot.mousePress(tab, Qt.MouseButton.LeftButton, pos=spot)
    for at in (QPoint(spot.x(), (spot.y() + down.y()) // 2), down):
        qtbot.mouseMove(tab, at)
    qtbot.mouseRelease(tab, Qt.MouseButton.LeftButton, pos=down)
    assert session.note.curve.points[2][1] == pytest.approx(2.0, abs=0.1)  # type: ignore[union-attr]
    assert session.undo_stack.count() == steps + 1, "a drag is one step"
    qtbot.mouseDClick(tab, Qt.MouseButton.LeftButton, pos=curve_handles(tab.frame, session.note)[2].toPoint())
    assert len(session.note.curve.points) == 2  # type: ignore[union-attr]


def test_frets_typed_fast_stay_with_their_notes(notched: Program) -> None:
    """1, Right, 2 is fret 1 on this note and fret 2 on the next, each its own step; 1, 2 is fret 12."""
    session = notched.session
    before = [note.fret for note in session.score.notes]
    press("1")
    press("Right")
    press("2")
    assert [note.fret for note in session.score.notes[:2]] == [1, 2]
    press("Ctrl+Z")
    assert [note.fret for note in session.score.notes[:2]] == [1, before[1]]
    press("Ctrl+Z")
    assert [note.fret for note in session.score.notes] == before
    select_at(session, 2)
    press("1")
    press("2")
    assert session.score.notes[2].fret == 12


def test_a_note_is_carried_to_another_string(notched: Program, qtbot: QtBot) -> None:
    """Its pitch stays: fret 14 on the third string is fret 10 on the second (common practice, no source)."""
    tab, session = notched.notch.tab, notched.session
    session.edit("Write", Score().with_notes([Note(0.5, 1.0, 2, 10), Note(1.4, 2.0, 1, 3)]))
    tab.show_span(0.0, 4.0)
    steps = session.undo_stack.count()

    def carry(index: int, string: int) -> None:
        grip = tab.note_rect(index).center().toPoint()
        down = QPoint(grip.x() + 3, round(tab.frame.lane(string).center().y()))
        qtbot.mousePress(tab, Qt.MouseButton.LeftButton, pos=grip)
        for at in (QPoint(grip.x(), (grip.y() + down.y()) // 2), down):
            qtbot.mouseMove(tab, at)
        tab.grab()
        qtbot.mouseRelease(tab, Qt.MouseButton.LeftButton, pos=down)

    carry(0, 3)
    assert [(note.string, note.fret) for note in session.score.notes] == [(3, 14), (1, 3)]
    assert selected_at(session) == 0
    assert session.undo_stack.count() == steps + 1, "one gesture, one step"
    carry(1, 6)
    assert "lives nowhere on" in notched.said, "the lowest string ends below it"
    assert session.undo_stack.count() == steps + 1
    carry(0, 3)  # let go where it lies
    assert session.undo_stack.count() == steps + 1


@pytest.mark.slow
def test_beats_and_chords_are_edited_in_place(notched: Program, qtbot: QtBot) -> None:
    tab, session = notched.notch.tab, notched.session
    tab.show_span(0.0, 4.0)
    y = round(tab.frame.header) - 6
    start, end = (QPoint(round(tab.frame.x(time_s)), y) for time_s in (2.0, 2.06))
    qtbot.mousePress(tab, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ShiftModifier, pos=start)
    qtbot.mouseMove(tab, end)
    qtbot.mouseRelease(tab, Qt.MouseButton.LeftButton, pos=end)
    # at 120 a minute from 0.5 s, beat 3 is at 2.0 s
    assert session.score.beat_map.time_at(np.array([3.0]))[0] == pytest.approx(2.06, abs=0.01)
    for at_s in (0.5, 1.1, 1.7, 2.3):
        notched.hear.tap(at_s, along=True)
    assert session.score.beat_map.tempo_bpm == pytest.approx(100)
    act(notched, "beat.tap")
    qtbot.mouseDClick(tab, Qt.MouseButton.LeftButton, pos=QPoint(round(tab.frame.x(1.0)), 8))
    answer("Am7")
    assert session.score.chord_at(1.1) == "Am7"


@pytest.mark.slow
def test_notes_are_copied_elsewhere(notched: Program) -> None:
    session = notched.session
    select_at(session, 0)
    press("Ctrl+Alt+C")
    notched.player.seek(5.5)
    act(notched, "notes.paste_moved")
    answer("1 octave lower")
    first, pasted = session.score.notes[0], session.score.notes[6]
    assert session.score.fretted_midi(pasted) == session.score.fretted_midi(first) - 12
    assert len(session.score.notes) == 10
    notched.player.seek(5.8)
    act(notched, "notes.paste_moved")
    answer("the shape by frets")
    answer("3")
    choose("Keep both")
    moved = [(n.string, n.fret) for n in session.score.notes if n.onset_s >= 5.8 and n.locked]
    assert moved == [(n.string, n.fret + 3) for n in session.score.notes[:4]]
    press("Ctrl+V")
    choose("Keep both")
    assert len(session.score.notes) == 18
    press("Ctrl+V")
    choose("Replace them")
    assert [n.string for n in session.score.notes if n.onset_s >= 5.8] == [n.string for n in session.score.notes[:4]]
    press("Ctrl+Z")
    assert len(session.score.notes) == 18


def test_copied_is_what_is_selected(notched: Program) -> None:
    press("Right")
    press("Ctrl+C")
    assert "1 note copied" in notched.said
    for _ in range(60):
        press("Alt+Shift+Right")  # past the last note, and not before the recording's end
    press("Ctrl+V")
    assert len(notched.score.notes) == 7
    assert notched.session.undo_stack.undoText() == "Paste 1 note"


def test_the_phrase_moves_to_where_it_is_wished(notched: Program) -> None:
    session = notched.session
    select_at(session, 0)
    act(notched, "place.near_fret")
    answer("5")
    assert session.score.phrases[0].near_fret == 5
    assert np.median([note.fret for note in session.score.notes[:4]]) < 10
    act(notched, "stroke.all")
    strokes = [note.stroke for note in session.score.notes]
    assert strokes[0] is PickStroke.DOWN
    assert strokes[3] is None, "a hammered note is not picked"


def test_states_are_kept_compared_and_brought_back(notched: Program, qtbot: QtBot, tmp_path: Path) -> None:
    session, before = notched.session, notched.score
    act(notched, "edit.save_snapshot")
    answer("before the lesson")
    assert "changed" in notched.window.windowTitle()
    select_at(session, 1)
    act(notched, "bend.further")
    select_at(session, 0)
    act(notched, "note.delete")
    dialog = StatesDialog(session, notched.settings.naming, notched.window)
    qtbot.addWidget(dialog)
    assert dialog.words.text() == "1 re-bent, 1 removed"
    dialog.table.cellActivated.emit(1, 0)
    assert session.note.onset_s == 1.0  # type: ignore[union-attr]
    dialog.back.click()
    assert session.score == before
    assert session.undo_stack.undoText() == "Go back to “before the lesson”"
    dialog.forget.click()
    assert session.document.revisions == ()
    notched.saving.save_to(tmp_path / "kept.notch")
    qtbot.waitUntil(lambda: notched.session.path == tmp_path / "kept.notch" and not notched.busy, timeout=10_000)


def test_a_solo_is_written_by_hand(program: Program, qtbot: QtBot) -> None:
    act(program, "file.by_hand")
    question()
    press("Tab")
    answer("120")
    session, tab = program.session, program.notch.tab
    QTest.keyClicks(tab, "79")
    neck = program.notch.neck
    qtbot.mouseClick(neck, Qt.MouseButton.LeftButton, pos=neck._spot(Place(2, 8)).toPoint())
    notes = session.score.notes
    assert [(n.string, n.fret) for n in notes] == [(3, 7), (3, 9), (2, 8)]
    # half a beat at 120 a minute
    assert [n.onset_s for n in notes] == pytest.approx([0.0, 0.25, 0.5])
    act(program, "step.shorter")
    assert "⅓ beat" in program.said


def test_the_tab_is_heard_beside_the_recording(notched: Program, qtbot: QtBot) -> None:
    recording = notched.player.clip
    act(notched, "source.both")
    qtbot.waitUntil(lambda: notched.player.clip is not recording, timeout=20_000)
    both = notched.player.clip
    assert both is not None
    assert both.channels == 2
    assert np.abs(both.samples[:, 1]).max() > 0.1
    act(notched, "source.recording")
    assert notched.player.clip is recording
    notched.player.set_pace(1.0)
    notched.player.speaker._speed = 10.0  # type: ignore[attr-defined]
    select_at(notched.session, 0)
    act(notched, "play.selection")
    qtbot.waitUntil(lambda: notched.player.playing, timeout=10_000)
    qtbot.waitUntil(lambda: not notched.player.playing, timeout=10_000)
    assert 0.9 < notched.player.time_s < 1.6, "only the note is played"


def sharp(tab: TabView, qtbot: QtBot) -> QImage:
    """The tab once all its tiles are drawn at this scale."""
    qtbot.waitUntil(lambda: tab.grab() is not None and tab._patient, timeout=5_000)
    return tab.grab().toImage()


def test_pick_strokes_are_drawn_when_wanted(notched: Program, qtbot: QtBot) -> None:
    tab = notched.notch.tab
    select_at(notched.session, 0)
    act(notched, "stroke.next")
    plain = sharp(tab, qtbot)
    act(notched, "view.strokes")
    assert sharp(tab, qtbot) != plain
    qtbot.waitUntil(lambda: "picked down" in notched.notch.facts.text(), timeout=5_000)
    act(notched, "view.strokes")
    assert sharp(tab, qtbot) == plain


@pytest.mark.slow
def test_tiles_show_what_a_whole_drawing_shows(program: Program, qtbot: QtBot) -> None:
    notes = tuple(Note(0.3 * i, 0.3 * i + 0.25, 1 + i % 6, i % 20, curve=bent_curve(2, 0.25)) for i in range(60))
    score = Score(notes, beat_map=BeatMap.steady(100, 0), phrases=(Phrase(0, 9, "a"),))
    program.open(Document(score), None)
    tab = program.notch.tab
    tab.show_span(2.0, 9.0)
    tiled = sharp(tab, qtbot)
    tab._tiles.drop()
    whole = sharp(tab, qtbot)
    assert tiled == whole
    program.session.edit("Move", score.with_note(score.notes[12].id, fret=3))
    edited = sharp(tab, qtbot)
    assert edited != whole
    tab._tiles.drop()
    assert sharp(tab, qtbot) == edited


def test_one_key_steps_a_note_through_what_else_was_heard(notched: Program, lick: Score, lick_clip: Clip) -> None:
    first = lick.notes[0]
    length_s = first.duration_s
    split = (
        Note(0.0, 0.4 * length_s, first.string, first.fret, id="r1"),
        Note(0.4 * length_s, length_s, first.string, first.fret + 2, Attack.HAMMER, id="r2"),
    )
    doubted = lick.with_note(lick.notes[0].id, readings=(NoteAlternative(0.3, 0.0, length_s, split),), certainty=0.7)
    session = notched.session
    session.undo_stack.setClean()
    session.open(Document(doubted, lick_clip), None)
    press("Home")
    QTest.qWait(20)
    assert "could also be: picked, then 1 note more (30%)" in notched.notch.facts.text()
    press("Shift+R")
    assert [note.attack for note in session.score.notes[:2]] == [Attack.PICK, Attack.HAMMER]
    assert len(session.score.notes) == len(lick.notes) + 1
    assert session.note is not None
    assert session.note.id == first.id
    press("Ctrl+Shift+R")
    assert session.score.notes == doubted.notes
    press("Ctrl+Z")
    assert len(session.score.notes) == len(lick.notes) + 1
    press("Right")
    press("Shift+R")
    assert "Nothing else was heard" in notched.said
