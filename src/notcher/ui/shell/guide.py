"""The user's guide inside the program: its pages, found by words, and the keys as they are now."""

from collections.abc import Iterable
from pathlib import Path

from PyQt6.QtCore import QSize, Qt, QUrl
from PyQt6.QtGui import QImage, QResizeEvent
from PyQt6.QtWidgets import (
    QDialog,
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QTextBrowser,
    QVBoxLayout,
    QWidget,
)

import notcher
from notcher.ui.widgets.plain import Label

FOLDER = Path(notcher.__file__).parent / "guide"
KEYS = "keys"
PAGES = (
    "start",
    "hear",
    "notch",
    "prove",
    "shapes",
    "teach",
    "sheets",
    "ledger",
    "marks",
    "glossary",
    KEYS,
    "files",
    "trust",
    "care",
)
"""Their names, in the order in which they are read; a bench's page is called as the bench."""
PAGE_MARGIN_PX, MARGIN_PX = 16, 60
"""Around a page; beside a picture, with the page's own and the scroll bar."""
MATCH_ROLE = Qt.ItemDataRole.UserRole


def page_titles() -> dict[str, str]:
    """Return what each page of the guide is called, by its name."""
    titles = {name: (FOLDER / f"{name}.md").read_text("utf-8").partition("\n")[0] for name in PAGES if name != KEYS}
    return {name: titles.get(name, "Keys").lstrip("# ") for name in PAGES}


def keys_page(rows: Iterable[tuple[str, str, str]]) -> str:
    """Return the page of all keys. rows: where they work, what they do, the keys; what has none is left out."""
    places: dict[str, list[tuple[str, str]]] = {}
    for place, label, keys in rows:
        if keys:
            places.setdefault(place, []).append((label, keys))
    lines = ["# Keys", "", "All that have keys, by where these work; Edit, Keyboard shortcuts changes them.", ""]
    for place, commands in places.items():
        lines += [f"## {place[:1].upper()}{place[1:]}", "", "| what | keys |", "| --- | --- |"]
        lines += [f"| {label} | `{keys}` |" for label, keys in commands]
        lines.append("")
    return "\n".join(lines)


class GuidePage(QTextBrowser):
    """One page; its pictures are never wider than it."""

    def __init__(self) -> None:
        super().__init__()
        self.setOpenLinks(False)
        self.setAccessibleName("The page")
        self.setSearchPaths([str(FOLDER)])
        if (document := self.document()) is not None:
            document.setDocumentMargin(PAGE_MARGIN_PX)
        self.setVerticalScrollBarPolicy(
            Qt.ScrollBarPolicy.ScrollBarAlwaysOn
        )  # one that comes and goes changes the width
        self._text, self._laid_out_at = "", 0

    def show_page(self, text: str) -> None:
        self._text = text
        self._lay_out()

    def _lay_out(self) -> None:
        self._laid_out_at = self.width()
        self.clear()  # else what was there leaves an empty first line
        self.setMarkdown(self._text)

    def loadResource(self, kind: int, name: QUrl) -> object:
        picture = QImage(str(FOLDER / name.toString()))
        width = self.width() - MARGIN_PX
        if picture.isNull() or picture.width() <= width:
            return picture
        return picture.scaledToWidth(width, Qt.TransformationMode.SmoothTransformation)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        bar = self.verticalScrollBar()
        if bar is not None and self.width() != self._laid_out_at and self._text:
            share = bar.value() / max(1, bar.maximum())
            self._lay_out()
            bar.setValue(round(share * bar.maximum()))


class GuideDialog(QDialog):
    """The pages to the left, one of them to the right; it stands beside the work."""

    def __init__(self, scale: float, keys: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("The guide")
        self._texts = {name: (FOLDER / f"{name}.md").read_text("utf-8") for name in PAGES if name != KEYS}
        self._texts[KEYS] = keys
        self.words = QLineEdit()
        self.words.setPlaceholderText("Words to find in the guide")
        self.words.setAccessibleName("Words to find in the guide")
        self.words.setClearButtonEnabled(True)
        self.list = QListWidget()
        self.list.setAccessibleName("Pages of the guide")
        for name in PAGES:
            item = QListWidgetItem(self._texts[name].partition("\n")[0].lstrip("# "))
            item.setData(MATCH_ROLE, name)
            self.list.addItem(item)
        self.list.setSpacing(2)
        self.list.setMinimumWidth(self.list.sizeHintForColumn(0) + 4 * self.list.frameWidth() + 12)
        self.page = GuidePage()
        self.none = Label("No page holds these words.")
        self.none.hide()
        left = QVBoxLayout()
        left.addWidget(self.words)
        left.addWidget(self.none)
        left.addWidget(self.list, 1)
        row = QHBoxLayout(self)
        row.addLayout(left)
        row.addWidget(self.page, 1)
        self.list.currentItemChanged.connect(self._on_chosen)
        self.words.textChanged.connect(self._on_words)
        self.words.returnPressed.connect(self._on_next)
        self.page.anchorClicked.connect(lambda link: self.turn_to(link.fileName().removesuffix(".md")))
        self.resize(QSize(round(900 * min(scale, 1.3)), 700))

    def turn_to(self, name: str) -> None:
        """Show a page; a name that is none shows the first."""
        self.list.setCurrentRow(PAGES.index(name) if name in PAGES else 0)
        self.list.setFocus()

    def _on_chosen(self, item: QListWidgetItem | None) -> None:
        if item is not None:
            self.page.show_page(self._texts[item.data(MATCH_ROLE)])

    def _on_words(self, words: str) -> None:
        """Leave the pages that hold every word."""
        wanted = words.lower().split()
        shown = []
        for row, name in enumerate(PAGES):
            holds = all(word in self._texts[name].lower() for word in wanted)
            self.list.setRowHidden(row, not holds)
            if holds:
                shown.append(row)
        self.none.setVisible(not shown)
        if shown and self.list.currentRow() not in shown:
            self.list.setCurrentRow(shown[0])

    def _on_next(self) -> None:
        """Go to where the first word stands next on the page, round and round."""
        word = next(iter(self.words.text().split()), "")
        if word and not self.page.find(word):
            self.page.moveCursor(self.page.textCursor().MoveOperation.Start)
            self.page.find(word)
