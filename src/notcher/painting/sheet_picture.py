"""Paints the pages of a sheet: on the screen, on paper, as PDF, SVG and PNG. It measures nothing: the page is laid out.

Text is drawn unkerned and unhinted at a size of its own and scaled, so that it takes the room it was given everywhere.
"""

from collections.abc import Callable, Sequence
from functools import lru_cache, partial
from importlib.resources import files
from os import PathLike
from pathlib import Path

from PyQt6.QtCore import QBuffer, QByteArray, QIODevice, QMarginsF, QPointF, QRectF, QSize, QSizeF, Qt
from PyQt6.QtGui import (
    QColor,
    QFont,
    QFontDatabase,
    QFontMetricsF,
    QImage,
    QPageLayout,
    QPageSize,
    QPainter,
    QPainterPath,
    QPdfWriter,
    QPen,
    QPolygonF,
)
from PyQt6.QtSvg import QSvgGenerator

from notcher.core.formats import atomic_write
from notcher.core.formats.files.xml_text import without_controls
from notcher.core.sheets import Arc, Fill, Ink, Item, Page, PathItem, Typeface, Words

INKS = {Ink.FULL: "#000000", Ink.SOFT: "#5c5c5c", Ink.HAIR: "#7d7d7d"}
PAPER_WHITE = "#ffffff"
FONT_PX = 200
"""Letters are made at this size and scaled: large enough that no rounding of the font engine is seen."""
MM_PER_INCH = 25.4
NOT_IN_SVG_11 = b' vector-effect="none"'
"""An attribute of SVG Tiny 1.2 that Qt writes at every path all the same (W3C, "SVG 1.1", 2nd ed. 2011, has none)."""
PLATE = 0.12  # of an em around a figure's ink


@lru_cache
def _family(face: Typeface) -> tuple[str, bool]:
    """The family of a shipped font and whether it is its bold. Raises: FontMissingError by its own words."""
    from notcher.core.sheets import FontMissingError

    number = QFontDatabase.addApplicationFont(str(files("notcher") / "fonts" / face.value))
    families = QFontDatabase.applicationFontFamilies(number) if number >= 0 else []
    if not families:
        raise FontMissingError(face.value)
    return families[0], face in (Typeface.TEXT_BOLD, Typeface.FIGURE_BOLD)


@lru_cache
def _font(face: Typeface) -> QFont:
    family, bold = _family(face)
    font = QFont(family)
    font.setPixelSize(FONT_PX)
    font.setBold(bold)
    font.setKerning(False)
    font.setHintingPreference(QFont.HintingPreference.PreferNoHinting)
    # no joined letters either: what is measured is letter by letter
    for feature in ("liga", "calt", "clig", "kern"):
        font.setFeature(QFont.Tag.fromString(feature), 0)  # type: ignore[arg-type]
    return font


def paint_page(painter: QPainter, page: Page, *, outlines: bool = False) -> None:
    """Paint a page; the painter's unit is a millimetre, its origin the page's corner.

    outlines: letters as shapes, for files that are read where the fonts are not.
    """
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    for block in page.blocks:
        painter.save()
        painter.translate(block.x, block.y)
        for item in block.items:  # the ground first: plates lie on it
            if not item.group:
                paint_item(painter, item, outlines=outlines)
        for item in block.items:
            if item.group:
                paint_item(painter, item, outlines=outlines)
        painter.restore()


def paint_item(painter: QPainter, item: Item, *, outlines: bool = False) -> None:
    """Paint one thing of a page."""
    color = QColor(INKS[item.ink])
    if isinstance(item, Words):
        _paint_words(painter, item, color, outlines=outlines)
    elif isinstance(item, PathItem):
        pen = QPen(color, item.width, Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap, Qt.PenJoinStyle.BevelJoin)
        if item.dash:
            pen.setDashPattern(list(item.dash))
        painter.setPen(pen)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPolyline(QPolygonF([QPointF(x, y) for x, y in item.points]))
    elif isinstance(item, Fill):
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(color)
        painter.drawPolygon(QPolygonF([QPointF(x, y) for x, y in item.points]))
    elif isinstance(item, Arc):
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(color)
        painter.drawPath(_arc_path(item))


def _paint_words(painter: QPainter, item: Words, color: QColor, *, outlines: bool) -> None:
    if item.plate:
        pad = PLATE * item.size
        box = QRectF(item.box.left - pad, item.box.top - pad / 2, item.box.right - item.box.left + 2 * pad,
                     item.box.bottom - item.box.top + pad)  # fmt: skip
        painter.fillRect(box, QColor(PAPER_WHITE))
    scale = item.size / FONT_PX
    font = _font(item.face)
    painter.save()
    painter.translate(item.x, item.y)
    wide = QFontMetricsF(font).horizontalAdvance(item.text) * scale
    squeeze = min(1.0, item.advance / wide) if wide > 0 else 1.0  # letters that another font had to lend
    painter.scale(scale * (squeeze if squeeze < 0.99 else 1.0), scale)
    if outlines:
        path = QPainterPath()
        path.addText(QPointF(0, 0), font, item.text)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(color)
        painter.drawPath(path)
    else:
        painter.setPen(color)
        painter.setFont(font)
        painter.drawText(QPointF(0, 0), item.text)
    painter.restore()


