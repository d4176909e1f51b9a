"""Keeps unsaved work beside the program's state, so that a crash or a kill loses at most a few seconds."""

from pathlib import Path

from PyQt6.QtCore import QObject, QTimer

from notcher.core.errors import CancelCheck, Progress
from notcher.core.formats import Recovery
from notcher.ui.state.jobs import Jobs
from notcher.ui.state.session import Session


class Autosave(QObject):
    """Keeps the session's document every few seconds while it has unsaved changes, off the UI thread."""

    def __init__(self, session: Session, jobs: Jobs, folder: Path, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.recovery = Recovery(folder)
        self._session, self._jobs = session, jobs
        self._kept: object = None
        self._timer = QTimer(self)
        self._timer.timeout.connect(self.keep)
        session.opened.connect(self.forget)

    def every(self, seconds: float) -> None:
        self._timer.start(round(1000 * seconds))

    def keep(self) -> None:
        """Keep the document when it has unsaved changes since it was kept last."""
        if not self._session.undo_stack.isClean() and self._session.document is not self._kept:
            self.keep_now()

    def keep_now(self) -> None:
        document = self._session.document
        if self._jobs.current("autosave"):
            return
        path, recovery = self._session.path, self.recovery

        def work(_progress: Progress, _cancelled: CancelCheck) -> None:
            recovery.keep(document, path)

        def done(_none: None) -> None:
            self._kept = document

        # a full disk is said when the user saves; until then the next try may succeed
        self._jobs.start("autosave", work, finished=done, failed=lambda _problem: None)

    def forget(self) -> None:
        """Everything is saved, or given up."""
        self._jobs.cancel("autosave")
        self._kept = None
        self.recovery.forget()

    def stop(self) -> None:
        self._timer.stop()
        self.forget()
