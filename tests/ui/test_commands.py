"""The registry: every command has its words and its keys, is found by what is typed, and says why it cannot run."""

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QMenu
from pytestqt.qtbot import QtBot

from hands import press
from notcher.core.formats import Document
from notcher.core.score import Attack, End, Score
from notcher.core.sound import Clip
from notcher.ui.commands.command import Scope, overlap
from notcher.ui.commands.finder import CommandFinder
from notcher.ui.commands.menus import plain
from notcher.ui.shell.program import Program
from notcher.ui.state.shell import Bench


@pytest.fixture
def opened(program: Program, lick: Score, lick_clip: Clip) -> Program:
    """The lick with its recording; the tab has the keys from the start."""
    program.open(Document(lick, lick_clip), None)
    return program


def finder_of(program: Program, qtbot: QtBot) -> CommandFinder:
    """Open the finder by its keys."""
    press("Ctrl+Space")
    finder = next(dialog for dialog in program.window.findChildren(CommandFinder) if dialog.isVisible())
    qtbot.waitUntil(finder.line.hasFocus, timeout=5_000)
    return finder


def test_no_two_commands_share_keys_in_one_place(program: Program) -> None:
    commands = [command for command in program.commands if command.keys]
    for number, first in enumerate(commands):
        for second in commands[number + 1 :]:
            assert not (first.keys == second.keys and overlap(first.scope, second.scope)), (first.id, second.id)


def test_every_command_has_words_beside_its_label(program: Program) -> None:
    for command in program.commands:
        assert command.words, command.id
        assert command.menu, command.id


@pytest.mark.slow
@pytest.mark.parametrize(
    ("typed", "id_"),
    [
        ("erase", "note.delete"),
        ("legato", "attack.hammer"),
        ("tempo", "beat.tap"),
        ("meter", "beat.tap"),
        ("volume", "file.settings"),
        ("title", "file.save_as"),
        ("add", "note.insert"),
        ("hammer-on", "attack.hammer"),
        ("let ring", "end.rings"),
        ("zoom", "view.closer"),
        ("back", "edit.undo"),
        ("snap phr", "phrase.snap"),
    ],
)
def test_words_that_a_guitarist_types_find_the_command(program: Program, typed: str, id_: str) -> None:
    assert id_ in [command.id for command in program.commands.found(typed)]


def test_the_closest_comes_first(program: Program) -> None:
    assert program.commands.found("choked")[0].id == "end.choked"
    assert program.commands.found("qwxyz") == []


def test_the_finder_runs_what_is_typed(opened: Program, qtbot: QtBot) -> None:
    finder = finder_of(opened, qtbot)
    QTest.keyClicks(finder.line, "choke")
    QTest.keyClick(finder.line, Qt.Key.Key_Return)
    assert opened.score.notes[0].end is End.CHOKED


def test_the_finder_says_why_something_cannot_run(opened: Program, qtbot: QtBot) -> None:
    finder = finder_of(opened, qtbot)
    QTest.keyClicks(finder.line, "redo")
    assert "nothing to redo" in finder.why.text()
    QTest.keyClick(finder.line, Qt.Key.Key_Return)
    assert finder.isVisible(), "it stays open to be read"
    QTest.keyClick(finder.line, Qt.Key.Key_Escape)


def test_keys_of_what_cannot_run_say_why(program: Program) -> None:
    program.open(Document(Score()), None)
    for keys, words in (("Ctrl+Z", "nothing to undo"), ("W", "No note is selected"), ("N", "No note is in doubt")):
        press(keys)
        assert words in program.said


def test_undo_and_redo_are_keys_and_menu_entries(opened: Program) -> None:
    before = opened.score
    press("W")
    assert opened.score.notes[0].attack is Attack.HAMMER
    press("Ctrl+Z")
    assert opened.score == before
    press("Ctrl+Shift+Z")
    assert opened.score.notes[0].attack is Attack.HAMMER


def test_redo_has_the_keys_of_both_kinds_of_desktop(opened: Program) -> None:
    """Ctrl+Shift+Z or Ctrl+Y (common practice, no source); who gives the second to something else, has that."""
    press("W")
    for keys in ("Ctrl+Shift+Z", "Ctrl+Y"):
        press("Ctrl+Z")
        assert opened.score.notes[0].attack is Attack.PICK
        press(keys)
        assert opened.score.notes[0].attack is Attack.HAMMER
    opened.commands.set_keys({"note.raked": "Ctrl+Y"})
    press("Ctrl+Z")
    press("Ctrl+Y")
    assert opened.score.notes[0].raked
    assert opened.score.notes[0].attack is Attack.PICK


def menus_of(program: Program) -> dict[str, QMenu]:
    bar = program.window.menuBar()
    assert bar is not None
    return {menu.title(): menu for menu in bar.findChildren(QMenu)}


def test_menus_grey_what_cannot_run_and_show_keys_as_they_are(opened: Program) -> None:
    edit = menus_of(opened)["&Edit"]
    edit.aboutToShow.emit()
    entries = {plain(action.text().split("\t")[0]): action for action in edit.actions()}
    assert not entries["Undo"].isEnabled()
    press("W")
    opened.commands.set_keys({"edit.undo": "Ctrl+U"})
    edit.aboutToShow.emit()
    assert entries["Undo"].isEnabled()
    assert entries["Undo"].text().endswith("Ctrl+U")


def test_one_key_means_what_is_in_view(opened: Program, qtbot: QtBot) -> None:
    """C is a harmonic on the tab and "clean" on the practice board; neither reaches the other."""
    press("Ctrl+5")
    assert opened.bench is Bench.TEACH
    press("C")
    assert [str(mark.result) for mark in opened.passes] == ["clean"]
    assert str(opened.score.notes[0].tone) == "normal"
    press("Ctrl+2")
    press("C")
    assert str(opened.score.notes[0].tone) == "natural_harmonic"
    assert len(opened.passes) == 1


def test_every_key_of_the_tab_reaches_its_command(opened: Program, monkeypatch: pytest.MonkeyPatch) -> None:
    ran: list[str] = []
    monkeypatch.setattr(type(opened.commands), "run", lambda _self, name: ran.append(name))
    expected = [c.id for c in opened.commands if c.keys and c.scope in (Scope.TAB, Scope.EVERYWHERE)]
    for name in expected:
        assert QApplication.focusWidget() is opened.notch.tab
        press(opened.commands.keys(name))
    assert ran == expected
