"""What passes through a field: the wheel, which scrolls what the field lies in, and the space bar, which plays.

The wheel turns a number only in the field that has the keys and lies in nothing that scrolls. In a number no blank is
typed. While a list is open keys are its own.
"""

from PyQt6.QtCore import QChildEvent, QEvent, QObject, Qt
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QAbstractScrollArea, QAbstractSpinBox, QComboBox, QScrollArea, QWidget

FIELDS = (QAbstractSpinBox, QComboBox)


class FieldGuard(QObject):
    """Watches the fields of a window, and lets the wheel and the space bar pass through them."""

    def watch(self, root: QWidget) -> None:
        """Watch all fields below a widget."""
        for field in root.findChildren(QWidget):
            if isinstance(field, FIELDS):
                field.installEventFilter(self)
                for child in field.children():
                    self._watch_list(child)

    def eventFilter(self, field: QObject | None, event: QEvent | None) -> bool:
        if event is None or not isinstance(field, QWidget):
            return False
        if not isinstance(field, FIELDS):  # an open list, to which alone the keys go
            if event.type() == QEvent.Type.ShortcutOverride:
                event.accept()
            return event.type() == QEvent.Type.ShortcutOverride
        if isinstance(event, QChildEvent) and event.polished():
            self._watch_list(event.child())
        wheel = event.type() == QEvent.Type.Wheel and not (field.hasFocus() and not _scrolls(field))
        if wheel or (_is_bare_space(event) and isinstance(field, QAbstractSpinBox)):
            event.ignore()  # whoever lies below gets it
            return True
        return False

    def _watch_list(self, child: QObject | None) -> None:
        if isinstance(child, QWidget) and child.windowType() == Qt.WindowType.Popup:
            child.installEventFilter(self)


def _is_bare_space(event: QEvent) -> bool:
    if not isinstance(event, QKeyEvent) or event.type() != QEvent.Type.ShortcutOverride:
        return False
    return event.key() == Qt.Key.Key_Space and not event.modifiers()


def _scrolls(field: QWidget) -> bool:
    """Whether a field lies in a panel that can be scrolled now."""
    area = field.parentWidget()
    while area is not None and not isinstance(area, QScrollArea):
        area = area.parentWidget()
    bar = area.verticalScrollBar() if isinstance(area, QAbstractScrollArea) else None
    return bar is not None and bar.maximum() > 0
