"""Text is text: one wicked title, name and remark through every view, file and page.

A label takes a text for rich text when it looks like it (Qt, "QLabel::textFormat"); a table program runs a cell that
begins with = (OWASP, "CSV Injection"); XML has no control characters (W3C, "XML 1.0", 2.2).
"""

import csv
import io
import json
import zipfile
from collections.abc import Iterator
from dataclasses import replace
from html.parser import HTMLParser
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st
from lxml import etree
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QApplication, QLabel, QListWidget, QTableWidget, QTreeWidget, QWidget

from hands import gone, press, question, settled
from notcher.core.formats import Document, read_document, write_document
from notcher.core.formats.exports import EXPORTS, export
from notcher.core.formats.files.cells import guarded, unguarded
from notcher.core.formats.imports import read_import
from notcher.core.ledger import Request, Student
from notcher.core.ledger.record import Record
from notcher.core.ledger.store import Ledger
from notcher.core.score import Chord, Facts, Score, Section
from notcher.core.sheets import PageMaker
from notcher.core.teaching import PackChoices, write_pack
from notcher.painting.sheet_picture import sheet_files
from notcher.ui.shell.program import Program

WICKED = '=1+1 <img src="file:///dev/zero"><b>loud</b> & %n {0} \x07\x1b[31m " \' ]]> </title>'
SEEN = "<img src="
"""Of it, what a view that shows it letter by letter still holds."""


@pytest.fixture
def wicked(lick: Score) -> Score:
    notes = [replace(note, remark=WICKED) for note in lick.notes]
    phrases = tuple(replace(phrase, name=f"{WICKED} {at}") for at, phrase in enumerate(lick.phrases))
    return replace(lick, title=WICKED, phrases=phrases, chords=(Chord(0.5, "C7"),), facts=Facts(*[WICKED] * 4),
                   sections=(Section(0.4, 5.3, WICKED),)).with_notes(notes)  # fmt: skip


def rich(root: QWidget) -> Iterator[str]:
    """Labels and tips that would read marks in a text."""
    for widget in (root, *root.findChildren(QWidget)):
        plain = isinstance(widget, QLabel) and widget.textFormat() is Qt.TextFormat.PlainText
        if isinstance(widget, QLabel) and SEEN in widget.text() and not plain:
            yield f"{type(widget).__name__} {widget.text()[:60]}"
        if SEEN in widget.toolTip():
            yield f"tip of {type(widget).__name__}"
    for table in root.findChildren(QTableWidget):
        cells = [table.item(row, column) for row in range(table.rowCount()) for column in range(table.columnCount())]
        yield from (f"tip in a table: {cell.toolTip()[:60]}" for cell in cells if cell and SEEN in cell.toolTip())
    for tree in root.findChildren(QTreeWidget):
        items = tree.findItems("", Qt.MatchFlag.MatchContains | Qt.MatchFlag.MatchRecursive)
        columns = range(tree.columnCount())
        yield from (f"tip in a tree: {item.toolTip(at)[:60]}" for item in items for at in columns
                    if SEEN in item.toolTip(at))  # fmt: skip
    for rows in root.findChildren(QListWidget):
        tips = [item.toolTip() for at in range(rows.count()) if (item := rows.item(at)) is not None]
        yield from (f"tip in a list: {tip[:60]}" for tip in tips if SEEN in tip)


@pytest.mark.slow
def test_no_view_reads_marks_in_a_text(program: Program, wicked: Score, tmp_path: Path) -> None:
    ledger = Ledger(program.ledger.path)
    Record(ledger).put(Student(WICKED, guitar=WICKED, id="w"), Request("w", WICKED, "2026-03-02"))
    ledger.close()
    program.settings.keep_student("w")
    program.ledger.choose("w")
    write_document(Document(wicked), tmp_path / "a.notch")
    program.open_path(str(tmp_path / "a.notch"))
    settled(program)
    found: dict[str, list[str]] = {}
    for keys in ("Ctrl+2", "Ctrl+3", "Ctrl+4", "Ctrl+5", "P", "Ctrl+6", "Ctrl+7", "Ctrl+1"):
        press(keys)
        settled(program)
        found[keys] = list(rich(program.window))
    shown = [label for label in program.window.findChildren(QLabel) if SEEN in label.text()]
    assert shown, "the title at least is shown"
    press("Ctrl+2")
    settled(program)
    for keys in ("Ctrl+M", "Ctrl+Alt+F", "F2"):
        press(keys)
        asked = question()
        found[keys] = list(rich(asked))
        press("Esc")
        gone(asked)
    program.window.notice(WICKED)
    found["notice"] = list(rich(program.window))
    assert {where: what for where, what in found.items() if what} == {}


