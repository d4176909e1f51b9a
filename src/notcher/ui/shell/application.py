"""Starting the window."""

import os
import sys
import traceback
from collections.abc import Callable
from types import TracebackType

from notcher.core.errors import NotcherError


class NoScreenError(NotcherError):
    """There is nothing to draw on."""


def run(file: str | None) -> int:
    """Open the window, with a recording, a document or the demo in it; return the exit code.

    Raises: NoScreenError where no screen is reachable.
    """
    if not any(os.environ.get(name) for name in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")):
        raise NoScreenError(
            "There is no screen here (neither DISPLAY nor WAYLAND_DISPLAY is set).",
            "Start Notcher from a desktop, or use `notcher draft` for work without a window.",
        )
    from PyQt6.QtCore import QTimer
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
        QTimer.singleShot(0, opening.open_demo if file == "demo" else lambda: opening.open_path(file))
    return app.exec()


def _told_by(
    notice: Callable[[str], None],
) -> Callable[[type[BaseException], BaseException, TracebackType | None], None]:
    """An exception inside a slot would end the process: say it and go on."""

    def show(kind: type[BaseException], problem: BaseException, trace: TracebackType | None) -> None:
        traceback.print_exception(kind, problem, trace)
        notice(f"Something went wrong inside Notcher ({kind.__name__}: {problem}). Save your work and report it.")

    return show
