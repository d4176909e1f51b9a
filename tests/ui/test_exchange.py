"""To and from other programs: files and tabs dropped anywhere, a tab out of a mail, a phrase for a mail or a chat."""

from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PyQt6.QtGui import QDragEnterEvent, QDropEvent, QGuiApplication
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QWidget

from hands import choose, press, settled
from notcher.core.formats import Document, write_document
from notcher.core.formats.texttab.reading import read_text_tab
from notcher.core.score import Score
from notcher.ui.shell.program import Program

MAIL = """Hi, this is the lick from last Monday:

e|--------------------|
B|--------12--15-12---|
G|--12-14-------------|
D|--------------------|
A|--------------------|
E|--------------------|

See you on Friday
"""
PLACES = [(3, 12), (3, 14), (2, 12), (2, 15), (2, 12)]


def copied(text: str) -> None:
    board = QGuiApplication.clipboard()
    assert board is not None
    board.setText(text)


def drop(over: QWidget, data: QMimeData) -> None:
    """Drop something over a widget: the nearest one that takes drops gets it, as Qt's windows have it."""
    target: QWidget | None = over
    while target is not None and not (target.acceptDrops() and target.isEnabled()):
        target = target.parentWidget()
    assert target is not None
    actions, button = Qt.DropAction.CopyAction, Qt.MouseButton.LeftButton
    none = Qt.KeyboardModifier.NoModifier
    entered = QDragEnterEvent(QPoint(3, 3), actions, data, button, none)
    QApplication.sendEvent(target, entered)
    assert entered.isAccepted()
    QApplication.sendEvent(target, QDropEvent(QPointF(3, 3), actions, data, button, none))


@pytest.mark.parametrize("where", ["tab", "words", "tempo", "source", "steps"])
@pytest.mark.parametrize("what", ["document", "text tab", "text"])
def test_what_is_dropped_anywhere_is_opened(
    opened: Program, lick: Score, tmp_path: Path, where: str, what: str
) -> None:
    data = QMimeData()
    if what == "text":
        data.setText(MAIL)
    else:
        path = tmp_path / ("other.notch" if what == "document" else "other.txt")
        if what == "document":
            write_document(Document(lick.with_note(lick.notes[0].id, fret=5)), path)
        else:
            path.write_text(MAIL)
        data.setUrls([QUrl.fromLocalFile(str(path))])
    spots = {
        "tab": opened.notch.tab, "words": opened.notch.words, "tempo": opened.hear.tempo_box,
        "source": opened.reel.source_box, "steps": opened.teach.plan.steps.viewport(),
    }  # fmt: skip
    spot = spots[where]
    assert spot is not None
    drop(spot, data)
    settled(opened)
    found = [(note.string, note.fret) for note in opened.score.notes]
    assert found[0] == (3, 5) if what == "document" else found == PLACES
    assert not opened.notch.words.text().startswith("file:")


def test_a_recording_is_dropped_on_the_start_page(program: Program, lick_file: Path) -> None:
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(lick_file))])
    drop(program.window.ways_in.buttons["file.demo"], data)
    settled(program)
    assert len(program.score.notes) >= 5


def test_a_tab_out_of_a_mail_is_pasted_on_the_start_page(program: Program) -> None:
    copied(MAIL)
    press("Ctrl+V")
    settled(program)
    assert [(note.string, note.fret) for note in program.score.notes] == PLACES
    assert "5 notes read" in program.said


def test_a_tab_out_of_a_mail_goes_in_at_the_playhead(opened: Program, lick: Score) -> None:
    press("Ctrl+2")
    press("End")
    press("Ctrl+C")
    opened.player.seek(5.4)
    copied(MAIL)
    press("Ctrl+V")
    settled(opened)
    new = opened.score.notes[len(lick.notes) :]
    assert [(note.string, note.fret) for note in new] == PLACES
    assert new[0].onset_s == pytest.approx(5.4, abs=0.02)
    press("Ctrl+Z")
    assert opened.score == lick
    copied("no tab at all")
    press("Ctrl+V")
    settled(opened)
    assert len(opened.score.notes) == len(lick.notes) + 5, "what was pasted last, once more"


def test_without_a_copied_tab_it_is_said_what_to_do(program: Program) -> None:
    copied("Dear all, see you on Friday")
    press("Ctrl+Shift+O")
    assert "copy its lines in the mail or page first" in program.said


def test_unsaved_work_is_asked_about_before_a_copied_tab_replaces_it(opened: Program) -> None:
    press("Ctrl+2")
    press("9")
    settled(opened)
    copied(MAIL)
    press("Ctrl+Shift+O")
    choose("Give them up")
    settled(opened)
    assert [(note.string, note.fret) for note in opened.score.notes] == PLACES


def test_a_phrase_is_copied_as_text_and_comes_back(opened: Program, lick: Score) -> None:
    press("Ctrl+2")
    press("Home")
    press("Alt+Shift+C")
    board = QGuiApplication.clipboard()
    assert board is not None
    back = read_text_tab(board.text()).score
    first = lick.notes[:4]
    assert [(note.string, note.fret) for note in back.notes] == [(note.string, note.fret) for note in first]
    assert "Ask" in board.text()
    assert "paste it into a mail or a chat" in opened.said


def test_a_phrase_is_copied_as_a_picture(opened: Program) -> None:
    press("Ctrl+2")
    press("Home")
    press("Alt+Shift+P")
    board = QGuiApplication.clipboard()
    assert board is not None
    image = board.image()
    assert image.width() >= 400
    assert image.height() >= 200
    bits = image.constBits()
    assert bits is not None
    bits.setsize(image.sizeInBytes())
    pixels = np.frombuffer(bits, dtype=np.uint8).reshape(image.height(), -1)
    assert len(np.unique(pixels)) > 20, "something is drawn"
    rows = np.flatnonzero(np.ptp(pixels.astype(int), axis=1))
    assert rows.size > 0.6 * image.height(), "over most of its height"
    QTest.qWait(1)
