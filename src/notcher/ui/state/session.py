"""The open document, what is selected in it, and its undo history."""

from collections.abc import Collection
from dataclasses import replace
from pathlib import Path

import numpy as np
from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtGui import QUndoCommand

from notcher.core.arrays import FloatArray
from notcher.core.errors import NotcherError
from notcher.core.formats import Document
from notcher.core.hearing import (
    EMPTY_TRACK,
    NOTHING_UNCLAIMED,
    Analysis,
    Draft,
    Hint,
    Measured,
    TuningProposal,
    UnclaimedSounds,
    heard_again,
    rest_heard,
    steered,
)
from notcher.core.neck import Keeps, retuned
from notcher.core.score import (
    EMPTY_SCORE,
    NO_SELECTION,
    BeatMap,
    Note,
    Phrase,
    Revision,
    Score,
    Selection,
    Tuning,
    Variant,
)
from notcher.core.score.edits import unchecked_where_changed, with_beat_map
from notcher.core.sound import Clip
from notcher.ui.state.history import History


class EditScore(QUndoCommand):
    """Put another score in place; the menu shows its name."""

    def __init__(self, session: "Session", name: str, after: Score, select: str, *, continues: bool = False) -> None:
        super().__init__(name)
        self._continues = continues
        self._session = session
        self._before, self._after = session.document.score, after
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


class SetRecording(QUndoCommand):
    """Put another recording under the tab, and the tab at its times; or none."""

    def __init__(self, session: "Session", name: str, after: Document, draft: Draft | None) -> None:
        super().__init__(name)
        self._session = session
        self._before, self._heard_before = session.document, session.heard
        self._after, self._heard = after, draft

    def redo(self) -> None:
        self._session.put_recording(self._after, self._heard)

    def undo(self) -> None:
        self._session.put_recording(self._before, self._heard_before)


