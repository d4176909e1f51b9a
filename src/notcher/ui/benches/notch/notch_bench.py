"""The Notch bench: the measured tab above, the selected note's facts and places below."""

from collections.abc import Callable, Sequence
from html import escape

from PyQt6.QtCore import Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QLineEdit, QSizePolicy, QVBoxLayout, QWidget

from notcher.core.neck import EQUAL_COST, Place, PlaceAlternative, alternatives
from notcher.core.score import HARMONIC_TONES, LEGATO_ATTACKS, techniques
from notcher.core.score.edits import with_beat_at, with_curve_point, with_new_curve_point, without_curve_point
from notcher.core.score.rhythm import counted
from notcher.core.words import (
    ATTACKS,
    USUAL,
    Naming,
    bend_size,
    count_word,
    doubt_words,
    gesture_words,
    late_words,
    note_name,
    place_name,
    reading_words,
    reason_words,
    seconds,
    string_name,
    vibrato_words,
)
from notcher.core.words.techniques import FIELDS, technique_name
from notcher.painting.theme import Theme
from notcher.ui.benches.notch.dialogs import NotchDialogs
from notcher.ui.benches.notch.editor import Editor
from notcher.ui.benches.notch.neck_map import NeckMap
from notcher.ui.benches.notch.writing import Writing
from notcher.ui.state.session import Session
from notcher.ui.tab.tab_view import TabView
from notcher.ui.widgets.cards import scrolling
from notcher.ui.widgets.plain import Label

LEAST_STRIP_PX, STRIP_SHARE = 150, 0.38  # six lines stay legible; of the bench's height


