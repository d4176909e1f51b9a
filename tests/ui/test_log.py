"""What went wrong is noted in a file that rotates, and can be looked at from the Help menu."""

import logging
import sys
from collections.abc import Iterator
from pathlib import Path

import pytest
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QPlainTextEdit
from pytestqt.qtbot import QtBot

from hands import gone, press, question
from notcher.ui.shell import log
from notcher.ui.shell.application import _told_by
from notcher.ui.shell.log import KEPT, LOG_NAME, begin_log, last_lines
from notcher.ui.shell.program import Program


@pytest.fixture
def logged(tmp_path: Path) -> Iterator[Path]:
    path = tmp_path / "state" / LOG_NAME
    handler = begin_log(path)
    assert handler is not None
    yield path
    logging.getLogger("notcher").removeHandler(handler)
    handler.close()


@pytest.mark.slow
def test_what_goes_wrong_in_a_slot_and_in_a_job_stands_in_the_log(
    program: Program, qtbot: QtBot, logged: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    try:
        raise KeyError("a string that is not there")
    except KeyError:
        _told_by(program.window.notice)(*sys.exc_info())  # type: ignore[arg-type]
    program.window.tell_failure(ZeroDivisionError("nothing to divide by"))
    text = last_lines(logged)
    assert "Notcher 0." in text.splitlines()[0]
    assert "a string that is not there" in text
    assert "test_log.py" in text, "with where it happened"
    assert "ZeroDivisionError: nothing to divide by" in text
    assert "Something went wrong inside Notcher" in program.said
    qtbot.waitUntil(lambda: QApplication.focusWidget() is not None)
    press("Ctrl+Space")
    finder = question()
    QTest.keyClicks(QApplication.focusWidget(), "the log")
    press("Return")
    gone(finder)
    dialog = question()
    shown = dialog.findChild(QPlainTextEdit)
    assert shown is not None
    assert "nothing to divide by" in shown.toPlainText()
    press("Esc")
    gone(dialog)


def test_old_pages_go_and_the_newest_stay(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(log, "MOST_BYTES", 2_000)
    handler = begin_log(tmp_path / LOG_NAME)
    assert handler is not None
    for number in range(400):
        logging.getLogger("notcher").info("line %d of what happened", number)
    logging.getLogger("notcher").removeHandler(handler)
    handler.close()
    kept = sorted(tmp_path.iterdir())
    assert len(kept) == 1 + KEPT
    assert sum(path.stat().st_size for path in kept) < (1 + KEPT) * 2_200
    assert "line 399 of" in last_lines(tmp_path / LOG_NAME)


def test_a_folder_that_cannot_be_written_is_no_reason_not_to_work(tmp_path: Path) -> None:
    (tmp_path / "taken").write_text("a file where the folder should be")
    assert begin_log(tmp_path / "taken" / LOG_NAME) is None
    assert last_lines(tmp_path / "taken" / LOG_NAME) == "Nothing was noted yet."
