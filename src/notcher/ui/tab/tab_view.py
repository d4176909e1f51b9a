"""The measured tab on screen: draws, pans, zooms, says what was pointed at and typed; never edits."""

from collections.abc import Callable
from dataclasses import replace

import numpy as np
from PyQt6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QHelpEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QResizeEvent, QWheelEvent
from PyQt6.QtWidgets import QToolTip, QWidget

from notcher.core.hearing import NOTHING_UNCLAIMED, Measured, Unclaimed, UnclaimedSounds
from notcher.core.neck import Place, hand_at, means_both, place_on
from notcher.core.score import EMPTY_SCORE, LAST_FRET, BeatMap, Note, Score, Selection
from notcher.core.theory import Target
from notcher.core.words import Naming, doubt_words, place_said, string_name
from notcher.painting.keys_frame import draw_keys_frame
from notcher.painting.meaning_layer import LickMark, draw_degrees, draw_licks
from notcher.painting.other_notes import Shown, draw_others
from notcher.painting.tab_frame import LEAST_PX_PER_S, MOST_PX_PER_S, TabFrame
from notcher.painting.tab_picture import (
    HANDLE_PX,
    TabContent,
    curve_handles,
    draw_carried,
    draw_chosen,
    draw_header,
    draw_names,
    draw_next,
    tag_size,
    tag_text,
)
from notcher.painting.theme import PAPER, Theme
from notcher.painting.unclaimed_picture import draw_unclaimed, unclaimed_rect
from notcher.ui.tab.tab_tiles import TabTiles

TYPING_MS = 650  # two digits of one fret come nearer to each other
SLOW_TYPING_MS = 1600  # and so near where one of them by itself makes no sense
# of the width: the page turns before the playhead meets the edge, and keeps a tenth
FOLLOW_SHARE, PAGE_SHARE = 0.85, 0.9
DRAG_PX = 4  # the hand moves so far in a click
CLICKED_S = 1.0  # a short sound's figure is wider than the sound
BRACKET_ROWS, BORDER_PX, SNAP_PX = (22.0, 42.0), 6.0, 8.0  # pixels at scale 1
CHORD_ROW = 22  # pixels from the top, at scale 1


