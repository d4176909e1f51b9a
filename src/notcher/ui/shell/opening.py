"""Opening documents, recordings, the demo, an empty page, and what a Notcher that was killed has left behind."""

from collections.abc import Callable, Mapping
from dataclasses import replace
from pathlib import Path
from typing import Any

from PyQt6.QtGui import QGuiApplication
from PyQt6.QtWidgets import QMenu

from notcher.core.errors import NO_UTF_8, readable
from notcher.core.formats import (
    IMPORT_ENDINGS,
    Document,
    ImportResult,
    OpenLock,
    Recovered,
    Unsaved,
    is_importable,
    looks_like_tab,
    read_document,
    read_import,
    read_pasted,
)
from notcher.core.parsing import beat_map_from_text
from notcher.core.score import EDGE_S, Score
from notcher.core.score.beat_map import TEMPO_RANGE
from notcher.core.sound import SOUND_ENDINGS
from notcher.core.words import many
from notcher.demo import TITLE, demo_audio
from notcher.ui.benches.context import Context
from notcher.ui.shell.analysing import Analysing, Beginning
from notcher.ui.shell.autosave import Autosave
from notcher.ui.shell.notices import NoticeBar
from notcher.ui.shell.saving import DOCUMENTS, Saving
from notcher.ui.state.shell import Bench
from notcher.ui.widgets.asking import ask_choice, ask_file_to_open, ask_what_to_do
from notcher.ui.widgets.form import Field, ask_form

OPENABLE = f"All that Notcher opens (*.notch {SOUND_ENDINGS} {IMPORT_ENDINGS})"
FILTERS = f"{OPENABLE};;{DOCUMENTS};;Recordings ({SOUND_ENDINGS});;Text tab and MusicXML ({IMPORT_ENDINGS})"
TOLD = 2  # things that could not be read are told; the rest is counted


