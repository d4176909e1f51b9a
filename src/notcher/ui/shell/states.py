"""Snapshots of the document: what changed since each, and going back."""

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QDialog,
    QDialogButtonBox,
    QHBoxLayout,
    QListWidget,
    QPushButton,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from notcher.core.score import Revision, changes
from notcher.core.words import Naming, changed_note_words, seconds
from notcher.ui.state.session import Session
from notcher.ui.widgets.plain import Label
from notcher.ui.widgets.tables import without_row_numbers


class StatesDialog(QDialog):
    """States on the left, what changed from the chosen one to now on the right; a row leads to its note."""

    def __init__(self, session: Session, naming: Naming, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Snapshots")
        self._session, self._naming = session, naming
        self.list, self.table, self.words = QListWidget(), QTableWidget(0, 4), Label()
        self.list.setAccessibleName("Snapshots")
        self.table.setAccessibleName("What has changed since")
        self.table.setHorizontalHeaderLabels(["Time", "What", "Then", "Now"])
        self.table.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        self.table.setWordWrap(False)
        self.table.setSelectionBehavior(QTableWidget.SelectionBehavior.SelectRows)
        for stretched in (2, 3):
            without_row_numbers(self.table, stretched=stretched)
        self.back, self.forget = QPushButton("Restore"), QPushButton("Delete")
        self.words.setWordWrap(True)
        self.back.clicked.connect(self._on_back)
        self.forget.clicked.connect(self._on_forget)
        self.list.currentRowChanged.connect(lambda _row: self._compare())
        self.table.cellActivated.connect(self._on_row)
        close = QDialogButtonBox(QDialogButtonBox.StandardButton.Close)
        close.rejected.connect(self.reject)
        below = QHBoxLayout()
        for button in (self.back, self.forget):
            below.addWidget(button)
        below.addWidget(self.words, 1)
        below.addWidget(close)
        beside = QHBoxLayout()
        beside.addWidget(self.list, 1)
        beside.addWidget(self.table, 3)
        column = QVBoxLayout(self)
        column.addLayout(beside)
        column.addLayout(below)
        self.resize(980, 520)
        session.revisions_changed.connect(self._fill)
        self._fill()

    @property
    def _states(self) -> tuple[Revision, ...]:
        return self._session.document.revisions

    def _fill(self) -> None:
        self.list.clear()
        for state in self._states:
            self.list.addItem(f"{state.name}\n{state.saved_at.replace('T', ' ')}")
        self.list.setCurrentRow(len(self._states) - 1)
        self._compare()

    def _compare(self) -> None:
        row = self.list.currentRow()
        chosen = 0 <= row < len(self._states)
        self.back.setEnabled(chosen)
        self.forget.setEnabled(chosen)
        self.table.setRowCount(0)
        if not chosen:
            self.words.setText("There is no snapshot yet. Edit, Save snapshot keeps one with the document.")
            return
        before, after = self._states[row].score, self._session.score
        note_changes = changes(before, after)
        counts = {
            kind: sum(change.kind == kind for change in note_changes)
            for kind in {change.kind for change in note_changes}
        }
        self.words.setText(", ".join(f"{n} {kind}" for kind, n in sorted(counts.items())) or "No differences from now.")
        self.table.setRowCount(len(note_changes))
        for at, change in enumerate(note_changes):
            cells = (
                seconds(change.onset_s, 2, self._naming),
                str(change.kind),
                changed_note_words(change.before, change, before.tuning, self._naming),
                changed_note_words(change.after, change, after.tuning, self._naming),
            )
            for column, text in enumerate(cells):
                item = QTableWidgetItem(text)
                item.setData(Qt.ItemDataRole.UserRole, change.onset_s)
                self.table.setItem(at, column, item)

    def _on_row(self, row: int, _column: int) -> None:
        item = self.table.item(row, 0)
        if item is not None:
            self._session.select_at(item.data(Qt.ItemDataRole.UserRole) - 1e-3)

    def _on_back(self) -> None:
        self._session.go_back_to(self.list.currentRow())
        self._compare()

    def _on_forget(self) -> None:
        self._session.discard_snapshot(self.list.currentRow())
