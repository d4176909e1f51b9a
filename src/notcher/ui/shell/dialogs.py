"""The window's own dialogs; none of them holds anything up while it is open."""

from collections.abc import Callable
from datetime import datetime
from functools import partial

from PyQt6.QtWidgets import QWidget

from notcher import __version__
from notcher.core.mixing import missing_parts
from notcher.devices import GuitarInput, Loudspeaker, PluggedInput, PluggedLoudspeaker, SoundServer
from notcher.painting.theme import THEMES
from notcher.ui.commands.finder import CommandFinder, Findable
from notcher.ui.commands.keys_dialog import KeysDialog
from notcher.ui.commands.registry import Registry
from notcher.ui.playback.devices_dialog import DevicesDialog
from notcher.ui.playback.volumes_dialog import VolumesDialog
from notcher.ui.shell.facts_dialog import FactsDialog
from notcher.ui.shell.guide import GuideDialog, keys_page, page_titles
from notcher.ui.shell.legend import LegendDialog
from notcher.ui.shell.log import LOG, LogDialog
from notcher.ui.shell.settings_dialog import USUAL_ROWS, SettingsDialog
from notcher.ui.shell.states import StatesDialog
from notcher.ui.state.session import Session
from notcher.ui.state.settings import ROUND_SETTINGS, WEIGHT_SETTINGS, Settings
from notcher.ui.state.shell import Shell
from notcher.ui.widgets.asking import ask_text, tell


class Dialogs:
    """Opens them over the window. settings_changed: told the names of the settings that are others now.

    levels_changed: called at each step of a volume. place: which page of the guide is about what is in view.
    """

    def __init__(
        self,
        registry: Registry,
        session: Session,
        settings: Settings,
        shell: Shell,
        settings_changed: Callable[[set[str]], None],
        levels_changed: Callable[[], None],
        place: Callable[[], str],
        parent: QWidget,
    ) -> None:
        self._registry, self._session, self._settings = registry, session, settings
        self._shell, self._parent = shell, parent
        self._settings_changed, self._levels_changed = settings_changed, levels_changed
        self._place = place
        self._guide: GuideDialog | None = None
        self.log_path = LOG
        self.findables: tuple[Callable[[], list[Findable]], ...] = ()  # what the finder finds of the work
        self.plugged: tuple[SoundServer | None, Loudspeaker | None, GuitarInput | None] = (None, None, None)

    def finder(self) -> None:
        pages = [
            Findable(title, "guide page", "help manual", partial(self.guide, name))
            for name, title in page_titles().items()
        ]
        settings = [
            Findable(setting.label, "setting", f"settings {setting.help}", partial(self.settings, setting.name))
            for setting in USUAL_ROWS
        ]
        others = [found for findable in self.findables for found in findable()]
        CommandFinder(self._registry, [*others, *settings, *pages], self._parent).open()

    def keys(self) -> None:
        KeysDialog(self._registry, self._parent).open()

    def states(self) -> None:
        StatesDialog(self._session, self._settings.naming, self._parent).open()

    def facts(self) -> None:
        FactsDialog(self._session, self._parent).open()

    def settings(self, name: str = "") -> None:
        """name: the setting that has the keys first."""
        by_foot = {command.id: command.label for command in self._registry if command.hands_free}
        self._open(SettingsDialog(self._settings, by_foot, self._parent)).go_to(name)

    def weights(self) -> None:
        """How much each part of a phrase's difficulty counts."""
        title = "What makes a phrase hard"
        self._open(SettingsDialog(self._settings, {}, self._parent, title=title, rows=WEIGHT_SETTINGS))

    def rounds(self) -> None:
        """What is changed of a loop in the midst of a lesson."""
        self._open(SettingsDialog(self._settings, {}, self._parent, title="Rounds of a loop", rows=ROUND_SETTINGS))

    def _open(self, dialog: SettingsDialog) -> SettingsDialog:
        dialog.accepted.connect(lambda: self._settings_changed(dialog.changed))
        dialog.open()
        return dialog

    def volumes(self) -> None:
        missing = missing_parts(self._session.document.clip, self._session.score)
        VolumesDialog(self._settings, self._levels_changed, self._parent, missing).open()

    def devices_need(self) -> str:
        """Why no device can be chosen; empty when one can."""
        return "" if self._plugged_devices is not None else "The devices of this window are given; there is no choice."

    @property
    def _plugged_devices(self) -> tuple[SoundServer, PluggedLoudspeaker, PluggedInput] | None:
        server, speaker, guitar = self.plugged
        if server is None or not isinstance(speaker, PluggedLoudspeaker) or not isinstance(guitar, PluggedInput):
            return None
        return server, speaker, guitar

    def devices(self) -> None:
        if (plugged := self._plugged_devices) is not None:
            DevicesDialog(*plugged, self._settings, self._parent).open()

    def guide(self, page: str = "") -> None:
        """Open the guide beside the work, at a page, or at that of what is in view."""
        if self._guide is not None:
            self._guide.deleteLater()
        commands = [
            (str(command.scope), command.label, self._registry.keys_shown(command.id)) for command in self._registry
        ]
        self._guide = GuideDialog(self._settings.get("text_scale"), keys_page(commands), self._parent)
        self._guide.finished.connect(self._parent.activateWindow)
        self._guide.show()
        self._guide.turn_to(page or self._place())

    def legend(self) -> None:
        self.made_legend().open()

    def made_legend(self) -> LegendDialog:
        """Return the legend with all keys, in the window's look."""
        keys = [(command.label, self._registry.keys_shown(command.id)) for command in self._registry.in_menu_order()]
        theme, scale = THEMES[self._settings.get("theme")], self._settings.get("text_scale")
        return LegendDialog(theme, scale, [(label, key) for label, key in keys if key], self._parent)

    def save_snapshot(self) -> None:
        """Ask for a name, and keep the score as it is now under it."""
        snapshot_count = len(self._session.document.revisions)

        def keep(name: str) -> None:
            if name.strip():
                self._session.save_snapshot(name.strip(), datetime.now().isoformat(timespec="seconds"))
                self._shell.notice(
                    f"“{name.strip()}” is kept with the document. Edit, Snapshots compares and goes back."
                )

        ask_text(self._parent, "Save snapshot", "Name of the snapshot", f"Snapshot {snapshot_count + 1}", keep)

    def log(self) -> None:
        LogDialog(self.log_path, self._parent).open()

    def about(self) -> None:
        tell(
            self._parent,
            "About Notcher",
            f"Notcher {__version__}\nMeasured tablature for lead guitar teachers.\nFree software, GPL-3.0-or-later.",
        )
