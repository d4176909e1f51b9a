"""The record from a request to the next lesson, by delivered keys and clicks; killed, locked or damaged between."""

import json
import os
import signal
import sqlite3
import subprocess
import sys
from collections.abc import Callable, Iterator
from contextlib import closing
from dataclasses import replace
from datetime import date, datetime, timedelta
from pathlib import Path

import pytest
from PyQt6.QtCore import QPoint, QSettings
from PyQt6.QtPdf import QPdfDocument
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import (
    QAbstractSpinBox,
    QApplication,
    QComboBox,
    QDialog,
    QDoubleSpinBox,
    QLineEdit,
    QPlainTextEdit,
)
from pytestqt.qtbot import QtBot

from hands import answer, choose, click, gone, press, question, settled, walk_to
from notcher.core.formats import Document, write_document
from notcher.core.ledger import NOBODY_ID, Student
from notcher.core.ledger.record import JSON_NAME, Record
from notcher.core.ledger.store import Ledger, back_up, backups
from notcher.core.proving import Result
from notcher.core.score import BeatMap, Note, Phrase, Score
from notcher.core.sound import Clip
from notcher.devices import KeyFootswitch, SimulatedGuitarist, SimulatedLoudspeaker
from notcher.painting.theme import load_fonts
from notcher.ui.shell.program import Program
from notcher.ui.state.settings import Settings
from notcher.ui.state.shell import Bench

TODAY = date(2026, 3, 12)
KINDS = (QLineEdit, QComboBox, QDoubleSpinBox)


def solo() -> Score:
    """Three phrases of two bars."""
    notes = [
        Note(4.0 * number + at, 4.0 * number + at + 0.9, 3 - number, 5 + at) for number in range(3) for at in range(4)
    ]
    spans = [Phrase(4.0 * at, 4.0 * at + 3.96, name) for at, name in enumerate(("Call", "Answer", "Home"))]
    return Score(tuple(notes), beat_map=BeatMap.steady(120, 0.0), phrases=tuple(spans), title="Slack water")


class Day:
    """What day it is for the program."""

    now = TODAY

    def __call__(self) -> datetime:
        return datetime.combine(self.now, datetime.now().time())


@pytest.fixture
def day() -> Day:
    return Day()


@pytest.fixture
def file(tmp_path: Path) -> Path:
    path = tmp_path / "slack.notch"
    write_document(Document(solo()), path)
    return path


@pytest.fixture
def start(qtbot: QtBot, settings: Settings, tmp_path: Path, day: Day) -> Iterator[Callable[[], Program]]:
    """Begins the program; each one that was begun is ended."""
    load_fonts()
    begun: list[Program] = []

    def begin() -> Program:
        made = Program(
            settings, SimulatedLoudspeaker(), guitar=SimulatedGuitarist(), footswitch=KeyFootswitch(),
            state=tmp_path / "state", now=day,
        )  # fmt: skip
        begun.append(made)
        made.window.show()
        return made

    yield begin
    for widget in QApplication.topLevelWidgets():
        if isinstance(widget, QDialog) and widget.isVisible():  # a test that failed has left it
            widget.reject()
    for made in begun:
        made.saved()
        made.close()


@pytest.fixture
def program(start: Callable[[], Program], file: Path, qtbot: QtBot) -> Program:
    made = start()
    opened(made, file, qtbot)
    return made


def opened(program: Program, path: Path, qtbot: QtBot) -> None:
    program.open_path(str(path))
    qtbot.waitUntil(lambda: program.session.path == path and not program.busy, timeout=20_000)
    qtbot.waitUntil(lambda: QApplication.focusWidget() is not None, timeout=5_000)


def to_ledger(program: Program, qtbot: QtBot) -> None:
    press("Ctrl+7")
    assert program.bench is Bench.LEDGER
    qtbot.waitUntil(lambda: program.ledger.ledger is not None, timeout=20_000)
    settled(program)


