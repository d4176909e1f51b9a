"""The rows of the list of doubts, made into words only where they are looked at."""

from PyQt6.QtCore import QAbstractTableModel, QModelIndex, Qt

from notcher.core.proving import ListedDoubt
from notcher.core.score import EMPTY_SCORE, Score
from notcher.core.words import USUAL, Naming, row_place, row_words, seconds

COLUMNS = ("Time", "Place", "What the recording says", "Doubt", "State")
NOWHERE = QModelIndex()


class DoubtModel(QAbstractTableModel):
    """The rows of the list; only what is asked for is made into words."""

    def __init__(self) -> None:
        super().__init__()
        self.rows: tuple[ListedDoubt, ...] = ()
        self._score, self._naming = EMPTY_SCORE, USUAL

    def show(self, rows: tuple[ListedDoubt, ...], score: Score) -> None:
        """score: the one that was proved."""
        self.beginResetModel()
        self.rows, self._score = rows, score
        self.endResetModel()

    def set_naming(self, naming: Naming) -> None:
        self.beginResetModel()
        self._naming = naming
        self.endResetModel()

    def rowCount(self, parent: QModelIndex = NOWHERE) -> int:
        return 0 if parent.isValid() else len(self.rows)

    def columnCount(self, parent: QModelIndex = NOWHERE) -> int:
        return len(COLUMNS)

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        if role == Qt.ItemDataRole.DisplayRole and orientation == Qt.Orientation.Horizontal:
            return COLUMNS[section]
        return None

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        row = self.rows[index.row()]
        if role == Qt.ItemDataRole.DisplayRole:
            return self._cell(row, index.column())
        if role == Qt.ItemDataRole.ToolTipRole:
            return row_words(row, self._score, self._naming)
        if role == Qt.ItemDataRole.TextAlignmentRole and index.column() in (0, 3):
            return Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        return None

    def _cell(self, row: ListedDoubt, column: int) -> str:
        if column == 0:
            return seconds(row.onset_s, 2, self._naming)
        if column == 1:
            return row_place(row, self._score, self._naming)
        if column == 2:
            return row_words(row, self._score, self._naming)
        return f"{row.priority:.0%}" if column == 3 else str(row.state)
