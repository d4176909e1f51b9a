"""Opening documents, recordings, the demo, an empty page, and what a Notcher that was killed has left behind."""

from dataclasses import replace
from pathlib import Path

from PyQt6.QtWidgets import QFileDialog, QInputDialog, QMenu, QWidget

from notcher.core.formats import Document, Unsaved, read_document
from notcher.core.score import BeatMap, Score
from notcher.core.sound import SOUND_ENDINGS
from notcher.demo import TITLE, demo_audio
from notcher.ui.shell.analysing import Analysing, Beginning
from notcher.ui.shell.autosave import Autosave
from notcher.ui.shell.notices import NoticeBar
from notcher.ui.shell.saving import DOCUMENTS, Saving
from notcher.ui.state.session import Session
from notcher.ui.state.settings import Settings
from notcher.ui.state.shell import Bench, Shell

OPENABLE = f"All that Notcher opens (*.notch {SOUND_ENDINGS})"
FILTERS = f"{OPENABLE};;{DOCUMENTS};;Recordings ({SOUND_ENDINGS})"


class Opening:
    """Puts another document in place, after what is unsaved was dealt with."""

    def __init__(
        self,
        session: Session,
        settings: Settings,
        saving: Saving,
        analysing: Analysing,
        autosave: Autosave,
        notices: NoticeBar,
        shell: Shell,
        parent: QWidget,
    ) -> None:
        self._session, self._settings, self._saving = session, settings, saving
        self._analysing, self._autosave, self._notices = analysing, autosave, notices
        self._shell, self._parent = shell, parent

    def ask(self) -> None:
        path, _ = QFileDialog.getOpenFileName(self._parent, "Open", "", FILTERS)
        if path:
            self.open_path(path)

    def open_demo(self) -> None:
        """Open the demo's recording and draft it."""
        self._saving.before_leaving(lambda: self._draft(demo_audio("lead"), TITLE))

    def open_path(self, path: str) -> None:
        """Open a document or a recording."""
        file = Path(path)
        if file.suffix.lower() == ".notch":
            self._saving.before_leaving(lambda: self._read(file))
        else:
            self._saving.before_leaving(lambda: self._draft(file, None))

    def _read(self, file: Path) -> None:
        def done(document: Document) -> None:
            self._session.open(document, file)
            self._settings.add_recent(str(file.absolute()))

        self._notices.hide()
        self._shell.run_job("Opening", lambda _progress, _cancelled: read_document(file), done)

    def _draft(self, file: Path, title: str | None) -> None:
        """Open a recording. title: of what is no file of the user's."""

        def done(begun: Beginning) -> None:
            heard, clip = begun.heard, begun.clip
            score = replace(heard.score, title=clip.name.rsplit(".", 1)[0] if title is None else title)
            self._session.open(Document(score, clip, heard.track, heard.attacks_s), None, heard.tunings)
            if title is None:
                self._settings.add_recent(str(file.absolute()))
            self._analysing.go_on(begun)

        self._notices.hide()
        self._shell.run_job("Hearing", self._analysing.beginning(file), done)

    def new_by_hand(self) -> None:
        """Begin a solo without a recording, against a beat."""
        self._saving.before_leaving(self._ask_tempo)

    def _ask_tempo(self) -> None:
        tempo, sure = QInputDialog.getInt(self._parent, "Write by hand", "Beats a minute", 100, 30, 300)
        if sure:
            score = Score(beat_map=BeatMap.steady(float(tempo), 0.0), title="By hand")
            self._session.open(Document(score), None)
            self._shell.show_bench(Bench.NOTCH)
            self._shell.notice(
                "I writes the next note, figures give its fret; Ctrl+I lets a click on the neck write it."
            )

    def fill_recent(self, menu: QMenu) -> None:
        """Put the files opened lately into a menu."""
        menu.clear()
        for path in self._settings.recent:
            menu.addAction(Path(path).name, lambda path=path: self.open_path(path))
        nothing = menu.addAction("Nothing opened yet") if not self._settings.recent else None
        if nothing is not None:
            nothing.setEnabled(False)

    # --- what a kill left ---
    def offer_unsaved(self) -> None:
        """Say what a Notcher that was killed has left behind, and offer to open it."""
        unsaved = next(self._autosave.recovery.found(), None)
        if unsaved is None:
            return
        when = unsaved.kept_at.strftime("%d %b, %H:%M")
        self._notices.say(
            f"Unsaved work on “{unsaved.title or 'Untitled'}” from {when} was found: Notcher did not end well.",
            ("Open it", lambda: self._open_unsaved(unsaved)),
            ("Throw it away", lambda: self._discard_unsaved(unsaved)),
        )

    def _open_unsaved(self, unsaved: Unsaved) -> None:
        recovery = self._autosave.recovery

        def done(document: Document) -> None:
            self._session.open(document, unsaved.path)
            self._saving.mark_unsaved()  # not saved until the user does
            recovery.discard(unsaved)
            self._autosave.keep_now()

        self._notices.hide()
        self._shell.run_job("Opening", lambda _progress, _cancelled: recovery.read(unsaved), done)

    def _discard_unsaved(self, unsaved: Unsaved) -> None:
        self._autosave.recovery.discard(unsaved)
        self._notices.hide()
        self.offer_unsaved()