def fill(**values: str) -> None:
    """Type into the fields of the form that asks, by their labels, and press Return."""
    asked = question()
    for label, words in values.items():
        name = label.replace("_", " ")
        fields = [field for kind in KINDS for field in asked.findChildren(kind)]
        named = (field for field in fields if field.accessibleName() == name)
        field = next(field for field in named if not isinstance(field.parent(), QAbstractSpinBox | QComboBox))
        walk_to(field)
        if isinstance(field, QComboBox) and not field.isEditable():
            press("Home")
            while not field.currentText().startswith(words):
                before = field.currentIndex()
                press("Down")
                assert field.currentIndex() > before, f"{words} is no choice"
        else:
            press("Ctrl+A")
            QTest.keyClicks(field, words)
    press("Return")
    gone(asked)


def new_student(program: Program, qtbot: QtBot, name: str) -> None:
    press("S")
    fill(Name=name)
    settled(program)


def cells(page: object) -> list[tuple[str, ...]]:
    table = page.list  # type: ignore[attr-defined]
    return [
        tuple(table.item(row, column).text() for column in range(table.columnCount()))
        for row in range(table.rowCount())
    ]


# --- a request, a student, a lesson, the next one ---
@pytest.mark.slow
def test_a_request_for_somebody_new_is_seen_in_the_queue_and_its_recording_opened_from_there(
    program: Program, qtbot: QtBot, lick_file: Path
) -> None:
    qtbot.waitUntil(lambda: QApplication.focusWidget() is not None, timeout=5_000)
    to_ledger(program, qtbot)
    press("R")
    fill(Solo="Slack water", For_whom="Sunniva")
    settled(program)
    ((_due, who, what, notes, _hours, _spent),) = cells(program.record.bench.queue)
    assert (who, what, notes) == ("Sunniva", "Slack water", "not opened yet")
    press("Return")
    answer(str(lick_file))
    qtbot.waitUntil(lambda: len(program.score.notes) == 6 and not program.busy, timeout=20_000)
    assert program.bench is Bench.NOTCH
    assert program.ledger.student.name == "Sunniva"
    to_ledger(program, qtbot)
    ((_due, _who, _what, notes, _hours, _spent),) = cells(program.record.bench.queue)
    assert notes == "6 notes"
    assert [student.name for student in program.ledger.book.present] == ["Sunniva", "no student"]
    press("R")
    fill(Solo="Two tides", For_whom="sunniva")
    settled(program)
    assert [student.name for student in program.ledger.book.present] == ["Sunniva", "no student"], "the same one"


@pytest.mark.slow
def test_from_a_request_to_the_next_lesson(program: Program, qtbot: QtBot, day: Day) -> None:
    record, practice = program.record.bench, program.practice
    to_ledger(program, qtbot)
    new_student(program, qtbot, "Marit")
    assert program.ledger.student.name == "Marit"
    press("R")
    fill(Solo="Slack water", Part_of_the_song="all of it", Its_tab_or_recording="the one that is open")
    settled(program)
    press("2")
    ((_due, who, what, notes, hours, _spent),) = cells(record.queue)
    assert (who, what, notes) == ("Marit", "Slack water, all of it", "12 notes")
    assert hours.startswith("about 6 min"), "twelve notes at the usual 120 an hour"
    press("Return")  # opens its solo for her
    assert program.bench is Bench.TEACH
    settled(program)
    press("P")
    settled(program)
    first = [(step.phrases, step.pace, step.why) for step in program.teach.plan.plan.steps if not step.listen]
    assert first[0][1] == 0.5, "nothing is known yet: half tempo"
    press("G")
    fill()
    settled(program)
    press("N")  # after the whole solo, and hearing it
    press("N")
    for key in ("C", "C", "M", "S"):
        press(key)
    settled(program)
    assert [str(played.result) for played in practice.passes] == ["clean", "clean", "missed", "shaky"]
    assert {played.lesson_id for played in practice.passes} == {*program.ledger.book.lessons}
    press("Shift+G")
    asked = question()
    did = asked.findChild(QPlainTextEdit)
    assert did.toPlainText() == "Call clean at 50 %", "what the marks say is there to be kept or written over"
    choose("OK")
    settled(program)
    # next week
    day.now = TODAY + timedelta(days=7)
    to_ledger(program, qtbot)
    press("1")
    assert [row[2] for row in cells(record.today)] == ["Repeat Call of Slack water"]
    press("5")
    assert "Call clean at 50 %" in record.sheet.text.toPlainText()
    press("Ctrl+5")
    settled(program)
    press("P")
    settled(program)
    plan = program.teach.plan.plan
    second = [(step.phrases, step.pace, step.why) for step in plan.steps if not step.listen]
    assert second != first, "another lesson because of the marks"
    assert any("is due again" in str(program.teach.plan.steps.topLevelItem(at).text(1)) for at in range(4))


