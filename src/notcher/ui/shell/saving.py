"""Saving the document, writing it as other formats, and asking before unsaved changes are left."""

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QWidget

from notcher.core.errors import CancelCheck, NotcherError, Progress
from notcher.core.formats import EXPORTS, Document, FileStamp, export, stamp_of, write_document
from notcher.core.formats.files.atomic import link_words
from notcher.core.score import new_id
from notcher.core.words import many
from notcher.ui.shell.autosave import Autosave
from notcher.ui.state.jobs import Jobs
from notcher.ui.state.session import Session
from notcher.ui.state.settings import Settings
from notcher.ui.state.shell import Shell
from notcher.ui.widgets.asking import ask_file_to_write, ask_what_to_do

DOCUMENTS = "Notcher documents (*.notch)"


def _nothing_more() -> None:
    """Saving was all."""


class Saving(QObject):
    """Saves off the UI thread, one save at a time; each belongs to the document that it was begun for.

    unfinished: asked before the document is left; ends what is still running and would be lost.
    """

    changed = pyqtSignal()  # whether something is unsaved, or where it is saved

    def __init__(
        self,
        session: Session,
        jobs: Jobs,
        settings: Settings,
        autosave: Autosave,
        shell: Shell,
        parent: QWidget,
        unfinished: Callable[[], None] = _nothing_more,
    ) -> None:
        super().__init__(parent)
        self._session, self._jobs, self._settings = session, jobs, settings
        self._autosave, self._shell, self._parent = autosave, shell, parent
        self._finish = unfinished
        self._stamp: FileStamp | None = None  # of the file as this program has read or written it
        self._waiting: list[Callable[[], None]] = []
        session.undo_stack.cleanChanged.connect(lambda _clean: self.changed.emit())
        session.saved_changed.connect(self.changed)
        session.revisions_changed.connect(self.changed)
        session.opened.connect(self._on_opened)

    @property
    def clean(self) -> bool:
        """Whether everything is saved; a fresh draft without any edit counts as saved."""
        return not self._session.unsaved

    def _on_opened(self) -> None:
        self._stamp = None if self._session.path is None else stamp_of(self._session.path)

    # --- saving ---
    def save(self, then: Callable[[], None] = _nothing_more) -> None:
        """Save under the document's name; ask for one when it has none. then: called once it was saved."""
        path = self._session.path
        if path is None:
            self.save_as(then)
        elif self._stamp is not None and (now := stamp_of(path)) != self._stamp:
            self._ask_about_other(path, then, gone=now is None)
        else:
            self.save_to(path, then)

    def save_as(self, then: Callable[[], None] = _nothing_more) -> None:
        """Ask where to save."""
        name = self._session.score.title or "untitled"

        def chosen(path: str) -> None:
            self.save_to(Path(path) if path.endswith(".notch") else Path(f"{path}.notch"), then)

        ask_file_to_write(self._parent, "Save as", f"{name}.notch", DOCUMENTS, chosen)

    def _ask_about_other(self, path: Path, then: Callable[[], None], *, gone: bool) -> None:
        """Somebody else has written, renamed or deleted the file since it was opened: nothing is decided silently."""
        if gone:
            title, anyway = "Not there any more", "Save it there again"
            sentence = f"“{path.name}” is not in {path.parent} any more: it was renamed, moved or deleted."
        else:
            title, anyway = "Changed on disk", "Save over it"
            sentence = f"“{path.name}” was changed by somebody else since you opened it. Saving over it loses that."
        ask_what_to_do(
            self._parent,
            title,
            sentence,
            (("Save under another name", lambda: self.save_as(then)), (anyway, lambda: self.save_to(path, then))),
        )

    def save_to(self, path: Path, then: Callable[[], None] = _nothing_more) -> None:
        """Save to a file; what is changed meanwhile stays unsaved, and what is opened meanwhile is another document."""
        if self._jobs.runs("save"):  # one at a time, so that the older state cannot be written last
            self._waiting.append(lambda: self.save_to(path, then))
            return
        session, step = self._session, self._session.undo_stack.index()
        before, moved = session.document, session.path is not None and session.path != path
        document = replace(before, id=new_id()) if moved else before  # a copy is a document of its own

        def work(_progress: Progress, _cancelled: CancelCheck) -> tuple[FileStamp | None, str]:
            words = link_words(path)
            write_document(document, path)
            return stamp_of(path), words

        def done(written: tuple[FileStamp | None, str]) -> None:
            stamp, words = written
            if words:
                self._shell.notice(words)
            self._settings.add_recent(str(path.absolute()))
            if session.document.id == before.id:
                self._take_as_saved(document, path, stamp, step)
                then()
            self._go_on()

        def failed(problem: Exception) -> None:
            self._waiting.clear()
            self._shell.tell_failure(problem)

        self._jobs.start("save", work, finished=done, failed=failed)

    def _take_as_saved(self, document: Document, path: Path, stamp: FileStamp | None, step: int) -> None:
        session = self._session
        session.path, self._stamp = path, stamp
        if session.document.id != document.id:
            session.renewed(document.id)
        session.mark_saved(document, step)
        if not session.unsaved:
            self._autosave.saved()
        self.changed.emit()

    def _go_on(self) -> None:
        """Do what has waited for the end of a save."""
        waiting, self._waiting = self._waiting, []
        for act in waiting:
            act()

    # --- leaving ---
    def before_leaving(self, go_on: Callable[[], None]) -> None:
        """Go on at once, or after what is unsaved was saved or given up; or not at all."""
        if self._jobs.runs("save"):
            self._waiting.append(lambda: self.before_leaving(go_on))
            return
        self._finish()
        if self.clean:
            go_on()
            return
        ask_what_to_do(
            self._parent,
            "Unsaved changes",
            f"“{self._session.score.title or 'Untitled'}” has changes that are not saved.",
            (("Save them", lambda: self.save(go_on)), ("Give them up", go_on)),
        )

    # --- other formats ---
    def ask_export(self, ending: str) -> None:
        """Say what a format does not hold, and ask where to write the score in it."""
        self._shell.notice(EXPORTS[ending].loses)
        name = self._session.score.title or "untitled"

        def chosen(path: str) -> None:
            self.export_to(path if path.endswith(ending) else f"{path}{ending}")

        ask_file_to_write(self._parent, "Write as", f"{name}{ending}", f"*{ending}", chosen)

    def export_to(self, path: str) -> None:
        """Write the score in the format that the name's ending says."""
        file, score = Path(path), self._session.score
        try:
            export(score, path, self._session.document.track)
        except NotcherError as problem:
            self._shell.notice(str(problem))
            return
        called = EXPORTS[file.suffix].name if file.suffix in EXPORTS else file.suffix
        self._shell.notice(f"{called} of {many(len(score.notes), 'note')} was written: “{file.name}” in {file.parent}.")
