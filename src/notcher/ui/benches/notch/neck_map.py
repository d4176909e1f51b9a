"""The neck, with every place where the selected pitch lives and what each would cost."""

from PyQt6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QHelpEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QToolTip, QWidget

from notcher.core.neck import EQUAL_COST, Place, PlaceAlternative, fret_position_mm
from notcher.core.score import LAST_FRET, STANDARD, Tuning
from notcher.core.words import USUAL, Naming, note_name, place_name, reason_words, string_letter
from notcher.painting.theme import PAPER, Theme, figure_font, text_font

MARKED_FRETS = (3, 5, 7, 9, 12, 15, 17, 19, 21, 24)
ROOM_PX = 118  # of height that text at scale 1 needs
HARD_COST = 3.0  # ten frets of travel with plenty of time: a player thinks twice


class NeckMap(QWidget):
    """Frets in their true proportion, the highest string on top as on the tab."""

    place_pick_requested = pyqtSignal(int, int, bool)  # string, fret, whether beside the selected note

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._tuning: Tuning = STANDARD
        self._chosen: Place | None = None
        self._places: tuple[PlaceAlternative, ...] = ()
        self._writing = self._left_handed = False
        self._naming = USUAL
        self._theme, self._scale = PAPER, 1.0
        self.setMinimumHeight(ROOM_PX)
        self.setAccessibleName("Neck map: places of the selected pitch")

    def set_writing(self, wanted: bool) -> None:
        """Take a click anywhere on the neck as the next note's place."""
        self._writing = wanted
        self.setCursor(Qt.CursorShape.CrossCursor if wanted else Qt.CursorShape.ArrowCursor)
        self.update()

    def set_left_handed(self, wanted: bool) -> None:
        """Draw the nut on the right, as a left-handed player sees the neck."""
        self._left_handed = wanted
        self.update()

    def show_places(self, tuning: Tuning, chosen: Place | None, places: tuple[PlaceAlternative, ...]) -> None:
        """places: each place of the pitch with what it would cost beyond the best, and why."""
        self._tuning, self._chosen, self._places = tuning, chosen, places
        self.update()

    def set_naming(self, naming: Naming) -> None:
        self._naming = naming
        self.update()

    def show_theme(self, theme: Theme, scale: float) -> None:
        self._theme, self._scale = theme, scale
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(760, round(150 * self._scale))

    @property
    def _fit(self) -> float:
        """The scale of what is written, no larger than there is room for between the strings."""
        return min(self._scale, self.height() / ROOM_PX)

    @property
    def _left(self) -> float:
        return 52 * self._fit

    @property
    def _foot(self) -> float:
        return self.height() - 20 * self._fit

    def _x(self, fret: float) -> float:
        """The fret's wire; the open string's place is left of the nut."""
        share = fret_position_mm(fret) / fret_position_mm(LAST_FRET)
        return self._seen(self._left + share * (self.width() - self._left - 12))

    def _seen(self, x: float) -> float:
        """Where something lies for the hand that plays."""
        return self.width() - x if self._left_handed else x

    def _y(self, string: int) -> float:
        top = 12 * self._fit
        return top + (string - 1) * (self._foot - top - 8) / max(1, self._tuning.strings - 1)

    def _spot(self, place: Place) -> QPointF:
        x = (
            self._seen(self._left - 13 * self._fit)
            if place.fret == 0
            else (self._x(place.fret - 1) + self._x(place.fret)) / 2
        )
        return QPointF(x, self._y(place.string))

    def _spot_size(self, place: Place) -> float:
        gap = abs(self._x(max(1, place.fret)) - self._x(max(1, place.fret) - 1))
        return min(max(gap * 0.94, 23 * self._fit), 28 * self._fit)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme = self._theme
        painter.fillRect(self.rect(), theme.color("panel"))
        self._paint_neck(painter)
        for other in reversed(self._places):
            self._paint_place(painter, other)
        if self._writing:
            self._paint_writing(painter)

    def _paint_writing(self, painter: QPainter) -> None:
        """Say that a click writes."""
        painter.setPen(QPen(self._theme.color("accent"), 3))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(QRectF(self.rect()).adjusted(1.5, 1.5, -1.5, -1.5))
        painter.setFont(text_font(self._fit, size=0.8, bold=True))
        box = QRectF(8, self._foot, self.width() - 16, 18 * self._fit)
        side = Qt.AlignmentFlag.AlignRight if self._left_handed else Qt.AlignmentFlag.AlignLeft
        painter.drawText(box, side | Qt.AlignmentFlag.AlignVCenter, "A click writes")

    def _paint_neck(self, painter: QPainter) -> None:
        theme, strings = self._theme, self._tuning.strings
        top, bottom = self._y(1), self._y(strings)
        painter.setFont(figure_font(self._fit, size=0.78))
        for fret in range(LAST_FRET + 1):
            x = self._x(fret)
            painter.setPen(QPen(theme.color("ink" if fret == self._tuning.capo else "hairline"), 3 if fret == 0 else 1))
            painter.drawLine(QPointF(x, top), QPointF(x, bottom))
            if fret in MARKED_FRETS:
                middle = (self._x(fret - 1) + x) / 2
                painter.setPen(theme.color("soft_ink"))
                box = QRectF(middle - 14, self._foot, 28, 18 * self._fit)
                painter.drawText(box, Qt.AlignmentFlag.AlignCenter, str(fret))
        for string in range(1, strings + 1):
            y = self._y(string)
            painter.setPen(QPen(theme.color("line"), 0.8 + 0.25 * string))
            painter.drawLine(QPointF(self._x(0), y), QPointF(self._x(LAST_FRET), y))
            painter.setPen(theme.color("ink"))
            painter.setFont(text_font(self._fit, size=0.85))
            middle = self._seen(4 + 13 * self._fit)
            box = QRectF(middle - 13 * self._fit, y - 9 * self._fit, 26 * self._fit, 18 * self._fit)
            painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, string_letter(self._tuning, string, self._naming))

    def _paint_place(self, painter: QPainter, other: PlaceAlternative) -> None:
        """The chosen place is filled, others are outlined: thickly what is as easy, dashed what is harder, crossed
        out what no hand can do here."""
        theme, place = self._theme, other.place
        spot, size = self._spot(place), self._spot_size(place)
        box = QRectF(spot.x() - size / 2, spot.y() - 8.5 * self._fit, size, 17 * self._fit)
        chosen = place == self._chosen
        easy, hard = other.cost <= EQUAL_COST, other.cost > HARD_COST
        edge = QPen(theme.color("accent"), 2.4 if easy else 1.4)
        edge.setStyle(Qt.PenStyle.DashLine if hard and not chosen else Qt.PenStyle.SolidLine)
        painter.setPen(edge)
        painter.setBrush(theme.color("accent" if chosen else "panel"))
        painter.drawRect(box)
        if not other.possible:  # behind the figure, which stays legible
            painter.setPen(QPen(theme.color("line"), 1.2))
            painter.drawLine(box.bottomLeft(), box.topRight())
            painter.drawLine(box.topLeft(), box.bottomRight())
        painter.setPen(theme.color("on_accent" if chosen else "ink"))
        painter.setFont(figure_font(self._fit, size=0.78, bold=chosen))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, str(place.fret))

    def _place_at(self, position: QPointF) -> PlaceAlternative | None:
        for other in self._places:
            spot, size = self._spot(other.place), self._spot_size(other.place)
            if abs(position.x() - spot.x()) <= size / 2 and abs(position.y() - spot.y()) <= 9 * self._fit:
                return other
        return None

    def _place_pointed_at(self, position: QPointF) -> Place | None:
        """Return the place of the selected pitch under a point, else any other on the strings; None beside the neck."""
        if (other := self._place_at(position)) is not None:
            return other.place
        half = (self._y(2) - self._y(1)) / 2
        edges = sorted((self._spot(Place(1, 0)).x() - half, self._x(LAST_FRET)))
        on_strings = self._y(1) - half <= position.y() <= self._y(self._tuning.strings) + half
        return self.neck_place_at(position) if on_strings and edges[0] <= position.x() <= edges[1] else None

    def neck_place_at(self, position: QPointF) -> Place:
        """Return the string and fret nearest to a point."""
        string = min(range(1, self._tuning.strings + 1), key=lambda s: abs(self._y(s) - position.y()))
        frets = range(self._tuning.capo, LAST_FRET + 1)
        return Place(string, min(frets, key=lambda f: abs(self._spot(Place(string, f)).x() - position.x())))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        also = Qt.KeyboardModifier.ShiftModifier | Qt.KeyboardModifier.ControlModifier
        beside = bool(event.modifiers() & also)
        if self._writing or (beside and self._chosen is not None):
            self.place_pick_requested.emit(*self.neck_place_at(event.position()), beside)
        elif self._chosen is not None and (where := self._place_pointed_at(event.position())) is not None:
            self.place_pick_requested.emit(*where, False)

    def _place_words(self, other: PlaceAlternative) -> str:
        words = place_name(self._tuning, other.place.string, other.place.fret, self._naming)
        why = f": {reason_words(other.reason)}" if other.reason is not None else ""
        return f"{words[0].upper()}{words[1:]}{why}"

    def _other_pitch_words(self, where: Place | None) -> str:
        """What a click beside the places of the selected pitch would make of it."""
        if where is None or self._chosen is None or self._writing:
            return ""
        pitch = note_name(self._tuning.midi(*where), self._naming)
        return f"{place_name(self._tuning, *where, self._naming)}: another pitch, {pitch}"

    def event(self, event: QEvent) -> bool:
        """Say on hovering what a place costs, and why."""
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip:
            other, where = self._place_at(QPointF(event.pos())), self._place_pointed_at(QPointF(event.pos()))
            text = self._place_words(other) if other is not None else self._other_pitch_words(where)
            QToolTip.showText(event.globalPos(), text, self)
            return True
        return super().event(event)