@pytest.mark.slow
def test_marks_belong_to_who_is_chosen(program: Program, qtbot: QtBot) -> None:
    to_ledger(program, qtbot)
    for name in ("Marit", "Olly"):
        new_student(program, qtbot, name)
    press("Ctrl+5")
    settled(program)
    press("C")
    press("Ctrl+Alt+A")
    settled(program)
    answer("Marit")
    settled(program)
    assert program.passes == []
    press("M")
    assert [str(played.result) for played in program.passes] == ["missed"]
    walk_to(program.teach.student_box)
    press("Down")
    assert program.ledger.student.name == "Olly"
    assert [str(played.result) for played in program.passes] == ["clean"]


@pytest.mark.slow
def test_undo_in_the_ledger_is_the_ledgers_own(program: Program, qtbot: QtBot) -> None:
    press("9")
    changed = program.score.notes[0].fret
    to_ledger(program, qtbot)
    new_student(program, qtbot, "Marit")
    press("R")
    fill(Solo="Halyard")
    settled(program)
    press("2")
    press("Del")
    assert cells(program.record.bench.queue) == []
    press("Ctrl+Z")
    assert [row[2] for row in cells(program.record.bench.queue)] == ["Halyard"]
    press("Ctrl+Z")
    assert cells(program.record.bench.queue) == []
    press("Ctrl+Shift+Z")
    assert len(cells(program.record.bench.queue)) == 1
    assert program.score.notes[0].fret == changed, "the music is not in view"
    press("Ctrl+2")
    press("Ctrl+Z")
    assert program.score.notes[0].fret != changed
    assert len(program.ledger.book.requests) == 1


@pytest.mark.slow
def test_deleting_a_student_says_what_goes_and_comes_back_until_the_end(
    program: Program, start: Callable[[], Program], qtbot: QtBot, tmp_path: Path, file: Path
) -> None:
    to_ledger(program, qtbot)
    new_student(program, qtbot, "Marit")
    press("R")
    fill(Solo="Halyard")
    press("Ctrl+5")
    settled(program)
    press("C")
    press("Ctrl+7")
    press("Shift+Del")
    asked = question()
    assert "1 request, 1 pass will go with Marit" in asked.text()  # type: ignore[attr-defined]
    choose("Delete Marit")
    settled(program)
    assert [student.name for student in program.ledger.book.present] == ["no student"]
    press("Ctrl+Z")
    settled(program)
    assert [student.name for student in program.ledger.book.present] == ["Marit", "no student"]
    press("Ctrl+Shift+Z")
    settled(program)
    program.close()
    ledger = Ledger(tmp_path / "state" / "data" / "ledger.sqlite")
    data = Record(ledger).all_data()
    ledger.close()
    assert (data["students"], data["requests"], data["passes"]) == ([], [], [])


