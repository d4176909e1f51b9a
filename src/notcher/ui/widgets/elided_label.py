"""Words at an end of a row that are shortened where there is no room, and left out where there is hardly any."""

from PyQt6.QtCore import QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QSizePolicy

from notcher.ui.widgets.plain import Label, plain_tip

LEAST_SHARE = 0.4  # of the words; less of them says nothing


class ElidedLabel(Label):
    """A label that asks for no room of its own; all its words stay in the tool tip."""

    def __init__(self, align: Qt.AlignmentFlag = Qt.AlignmentFlag.AlignRight) -> None:
        super().__init__()
        self.setAlignment(align | Qt.AlignmentFlag.AlignVCenter)
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)

    def setText(self, text: str | None) -> None:
        super().setText(text)
        self.setToolTip(plain_tip(text or ""))

    def minimumSizeHint(self) -> QSize:
        return QSize(0, super().minimumSizeHint().height())

    def paintEvent(self, event: QPaintEvent | None) -> None:
        metrics = self.fontMetrics()
        if self.width() < LEAST_SHARE * metrics.horizontalAdvance(self.text()):
            return
        painter = QPainter(self)
        painter.setPen(self.palette().color(self.foregroundRole()))
        words = metrics.elidedText(self.text(), Qt.TextElideMode.ElideRight, self.width())
        painter.drawText(self.rect(), self.alignment(), words)
