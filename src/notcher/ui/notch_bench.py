"""The Notch bench: the measured tab above, the selected note's facts and places below."""

import numpy as np
from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QLabel, QSizePolicy, QVBoxLayout, QWidget

from notcher.core.hearing import snapped_to_evidence
from notcher.core.neck import Place, alternatives, inserted_at, moved, neighbour_place, nudged, typed_fret
from notcher.core.score import bend_name, bent_curve, midi_to_name, techniques
from notcher.ui.neck_map import NeckMap
from notcher.ui.session import Session
from notcher.ui.tab_view import TabView
from notcher.ui.theme import Theme

BEND_SIZES = (0.0, 0.5, 1.0, 2.0, 3.0, 4.0)
WORDS = {"prebend": "pre-bend", "slide_in": "slid in", "slide_out": "slides away", "palm_mute": "palm mute"}


class NotchBench(QWidget):
    """Shows and corrects the tab; each correction is one step of the undo history."""

    refused = pyqtSignal(str)

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self._school, self._nudge_s = "position", 0.01
        self.tab = TabView(self)
        self.neck = NeckMap(self)
        self.facts = QLabel()
        self.facts.setTextFormat(Qt.TextFormat.RichText)
        self.facts.setWordWrap(True)
        self.facts.setAlignment(Qt.AlignmentFlag.AlignTop)
        self._lay_out()
        self.tab.note_pick_requested.connect(session.select)
        self.tab.fret_typed.connect(self.type_fret)
        self.neck.place_pick_requested.connect(self._on_place_picked)
        session.evidence_changed.connect(self._on_evidence_changed)
        session.opened.connect(self._on_opened)
        session.score_changed.connect(self._on_score_changed)
        session.selection_changed.connect(self._on_selection_changed)

    def _lay_out(self) -> None:
        card = QFrame()
        card.setProperty("card", True)
        card.setFixedWidth(330)
        inside = QVBoxLayout(card)
        inside.setContentsMargins(12, 8, 12, 8)
        inside.addWidget(self.facts)
        below = QHBoxLayout()
        below.setContentsMargins(8, 6, 8, 6)
        below.setSpacing(8)
        below.addWidget(card)
        below.addWidget(self.neck, 1)
        strip = QWidget()
        strip.setLayout(below)
        strip.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)
        self._strip, self._card = strip, card
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.tab, 1)
        column.addWidget(strip)

    def show_theme(self, theme: Theme, scale: float) -> None:
        self.tab.show_theme(theme, scale)
        self.neck.show_theme(theme, scale)
        self._strip.setFixedHeight(round(90 + 78 * scale))
        self._card.setFixedWidth(round(180 + 160 * scale))

    def set_choices(self, *, school: str, nudge_s: float) -> None:
        self._school, self._nudge_s = school, nudge_s

    # --- showing ---
    def _on_opened(self) -> None:
        document = self._session.document
        length_s = document.clip.duration_s if document.clip is not None else 0.0
        self.tab.show_track(document.track, length_s)
        self.tab.go_to(0.0)

    def _on_evidence_changed(self) -> None:
        document = self._session.document
        self.tab.show_track(document.track, document.clip.duration_s if document.clip is not None else 0.0)

    def _on_score_changed(self) -> None:
        self.tab.show_score(self._session.score, self._session.selected)

    def _on_selection_changed(self, index: int) -> None:
        self.tab.show_selected(index)
        note, score = self._session.note, self._session.score
        if note is None:
            self.facts.setText("No note is selected. Left and right arrows walk from note to note.")
            self.neck.show_places(score.tuning, None, ())
            return
        placed = alternatives(score, index, school=self._school)
        self.neck.show_places(score.tuning, Place(note.string, note.fret), placed.alternatives)
        self.facts.setText(self._facts(index))

    def _facts(self, index: int) -> str:
        score, note = self._session.score, self._session.score.notes[index]
        sounds = midi_to_name(score.fretted_midi(note))
        lines = [
            f"<b>String {note.string}, fret {note.fret}</b> sounds {sounds}"
            + (f" · finger {note.finger}" if note.finger else ""),
            f"{note.onset_s:.3f} s, {note.duration_s * 1000:.0f} ms long",
        ]
        reading = note.reading
        if abs(reading.bend_semitones) >= 0.35:
            target = midi_to_name(score.fretted_midi(note) + round(reading.bend_semitones))
            lines.append(
                f"bend {bend_name(reading.bend_semitones)} ({reading.bend_semitones * 100:.0f} cents): "
                f"like fret {note.fret + round(reading.bend_semitones)}, {target}"
            )
        if note.vibrato is not None:
            lines.append(f"vibrato {note.vibrato.rate_hz:.1f} Hz, ±{note.vibrato.extent_cents:.0f} cents")
        names = [WORDS.get(name, name.replace("_", " ")) for name in techniques(score, index)]
        lines.append(", ".join([str(note.strike), *(name for name in names if name != note.strike)]))
        if note.doubt:
            lines.append(f"<b>?</b> {note.doubt}")
        elif note.locked:
            lines.append("placed by hand")
        return "<br>".join(lines)

    # --- correcting ---
    def step(self, by: int) -> None:
        """Select the next or previous note."""
        self._session.select(max(0, self._session.selected + by))

    def step_phrase(self, by: int) -> None:
        """Select the first note of the next or previous phrase."""
        note, score = self._session.note, self._session.score
        if note is None:
            return
        starts = [score.first_after(phrase.start_s - 0.02) for phrase in score.phrases if not phrase.section]
        later = [start for start in starts if start > self._session.selected]
        earlier = [start for start in starts if start < self._session.selected]
        if by > 0 and later:
            self._session.select(min(later))
        elif by < 0 and earlier:
            self._session.select(max(earlier))

    def step_doubt(self) -> None:
        """Select the next note that is doubtful, from the start again after the last."""
        notes, here = self._session.score.notes, self._session.selected
        doubtful = [index for index, note in enumerate(notes) if note.doubt]
        if not doubtful:
            self.refused.emit("No note is in doubt.")
            return
        self._session.select(next((index for index in doubtful if index > here), doubtful[0]))

    def type_fret(self, fret: int, continued: bool = False) -> None:
        if self._session.note is not None:
            self._try(
                f"Move note to fret {fret}",
                lambda: typed_fret(self._session.score, self._session.selected, fret),
                continues=continued,
            )

    def move_string(self, direction: int) -> None:
        """Put the note on the next string where its pitch lives."""
        if self._session.note is None:
            return
        where = neighbour_place(self._session.score, self._session.selected, direction)
        if where is None:
            self.refused.emit("This pitch lives on no string further that way.")
            return
        self._on_place_picked(where.string, where.fret)

    def _on_place_picked(self, string: int, fret: int) -> None:
        if self._session.note is not None:
            name = f"Move note to string {string}, fret {fret}"
            where = Place(string, fret)
            self._try(name, lambda: moved(self._session.score, self._session.selected, where))

    def delete(self) -> None:
        if self._session.note is not None:
            index = self._session.selected
            self._session.edit("Delete note", self._session.score.without([index]), select=index)

    def insert(self, time_s: float) -> None:
        score, index = inserted_at(self._session.score, time_s, like=self._session.note)
        self._session.edit("Insert note", score, select=index)

    def nudge(self, direction: int) -> None:
        if self._session.note is None:
            return
        try:
            score, index = nudged(self._session.score, self._session.selected, direction * self._nudge_s)
        except ValueError as problem:
            self.refused.emit(f"Not moved: {problem}.")
            return
        self._session.edit("Nudge onset", score, select=index)

    def bend_by(self, direction: int) -> None:
        """Make the bend the next larger or smaller size."""
        note = self._session.note
        if note is None:
            return
        now = int(np.argmin(np.abs(np.array(BEND_SIZES) - max(0.0, note.reading.bend_semitones))))
        size = BEND_SIZES[max(0, min(now + direction, len(BEND_SIZES) - 1))]
        names = note.reading.names
        curve = bent_curve(size, note.duration_s, prebent="prebend" in names, released="release" in names)
        name = f"Bend {bend_name(size)}" if size else "Unbend"
        self._try(name, lambda: self._session.score.with_note(self._session.selected, curve=curve))

    def snap(self) -> None:
        """Make the claim equal to what was measured."""
        if self._session.note is not None:
            track = self._session.document.track
            self._try(
                "Snap to evidence", lambda: snapped_to_evidence(self._session.score, self._session.selected, track)
            )

    def accept(self) -> None:
        """Take the note out of the doubts as it is."""
        if self._session.note is not None:
            changed = self._session.score.with_note(self._session.selected, doubt="", certainty=1.0)
            self._session.edit("Accept note", changed)

    def _try(self, name, change, *, continues: bool = False) -> None:  # type: ignore[no-untyped-def]
        try:
            after = change()
        except ValueError as problem:
            self.refused.emit(f"Not changed: {problem}.")
            return
        self._session.edit(name, after, continues=continues)
