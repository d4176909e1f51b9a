"""The open document, what is selected in it, and its undo history."""

from dataclasses import replace
from pathlib import Path

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtGui import QUndoCommand, QUndoStack

from notcher.core.arrays import FloatArray
from notcher.core.errors import NotcherError
from notcher.core.formats import Document
from notcher.core.hearing import Analysis, Draft, Hint, Measured, TuningProposal, joined, with_steered_span
from notcher.core.neck import retuned
from notcher.core.score import EMPTY_SCORE, BeatMap, Mark, Note, Phrase, Revision, Score, Tuning
from notcher.core.score.edits import unchecked_where_changed

NOTHING = -1


class EditScore(QUndoCommand):
    """Put another score in place; the menu shows its name."""

    def __init__(self, session: "Session", name: str, after: Score, select: int, *, continues: bool = False) -> None:
        super().__init__(name)
        self._continues = continues
        self._session = session
        self._before, self._after = session.score, after
        self._selected_before, self._select = session.selected, select

    def id(self) -> int:
        return 1

    def mergeWith(self, other: QUndoCommand | None) -> bool:
        """A drag or a typed number is one step: what goes on from this command becomes part of it."""
        if not (isinstance(other, EditScore) and other._continues):
            return False
        self._after, self._select = other._after, other._select
        self.setText(other.text())
        return True

    def redo(self) -> None:
        self._session.replace(self._after, self._select)

    def undo(self) -> None:
        self._session.replace(self._before, self._selected_before)


class Session(QObject):
    """One document at a time; every change of it goes through `edit`."""

    opened = pyqtSignal()
    evidence_changed = pyqtSignal()
    score_changed = pyqtSignal()
    selection_changed = pyqtSignal(int)
    refused = pyqtSignal(str)
    revisions_changed = pyqtSignal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.document = Document(EMPTY_SCORE)
        self.path: Path | None = None
        self.tunings: tuple[TuningProposal, ...] = ()
        self.heard: Draft | None = None
        self.undo_stack = QUndoStack(self)
        self.opening = 0  # counts the documents opened: what was begun for one must not land in the next
        self.selected = self.anchor = NOTHING

    @property
    def score(self) -> Score:
        return self.document.score

    @property
    def analysis(self) -> Analysis | None:
        """All that the hearing rests on; None until this document's recording was heard."""
        return self.heard.analysis if self.heard is not None else None

    @property
    def measured(self) -> Measured:
        """What every claim is held against: of all strings once the recording was heard, of the lead before that."""
        if self.heard is not None:
            return self.heard.measured
        return Measured((self.document.track,), self.score.tuning.offset_cents)

    @property
    def note(self) -> Note | None:
        return self.score.notes[self.selected] if 0 <= self.selected < len(self.score.notes) else None

    @property
    def selection(self) -> list[int]:
        """The selected notes' indices, rising; empty in an empty score."""
        if self.note is None:
            return []
        first, last = sorted((self.selected, min(max(self.anchor, 0), len(self.score.notes) - 1)))
        return list(range(first, last + 1))

    @property
    def attacks_s(self) -> FloatArray:
        """Where attacks were heard, seconds."""
        return self.document.attacks_s

    @property
    def phrase(self) -> Phrase | None:
        """The phrase that the selected note lies in."""
        note = self.note
        return None if note is None else self.score.phrase_at(note.onset_s)

    def open(self, document: Document, path: Path | None, tunings: tuple[TuningProposal, ...] = ()) -> None:
        """Put another document in place; its history begins anew."""
        self.opening += 1
        self.undo_stack.clear()
        self.document, self.path, self.tunings, self.heard = document, path, tunings, None
        self.selected = self.anchor = 0 if document.score.notes else NOTHING
        self.opened.emit()
        self.score_changed.emit()
        self.selection_changed.emit(self.selected)

    def redraft(self, heard: Draft) -> None:
        """Take a new draft of the same recording: the notes can be undone, the evidence is replaced."""
        self.take_evidence(heard)
        self.edit("Hear again", replace(heard.score, title=self.score.title), select=0)
        self.opened.emit()

    def take_rest(self, heard: Draft, until_s: float) -> None:
        """Take the draft of a whole recording whose first phrases are open already, and maybe corrected."""
        untouched = self.undo_stack.isClean() and not self.undo_stack.canUndo()
        self.take_evidence(heard)
        whole = replace(heard.score, title=self.score.title)
        if untouched:
            self.document = replace(self.document, score=whole)
            self.score_changed.emit()
            self.select(self.selected)
        else:
            self.edit("Draft the rest", joined(self.score, whole, until_s))

    def steer(self, heard: Draft, hint: Hint) -> None:
        """Take what is heard with a new hint: the notes under it change, all others stay."""
        self.take_evidence(heard)
        self.edit("Steer the lead", with_steered_span(self.score, heard.score, hint))

    def take_evidence(self, heard: Draft) -> None:
        """Keep what a draft rests on; the notes stay."""
        self.document = replace(self.document, track=heard.track, attacks_s=heard.attacks_s)
        self.tunings, self.heard = heard.tunings or self.tunings, heard
        self.evidence_changed.emit()

    def edit(self, name: str, after: Score, *, select: int | None = None, continues: bool = False) -> None:
        """Make a change that can be undone. continues: it belongs to the step before (a second figure, a drag)."""
        after = unchecked_where_changed(self.score, after)
        if after != self.score:
            select = self.selected if select is None else select
            self.undo_stack.push(EditScore(self, name, after, select, continues=continues))

    def set_beat_map(self, beat_map: BeatMap, name: str) -> None:
        self.edit(name, replace(self.score, beat_map=beat_map))

    def set_marks(self, marks: tuple[Mark, ...], name: str) -> None:
        self.edit(name, replace(self.score, marks=marks))

    def retune(self, tuning: Tuning, name: str) -> None:
        """Put the solo on another tuning; a note that does not fit is told through `refused`."""
        try:
            self.edit(f"Tune to {name}", retuned(self.score, tuning))
        except NotcherError as problem:
            self.refused.emit(str(problem))

    def replace(self, score: Score, select: int) -> None:
        """Show another score; only undo commands call this."""
        same = len(score.notes) == len(self.score.notes) and select == self.selected
        self.document = replace(self.document, score=score)
        self.score_changed.emit()
        self.select(select, extend=same)

    def select(self, index: int, *, extend: bool = False) -> None:
        """Choose a note; out of range means the nearest, or nothing in an empty score.

        extend: all notes from the one chosen before to this one are selected.
        """
        count = len(self.score.notes)
        self.selected = max(0, min(index, count - 1)) if count else NOTHING
        if not extend:
            self.anchor = self.selected
        self.selection_changed.emit(self.selected)

    # --- kept states ---
    def keep_state(self, name: str, saved_at: str) -> None:
        """Keep the score as it is now under a name; this is no edit of it."""
        kept = (*self.document.revisions, Revision(name, saved_at, self.score))
        self.document = replace(self.document, revisions=kept)
        self.revisions_changed.emit()

    def forget_state(self, index: int) -> None:
        kept = tuple(revision for at, revision in enumerate(self.document.revisions) if at != index)
        self.document = replace(self.document, revisions=kept)
        self.revisions_changed.emit()

    def go_back_to(self, index: int) -> None:
        """Make a kept state the score again, as a step that can be undone."""
        revision = self.document.revisions[index]
        self.edit(f"Go back to “{revision.name}”", revision.score)
