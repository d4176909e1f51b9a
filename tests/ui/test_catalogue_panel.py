"""The lick catalogue over the benches, and another version beside the solo, by delivered keys and clicks."""

import sqlite3
from contextlib import closing
from dataclasses import replace
from pathlib import Path

import pytest
from PyQt6.QtCore import QPoint
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QWidget
from pytestqt.qtbot import QtBot

from hands import answer, choose, click, gone, press, question, selected_at, settled
from notcher.core.formats import Document, write_document
from notcher.core.ledger.store import backups
from notcher.core.score import BeatMap, Note, Phrase, Score, Tuning, with_times
from notcher.core.sound import write_clip
from notcher.core.synthesis import render
from notcher.devices import SimulatedLoudspeaker
from notcher.ui.shell.program import Program
from notcher.ui.state.shell import Bench

WALK = [(1, 8), (1, 5), (2, 8), (2, 5), (3, 7), (3, 5), (4, 7), (3, 5)]
CLIMB = [(4, 9), (4, 11), (3, 9), (3, 11), (2, 9), (2, 12), (1, 9), (1, 11)]


def lick(places: list[tuple[int, int]], name: str, *, step_s: float = 0.25, tuning: Tuning | None = None) -> Score:
    notes = [Note(0.5 + step_s * at, 0.5 + step_s * (at + 0.9), *place) for at, place in enumerate(places)]
    score = Score(
        tuple(notes), beat_map=BeatMap.steady(120, 0.5), title=f"{name} watch",
        phrases=(Phrase(0.4, notes[-1].offset_s + 0.1, name),),
    )  # fmt: skip
    return score if tuning is None else replace(score, tuning=tuning)


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    solos = tmp_path / "solos"
    solos.mkdir()
    for name, score in (
        ("walk", lick(WALK, "Walk")),
        ("climb", lick(CLIMB, "Climb", step_s=0.1)),
        ("moved", lick([(string, fret + 3) for string, fret in WALK], "Higher", step_s=0.4)),
    ):
        write_document(Document(score), solos / f"{name}.notch")
    return solos


@pytest.fixture
def opened(program: Program, qtbot: QtBot) -> Program:
    program.open(Document(lick(WALK, "Mine")), None)
    return program


def open_catalogue(program: Program, qtbot: QtBot) -> None:
    press("Ctrl+Shift+F")
    qtbot.waitUntil(lambda: program.record.catalogue.view is not None and not program.busy, timeout=20_000)
    assert QApplication.focusWidget() is program.record.catalogue.line


def gathered(program: Program, qtbot: QtBot, folder: Path) -> None:
    open_catalogue(program, qtbot)
    press("Ctrl+G")
    asked = question()
    answer(str(folder))
    gone(asked)
    qtbot.waitUntil(lambda: "taken in" in program.said, timeout=20_000)
    settled(program)


@pytest.mark.slow
def test_a_copy_is_made_before_anything_is_written(opened: Program, qtbot: QtBot, folder: Path, tmp_path: Path) -> None:
    ledger = tmp_path / "state" / "data" / "ledger.sqlite"
    gathered(opened, qtbot, folder)
    assert backups(ledger) == [], "there was nothing to copy"
    opened.record.catalogue.close_ledger()
    again = Program(opened.settings, SimulatedLoudspeaker(), state=tmp_path / "state")
    again.window.show()
    opened.close()
    qtbot.waitUntil(lambda: QApplication.focusWidget() in again.window.findChildren(QWidget), timeout=5_000)
    open_catalogue(again, qtbot)
    (copy,) = backups(ledger)
    with closing(sqlite3.connect(copy)) as connection:
        assert connection.execute("PRAGMA integrity_check").fetchall() == [("ok",)]
        assert connection.execute("SELECT count(*) FROM phrases").fetchone() == (3,)
    again.close()


def found(program: Program) -> list[str]:
    return [row.name for row in program.record.catalogue._model.rows]


def typed(program: Program, qtbot: QtBot, words: str) -> None:
    line = QApplication.focusWidget()
    press("Ctrl+A")
    QTest.keyClicks(line, words)
    settled(program)


@pytest.mark.slow
def test_an_empty_catalogue_says_what_to_do(opened: Program, qtbot: QtBot, tmp_path: Path) -> None:
    assert not list(tmp_path.rglob("ledger.sqlite")), "no file before it is wanted"
    open_catalogue(opened, qtbot)
    assert "Nothing is gathered yet" in opened.record.catalogue.said.text()
    assert list(tmp_path.rglob("ledger.sqlite"))
    press("Return")
    assert "No phrase of the catalogue" in opened.said


