"""What passes through a field: the wheel, which scrolls what the field lies in, and the space bar, which plays.

The wheel turns a number only in the field that has the keys and lies in nothing that scrolls. In a number no blank is
typed. While a list is open keys are its own; Return presses the button that has the keys.
"""

from PyQt6.QtCore import QChildEvent, QEvent, QObject, Qt
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QAbstractButton, QAbstractScrollArea, QAbstractSpinBox, QComboBox, QScrollArea, QWidget

FIELDS = (QAbstractSpinBox, QComboBox)
WATCHED = frozenset({QEvent.Type.ShortcutOverride, QEvent.Type.Wheel, QEvent.Type.ChildPolished})


class FieldGuard(QObject):
    """Watches the fields of a window, and lets the wheel and the space bar pass through them."""

    def watch(self, root: QWidget) -> None:
        """Watch all fields below a widget."""
        for field in root.findChildren(QWidget):
            if isinstance(field, (*FIELDS, QAbstractButton)):
                field.installEventFilter(self)
                for child in field.children():
                    self._watch_list(child)

    def eventFilter(self, field: QObject | None, event: QEvent | None) -> bool:
        if event is None or event.type() not in WATCHED or not isinstance(field, QWidget):
            return False
        if isinstance(field, QAbstractButton):
            pressed = _is_bare(event, Qt.Key.Key_Return, Qt.Key.Key_Enter)
            if pressed:
                event.accept()  # it presses the button, and is no command's
            return pressed
        if not isinstance(field, FIELDS):  # an open list, to which alone the keys go
            if event.type() == QEvent.Type.ShortcutOverride:
                event.accept()
            return event.type() == QEvent.Type.ShortcutOverride
        if isinstance(event, QChildEvent) and event.polished():
            self._watch_list(event.child())
        wheel = event.type() == QEvent.Type.Wheel and not (field.hasFocus() and not _scrolls(field))
        if wheel or (_is_bare(event, Qt.Key.Key_Space) and isinstance(field, QAbstractSpinBox)):
            event.ignore()  # whoever lies below gets it
            return True
        return False

    def _watch_list(self, child: QObject | None) -> None:
        if isinstance(child, QWidget) and child.windowType() == Qt.WindowType.Popup:
            child.installEventFilter(self)


def _is_bare(event: QEvent, *keys: Qt.Key) -> bool:
    """Whether it is asked if one of these keys, and nothing with it, is a command."""
    if not isinstance(event, QKeyEvent) or event.type() != QEvent.Type.ShortcutOverride:
        return False
    return event.key() in keys and not event.modifiers() & ~Qt.KeyboardModifier.KeypadModifier


def _scrolls(field: QWidget) -> bool:
    """Whether a field lies in a panel that can be scrolled now."""
    area = field.parentWidget()
    while area is not None and not isinstance(area, QScrollArea):
        area = area.parentWidget()
    bar = area.verticalScrollBar() if isinstance(area, QAbstractScrollArea) else None
    return bar is not None and bar.maximum() > 0
