"""The one way to run work off the UI thread."""

import threading
from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import QObject, Qt, QThread, pyqtSignal, pyqtSlot

from notcher.core.errors import CancelCheck, Cancelled, Progress

Work = Callable[[Progress, CancelCheck], Any]


class Job(QObject):
    """Carries work to a thread and its result back; ends with exactly one of finished, failed, stopped."""

    progressed, stopped = pyqtSignal(float), pyqtSignal()
    finished, failed = pyqtSignal(object), pyqtSignal(object)

    def __init__(self, work: Work) -> None:
        super().__init__()
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
    """Runs jobs by kind: starting a kind again cancels and forgets the one before it."""

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._running: dict[str, Job] = {}
        self._threads: dict[Job, QThread] = {}
        self._closed = False

    def start(
        self,
        kind: str,
        work: Work,
        *,
        finished: Callable[[Any], None],
        failed: Callable[[Exception], None] | None = None,
        progressed: Callable[[float], None] | None = None,
        stopped: Callable[[], None] | None = None,
    ) -> None:
        """Run work(progress, cancelled) in a thread; the callables are called back on the UI thread."""
        self.cancel(kind)
        if self._closed:
            return
        job, thread = Job(work), QThread(self)
        self._running[kind], self._threads[job] = job, thread
        job.moveToThread(thread)
        receiver = _Receiver(self, kind, job, finished, failed, progressed, stopped)
        queued = Qt.ConnectionType.QueuedConnection
        job.progressed.connect(receiver.on_progressed, queued)  # type: ignore[call-arg]
        job.finished.connect(receiver.on_finished, queued)  # type: ignore[call-arg]
        job.failed.connect(receiver.on_failed, queued)  # type: ignore[call-arg]
        job.stopped.connect(receiver.on_stopped, queued)  # type: ignore[call-arg]
        thread.started.connect(job.run)
        thread.start()

    def cancel(self, kind: str) -> None:
        """Tell a job to stop and ignore whatever it still says."""
        job = self._running.pop(kind, None)
        if job is not None:
            job.cancel()

    def current(self, kind: str) -> Job | None:
        return self._running.get(kind)

    @property
    def busy(self) -> bool:
        return bool(self._running)

    def ended(self, kind: str, job: Job) -> None:
        if self._running.get(kind) is job:
            del self._running[kind]
        thread = self._threads.pop(job, None)
        if thread is not None:
            thread.quit()
            thread.wait()
            thread.deleteLater()

    def shut_down(self) -> None:
        """Cancel everything, then wait for it; nothing starts any more."""
        self._closed = True
        for kind in list(self._running):
            self.cancel(kind)
        for job, thread in list(self._threads.items()):
            job.cancel()
            thread.quit()
            thread.wait()
        self._threads.clear()


class _Receiver(QObject):
    """Lives on the UI thread, so that a job's signals arrive there; deaf once the job was replaced."""

    def __init__(
        self,
        jobs: Jobs,
        kind: str,
        job: Job,
        finished: Callable[[Any], None],
        failed: Callable[[Exception], None] | None,
        progressed: Callable[[float], None] | None,
        stopped: Callable[[], None] | None,
    ) -> None:
        super().__init__(jobs)
        self._jobs, self._kind, self._job = jobs, kind, job
        self._finished, self._failed, self._progressed, self._stopped = finished, failed, progressed, stopped

    @property
    def _wanted(self) -> bool:
        return self._jobs.current(self._kind) is self._job

    @pyqtSlot(float)
    def on_progressed(self, share: float) -> None:
        if self._wanted and self._progressed is not None:
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

    def _end(self, tell: Callable[..., None] | None, *values: object) -> None:
        wanted = self._wanted
        self._jobs.ended(self._kind, self._job)
        self.deleteLater()
        if wanted and tell is not None:
            tell(*values)
