"""Note after note: what typed figures and clicks on the neck write at the end of the tab."""

import numpy as np
from PyQt6.QtCore import QObject, Qt, QTimer, pyqtSignal

from notcher.core.neck import Place, fret_near
from notcher.ui.benches.notch.notch_edits import NotchEdits
from notcher.ui.state.session import Session

TYPING_MS = 300  # two figures so close are one fret; nobody writes notes as fast
HAND_NOTES, USUAL_STRING = 4, 3


class Writing(QObject):
    """Keeps on which string and when the next note is written.

    changed: it was switched on or off, or the next note would begin elsewhere.
    """

    changed = pyqtSignal()

    def __init__(self, session: Session, edits: NotchEdits, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._session, self._edits = session, edits
        self._on, self._string, self._typed, self._hand = False, 0, "", 0.0
        self._typing = QTimer(self)
        self._typing.setSingleShot(True)
        self._typing.setTimerType(Qt.TimerType.PreciseTimer)
        self._typing.setInterval(TYPING_MS)
        self._typing.timeout.connect(self._end_number)
        session.selection_changed.connect(self._on_selection_changed)
        session.score_changed.connect(self.changed)
        edits.step_changed.connect(self.changed)

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
        return (
            "" if self.next_spot is not None else "Write note after note first (Edit, or its keys), at the last note."
        )

    @property
    def next_spot(self) -> tuple[float, int] | None:
        """When and on which string a typed fret is written; None while it corrects the selected note instead."""
        at_end = self._session.selected >= len(self._session.score.notes) - 1
        return (self._edits.next_s, self.string) if self._on and at_end else None

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

    def leave_a_step(self) -> None:
        """Leave a silence of one step before the next note."""
        self._edits.leave_a_step()
        self._end_number()
        self.changed.emit()

    def type_figure(self, figure: str) -> None:
        """Write a note at the fret that a figure means near the hand, or let it be the fret's second figure."""
        note = self._session.note
        if self._typed and note is not None:
            fret = fret_near(self._typed + figure, self._hand)
            self._end_number()
            if fret is not None and fret >= self._session.score.tuning.capo:
                self._edits.rewrite(Place(note.string, fret))
                return
        notes = self._session.score.notes[max(0, self._session.selected + 1 - HAND_NOTES) : self._session.selected + 1]
        self._hand = float(np.median([note.fret for note in notes if note.fret] or [0]))
        self.write(Place(self.string, max(fret_near(figure, self._hand) or 0, self._session.score.tuning.capo)))
        self._typed = figure
        self._typing.start()

    def write(self, place: Place, *, together: bool = False) -> None:
        """Write the next note on a place. together: at the same time as the selected one."""
        self._edits.append(place, together=together)
        self._string = 0
        self._end_number()
        self.changed.emit()

    def _end_number(self) -> None:
        self._typing.stop()
        self._typed = ""

    def _on_selection_changed(self) -> None:
        self._string = 0
        self._edits.write_next_at(None)
        self.changed.emit()
