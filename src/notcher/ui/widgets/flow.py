"""A layout that goes on in the next row where the room ends: buttons stay whole with large text and in small windows.

After "Flow Layout Example" of the Qt documentation.
"""

from PyQt6.QtCore import QPoint, QRect, QSize, Qt
from PyQt6.QtWidgets import QLayout, QLayoutItem, QWidget


class FlowLayout(QLayout):
    """Lays widgets side by side, from left to right and then below; hidden ones take no room."""

    def __init__(self, parent: QWidget | None = None, *, spacing: int = 6) -> None:
        super().__init__(parent)
        self._items: list[QLayoutItem] = []
        self.setSpacing(spacing)
        self.setContentsMargins(0, 0, 0, 0)

    def addItem(self, item: QLayoutItem | None) -> None:
        if item is not None:
            self._items.append(item)

    def count(self) -> int:
        return len(self._items)

    def itemAt(self, index: int) -> QLayoutItem | None:
        return self._items[index] if 0 <= index < len(self._items) else None

    def takeAt(self, index: int) -> QLayoutItem | None:
        return self._items.pop(index) if 0 <= index < len(self._items) else None

    def expandingDirections(self) -> Qt.Orientation:
        return Qt.Orientation(0)

    def hasHeightForWidth(self) -> bool:
        return True

    def heightForWidth(self, width: int) -> int:
        return self._lay(QRect(0, 0, width, 0), move=False)

    def setGeometry(self, rect: QRect) -> None:
        super().setGeometry(rect)
        self._lay(rect, move=True)

    def sizeHint(self) -> QSize:
        shown = [item.sizeHint() for item in self._items if not item.isEmpty()]
        width = sum(size.width() + self.spacing() for size in shown)
        return QSize(width, max((size.height() for size in shown), default=0))

    def minimumSize(self) -> QSize:
        shown = [item.minimumSize() for item in self._items if not item.isEmpty()]
        least = QSize(0, 0)
        for size in shown:
            least = least.expandedTo(size)
        return least

    def _lay(self, rect: QRect, *, move: bool) -> int:
        """Lay the rows out, each item at the middle of its row; return how high they are."""
        rows: list[list[tuple[QLayoutItem, QSize]]] = [[]]
        row_width = 0
        for item in self._items:
            if item.isEmpty():
                continue
            size = item.sizeHint()
            if rows[-1] and row_width + size.width() > rect.width():
                rows.append([])
                row_width = 0
            rows[-1].append((item, size))
            row_width += size.width() + self.spacing()
        y = rect.y()
        for row in rows:
            height, x = max((size.height() for _, size in row), default=0), rect.x()
            for item, size in row:
                if move:
                    item.setGeometry(QRect(QPoint(x, y + (height - size.height()) // 2), size))
                x += size.width() + self.spacing()
            y += height + self.spacing()
        return max(0, y - self.spacing() - rect.y())