# --- the lesson's own ---
@pytest.mark.slow
def test_what_is_wished_of_a_lesson_is_kept_and_can_be_undone(
    program: Program, start: Callable[[], Program], file: Path, qtbot: QtBot
) -> None:
    press("Ctrl+5")
    settled(program)
    press("P")
    settled(program)
    proposed = [step.key for step in program.teach.plan.plan.steps]
    press("X")
    settled(program)
    assert [step.key for step in program.teach.plan.plan.steps] != proposed
    press("Ctrl+Z")
    settled(program)
    assert [step.key for step in program.teach.plan.plan.steps] == proposed
    press("Ctrl+Shift+Z")
    settled(program)
    program.close()
    again = start()
    opened(again, file, qtbot)
    press("Ctrl+5")
    qtbot.waitUntil(lambda: again.ledger.ledger is not None, timeout=20_000)
    settled(again)
    press("P")
    settled(again)
    assert [step.key for step in again.teach.plan.plan.skipped] == [proposed[0]]


@pytest.mark.slow
def test_cautions_are_said_once_a_day_and_can_be_read_again(program: Program, qtbot: QtBot, day: Day) -> None:
    press("Ctrl+5")
    settled(program)
    press("P")
    settled(program)
    said = program.teach.plan.cautions
    assert "Rest the hands" in said.text()
    press("U")
    assert not said.isVisible()
    press("P")
    settled(program)
    assert not said.isVisible(), "no nagging"
    press("Ctrl+Space")
    answer("Safety notes")
    told = question()
    assert "see a clinician" in told.text()  # type: ignore[attr-defined]
    press("Return")
    gone(told)
    day.now += timedelta(days=1)
    press("P")
    settled(program)
    assert "Rest the hands" in said.text()
    assert said.isVisible()


@pytest.mark.slow
def test_every_figure_can_be_asked_why(program: Program, qtbot: QtBot) -> None:
    press("Ctrl+5")
    settled(program)
    press("P")
    settled(program)
    press("N")  # after the whole solo
    press("N")
    press("C")
    press("W")
    told = question()
    words = told.text()  # type: ignore[attr-defined]
    for wanted in ("Levitt 1971", "Clean by now", "points", "Mersenne", "Pimsleur 1967", "half tempo"):
        assert wanted in words
    press("Return")
    gone(told)
    to_ledger(program, qtbot)
    for page, wanted in (("2", "120 notes an hour"), ("3", "Pimsleur"), ("4", "Levitt"), ("6", "estimated")):
        press(page)
        press("W")
        told = question()
        assert wanted in told.text()  # type: ignore[attr-defined]
        press("Return")
        gone(told)


@pytest.mark.slow
def test_rungs_by_beats_stand_on_the_board_and_in_the_plan(program: Program, qtbot: QtBot) -> None:
    press("Ctrl+5")
    settled(program)
    assert len(program.teach.board.paces) == 8
    press("Ctrl+Space")
    answer("Settings")
    dialog = question()
    box = next(box for box in dialog.findChildren(QComboBox) if box.accessibleName() == "Tempo steps rise by")
    walk_to(box)
    press("Down")
    choose("OK")
    paces = program.teach.board.paces
    assert (paces[0], paces[-2]) == (0.4, 1.0)
    assert (paces[1] - paces[0]) * 120 == pytest.approx(8, abs=0.1)
    press("P")
    settled(program)
    assert {step.pace for step in program.teach.plan.plan.steps} <= {*paces}


@pytest.mark.slow
def test_weights_of_difficulty_are_adjusted_and_taken(program: Program, qtbot: QtBot) -> None:
    press("Ctrl+5")
    settled(program)
    press("P")
    settled(program)
    before = program.teach.plan.plan.difficulty
    press("Ctrl+Space")
    answer("What makes a phrase hard")
    question()
    press("Ctrl+A")
    QTest.keyClicks(QApplication.focusWidget(), "30")
    choose("OK")
    press("P")
    settled(program)
    after = program.teach.plan.plan.difficulty
    phrase = program.score.phrases[0].id
    peak = before[phrase].parts.peak_notes_per_s
    assert after[phrase].points - before[phrase].points == pytest.approx(27 * peak, abs=0.06)
    assert after[phrase].parts == before[phrase].parts


