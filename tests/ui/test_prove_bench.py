"""The Prove bench by its buttons and keys: find, hear, correct, excuse, check; and nothing is forgotten."""

import re
from pathlib import Path

import librosa
import numpy as np
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from pytestqt.qtbot import QtBot

from hands import act, press, select_at, selected_at
from notcher.core.formats import Document, read_document, write_document
from notcher.core.score import Note, Score, bent_curve, midi_to_hz
from notcher.core.sound import Clip
from notcher.ui.playback.sources import PlaybackSource
from notcher.ui.shell.program import Program
from notcher.ui.state.shell import Bench


def wait_for_proof(program: Program, qtbot: QtBot) -> None:
    qtbot.waitUntil(
        lambda: program.prove._score is program.score and not program.busy and not program.prove._wait.isActive(),
        timeout=20_000,
    )


@pytest.fixture
def wrong(lick: Score) -> Score:
    """The lick with a wrong fret, a bend that is a half step too large, a note nobody plays and one left out."""
    notes = list(lick.notes)
    notes[0] = Note(0.5, 0.95, 3, 13)
    notes[1] = Note(1.0, 1.9, 3, 14, curve=bent_curve(3, 0.9, released=True))
    notes[4] = Note(2.95, 3.2, 5, 3)
    return lick.with_notes(notes)


@pytest.fixture
def proving(program: Program, qtbot: QtBot, wrong: Score, lick_clip: Clip, tmp_path: Path) -> Program:
    path = tmp_path / "wrong.notch"
    write_document(Document(wrong, lick_clip), path)
    program.open_path(str(path))
    qtbot.waitUntil(lambda: program.score == wrong and not program.busy, timeout=10_000)
    act(program, "bench.prove")
    assert program.bench == Bench.PROVE
    # a document from a file has to be heard first, and its tab stays as it is
    assert program.prove.analyse_button.isVisibleTo(program.window)
    qtbot.mouseClick(program.prove.analyse_button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: program.session.heard is not None and not program.busy, timeout=20_000)
    wait_for_proof(program, qtbot)
    assert program.score == wrong
    return program


def rows(program: Program) -> list[str]:
    model = program.prove.model
    return [
        " | ".join(str(model.data(model.index(row, column))) for column in range(5)) for row in range(model.rowCount())
    ]


def choose(program: Program, words: str) -> None:
    found = next(number for number, text in enumerate(rows(program)) if words in text)
    program.prove.list.selectRow(found)


@pytest.mark.slow
def test_the_list_is_worst_first_and_names_what_is_wrong(proving: Program) -> None:
    found = rows(proving)
    assert len(found) == 4
    assert any("string 3, fret 13" in row and "like fret 12" in row for row in found)
    assert any("short of the step and a half: like fret 16" in row for row in found)
    assert any("string 5, fret 3 | was not heard" in row for row in found)
    assert any("not written | E4 was played but is not in the tab" in row for row in found)
    priority = [row.priority for row in proving.prove.model.rows]
    assert priority == sorted(priority, reverse=True)
    assert proving.prove.summary.text() == "0 of 2 phrases checked, 4 findings open"
    names = [proving.prove.phrase_box.itemText(at) for at in range(proving.prove.phrase_box.count())]
    assert names == ["all phrases", "Ask: 2 open", "Reply: 1 open"]


@pytest.mark.slow
def test_every_finding_can_be_corrected_and_undone(proving: Program, qtbot: QtBot, wrong: Score, lick: Score) -> None:
    session = proving.session
    for words, name in (
        ("fret 13", "Write the fret heard"),
        ("step and a half", "Write the bend heard"),
        ("was not heard", "Take it out"),
        ("not in the tab", "Write it in"),
    ):
        choose(proving, words)
        assert proving.prove.correct_button.text() == name
        qtbot.mouseClick(proving.prove.correct_button, Qt.MouseButton.LeftButton)
        wait_for_proof(proving, qtbot)
        assert not any(words in row for row in rows(proving))
    now = session.score
    assert [now.fretted_midi(note) for note in now.notes] == [lick.fretted_midi(note) for note in lick.notes]
    assert session.score.notes[1].reading.bend_semitones == pytest.approx(2, abs=0.15)
    assert proving.prove.summary.text() == "2 of 2 phrases checked, 0 findings open"
    assert "Nothing is left open" in proving.prove.verdict.text()
    for _ in range(4):
        session.undo_stack.undo()
    assert session.score == wrong


@pytest.mark.slow
def test_slips_and_checks_settle_are_saved_and_lapse_with_the_claim(
    proving: Program, qtbot: QtBot, tmp_path: Path
) -> None:
    session, view = proving.session, proving.prove.list
    choose(proving, "step and a half")
    assert selected_at(session) == 1, "the chosen row is the selected note"
    QTest.keyClick(view, Qt.Key.Key_P)
    wait_for_proof(proving, qtbot)
    choose(proving, "fret 13")
    QTest.keyClick(view, Qt.Key.Key_K)
    wait_for_proof(proving, qtbot)
    choose(proving, "not in the tab")
    assert not proving.prove.slip_button.isEnabled()
    qtbot.mouseClick(proving.prove.checked_button, Qt.MouseButton.LeftButton)
    wait_for_proof(proving, qtbot)
    assert session.score.notes[1].slip
    assert session.score.notes[0].checked
    assert len(session.score.excluded) == 1
    assert proving.prove.summary.text() == "2 of 2 phrases checked, 1 finding open"  # the one between the phrases
    proving.saving.save_to(tmp_path / "kept.notch")
    qtbot.waitUntil(lambda: proving.session.path == tmp_path / "kept.notch" and not proving.busy, timeout=10_000)
    assert read_document(tmp_path / "kept.notch").score == session.score
    proving.prove.all_box.setChecked(True)
    states = {row.split(" | ")[1]: row.split(" | ")[4] for row in rows(proving)}
    assert states["not written"] == "not the solo's"
    assert states["string 3, fret 14"] == "slip"
    assert states["string 3, fret 13"] == "checked"
    # another fret is another claim: what was checked no longer is
    select_at(session, 0)
    proving.notch.editor.type_fret(11)
    wait_for_proof(proving, qtbot)
    assert not session.score.notes[0].checked
    assert any("fret 11" in row and row.endswith("open") for row in rows(proving))


