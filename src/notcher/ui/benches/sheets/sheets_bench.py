"""The Sheets bench: on the left what the sheet is to be like, on the right its pages as they will be printed."""

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from notcher.painting.theme import Theme
from notcher.ui.benches.sheets.choices_panel import ChoicesPanel
from notcher.ui.benches.sheets.page_view import PageView
from notcher.ui.widgets.flow import FlowLayout
from notcher.ui.widgets.plain import Label


class SheetsBench(QWidget):
    """Shows the sheet and its choices; lays nothing out and writes nothing."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.panel, self.view = ChoicesPanel(), PageView()
        self.facts = Label()
        self.facts.setProperty("soft", True)
        self.print_button, self.write_button = QPushButton("Print…"), QPushButton("Save as PDF…")
        self.pack_button = QPushButton("Practice pack…")
        head = FlowLayout()
        for button in (self.pack_button, self.write_button, self.print_button):
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)  # a click leaves the keys with the pages
            head.addWidget(button)
        head.addWidget(self.facts)
        column = QVBoxLayout()
        column.addLayout(head)
        column.addWidget(self.view, 1)
        row = QHBoxLayout(self)
        row.setContentsMargins(8, 6, 12, 8)
        row.setSpacing(8)
        row.addWidget(self.panel)
        row.addLayout(column, 1)
        self._made = ""
        self.view.page_changed.connect(self._show_facts)

    def show_theme(self, theme: Theme, scale: float) -> None:
        self.view.show_theme(theme, scale)
        self.panel.fit_width()

    def show_made(self, words: str) -> None:
        """Tell what the pages hold."""
        self._made = words
        self._show_facts()

    def _show_facts(self) -> None:
        place = self.view.place_words if self.view.pages else ""
        self.facts.setText(" · ".join(part for part in (place, self._made) if part))
