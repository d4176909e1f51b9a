"""The guide: under its key at the page of what is in view; what it says of keys and pictures is so."""

import re
from pathlib import Path

import pytest
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from hands import press
from notcher.ui.commands.wording import WORDING
from notcher.ui.shell.guide import FOLDER, KEYS, PAGES, GuideDialog, keys_page
from notcher.ui.shell.program import Program
from notcher.ui.state.shell import Bench

COMMAND = re.compile(r"\*([^*]+)\*\s+\(`([^`]+)`\)")
"""How a page names a command and its keys."""


def guide(program: Program, qtbot: QtBot) -> GuideDialog:
    """Open it by its key."""
    press("F1")
    dialogs = [dialog for dialog in program.window.findChildren(GuideDialog) if dialog.isVisible()]
    shown = dialogs[-1]
    qtbot.waitUntil(lambda: shown.isAncestorOf(QApplication.focusWidget()), timeout=5_000)
    return shown


@pytest.mark.slow
@pytest.mark.parametrize(("keys", "first"), [("", "First steps"), *((f"Ctrl+{n}", "") for n in (1, 3, 4, 5, 6, 7))])
def test_it_opens_at_the_page_of_the_bench(program: Program, qtbot: QtBot, keys: str, first: str) -> None:
    if keys:
        press(keys)
        QTest.qWait(20)
        first = WORDING[f"bench.{program.bench}"].label
    shown = guide(program, qtbot)
    assert shown.page.toPlainText().startswith(first)
    press("Down")
    assert not shown.page.toPlainText().startswith(first)
    press("Escape")
    assert not shown.isVisible()


def test_words_are_found(program: Program, qtbot: QtBot) -> None:
    shown = guide(program, qtbot)
    press("Backtab")
    QTest.keyClicks(QApplication.focusWidget(), "noise eight")
    assert shown.page.toPlainText().startswith("What can hurt")
    press("Return")
    assert shown.page.textCursor().selectedText() == "noise"
    QTest.keyClicks(QApplication.focusWidget(), " xylophone")
    assert shown.none.isVisible()


def test_its_pictures_and_links_are_there() -> None:
    for name in PAGES:
        text = (FOLDER / f"{name}.md").read_text("utf-8")
        for target in re.findall(r"\]\(([^)]+)\)", text):
            assert (FOLDER / target).is_file(), f"{name}: {target}"
    assert {page.stem for page in Path(FOLDER).glob("*.md")} == set(PAGES)
    assert {str(bench) for bench in Bench} <= set(PAGES)


def test_every_command_that_it_names_is_called_so_and_has_these_keys(program: Program) -> None:
    keys = {command.label: command.keys for command in program.commands}
    named = [
        (name, re.sub(r"\s+", " ", label), said)
        for name in PAGES
        for label, said in COMMAND.findall((FOLDER / f"{name}.md").read_text("utf-8"))
    ]
    assert len(named) > 70
    assert not [row for row in named if keys.get(row[1]) != row[2]]


def test_the_page_of_keys_is_that_of_the_registry(program: Program) -> None:
    rows = [(str(command.scope), command.label, command.keys) for command in program.commands]
    assert (FOLDER / f"{KEYS}.md").read_text("utf-8") == keys_page(rows)