# --- hours, what was given out, sheets ---
@pytest.mark.slow
def test_hours_are_noted_and_teach_the_next_estimate(program: Program, qtbot: QtBot) -> None:
    to_ledger(program, qtbot)
    new_student(program, qtbot, "Marit")
    for title in ("Fog signal", "Two tides", "Lamp oil"):
        press("R")
        fill(Solo=title, Its_tab_or_recording="the one that is open")
        settled(program)
        press("2")
        press("A")
        fill(Hours_more="0.75")
        press("D")
        asked = question()
        choose("OK")
        settled(program)
    assert cells(program.record.bench.queue) == []
    press("6")
    assert "3 solos" in program.record.bench.hours.said.text()
    press("R")
    fill(Solo="Next", Its_tab_or_recording="the one that is open")
    press("2")
    assert cells(program.record.bench.queue)[0][4] == "about 45 min", (
        "twelve notes took three quarters of an hour each time"
    )
    assert asked is not None


@pytest.mark.slow
def test_what_was_given_out_tells_what_has_changed_since(program: Program, qtbot: QtBot) -> None:
    to_ledger(program, qtbot)
    new_student(program, qtbot, "Marit")
    press("Ctrl+2")
    press("Ctrl+Alt+E")
    assert "noted as given to Marit" in program.said
    press("9")
    press("Ctrl+7")
    press("7")
    (row,) = cells(program.record.bench.sent)
    assert row[1:] == ("Slack water", "1 change")
    assert "bar 1: at another place: string 3, fret 5 → string 3, fret 9" in program.record.bench.sent.more.text()
    press("Del")
    assert cells(program.record.bench.sent) == []


@pytest.mark.slow
@pytest.mark.parametrize("ending", [".txt", ".pdf"])
def test_what_we_did_is_written(program: Program, qtbot: QtBot, tmp_path: Path, ending: str) -> None:
    to_ledger(program, qtbot)
    new_student(program, qtbot, "Marit")
    press("Ctrl+5")
    settled(program)
    press("C")
    press("Ctrl+7")
    press("5")
    press("T")
    path = tmp_path / f"marit{ending}"
    answer(str(path))
    qtbot.waitUntil(path.exists, timeout=5_000)
    if ending == ".txt":
        assert "Slack water: Call clean at 50 %" in path.read_text("utf-8")
    else:
        page = QPdfDocument(None)
        assert page.load(str(path)) is QPdfDocument.Error.None_
        told = page.getAllText(0).text()
        assert "What we did: Marit" in told
        assert "Slack water: Call clean at 50 %" in told


# --- nothing is lost ---
@pytest.mark.slow
def test_a_moved_document_is_found_again(program: Program, qtbot: QtBot, file: Path, tmp_path: Path) -> None:
    to_ledger(program, qtbot)
    new_student(program, qtbot, "Marit")
    press("R")
    fill(Solo="Slack water", Its_tab_or_recording="the one that is open")
    settled(program)
    other = tmp_path / "other.notch"
    write_document(Document(replace(solo(), title="Another")), other)
    opened(program, other, qtbot)
    moved = tmp_path / "shelf" / "renamed.notch"
    moved.parent.mkdir()
    file.rename(moved)
    press("Ctrl+7")
    press("2")
    press("Return")
    qtbot.waitUntil(lambda: program.session.path == moved, timeout=20_000)
    settled(program)
    assert program.bench is Bench.TEACH
    assert program.ledger.book.documents[program.document.id].path == str(moved)
    moved.unlink()
    opened(program, other, qtbot)
    press("Ctrl+7")
    press("2")
    press("Return")
    qtbot.waitUntil(lambda: "open it once by hand" in program.said, timeout=20_000)