class Session(QObject):
    """One document at a time; every change of it goes through `edit`."""

    opened = pyqtSignal()
    evidence_changed = pyqtSignal()
    score_changed = pyqtSignal()
    selection_changed = pyqtSignal(str)  # the id of the note that keys act on first; empty for none
    notice = pyqtSignal(str)
    revisions_changed = pyqtSignal()
    saved_changed = pyqtSignal()  # whether what is open is saved, with no edit of it
    copied = pyqtSignal(str, str)  # the id before, and the copy's
    recording_changed = pyqtSignal()  # another one, or none, under the same tab
    variant_changed = pyqtSignal()  # which variant is in view

    def __init__(self, history: History | None = None, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.history = history or History(self)
        self.document = Document(EMPTY_SCORE)
        self.path: Path | None = None
        self.source: Path | None = None  # the file that the recording came from
        self.tunings: tuple[TuningProposal, ...] = ()
        self.heard: Draft | None = None
        self.undo_stack = self.history.music
        self._saved = self.document  # as it was opened or saved last
        self._unclaimed: tuple[tuple[object, ...], UnclaimedSounds] = ((), NOTHING_UNCLAIMED)
        self._recovered = False
        self._variant_id = ""  # of the variant in view; empty for the original
        self._view: tuple[Score, str, Score] = (EMPTY_SCORE, "", EMPTY_SCORE)
        self.selected = self.anchor = ""  # ids of the notes at the two ends of what is selected
        self._at: tuple[Score, str, int | None] = (EMPTY_SCORE, "", None)
        self._last_s = 0.0  # where the selected note lies, or lay

    @property
    def score(self) -> Score:
        """The solo as it is in view: as written, or with a phrase as one of its variants has it."""
        whole, variant = self.document.score, self.variant
        if variant is None:
            return whole
        if self._view[0] is not whole or self._view[1] != variant.id:
            self._view = whole, variant.id, whole.with_variant(variant)
        return self._view[2]

    @property
    def variant(self) -> Variant | None:
        """The variant in view; None for the original."""
        return self.document.score.variant_of(self._variant_id) if self._variant_id else None

    def show_variant(self, variant_id: str) -> None:
        """Bring a variant into view, or, by an empty id, the original; the note that is selected stays so if it can."""
        if variant_id == (self.variant.id if self.variant is not None else ""):
            return
        note = self.note
        self._variant_id = variant_id
        ids = {} if note is None else {other.source or other.id: other.id for other in self.score.notes}
        at = ids.get(note.source or note.id, "") if note is not None else ""
        self.score_changed.emit()
        self.variant_changed.emit()
        self.select(at)

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
    def unclaimed(self) -> UnclaimedSounds:
        """What was measured and nobody has written, in time order."""
        rests_on = (self.score, self.heard, self.document.track, self.attacks_s)
        cached_for = self._unclaimed[0]
        if len(cached_for) != len(rests_on) or any(a is not b for a, b in zip(cached_for, rests_on, strict=True)):
            sounds = UnclaimedSounds(self.score, self.measured, self.attacks_s, before=self._unclaimed[1])
            self._unclaimed = rests_on, sounds
        return self._unclaimed[1]

    def _index(self) -> int | None:
        """Where the selected note is; asked for at every key."""
        score, note_id, at = self._at
        if score is not self.score or note_id != self.selected:
            at = self.score.index_of(self.selected) if self.selected else None
            self._at = self.score, self.selected, at
        return at

    @property
    def note(self) -> Note | None:
        """The note that keys act on first."""
        at = self._index()
        return None if at is None else self.score.notes[at]

    @property
    def chosen(self) -> Selection:
        """All selected notes."""
        at = self._index()
        if at is None:
            return NO_SELECTION
        other = self.score.index_of(self.anchor) if self.anchor != self.selected else at
        first, last = sorted((at, at if other is None else other))
        return Selection(tuple(note.id for note in self.score.notes[first : last + 1]), self.selected)

    @property
    def attacks_s(self) -> FloatArray:
        """Where attacks were heard, seconds."""
        return self.document.attacks_s

    @property
    def phrase(self) -> Phrase | None:
        """The phrase that the selected note lies in."""
        note = self.note
        return None if note is None else self.score.phrase_at(note.onset_s)

    def open(
        self,
        document: Document,
        path: Path | None,
        tunings: tuple[TuningProposal, ...] = (),
        *,
        source: Path | None = None,
    ) -> None:
        """Put another document in place; its history begins anew. source: the file that its recording came from."""
        self.source = source
        self.undo_stack.clear()
        self._saved, self._recovered = document, False
        self.document, self.path, self.tunings, self.heard = document, path, tunings, None
        self._variant_id = ""
        self.selected = self.anchor = document.score.notes[0].id if document.score.notes else ""
        self.opened.emit()
        self.score_changed.emit()
        self.selection_changed.emit(self.selected)

    def select_one(self) -> bool:
        """Let go of all selected notes but the one that keys act on first; return whether there were others."""
        several = len(self.chosen.ids) > 1
        self.select(self.selected)
        return several

    def hear_again(self, draft: Draft) -> None:
        """Take a new draft of the same recording: the notes can be undone, the evidence is replaced."""
        self.show_variant("")
        self.take_evidence(draft)
        again = heard_again(self.score, draft.score)
        self.edit("Hear again", again, select=again.notes[0].id if again.notes else "")

    def take_rest(self, draft: Draft, begun: Score) -> None:
        """Take the draft of a whole recording whose first phrases are open already, and maybe corrected.

        begun: the first phrases as they were heard. Raises: NotcherError when the rest does not fit on the neck.
        """
        self.show_variant("")
        untouched, selected = self.undo_stack.isClean() and not self.undo_stack.canUndo(), self.note
        whole = rest_heard(begun, self.score, draft.score)
        self.take_evidence(draft)
        if untouched:
            self.document = replace(self.document, score=whole)
            self.score_changed.emit()
            self.select("" if selected is None else selected.id)
        else:
            self.edit("Draft the rest", whole)

    def steer(self, draft: Draft, hint: Hint) -> None:
        """Take what is heard with a new hint: the notes under it change, all others stay."""
        self.show_variant("")
        self.take_evidence(draft)
        self.edit("Steer the lead", steered(self.score, draft.score, hint))

    def take_evidence(self, draft: Draft) -> None:
        """Keep what a draft rests on; the notes stay."""
        self.document = replace(self.document, track=draft.track, attacks_s=draft.attacks_s)
        self.tunings, self.heard = draft.tunings or self.tunings, draft
        self.evidence_changed.emit()

    def edit(
        self,
        name: str,
        after: Score,
        *,
        select: str | None = None,
        continues: bool = False,
        looked_at: Collection[str] = (),
    ) -> None:
        """Make a change that can be undone.

        select: the id of the note that is selected then; None for the same. continues: it belongs to the step before (a
        second figure, a drag). looked_at: ids of notes that were held against the recording as they are now.
        """
        after = unchecked_where_changed(self.score, after, looked_at)
        if after != self.score:
            variant = self.variant
            whole = after if variant is None else self.document.score.merge_variant_edit(variant, after)
            self.undo_stack.push(
                EditScore(self, name, whole, self.selected if select is None else select, continues=continues)
            )

    def edit_variants(self, name: str, after: Score, *, show: str) -> None:
        """Take other variants, as a step that can be undone, and bring one into view. after: the whole score."""
        self.undo_stack.push(EditScore(self, name, after, self.selected))
        self.show_variant(show)

    def set_beat_map(self, beat_map: BeatMap, name: str, *, continues: bool = False) -> None:
        """Take another beat map: what was heard keeps its seconds, what was written by hand its beats."""
        by_hand = self.document.clip is None
        self.edit(name, with_beat_map(self.score, beat_map, keeps_beats=by_hand), continues=continues)

    # --- the recording ---
    def set_recording(self, name: str, clip: Clip | None, draft: Draft | None, score: Score) -> None:
        """Put another recording under the tab, as a step that can be undone. draft: what was heard in it.

        clip: None takes the recording away. score: the tab at its times.
        """
        self.show_variant("")
        track = draft.track if draft is not None else EMPTY_TRACK
        attacks_s = draft.attacks_s if draft is not None else np.zeros(0)
        after = replace(self.document, score=score, clip=clip, track=track, attacks_s=attacks_s)
        self.undo_stack.push(SetRecording(self, name, after, draft))

    def put_recording(self, document: Document, draft: Draft | None) -> None:
        """Put a recording and the tab at its times in place; what undoing and redoing it does."""
        self._variant_id = ""
        self.document = replace(
            self.document,
            score=document.score, clip=document.clip, track=document.track, attacks_s=document.attacks_s,
        )  # fmt: skip
        self.heard = draft
        self.recording_changed.emit()
        self.evidence_changed.emit()
        self.score_changed.emit()
        self.select(self.selected)

    @property
    def sound_saved(self) -> bool:
        """Whether the document's file holds the recording that is open."""
        return self.path is not None and self.document.clip is self._saved.clip

    # --- what is saved ---
    @property
    def unsaved(self) -> bool:
        """Whether anything is not saved; a fresh draft without any edit counts as saved."""
        now, then = self.document, self._saved
        return now.revisions != then.revisions or self._recovered or not self.undo_stack.isClean()

    def mark_recovered(self) -> None:
        """What is open was never saved, though nothing was edited since it was opened."""
        self._recovered = True
        self.saved_changed.emit()

    def mark_saved(self, document: Document, step: int) -> None:
        """A state of this document was saved: the score as it was at a step of the history, and all beside it."""
        self._saved, self._recovered = document, False
        if self.undo_stack.index() == step:
            self.undo_stack.setClean()
        self.saved_changed.emit()

    def renewed(self, document_id: str) -> None:
        """The document was saved as another one: it goes on under the other id."""
        self.copied.emit(self.document.id, document_id)
        self.document = replace(self.document, id=document_id)

    def retune(self, tuning: Tuning, keeps: Keeps = Keeps.PITCHES) -> None:
        """Put the solo on another tuning, or a capo on its neck; what does not fit is told through `notice`."""
        self.show_variant("")
        if tuning == self.score.tuning:
            return
        try:
            self.edit("Tuning", retuned(self.score, tuning, keeps=keeps))
        except NotcherError as problem:
            self.notice.emit(str(problem))

    def replace(self, score: Score, select: str) -> None:
        """Show another score; only undo commands call this."""
        shown, same = self.variant, select == self.selected and len(score.notes) == len(self.document.score.notes)
        self.document = replace(self.document, score=score)
        if shown is not None and self.variant is None:  # what was in view is not there any more
            self._variant_id = ""
            self.variant_changed.emit()
        self.score_changed.emit()
        self.select(select, extend=same)

    def select(self, note_id: str, *, extend: bool = False) -> None:
        """Choose a note; where it is not there the one that lies nearest, or nothing in an empty score.

        extend: all notes from the one chosen before to this one are selected.
        """
        notes = self.score.notes
        if notes and self.score.index_of(note_id) is None:
            note_id = notes[min(self.score.first_after(self._last_s), len(notes) - 1)].id
        self.selected = note_id if notes else ""
        if self.note is not None:
            self._last_s = self.note.onset_s
        if not extend or self.score.index_of(self.anchor) is None:
            self.anchor = self.selected
        self.selection_changed.emit(self.selected)

    def select_at(self, time_s: float) -> None:
        """Choose the first note from a time on, or the last."""
        notes = self.score.notes
        self.select(notes[min(self.score.first_after(time_s), len(notes) - 1)].id if notes else "")

    # --- kept states ---
    def save_snapshot(self, name: str, saved_at: str) -> None:
        """Keep the score as it is now under a name; this is no edit of it."""
        revisions = (*self.document.revisions, Revision(name, saved_at, self.document.score))
        self.document = replace(self.document, revisions=revisions)
        self.revisions_changed.emit()

    def discard_snapshot(self, index: int) -> None:
        revisions = tuple(revision for at, revision in enumerate(self.document.revisions) if at != index)
        self.document = replace(self.document, revisions=revisions)
        self.revisions_changed.emit()

    def go_back_to(self, index: int) -> None:
        """Make a kept state the score again, as a step that can be undone."""
        self.show_variant("")
        revision = self.document.revisions[index]
        self.edit(f"Go back to “{revision.name}”", revision.score)
