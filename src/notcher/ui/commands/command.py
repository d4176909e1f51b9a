"""One thing that can be done: its identity, its words, where its keys work, when it can run."""

from collections.abc import Callable
from dataclasses import dataclass
from enum import StrEnum

from notcher.ui.commands.wording import WORDING

Precondition = Callable[[], str]
"""Asked before a command runs: why it cannot, in a sentence; empty when it can."""


class Scope(StrEnum):
    """Where a command's keys work."""

    EVERYWHERE = "everywhere"
    TAB = "the tab"
    WRITING = "the tab, in step entry"
    PROVE = "the Prove bench"
    SHAPES = "the Shapes bench"
    BOARD = "the practice board"
    CATALOGUE = "the lick catalogue"
    VERSIONS = "another version"
    SHEETS = "the Sheets bench"
    LEDGER = "the Students bench"
    TAKES = "the takes"


@dataclass(frozen=True)
class Command:
    """One entry of the registry.

    id: never shown, never changed; keys and footswitch are stored by it, and its label, its menu and the words it is
    found by stand under it in `wording`. keys: the usual ones. preconditions: asked in turn, the first that is not met
    says why. checked: whether it is switched on, for what can be. hands_free: it makes sense by foot, with both hands
    on the guitar. also: other keys that many desktops have for it; they work as long as no other command has them.
    """

    id: str
    run: Callable[[], object]
    keys: str = ""
    scope: Scope = Scope.EVERYWHERE
    preconditions: tuple[Precondition, ...] = ()
    checked: Callable[[], bool] | None = None
    hands_free: bool = False
    also: str = ""

    @property
    def label(self) -> str:
        """As menus show it."""
        return WORDING[self.id].label

    @property
    def menu(self) -> str:
        """The path to its menu, such as "File/Export"."""
        return WORDING[self.id].menu

    @property
    def words(self) -> str:
        """What else a guitarist would type to find it."""
        return WORDING[self.id].words

    @property
    def disabled_reason(self) -> str:
        """Why it cannot run now; empty when it can."""
        return next((reason for need in self.preconditions if (reason := need())), "")


SHADOWS = {Scope.WRITING: Scope.TAB}
"""Scopes that are active only at times, and whose keys stand before the same keys of another scope then."""


def overlap(first: Scope, second: Scope) -> bool:
    """Whether keys in two scopes could be meant for either."""
    return first is second or Scope.EVERYWHERE in (first, second)