@pytest.mark.slow
def test_the_whole_record_goes_out_and_comes_in(program: Program, qtbot: QtBot, tmp_path: Path) -> None:
    to_ledger(program, qtbot)
    new_student(program, qtbot, "Marit")
    press("Ctrl+5")
    settled(program)
    press("C")
    press("Ctrl+Space")
    answer("export csv json")
    (tmp_path / "out").mkdir()
    answer(str(tmp_path / "out"))
    qtbot.waitUntil(lambda: "were written into" in program.said, timeout=10_000)
    folder = tmp_path / "out" / f"notcher-record-{TODAY.isoformat()}"
    data = json.loads((folder / JSON_NAME).read_text("utf-8"))
    assert [row["name"] for row in data["students"]] == ["Marit"]
    assert len(data["passes"]) == 1
    (folder / "students.csv").write_text("id,name\nnew,Olly\n", "utf-8")
    press("Ctrl+Space")
    answer("import csv json")
    answer(str(folder / "students.csv"))
    qtbot.waitUntil(lambda: "1 row taken in" in program.said, timeout=10_000)
    settled(program)
    assert [student.name for student in program.ledger.book.present] == ["Marit", "Olly", "no student"]
    (folder / "students.csv").write_text("id,name,shoe\nnew,Olly,43\n", "utf-8")
    press("Ctrl+Space")
    answer("import csv json")
    answer(str(folder / "students.csv"))
    qtbot.waitUntil(lambda: "unknown column shoe" in program.said, timeout=10_000)


@pytest.mark.slow
def test_a_copy_is_restored_by_choosing_it(
    program: Program, start: Callable[[], Program], qtbot: QtBot, tmp_path: Path
) -> None:
    to_ledger(program, qtbot)
    new_student(program, qtbot, "Marit")
    program.close()
    again = start()
    qtbot.waitUntil(lambda: QApplication.focusWidget() is not None, timeout=5_000)
    to_ledger(again, qtbot)
    assert len(backups(tmp_path / "state" / "data" / "ledger.sqlite")) == 1
    new_student(again, qtbot, "Olly")
    press("Ctrl+Space")
    answer("Go back to a copy")
    question()
    press("Return")
    qtbot.waitUntil(lambda: "is that of" in again.said, timeout=20_000)
    settled(again)
    assert [student.name for student in again.ledger.book.present] == ["Marit", "no student"]


@pytest.mark.slow
def test_a_locked_ledger_is_told_and_what_was_noted_is_written_later(
    program: Program, start: Callable[[], Program], file: Path, qtbot: QtBot, tmp_path: Path,
    monkeypatch: pytest.MonkeyPatch,
) -> None:  # fmt: skip
    monkeypatch.setattr("notcher.core.ledger.store.WAIT_S", 0.05)
    path = tmp_path / "state" / "data" / "ledger.sqlite"
    press("Ctrl+5")
    qtbot.waitUntil(lambda: program.ledger.ledger is not None, timeout=20_000)
    settled(program)
    with closing(sqlite3.connect(path, isolation_level=None)) as writing:
        writing.execute("BEGIN IMMEDIATE")
        press("C")
        assert len(program.passes) == 1, "seen at once"
        qtbot.waitUntil(lambda: "written once it can be" in program.said, timeout=10_000)
        writing.execute("ROLLBACK")
    press("M")
    settled(program)
    ledger = Ledger(path)
    kept = Record(ledger).read(NOBODY_ID).passes_of(NOBODY_ID)
    ledger.close()
    assert [played.result for played in kept] == [Result.CLEAN, Result.MISSED], "both, in their order"


@pytest.mark.slow
@pytest.mark.parametrize("trouble", ["damaged", "newer", "folder"])
def test_marks_are_kept_beside_a_ledger_that_cannot_be_opened(
    start: Callable[[], Program], file: Path, qtbot: QtBot, tmp_path: Path, trouble: str
) -> None:
    path = tmp_path / "state" / "data" / "ledger.sqlite"
    path.parent.mkdir(parents=True)
    if trouble == "damaged":
        path.write_bytes(b"no ledger" * 500)
    elif trouble == "newer":
        with closing(sqlite3.connect(path)) as connection:
            connection.executescript(
                "CREATE TABLE alembic_version (version_num VARCHAR(32)); INSERT INTO alembic_version VALUES ('9999');"
            )
    else:
        path.mkdir()
    before = None if trouble == "folder" else path.read_bytes()
    program = start()
    opened(program, file, qtbot)
    press("Ctrl+5")
    settled(program)
    said = program.window.notices.offered.text() if trouble == "damaged" else program.said
    assert "Until then what you note is kept" in said
    press("C")
    settled(program)
    assert len(program.passes) == 1
    program.close()
    if before is None:
        path.rmdir()
    else:
        assert path.read_bytes() == before, "left as it was"
        path.unlink()
    again = start()
    opened(again, file, qtbot)
    press("Ctrl+5")
    qtbot.waitUntil(lambda: len(again.passes) == 1, timeout=20_000)


