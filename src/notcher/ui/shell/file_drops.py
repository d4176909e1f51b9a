"""Files and tabs that are dropped anywhere on a window: also on a field, which would else take them for words."""

from collections.abc import Callable

from PyQt6.QtCore import QEvent, QMimeData, QObject
from PyQt6.QtGui import QDropEvent
from PyQt6.QtWidgets import QWidget

DROPS = (QEvent.Type.DragEnter, QEvent.Type.DragMove, QEvent.Type.Drop)


class FileDrops(QObject):
    """Gives a dropped file to `take_file`, a dropped tab to `take_text`; other words stay the field's."""

    def __init__(self, window: QWidget, take_file: Callable[[str], None], take_text: Callable[[str], None]) -> None:
        super().__init__(window)
        self._take_file, self._take_text = take_file, take_text
        self.watch(window)

    def watch(self, root: QWidget) -> None:
        """Watch all below a widget that takes anything that is dropped."""
        for widget in (root, *root.findChildren(QWidget)):
            if widget.acceptDrops():
                widget.installEventFilter(self)  # a second time it counts once

    def eventFilter(self, _widget: QObject | None, event: QEvent | None) -> bool:
        if event is None or event.type() not in DROPS or not isinstance(event, QDropEvent):
            return False
        data = event.mimeData()
        path = _file_of(data)
        text = "" if path else _tab_of(data)
        if not (path or text):
            return False
        event.acceptProposedAction()
        if event.type() == QEvent.Type.Drop:
            if path:
                self._take_file(path)
            else:
                self._take_text(text)
        return True


def _file_of(data: QMimeData | None) -> str:
    local = [url.toLocalFile() for url in data.urls() if url.isLocalFile()] if data is not None else []
    return local[0] if local else ""


def _tab_of(data: QMimeData | None) -> str:
    from notcher.core.formats import looks_like_tab  # slow, and nothing is dropped before the first picture

    text = data.text() if data is not None and data.hasText() else ""
    return text if looks_like_tab(text) else ""
