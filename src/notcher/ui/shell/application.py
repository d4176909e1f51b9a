"""Starting the window."""

from __future__ import annotations

import gc
import importlib
import logging
import os
import sys
import threading
import traceback
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path
from types import TracebackType
from typing import TYPE_CHECKING

from notcher.core.errors import NotcherError

if TYPE_CHECKING:
    from notcher.ui.shell.program import Program
    from notcher.ui.shell.window import Window

DEMO = "demo"
M_MMAP_THRESHOLD, OWN_PIECE_BYTES = -3, 4 << 20  # malloc.h; what is larger is taken from the system by itself
M_ARENA_MAX = -8  # the same; threads that come and go share two heaps, else each keeps what it has freed
TOOLKIT = ("QtMultimedia", "QtPrintSupport", "QtSvg", "QtTextToSpeech")
"""Loaded on the window's own thread: beside it, while the window uses its own parts, that can crash the process."""
LOOK_MS = 10  # how often it is looked whether everything is loaded


class NoScreenError(NotcherError):
    """There is nothing to draw on."""


class NoFileError(NotcherError):
    """What is to be opened is not there."""


def run(file: str | None, painted: Callable[[], object] = lambda: None) -> int:
    """Open the window, with a recording, a document or the demo in it; return the exit code.

    painted: called once the window has been seen; only then the greater part of Notcher is loaded.
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
    from notcher.ui.shell.geometry import come_back
    from notcher.ui.shell.window import Window
    from notcher.ui.state.jobs import Jobs
    from notcher.ui.state.look import look_of, stored
    from notcher.ui.widgets.style import apply_theme

    running = QApplication.instance()
    app = running if isinstance(running, QApplication) else QApplication(sys.argv[:1])
    app.setApplicationName("Notcher")
    look = look_of(stored())
    load_fonts()
    apply_theme(app, THEMES[look.theme], look.text_scale)
    window = Window(Jobs())
    window.ways_in.show_recent(look.recent)
    loading = Loading(window, file)

    def seen() -> None:
        painted()
        loading.begin()

    window.first_painted.connect(lambda: QTimer.singleShot(0, seen))  # what lies on the window is painted by then
    come_back(window, look.geometry)
    code = app.exec()
    if code:  # the toolkit gives up when the window system is gone
        print("notcher: the display went away. What was not saved is offered at the next start.", file=sys.stderr)
    if loading.program is not None and not loading.program.all_ended:
        logging.shutdown()
        sys.stdout.flush()
        sys.stderr.flush()
        os._exit(code)  # what is still being heard is wanted by nobody; all that is kept was written
    return code


PATIENCE_S = 0.4
"""So long a closed window waits for what only computes."""


class Loading:
    """Loads all that the window is made for beside it, once it is seen, and puts it in."""

    def __init__(self, window: Window, file: str | None) -> None:
        from PyQt6.QtCore import QTimer

        self._window, self._file = window, file
        self._thread = threading.Thread(target=self._load, daemon=True)
        self._problem: BaseException | None = None
        self._looking = QTimer(window)
        self._looking.setInterval(LOOK_MS)
        self._looking.timeout.connect(self._look)
        self.program: Program | None = None

    def begin(self) -> None:
        for name in TOOLKIT:
            importlib.import_module(f"PyQt6.{name}")
        self._thread.start()
        self._looking.start()

    def _load(self) -> None:
        _return_memory()
        try:
            importlib.import_module("notcher.ui.shell.program")
        except BaseException as problem:  # told on the window's own thread
            self._problem = problem

    def _look(self) -> None:
        if self._thread.is_alive():
            return
        self._looking.stop()
        if self._problem is not None:
            raise self._problem
        from notcher.ui.shell.log import begin_log
        from notcher.ui.shell.program import Program
        from notcher.ui.state.settings import Settings

        begin_log()
        self.program = Program(Settings(), window=self._window)
        self.program.patience_s = PATIENCE_S
        gc.freeze()  # what is loaded stays: looking through it takes 100 ms each time, and everything waits
        sys.excepthook = _told_by(self._window.notice)
        opening = self.program.opening
        opening.offer_unsaved()
        if self._file == DEMO:
            self.program.commands.run("file.demo")
        elif self._file is not None:
            opening.open_path(self._file)


def _return_memory() -> None:
    """Let large arrays go back to the system when they are done with: glibc else learns to keep them (mallopt(3)).

    Measured on ten minutes of stereo: 620 -> 545 MB at rest, 690 -> 655 MB at most.
    """
    import ctypes  # nothing of it before the first paint

    with suppress(AttributeError, OSError):  # another C library
        libc = ctypes.CDLL(None)
        libc.mallopt(M_MMAP_THRESHOLD, OWN_PIECE_BYTES)
        libc.mallopt(M_ARENA_MAX, 2)


def _logged(kind: object, _where: object, message: str | None) -> None:
    """What the toolkit says of itself is no business of a terminal; a log that listens hears it."""
    import logging  # slow to load, and not needed before the first paint

    logging.getLogger("notcher.toolkit").debug("%s: %s", getattr(kind, "name", kind), message)


def _told_by(
    notice: Callable[[str], None],
) -> Callable[[type[BaseException], BaseException, TracebackType | None], None]:
    """An exception inside a slot would end the process: say it and go on."""

    import logging

    def show(kind: type[BaseException], problem: BaseException, trace: TracebackType | None) -> None:
        traceback.print_exception(kind, problem, trace)
        logging.getLogger("notcher").error("%s", problem, exc_info=(kind, problem, trace))
        notice(f"Something went wrong inside Notcher ({kind.__name__}: {problem}). Save your work and report it.")

    return show
