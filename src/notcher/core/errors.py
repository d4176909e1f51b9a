"""What can go wrong in a way that a person can act on, and how long work is told to stop."""

from collections.abc import Callable

Progress = Callable[[float], None]
"""Called with the share of the work done, 0..1."""

CancelCheck = Callable[[], bool]
"""Asked now and then; True ends the work with `Cancelled`."""


class NotcherError(Exception):
    """One sentence of what happened, one of what to do; shown on one line by window and command line alike."""

    def __init__(self, problem: str, remedy: str) -> None:
        super().__init__(f"{problem} {remedy}")
        self.problem, self.remedy = problem, remedy


class Cancelled(Exception):  # noqa: N818 - not a failure: the person asked for it
    """The work was told to stop and did."""


def no_progress(_share: float) -> None:
    """Ignore progress."""


def never_cancelled() -> bool:
    """Go on to the end."""
    return False


def fault_words(problem: BaseException) -> str:
    """Return what a fault of our own is, on one line: its kind and what it says."""
    return " ".join(f"{type(problem).__name__}: {problem}".split())