class NotchBench(QWidget):
    """Shows the tab, and passes on to `editor` what is pointed at and typed."""

    notice = pyqtSignal(str)

    def __init__(self, session: Session, playhead_s: Callable[[], float], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self.editor = Editor(session, playhead_s, self)
        self.writing = Writing(session, self.editor, self)
        self._dialogs: NotchDialogs | None = None
        self.tab = TabView(self)
        self.tab.tells = self._told_of
        self.neck = NeckMap(self)
        self._naming = USUAL
        self._again: Callable[[str], str] = lambda _note_id: ""
        self._finding = QTimer(self)  # what nobody claims is looked for once the edit itself is seen
        self._finding.setSingleShot(True)
        self._finding.setInterval(0)
        self._finding.timeout.connect(lambda: self.tab.show_unclaimed(session.unclaimed))
        self._telling = QTimer(self)  # and so is what there is to say of the selected note
        self._telling.setSingleShot(True)
        self._telling.setInterval(0)
        self._telling.timeout.connect(self._tell_of_note)
        self.facts = Label()
        self.facts.setTextFormat(Qt.TextFormat.RichText)
        self.facts.setWordWrap(True)
        self.facts.setAlignment(Qt.AlignmentFlag.AlignTop)
        self._lay_out()
        self.words = QLineEdit()
        self.words.setAccessibleName("Curve of the selected note, in words")
        self.words.setPlaceholderText("bend 1½ over 200 ms, hold, release")
        self.words.returnPressed.connect(self._on_words_typed)
        self._card_inside.addWidget(self.words)
        editor, tab = self.editor, self.tab
        editor.notice.connect(self.notice)
        tab.note_pick_requested.connect(lambda note_id, extend: session.select(note_id, extend=extend))
        tab.fret_typed.connect(editor.type_fret)
        tab.phrase_pick_requested.connect(self._on_phrase_picked)
        tab.figure_typed.connect(self.writing.type_figure)
        self.writing.changed.connect(self._on_writing_changed)
        tab.seek_requested.connect(self._on_time_pointed_at)
        tab.point_moved.connect(self._on_point_moved)
        tab.note_carried.connect(editor.carry)
        tab.point_added.connect(self._on_point_added)
        tab.point_removed.connect(self._on_point_removed)
        tab.beat_dragged.connect(self._on_beat_dragged)
        tab.claim_requested.connect(editor.claim)
        tab.border_dragged.connect(editor.drag_border)
        self.neck.place_pick_requested.connect(self._on_place_picked)
        session.evidence_changed.connect(self._on_evidence_changed)
        session.opened.connect(self._on_opened)
        session.score_changed.connect(self._on_score_changed)
        session.selection_changed.connect(self._on_selection_changed)

    def _lay_out(self) -> None:
        card = self.card = QFrame()
        card.setProperty("card", True)
        card.setFixedWidth(330)
        inside = self._card_inside = QVBoxLayout(card)
        inside.setContentsMargins(12, 8, 12, 8)
        inside.addWidget(scrolling(self.facts), 1)
        below = QHBoxLayout()
        below.setContentsMargins(8, 6, 8, 6)
        below.setSpacing(8)
        below.addWidget(card)
        below.addWidget(self.neck, 1)
        strip = QWidget()
        self._strip_height = LEAST_STRIP_PX
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
        self._strip_height = round(70 + 108 * scale)
        self._fit_strip()
        self._card.setFixedWidth(round(180 + 160 * scale))

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._fit_strip()

    def _fit_strip(self) -> None:
        """Leave the lanes most of the height, however large the text is."""
        self._strip.setFixedHeight(min(self._strip_height, max(LEAST_STRIP_PX, round(STRIP_SHARE * self.height()))))

    def set_choices(self, *, style: str, picking_style: str, nudge_s: float) -> None:
        editor = self.editor
        editor.style, editor.picking_style, editor.nudge_s = style, picking_style, nudge_s

    def set_dialogs(self, dialogs: NotchDialogs) -> None:
        """dialogs: what reads the words that are typed for a curve."""
        self._dialogs = dialogs

    def set_again(self, words: Callable[[str], str]) -> None:
        """words: what is said of a note, by its id, that comes again elsewhere; empty where it does not."""
        self._again = words

    def tell_again(self) -> None:
        """Say anew what there is to say of the selected note."""
        self._telling.start()

    def set_left_handed(self, wanted: bool) -> None:
        self.neck.set_left_handed(wanted)

    def set_naming(self, naming: Naming) -> None:
        self._naming = self.editor.naming = naming
        self.tab.set_naming(naming)
        self.neck.set_naming(naming)
        self._on_selection_changed()

    # --- what is in view ---
    def show_phrase(self) -> None:
        phrase = self._session.phrase
        if phrase is not None:
            self.tab.show_span(phrase.start_s, phrase.end_s)

    def show_all(self) -> None:
        clip, notes = self._session.document.clip, self._session.score.notes
        end_s = clip.duration_s if clip is not None else max((note.offset_s for note in notes), default=10.0)
        self.tab.show_span(0.0, end_s)

    def show_time(self, time_s: float) -> None:
        """Bring a time into view that lies outside it."""
        frame = self.tab.frame
        if not frame.start_s <= time_s <= frame.end_s:
            self.tab.go_to(time_s - 0.2 * (frame.end_s - frame.start_s))

    # --- writing on the neck ---
    def toggle_writing(self) -> None:
        self.writing.set_on(not self.writing.on)

    def _on_writing_changed(self) -> None:
        self._telling.start()
        self.neck.set_writing(self.writing.on)
        self.tab.show_next(self.writing.next_spot)

    def _on_place_picked(self, string: int, fret: int, beside: bool) -> None:
        if beside:
            self.writing.write_beside(Place(string, fret))
        elif self.writing.on:
            self.writing.write(Place(string, fret))
        else:
            self.editor.move_to(string, fret)

    def _on_phrase_picked(self, note_id: str) -> None:
        self._session.select(note_id)
        self.editor.select_phrase()

    def _on_time_pointed_at(self, time_s: float) -> None:
        if self.writing.on:
            self.writing.write_next_at(time_s)

    def edit_words(self) -> None:
        """Put the cursor into the curve's words."""
        self.words.setFocus()
        self.words.selectAll()

    def _on_words_typed(self) -> None:
        if self._dialogs is not None and self._dialogs.gesture(self.words.text()):
            self.tab.setFocus()

    # --- what is dragged ---
    def _on_point_moved(self, note_id: str, point: int, time_s: float, semitones: float, continued: bool) -> None:
        self.editor.make(
            "Move a point of the curve",
            lambda score: with_curve_point(score, note_id, point, time_s, semitones),
            continues=continued,
        )

    def _on_point_added(self, note_id: str, time_s: float) -> None:
        self.editor.make("Add a point to the curve", lambda score: with_new_curve_point(score, note_id, time_s)[0])

    def _on_point_removed(self, note_id: str, point: int) -> None:
        self.editor.make("Remove a point of the curve", lambda score: without_curve_point(score, note_id, point))

    def _on_beat_dragged(self, beat: float, time_s: float, continued: bool) -> None:
        self.editor.make("Drag beat", lambda score: with_beat_at(score, beat, time_s), continues=continued)

    # --- showing ---
    def _on_opened(self) -> None:
        document = self._session.document  # an empty page is there to be written on
        self.writing.set_on(document.clip is None and not document.score.notes)
        self._on_evidence_changed()
        self.tab.go_to(0.0)

    def _on_evidence_changed(self) -> None:
        clip = self._session.document.clip
        self.tab.show_measured(self._session.measured, clip.duration_s if clip is not None else 0.0)
        self._on_score_changed()

    def _on_score_changed(self) -> None:
        self.tab.show_score(self._session.score, self._session.chosen)
        self._finding.start()

    def _on_selection_changed(self) -> None:
        self.tab.show_selected(self._session.chosen)
        self._telling.start()

    def _tell_of_note(self) -> None:
        """Say what the selected note is, and show where else its pitch lives."""
        note, score = self._session.note, self._session.score
        if note is None:
            nothing = "No note is selected. Left and right arrows walk from note to note."
            self.facts.setText(self._next_words() or nothing)
            self.neck.show_places(score.tuning, None, ())
            self.words.clear()
            return
        placed = alternatives(score, note.id, style=self.editor.style)
        self.neck.show_places(score.tuning, Place(note.string, note.fret), placed.alternatives)
        self.facts.setText(self._next_words() + self._facts(score.position(note.id), placed.alternatives))
        self.words.setText(gesture_words(note.curve, note.vibrato))
        self.words.setCursorPosition(0)

    def _next_words(self) -> str:
        """What writes the next note, while notes are written one after the other."""
        spot = self.writing.next_spot
        if spot is None:
            return ""
        where = string_name(self._session.score.tuning, spot[1], self._naming)
        return (
            f"<b>Next note: {where}.</b> Type its fret or click on the neck; near the hand the last figure is enough "
            "(05 is fret 5). Up and down change the string.<br>"
        )

    def _facts(self, index: int, places: Sequence[PlaceAlternative]) -> str:
        score, note, naming = self._session.score, self._session.score.notes[index], self._naming
        others = [other for other in places if other.place != Place(note.string, note.fret)]
        where, key = place_name(score.tuning, note.string, note.fret, naming), score.sounding_key_at(note.onset_s)
        lines = [
            f"<b>{where[0].upper()}{where[1:]}</b> sounds {note_name(score.sounding_midi(note), naming, key)}"
            + (f" · finger {note.finger}" if note.finger else ""),
            f"{seconds(note.onset_s, 3, naming)}, {note.duration_s * 1000:.0f} ms long" + self._count(index),
        ]
        bend = note.reading.bend_semitones
        if note.bent:
            target = note_name(score.sounding_midi(note) + round(bend), naming, key)
            like = "" if note.tone in HARMONIC_TONES else f"like fret {note.fret + round(bend)}, "
            lines.append(f"bend {bend_size(bend, naming)} ({bend * 100:.0f} cents): {like}{target}")
        if note.vibrato is not None:
            lines.append(f"vibrato {vibrato_words(note.vibrato, naming)}")
        lines.append(self._technique_words(index))
        if note.doubt is not None:
            lines.append(f"<b>?</b> {escape(doubt_words(note.doubt, score.tuning, naming))}")
        if note.remark:
            lines.append(f"“{escape(note.remark)}”")
        if others and not note.readings and note.doubt is None and not note.remark:
            lines.append(_elsewhere(others[0], place_name(score.tuning, *others[0].place, naming)))
        if again := self._again(note.id):
            lines.append(escape(again))
        if note.readings:
            more = len(note.readings) - 1
            text = escape(reading_words(note.readings[0], note, score, naming))
            lines.append(f"could also be: {text}{f', or {more} more' if more else ''}")
        return "<br>".join(lines)

    def _told_of(self, index: int) -> str:
        """What a note is, how sure that is and why, for one under the pointer."""
        return self._facts(index, ()) if 0 <= index < len(self._session.score.notes) else ""

    def _technique_words(self, index: int) -> str:
        """How a note is struck, what else it is called, and how it is marked."""
        note = self._session.score.notes[index]
        picked = note.stroke is not None and note.attack not in LEGATO_ATTACKS
        struck = ATTACKS[note.attack] + (f" {note.stroke}" if picked else "")
        names = [technique_name(name) for name in techniques(self._session.score, index) if name != note.attack]
        marks = [word for word, marked in ((FIELDS["slip"], note.slip), (FIELDS["garnish"], note.garnish)) if marked]
        return ", ".join([struck, *names, *marks])

    def _count(self, index: int) -> str:
        """How the note is counted, and how far from that it was played."""
        score = self._session.score
        if not score.beat_map.known:
            return ""
        time, late_s = counted(score, index)
        return f" · counted “{count_word(time)}”, {late_words(late_s)}"


def _elsewhere(other: PlaceAlternative, place: str) -> str:
    """Where else the note could lie, and why it does not."""
    if other.cost < EQUAL_COST or other.reason is None:
        return f"also {place}, just as easy"
    if not other.possible:
        return f"nowhere else: {place} {reason_words(other.reason)}"
    return f"also {place}: {reason_words(other.reason)}"