@pytest.mark.parametrize("answer", [0, 1])
def test_a_damaged_record_is_put_aside_and_its_newest_good_copy_offered(
    start: Callable[[], Program], file: Path, qtbot: QtBot, tmp_path: Path, answer: int
) -> None:
    path = tmp_path / "state" / "data" / "ledger.sqlite"
    ledger = Ledger(path)
    Record(ledger).put(Student("Marit"))
    ledger.close()
    assert back_up(path) is not None
    newest = back_up(path)
    assert newest is not None
    newest.write_bytes(b"a copy that the disk has eaten" * 400)
    damage = b"SQLite format 3\0" + b"\xff" * 8192
    path.write_bytes(damage)
    program = start()
    opened(program, file, qtbot)
    press("Ctrl+5")
    settled(program)
    buttons = program.window.notices.buttons
    assert [button.text()[:15] for button in buttons] == ["Use the copy of", "Put it aside an"]
    press("C")
    settled(program)
    assert len(buttons) == 2, "asked once"
    click(program.window, buttons[answer])
    settled(program)
    assert not program.window.notices.buttons
    (aside,) = path.parent.glob("*.damaged")
    assert aside.read_bytes() == damage
    names = [student.name for student in program.ledger.book.present if student.id != NOBODY_ID]
    assert names == ([] if answer else ["Marit"])
    assert len(program.passes) == 1, "what was noted meanwhile is in it"
    assert Ledger(path).path == path


KILLED = """
import os, sys
from pathlib import Path
sys.path.insert(0, {tests!r})
from conftest import *
from PyQt6.QtWidgets import QApplication
from hands import press
app = QApplication([])
load_fonts()
folder = Path({folder!r})
settings = Settings(QSettings(str(folder / "settings.ini"), QSettings.Format.IniFormat))
program = Program(settings, SimulatedLoudspeaker(), guitar=SimulatedGuitarist(), footswitch=KeyFootswitch(),
                  state=folder / "state")
program.window.show()
program.open_path({file!r})
from PyQt6.QtPdf import QPdfDocument
from PyQt6.QtTest import QTest
while program.session.path is None or program.busy:
    QTest.qWait(10)
press("Ctrl+5")
while program.ledger.ledger is None:
    QTest.qWait(10)
for key in ("C", "S", "M"):
    press(key)
QTest.qWait(1500)
print("marked", flush=True)
QTest.qWait(60_000)
"""


@pytest.mark.slow
def test_a_kill_loses_no_mark(start: Callable[[], Program], file: Path, qtbot: QtBot, tmp_path: Path) -> None:
    tests = str(Path(__file__).parents[1])
    script = KILLED.format(tests=tests, folder=str(tmp_path), file=str(file))
    with subprocess.Popen([sys.executable, "-c", script], stdout=subprocess.PIPE, text=True) as killed:
        assert killed.stdout is not None
        assert killed.stdout.readline().strip() == "marked"
        os.kill(killed.pid, signal.SIGKILL)
    program = start()
    opened(program, file, qtbot)
    press("Ctrl+5")
    qtbot.waitUntil(lambda: len(program.passes) == 3, timeout=20_000)
    assert [str(played.result) for played in program.passes] == ["clean", "shaky", "missed"]


