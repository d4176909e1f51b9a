"""The arrow keys over rows and columns."""

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeyEvent

STEPS = {
    Qt.Key.Key_Left: (0, -1),
    Qt.Key.Key_Right: (0, 1),
    Qt.Key.Key_Up: (-1, 0),
    Qt.Key.Key_Down: (1, 0),
}


def grid_step(event: QKeyEvent) -> tuple[int, int] | None:
    """Return the rows down and the columns across that a key leads; None for another key."""
    return STEPS[Qt.Key(event.key())] if event.key() in STEPS else None
