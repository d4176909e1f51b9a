"""One thing that can be done: its identity, its words, where its keys work, when it can run."""

from collections.abc import Callable
from dataclasses import dataclass
from enum import StrEnum

Precondition = Callable[[], str]
"""Asked before a command runs: why it cannot, in a sentence; empty when it can."""


class Scope(StrEnum):
    """Where a command's keys work."""

    EVERYWHERE = "everywhere"
    TAB = "the tab"
    WRITING = "the tab, while notes are written one after the other"
    PROVE = "the Prove bench"
    SHAPES = "the Shapes bench"
    BOARD = "the rung board"
    CATALOGUE = "the lick catalogue"
    VERSIONS = "another version"
    SHEETS = "the Sheets bench"
    LEDGER = "the Ledger bench"
    TAKES = "the takes"


@dataclass(frozen=True)
class Command:
    """One entry of the registry.

    id: never shown, never changed; keys and footswitch are stored by it. label: as menus show it. words: what else a
    guitarist would type to find it. menu: the path to its menu, empty for none. keys: the usual ones. needs: asked in
    turn, the first that is not met says why. checked: whether it is switched on, for what can be. separated: a line
    stands before it in its menu. hands_free: it makes sense by foot, with both hands on the guitar. also: other keys
    that many desktops have for it; they work as long as no other command is given them.
    """

    id: str
    label: str
    run: Callable[[], object]
    menu: str = ""
    keys: str = ""
    words: str = ""
    scope: Scope = Scope.EVERYWHERE
    preconditions: tuple[Precondition, ...] = ()
    checked: Callable[[], bool] | None = None
    separated: bool = False
    hands_free: bool = False
    also: str = ""

    @property
    def disabled_reason(self) -> str:
        """Why it cannot run now; empty when it can."""
        return next((reason for need in self.preconditions if (reason := need())), "")


SHADOWS = {Scope.WRITING: Scope.TAB}
"""Scopes that are active only at times, and whose keys stand before the same keys of another scope then."""


def overlap(first: Scope, second: Scope) -> bool:
    """Whether keys in two scopes could be meant for either."""
    return first is second or Scope.EVERYWHERE in (first, second)
