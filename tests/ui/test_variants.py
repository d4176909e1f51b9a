"""Variants in the Notch bench, by delivered keys: eased and moved with what changes shown first, switched, heard, put
back; and the recording under a tab."""

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtGui import QImage
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QWidget
from pytestqt.qtbot import QtBot

from hands import answer, at_rest, gone, press, question, selected_at
from notcher.core.formats import Document, read_document
from notcher.core.score import BeatMap, Chord, Note, Phrase, Score, bent_curve, retimed
from notcher.core.sound import Clip, write_clip
from notcher.core.synthesis import render
from notcher.ui.benches.notch.variant_dialog import VariantDialog
from notcher.ui.shell.program import Program
from notcher.ui.state.shell import Bench


def solo() -> Score:
    """Two phrases: a wide bend and garnish in the first, a plain lick in the second, over two chords."""
    first = [
        Note(0.5, 0.95, 3, 12),
        Note(1.0, 1.9, 2, 12, curve=bent_curve(4, 0.9)),
        Note(2.0, 2.2, 1, 12, garnish=True),
        Note(2.5, 2.95, 2, 15),
    ]
    second = [Note(4.5 + 0.5 * at, 4.9 + 0.5 * at, *place) for at, place in enumerate([(2, 5), (2, 8), (1, 5), (1, 8)])]
    return Score(
        (*first, *second),
        beat_map=BeatMap.steady(120, 0.5),
        phrases=(Phrase(0.4, 3.1, "Hail"), Phrase(4.4, 6.6, "Reply")),
        chords=(Chord(0.0, "Am"), Chord(4.4, "Dm")),
        title="Lamp oil",
    )


@pytest.fixture
def opened(program: Program) -> Program:
    program.open(Document(solo()), None)
    return program


def dialog() -> VariantDialog:
    asked = question()
    assert isinstance(asked, VariantDialog)
    return asked


def said(program: Program) -> str:
    return program.said


def frets(program: Program, phrase: int = 0) -> list[tuple[int, int]]:
    score = program.score
    return [(score.notes[at].string, score.notes[at].fret) for at in score.notes_of(score.phrases[phrase])]


def picture(widget: QWidget) -> np.ndarray:
    image = widget.grab().toImage().convertToFormat(QImage.Format.Format_RGB32)
    memory = image.constBits()
    assert memory is not None
    memory.setsize(image.sizeInBytes())
    return np.frombuffer(memory, dtype=np.uint8).copy()


def rows(asked: VariantDialog) -> list[str]:
    return [asked.list.item(at).text() for at in range(asked.list.count())]


def walk_into(asked: VariantDialog, wanted: QWidget) -> None:
    for _ in range(20):
        if QApplication.focusWidget() is wanted:
            return
        press("Tab")
    raise AssertionError("Tab does not lead there")


def make(asked: VariantDialog) -> None:
    press("Alt+M")
    gone(asked)


# --- easing ---
def test_easing_shows_its_changes_before_they_are_made(opened: Program) -> None:
    before = opened.document
    press("Ctrl+Shift+E")
    asked = dialog()
    assert rows(asked) == [
        "string 2, fret 16 instead of the bend of 2 steps",
        "string 1, fret 12 left out: it only adorns",
    ]
    press("Esc")
    gone(asked)
    assert opened.document is before, "given up, nothing is another"


@pytest.mark.slow
def test_an_easier_variant_is_one_step_beside_the_original(opened: Program) -> None:
    whole = opened.document.score
    press("Ctrl+Shift+E")
    make(dialog())
    assert frets(opened) == [(3, 12), (2, 16), (2, 15)]
    assert [note.fret for note in opened.document.score.notes][:4] == [12, 12, 12, 15], "the original stays"
    assert "a little easier" in said(opened)
    press("\\")
    assert frets(opened) == [(3, 12), (2, 12), (1, 12), (2, 15)]
    press("\\")
    assert frets(opened)[1] == (2, 16)
    press("Ctrl+Z")
    assert opened.document.score == whole
    assert opened.session.variant is None
    press("Ctrl+Shift+Z")
    assert len(opened.document.score.variants) == 1


def test_each_change_can_be_refused_by_the_space_bar(opened: Program) -> None:
    press("Ctrl+Shift+E")
    asked = dialog()
    walk_into(asked, asked.list)
    press("Home")
    press("Space")
    assert "1 refused" in asked.said.text()
    assert len(rows(asked)) == 2, "what is refused stays in the list"
    press("Down")
    press("Space")
    press("Space")
    assert "1 refused" in asked.said.text(), "and is taken again by the same key"
    make(asked)
    assert frets(opened) == [(3, 12), (2, 12), (2, 15)], "the bend stays, the garnish goes"
    assert opened.score.notes[1].bent


