"""The one way to run work off the UI thread."""

import threading
import time
from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import QDeadlineTimer, QObject, Qt, QThread, pyqtSignal, pyqtSlot

from notcher.core.errors import CancelCheck, Cancelled, Progress

WRITES = ("save", "keep", "keep sound", "take", "ledger open", "ledger")
"""Kinds of work that a process may not end in the middle of, where it can help it."""
Work = Callable[[Progress, CancelCheck], Any]


def _nothing(*_values: object) -> None:
    """Nobody wants to know."""


class Job(QObject):
    """Carries work to a thread and its result back; ends with exactly one of finished, failed, stopped."""

    progressed, stopped = pyqtSignal(float), pyqtSignal()
    finished, failed = pyqtSignal(object), pyqtSignal(object)

    def __init__(self, work: Work, kind: str = "") -> None:
        super().__init__()
        self.kind = kind
        self._work, self._stop = work, threading.Event()
        self.cancel = self._stop.set  # safe from any thread

    @pyqtSlot()
    def run(self) -> None:
        try:
            result = self._work(self.progressed.emit, self._stop.is_set)
        except Cancelled:
            self.stopped.emit()
        except Exception as problem:  # nothing may escape a thread: the window shows it
            self.failed.emit(problem)
        else:
            self.finished.emit(result)


class Jobs(QObject):
    """Runs jobs by kind: starting a kind again cancels the one before it.

    Every start is answered by exactly one call, on the UI thread: finished, failed or stopped. One that is cancelled,
    replaced, or left behind by its document is stopped at once, whatever its thread still says.
    """

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._running: dict[str, _Receiver] = {}
        self._threads: dict[Job, QThread] = {}
        self._closed = False

    def start(
        self,
        kind: str,
        work: Work,
        *,
        finished: Callable[[Any], None],
        failed: Callable[[Exception], None] = _nothing,
        progressed: Callable[[float], None] = _nothing,
        stopped: Callable[[], None] = _nothing,
        document_id: str | None = None,
    ) -> None:
        """Run work(progress, cancelled) in a thread; the callables are called back on the UI thread.

        document_id: of the document that it is begun for; when another is opened it is stopped. None for work that
        belongs to no document.
        """
        self.cancel(kind)
        if self._closed:
            stopped()
            return
        job, thread = Job(work, kind), QThread(self)
        receiver = _Receiver(self, kind, job, document_id, finished, failed, progressed, stopped)
        self._running[kind], self._threads[job] = receiver, thread
        job.moveToThread(thread)
        queued = Qt.ConnectionType.QueuedConnection
        job.progressed.connect(receiver.on_progressed, queued)  # type: ignore[call-arg]
        job.finished.connect(receiver.on_finished, queued)  # type: ignore[call-arg]
        job.failed.connect(receiver.on_failed, queued)  # type: ignore[call-arg]
        job.stopped.connect(receiver.on_stopped, queued)  # type: ignore[call-arg]
        thread.started.connect(job.run)
        thread.start()

    def cancel(self, kind: str) -> None:
        """Stop a job of a kind, if one runs; whatever its thread still says is not heard."""
        receiver = self._running.pop(kind, None)
        if receiver is not None:
            receiver.job.cancel()
            receiver.give_up()

    def runs(self, kind: str) -> bool:
        """Whether a job of a kind is running."""
        return kind in self._running

    @property
    def busy(self) -> bool:
        return bool(self._running)

    def belong_to(self, document_id: str) -> None:
        """Another document is open: what was begun for one that is not is stopped."""
        for kind, receiver in list(self._running.items()):
            if receiver.document_id not in (None, document_id):
                self.cancel(kind)

    def ended(self, kind: str, job: Job) -> bool:
        """A thread is done; return whether somebody still waits for it."""
        wanted = kind in self._running and self._running[kind].job is job
        if wanted:
            del self._running[kind]
        thread = self._threads.pop(job, None)
        if thread is not None:
            thread.quit()
            thread.wait()
            thread.deleteLater()
        return wanted

    def shut_down(self, *, patience_s: float | None = None) -> bool:
        """Stop everything, then wait for it; nothing starts any more.

        patience_s: how long is waited for what only computes, None for as long as it takes. Returns: whether all has
        ended; a thread that has not is wanted by nobody and ends with the process.
        """
        self._closed = True
        for kind in list(self._running):
            self.cancel(kind)
        for job, thread in self._threads.items():
            job.cancel()
            thread.quit()
        end = None if patience_s is None else time.monotonic() + patience_s
        for job, thread in list(self._threads.items()):
            if end is None or job.kind in WRITES:
                thread.wait()
            elif not thread.wait(QDeadlineTimer(max(0, round(1000 * (end - time.monotonic()))))):
                thread.setParent(None)  # the toolkit ends the process when a thread that runs is taken away
                continue
            del self._threads[job]
        return not self._threads


class _Receiver(QObject):
    """Lives on the UI thread, so that a job's signals arrive there; answers for one job exactly once."""

    def __init__(
        self,
        jobs: Jobs,
        kind: str,
        job: Job,
        document_id: str | None,
        finished: Callable[[Any], None],
        failed: Callable[[Exception], None],
        progressed: Callable[[float], None],
        stopped: Callable[[], None],
    ) -> None:
        super().__init__(jobs)
        self._jobs, self._kind, self.job, self.document_id = jobs, kind, job, document_id
        self._finished, self._failed, self._progressed, self._stopped = finished, failed, progressed, stopped
        self._answered = False

    def give_up(self) -> None:
        """Say that the job was stopped, and hear no more of it."""
        self._answered = True
        self._stopped()

    @pyqtSlot(float)
    def on_progressed(self, share: float) -> None:
        if not self._answered:
            self._progressed(share)

    @pyqtSlot(object)
    def on_finished(self, result: object) -> None:
        self._end(self._finished, result)

    @pyqtSlot(object)
    def on_failed(self, problem: object) -> None:
        self._end(self._failed, problem)

    @pyqtSlot()
    def on_stopped(self) -> None:
        self._end(self._stopped)

    def _end(self, tell: Callable[..., None], *values: object) -> None:
        wanted = self._jobs.ended(self._kind, self.job)
        self.deleteLater()
        if wanted and not self._answered:
            self._answered = True
            tell(*values)
