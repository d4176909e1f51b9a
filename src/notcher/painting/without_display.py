"""Painting from a terminal: Qt is begun without a screen, for as long as the files are written."""

import os
from pathlib import Path

from PyQt6.QtGui import QGuiApplication

from notcher.core.score import Score
from notcher.core.sheets import PageMaker, SheetChoices
from notcher.painting.sheet_picture import write_sheet


def painted_sheet(
    score: Score, choices: SheetChoices, path: str | os.PathLike[str], *, student: str = ""
) -> list[Path]:
    """Lay out a solo and write it as PDF, SVG or PNG, by the file's ending; return what was written.

    Raises: NothingToPrintError, FontMissingError, FileError.
    """
    pages = PageMaker().pages(score, choices, student=student)
    if QGuiApplication.instance() is None:
        os.environ["QT_QPA_PLATFORM"] = "offscreen"
        application = QGuiApplication(["notcher"])
    else:
        application = None
    try:
        return write_sheet(pages, path, score.title)
    finally:
        del application
