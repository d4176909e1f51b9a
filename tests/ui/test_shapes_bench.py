"""The Shapes bench and the layers over the tab, by delivered keys and clicks."""

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtGui import QImage
from PyQt6.QtPdf import QPdfDocument
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QLabel, QWidget
from pytestqt.qtbot import QtBot

from hands import all_selected_at, answer, at_rest, click, gone, press, question, selected_at
from notcher.core.formats import Document
from notcher.core.mixing.loop import LoopPassage
from notcher.core.patterns import Kind
from notcher.core.score import Attack, BeatMap, Chord, Note, Phrase, Score
from notcher.ui.shell.program import Program
from notcher.ui.state.shell import Bench

LICK = ((1, 2, 8), (1, 2, 10), (2, 3, 9), (1, 2, 8), (3, 3, 7), (2, 3, 9), (1, 4, 10))
OTHER = ((2, 4, 12), (1, 3, 12), (3, 5, 10), (1, 4, 7), (2, 2, 13), (1, 3, 14), (2, 5, 12))


def solo() -> Score:
    """A lick, something else, the lick two frets up and the lick again: a phrase each, under two chords."""
    notes, phrases, at = [], [], 0
    for number, (lick, up) in enumerate(((LICK, 0), (OTHER, 0), (LICK, 2), (LICK, 0)), start=1):
        begin = at
        for length, string, fret in lick:
            notes.append(Note(0.5 + at / 4, 0.5 + (at + 0.9 * length) / 4, string, fret + up))
            at += length
        phrases.append(Phrase(0.5 + begin / 4, 0.5 + at / 4, f"Line {number}"))
        at += 4
    chords = (Chord(0.5, "C"), Chord(0.5 + begin / 4, "F"))
    return Score(tuple(notes), beat_map=BeatMap.steady(120, 0.5), phrases=tuple(phrases), chords=chords)


@pytest.fixture
def opened(program: Program, qtbot: QtBot) -> Program:
    program.open(Document(solo()), None)
    wait_told(program, qtbot)
    return program


def wait_told(program: Program, qtbot: QtBot) -> None:
    qtbot.waitUntil(lambda: program.meaning.score is program.score, timeout=10_000)


def picture(widget: QWidget) -> np.ndarray:
    image = widget.grab().toImage().convertToFormat(QImage.Format.Format_RGB32)
    memory = image.constBits()
    assert memory is not None
    memory.setsize(image.sizeInBytes())
    return np.frombuffer(memory, dtype=np.uint8).copy()


def texts(widget: QWidget) -> str:
    return " | ".join(label.text() for label in widget.findChildren(QLabel))


def test_the_statement_stands_in_large_words(opened: Program) -> None:
    press("Ctrl+4")
    assert opened.bench is Bench.SHAPES
    assert opened.shapes.statement.text() == "Learn 14 notes, get 28."
    assert opened.shapes.statement.font().pointSizeF() > 1.5 * opened.shapes.facts.font().pointSizeF()
    assert {shape.kind for shape in opened.meaning.shapes if shape.saves} == {Kind.EXACT, Kind.ALONG_NECK}


@pytest.mark.slow
def test_keys_walk_the_playings_and_lead_to_their_notes(opened: Program) -> None:
    press("Ctrl+4")
    view = opened.shapes.view
    row = next(at for at, shape in enumerate(opened.meaning.shapes) if shape.kind is Kind.ALONG_NECK)
    press("Home")
    for _ in range(row):
        press("Down")
    press("Right")
    assert "the same, two frets up" in texts(opened.shapes)
    assert view.playing is not None
    press("Return")
    assert opened.bench is Bench.NOTCH
    assert all_selected_at(opened.session) == list(range(14, 21))
    press("Right")
    assert selected_at(opened.session) == 15, "the tab has the keys"


@pytest.mark.slow
def test_a_click_chooses_and_the_button_plays_both(opened: Program, qtbot: QtBot) -> None:
    press("Ctrl+4")
    view = opened.shapes.view
    click(opened.window, view, view.playing_center(0, 1).toPoint())
    assert (view.row, view.column) == (0, 1)
    click(opened.window, opened.shapes.both_button)
    qtbot.waitUntil(lambda: opened.player.playing, timeout=20_000)
    stream = opened.player.stream
    assert isinstance(stream, LoopPassage)
    first, again = (opened.meaning.shapes[0].occurrences[at] for at in (0, 1))
    notes = opened.meaning.score.notes
    spans_s = [notes[found.last].offset_s - notes[found.first].onset_s for found in (first, again)]
    heard_s = stream._sound.shape[0] / stream.sample_rate * opened.player.pace
    assert heard_s == pytest.approx(sum(spans_s) + 2 * (0.15 + 0.6), abs=0.1), "one after the other"
    press("Space")
    assert not opened.player.playing
    press("B")
    qtbot.waitUntil(lambda: opened.player.playing, timeout=20_000)
    press("Space")


