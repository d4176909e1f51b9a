"""Phrases that were found, as small pictures in a list."""

from collections.abc import Callable

from PyQt6.QtCore import QAbstractListModel, QModelIndex, QRectF, QSize, Qt
from PyQt6.QtGui import QFontMetricsF, QPainter, QPen
from PyQt6.QtWidgets import QListView, QStyle, QStyledItemDelegate, QStyleOptionViewItem, QWidget

from notcher.core.catalogue.catalogue import FoundPhrase
from notcher.core.score import EMPTY_SCORE, Score
from notcher.core.theory import named_key
from notcher.core.words import USUAL, Naming, many, pitch_class_name
from notcher.painting.phrase_picture import draw_phrase
from notcher.painting.theme import PAPER, Theme, text_font

ROW, HEAD, GAP = 118.0, 20.0, 6.0  # pixels at scale 1
NOWHERE = QModelIndex()


def found_words(row: FoundPhrase, naming: Naming = USUAL) -> str:
    """Return what a phrase is, in one line: its key, where the hand is, how quick it is, how like the example."""
    key = named_key(row.tonic, row.scale)
    parts = [
        f"{pitch_class_name(key.tonic, naming)} {key.scale}",
        f"fret {row.hand_fret}",
        many(row.count, "note"),
        f"{row.notes_per_s:.1f} notes a second",
    ]
    if row.chords:
        parts.append(f"over {' '.join(row.chords[:3])}")
    if row.distance is not None:
        parts.insert(0, f"{1 - row.distance:.0%} alike")
    return " · ".join(parts)


class FoundModel(QAbstractListModel):
    """What was found; a phrase's notes are read only when they are looked at."""

    def __init__(self, read: Callable[[int], Score]) -> None:
        """read: gives the notes of a phrase by its id in the catalogue."""
        super().__init__()
        self.rows: list[FoundPhrase] = []
        self.naming = USUAL
        self._read = read
        self._music: dict[int, Score] = {}

    def show(self, rows: list[FoundPhrase]) -> None:
        self.beginResetModel()
        self.rows = rows
        self.endResetModel()

    def clear(self) -> None:
        """What was gathered anew is read anew."""
        self._music.clear()

    def music(self, row: int) -> Score:
        """Return a row's notes, from second 0 on."""
        found_phrase = self.rows[row]
        if found_phrase.id not in self._music:
            self._music[found_phrase.id] = self._read(found_phrase.id)
        return self._music[found_phrase.id]

    def rowCount(self, parent: QModelIndex = NOWHERE) -> int:
        return 0 if parent.isValid() else len(self.rows)

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole):
            row = self.rows[index.row()]
            return f"{row.name or 'Phrase'}, {row.title or row.path.stem}: {found_words(row, self.naming)}"
        return None


class FoundDelegate(QStyledItemDelegate):
    """Draws one row: its name and where it comes from, the notes, and what it is."""

    def __init__(self, model: FoundModel, parent: QWidget) -> None:
        super().__init__(parent)
        self._model = model
        self.theme: Theme = PAPER
        self.scale = 1.0

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        return QSize(200, round(ROW * self.scale))

    def paint(self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        if painter is None:
            return
        found_phrase, theme, scale = self._model.rows[index.row()], self.theme, self.scale
        box = QRectF(option.rect).adjusted(2, 2, -2, -2)
        chosen = bool(option.state & QStyle.StateFlag.State_Selected)
        painter.save()
        painter.fillRect(box, theme.color("panel"))
        painter.setPen(QPen(theme.color("accent" if chosen else "hairline"), 3 if chosen else 1))
        painter.drawRect(box.adjusted(1, 1, -1, -1))
        inner = box.adjusted(GAP, GAP - 2, -GAP, -GAP + 2)
        bold, small = text_font(scale, size=0.95, bold=True), text_font(scale, size=0.82)
        line = HEAD * scale
        painter.setFont(bold)
        painter.setPen(theme.color("ink"))
        name = found_phrase.name or "Phrase"
        head = QRectF(inner.left(), inner.top(), inner.width(), line)
        painter.drawText(head, Qt.AlignmentFlag.AlignVCenter, name)
        used = QFontMetricsF(bold).horizontalAdvance(name) + 10
        painter.setFont(small)
        painter.setPen(theme.color("soft_ink"))
        metrics = QFontMetricsF(small)
        title = metrics.elidedText(
            found_phrase.title or found_phrase.path.stem, Qt.TextElideMode.ElideRight, inner.width() - used
        )
        painter.drawText(head.adjusted(used, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, title)
        foot = QRectF(inner.left(), inner.bottom() - line, inner.width(), line)
        words = metrics.elidedText(
            found_words(found_phrase, self._model.naming), Qt.TextElideMode.ElideRight, inner.width()
        )
        painter.drawText(foot, Qt.AlignmentFlag.AlignVCenter, words)
        picture = QRectF(inner.left(), head.bottom(), inner.width(), foot.top() - head.bottom())
        music = self._model.music(index.row())
        if music is not EMPTY_SCORE:
            draw_phrase(painter, picture, music, theme, scale=0.86 * scale, naming=self._model.naming)
        painter.restore()


def found_view(model: FoundModel) -> tuple[QListView, FoundDelegate]:
    """Return the list of what was found, and what draws its rows."""
    view = QListView()
    view.setModel(model)
    view.setUniformItemSizes(True)
    view.setVerticalScrollMode(QListView.ScrollMode.ScrollPerPixel)
    view.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    view.setAccessibleName("Phrases found")
    delegate = FoundDelegate(model, view)
    view.setItemDelegate(delegate)
    return view, delegate
