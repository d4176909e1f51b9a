"""The pages one under the other, at any size; only those in view are painted."""

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QFontMetricsF, QImage, QPainter, QPaintEvent, QPen, QResizeEvent, QWheelEvent
from PyQt6.QtWidgets import QAbstractScrollArea, QWidget

from notcher.core.sheets import Page
from notcher.painting.keys_frame import draw_keys_frame
from notcher.painting.sheet_picture import MM_PER_INCH, page_image
from notcher.painting.theme import PAPER, Theme, text_font

GAP_PX = 14  # between pages
ZOOM_STEP, LEAST_ZOOM, MOST_ZOOM = 1.25, 0.2, 6.0  # three steps double it; from a page as a stamp to one word
PX_PER_MM = 96 / MM_PER_INCH
"""At zoom 1 a page is as large as its paper, on a screen of 96 dots an inch."""
WHEEL_STEP = 120  # eighths of a degree, one notch of a mouse wheel (Qt's QWheelEvent)


class PageView(QAbstractScrollArea):
    """Shows the pages of a sheet; says which one is in view."""

    page_changed = pyqtSignal()

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._theme, self._scale = PAPER, 1.0
        self.pages: tuple[Page, ...] = ()
        self.said = ""
        self.zoom, self.fits = 1.0, "width"
        self._pictures: dict[int, QImage] = {}
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("The sheet")
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOn)
        self._bar.valueChanged.connect(lambda _value: self.page_changed.emit())

    @property
    def _bar(self):  # type: ignore[no-untyped-def]
        bar = self.verticalScrollBar()
        if bar is None:
            raise RuntimeError("a scroll area without a scroll bar")
        return bar

    def show_theme(self, theme: Theme, scale: float) -> None:
        self._theme, self._scale = theme, scale
        self._refresh()

    def show_pages(self, pages: tuple[Page, ...]) -> None:
        """Show a sheet; where the last one was looked at stays in view."""
        self.pages, self.said = pages, ""
        self._pictures.clear()
        self._lay_out()

    def say(self, sentence: str) -> None:
        """Show a sentence in place of pages."""
        self.pages, self.said = (), sentence
        self._pictures.clear()
        self._lay_out()

    # --- size ---
    def zoom_by(self, steps: int) -> None:
        """Make the pages larger or smaller about the middle of what is seen."""
        now = self._px_per_mm / PX_PER_MM
        self.fits = ""
        self._zoom_to(now * ZOOM_STEP**steps)

    def fit(self, what: str) -> None:
        """Make a page as wide as the view ("width"), or so that the whole of it is seen ("page")."""
        self.fits = what
        self._lay_out()

    def _zoom_to(self, zoom: float) -> None:
        middle = (self._bar.value() + self.height() / 2) / max(1.0, self._whole_height)
        self.zoom = min(max(zoom, LEAST_ZOOM), MOST_ZOOM)
        self._lay_out()
        self._bar.setValue(round(middle * self._whole_height - self.height() / 2))

    @property
    def _px_per_mm(self) -> float:
        view = self._view_size
        if self.fits and self.pages:
            widest = max(page.width for page in self.pages)
            across = (view.width() - 2 * GAP_PX) / widest
            if self.fits == "width":
                return max(0.2, across)
            tallest = max(page.height for page in self.pages)
            return max(0.2, min(across, (view.height() - 2 * GAP_PX) / tallest))
        return self.zoom * PX_PER_MM

    @property
    def _view_size(self) -> QSize:
        view = self.viewport()
        return view.size() if view is not None else self.size()

    @property
    def _whole_height(self) -> float:
        return GAP_PX + sum(page.height * self._px_per_mm + GAP_PX for page in self.pages)

    def _lay_out(self) -> None:
        view = self._view_size
        self._bar.setRange(0, max(0, round(self._whole_height) - view.height()))
        self._bar.setPageStep(view.height())
        self._bar.setSingleStep(round(30 * self._scale))
        across = self.horizontalScrollBar()
        if across is not None:
            widest = max((page.width for page in self.pages), default=0.0) * self._px_per_mm + 2 * GAP_PX
            across.setRange(0, max(0, round(widest) - view.width()))
            across.setPageStep(view.width())
        self._refresh()

    def _refresh(self) -> None:
        scale_before = self._px_per_mm
        self._pictures = {
            at: image for at, image in self._pictures.items() if image.text("scale") == f"{scale_before:.4f}"
        }
        self.setAccessibleDescription(self.place_words)
        if (view := self.viewport()) is not None:
            view.update()
        self.page_changed.emit()

    # --- pages ---
    def box_of(self, number: int) -> QRectF:
        """Return where a page lies in the view, 0 first."""
        scale = self._px_per_mm
        page = self.pages[number]
        top = GAP_PX + sum(other.height * scale + GAP_PX for other in self.pages[:number]) - self._bar.value()
        width = page.width * scale
        across = self.horizontalScrollBar()
        left = max(GAP_PX, (self._view_size.width() - width) / 2) - (across.value() if across is not None else 0)
        return QRectF(round(left), round(top), width, page.height * scale)

    @property
    def page(self) -> int:
        """The page that fills most of the view, 0 first."""
        view = QRectF(0, 0, self._view_size.width(), self._view_size.height())
        visible_px = [self.box_of(at).intersected(view).height() for at in range(len(self.pages))]
        return visible_px.index(max(visible_px)) if visible_px else 0

    def turn_to(self, number: int) -> None:
        """Bring a page to the top of the view."""
        if self.pages:
            at = min(max(number, 0), len(self.pages) - 1)
            self._bar.setValue(round(self.box_of(at).top() + self._bar.value() - GAP_PX))

    def turn(self, by: int) -> None:
        self.turn_to(self.page + by)

    @property
    def place_words(self) -> str:
        if not self.pages:
            return self.said
        return f"page {self.page + 1} of {len(self.pages)}"

    # --- events ---
    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self.viewport())
        view = QRectF(0, 0, self._view_size.width(), self._view_size.height())
        painter.fillRect(view, self._theme.color("lane"))
        if not self.pages:
            painter.setPen(self._theme.color("ink"))
            painter.setFont(text_font(self._scale, size=1.2))
            room = view.adjusted(40, 0, -40, 0)
            painter.drawText(room, Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, self.said)
        for number in range(len(self.pages)):
            box = self.box_of(number)
            if box.intersects(view):
                painter.drawImage(QPointF(box.left(), box.top()), self._picture(number))
                painter.setPen(QPen(self._theme.color("line"), 1))
                painter.drawRect(box.adjusted(-0.5, -0.5, 0.5, 0.5))
        if self.hasFocus():
            draw_keys_frame(painter, view.toRect(), self._theme)

    def _picture(self, number: int) -> QImage:
        scale = self._px_per_mm
        if number not in self._pictures:
            ratio = self.devicePixelRatioF()
            image = page_image(self.pages[number], scale * ratio * MM_PER_INCH)
            image.setDevicePixelRatio(ratio)
            image.setText("scale", f"{scale:.4f}")
            self._pictures[number] = image
        return self._pictures[number]

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._lay_out()

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        if event is not None and event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.zoom_by(1 if event.angleDelta().y() > 0 else -1)
            event.accept()
        elif event is not None:
            super().wheelEvent(event)

    def sizeHint(self) -> QSize:
        line = QFontMetricsF(text_font(self._scale)).height()
        return QSize(round(40 * line), round(40 * line))
