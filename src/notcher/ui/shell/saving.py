"""Saving the document, writing it as other formats, and asking before unsaved changes are left."""

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QFileDialog, QMessageBox, QWidget

from notcher.core.errors import CancelCheck, NotcherError, Progress
from notcher.core.formats import export, write_document
from notcher.ui.shell.autosave import Autosave
from notcher.ui.state.jobs import Jobs
from notcher.ui.state.session import Session
from notcher.ui.state.settings import Settings
from notcher.ui.state.shell import Shell

DOCUMENTS = "Notcher documents (*.notch)"


def _nothing_more() -> None:
    """Saving was all."""


class Saving(QObject):
    """Knows whether anything is unsaved, and saves it off the UI thread; nothing waits in a handler."""

    changed = pyqtSignal()  # whether something is unsaved, or where it is saved

    def __init__(
        self, session: Session, jobs: Jobs, settings: Settings, autosave: Autosave, shell: Shell, parent: QWidget
    ) -> None:
        super().__init__(parent)
        self._session, self._jobs, self._settings = session, jobs, settings
        self._autosave, self._shell, self._parent = autosave, shell, parent
        self._kept_unsaved = False
        session.undo_stack.cleanChanged.connect(lambda _clean: self.changed.emit())
        session.opened.connect(self._on_opened)

    @property
    def clean(self) -> bool:
        """Whether everything is saved; a fresh draft without any edit counts as saved."""
        return self._session.undo_stack.isClean() and not self._kept_unsaved

    def mark_unsaved(self) -> None:
        """Something was kept with the document that undo does not know of."""
        self._kept_unsaved = True
        self.changed.emit()

    def _on_opened(self) -> None:
        self._kept_unsaved = False

    # --- saving ---
    def save(self, then: Callable[[], None] = _nothing_more) -> None:
        """Save under the document's name; ask for one when it has none. then: called once it was saved."""
        if self._session.path is None:
            self.save_as(then)
        else:
            self.save_to(self._session.path, then)

    def save_as(self, then: Callable[[], None] = _nothing_more) -> None:
        name = self._session.score.title or "untitled"
        path, _ = QFileDialog.getSaveFileName(self._parent, "Save as", f"{name}.notch", DOCUMENTS)
        if path:
            self.save_to(Path(path) if path.endswith(".notch") else Path(f"{path}.notch"), then)

    def save_to(self, path: Path, then: Callable[[], None] = _nothing_more) -> None:
        """Save to a file; what is changed meanwhile stays unsaved, and what is opened meanwhile is another document."""
        document, opening, step = self._session.document, self._session.opening, self._session.undo_stack.index()

        def work(_progress: Progress, _cancelled: CancelCheck) -> None:
            write_document(document, path)

        def done(_none: None) -> None:
            self._settings.add_recent(str(path.absolute()))
            if self._session.opening != opening:
                return
            self._session.path = path
            self._kept_unsaved = self._session.document.revisions != document.revisions
            if self._session.undo_stack.index() == step:
                self._session.undo_stack.setClean()
                self._autosave.forget()
            self.changed.emit()
            then()

        self._jobs.start("save", work, finished=done, failed=self._shell.tell_failure)

    # --- leaving ---
    def before_leaving(self, go_on: Callable[[], None]) -> None:
        """Go on at once, or after what is unsaved was saved or given up; or not at all."""
        if self.clean:
            go_on()
            return
        buttons = QMessageBox.StandardButton
        answer = QMessageBox.question(
            self._parent,
            "Unsaved changes",
            f"“{self._session.score.title or 'Untitled'}” has changes that are not saved. Save them first?",
            buttons.Save | buttons.Discard | buttons.Cancel,
        )
        if answer == buttons.Save:
            self.save(go_on)
        elif answer == buttons.Discard:
            go_on()

    # --- other formats ---
    def ask_export(self, ending: str) -> None:
        name = self._session.score.title or "untitled"
        path, _ = QFileDialog.getSaveFileName(self._parent, "Write as", f"{name}{ending}", f"*{ending}")
        if path:
            self.export_to(path if path.endswith(ending) else f"{path}{ending}")

    def export_to(self, path: str) -> None:
        """Write the score in the format that the name's ending says."""
        try:
            export(self._session.score, path)
        except NotcherError as problem:
            self._shell.notice(str(problem))
