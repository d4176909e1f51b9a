"""Note after note: what typed figures and clicks on the neck write at the end of the tab."""

import numpy as np
from PyQt6.QtCore import QObject, Qt, QTimer, pyqtSignal

from notcher.core.neck import Place, appended, free_strings, fret_near, later, moved, next_onset_s, written_beside
from notcher.ui.benches.notch.editor import Editor
from notcher.ui.state.session import Session

TYPING_MS = 300  # two figures so close are one fret; nobody writes notes as fast
HAND_NOTES, USUAL_STRING = 4, 3  # the hand is where the last few notes were; in an empty tab on string 3
STEPS = {2.0: "2 beats", 1.0: "1 beat", 1 / 2: "½ beat", 1 / 3: "⅓ beat", 1 / 4: "¼ beat", 1 / 6: "⅙ beat",
         1 / 8: "⅛ beat"}  # fmt: skip
"""How far apart notes can be written, felt beats, the longest first."""
UNKNOWN_STEP = 0.5  # felt beats, where there is no beat map


class Writing(QObject):
    """Keeps on which string, when and how far apart the next note is written.

    changed: it was switched on or off, or the next note would begin elsewhere.
    """

    changed = pyqtSignal()

    def __init__(self, session: Session, editor: Editor, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._session, self._editor = session, editor
        self._on, self._string, self._typed, self._hand = False, 0, "", 0.0
        self._beside = 0  # a string for another note at the same time; 0 for none
        self._step: float | None = None  # until another is chosen: what a felt beat is strummed in
        self._next_s: float | None = None  # where it was pointed at
        self._typing = QTimer(self)
        self._typing.setSingleShot(True)
        self._typing.setTimerType(Qt.TimerType.PreciseTimer)
        self._typing.setInterval(TYPING_MS)
        self._typing.timeout.connect(self._end_number)
        session.selection_changed.connect(self._on_selection_changed)
        session.score_changed.connect(self.changed)

    @property
    def on(self) -> bool:
        """Whether notes are written one after the other."""
        return self._on

    def set_on(self, wanted: bool) -> None:
        self._on, self._string = wanted, 0
        self._end_number()
        self.changed.emit()

    def need(self) -> str:
        """Why there is no next note to be written; empty when there is."""
        return "" if self.next_spot is not None else "Begin step entry first (Note, Step entry), at the last note."

    # --- where and when ---
    @property
    def next_spot(self) -> tuple[float, int] | None:
        """When and on which string a typed fret is written; None while it corrects the selected note instead."""
        notes, note = self._session.score.notes, self._session.note
        if self._beside and note is not None:
            return note.onset_s, self._beside
        at_end = not notes or notes[-1].id == self._session.selected
        return (self.next_s, self.string) if self._on and at_end else None

    @property
    def next_s(self) -> float:
        """When the next note that is written would begin."""
        if self._next_s is not None:
            return self._next_s
        return next_onset_s(self._session.score, self._session.selected, beats=self.step_beats)

    def write_next_at(self, time_s: float | None) -> None:
        """Write the next note at a time that was pointed at; None for a step after the last."""
        self._next_s = time_s
        self.changed.emit()

    @property
    def string(self) -> int:
        """The string chosen, else that of the note before."""
        note, strings = self._session.note, self._session.score.tuning.strings
        return self._string or (note.string if note is not None else min(USUAL_STRING, strings))

    def change_string(self, by: int) -> None:
        """Go to a lower (+1) or a higher (-1) string."""
        self._string = int(np.clip(self.string + by, 1, self._session.score.tuning.strings))
        self._end_number()
        self.changed.emit()

    # --- another string at the same time ---
    def choose_beside(self, by: int) -> None:
        """Choose a lower (+1) or higher (-1) string that is struck with the selected note; figures write there."""
        note = self._session.note
        if note is None:
            return
        free, now = free_strings(self._session.score, note.id), self._beside or note.string
        way = [string for string in free if (string - now) * by > 0]
        if not way and not self._beside:
            way = list(free)  # at the edge of the neck the other way is as good
        if not way:
            self._editor.notice.emit(
                "There is no free string on that side." if free else "Every string is struck here."
            )
            return
        self._end_number(beside=min(way, key=lambda string: abs(string - now)))
        self._editor.notice.emit(
            f"Another note at the same time, on string {self._beside}: type its fret. Esc gives it up."
        )

    def leave_beside(self) -> bool:
        """Write at the selected note itself again; return whether another string was chosen."""
        chosen = self._beside != 0
        if chosen:
            self._end_number()
        return chosen

    def write_beside(self, place: Place) -> None:
        """Strike another string together with the selected note."""
        before = self._session.selected
        if not before:
            self.write(place)
            return
        self._editor.make("Write note", lambda score: written_beside(score, before, place))

    def leave_a_step(self) -> None:
        """Leave a silence of one step before the next note."""
        self._end_number()
        self.write_next_at(later(self._session.score, self.next_s, beats=self.step_beats))

    @property
    def step_beats(self) -> float:
        """How far apart notes are written, in felt beats: an eighth where nothing else was chosen."""
        if self._step is not None:
            return self._step
        beat_map, note = self._session.score.beat_map, self._session.note
        if not beat_map.known:
            return UNKNOWN_STEP
        return 1 / beat_map.meter_at(beat_map.quarter(note.onset_s if note is not None else 0.0)).strums

    def change_step(self, longer: bool) -> None:
        """Make the step of written notes longer or shorter: 2, 1, ½, ⅓, ¼, ⅙, ⅛ of a beat."""
        steps = list(STEPS)
        now = min(range(len(steps)), key=lambda at: abs(steps[at] - self.step_beats))
        self._step = steps[max(0, min(len(steps) - 1, now + (-1 if longer else 1)))]
        self.changed.emit()
        self._editor.notice.emit(f"Notes are written {STEPS[self._step]} apart.")

    # --- writing ---
    def type_figure(self, figure: str) -> None:
        """Write a note at the fret that a figure means near the hand, or let it be the fret's second figure."""
        note, score = self._session.note, self._session.score
        if self._typed and note is not None:
            fret = fret_near(self._typed + figure, self._hand)
            self._end_number()
            if fret is not None and fret >= score.tuning.capo:
                where = Place(note.string, fret)
                self._editor.make("Write note", lambda score: moved(score, note.id, where), continues=True)
                return
        end = score.position(note.id) + 1 if note is not None else 0
        near = [other.fret for other in score.notes[max(0, end - HAND_NOTES) : end] if other.fret]
        self._hand = float(np.median(near or [0]))
        if beside := self._beside:
            self.write_beside(Place(beside, max(fret_near(figure, self._hand) or 0, score.tuning.capo)))
            self._beside, self._typed = beside, figure  # the string stays for the second figure
            self._typing.start()
            self.changed.emit()
            return
        self.write(Place(self.string, max(fret_near(figure, self._hand) or 0, score.tuning.capo)))
        self._typed = figure
        self._typing.start()

    def write(self, place: Place | None = None) -> None:
        """Write the next note on a place; None for that of the note before."""
        beats, at_s, before = self.step_beats, self._next_s, self._session.selected
        self._next_s = None
        self._editor.make("Write note", lambda score: appended(score, before, beats=beats, place=place, at_s=at_s))
        self._string = 0
        self._end_number()
        self.changed.emit()

    def _end_number(self, *, beside: int = 0) -> None:
        """Begin another number. beside: the string beside the selected note that figures are written on, if any."""
        self._typing.stop()
        self._typed = ""
        if self._beside != beside:
            self._beside = beside
            self.changed.emit()

    def _on_selection_changed(self) -> None:
        self._string = self._beside = 0
        self.write_next_at(None)
