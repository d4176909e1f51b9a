"""The one way in which the Notch bench changes the score: pure functions in, named steps of the undo history out."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

from PyQt6.QtCore import QObject, pyqtSignal

from notcher.core.arrays import FloatArray
from notcher.core.errors import NotcherError
from notcher.core.hearing import Measured, Unclaimed, with_claim
from notcher.core.neck import Place, copied, on_string_beside, place_on, put, typed_fret, under_copied
from notcher.core.neck import pasted as with_pasted
from notcher.core.score import EMPTY_SCORE, Note, Score, Selection, in_their_midst
from notcher.core.score.form import with_border
from notcher.core.score.walking import note_beside
from notcher.core.words import USUAL, Naming, many, string_name
from notcher.ui.state.session import Session

RUN = 48  # notes of a selection that are changed among those around them alone
AT_S = 0.02  # the playhead stands on what begins so near
Made = Score | tuple[Score, str]
"""What an edit makes of a score, with the id of the note that is selected then where that is another one."""


@dataclass(frozen=True, slots=True)
class Given:
    """What edits may go by besides the score and the selection.

    attacks_s, measured: what was heard. keeps_felt: beats were tapped along with a recording, which does not move.
    """

    playhead_s: float
    attacks_s: FloatArray
    measured: Measured
    keeps_felt: bool
    style: str = "position"
    picking_style: str = "alternate"
    nudge_s: float = 0.01
    naming: Naming = USUAL


@dataclass(frozen=True, slots=True)
class Edit:
    """A row of the table of edits: what undo calls it, and the pure function that it is.

    called: words, or how they follow from the score as it is then. each: where several notes are selected, what is made
    of each by itself; who cannot follow stays, and is said. None for a change of the selection as a whole. backwards:
    the last first, so that none runs into its neighbour.
    """

    called: str | Callable[[Score, Selection, Given], str]
    change: Callable[[Score, Selection, Given], Made]
    each: Callable[[Score, Selection, Given], Made] | None = None
    backwards: bool = False


Walk = Callable[[Score, str], str]
"""From a note to the note that is selected next, by their ids; empty where there is none."""


class Editor(QObject):
    """Runs edits on the session's score and says what cannot be done; keeps what was copied."""

    notice = pyqtSignal(str)
    phrase_stepped = pyqtSignal()
    notes_copied = pyqtSignal(object)  # a score of the copied notes

    def __init__(self, session: Session, playhead_s: Callable[[], float], parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._session, self._playhead_s = session, playhead_s
        self.style, self.picking_style, self.nudge_s, self.naming = "position", "alternate", 0.01, USUAL
        self._copied: tuple[Note, ...] = ()
        self._dragged = self._typed_from = EMPTY_SCORE  # as it was when a drag began, or a number

    @property
    def note(self) -> Note | None:
        """What keys act on first."""
        return self._session.note

    # --- how a change is made ---
    @property
    def given(self) -> Given:
        session = self._session
        return Given(
            self._playhead_s(), session.attacks_s, session.measured, session.document.clip is not None, self.style,
            self.picking_style, self.nudge_s, self.naming,
        )  # fmt: skip

    def run(self, edit: Edit) -> bool:
        """Make an edit of what is selected; return whether it could be made."""
        parameters, chosen = self.given, self._session.chosen
        if edit.each is not None and len(chosen.ids) > 1:
            return self._run_each(edit, edit.each)

        def called(after: Score) -> str:
            return edit.called if isinstance(edit.called, str) else edit.called(after, chosen, parameters)

        return self.make(called, lambda score: edit.change(score, chosen, parameters))

    def make(
        self,
        called: str | Callable[[Score], str],
        change: Callable[[Score], Made],
        *,
        continues: bool = False,
        quiet: bool = False,
    ) -> bool:
        """Make a change as one step, or say why not; see `Session.edit`. quiet: say nothing."""
        try:
            score = change(self._session.score)
        except (ValueError, NotcherError) as problem:
            if not quiet:
                self.notice.emit(f"Not changed: {str(problem).rstrip('.')}.")
            return False
        after, select = score if isinstance(score, tuple) else (score, None)
        name = called if isinstance(called, str) else called(after)
        self._session.edit(name, after, select=select, continues=continues)
        return True

    def _run_each(self, edit: Edit, change: Callable[[Score, Selection, Given], Made]) -> bool:
        """Make an edit of each selected note by itself, in one step."""
        chosen, parameters = self._session.chosen, self.given
        called = edit.called if isinstance(edit.called, str) else f"Move {len(chosen.ids)} notes"

        def changed(score: Score, note_id: str) -> Score:
            made = change(score, Selection((note_id,), note_id), parameters)
            return made[0] if isinstance(made, tuple) else made

        return self._make_each(called, changed, backwards=edit.backwards)

    def _make_each(
        self,
        called: str,
        change: Callable[[Score, str], Score],
        *,
        backwards: bool = False,
        continues: bool = False,
        begun: Score | None = None,
    ) -> bool:
        """begun: the score that is changed, where it is not the one of now."""
        ids = self._session.chosen.ids
        problems: list[str] = []

        def each(score: Score, note_id: str) -> Score:
            try:
                return change(score, note_id)
            except (ValueError, NotcherError) as problem:
                problems.append(str(problem).rstrip("."))
                return score

        def all_of_them(score: Score) -> Score:
            result, order = begun or score, ids[::-1] if backwards else ids
            for at in range(0, len(order), RUN):
                result = in_their_midst(result, order[at : at + RUN], each)
            if len(problems) == len(ids):
                raise ValueError(problems[0])
            return result

        made = self.make(called, all_of_them, continues=continues)
        if made and problems:
            self.notice.emit(f"{len(problems)} of {len(ids)} notes stayed as they were: {problems[0]}.")
        return made

    # --- walking ---
    def go(self, walk: Walk, *, extend: bool = False) -> None:
        """Select the note that a walk leads to; with `extend` keep the selection and let it grow to there."""
        try:
            note_id = walk(self._session.score, self._session.selected)
        except ValueError as problem:
            self.notice.emit(f"{str(problem)[:1].upper()}{str(problem)[1:]}.")
            return
        if note_id:
            self._session.select(note_id, extend=extend)

    def step_phrase(self, walk: Walk) -> None:
        """Go to another phrase, and let a loop around this one follow."""
        self.go(walk)
        self.phrase_stepped.emit()

    def go_to_end(self, way: int) -> None:
        """Select the first (-1) or the last note (1)."""
        self.go(lambda score, note_id: note_beside(score, note_id, way * len(score.notes)))

    def select_phrase(self) -> None:
        """Select every note of the phrase."""
        score, phrase = self._session.score, self._session.phrase
        if phrase is not None:
            inside = score.notes_of(phrase)
            self._session.select(score.notes[inside.start].id)
            self._session.select(score.notes[inside.stop - 1].id, extend=True)

    # --- what is pointed at ---
    def type_fret(self, fret: int, continued: bool = False) -> None:
        """Put the note on another fret of its string; a second figure belongs to the same step."""
        note, chosen = self._session.note, self._session.chosen
        if note is None:
            return
        if len(chosen.ids) > 1:  # all go as far as the one that is named
            if not continued:
                self._typed_from = self._session.score
            begun = self._typed_from
            frets = {before.id: before.fret for before in begun.notes}
            by = fret - frets[note.id]
            self._make_each(
                f"Move {len(chosen.ids)} notes by {by:+d} frets",
                lambda score, note_id: typed_fret(score, note_id, frets[note_id] + by),
                continues=continued, begun=begun,
            )  # fmt: skip
            return
        self.make(f"Move note to fret {fret}", lambda score: typed_fret(score, note.id, fret), continues=continued)

    def move_to(self, string: int, fret: int) -> None:
        """Put the note on a place; when its pitch stays, the rest of the phrase is placed anew around it."""
        chosen, style = self._session.chosen, self.style
        if chosen.note_id:
            self.make(
                f"Move note to string {string}, fret {fret}",
                lambda score: put(score, chosen, Place(string, fret), style=style),
            )

    def carry(self, note_id: str, string: int) -> None:
        """Put a note that was carried to another string's lane where its pitch lives there."""
        if note_id in self._session.chosen.ids and len(self._session.chosen.ids) > 1:
            by = string - self._session.score.note(note_id).string
            self._make_each("Move notes to other strings", lambda score, each: on_string_beside(score, each, by))
            return
        self._session.select(note_id)
        where = place_on(self._session.score, note_id, string)
        if where is None:
            name = string_name(self._session.score.tuning, string, self.naming)
            self.notice.emit(f"This pitch lives nowhere on {name}.")
            return
        self.move_to(where.string, where.fret)

    def drag_border(self, phrase_id: str, begins: bool, time_s: float, continued: bool) -> None:
        """Move a border of a phrase to a time; a drag begins from the score as it was when it began."""
        if not continued:
            self._dragged = self._session.score
        before, border = self._dragged, "start_s" if begins else "end_s"
        self.make(
            "Move the phrase’s border",
            lambda _now: with_border(before, phrase_id, **{border: time_s}),
            continues=continued,
            quiet=continued,
        )

    # --- what sounds and is not written ---
    def claim(self, sound: Unclaimed) -> None:
        """Write what was heard and no note claims, as it was measured."""
        measured, style = self._session.measured, self.style
        self.make("Write what sounds", lambda score: with_claim(score, sound, measured, style=style))

    def claimed_at(self, time_s: float) -> bool:
        """Write what sounds unclaimed at a time; return whether anything does."""
        for sound in self._session.unclaimed.between(time_s - AT_S, time_s + AT_S):
            if sound.start_s - AT_S <= time_s < sound.end_s:
                self.claim(sound)
                return True
        return False

    def unclaimed_after(self, time_s: float) -> float | None:
        """Return where the next sound without a note begins, round again after the last; None, said, without one."""
        start_s = self._session.unclaimed.after(time_s + AT_S)
        if start_s is None:
            self.notice.emit("Every sound that was heard is written.")
        return start_s

    # --- copying ---
    def copy(self, *, phrase: bool = False) -> None:
        """Keep the selected notes, or those of the phrase, for pasting."""
        score, chosen = self._session.score, self._session.chosen
        chosen = chosen.phrase_notes(score) if phrase else chosen
        notes = list(chosen.notes(score))
        self.take(copied(notes))
        self.notes_copied.emit(replace(score, notes=(), sections=(), variants=(), excluded=()).with_notes(notes))
        self.notice.emit(f"{many(len(self._copied), 'note')} copied. Paste puts them at the playhead.")

    def take(self, notes: tuple[Note, ...]) -> None:
        """Have these notes copied, as from elsewhere; their times are from the first one's onset."""
        self._copied = notes

    def copied_need(self) -> str:
        """Why nothing can be pasted; empty when something can."""
        return "" if self._copied else "Nothing was copied yet."

    def under_copied(self, time_s: float) -> tuple[str, ...]:
        """Return the ids of the notes that sound where the copied ones would be put."""
        return under_copied(self._session.score, self._copied, time_s) if self._copied else ()

    def paste(
        self, time_s: float, *, instead: Sequence[str] = (), semitones: int = 0, frets: int = 0, strings: int = 0
    ) -> None:
        """Put the copied notes at a time; see `pasted`."""
        notes, style = self._copied, self.style
        self.make(
            f"Paste {many(len(notes), 'note')}",
            lambda score: with_pasted(
                score, notes, time_s, semitones=semitones, frets=frets, strings=strings, instead=instead, style=style
            ),
        )
