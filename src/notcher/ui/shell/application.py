"""Starting the window."""

import logging
import os
import sys
import traceback
from collections.abc import Callable
from pathlib import Path
from types import TracebackType

from notcher.core.errors import NotcherError

DEMO = "demo"


class NoScreenError(NotcherError):
    """There is nothing to draw on."""


class NoFileError(NotcherError):
    """What is to be opened is not there."""


def run(file: str | None) -> int:
    """Open the window, with a recording, a document or the demo in it; return the exit code.

    Raises: NoFileError where there is no such file; NoScreenError where no screen is reachable.
    """
    if file is not None and file != DEMO and not Path(file).is_file():
        raise NoFileError(
            f"There is no file {file!r} here.", "Check its name, or start Notcher alone and open it there."
        )
    if not any(os.environ.get(name) for name in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")):
        raise NoScreenError(
            "There is no screen here (neither DISPLAY nor WAYLAND_DISPLAY is set).",
            "Start Notcher from a desktop, or use `notcher draft` for work without a window.",
        )
    from PyQt6.QtCore import QTimer, qInstallMessageHandler

    qInstallMessageHandler(_logged)  # before the rest is loaded: parts of it talk at once
    from PyQt6.QtWidgets import QApplication

    from notcher.painting.theme import THEMES, load_fonts
    from notcher.ui.shell.program import Program
    from notcher.ui.state.settings import Settings
    from notcher.ui.widgets.style import apply_theme

    running = QApplication.instance()
    app = running if isinstance(running, QApplication) else QApplication(sys.argv[:1])
    app.setApplicationName("Notcher")
    settings = Settings()
    load_fonts()
    apply_theme(app, THEMES[settings.get("theme")], settings.get("text_scale"))
    program = Program(settings)
    sys.excepthook = _told_by(program.window.notice)
    program.window.show()
    opening = program.opening
    QTimer.singleShot(0, opening.offer_unsaved)
    if file is not None:
        QTimer.singleShot(0, opening.open_demo if file == DEMO else lambda: opening.open_path(file))
    return app.exec()


def _logged(kind: object, _where: object, message: str | None) -> None:
    """What the toolkit says of itself is no business of a terminal; a log that listens hears it."""
    logging.getLogger("notcher.toolkit").debug("%s: %s", getattr(kind, "name", kind), message)


def _told_by(
    notice: Callable[[str], None],
) -> Callable[[type[BaseException], BaseException, TracebackType | None], None]:
    """An exception inside a slot would end the process: say it and go on."""

    def show(kind: type[BaseException], problem: BaseException, trace: TracebackType | None) -> None:
        traceback.print_exception(kind, problem, trace)
        notice(f"Something went wrong inside Notcher ({kind.__name__}: {problem}). Save your work and report it.")

    return show
