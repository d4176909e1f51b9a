"""What can keep a sheet from being printed."""

from notcher.core.errors import NotcherError


class NothingToPrintError(NotcherError):
    """There is nothing that a sheet could show."""

    def __init__(self, problem: str = "There are no notes to print.", remedy: str = "") -> None:
        super().__init__(problem, remedy or "Hear a recording or write some notes first.")