@pytest.mark.slow
def test_phrases_of_a_folder_are_found_by_words(opened: Program, qtbot: QtBot, folder: Path) -> None:
    gathered(opened, qtbot, folder)
    assert "3 documents with 3 phrases taken in" in opened.said
    assert set(found(opened)) == {"Walk", "Climb", "Higher"}
    press("Ctrl+Shift+F")  # closed by the same keys
    assert not opened.record.catalogue.isVisible()
    press("Right")
    assert selected_at(opened.session) == 1, "the tab has the keys again"
    open_catalogue(opened, qtbot)
    for words, name in (("fast", "Climb"), ("A minor", "Walk"), ("minor walk", "Walk")):
        typed(opened, qtbot, words)
        qtbot.waitUntil(
            lambda name=name: found(opened) == [name], timeout=20_000
        )  # what is typed rests before it counts
    assert "walk is looked for in names" in opened.record.catalogue.said.text()


@pytest.mark.slow
def test_like_this_one_finds_it_in_another_key_and_tempo(opened: Program, qtbot: QtBot, folder: Path) -> None:
    gathered(opened, qtbot, folder)
    press("Esc")
    press("Ctrl+Alt+K")
    settled(opened)
    assert set(found(opened)[:2]) == {"Walk", "Higher"}, "in another key and at another tempo it is as like"
    assert "like the phrase of the tab" in opened.record.catalogue.said.text()
    click(opened.window, opened.record.catalogue.words_button)
    settled(opened)
    assert len(found(opened)) == 3


@pytest.mark.slow
def test_arrows_choose_and_return_lets_it_be_heard(opened: Program, qtbot: QtBot, folder: Path) -> None:
    gathered(opened, qtbot, folder)
    press("Down")
    assert QApplication.focusWidget() is opened.record.catalogue.view
    press("Down")
    assert opened.record.catalogue.view.currentIndex().row() == 1
    press("Return")
    qtbot.waitUntil(lambda: opened.player.playing, timeout=10_000)


@pytest.mark.slow
def test_a_lick_is_dropped_in_at_the_playhead(opened: Program, qtbot: QtBot, folder: Path) -> None:
    gathered(opened, qtbot, folder)
    opened.player.seek(2.7)  # behind the last note
    typed(opened, qtbot, "climb")
    press("Ctrl+Return")
    assert opened.bench is Bench.NOTCH
    score = opened.score
    assert [(note.string, note.fret) for note in score.notes[8:]] == CLIMB
    assert score.notes[8].onset_s == pytest.approx(2.7)
    press("Ctrl+Z")
    assert len(opened.score.notes) == 8
    opened.player.seek(0.6)  # where notes lie already it is asked
    click(opened.window, opened.record.catalogue.line)
    press("Ctrl+Return")
    choose("Keep both")
    assert len(opened.score.notes) == 16


@pytest.mark.slow
def test_into_another_tuning_a_lick_keeps_its_sound(program: Program, qtbot: QtBot, folder: Path) -> None:
    low = Tuning((62, 57, 53, 48, 43, 38))
    program.open(Document(lick(WALK, "Low", tuning=low)), None)
    gathered(program, qtbot, folder)
    program.player.seek(2.7)
    typed(program, qtbot, "climb")
    press("Ctrl+Return")
    standard = lick(CLIMB, "Climb")
    sounding = [round(low.midi(n.string, n.fret)) for n in program.score.notes[8:]]
    assert sounding == [round(standard.fretted_midi(note)) for note in standard.notes]


@pytest.mark.slow
def test_the_solo_it_comes_from_opens_at_the_phrase(opened: Program, qtbot: QtBot, folder: Path) -> None:
    gathered(opened, qtbot, folder)
    typed(opened, qtbot, "higher")
    click(opened.window, opened.record.catalogue.open_button)
    qtbot.waitUntil(lambda: opened.score.title == "Higher watch", timeout=10_000)
    assert opened.session.phrase is not None
    assert opened.session.phrase.name == "Higher"


def test_it_opens_over_any_bench(opened: Program, qtbot: QtBot) -> None:
    press("Ctrl+5")
    open_catalogue(opened, qtbot)
    assert opened.bench is Bench.TEACH
    press("Esc")
    assert opened.record.catalogue.isVisible()
    assert opened.bench is Bench.TEACH


def test_a_damaged_ledger_is_told_and_left_alone(opened: Program, qtbot: QtBot, tmp_path: Path) -> None:
    path = tmp_path / "state" / "data" / "ledger.sqlite"
    path.parent.mkdir(parents=True)
    path.write_bytes(b"no ledger" * 500)
    press("Ctrl+Shift+F")
    qtbot.waitUntil(lambda: "damaged or no ledger" in opened.record.catalogue.said.text(), timeout=20_000)
    assert path.read_bytes() == b"no ledger" * 500
    press("Esc")
    press("Right")
    assert selected_at(opened.session) == 1, "the work goes on"


