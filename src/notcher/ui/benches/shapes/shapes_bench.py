"""The Shapes bench: the statement in large words, the solo as its shapes, and what is chosen of them."""

from pathlib import Path

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QStackedWidget, QVBoxLayout, QWidget

from notcher.core.errors import NotcherError
from notcher.core.formats import atomic_write
from notcher.core.patterns import Occurrence
from notcher.core.theory import outside_notes, share_on_beats
from notcher.core.words import (
    USUAL,
    Naming,
    group_words,
    key_words,
    many,
    moved_words,
    outside_words,
    seconds,
    shape_words,
    statement,
)
from notcher.painting.shapes_picture import shapes_pdf
from notcher.painting.theme import PAPER, Theme
from notcher.ui.benches.shapes.shapes_view import ShapesView
from notcher.ui.benches.shapes.versions_page import OtherVersion, VersionsPage
from notcher.ui.state.meaning import Meaning
from notcher.ui.state.session import Session
from notcher.ui.widgets.asking import ask_file_to_write
from notcher.ui.widgets.plain import Label

PDF = ".pdf"
Span = tuple[float, float]


class ShapesBench(QWidget):
    """Shows what comes again; says which notes or which sound of it is wanted."""

    notes_requested = pyqtSignal(int, int)  # first and last note
    both_requested = pyqtSignal(list)  # spans in seconds, to be heard one after the other
    notice = pyqtSignal(str)

    def __init__(self, session: Session, meaning: Meaning, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session, self._meaning, self._naming = session, meaning, USUAL
        self.statement, self.facts, self.chosen = Label(), Label(), Label()
        self.view = ShapesView(self)
        self.notes_button, self.both_button = QPushButton("Show the notes"), QPushButton("Play both")
        self.versions = VersionsPage()
        self._look: tuple[Theme, float] = (PAPER, 1.0)
        self._lay_out()
        self.versions.close_requested.connect(self.show_shapes)
        self.view.chosen_changed.connect(self._show_chosen)
        self.view.notes_requested.connect(self.show_notes)
        self.notes_button.clicked.connect(self.show_notes)
        self.both_button.clicked.connect(self.play_both)
        meaning.changed.connect(self._on_changed)

    def _lay_out(self) -> None:
        self.facts.setProperty("soft", True)
        self.statement.setProperty("statement", True)
        for label in (self.statement, self.facts, self.chosen):
            label.setWordWrap(True)
        for button in (self.notes_button, self.both_button):
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)  # a click leaves the keys with the shapes
        self.notes_button.setToolTip("Go to these notes in the tab (Return)")
        self.both_button.setToolTip("Hear the first playing and then this one (B)")
        card = QFrame()
        card.setProperty("card", True)
        row = QHBoxLayout(card)
        row.setContentsMargins(12, 6, 12, 6)
        row.addWidget(self.chosen, 1)
        row.addWidget(self.both_button)
        row.addWidget(self.notes_button)
        page = self.shapes_page = QWidget()
        column = QVBoxLayout(page)
        column.setContentsMargins(14, 8, 14, 8)
        column.setSpacing(6)
        column.addWidget(self.statement)
        column.addWidget(self.facts)
        column.addWidget(self.view, 1)
        column.addWidget(card)
        self.pages = QStackedWidget()
        self.pages.addWidget(page)
        self.pages.addWidget(self.versions)
        self.pages.setFocusProxy(self.view)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.addWidget(self.pages)

    def show_theme(self, theme: Theme, scale: float) -> None:
        self.view.show_theme(theme, scale)
        self._look = theme, scale
        self.versions.show_look(theme, scale, self._naming)

    def set_naming(self, naming: Naming) -> None:
        self._naming = naming
        self.versions.show_look(*self._look, naming)
        self._on_changed()

    # --- pages ---
    def show_shapes(self) -> None:
        """Show what comes again."""
        self._turn_to(self.shapes_page, self.view)

    def leave_page(self) -> bool:
        """Go back from another version to the shapes; return whether it was in view."""
        if not self.versions.isVisible():
            return False
        self.show_shapes()
        return True

    def show_version(self, version: OtherVersion) -> None:
        """Show another version beside the open solo."""
        self.versions.show_version(version)
        self._turn_to(self.versions, self.versions.list)

    def _turn_to(self, page: QWidget, focused: QWidget) -> None:
        self.pages.setCurrentWidget(page)
        self.pages.setFocusProxy(focused)  # what has the keys while this page is in view
        self.pages.setFocus()

    # --- what is shown ---
    def _on_changed(self) -> None:
        meaning = self._meaning
        self.statement.setText(statement(meaning.patterns) if meaning.score.notes else "There are no notes yet.")
        self.facts.setText(" · ".join(self._facts()))
        self.view.show_shapes(meaning.score, meaning.shapes, meaning.lines)

    def _facts(self) -> list[str]:
        meaning = self._meaning
        result = []
        if meaning.keys:
            key = key_words(meaning.keys, meaning.score.tuning, self._naming)
            result.append(f"{key}, {outside_words(outside_notes(meaning.score, meaning.keys[0]))}")
        share = share_on_beats(meaning.targets)
        if share is not None:
            result.append(f"{share:.0%} of the notes on beats are tones of their chord")
        all_patterns = (*meaning.patterns.groups, *meaning.patterns.outlines)
        groups = list(dict.fromkeys(group_words(group) for group in all_patterns))
        if groups:
            result.append(", ".join(groups[:3]) + (" and more" if len(groups) > 3 else ""))
        return result

    def _show_chosen(self) -> None:
        shape, occurrence = self.view.shape, self.view.playing
        usable = shape is not None and occurrence is not None
        self.notes_button.setEnabled(usable)
        self.both_button.setEnabled(usable)
        if shape is None or occurrence is None:
            self.chosen.setText("")
            return
        at = seconds(self._meaning.score.notes[occurrence.first].onset_s, 2, self._naming)
        if self.view.column == 0:
            self.chosen.setText(f"At {at}, where it first comes: {shape_words(shape)}.")
        else:
            self.chosen.setText(f"At {at}: {moved_words(occurrence, shape.kind)}.")
        self.view.setAccessibleDescription(self.chosen.text())

    # --- what is asked for ---
    def ask_pdf(self) -> None:
        """Ask where to write the shapes as pages."""
        name = self._meaning.score.title or "untitled"

        def chosen(path: str) -> None:
            self.write_pdf(path if path.endswith(PDF) else f"{path}{PDF}")

        ask_file_to_write(self, "Write the shapes", f"{name} shapes{PDF}", f"*{PDF}", chosen)

    def write_pdf(self, path: str) -> None:
        """Write the shapes as pages, for the desk or a student."""
        meaning = self._meaning
        text = statement(meaning.patterns)
        pages = shapes_pdf(meaning.score, meaning.shapes, text, PAPER, lines=meaning.lines)
        try:
            with atomic_write(path) as stream:
                stream.write(pages)
        except NotcherError as problem:
            self.notice.emit(str(problem))
            return
        file = Path(path)
        self.notice.emit(f"{many(len(meaning.shapes), 'shape')} written: “{file.name}” in {file.parent}.")

    def chosen_need(self) -> str:
        return "" if self.view.playing is not None else "No shape is chosen: nothing comes again here yet."

    def show_notes(self) -> None:
        """Ask for the notes of the chosen playing."""
        if (occurrence := self.view.playing) is not None:
            self.notes_requested.emit(occurrence.first, occurrence.last)

    def play_both(self) -> None:
        """Ask for the first playing and then the chosen one; with the first chosen, for the second after it."""
        shape, occurrence = self.view.shape, self.view.playing
        if shape is not None and occurrence is not None:
            other = occurrence if self.view.column else shape.occurrences[1]
            self.both_requested.emit([self._span(shape.occurrences[0]), self._span(other)])

    def _span(self, occurrence: Occurrence) -> Span:
        notes = self._meaning.score.notes[occurrence.first : occurrence.last + 1]
        return notes[0].onset_s, max(note.offset_s for note in notes)
