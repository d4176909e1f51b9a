"""What can go wrong in a way that a person can act on, and how long work is told to stop."""

import re
from collections.abc import Callable

Progress = Callable[[float], None]
"""Called with the share of the work done, 0..1."""

CancelCheck = Callable[[], bool]
"""Asked now and then; True ends the work with `Cancelled`."""


NO_UTF_8 = "The name is no UTF-8: rename the file, and other programs find it too."
_BYTE = re.compile(r"\\udc[89a-f][0-9a-f]|[\udc80-\udcff]")
"""A byte of a name that is no UTF-8, as Python keeps it (PEP 383), and as `repr` shows that."""


class NotcherError(Exception):
    """One sentence of what happened, one of what to do; shown on one line by window and command line alike.

    A file name in it that is no UTF-8 is said to be so.
    """

    def __init__(self, problem: str, remedy: str) -> None:
        if _BYTE.search(problem):
            problem, remedy = readable(problem), f"{remedy} {NO_UTF_8}"
        super().__init__(f"{problem} {remedy}")
        self.problem, self.remedy = problem, remedy


def readable(name: str) -> str:
    """Return a file's name as it can be shown and written: what is no UTF-8 in it becomes U+FFFD."""
    return _BYTE.sub("\N{REPLACEMENT CHARACTER}", name)


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