def test_a_newer_ledger_is_told(opened: Program, qtbot: QtBot, tmp_path: Path) -> None:
    path = tmp_path / "state" / "data" / "ledger.sqlite"
    path.parent.mkdir(parents=True)
    with sqlite3.connect(path) as connection:
        connection.execute("CREATE TABLE alembic_version (version_num VARCHAR(32))")
        connection.execute("INSERT INTO alembic_version VALUES ('9999')")
    press("Ctrl+Shift+F")
    qtbot.waitUntil(lambda: "newer Notcher" in opened.record.catalogue.said.text(), timeout=20_000)


# --- another version ---
def tune() -> Score:
    places = [*WALK, (2, 8), (2, 10), (1, 8), (1, 10), (1, 12), (1, 10), (2, 10), (2, 8)]
    notes, at_s = [], 0.6
    for number, place in enumerate(places):
        length_s = 0.5 if number % 3 == 0 else 0.25
        notes.append(Note(at_s, at_s + 0.92 * length_s, *place))
        at_s += length_s
    phrase = Phrase(0.5, at_s, "Tune")
    return Score(tuple(notes), beat_map=BeatMap.steady(120, 0.6), phrases=(phrase,), title="Tune")


def other_version() -> Score:
    """Slower, a whole step higher; the third note a half step up, the ninth left out."""
    score = tune()
    notes = [replace(note, fret=note.fret + 1) if at == 2 else note for at, note in enumerate(score.notes) if at != 8]
    tuning = Tuning(tuple(midi + 2 for midi in score.tuning.open_midi))
    return with_times(replace(score, notes=(), tuning=tuning).with_notes(notes), lambda t: 0.4 + 1.1 * t)


def compare(program: Program, qtbot: QtBot, path: Path) -> None:
    press("Ctrl+Alt+O")
    answer(str(path))
    qtbot.waitUntil(lambda: program.bench is Bench.SHAPES, timeout=60_000)
    settled(program)


@pytest.mark.slow
@pytest.mark.parametrize("recorded", [False, True])
def test_what_another_version_has_otherwise_is_walked_by_keys(
    program: Program, qtbot: QtBot, tmp_path: Path, recorded: bool
) -> None:
    program.open(Document(tune(), render(tune()) if recorded else None), None)
    if recorded:
        path = tmp_path / "live.wav"
        write_clip(render(other_version()), path, kind="WAV")
    else:
        path = tmp_path / "live.notch"
        write_document(Document(other_version()), path)
    compare(program, qtbot, path)
    page = program.shapes.versions
    assert page.said.text() == "2 differences."
    assert "the other sounds 2 half steps higher" in page.facts.text()
    assert "10% slower" in page.facts.text() or "9% slower" in page.facts.text()
    rows = [page.list.item(at).text() for at in range(page.list.count())]
    assert "a half step higher there" in rows[0]
    assert "is not played there" in rows[1]
    assert page.list.currentRow() == 0
    press("N")
    assert page.list.currentRow() == 1
    press("Shift+N")
    assert page.list.currentRow() == 0
    press("Return")
    qtbot.waitUntil(lambda: program.player.playing, timeout=10_000)
    press("2")
    qtbot.waitUntil(lambda: program.player.playing, timeout=10_000)
    press("Ctrl+Return")
    assert program.bench is Bench.NOTCH
    assert selected_at(program.session) == 2


@pytest.mark.slow
def test_the_way_back_to_the_shapes(program: Program, qtbot: QtBot, tmp_path: Path) -> None:
    program.open(Document(tune()), None)
    path = tmp_path / "live.notch"
    write_document(Document(other_version()), path)
    compare(program, qtbot, path)
    click(program.window, program.shapes.versions.here, QPoint(40, 40))
    press("Backspace")
    assert QApplication.focusWidget() is program.shapes.view
    press("Ctrl+2")
    press("Ctrl+4")
    assert QApplication.focusWidget() is program.shapes.view


def test_two_that_have_nothing_in_common_are_refused(program: Program, qtbot: QtBot, tmp_path: Path) -> None:
    program.open(Document(tune()), None)
    path = tmp_path / "other.notch"
    write_document(Document(lick([(6, fret) for fret in (1, 5, 2, 4, 1, 3, 5, 1)], "Else")), path)
    press("Ctrl+Alt+O")
    answer(str(path))
    qtbot.waitUntil(lambda: "nothing in common" in program.said, timeout=20_000)
    assert program.bench is Bench.NOTCH
