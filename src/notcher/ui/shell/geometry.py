"""Where the window stands, and how large it is."""

from PyQt6.QtCore import QByteArray
from PyQt6.QtWidgets import QWidget

FRAME_PX = 40  # a title bar may need so much of the screen


def come_back(window: QWidget, geometry: QByteArray) -> None:
    """Show a window where and as it was left; the first time as it is, or in all the room that the screen has."""
    if not geometry.isEmpty() and window.restoreGeometry(geometry):
        window.show()
        return
    screen = window.screen()
    room = screen.availableGeometry() if screen is not None else None
    if room is not None and (room.width() < window.width() or room.height() < window.height() + FRAME_PX):
        window.showMaximized()
    else:
        window.show()