class TabView(QWidget):
    """Shows a score over the measured pitch."""

    note_pick_requested = pyqtSignal(str, bool)  # the note's id; whether the selection grows to it
    point_moved = pyqtSignal(str, int, float, float, bool)  # note, point, seconds, semitones, whether the drag goes on
    note_carried = pyqtSignal(str, int)  # a note; the string in whose lane it was let go
    point_added = pyqtSignal(str, float)  # note, seconds after its onset
    point_removed = pyqtSignal(str, int)
    border_dragged = pyqtSignal(str, bool, float, bool)  # phrase, whether its begin, seconds, whether the drag goes on
    beat_dragged = pyqtSignal(float, float, bool)  # beat, seconds, whether the drag goes on
    chord_pick_requested = pyqtSignal(float)
    phrase_pick_requested = pyqtSignal(str)  # of the note with this id
    seek_requested = pyqtSignal(float)
    claim_requested = pyqtSignal(object)  # a sound that no note claims and that is to be written
    loop_requested = pyqtSignal(float, float)
    fret_typed = pyqtSignal(int, bool)  # the fret so far; whether it goes on from the figure before
    figure_typed = pyqtSignal(str)  # while notes are written one after the other
    view_changed = pyqtSignal(float, float)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.tells: Callable[[int], str] = lambda _index: ""  # what a note is, for the pointer that rests on it
        self._content = TabContent(EMPTY_SCORE)
        self._unclaimed = NOTHING_UNCLAIMED
        self._told: tuple[Score, tuple[Target, ...], tuple[LickMark, ...]] = (EMPTY_SCORE, (), ())
        self._variant: Shown | None = None
        self._frame = TabFrame(600, 400)
        self._theme: Theme = PAPER
        self._tiles, self._patient = TabTiles(), True
        self._playhead_s, self._length_s = 0.0, 0.0
        self._pressed: QPointF | None = None
        self._dragging, self._dragged_once = "", False
        self._drag_start_s = 0.0
        self._point, self._beat = -1, 0.0
        self._border = ("", False)  # of which phrase, whether its begin
        self._next: tuple[float, int] | None = None
        self._carried, self._carried_to = -1, 0  # a note, and the string over whose lane it is held
        self._typed = ""
        self._shown: tuple[Note | None, BeatMap] = (None, EMPTY_SCORE.beat_map)  # the selected note as it was revealed
        self._selected_id = ""
        self._sharpening = QTimer(self)
        self._sharpening.setSingleShot(True)
        self._sharpening.setInterval(0)
        self._sharpening.timeout.connect(self.update)
        self._typing = QTimer(self)
        self._typing.setSingleShot(True)
        self._typing.setInterval(TYPING_MS)
        self._slow_typing = QTimer(self)
        self._slow_typing.setSingleShot(True)
        self._slow_typing.setInterval(SLOW_TYPING_MS)
        self._slow_typing.timeout.connect(self._on_typing_over)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(False)
        self.setAccessibleName("Measured tab")

    # --- what is shown ---
    def show_measured(self, measured: Measured, length_s: float) -> None:
        """Take what was measured in the recording, and the recording's length."""
        self._content = replace(self._content, measured=measured)
        self._length_s = length_s
        self.update()

    def show_score(self, score: Score, chosen: Selection) -> None:
        """chosen: the selected notes, by their ids."""
        self._content = replace(self._content, score=score)
        self._take_selected(chosen)
        self._frame = replace(self._frame, strings=score.tuning.strings)
        self._length_s = max(self._length_s, max((note.offset_s for note in score.notes), default=0.0))
        self._say_selected()
        self.update()

    def show_unclaimed(self, sounds: UnclaimedSounds) -> None:
        """Take what sounds and no note claims."""
        self._unclaimed = sounds
        self.update()

    def show_meaning(self, score: Score, targets: tuple[Target, ...], licks: tuple[LickMark, ...]) -> None:
        """Take what is told over the notes. score: the one it was told of; it may be a moment old."""
        self._told = (score, targets, licks)
        self.update()

    def show_variant(self, shown: Shown | None) -> None:
        """Take which variant is in view and what it has otherwise; None for the original."""
        self._variant = shown
        self.update()

    def _take_selected(self, chosen: Selection) -> None:
        score = self._content.score
        at = score.index_of(chosen.note_id) if chosen.note_id else None
        wanted = set(chosen.ids) if len(chosen.ids) > 1 else set()
        also = tuple(index for index, note in enumerate(score.notes) if note.id in wanted) if wanted else ()
        self._content = replace(self._content, selected=-1 if at is None else at, also_selected=also)
        self._selected_id = "" if at is None else chosen.note_id

    @property
    def _selected_note(self) -> Note | None:
        at = self._content.selected
        return self._content.score.notes[at] if at >= 0 else None

    def show_selected(self, chosen: Selection) -> None:
        """chosen: the selected notes, by their ids."""
        if chosen.note_id != self._selected_id:
            self._typed = ""  # a figure typed for another note does not go on here
        before = self._shown
        self._take_selected(chosen)
        note, beat_map = self._selected_note, self._content.score.beat_map
        self._shown = (note, beat_map)
        # where beats alone are others, as by tapping, the picture stays where it is
        if note is not None and (before[0] is None or before[0].id != note.id or before[1] == beat_map):
            self._reveal(note.onset_s, note.offset_s)
        self._say_selected()
        self.update()

    def show_next(self, spot: tuple[float, int] | None) -> None:
        """Take when and on which string a typed fret is written; None while it corrects the selected note."""
        if spot != self._next:
            self._next = spot
            if spot is not None:
                self._reveal(spot[0], spot[0])
            self._say_selected()
            self.update()

    def _say_selected(self) -> None:
        """Put the selected note into words, for those who cannot see it."""
        score, at, naming = self._content.score, self._content.selected, self._content.naming
        text = "No note is selected."
        if 0 <= at < len(score.notes):
            note = score.notes[at]
            text = f"note {at + 1} of {len(score.notes)}: {place_said(score, note, naming)}"
            text += f", in doubt: {doubt_words(note.doubt, score.tuning, naming)}" if note.doubt is not None else ""
        if self._next is not None:
            text += f" The next note is written on {string_name(score.tuning, self._next[1], naming)}."
        if text != self.accessibleDescription():
            self.setAccessibleDescription(text)

    def show_loop(self, span: tuple[float, float] | None) -> None:
        self._content = replace(self._content, loop=span)
        self.update()

    def set_naming(self, naming: Naming) -> None:
        self._content = replace(self._content, naming=naming)
        self._say_selected()
        self.update()

    def show_strokes(self, wanted: bool) -> None:
        self._content = replace(self._content, strokes=wanted)
        self.update()

    def show_theme(self, theme: Theme, scale: float) -> None:
        self._theme = theme
        self._frame = replace(self._frame, scale=scale)
        self._tiles.drop()
        self.update()

    def show_playhead(self, time_s: float, *, follow: bool) -> None:
        before, self._playhead_s = self._frame.x(self._playhead_s), time_s
        if follow and not self._dragging:
            width_s = self._frame.end_s - self._frame.start_s
            if not self._frame.start_s <= time_s <= self._frame.start_s + FOLLOW_SHARE * width_s:
                self.go_to(time_s - 0.1 * width_s)
        for x in (before, self._frame.x(time_s)):
            self.update(round(x) - 3, 0, 7, self.height())

    @property
    def frame(self) -> TabFrame:
        return self._frame

    def go_to(self, start_s: float) -> None:
        """Pan so that a time stands at the left edge."""
        room_s = (self.width() - self._frame.left) / self._frame.px_per_s
        start_s = min(start_s, self._length_s + 1.0 - 0.3 * room_s)
        self._frame = replace(self._frame, start_s=max(start_s, -0.2))
        self._patient = False  # a pan or a zoom shows what is ready and sharpens the rest after
        self.update()
        self.view_changed.emit(self._frame.start_s, self._frame.end_s)

    def pan(self, by_s: float) -> None:
        """Show what lies so many seconds later."""
        self.go_to(self._frame.start_s + by_s)

    def zoom_at(self, factor: float, time_s: float) -> None:
        """Change the scale around a time."""
        self.zoom(factor, at_x=self._frame.x(time_s))

    def turn(self, pages: int) -> None:
        """Pan by so many pages; a little of the one before stays in view."""
        width_s = self._frame.end_s - self._frame.start_s
        self.go_to(self._frame.start_s + pages * PAGE_SHARE * width_s)

    def zoom(self, factor: float, *, at_x: float | None = None) -> None:
        """Change the scale, keeping the time under a pixel (the selected note's, by default) where it is."""
        note = self._content.selected
        if at_x is None and 0 <= note < len(self._content.score.notes):
            at_x = self._frame.x(self._content.score.notes[note].onset_s)
        at_x = self.width() / 2 if at_x is None or not self._frame.left <= at_x <= self.width() else at_x
        time_s = self._frame.time(at_x)
        px_per_s = float(np.clip(self._frame.px_per_s * factor, LEAST_PX_PER_S, MOST_PX_PER_S))
        self._frame = replace(self._frame, px_per_s=px_per_s)
        self.go_to(time_s - (at_x - self._frame.left) / px_per_s)

    def show_span(self, start_s: float, end_s: float) -> None:
        """Zoom and pan so that a span fills the view."""
        width = max(50.0, self.width() - self._frame.left)
        px_per_s = float(np.clip(0.94 * width / max(end_s - start_s, 0.1), LEAST_PX_PER_S, MOST_PX_PER_S))
        self._frame = replace(self._frame, px_per_s=px_per_s)
        self.go_to(start_s - 0.03 * width / px_per_s)

    def _reveal(self, start_s: float, end_s: float) -> None:
        width_s = self._frame.end_s - self._frame.start_s
        if start_s < self._frame.start_s or min(end_s, start_s + 0.5 * width_s) > self._frame.end_s:
            self.go_to(start_s - 0.25 * width_s)

    # --- painting ---
    def paintEvent(self, event: QPaintEvent) -> None:
        painter, frame, theme = QPainter(self), self._frame, self._theme
        sharp = self._tiles.paint(painter, frame, self._content, theme, self.devicePixelRatioF(), patient=self._patient)
        self._patient = sharp
        if not sharp:
            self._sharpening.start()
        draw_unclaimed(painter, frame, self._unclaimed, theme)
        draw_degrees(painter, frame, self._told[0], self._told[1], theme)
        draw_licks(painter, frame, self._told[2], theme)
        if self._variant is not None:
            draw_others(painter, frame, self._variant, theme)
        draw_chosen(painter, frame, self._content, theme)
        if self._next is not None:
            draw_next(painter, frame, *self._next, theme)
        if self._dragging == "note" and (place := self._place_under_hand()) is not None:
            draw_carried(painter, frame, self._content.score.notes[self._carried], place, theme)
        draw_header(painter, frame, self._content, theme)
        draw_names(painter, frame, self._content.score, theme, self._content.naming)
        x = frame.x(self._playhead_s)
        if x >= frame.left:
            painter.setPen(QPen(theme.color("accent"), 1.5))
            painter.drawLine(QPointF(x, 0), QPointF(x, self.height()))
        if self.hasFocus():
            draw_keys_frame(painter, self.rect(), theme)

    def resizeEvent(self, event: QResizeEvent) -> None:
        self._frame = replace(self._frame, width=float(self.width()), height=float(self.height()))
        self.update()
        self.view_changed.emit(self._frame.start_s, self._frame.end_s)

    def sizeHint(self) -> QSize:
        return QSize(900, 420)

    # --- pointing ---
    def event(self, event: QEvent | None) -> bool:
        """A pointer that rests on a note is told what it is."""
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip:
            index = self.note_at(QPointF(event.pos()))
            words = "" if index is None else self.tells(index)
            QToolTip.showText(event.globalPos(), words, self)
            return True
        return super().event(event)

    def note_at(self, point: QPointF) -> int | None:
        """Return the note whose tag or band lies under a point; the nearest onset wins."""
        score, frame = self._content.score, self._frame
        string = frame.string_at(point.y())
        if point.y() < frame.header or point.x() < frame.left:
            return None
        time_s = frame.time(point.x())
        best, best_px = None, 1e9
        for index in range(score.first_after(time_s - 12), score.first_after(time_s + 20 / frame.px_per_s)):
            note = score.notes[index]
            left, right = frame.x(note.onset_s), frame.x(note.offset_s)
            right = max(right, left + tag_size(frame, tag_text(note))[0])
            if note.string == string and left - 2 <= point.x() <= right and point.x() - left < best_px:
                best, best_px = index, point.x() - left
        return best

    def unclaimed_at(self, point: QPointF) -> Unclaimed | None:
        """Return the sound without a note under a point."""
        if point.x() < self._frame.left:
            return None
        time_s = self._frame.time(point.x())
        near = self._unclaimed.between(time_s - CLICKED_S, time_s + CLICKED_S)
        return next((sound for sound in near if unclaimed_rect(self._frame, sound).contains(point)), None)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() != Qt.MouseButton.LeftButton:
            return
        self._pressed, self._dragging, self._dragged_once = event.position(), "", False
        self._drag_start_s = self._frame.start_s
        self._point, self._carried = self._point_at(event.position()), self._tag_at(event.position())
        if self._point >= 0:
            self._dragging = "point"
        elif (border := self.border_at(event.position())) is not None:
            self._border, self._dragging = border, "border"
        elif event.modifiers() & Qt.KeyboardModifier.ShiftModifier and event.position().y() < self._frame.header:
            beat_map = self._content.score.beat_map
            if beat_map.known:
                time_s = self._frame.time(event.position().x())
                self._beat = float(round(beat_map.felt(beat_map.quarter(time_s))))
                self._dragging = "beat"

    def border_at(self, point: QPointF) -> tuple[str, bool] | None:
        """Return the phrase whose bracket's foot is under a point, and whether it is where it begins."""
        low, high = (row * self._frame.scale for row in BRACKET_ROWS)
        if not low <= point.y() <= high or point.x() < self._frame.left:
            return None
        edges = [
            (abs(self._frame.x(time_s) - point.x()), phrase.id, begins)
            for phrase in self._content.score.phrases
            for begins, time_s in ((True, phrase.start_s), (False, phrase.end_s))
        ]
        # of two that adjoin, the side pointed at
        off, phrase_id, begins = min(edges, default=(BORDER_PX + 1.0, "", False))
        return (phrase_id, begins) if off <= BORDER_PX * self._frame.scale else None

    def _snapped(self, time_s: float) -> float:
        """The onset of a note near a time, else the time."""
        notes, reach_s = self._content.score.notes, SNAP_PX / self._frame.px_per_s
        near = range(
            self._content.score.first_after(time_s - reach_s), self._content.score.first_after(time_s + reach_s)
        )
        return min((notes[at].onset_s for at in near), key=lambda onset_s: abs(onset_s - time_s), default=time_s)

    def _tag_at(self, position: QPointF) -> int:
        """Return the note whose fret stands under a point, -1 for none."""
        index = self.note_at(position)
        return index if index is not None and self.note_rect(index).contains(position) else -1

    def _place_under_hand(self) -> Place | None:
        """Return where the carried note's pitch lives on the string that it is held over."""
        return place_on(self._content.score, self._content.score.notes[self._carried].id, self._carried_to)

    def _point_at(self, position: QPointF) -> int:
        """Return the breakpoint of the selected note's curve under a point, -1 when there is none."""
        note = self._selected_note
        if note is None:
            return -1
        for number, spot in enumerate(curve_handles(self._frame, note)):
            if max(abs(spot.x() - position.x()), abs(spot.y() - position.y())) <= HANDLE_PX:
                return number
        return -1

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._pressed is None:
            return
        moved = event.position() - self._pressed
        if self._carried >= 0 and abs(moved.y()) > max(DRAG_PX, abs(moved.x())) and not self._dragging:
            self._dragging = "note"
        if self._dragging == "note":
            self._carried_to = self._frame.string_at(event.position().y())
            no_place = self._place_under_hand() is None
            self.setCursor(Qt.CursorShape.ForbiddenCursor if no_place else Qt.CursorShape.ClosedHandCursor)
            self.update()
            return
        if not self._dragging and abs(moved.x()) > DRAG_PX:
            self._dragging = "loop" if self._pressed.y() < self._frame.header else "pan"
        time_s = self._frame.time(event.position().x())
        if self._dragging == "pan":
            self.go_to(self._drag_start_s - moved.x() / self._frame.px_per_s)
        elif self._dragging == "loop":
            times_s = sorted((self._frame.time(self._pressed.x()), time_s))
            self.loop_requested.emit(max(0.0, times_s[0]), max(0.06, times_s[1]))
        elif self._dragging and max(abs(moved.x()), abs(moved.y())) > DRAG_PX:
            if self._dragging == "point":
                note = self._content.score.notes[self._content.selected]
                semitones = self._frame.semitones(note.string, event.position().y())
                since_s = time_s - note.onset_s
                self.point_moved.emit(note.id, self._point, since_s, semitones, self._dragged_once)
            elif self._dragging == "border":
                self.border_dragged.emit(*self._border, self._snapped(max(0.0, time_s)), self._dragged_once)
            else:
                self.beat_dragged.emit(self._beat, time_s, self._dragged_once)
            self._dragged_once = True

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._pressed is None:
            return
        clicked, self._pressed = not self._dragging, None
        carried, self._dragging = self._dragging == "note", ""
        if carried:
            self.unsetCursor()
            self.update()
            note = self._content.score.notes[self._carried]
            if self._carried_to != note.string:
                self.note_carried.emit(note.id, self._carried_to)
        if clicked:
            index = self.note_at(event.position())
            if index is not None:
                self.note_pick_requested.emit(
                    self._content.score.notes[index].id, bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
                )
            elif (sound := self.unclaimed_at(event.position())) is not None:
                self.claim_requested.emit(sound)
            elif event.position().x() >= self._frame.left:
                self.seek_requested.emit(max(0.0, self._frame.time(event.position().x())))

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        """On a note: select its phrase. On a point of the selected note's curve: take it away; with Ctrl held on the
        curve: add one. On the chords: write one."""
        time_s = self._frame.time(event.position().x())
        if event.position().y() < CHORD_ROW * self._frame.scale and event.position().x() > self._frame.left:
            self.chord_pick_requested.emit(max(0.0, time_s))
            return
        point, note, at = self._point_at(event.position()), self._selected_note, self.note_at(event.position())
        if note is not None and point >= 0 and at == self._content.selected and self._tag_at(event.position()) < 0:
            self.point_removed.emit(note.id, point)
        elif at is None:
            return
        elif not event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.phrase_pick_requested.emit(self._content.score.notes[at].id)
        elif note is not None and at == self._content.selected:
            self.point_added.emit(note.id, time_s - note.onset_s)

    def wheelEvent(self, event: QWheelEvent) -> None:
        delta = event.angleDelta()
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.zoom(1.2 ** (delta.y() / 120), at_x=event.position().x())
        else:
            self.go_to(self._frame.start_s - (delta.y() + delta.x()) / self._frame.px_per_s)
        event.accept()

    # --- typing a fret: one or two figures ---
    def keyPressEvent(self, event: QKeyEvent) -> None:
        plain = not event.modifiers() & ~Qt.KeyboardModifier.KeypadModifier
        if not (plain and event.text().isdecimal() and len(event.text()) == 1):
            super().keyPressEvent(event)
            return
        if self._next is not None:
            self.figure_typed.emit(event.text())
            return
        continued = bool(self._typed) and (self._typing.isActive() or self._means_two(self._typed + event.text()))
        self._typed = (self._typed + event.text())[-2:] if continued else event.text()
        fret = int(self._typed)
        if fret > LAST_FRET:
            self._typed, fret, continued = event.text(), int(event.text()), False
        self._typing.start()
        self._slow_typing.start()
        self.fret_typed.emit(fret, continued)

    def _means_two(self, figures: str) -> bool:
        """Whether figures that came slowly are one fret: the first alone is out of the hand's reach, both are not."""
        near = hand_at(self._content.score, self._selected_id)
        return near is not None and len(figures) == 2 and means_both(figures, near)

    def _on_typing_over(self) -> None:
        self._typed = ""

    def changeEvent(self, event: QEvent) -> None:
        if event.type() == QEvent.Type.FontChange:
            self.update()
        super().changeEvent(event)

    def note_rect(self, index: int) -> QRectF:
        """Return where a note's tag stands, for pointing at it."""
        note = self._content.score.notes[index]
        width, height = tag_size(self._frame, tag_text(note))
        return QRectF(self._frame.x(note.onset_s), self._frame.y(note.string) - height / 2, width, height)
