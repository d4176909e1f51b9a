"""The Sheets bench by delivered keys and clicks: pages live, in each student's choices, written and printed."""

import zipfile
from dataclasses import replace
from pathlib import Path

import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtPdf import QPdfDocument
from PyQt6.QtPrintSupport import QPrintDialog
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QComboBox
from pytestqt.qtbot import QtBot

from hands import answer, click, gone, press, question, settled, walk_to
from notcher.core.formats import Document, write_document
from notcher.core.score import BeatMap, Note, Phrase, Score
from notcher.core.sheets import Page, Words, page_items
from notcher.ui.shell.program import Program
from notcher.ui.state.shell import Bench


def solo(bars: int = 24) -> Score:
    """Quarters in phrases of two bars."""
    notes = tuple(
        Note(2.0 * bar + 0.5 * at, 2.0 * bar + 0.5 * at + 0.48, 1 + (bar + at) % 5, 5 + (3 * bar + 2 * at) % 9)
        for bar in range(bars)
        for at in range(4)
    )
    phrases = tuple(Phrase(4.0 * at, 4.0 * at + 4.0, f"Line {at + 1}") for at in range(bars // 2))
    return Score(notes, beat_map=BeatMap.steady(120, 0.0), phrases=phrases, title="Ebb")


@pytest.fixture
def opened(program: Program, qtbot: QtBot, tmp_path: Path) -> Program:
    path = tmp_path / "ebb.notch"
    write_document(Document(solo()), path)
    program.open_path(str(path))
    settled(program)
    return program


def on_sheets(program: Program, qtbot: QtBot) -> None:
    press("Ctrl+6")
    settled(program)
    assert program.bench is Bench.SHEETS


def texts(pages: tuple[Page, ...], kind: str) -> list[str]:
    return [item.text for page in pages for item in page_items(page) if isinstance(item, Words) and item.kind == kind]


@pytest.mark.slow
def test_the_pages_are_there_and_follow_an_edit(opened: Program, qtbot: QtBot) -> None:
    on_sheets(opened, qtbot)
    view = opened.sheets.view
    assert len(texts(view.pages, "fret")) == 96
    assert opened.sheets.facts.text() == f"page 1 of {len(view.pages)} · 96 notes"
    first = texts(view.pages, "fret")[0]
    press("Ctrl+2")
    press("1")
    press("9")
    settled(opened)
    press("Ctrl+6")
    settled(opened)
    assert texts(view.pages, "fret")[0] == "19" != first
    press("Ctrl+Z")
    settled(opened)
    assert texts(view.pages, "fret")[0] == first


@pytest.mark.slow
def test_keys_change_the_sheet(opened: Program, qtbot: QtBot) -> None:
    on_sheets(opened, qtbot)
    view = opened.sheets.view
    count = len(view.pages)
    press("P")
    press("O")
    settled(opened)
    assert view.pages[0].width > view.pages[0].height
    assert len(view.pages) > count
    press("R")
    settled(opened)
    assert not [item for page in view.pages for item in page_items(page) if item.kind == "stem"]
    press("N")
    settled(opened)
    assert [item for page in view.pages for item in page_items(page) if item.kind == "head"]
    press("2")
    settled(opened)
    assert texts(view.pages, "title")[0] == "Line 1"
    press("3")
    settled(opened)
    assert "its shapes" in texts(view.pages, "title")[0] or "Nothing in this solo" in view.said
    press("1")
    settled(opened)
    assert texts(view.pages, "title") == ["Ebb"]


@pytest.mark.slow
def test_pages_are_turned_and_looked_at_closer(opened: Program, qtbot: QtBot) -> None:
    on_sheets(opened, qtbot)
    view = opened.sheets.view
    press("P")
    settled(opened)
    assert view.page == 0
    press("PgDown")
    assert view.page == 1
    press("Home")
    assert view.page == 0
    press("End")
    assert view.page == len(view.pages) - 1
    press("PgUp")
    assert view.page == len(view.pages) - 2
    wide = view.box_of(0).width()
    press("+")
    assert view.box_of(0).width() == pytest.approx(1.25 * wide)
    press("-")
    assert view.box_of(0).width() == pytest.approx(wide)
    press("0")
    assert view.box_of(0).height() <= view.height()
    press("W")
    assert view.box_of(0).width() == pytest.approx(wide)


@pytest.mark.slow
def test_a_choice_by_mouse_and_by_tab(opened: Program, qtbot: QtBot) -> None:
    on_sheets(opened, qtbot)
    panel = opened.sheets.panel
    box = panel.fields["counts"]
    click(opened.window, box, QPoint(10, box.height() // 2))
    settled(opened)
    assert not panel.choices.counts
    assert not texts(opened.sheets.view.pages, "count")
    press("Esc")  # the keys go back to the pages
    assert QApplication.focusWidget() is opened.sheets.view
    walk_to(panel.fields["strings"])
    press("Down")
    settled(opened)
    assert isinstance(panel.fields["strings"], QComboBox)
    assert texts(opened.sheets.view.pages, "string name")[:6] == ["e", "B", "G", "D", "A", "E"]


def new_student(program: Program, qtbot: QtBot, name: str) -> None:
    press("Ctrl+7")
    settled(program)
    press("S")
    answer(name)
    settled(program)


@pytest.mark.slow
def test_each_student_keeps_their_own_sheet(opened: Program, qtbot: QtBot) -> None:
    new_student(opened, qtbot, "Ada")
    on_sheets(opened, qtbot)
    panel = opened.sheets.panel
    assert panel.student.text() == "Sheets for Ada"
    press("P")
    press("S")
    settled(opened)
    assert "for Ada" in " ".join(texts(opened.sheets.view.pages, "facts"))
    new_student(opened, qtbot, "Bo")
    on_sheets(opened, qtbot)
    assert (panel.choices.size.value, panel.choices.strings.value) == ("normal", "numbers")
    opened.ledger.read_again()
    settled(opened)
    kept = {student.name: student.sheets for student in opened.ledger.book.present}
    assert '"size": "large"' in kept["Ada"]
    assert kept["Bo"] == ""


@pytest.mark.slow
def test_the_sheet_is_written_from_anywhere(opened: Program, qtbot: QtBot, tmp_path: Path) -> None:
    """From the tab, where nothing is laid out yet: Ctrl+Alt+W asks for a name, and the pages are in the file."""
    press("Ctrl+Alt+W")
    path = tmp_path / "for the stand.pdf"
    answer(str(path))
    settled(opened)
    document = QPdfDocument(None)
    document.load(str(path))
    assert document.pageCount() == len(opened.sheets.view.pages) or not opened.sheets.view.pages
    assert "Ebb" in document.getAllText(0).text()
    document.close()
    assert "1 page written: “for the stand.pdf”" in opened.said


@pytest.mark.slow
def test_a_folder_that_may_not_be_written_is_told(opened: Program, qtbot: QtBot, tmp_path: Path) -> None:
    on_sheets(opened, qtbot)
    click(opened.window, opened.sheets.write_button)
    question()
    answer(str(tmp_path / "nowhere" / "sheet.pdf"))
    settled(opened)
    assert "could not be written" in opened.said or "nowhere" in opened.said
    assert not list(tmp_path.glob("**/*.pdf"))


@pytest.mark.slow
def test_printing_asks_for_a_printer_and_may_be_given_up(opened: Program, qtbot: QtBot) -> None:
    on_sheets(opened, qtbot)
    press("Ctrl+P")
    asked = question()
    assert isinstance(asked, QPrintDialog)
    QTest.keyClick(asked, Qt.Key.Key_Escape)
    qtbot.waitUntil(lambda: QApplication.activeModalWidget() is None)
    assert opened.bench is Bench.SHEETS


@pytest.mark.slow
def test_a_pack_is_handed_out_and_noted(opened: Program, qtbot: QtBot, tmp_path: Path) -> None:
    """By keys from the tab: what goes in, where to; what was given to whom stands in the ledger."""
    new_student(opened, qtbot, "Ada")
    press("Ctrl+2")
    press("Ctrl+Alt+N")
    asked = question()
    QTest.keyClicks(QApplication.focusWidget(), "1")
    press("Tab")
    QTest.keyClicks(QApplication.focusWidget(), "100")
    press("Return")
    gone(asked)
    target = tmp_path / "for Ada.zip"
    answer(str(target))
    settled(opened)
    with zipfile.ZipFile(target) as archive:
        names = archive.namelist()
    assert "loops/01 line-1 100 tab.mp3" in names
    assert {"index.html", "pack.json", "plan.txt", "ebb.pdf"} <= set(names)
    assert "A pack of 1 phrase" in opened.said
    (sent,) = opened.ledger.book.sent_to(opened.ledger.student.id)
    assert sent.title == "Ebb: practice pack of 1 phrase"


@pytest.mark.slow
def test_a_wrong_rung_is_told_in_the_dialog(opened: Program, qtbot: QtBot) -> None:
    on_sheets(opened, qtbot)
    click(opened.window, opened.sheets.pack_button)
    asked = question()
    press("Tab")
    QTest.keyClicks(QApplication.focusWidget(), "5")
    press("Return")
    assert "between 25 and 150" in asked.trouble.text()
    QTest.keyClick(asked, Qt.Key.Key_Escape)
    gone(asked)


@pytest.mark.slow
def test_the_board_s_phrase_is_what_a_pack_begins_with(opened: Program, qtbot: QtBot) -> None:
    press("Ctrl+5")
    settled(opened)
    press("Ctrl+Alt+N")
    asked = question()
    assert asked.fields["phrases"].text() == "1"
    QTest.keyClick(asked, Qt.Key.Key_Escape)
    gone(asked)


def test_an_empty_solo_says_what_to_do(program: Program, qtbot: QtBot) -> None:
    press("Ctrl+N")
    answer("4/4")
    settled(program)
    on_sheets(program, qtbot)
    assert "There are no notes to print." in program.sheets.view.said
    press("Ctrl+P")
    assert QApplication.activeModalWidget() is None


@pytest.mark.slow
def test_a_solo_without_phrases_has_no_cards_and_says_so(program: Program, qtbot: QtBot, tmp_path: Path) -> None:
    write_document(Document(replace(solo(4), phrases=())), tmp_path / "bare.notch")
    program.open_path(str(tmp_path / "bare.notch"))
    settled(program)
    on_sheets(program, qtbot)
    press("2")
    settled(program)
    assert "no phrases to put on cards" in program.sheets.view.said
