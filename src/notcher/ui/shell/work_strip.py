"""How far the document's long work is, and the button that ends it."""

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QProgressBar, QPushButton, QSizePolicy, QWidget

from notcher.ui.widgets.plain import Label


class WorkStrip(QFrame):
    """Shown while something runs, beside what is said: nothing moves when it comes and goes."""

    cancel_requested = pyqtSignal()

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._label, self._bar = Label(), QProgressBar()
        self._bar.setRange(0, 100)
        self.cancel_button = QPushButton("Cancel")
        self.cancel_button.clicked.connect(self.cancel_requested)
        row = QHBoxLayout(self)
        row.setContentsMargins(10, 1, 10, 1)
        row.addWidget(self._label)
        row.addWidget(self._bar, 1)
        row.addWidget(self.cancel_button)
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Ignored)  # as high as what is said beside
        self.hide()

    def begin(self, name: str) -> None:
        self._label.setText(f"{name}…")
        self._bar.setValue(0)
        self.show()

    def show_share(self, share: float) -> None:
        self._bar.setValue(round(100 * share))
