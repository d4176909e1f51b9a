"""What a part may ask of the window around it, and nothing else of it."""

from collections.abc import Callable
from enum import StrEnum
from typing import Any, Protocol

from notcher.ui.state.jobs import Work

Offer = tuple[str, Callable[[], None]]
"""A button's words, and what it does."""


class Bench(StrEnum):
    """The benches, in working order."""

    HEAR = "hear"
    NOTCH = "notch"
    PROVE = "prove"
    SHAPES = "shapes"
    TEACH = "teach"
    SHEETS = "sheets"
    LEDGER = "ledger"


class Shell(Protocol):
    """The window as its parts see it."""

    def notice(self, sentence: str) -> None:
        """Say something without stopping the work."""

    def offer(self, sentence: str, *offers: Offer) -> None:
        """Show what is offered, with a button each, until one is taken or it is withdrawn."""

    def withdraw(self) -> None:
        """Offer no more what is offered now."""

    def quiet(self) -> None:
        """Take away what was said: it is no longer news."""

    def tell_failure(self, problem: Exception) -> None:
        """Say what went wrong, in one sentence."""

    def show_bench(self, bench: Bench) -> None:
        """Bring a bench to the front."""

    def run_job(self, name: str, work: Work, then: Callable[[Any], None], *, document_id: str | None = None) -> None:
        """Run long work with a progress bar; there is one at a time. document_id: what it is begun for, if anything."""

    def take_keys_back(self) -> bool:
        """Give the keys to the bench in view; return whether something else had them."""

    def seek(self, time_s: float) -> None:
        """Put the playhead at a second of the recording."""

    def loop(self, span: tuple[float, float] | None) -> None:
        """Mark what goes round; None for playing on."""
