"""What Notcher notes of itself: a file that rotates, looked at from the Help menu; nothing of it is ever sent."""

import logging
import platform
from contextlib import suppress
from logging.handlers import RotatingFileHandler
from pathlib import Path

from platformdirs import user_state_dir
from PyQt6.QtWidgets import QDialog, QDialogButtonBox, QPlainTextEdit, QVBoxLayout, QWidget

from notcher import __version__
from notcher.ui.widgets.plain import Label

LOG_NAME = "notcher.log"
LOG = Path(user_state_dir("notcher")) / LOG_NAME
MOST_BYTES, KEPT = 500_000, 2
"""Of one file; so many older ones are kept beside it."""
SHOWN_LINES = 500  # more than a day's; the file has the rest


def begin_log(path: Path = LOG) -> logging.Handler | None:
    """Write from now on what goes wrong into a file; return what writes, None where nothing can be written."""
    with suppress(OSError):  # a log that cannot be written is no reason not to work
        path.parent.mkdir(parents=True, exist_ok=True)
        handler = RotatingFileHandler(path, maxBytes=MOST_BYTES, backupCount=KEPT, encoding="utf-8")
        handler.setFormatter(logging.Formatter("%(asctime)s %(levelname)s %(message)s"))
        logger = logging.getLogger("notcher")
        logger.setLevel(logging.INFO)
        logger.addHandler(handler)
        logger.info("Notcher %s, Python %s, %s", __version__, platform.python_version(), platform.platform())
        return handler
    return None


def last_lines(path: Path) -> str:
    """Return the end of the log; a sentence where there is none."""
    try:
        return "\n".join(path.read_text("utf-8", errors="replace").splitlines()[-SHOWN_LINES:])
    except OSError:
        return "Nothing was noted yet."


class LogDialog(QDialog):
    """Shows the log's end, and where its file lies."""

    def __init__(self, path: Path, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle("The log")
        self.resize(760, 480)
        self.text = QPlainTextEdit(last_lines(path))
        self.text.setReadOnly(True)
        self.text.setTabChangesFocus(True)
        self.text.setAccessibleName("The log")
        where = Label(f"What went wrong, for whoever mends it: {path}. It stays on this machine.")
        where.setWordWrap(True)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Close)
        buttons.rejected.connect(self.reject)
        column = QVBoxLayout(self)
        for widget in (where, self.text, buttons):
            column.addWidget(widget)
        end = self.text.verticalScrollBar()
        if end is not None:
            end.setValue(end.maximum())
