"""Jobs: every start is answered by exactly one call, whatever happens to it."""

import threading
from collections import Counter
from collections.abc import Callable, Iterator

import pytest
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from notcher.core.errors import CancelCheck, Cancelled, Progress
from notcher.ui.state.jobs import Jobs


@pytest.fixture
def jobs(qtbot: QtBot) -> Iterator[Jobs]:
    made = Jobs()
    yield made
    made.shut_down()


class Told:
    """Counts what a start was answered with; its work waits at a gate."""

    def __init__(self) -> None:
        self.calls: Counter[str] = Counter()
        self.gate, self.begun = threading.Event(), threading.Event()
        self.results: list[object] = []

    def work(self, progress: Progress, cancelled: CancelCheck) -> str:
        self.begun.set()
        progress(0.5)
        assert self.gate.wait(10)
        if cancelled():
            raise Cancelled
        return "done"

    def deaf(self, _progress: Progress, _cancelled: CancelCheck) -> str:
        """Work that never looks whether it is still wanted."""
        self.begun.set()
        assert self.gate.wait(10)
        return "done"

    def start(self, jobs: Jobs, kind: str = "a", work: object = None, document_id: str | None = None) -> "Told":
        def finished(result: object) -> None:
            self.calls["finished"] += 1
            self.results.append(result)

        jobs.start(
            kind,
            work or self.work,  # type: ignore[arg-type]
            finished=finished,
            failed=lambda _problem: self.calls.update(["failed"]),
            stopped=lambda: self.calls.update(["stopped"]),
            document_id=document_id,
        )
        return self

    def settle(self, jobs: Jobs, qtbot: QtBot) -> None:
        """Let the thread run out, and every signal arrive."""
        self.gate.set()
        qtbot.waitUntil(lambda: not jobs._threads, timeout=10_000)
        QTest.qWait(20)


def replaced(jobs: Jobs, told: Told) -> None:
    Told().start(jobs).gate.set()


ENDINGS: list[tuple[Callable[[Jobs, Told], object], str]] = [
    (lambda jobs, told: None, "finished"),
    (lambda jobs, told: jobs.cancel("a"), "stopped"),
    (replaced, "stopped"),
    (lambda jobs, told: jobs.belong_to("another"), "stopped"),
    (lambda jobs, told: jobs.belong_to("mine"), "finished"),
    (lambda jobs, told: (told.gate.set(), jobs.shut_down()), "stopped"),
]


@pytest.mark.parametrize(("end", "answer"), ENDINGS)
@pytest.mark.parametrize("listens", [True, False])
def test_every_start_is_answered_once(
    jobs: Jobs, qtbot: QtBot, end: Callable[[Jobs, Told], object], answer: str, listens: bool
) -> None:
    told = Told()
    told.start(jobs, work=told.work if listens else told.deaf, document_id="mine")
    assert told.begun.wait(10)
    end(jobs, told)
    told.settle(jobs, qtbot)
    assert told.calls == {answer: 1}


def test_a_stop_is_told_at_once_and_before_what_takes_its_place(jobs: Jobs, qtbot: QtBot) -> None:
    """So that a progress bar that is hidden by the one is not the other's."""
    order: list[str] = []
    first, second = Told(), Told()
    jobs.start("a", first.work, finished=lambda _r: None, stopped=lambda: order.append("first stopped"))
    jobs.start("a", second.work, finished=lambda _r: order.append("second finished"))
    assert order == ["first stopped"]
    first.gate.set()
    second.settle(jobs, qtbot)
    assert order == ["first stopped", "second finished"]


def test_what_fails_is_told_and_what_comes_after_the_end_never_starts(jobs: Jobs, qtbot: QtBot) -> None:
    def broken(_progress: Progress, _cancelled: CancelCheck) -> None:
        raise RuntimeError("a string broke")

    told = Told().start(jobs, work=broken)
    told.settle(jobs, qtbot)
    assert told.calls == {"failed": 1}
    jobs.shut_down()
    late = Told().start(jobs)
    assert late.calls == {"stopped": 1}
    assert not late.begun.is_set()


def test_work_of_no_document_goes_on_when_another_opens(jobs: Jobs, qtbot: QtBot) -> None:
    told = Told().start(jobs, "save")
    jobs.belong_to("another")
    told.settle(jobs, qtbot)
    assert told.results == ["done"]


@pytest.mark.parametrize(("kind", "waited"), [("document", False), ("save", True)])
def test_what_only_computes_is_not_waited_for_for_long_and_what_writes_is(
    qapp: QApplication, kind: str, waited: bool
) -> None:
    jobs, begun, gate = Jobs(), threading.Event(), threading.Event()

    def work(_progress: Progress, _cancelled: CancelCheck) -> None:
        begun.set()
        gate.wait(30)  # deaf to being cancelled

    jobs.start(kind, work, finished=lambda _none: None)
    assert begun.wait(30)
    threads = list(jobs._threads.values())
    if waited:
        threading.Timer(0.2, gate.set).start()
    assert jobs.shut_down(patience_s=0.01) == waited
    gate.set()
    for thread in threads:
        thread.wait()
