"""What every bench is given, what it gives back when it is installed, and what benches ask without knowing whom."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date
from typing import Protocol

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QWidget

from notcher.core.formats import TakeStream
from notcher.core.proving import Take
from notcher.core.words import Naming
from notcher.devices import GuitarInput, Loudspeaker, Voice
from notcher.painting.theme import THEMES, Theme
from notcher.ui.commands.command import Command, Scope
from notcher.ui.commands.preconditions import Preconditions
from notcher.ui.commands.registry import Registry
from notcher.ui.playback.player import Player
from notcher.ui.playback.playhead import Playhead
from notcher.ui.playback.sources import Sources
from notcher.ui.playback.transport import Transport
from notcher.ui.state.jobs import Jobs
from notcher.ui.state.ledger_state import LedgerState
from notcher.ui.state.meaning import Meaning
from notcher.ui.state.practice import Practice
from notcher.ui.state.session import Session
from notcher.ui.state.settings import Settings
from notcher.ui.state.shell import Shell


class Requests(QObject):
    """What a bench asks of whoever can do it; the shell and other benches answer."""

    open_at = pyqtSignal(str, str)  # a document's path, a phrase's id
    open_path = pyqtSignal(str)
    file = pyqtSignal(str, object)  # under which title it is asked for, and what is told the chosen path
    analysis = pyqtSignal()  # of the recording that is open
    lick = pyqtSignal(object)  # a score to be dropped in at the playhead
    note = pyqtSignal(str)  # to be shown on the tab, by its id
    notes = pyqtSignal(int, int)  # first and last, to be shown on the tab


@dataclass(frozen=True, slots=True)
class Devices:
    """What is plugged in, or simulated."""

    speaker: Loudspeaker
    guitar: GuitarInput
    voice: Voice | None


@dataclass(frozen=True, slots=True)
class Context:
    """What a bench may use. today, clock: see `Program`. take_stream: keeps a take while it is recorded.

    phrases_in_hand: the ids of those that are chosen where phrases are taught; none in particular elsewhere.
    """

    session: Session
    jobs: Jobs
    settings: Settings
    ledger: LedgerState
    practice: Practice
    meaning: Meaning
    player: Player
    sources: Sources
    playhead: Playhead
    transport: Transport
    devices: Devices
    commands: Registry
    preconditions: Preconditions
    shell: Shell
    parent: QWidget
    requests: Requests
    today: Callable[[], date]
    clock: Callable[[], float]
    take_stream: Callable[[Take, int], TakeStream]
    phrases_in_hand: Callable[[], tuple[str, ...]]

    @property
    def look(self) -> tuple[Theme, float, Naming]:
        """The theme, the text's scale and how things are called, as they are chosen now."""
        return THEMES[self.settings.get("theme")], self.settings.get("text_scale"), self.settings.naming


class Themed(Protocol):
    def show_theme(self, theme: Theme, scale: float) -> None: ...


class Named(Protocol):
    def set_naming(self, naming: Naming) -> None: ...


def _nothing() -> None: ...


@dataclass(slots=True, kw_only=True)
class Installed:
    """A bench in its place.

    widget, focus: what is shown, and what in it has the keys. commands: in the menus' order. scopes: the widgets on
    which keys of a scope work. themed, named: what follows the look and the naming. configure: called when settings are
    others. shown: when it comes to the front. leave_page: goes back from a page that lies over it, if one does.
    stop: when the program ends.
    """

    widget: QWidget
    focus: QWidget
    commands: Sequence[Command] = ()
    scopes: Mapping[Scope, QWidget] = field(default_factory=dict)
    themed: Sequence[Themed] = ()
    named: Sequence[Named] = ()
    configure: Callable[[], None] = _nothing
    shown: Callable[[], None] = _nothing
    leave_page: Callable[[], bool] = lambda: False
    stop: Callable[[], None] = _nothing