def _arc_path(item: Arc) -> QPainterPath:
    (x, y), (end_x, _) = item.start, item.end
    third = (end_x - x) / 3
    half = item.thickness / 2 if item.bulge > 0 else -item.thickness / 2
    path = QPainterPath(QPointF(x, y))
    outer, inner = y + item.bulge + half, y + item.bulge - half
    path.cubicTo(QPointF(x + third, outer), QPointF(end_x - third, outer), QPointF(end_x, y))
    path.cubicTo(QPointF(end_x - third, inner), QPointF(x + third, inner), QPointF(x, y))
    return path


# --- files ---
def page_image(page: Page, dots_per_inch: float) -> QImage:
    """Return a page as a picture, black on white."""
    scale = dots_per_inch / MM_PER_INCH
    image = QImage(max(1, round(page.width * scale)), max(1, round(page.height * scale)), QImage.Format.Format_RGB32)
    image.fill(QColor(PAPER_WHITE))
    painter = QPainter(image)
    painter.scale(scale, scale)
    paint_page(painter, page)
    painter.end()
    return image


def pdf_bytes(pages: Sequence[Page], title: str = "") -> bytes:
    """Return pages as PDF, the fonts in it."""
    data = QByteArray()
    buffer = QBuffer(data)
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    writer = QPdfWriter(buffer)
    writer.setTitle(title[:200])
    writer.setCreator("Notcher")
    writer.setResolution(1200)
    writer.setPageLayout(page_layout(pages[0]))
    painter = QPainter(writer)
    scale = writer.resolution() / MM_PER_INCH
    for number, page in enumerate(pages):
        if number:
            writer.setPageLayout(page_layout(page))
            writer.newPage()
        painter.save()
        painter.scale(scale, scale)
        paint_page(painter, page)
        painter.restore()
    painter.end()
    buffer.close()
    return data.data()


def page_layout(page: Page) -> QPageLayout:
    """Return a page's paper for whatever prints it; its margins are its own."""
    size = QPageSize(QSizeF(page.width, page.height), QPageSize.Unit.Millimeter)
    return QPageLayout(size, QPageLayout.Orientation.Portrait, QMarginsF(0, 0, 0, 0), QPageLayout.Unit.Millimeter)


def svg_bytes(page: Page, title: str = "") -> bytes:
    """Return one page as SVG 1.1, letters as shapes."""
    data = QByteArray()
    buffer = QBuffer(data)
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    generator = QSvgGenerator(QSvgGenerator.SvgVersion.Svg11)
    generator.setOutputDevice(buffer)
    scale = 10.0  # whole numbers of a size stand in the file
    generator.setSize(QSize(round(page.width * scale), round(page.height * scale)))
    generator.setViewBox(QRectF(0, 0, page.width * scale, page.height * scale))
    generator.setResolution(round(scale * MM_PER_INCH))
    generator.setTitle(without_controls(title)[:200])
    painter = QPainter(generator)
    painter.scale(scale, scale)
    paint_page(painter, page, outlines=True)
    painter.end()
    buffer.close()
    return data.data().replace(NOT_IN_SVG_11, b"")


def png_bytes(page: Page, dots_per_inch: float = 150.0) -> bytes:
    """Return one page as PNG."""
    data = QByteArray()
    buffer = QBuffer(data)
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    page_image(page, dots_per_inch).save(buffer, "PNG")
    buffer.close()
    return data.data()


def sheet_files(
    pages: Sequence[Page], path: str | PathLike[str], title: str = ""
) -> list[tuple[Path, Callable[[], bytes]]]:
    """Return the files that a sheet is written to, each with what makes its bytes.

    Several pages as SVG or PNG are OUT-1, OUT-2 … Raises: ValueError for another ending.
    """
    target = Path(path)
    ending = target.suffix.lower()
    if ending == ".pdf":
        return [(target, lambda: pdf_bytes(pages, title))]
    makers: dict[str, Callable[[Page], bytes]] = {".svg": lambda page: svg_bytes(page, title), ".png": png_bytes}
    if ending not in makers:
        raise ValueError(f"a sheet is no {target.suffix!r} file")
    make = makers[ending]
    if len(pages) == 1:
        return [(target, partial(make, pages[0]))]
    names = (target.with_name(f"{target.stem}-{number}{target.suffix}") for number in range(1, len(pages) + 1))
    return [(name, partial(make, page)) for name, page in zip(names, pages, strict=True)]


def write_sheet(pages: Sequence[Page], path: str | PathLike[str], title: str = "") -> list[Path]:
    """Write pages as PDF, SVG or PNG, by the file's ending; return what was written.

    Everything is made before anything is written. Raises: FileError where it cannot be written; ValueError for another
    ending.
    """
    contents = [(name, make()) for name, make in sheet_files(pages, path, title)]
    for name, data in contents:
        with atomic_write(name) as stream:
            stream.write(data)
    return [name for name, _ in contents]
