"""A panel with a title."""

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFrame, QScrollArea, QVBoxLayout, QWidget

from notcher.ui.widgets.plain import Label


def card(title: str, *widgets: QWidget) -> QFrame:
    """Return a framed panel with widgets under its title."""
    frame = QFrame()
    frame.setProperty("card", True)
    column = QVBoxLayout(frame)
    column.setContentsMargins(12, 8, 12, 10)
    label = Label(title)
    label.setProperty("title", True)
    column.addWidget(label)
    for widget in widgets:
        column.addWidget(widget)
    return frame


def scrolling(inside: QWidget) -> QScrollArea:
    """Return what shows a widget on its card's ground and scrolls it where there is no room; it takes no keys."""
    area = QScrollArea()
    area.setWidget(inside)
    area.setWidgetResizable(True)
    area.setFrameShape(QFrame.Shape.NoFrame)
    area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
    viewport = area.viewport()
    if viewport is not None:
        viewport.setAutoFillBackground(False)
    inside.setAutoFillBackground(False)
    return area