def test_the_level_is_chosen_by_keys(opened: Program) -> None:
    press("Ctrl+Shift+E")
    asked = dialog()
    walk_into(asked, asked.way)
    press("Down")
    press("Down")
    assert asked.way.currentText() == "As easy as it gets"
    make(asked)
    assert opened.session.variant is not None
    assert opened.session.variant.name == "as easy as it gets"


@pytest.mark.slow
def test_what_differs_is_marked_and_said(opened: Program, qtbot: QtBot) -> None:
    press("Right")
    QTest.qWait(30)
    plain = picture(opened.notch.tab)
    press("Ctrl+Shift+E")
    make(dialog())
    at_rest(opened.notch.tab)
    assert not np.array_equal(picture(opened.notch.tab), plain)
    qtbot.waitUntil(lambda: "here otherwise" in opened.notch.facts.text(), timeout=2_000)
    assert "string 2, fret 16 not bent, was string 2, fret 12 bent 2 steps" in opened.notch.facts.text()


@pytest.mark.slow
def test_a_variant_is_edited_by_the_same_keys_and_put_back_note_by_note(opened: Program) -> None:
    press("Right")
    press("Ctrl+Shift+E")
    make(dialog())
    assert selected_at(opened.session) == 1
    press("1")
    press("7")
    assert frets(opened)[1] == (2, 17)
    assert opened.document.score.notes[1].fret == 12, "the original is not touched"
    press("Ctrl+Backspace")
    assert frets(opened) == [(3, 12), (2, 12), (1, 12), (2, 15)], "with what was left out behind it"
    assert opened.score.notes[1].bent
    press("Ctrl+Z")
    assert frets(opened)[1] == (2, 17)
    press("\\")
    assert opened.document.score.notes[1].fret == 12


@pytest.mark.slow
def test_both_are_heard_one_after_the_other(opened: Program, qtbot: QtBot) -> None:
    press("Ctrl+Shift+E")
    make(dialog())
    press("Ctrl+\\")
    qtbot.waitUntil(lambda: opened.player.playing, timeout=10_000)
    assert opened.player._piece is not None
    clip = opened.player._piece[0]
    # two phrases of 2.75 s from their lead-in to the last note's end, and the string's ringing; two breaths of 0.6 s
    assert clip.duration_s > 2 * 2.5 + 1.2


@pytest.mark.slow
def test_hearing_before_it_is_made(opened: Program, qtbot: QtBot) -> None:
    press("Ctrl+Shift+E")
    asked = dialog()
    press("Alt+T")
    qtbot.waitUntil(lambda: opened.player.playing, timeout=10_000)
    press("Esc")
    gone(asked)


@pytest.mark.slow
def test_the_original_is_what_is_proved(opened: Program) -> None:
    press("Ctrl+Shift+E")
    make(dialog())
    assert opened.session.variant is not None
    press("Ctrl+3")
    assert opened.bench is Bench.PROVE
    assert opened.session.variant is None


@pytest.mark.slow
def test_variants_are_saved_and_named_and_thrown_away(opened: Program, qtbot: QtBot, tmp_path: Path) -> None:
    press("Ctrl+Shift+E")
    make(dialog())
    opened.run("variant.name")
    answer("For small hands")
    assert opened.session.variant is not None
    path = tmp_path / "lamp.notch"
    press("Ctrl+S")
    answer(str(path))
    qtbot.waitUntil(lambda: path.exists() and not opened.busy, timeout=10_000)
    back = read_document(path)
    assert [variant.name for variant in back.score.variants] == ["For small hands"]
    assert back.score == opened.document.score
    opened.run("variant.delete")
    assert opened.document.score.variants == ()
    press("Ctrl+Z")
    assert len(opened.document.score.variants) == 1


def test_without_a_variant_a_sentence_says_how_to_make_one(opened: Program) -> None:
    press("\\")
    assert "no variant yet" in said(opened)
    press("Ctrl+Backspace")
    assert "No variant is in view" in said(opened)


# --- moving ---
def move(way: int, typed: str) -> VariantDialog:
    press("Ctrl+Shift+M")
    asked = dialog()
    walk_into(asked, asked.way)
    press("Home")
    for _ in range(way):
        press("Down")
    walk_into(asked, asked.answer)
    press("Ctrl+A")
    QTest.keyClicks(asked.answer, typed)
    return asked