@pytest.mark.slow
def test_a_correction_is_repeated_where_the_lick_comes_again(opened: Program, qtbot: QtBot) -> None:
    session, before = opened.session, opened.score
    press("Home")
    for _ in range(3):
        press("Right")
    QTest.qWait(20)
    assert "again in 2 other places: Ctrl+Alt+G does the same there" in texts(opened.notch)
    press("W")  # hammered
    press("1")
    press("1")
    wait_told(opened, qtbot)
    press("Ctrl+Alt+G")
    changed = session.score.notes
    assert [changed[at].attack for at in (3, 17, 24)] == [Attack.HAMMER] * 3
    assert [changed[at].fret for at in (3, 17, 24)] == [11, 13, 11], "two frets up where the lick is"
    assert [note.onset_s for note in changed] == [note.onset_s for note in before.notes]
    press("Ctrl+Z")
    assert [session.score.notes[at].fret for at in (3, 17, 24)] == [11, 10, 8], "one step"
    press("Down")
    press("Ctrl+Alt+G")
    assert "of no lick that comes again" in opened.said


@pytest.mark.slow
@pytest.mark.parametrize("keys", ["Ctrl+Alt+D", "Ctrl+Alt+L"])
def test_layers_are_switched_over_the_tab(opened: Program, qtbot: QtBot, keys: str) -> None:
    tab = opened.notch.tab
    qtbot.waitUntil(lambda: not opened.busy, timeout=10_000)
    at_rest(tab)  # all of it is drawn sharply
    plain = picture(tab)
    press(keys)
    told = picture(tab)
    assert np.count_nonzero(told != plain) > 200
    press(keys)
    qtbot.waitUntil(lambda: np.array_equal(picture(tab), plain), timeout=5_000)


@pytest.mark.slow
def test_like_phrases_carry_the_same_mark_in_the_reel(opened: Program) -> None:
    ids = [phrase.id for phrase in opened.score.phrases]
    marks = opened.reel.strip._marks
    assert [marks.get(phrase_id, "") for phrase_id in ids] == ["A", "", "A", "A"]
    marked = picture(opened.reel.strip)
    opened.reel.strip.show_marks({})
    assert not np.array_equal(picture(opened.reel.strip), marked)


@pytest.mark.slow
def test_it_follows_the_edits_and_says_when_there_is_nothing(opened: Program, qtbot: QtBot) -> None:
    press("End")
    press("Ctrl+A")
    press("Del")
    wait_told(opened, qtbot)
    press("Ctrl+4")
    assert opened.shapes.statement.text() == "Learn 14 notes, get 21."
    opened.session.undo_stack.setClean()
    opened.open(Document(replace(solo(), notes=solo().notes[:7], phrases=())), None)
    wait_told(opened, qtbot)
    press("Ctrl+4")
    assert opened.shapes.statement.text() == "7 notes, and nothing comes again."
    press("Return")
    assert "No shape is chosen" in opened.said
    opened.open(Document(Score()), None)
    assert opened.shapes.statement.text() == "There are no notes yet."


@pytest.mark.slow
def test_the_shapes_are_written_as_pages(opened: Program, qtbot: QtBot, tmp_path: Path) -> None:
    path = tmp_path / "shapes.pdf"
    press("Ctrl+Space")
    finder = question()
    QTest.keyClicks(QApplication.focusWidget(), "shapes as a pdf")
    press("Return")
    gone(finder)
    answer(str(path))
    qtbot.waitUntil(path.exists, timeout=10_000)
    assert "“shapes.pdf”" in opened.said
    read = QPdfDocument(None)
    assert read.load(str(path)) is QPdfDocument.Error.None_
    assert read.pageCount() == 1
    size = read.pagePointSize(0)
    assert (round(size.width()), round(size.height())) == (842, 595), "A4 on its side (ISO 216)"
    read.close()


@pytest.mark.slow
def test_sections_are_proposed_over_the_phrases(opened: Program, qtbot: QtBot) -> None:
    press("Ctrl+Alt+S")
    sections = opened.score.sections
    assert sections
    assert sections[0].start_s == pytest.approx(0.5)
    assert f"{len(sections)} section" in opened.said
    press("Ctrl+Z")
    assert opened.score.sections == ()
    wait_told(opened, qtbot)
    press("Ctrl+Y")
    assert opened.score.sections == sections
