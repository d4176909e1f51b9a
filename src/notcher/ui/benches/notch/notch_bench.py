"""The Notch bench: the measured tab above, the selected note's facts and places below."""

from collections.abc import Sequence
from html import escape

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QLabel, QLineEdit, QSizePolicy, QVBoxLayout, QWidget

from notcher.core.neck import FORBIDDEN, Alternative, Place, alternatives
from notcher.core.score import bend_name, midi_to_name, techniques
from notcher.core.score.rhythm import counted
from notcher.core.words.gesture_text import gesture_words
from notcher.painting.theme import Theme
from notcher.ui.benches.notch.neck_map import NeckMap
from notcher.ui.benches.notch.notch_edits import NotchEdits
from notcher.ui.state.session import Session
from notcher.ui.tab.tab_view import TabView

EQUAL_COST = 0.12
WORDS = {"prebend": "pre-bend", "slide_in": "slid in", "slide_out": "slides away", "palm_mute": "palm mute"}


class NotchBench(QWidget):
    """Shows the tab, and passes on to `edits` what is pointed at and typed."""

    refused = pyqtSignal(str)

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self.edits = NotchEdits(session, self)
        self.tab = TabView(self)
        self.neck = NeckMap(self)
        self._step_entry = False
        self.facts = QLabel()
        self.facts.setTextFormat(Qt.TextFormat.RichText)
        self.facts.setWordWrap(True)
        self.facts.setAlignment(Qt.AlignmentFlag.AlignTop)
        self._lay_out()
        self.words = QLineEdit()
        self.words.setAccessibleName("Curve of the selected note, in words")
        self.words.setPlaceholderText("bend 1½ over 200 ms, hold, release")
        self.words.returnPressed.connect(self._on_words_typed)
        self._card_inside.addWidget(self.words)
        edits, tab = self.edits, self.tab
        edits.refused.connect(self.refused)
        tab.note_pick_requested.connect(lambda index, extend: session.select(index, extend=extend))
        tab.fret_typed.connect(edits.type_fret)
        tab.seek_requested.connect(self._on_time_pointed_at)
        tab.point_moved.connect(edits.move_point)
        tab.point_added.connect(edits.add_point)
        tab.point_removed.connect(edits.remove_point)
        tab.beat_dragged.connect(edits.drag_beat)
        self.neck.place_pick_requested.connect(self._on_place_picked)
        session.evidence_changed.connect(self._on_evidence_changed)
        session.opened.connect(self._on_opened)
        session.score_changed.connect(self._on_score_changed)
        session.selection_changed.connect(self._on_selection_changed)

    def _lay_out(self) -> None:
        card = QFrame()
        card.setProperty("card", True)
        card.setFixedWidth(330)
        inside = self._card_inside = QVBoxLayout(card)
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
        self._strip.setFixedHeight(round(82 + 88 * scale))
        self._card.setFixedWidth(round(180 + 160 * scale))

    def set_choices(self, *, school: str, stroke_school: str, nudge_s: float) -> None:
        self.edits.school, self.edits.stroke_school, self.edits.nudge_s = school, stroke_school, nudge_s

    # --- writing on the neck ---
    @property
    def step_entry(self) -> bool:
        """Whether a click on the neck writes the next note instead of moving the selected one."""
        return self._step_entry

    def set_step_entry(self, wanted: bool) -> None:
        self._step_entry = wanted
        self.neck.set_writing(wanted)

    def _on_place_picked(self, string: int, fret: int, beside: bool) -> None:
        if self._step_entry:
            self.edits.append(Place(string, fret), together=beside)
        else:
            self.edits.move_to(string, fret)

    def _on_time_pointed_at(self, time_s: float) -> None:
        if self._step_entry:
            self.edits.write_next_at(time_s)

    def edit_words(self) -> None:
        """Put the cursor into the curve's words."""
        self.words.setFocus()
        self.words.selectAll()

    def _on_words_typed(self) -> None:
        if self.edits.gesture(self.words.text()):
            self.tab.setFocus()

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
        chosen = self._session.selection
        self.tab.show_selected(index, tuple(chosen) if len(chosen) > 1 else ())
        note, score = self._session.note, self._session.score
        if note is None:
            self.facts.setText("No note is selected. Left and right arrows walk from note to note.")
            self.neck.show_places(score.tuning, None, ())
            self.words.clear()
            return
        placed = alternatives(score, index, school=self.edits.school)
        self.neck.show_places(score.tuning, Place(note.string, note.fret), placed.alternatives)
        self.facts.setText(self._facts(index, placed.alternatives))
        self.words.setText(gesture_words(note.curve, note.vibrato))
        self.words.setCursorPosition(0)

    def _facts(self, index: int, places: Sequence[Alternative]) -> str:
        score, note = self._session.score, self._session.score.notes[index]
        others = [other for other in places if other.place != Place(note.string, note.fret)]
        sounds = midi_to_name(score.fretted_midi(note))
        lines = [
            f"<b>String {note.string}, fret {note.fret}</b> sounds {sounds}"
            + (f" · finger {note.finger}" if note.finger else ""),
            f"{note.onset_s:.3f} s, {note.duration_s * 1000:.0f} ms long" + self._count(index),
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
        marks = [word for word, held in (("slip", note.slip), ("garnish", note.garnish)) if held]
        struck = f"{note.attack} {note.stroke}" if note.stroke is not None else str(note.attack)
        lines.append(", ".join([struck, *(name for name in names if name != note.attack), *marks]))
        if note.doubt:
            lines.append(f"<b>?</b> {escape(note.doubt)}")
        elif note.remark:
            lines.append(f"“{escape(note.remark)}”")
        elif others:
            lines.append(_elsewhere(others[0]))
        return "<br>".join(lines)

    def _count(self, index: int) -> str:
        """How the note is counted, and how far from that it was played."""
        if not self._session.score.beat_map.known:
            return ""
        word, late_s = counted(self._session.score, index)
        return f" · counted {word}, {abs(late_s) * 1000:.0f} ms {'late' if late_s > 0 else 'early'}"


def _elsewhere(other: Alternative) -> str:
    """Where else the note could lie, and why it does not."""
    place = f"string {other.place.string} fret {other.place.fret}"
    if other.cost >= FORBIDDEN:
        return f"nowhere else: {place} {other.reason}"
    if other.cost < EQUAL_COST:
        return f"also {place}, just as easy"
    return f"also {place}: {other.reason}"