@pytest.mark.slow
def test_proving_in_the_background_leaves_the_selection_alone(proving: Program, qtbot: QtBot) -> None:
    """While someone corrects on the Notch bench, the list of doubts may change, the chosen note may not."""
    proving.show(Bench.NOTCH)
    for index in (3, 5, 2):
        select_at(proving.session, index)
        proving.run("note.garnish")
        wait_for_proof(proving, qtbot)
        assert selected_at(proving.session) == index
    proving.show(Bench.PROVE)
    choose(proving, "fret 13")
    assert selected_at(proving.session) == proving.prove.row.finding.index, "here the row decides"


@pytest.mark.slow
@pytest.mark.outside(
    what="what is heard on either side of a finding",
    source="librosa (B. McFee et al., SciPy 2015): yin",
    tolerance="1 %",
    why="17 cents: a semitone apart is told",
    kind="library",
)
def test_a_row_is_heard_as_recorded_as_written_and_side_by_side(proving: Program, qtbot: QtBot) -> None:
    """The claim is fret 13, the recording has 12; librosa's YIN says which of them is on which side."""
    player = proving.player
    choose(proving, "fret 13")
    claimed, true = midi_to_hz(55 + 13), midi_to_hz(55 + 12)

    def heard(voice: PlaybackSource) -> list[float]:
        qtbot.mouseClick(proving.prove.play_buttons[voice], Qt.MouseButton.LeftButton)
        qtbot.waitUntil(lambda: player.playing and player.stream.start_s == pytest.approx(0.38), timeout=10_000)
        sound = player.stream.read(0, 44_100)
        player.stop()
        start = round(44_100 * 0.3)  # at half pace
        return [
            float(np.median(librosa.yin(sound[start : start + 22_050, side].copy(), fmin=300, fmax=500, sr=44_100)))
            for side in (0, 1)
        ]

    player.set_pace(0.5)
    assert heard(PlaybackSource.RECORDING) == pytest.approx([true, true], rel=0.01)
    assert heard(PlaybackSource.TAB) == pytest.approx([claimed, claimed], rel=0.01)
    assert heard(PlaybackSource.BOTH) == pytest.approx([true, claimed], rel=0.01)
    assert player.pace == 0.5
    QTest.keyClick(proving.prove.list, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: player.playing, timeout=10_000)
    player.stop()


@pytest.mark.slow
def test_phrases_narrow_the_list_and_the_curves_are_drawn(proving: Program, qtbot: QtBot) -> None:
    proving.prove.phrase_box.setCurrentIndex(2)
    proving.prove.phrase_box.activated.emit(2)
    assert len(rows(proving)) == 1
    proving.prove.phrase_box.setCurrentIndex(0)
    proving.prove.phrase_box.activated.emit(0)
    choose(proving, "step and a half")
    assert re.search(r"top 300 → (19|20)\d", proving.prove.facts.text())
    image = proving.prove.ruler.grab().toImage()
    colours = {image.pixelColor(x, y).name() for x in range(image.width()) for y in range(0, image.height(), 2)}
    assert len(colours) > 20


def test_without_a_recording_it_says_so(program: Program, qtbot: QtBot, lick: Score, tmp_path: Path) -> None:
    path = tmp_path / "bare.notch"
    write_document(Document(lick), path)
    program.open_path(str(path))
    qtbot.waitUntil(lambda: program.score == lick and not program.prove._wait.isActive(), timeout=10_000)
    press("Ctrl+3")
    assert program.prove.verdict.text() == "There is no recording to hold the tab against."
    assert not program.prove.analyse_button.isVisibleTo(program.window)
    program.prove.play(PlaybackSource.BOTH)
    QTest.keyClick(program.prove.list, Qt.Key.Key_K)
    assert program.score == lick


@pytest.mark.slow
def test_what_is_not_the_solos_is_listed_and_written_in_after_all_by_a_key(proving: Program, qtbot: QtBot) -> None:
    session = proving.session
    choose(proving, "not in the tab")
    QTest.keyClick(proving.prove.list, Qt.Key.Key_K)
    wait_for_proof(proving, qtbot)
    aside = session.score.excluded[0]
    proving.prove.all_box.setChecked(True)
    choose(proving, "is not the solo's")
    assert proving.prove.correct_button.text() == "Write it in"
    count = len(session.score.notes)
    QTest.keyClick(proving.prove.list, Qt.Key.Key_C)
    wait_for_proof(proving, qtbot)
    assert len(session.score.notes) == count + 1
    assert session.score.excluded == ()
    written = next(note for note in session.score.notes if abs(note.onset_s - aside.onset_s) < 0.01)
    assert session.score.fretted_midi(written) == pytest.approx(aside.midi, abs=0.5)
