"""The same solo in another version: both tabs over one time axis, and what was played otherwise, note by note."""

from dataclasses import dataclass

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from notcher.core.proving import Comparison, Difference
from notcher.core.score import Score
from notcher.core.sound import Clip
from notcher.core.words import USUAL, Naming, comparison_facts, comparison_words, difference_words, seconds
from notcher.painting.theme import PAPER, Theme
from notcher.ui.widgets.cards import scrolling
from notcher.ui.widgets.flow import FlowLayout
from notcher.ui.widgets.phrase_view import PhraseView
from notcher.ui.widgets.plain import Label

AROUND_S = 4.0  # on each side of a difference
HEARD_S = 1.2  # on each side of what is heard


@dataclass(frozen=True, eq=False)
class OtherVersion:
    """A version that the open solo is compared with. clip: its recording, None where it has none."""

    name: str
    comparison: Comparison
    clip: Clip | None


class VersionsPage(QWidget):
    """Shows one comparison; says what is to be heard, and which note is to be shown."""

    hear_requested = pyqtSignal(object, float, float, str)  # OtherVersion, from, to (in the open solo), which
    note_requested = pyqtSignal(str)  # its id
    close_requested = pyqtSignal()

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._version: OtherVersion | None = None
        self._over: Score | None = None
        self._look: tuple[Theme, float, Naming] = (PAPER, 1.0, USUAL)
        self.said, self.facts, self.list = Label(), Label(), QListWidget()
        self.facts.setProperty("soft", True)
        self.said.setProperty("statement", True)
        self.said.setWordWrap(True)
        self.list.setAccessibleName("What was played otherwise")
        self.names = Label("Here"), Label("There")
        self.here, self.there = PhraseView(*self._look), PhraseView(*self._look)
        self.both_button, self.note_button = QPushButton("Hear both, one after the other"), QPushButton("Show the note")
        self.here_button, self.there_button = QPushButton("Hear here"), QPushButton("Hear there")
        self.close_button = QPushButton("Close the comparison")
        self._lay_out()
        self.list.currentRowChanged.connect(lambda _row: self._show_row())
        acts = {
            self.both_button: self.hear_both,
            self.here_button: self.hear_here,
            self.there_button: self.hear_there,
            self.note_button: self.show_note,
            self.close_button: self.close_requested.emit,
        }
        for button, act in acts.items():
            button.clicked.connect(act)
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)

    def _lay_out(self) -> None:
        both = QWidget()
        layout = QVBoxLayout(both)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(5)
        layout.addWidget(self.said)
        layout.addWidget(self.facts)
        for name, view in zip(self.names, (self.here, self.there), strict=True):
            layout.addWidget(name)
            layout.addWidget(view, 1)
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 8, 14, 8)
        column.setSpacing(5)
        column.addWidget(scrolling(both), 3)
        column.addWidget(self.list, 2)
        acts = FlowLayout()
        for button in (
            self.both_button, self.here_button, self.there_button, self.note_button, self.close_button
        ):  # fmt: skip
            acts.addWidget(button)
        column.addLayout(acts)

    # --- looks ---
    def show_look(self, theme: Theme, scale: float, naming: Naming) -> None:
        self._look = theme, scale, naming
        for view in (self.here, self.there):
            view.set_look(*self._look)
        if self._version is not None:
            self._fill()

    # --- what is shown ---
    def show_version(self, version: OtherVersion) -> None:
        """Show what another version has otherwise, its first difference chosen."""
        self._version, self._over = version, version.comparison.second_over_first()
        self.said.setText(comparison_words(version.comparison))
        self.facts.setText(comparison_facts(version.comparison))
        self.names[1].setText(f"There: {version.name}")
        self._fill()
        self.list.setCurrentRow(0)
        self._show_row()

    def _fill(self) -> None:
        version = self._version
        if version is None:
            return
        row = self.list.currentRow()
        self.list.clear()
        for difference in version.comparison.differences:
            at = seconds(self._at_s(difference), 2, self._look[2])
            words = difference_words(difference, version.comparison, self._look[2])
            perhaps = "" if difference.sure else f"perhaps ({difference.certainty:.0%}): "
            self.list.addItem(QListWidgetItem(f"{at}   {perhaps}{words}"))
        self.list.setCurrentRow(max(0, min(row, self.list.count() - 1)))

    def _at_s(self, difference: Difference) -> float:
        """When a difference is, in the open solo."""
        assert self._version is not None
        comparison = self._version.comparison
        if difference.first is not None:
            return comparison.first.score.notes[difference.first].onset_s
        assert difference.second is not None
        return comparison.to_first(comparison.second.score.notes[difference.second].onset_s)

    @property
    def difference(self) -> Difference | None:
        """The chosen one."""
        row = self.list.currentRow()
        if self._version is None or not 0 <= row < len(self._version.comparison.differences):
            return None
        return self._version.comparison.differences[row]

    @property
    def has_version(self) -> bool:
        return self._version is not None

    def _show_row(self) -> None:
        version, chosen = self._version, self.difference
        for button in (self.both_button, self.here_button, self.there_button):
            button.setEnabled(version is not None)
        self.note_button.setEnabled(chosen is not None)
        if version is None or self._over is None:
            return
        comparison = version.comparison
        at_s = self._at_s(chosen) if chosen is not None else 0.0
        span_s = (max(0.0, at_s - AROUND_S), max(0.0, at_s - AROUND_S) + 2 * AROUND_S)
        first, second = comparison.first.score, self._over
        onsets_s = [note.onset_s for score in (first, second) for note in score.notes]
        mine = {first.notes[d.first].id for d in comparison.differences if d.first is not None}
        ids = {note.id for note in second.notes}
        theirs = {comparison.second.score.notes[d.second].id for d in comparison.differences if d.second is not None}
        self.here.show_phrase(first, span_s, onsets_s=onsets_s, marked=mine, cursor_s=at_s)
        self.there.show_phrase(second, span_s, onsets_s=onsets_s, marked=theirs & ids, cursor_s=at_s)

    def step(self, by: int) -> None:
        """Go to the next difference, or the one before."""
        count = self.list.count()
        if count:
            self.list.setCurrentRow(max(0, min(self.list.currentRow() + by, count - 1)))

    def need_difference(self) -> str:
        """Why there is nothing to hear or to show; empty when there is."""
        if self._version is None:
            return "No other version is open: Play, Compare opens one."
        return "" if self.difference is not None else "No differences."

    # --- what is asked for ---
    def hear_both(self) -> None:
        self._hear("both")

    def hear_here(self) -> None:
        self._hear("here")

    def hear_there(self) -> None:
        self._hear("there")

    def _hear(self, which: str) -> None:
        if self._version is not None:
            chosen = self.difference
            at_s = self._at_s(chosen) if chosen is not None else 0.0
            self.hear_requested.emit(self._version, max(0.0, at_s - HEARD_S), at_s + HEARD_S, which)

    def show_note(self) -> None:
        """Ask for the note of the open solo at the difference."""
        chosen, version = self.difference, self._version
        if chosen is not None and version is not None:
            score = version.comparison.first.score
            at = score.first_after(self._at_s(chosen)) if chosen.first is None else chosen.first
            self.note_requested.emit(score.notes[min(at, len(score.notes) - 1)].id)
