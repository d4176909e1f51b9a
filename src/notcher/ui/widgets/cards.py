"""A panel with a title."""

from PyQt6.QtWidgets import QFrame, QLabel, QVBoxLayout, QWidget


def card(title: str, *widgets: QWidget) -> QFrame:
    """Return a framed panel with widgets under its title."""
    frame = QFrame()
    frame.setProperty("card", True)
    column = QVBoxLayout(frame)
    column.setContentsMargins(12, 8, 12, 10)
    label = QLabel(title)
    label.setProperty("title", True)
    column.addWidget(label)
    for widget in widgets:
        column.addWidget(widget)
    return frame