class Opening:
    """Puts another document in place, after what is unsaved was dealt with."""

    def __init__(
        self,
        context: Context,
        saving: Saving,
        analysing: Analysing,
        autosave: Autosave,
        lock: OpenLock,
        notices: NoticeBar,
    ) -> None:
        self._session, self._jobs, self._settings = context.session, context.jobs, context.settings
        self._practice, self._shell, self._parent = context.practice, context.shell, context.parent
        self._saving, self._analysing, self._autosave = saving, analysing, autosave
        self._lock, self._notices = lock, notices
        self._asked_of: Score | None = None  # what was given up or saved for what is being opened
        self._thrown: dict[Path, Unsaved] = {}

    def ask(self) -> None:
        self.ask_for("Open", self.open_path)

    def ask_for(self, title: str, then: Callable[[str], None]) -> None:
        """Ask for a file that can be opened."""
        ask_file_to_open(self._parent, title, FILTERS, then)

    def open_demo(self) -> None:
        """Open the demo's recording and draft it."""
        self._before_leaving(lambda: self._draft(demo_audio("lead"), TITLE))

    def open_path(self, path: str) -> None:
        """Open a document or a recording."""
        file = Path(path)
        if file.suffix.lower() == ".notch":
            self._before_leaving(lambda: self._read(file))
        elif is_importable(file):
            self._before_leaving(lambda: self._import(file))
        else:
            self._before_leaving(lambda: self._draft(file, None))

    def open_at(self, path: str, phrase_id: str) -> None:
        """Open a document at one of its phrases."""
        self._before_leaving(lambda: self._read(Path(path), phrase_id))

    def _read(self, file: Path, phrase_id: str = "") -> None:
        def done(document: Document) -> None:
            self._put(lambda: self._show_read(document, file, phrase_id))

        self._notices.quiet()
        self._shell.run_job("Opening", lambda _progress, _cancelled: read_document(file), done)

    def _show_read(self, document: Document, file: Path, phrase_id: str) -> None:
        alone = self._lock.hold(file)
        self._session.open(document, file)
        phrase = self._session.score.phrase_of(phrase_id)
        if phrase is not None:
            self._session.select_at(phrase.start_s - EDGE_S)
        self._settings.add_recent(str(file.absolute()))
        self._tell_name(file)
        if document.said:
            self._shell.notice(document.said)
        if not alone:
            self._shell.notice(
                f"“{file.name}” is open in another window as well: what is saved there and here would overwrite each "
                "other. Save under another name to go on here."
            )

    def _import(self, file: Path, part: str = "") -> None:
        """Open somebody else's tab or score as a new document without a recording. part: which of several."""

        def done(reading: ImportResult) -> None:
            if len(reading.parts) > 1 and not part:
                self._ask_part(reading, file)
            else:
                self._put(lambda: self._show_import(reading, file))

        self._notices.quiet()
        self._shell.run_job("Reading", lambda _progress, _cancelled: read_import(file, part=part), done)

    def open_text(self, text: str) -> None:
        """Open a tab that was copied or dropped as text, as a new document."""

        def done(reading: ImportResult) -> None:
            self._put(lambda: self._show_reading(reading, reading.score.title or "Copied tab"))

        self._before_leaving(
            lambda: self._shell.run_job("Reading", lambda _progress, _cancelled: read_pasted(text), done)
        )

    def open_copied(self) -> None:
        """Open the tab that was copied in another program."""
        self.open_text(_copied_text())

    def copied_need(self) -> str:
        """Why no copied tab can be opened; empty when one can."""
        found = looks_like_tab(_copied_text())
        return "" if found else "No tab was copied: copy its lines in the mail or page first."

    def _ask_part(self, reading: ImportResult, file: Path) -> None:
        """Ask which of several parts is wanted."""

        def chosen(part: str) -> None:
            self._import(file, part)

        ask_choice(self._parent, "Several parts", "Which one is the lead?", reading.parts, reading.part, chosen)

    def _show_import(self, reading: ImportResult, file: Path) -> None:
        self._show_reading(reading, reading.score.title or file.stem)
        self._settings.add_recent(str(file.absolute()))

    def _show_reading(self, reading: ImportResult, title: str) -> None:
        self._lock.release()
        score = replace(reading.score, title=title)
        self._session.open(Document(score), None)
        text = f"{many(len(score.notes), 'note')} read"
        if reading.unread:
            first = "; ".join(str(unread) for unread in reading.unread[:TOLD])
            more = len(reading.unread) - TOLD
            text += f". Not understood: {first}{f'; {more} more' if more > 0 else ''}"
        self._shell.notice(f"{text}. File, Sync the tab to a recording, gives the notes their times.")

    def _draft(self, file: Path, title: str | None) -> None:
        """Open a recording. title: of what is no file of the user's."""

        def done(begun: Beginning) -> None:
            self._put(lambda: self._show_draft(begun, file, title))

        self._notices.quiet()
        self._shell.run_job("Hearing", self._analysing.beginning(file), done)

    def _show_draft(self, begun: Beginning, file: Path, title: str | None) -> None:
        drafted, clip = begun.heard, begun.clip
        score = replace(drafted.score, title=clip.name.rsplit(".", 1)[0] if title is None else title)
        self._lock.release()
        document = Document(score, clip, drafted.track, drafted.attacks_s)
        self._session.open(document, None, drafted.tunings, source=file.absolute())
        if title is None:
            self._settings.add_recent(str(file.absolute()))
        self._tell_name(file)
        self._analysing.go_on(begun)

    def _tell_name(self, file: Path) -> None:
        """Say it of a file whose name other programs may not find."""
        if readable(file.name) != file.name:
            self._shell.offer(f"“{readable(file.name)}”: {NO_UTF_8}", ("OK", self._shell.withdraw))

    def _put(self, show: Callable[[], None]) -> None:
        """Show what was opened; what was changed while it was being opened is asked about first."""
        if self._session.document.score is self._asked_of:
            show()
        else:
            self._saving.before_leaving(show)
        self._asked_of = None

    def _before_leaving(self, go_on: Callable[[], None]) -> None:
        """Ask about what is unsaved; until it is changed again that is asked once."""

        def asked() -> None:
            self._asked_of = self._session.document.score
            go_on()

        self._asked_of = None
        self._saving.before_leaving(asked)

    def new_by_hand(self) -> None:
        """Begin a solo without a recording, against a beat."""
        self._saving.before_leaving(self._ask_beat)

    def _ask_beat(self) -> None:
        fields = [
            Field("meter", "Meter", "4/4", hint="4/4, 6/8, 5/4 …"),
            Field("tempo_bpm", "Beats a minute", 100.0, "number", low=TEMPO_RANGE[0], high=TEMPO_RANGE[1], decimals=1,
                  unit=" bpm"),
            Field("lead_in", "Lead-in before bar 1", 0.0, "number", high=16.0, decimals=2, unit=" quarters",
                  low_words="none"),
        ]  # fmt: skip
        ask_form(self._parent, "Write by hand", fields, self._begin_by_hand)

    def _begin_by_hand(self, said: Mapping[str, Any]) -> None:
        beat_map = beat_map_from_text(f"{said['meter']} {said['tempo_bpm']:g} {said['lead_in']:g}")
        self._jobs.cancel("document")  # what was being opened is not wanted any more
        self._lock.release()
        self._session.open(Document(Score(beat_map=beat_map, title="By hand")), None)
        self._shell.show_bench(Bench.NOTCH)
        self._shell.notice("Type a fret, or click on the neck: it is the next note. Up and down choose its string.")

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
        found = (unsaved for unsaved in self._autosave.recovery.found() if unsaved.folder not in self._thrown)
        unsaved = next(found, None)
        if unsaved is None:
            return
        when = unsaved.kept_at.strftime("%d %b, %H:%M")
        title = unsaved.title or (unsaved.path.stem if unsaved.path is not None else "Untitled")
        self._notices.offer(
            f"Unsaved work on “{title}” from {when} was found: it had not been saved.",
            ("Open it", lambda: self._open_unsaved(unsaved)),
            ("Throw it away…", lambda: self._ask_discard(unsaved, title)),
        )

    def _open_unsaved(self, unsaved: Unsaved) -> None:
        recovery = self._autosave.recovery

        def done(recovered: Recovered) -> None:
            self._put(lambda: show(recovered))

        def show(recovered: Recovered) -> None:
            alone = unsaved.path is None or self._lock.hold(unsaved.path)
            self._session.open(recovered.document, unsaved.path)
            self._session.mark_recovered()  # not saved until the user does
            for take, clip in recovered.takes:
                self._practice.add_take(take, clip)
            self._autosave.keep_before(lambda: self._practice.ledger.in_turn(lambda: recovery.discard(unsaved)))
            if recovered.missing or not alone:
                self._shell.notice(recovered.missing or f"“{unsaved.path}” is open in another window as well.")

        self._notices.withdraw()
        self._shell.run_job("Opening", lambda _progress, _cancelled: recovery.read(unsaved), done)

    def _ask_discard(self, unsaved: Unsaved, title: str) -> None:
        ask_what_to_do(
            self._parent,
            "Throw it away?",
            f"“{title}” has changes that are saved nowhere else.",
            (("Keep it", lambda: None), ("Throw it away", lambda: self._throw_away(unsaved, title))),
        )

    def _throw_away(self, unsaved: Unsaved, title: str) -> None:
        """Offer it no more; until the program ends it can be brought back."""
        self._thrown[unsaved.folder] = unsaved
        self._notices.withdraw()
        self._notices.offer(
            f"The unsaved work on “{title}” goes when Notcher ends.",
            ("Bring it back", lambda: self._bring_back(unsaved)),
            ("OK", self._done_with),
        )

    def _bring_back(self, unsaved: Unsaved) -> None:
        self._thrown.pop(unsaved.folder, None)
        self._done_with()

    def _done_with(self) -> None:
        self._notices.withdraw()
        self.offer_unsaved()

    def close(self) -> None:
        """The program ends: what was thrown away goes for good."""
        for unsaved in self._thrown.values():
            self._autosave.recovery.discard(unsaved)


def _copied_text() -> str:
    board = QGuiApplication.clipboard()
    return board.text() if board is not None else ""