def test_a_lick_goes_to_another_key_as_the_same_shape(opened: Program) -> None:
    """From A minor to C minor is three half steps: plain arithmetic."""
    press("Down")
    asked = move(0, "C minor")
    assert rows(asked) == ["the same shape, three frets up"]
    make(asked)
    assert frets(opened, 1) == [(2, 8), (2, 11), (1, 8), (1, 11)]


@pytest.mark.slow
@pytest.mark.parametrize(("way", "typed", "moved"), [(1, "-3", -3), (2, "Dm to G", 5), (2, "Dm to IV", 5)])
def test_by_half_steps_and_from_over_one_chord_to_over_another(
    opened: Program, way: int, typed: str, moved: int
) -> None:
    press("Down")
    make(move(way, typed))
    midi = {
        round(opened.score.fretted_midi(note)) - round(opened.document.score.fretted_midi(original))
        for note, original in zip(opened.session.variant.notes, opened.document.score.notes[4:], strict=True)
    }
    assert midi <= {moved, moved - 12, moved + 12} or way == 2
    roots = {step % 12 for step in midi}
    assert moved % 12 in roots


def test_into_another_tuning_with_the_same_sound(opened: Program) -> None:
    press("Down")
    sounding = [round(opened.score.fretted_midi(note)) for note in opened.score.notes[4:]]
    make(move(3, "whole-down"))
    assert opened.score.tuning.open_midi != opened.document.score.tuning.open_midi
    assert [round(opened.score.fretted_midi(note)) for note in opened.score.notes] == sounding


@pytest.mark.slow
@pytest.mark.parametrize(("way", "typed", "says"), [
    (0, "X minor", ""), (1, "many", "half steps"), (2, "Dm to Q", "no chord"), (3, "banjo", ""),
])  # fmt: skip
def test_what_is_nowhere_is_said_and_cannot_be_made(opened: Program, way: int, typed: str, says: str) -> None:
    press("Down")
    asked = move(way, typed)
    assert not asked.make.isEnabled()
    assert says in asked.said.text()
    assert asked.said.text()
    press("Esc")
    gone(asked)
    assert opened.document.score.variants == ()


# --- the recording under a tab ---
def tune() -> Score:
    places = [(2, 8), (2, 10), (1, 8), (1, 10), (1, 12), (1, 10), (2, 10), (2, 8), (3, 9), (3, 7), (4, 10), (3, 7)]
    notes, at_s = [], 0.6
    for number, place in enumerate(places):
        length_s = 0.5 if number % 3 == 0 else 0.25
        notes.append(Note(at_s, at_s + 0.92 * length_s, *place))
        at_s += length_s
    phrase = Phrase(0.5, at_s, "Tune")
    return Score(tuple(notes), beat_map=BeatMap.steady(120, 0.6), phrases=(phrase,), title="Tune")


@pytest.fixture(scope="module")
def recording(tmp_path_factory: pytest.TempPathFactory) -> Path:
    path = tmp_path_factory.mktemp("tune") / "tune.wav"
    write_clip(render(tune()), path, kind="WAV")
    return path


def laid(program: Program, qtbot: QtBot, path: Path) -> None:
    press("Ctrl+Alt+R")
    answer(str(path))
    qtbot.waitUntil(lambda: program.document.clip is not None and not program.busy, timeout=60_000)


@pytest.mark.slow
def test_a_tab_by_hand_is_laid_over_its_recording_and_proved(program: Program, qtbot: QtBot, recording: Path) -> None:
    by_hand = [retimed(note, 0.3 * at, 0.3 * at + 0.25) for at, note in enumerate(tune().notes)]
    score = replace(tune(), notes=tuple(by_hand), phrases=(Phrase(0.0, 4.0, "Tune"),))
    program.open(Document(score), None)
    ids = [note.id for note in program.score.notes]
    laid(program, qtbot, recording)
    now = program.score
    assert [note.id for note in now.notes] == ids
    apart = [abs(a.onset_s - b.onset_s) for a, b in zip(now.notes, tune().notes, strict=True)]
    assert np.mean(np.array(apart) < 0.05) > 0.9
    assert "12 of 12 notes found" in said(program)
    assert program.session.measured.tracks[0].times_s.size > 100, "the evidence lies under it"
    press("Ctrl+Z")
    assert program.document.clip is None
    assert program.document.score == score
    press("Ctrl+Shift+Z")
    assert program.document.clip is not None
    press("Ctrl+3")
    qtbot.waitUntil(lambda: bool(program.prove.summary.text()) and not program.busy, timeout=20_000)


