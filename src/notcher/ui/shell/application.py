"""Starting the window."""

import os
import sys
import traceback
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

    from notcher.painting.theme import THEMES, apply_theme, load_fonts
    from notcher.ui.shell.window import Window
    from notcher.ui.state.settings import Settings

    app = QApplication.instance() or QApplication(sys.argv[:1])
    app.setApplicationName("Notcher")
    settings = Settings()
    load_fonts()
    apply_theme(app, THEMES[settings.get("theme")], settings.get("text_scale"))
    window = Window(settings)
    sys.excepthook = _shown_in(window)
    window.show()
    QTimer.singleShot(0, window.offer_unsaved)
    if file is not None:
        QTimer.singleShot(0, window.open_demo if file == "demo" else lambda: window.open_path(file))
    return app.exec()


def _shown_in(window):  # type: ignore[no-untyped-def]
    """An exception inside a slot would end the process: show it and go on."""

    def show(kind: type[BaseException], problem: BaseException, trace: TracebackType | None) -> None:
        traceback.print_exception(kind, problem, trace)
        window.notice(
            f"Something went wrong inside Notcher ({kind.__name__}: {problem}). Save your work and report it."
        )

    return show
