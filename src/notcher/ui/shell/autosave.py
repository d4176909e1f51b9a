"""Keeps unsaved work beside the program's state, so that a crash or a kill loses at most the last second of it."""

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QObject, QTimer

from notcher.core.errors import CancelCheck, Progress
from notcher.core.formats import AutosaveStore, Recovery, TakeStream
from notcher.core.proving import Take
from notcher.core.sound import Clip
from notcher.ui.state.jobs import Jobs
from notcher.ui.state.session import Session
from notcher.ui.state.shell import Shell

WAIT_MS = 250
"""From a change to its being written: typing goes on in the meantime, and what is typed is written together."""


class Autosave(QObject):
    """Writes each change of the session's document into its journal, off the UI thread."""

    def __init__(self, session: Session, jobs: Jobs, folder: Path, shell: Shell, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.recovery = Recovery(folder)
        self._session, self._jobs, self._shell, self._folder = session, jobs, shell, folder
        self.store = AutosaveStore(folder, session.document.id)
        self._told = False
        self._sound_kept: Clip | None = None  # the recording that a copy was made of
        self._wait = QTimer(self)
        self._wait.setSingleShot(True)
        self._wait.setInterval(WAIT_MS)
        self._wait.timeout.connect(self._keep)
        session.opened.connect(self._on_opened)
        for changed in (session.score_changed, session.saved_changed, session.revisions_changed):
            changed.connect(self._on_changed)
        session.evidence_changed.connect(self._on_changed)

    def _on_opened(self) -> None:
        self.discard()
        self.store, self._told, self._sound_kept = AutosaveStore(self._folder, self._session.document.id), False, None

    def _on_changed(self) -> None:
        if not self._wait.isActive():
            self._wait.start()

    def _keep(self) -> None:
        """Write what changed; after an undo back to what is saved as well, so that no older state comes back."""
        session, store = self._session, self.store
        if self._jobs.runs("keep"):
            self._wait.start()
            return
        if not (session.unsaved or store.begun):
            return
        document, path, source = session.document, session.path, session.source

        def work(_progress: Progress, _cancelled: CancelCheck) -> None:
            store.save_delta(document, path, source)

        self._jobs.start("keep", work, finished=lambda _none: self._keep_sound(), failed=self._on_failed)

    def keep_before(self, then: Callable[[], None]) -> None:
        """Write all there is, and only then do something, such as throwing an older copy away."""
        session, store = self._session, self.store
        document, path, source = session.document, session.path, session.source

        def work(_progress: Progress, _cancelled: CancelCheck) -> None:
            if document.clip is not None:  # first: what a kill leaves without a journal is not offered before the older
                store.save_sound(document.clip)
            store.save_delta(document, path, source)

        self._jobs.start("keep", work, finished=lambda _none: then(), failed=self._on_failed)

    def _keep_sound(self) -> None:
        """Copy the recording once, where no saved document holds it."""
        clip, store = self._session.document.clip, self.store
        if clip is None or self._sound_kept is clip or self._session.sound_saved:
            return
        self._sound_kept = clip
        self._jobs.start(
            "keep sound",
            lambda _progress, _cancelled: store.save_sound(clip),
            finished=lambda _none: None,
            failed=self._on_failed,
        )

    def _on_failed(self, problem: Exception) -> None:
        if not self._told:  # once is enough; the next change tries again
            self._told = True
            self._shell.tell_failure(problem)

    def take_stream(self, take: Take, sample_rate: int) -> TakeStream:
        """Begin to keep a take while it is recorded. Raises: FileError."""
        session = self._session
        return self.store.take_stream(take, session.document, session.path, session.source, sample_rate=sample_rate)

    def take_stored(self, take_id: str) -> None:
        """A take is in the ledger: what was kept of it while it was recorded is not needed any more."""
        self.store.drop_take_stream(take_id)

    def saved(self) -> None:
        """All is saved: there is nothing to recover."""
        self._jobs.cancel("keep")
        self._wait.stop()
        self.store.saved()

    def discard(self) -> None:
        """Everything is saved, or given up, and the document is left."""
        for kind in ("keep", "keep sound"):
            self._jobs.cancel(kind)
        self._wait.stop()
        self.store.discard()