class Marks(HTMLParser):
    def __init__(self) -> None:
        super().__init__()
        self.tags: list[str] = []

    def handle_starttag(self, tag: str, attrs: object) -> None:
        self.tags.append(tag)


@pytest.mark.slow
def test_no_file_and_no_page_reads_marks_in_a_text(wicked: Score, tmp_path: Path) -> None:
    for ending in EXPORTS:
        export(wicked, tmp_path / f"a{ending}")
    etree.parse(str(tmp_path / "a.musicxml"))
    cells = [cell for row in csv.reader(io.StringIO((tmp_path / "a.csv").read_text("utf-8"))) for cell in row]
    assert not any(cell.startswith(("=", "@", "+", "\t", "\r")) for cell in cells)
    for ending in (".musicxml", ".mid", ".jams", ".txt"):
        assert len(read_import(tmp_path / f"a{ending}").score.notes) == len(wicked.notes), ending
    for path, made in sheet_files(PageMaker().pages(wicked), tmp_path / "page.svg", WICKED):
        tree = etree.fromstring(made())
        assert not tree.xpath("//*[local-name()='image']"), path
    write_pack(tmp_path / "pack.zip", wicked, None, PackChoices(rungs=(0.5,)), student=WICKED)
    with zipfile.ZipFile(tmp_path / "pack.zip") as archive:
        names, page = archive.namelist(), archive.read("index.html").decode("utf-8")
        json.loads(archive.read("pack.json"))
    marks = Marks()
    marks.feed(page)
    assert "img" not in marks.tags
    assert "b" not in marks.tags
    assert not [name for name in names if name.startswith("/") or ".." in name or set(name) & set('<>:"\\|?*\x07\x1b')]


def test_the_record_gives_out_no_cell_that_runs_and_takes_it_in_again(tmp_path: Path) -> None:
    record = Record(Ledger(tmp_path / "ledger.sqlite"))
    record.put(Student("=cmd", guitar="'=x", id="a"))
    record.give_out(tmp_path / "out")
    rows = list(csv.reader(io.StringIO((tmp_path / "out" / "students.csv").read_text("utf-8"))))
    assert not [cell for row in rows for cell in row if cell.startswith(("=", "+", "-", "@"))]
    other = Record(Ledger(tmp_path / "other.sqlite"))
    other.take_file(tmp_path / "out" / "students.csv")
    assert other.read().present == record.read().present
    for each in (record, other):
        each.ledger.close()


@given(st.text())
def test_a_guarded_cell_is_the_same_text_again(text: str) -> None:
    assert unguarded(guarded(text)) == text
    assert not guarded(text).startswith(("=", "+", "-", "@", "\t", "\r"))


@pytest.mark.slow
def test_a_remark_that_is_pasted_too_long_is_cut_and_said_and_opens_again(
    program: Program, lick: Score, tmp_path: Path
) -> None:
    path = tmp_path / "a.notch"
    write_document(Document(lick), path)
    program.open_path(str(path))
    settled(program)
    clipboard = QApplication.clipboard()
    assert clipboard is not None
    clipboard.setText("long " * 2_400)
    press("Ctrl+M")
    asked = question()
    press("Ctrl+V")
    assert any("At most 10,000 characters" in label.text() for label in asked.findChildren(QLabel))
    press("Return")
    gone(asked)
    settled(program)
    assert len(program.score.notes[0].remark) == 10_000
    press("Ctrl+S")
    settled(program)
    assert read_document(path).score == program.score
