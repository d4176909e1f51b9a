"""The lick catalogue over any bench: a line in the guitarist's words, what it finds, and what can be done with it."""

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import QEvent, QObject, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QDockWidget, QHBoxLayout, QLineEdit, QPushButton, QVBoxLayout, QWidget

from notcher.core.errors import CancelCheck, NotcherError, Progress
from notcher.core.score import EMPTY_SCORE, Score, excerpt
from notcher.core.words import Naming, many
from notcher.painting.theme import Theme
from notcher.ui.state.jobs import Jobs, Work
from notcher.ui.state.ledger_state import LedgerState
from notcher.ui.state.session import Session
from notcher.ui.state.shell import Shell
from notcher.ui.widgets.asking import ask_folder
from notcher.ui.widgets.plain import Label

if TYPE_CHECKING:
    from notcher.core.catalogue.catalogue import Catalogue, FoundPhrase, Gathered
    from notcher.core.ledger.record import Record

TYPING_MS = 150  # a search waits for the word, and no pause is felt
HINT = "A minor pentatonic bends, fast around fret 12, over the fourth …"
NOTHING_YET = "Nothing is gathered yet. “Gather a folder…” takes in the phrases of all documents in it."


class CataloguePanel(QDockWidget):
    """Finds phrases and says which is wanted, and what for."""

    hear_requested = pyqtSignal(list, float)
    drop_requested = pyqtSignal(object)  # the phrase as a score
    open_requested = pyqtSignal(str, str)  # path, phrase id

    def __init__(
        self, session: Session, jobs: Jobs, shell: Shell, ledger: LedgerState, parent: QWidget | None = None
    ) -> None:
        super().__init__("Lick catalogue", parent)
        self._session, self._jobs, self._shell, self._ledger = session, jobs, shell, ledger
        self._catalogue: Catalogue | None = None
        self._example: Score | None = None
        self._size = 0
        self.setObjectName("catalogue")
        self.setAllowedAreas(Qt.DockWidgetArea.LeftDockWidgetArea | Qt.DockWidgetArea.RightDockWidgetArea)
        self.setFeatures(QDockWidget.DockWidgetFeature.DockWidgetClosable)
        self.line, self.said = QLineEdit(), Label()
        self.line.setPlaceholderText(HINT)
        self.line.setAccessibleName("What to look for, in a guitarist's words")
        self.said.setProperty("soft", True)
        self.said.setWordWrap(True)
        self.hear_button, self.drop_button = QPushButton("Hear"), QPushButton("Insert lick")
        self.open_button, self.gather_button = QPushButton("Open its solo"), QPushButton("Scan folder…")
        self.words_button = QPushButton("Clear example")
        self.words_button.hide()
        self._typing = QTimer(self)
        self._typing.setSingleShot(True)
        self._typing.setInterval(TYPING_MS)
        self._typing.timeout.connect(self.search)
        self.view: Any = None
        self._model: Any = None
        self._inside = QWidget()
        self._column = QVBoxLayout(self._inside)
        self._look: Callable[[], None] = lambda: None
        self._lay_out()
        self.line.textChanged.connect(lambda _text: self._typing.start())
        self.line.installEventFilter(self)
        for button, act in (
            (self.hear_button, self.hear), (self.drop_button, self.drop),
            (self.open_button, self.open_source), (self.gather_button, self.ask_folder),
            (self.words_button, self.no_example),
        ):  # fmt: skip
            button.clicked.connect(act)
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)

    def _lay_out(self) -> None:
        above = QHBoxLayout()
        for button in (self.hear_button, self.drop_button):
            above.addWidget(button)
        below = QHBoxLayout()
        for button in (self.open_button, self.gather_button):
            below.addWidget(button)
        self._column.setContentsMargins(8, 6, 8, 8)
        self._column.addWidget(self.line)
        self._column.addWidget(self.said)
        self._column.addWidget(self.words_button)
        self._column.addStretch(1)
        self._column.addLayout(above)
        self._column.addLayout(below)
        self.setWidget(self._inside)
        self.setMinimumWidth(360)

    # --- looks ---
    def show_theme(self, theme: Theme, scale: float) -> None:
        self._theme = theme, scale
        self._dress()

    def set_naming(self, naming: Naming) -> None:
        self._naming = naming
        self._dress()

    def _dress(self) -> None:
        if self.view is not None and hasattr(self, "_theme") and hasattr(self, "_naming"):
            self._delegate.theme, self._delegate.scale = self._theme
            self._model.naming = self._naming
            self._model.layoutChanged.emit()

    # --- opening ---
    def toggle(self) -> None:
        """Open the catalogue and put the cursor into its line; close it when it has the keys."""
        if self.isVisible() and self.isAncestorOf(self.focusWidget() or self):
            self.leave()
            return
        self._example = None
        self.open_panel()
        self.search()

    def open_panel(self) -> None:
        self.show()
        self.line.setFocus()
        self.line.selectAll()
        if self._catalogue is None:
            self.said.setText("Opening the catalogue …")
            self._ledger.ask(_opened, self._on_opened, self._tell)

    def leave(self) -> None:
        """Close it, and give the keys back to the bench."""
        self.hide()
        self._shell.take_keys_back()

    def _on_opened(self, opened: "tuple[Catalogue, int]") -> None:
        if self._catalogue is not None:  # it was asked for twice
            return
        from notcher.ui.benches.ledger.found_list import FoundModel, found_view

        self._catalogue, self._size = opened
        if self.view is not None:
            self._model.clear()
            self.search()
            return
        self._model = FoundModel(self._read)
        self.view, self._delegate = found_view(self._model)
        self.view.doubleClicked.connect(lambda _index: self.hear())
        self._column.insertWidget(3, self.view, 1)
        self._column.setStretch(4, 0)
        self._dress()
        self.search()

    def close_ledger(self) -> None:
        """The window closes, or another ledger is put in place."""
        self._typing.stop()
        self._catalogue = None

    def _run(self, work: Work, when_done: Callable[[Any], None]) -> None:
        self._jobs.start("catalogue", work, finished=when_done, failed=self._tell)

    def _tell(self, problem: Exception) -> None:
        """What went wrong stands in the panel; what was found before stays."""
        if isinstance(problem, NotcherError):
            self.said.setText(str(problem))
        else:
            self._shell.tell_failure(problem)

    def _read(self, found_id: int) -> Score:
        try:
            return self._catalogue.music([found_id]).get(found_id, EMPTY_SCORE) if self._catalogue else EMPTY_SCORE
        except (NotcherError, ValueError):
            return EMPTY_SCORE

    # --- gathering ---
    def ask_folder(self) -> None:
        """Ask for the folder whose documents are gathered."""
        ask_folder(self, "Gather the phrases of all documents in", self.gather)

    def gather(self, folder: str) -> None:
        """Take in all documents of a folder beside the window."""
        catalogue = self._catalogue
        if catalogue is None:
            return

        def work(progress: Progress, cancelled: CancelCheck) -> "tuple[Gathered, int]":
            return catalogue.gather(Path(folder), progress=progress, cancelled=cancelled), catalogue.size

        self._shell.run_job("Gathering", work, self._on_gathered)

    def _on_gathered(self, outcome: "tuple[Gathered, int]") -> None:
        gathered, self._size = outcome
        self._model.clear()
        self.search()
        text = f"{many(gathered.documents, 'document')} with {many(gathered.phrases, 'phrase')} taken in"
        text += f", {gathered.unchanged} as before" if gathered.unchanged else ""
        text += f", {gathered.gone} gone" if gathered.gone else ""
        if gathered.unreadable:
            names = ", ".join(name for name, _ in gathered.unreadable[:3])
            text += f". {many(len(gathered.unreadable), 'document')} could not be read: {names}"
        self._shell.notice(f"{text}.")

    # --- finding ---
    def search(self) -> None:
        """Look for what the line says, and, where there is an example, for what is like it."""
        self._typing.stop()
        catalogue = self._catalogue
        if catalogue is None:
            return
        from notcher.core.catalogue.query import query_from_text

        query, example = query_from_text(self.line.text()), self._example

        def work(_progress: Progress, _cancelled: CancelCheck) -> "list[FoundPhrase]":
            return catalogue.search(query) if example is None else catalogue.like(example, query)

        self._run(work, lambda rows: self._show(rows, query.text))

    def _show(self, rows: "list[FoundPhrase]", text: tuple[str, ...]) -> None:
        self._model.show(rows)
        if rows:
            self.view.setCurrentIndex(self._model.index(0))
        for button in (self.hear_button, self.drop_button, self.open_button):
            button.setEnabled(bool(rows))
        self.words_button.setVisible(self._example is not None)
        if not self._size:
            self.said.setText(NOTHING_YET)
            return
        like = "like the phrase of the tab" if self._example is not None else "found"
        words = f"{len(rows)} of {many(self._size, 'phrase')} {like}"
        named = f"; {' '.join(text)} is looked for in names" if text else ""
        self.said.setText(f"{words}{named}.")

    def like_selected(self) -> None:
        """Look for phrases like the one at the selected note."""
        phrase, score = self._session.phrase, self._session.score
        if phrase is None:
            return
        self._example = excerpt(score, phrase.start_s, phrase.end_s)
        self.line.blockSignals(True)
        self.line.clear()
        self.line.blockSignals(False)
        self.open_panel()
        self.search()

    def no_example(self) -> None:
        """Look by words alone again."""
        self._example = None
        self.search()

    def need_found(self) -> str:
        """Why nothing can be done with what was found; empty when something can."""
        return "" if self._row is not None else "No phrase of the catalogue is chosen."

    # --- what is done with it ---
    @property
    def _row(self) -> int | None:
        if self.view is None or not self._model.rows:
            return None
        row = self.view.currentIndex().row()
        return row if 0 <= row < len(self._model.rows) else None

    def hear(self) -> None:
        """Play the chosen phrase."""
        if (row := self._row) is not None:
            self.hear_requested.emit([self._model.music(row)], 0.0)

    def drop(self) -> None:
        """Put the chosen phrase into the solo at the playhead."""
        if (row := self._row) is not None:
            self.drop_requested.emit(self._model.music(row))

    def open_source(self) -> None:
        """Open the document it comes from, at the phrase."""
        if (row := self._row) is not None:
            row_found = self._model.rows[row]
            self.open_requested.emit(str(row_found.path), row_found.phrase_id)

    # --- keys ---
    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        """From the line the arrows lead into the list."""
        pressed = isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress
        if pressed and self.view is not None and event.key() in (Qt.Key.Key_Down, Qt.Key.Key_Up):  # type: ignore[union-attr]
            self.view.setFocus()
            return True
        return super().eventFilter(watched, event)


def _opened(record: "Record") -> "tuple[Catalogue, int]":
    from notcher.core.catalogue.catalogue import Catalogue

    catalogue = Catalogue(record.ledger)
    return catalogue, catalogue.size