@pytest.mark.slow
def test_the_mouse_leads_through_the_pages(program: Program, qtbot: QtBot) -> None:
    to_ledger(program, qtbot)
    new_student(program, qtbot, "Marit")
    for at, page in enumerate(program.record.bench._made):
        click(program.window, program.record.bench.buttons[at])
        assert page.isVisible()
    items = program.record.bench.students
    click(program.window, items.viewport(), items.visualItemRect(items.item(1)).center())
    assert program.ledger.student.id == NOBODY_ID
    assert isinstance(items.visualItemRect(items.item(0)).center(), QPoint)


@pytest.mark.slow
def test_a_student_without_a_guitar_is_planned_for_all_the_same(program: Program, qtbot: QtBot) -> None:
    program.ledger.put("New student", Student("Bare", id="bare"))
    program.ledger.choose("bare")
    press("Ctrl+5")
    settled(program)
    press("P")
    settled(program)
    assert program.teach.plan.plan is not None


def test_settings_of_before_are_no_trouble(tmp_path: Path) -> None:
    store = QSettings(str(tmp_path / "s.ini"), QSettings.Format.IniFormat)
    store.setValue("rungs_by", "by moonlight")
    store.setValue("weight_sweep", "much")
    store.setValue("string_set", "wire")
    settings = Settings(store)
    assert settings.ladder.paces(120.0)[0] == 0.4
    assert settings.weights.sweep == 10.0
    assert settings.get("string_set") == "10 to 46"


@pytest.mark.slow
def test_what_nobody_was_named_for_is_given_to_a_student(program: Program, qtbot: QtBot) -> None:
    press("Ctrl+5")
    settled(program)
    for key in ("C", "S"):
        press(key)
    to_ledger(program, qtbot)
    new_student(program, qtbot, "Marit")
    assert program.passes == []
    press("G")
    settled(program)
    assert [str(played.result) for played in program.passes] == ["clean", "shaky"]
    press("Ctrl+Z")
    settled(program)
    assert program.passes == []
    program.ledger.choose(NOBODY_ID)
    settled(program)
    assert len(program.passes) == 2


@pytest.mark.slow
def test_a_recording_that_was_written_down_before_is_known_by_what_it_holds(
    program: Program, qtbot: QtBot, tmp_path: Path, lick_file: Path
) -> None:
    program.open_path(str(lick_file))
    qtbot.waitUntil(lambda: program.session.source is not None and not program.busy, timeout=60_000)
    to_ledger(program, qtbot)
    qtbot.waitUntil(lambda: bool(program.ledger.book.recordings), timeout=10_000)
    press("Ctrl+S")
    answer(str(tmp_path / "lick.notch"))
    settled(program)
    other = tmp_path / "another name.wav"
    other.write_bytes(lick_file.read_bytes())
    program.open_path(str(other))
    qtbot.waitUntil(lambda: program.session.source == other and not program.busy, timeout=60_000)
    qtbot.waitUntil(lambda: "written down before" in program.said, timeout=10_000)
    assert "lick.notch" in program.said


@pytest.mark.slow
def test_the_foot_marks_a_pass(program: Program, qtbot: QtBot) -> None:
    press("Ctrl+5")
    settled(program)
    program.settings.set("switch_1", "board.clean")
    press("F9")
    assert [str(played.result) for played in program.passes] == ["clean"]


@pytest.mark.slow
def test_a_verdict_goes_to_the_board_by_one_key(program: Program, qtbot: QtBot, lick: Score, lick_clip: Clip) -> None:
    program.open(Document(lick, lick_clip), None)
    press("Ctrl+5")
    settled(program)
    program.player.speaker._speed = program.guitar._speed = 10.0  # type: ignore[attr-defined]
    press("F8")
    qtbot.waitUntil(
        lambda: bool(program.teach.takes.takes) and program.teaching.recorder.state == "idle", timeout=30_000
    )
    verdict = program.teach.takes.take.report.phrases[0].verdict
    press("V")
    (kept,) = program.passes
    assert (kept.result, kept.take_id) == (verdict, program.practice.takes[0].id)