@pytest.mark.slow
def test_a_students_text_tab_is_opened_and_laid_over_the_recording(
    program: Program, qtbot: QtBot, recording: Path, tmp_path: Path
) -> None:
    """Written as students write it: no times, letters of their own, and a sign nobody knows."""
    path = tmp_path / "from a student.txt"
    path.write_text(
        "Tune\n\n"
        "e|-----8-10-12-10-----------------|\nB|-8-10------------10-8-----------|\n"
        "G|---------------------9-7----7---|\nD|-------------------------10-----|\n"
        "A|--------------------------------|\nE|------------------------------?-|\n"
    )
    press("Ctrl+O")
    answer(str(path))
    qtbot.waitUntil(lambda: len(program.score.notes) == 12, timeout=10_000)
    assert "line 8, column 33: the sign '?'" in said(program)
    laid(program, qtbot, recording)
    apart = [abs(a.onset_s - b.onset_s) for a, b in zip(program.score.notes, tune().notes, strict=True)]
    assert np.mean(np.array(apart) < 0.05) > 0.9
    assert program.score.beat_map.known


@pytest.mark.slow
def test_another_transfer_takes_the_recordings_place(
    program: Program, qtbot: QtBot, recording: Path, tmp_path: Path
) -> None:
    """A second later and 3 % slower: every time is moved by one straight line."""
    program.open(Document(tune(), render(tune())), None)
    late = replace(tune(), notes=()).with_notes(
        retimed(note, 1 + 1.03 * note.onset_s, 1 + 1.03 * note.offset_s) for note in tune().notes
    )
    path = tmp_path / "second transfer.wav"
    write_clip(render(late), path, kind="WAV")
    press("Ctrl+Alt+R")
    answer(str(path))
    qtbot.waitUntil(lambda: program.document.clip.name == path.name and not program.busy, timeout=60_000)
    apart = [abs(a.onset_s - b.onset_s) for a, b in zip(program.score.notes, late.notes, strict=True)]
    assert max(apart) < 0.03
    assert program.score.beat_map.tempo_at(3.0) == pytest.approx(120 / 1.03, rel=0.01)
    assert program.player.clip is program.document.clip, "it is what is played"


@pytest.mark.slow
def test_a_recording_of_other_music_is_refused_and_nothing_is_lost(
    program: Program, qtbot: QtBot, tmp_path: Path
) -> None:
    dice = np.random.default_rng(4)
    other = tuple(Note(0.4 * at + 0.3, 0.4 * at + 0.6, 6, int(dice.integers(0, 6))) for at in range(14))
    path = tmp_path / "other.wav"
    write_clip(render(Score(other)), path, kind="WAV")
    program.open(Document(tune()), None)
    before = program.document
    press("Ctrl+Alt+R")
    answer(str(path))
    qtbot.waitUntil(lambda: "nothing in common" in said(program), timeout=60_000)
    assert program.document is before


def test_the_recording_is_taken_away_and_comes_back(program: Program) -> None:
    clip = render(tune())
    program.open(Document(tune(), clip), None)
    program.run("file.no_recording")
    assert program.document.clip is None
    assert program.document.score == tune()
    assert program.player.clip is None
    press("Ctrl+Z")
    assert program.document.clip is clip
    assert program.player.clip is clip


@pytest.mark.slow
def test_a_killed_window_gives_the_recording_back_that_was_laid_under(
    program: Program, qtbot: QtBot, recording: Path, tmp_path: Path
) -> None:
    path = tmp_path / "saved.notch"
    quiet = Clip(np.zeros((44_100 * 5, 1), dtype=np.float32), 44_100, "before.wav")
    program.open(Document(tune(), quiet), None)
    press("Ctrl+S")
    answer(str(path))
    qtbot.waitUntil(lambda: path.exists() and not program.session.unsaved, timeout=10_000)
    program.recordings.attach(str(recording))
    qtbot.waitUntil(lambda: program.document.clip.name == "tune.wav", timeout=60_000)
    kept = program.autosave.store.folder
    qtbot.waitUntil(lambda: (kept / "recording.flac").exists() and not program.busy, timeout=20_000)
    QTest.qWait(800)
    # a killed program's lock goes with it; here its folder is looked at from outside
    from notcher.core.formats.document.changes import parts_of
    from notcher.core.formats.files.journal import Journal

    parts = parts_of(Journal(kept / "journal.jsonl").lines()) if (kept / "journal.jsonl").exists() else None
    if parts is None:
        journal = next(file for file in kept.iterdir() if "journal" in file.name)
        parts = parts_of(Journal(journal).lines())
    assert parts["score.json"]["recording"]["file"] == "tune.wav"
