"""Painting from a terminal: Qt is begun without a screen, for as long as the files are written."""

import contextlib
import os
from collections.abc import Iterator
from pathlib import Path

from PyQt6.QtGui import QGuiApplication

from notcher.core.errors import CancelCheck, never_cancelled
from notcher.core.score import Score
from notcher.core.sheets import PageMaker, SheetChoices
from notcher.painting.sheet_picture import pdf_bytes, write_sheet


@contextlib.contextmanager
def without_display() -> Iterator[None]:
    """Let Qt paint, whether there is a display or not."""
    application = None
    if QGuiApplication.instance() is None:
        os.environ["QT_QPA_PLATFORM"] = "offscreen"
        application = QGuiApplication(["notcher"])
    try:
        yield
    finally:
        del application


def painted_sheet(
    score: Score, choices: SheetChoices, path: str | os.PathLike[str], *, student: str = ""
) -> list[Path]:
    """Lay out a solo and write it as PDF, SVG or PNG, by the file's ending; return what was written.

    Raises: NothingToPrintError, FontMissingError, FileError.
    """
    pages = PageMaker().pages(score, choices, student=student)
    with without_display():
        return write_sheet(pages, path, score.title)


def sheet_pdf(
    score: Score, choices: SheetChoices, *, student: str = "", cancelled: CancelCheck = never_cancelled
) -> bytes:
    """Return a solo's sheet as PDF; Qt has been begun. Raises: NothingToPrintError, FontMissingError, Cancelled."""
    return pdf_bytes(PageMaker().pages(score, choices, student=student, cancelled=cancelled), score.title)
