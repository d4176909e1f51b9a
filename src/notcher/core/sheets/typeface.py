"""How much room words and signs take: read from the shipped fonts themselves, so that pages need no display.

What a font lacks is given a square; whoever paints it draws no wider than that.
"""

import logging
from dataclasses import dataclass
from enum import StrEnum
from functools import cache, lru_cache
from importlib.resources import files
from io import BytesIO
from typing import Any

from fontTools.pens.boundsPen import BoundsPen
from fontTools.ttLib import TTFont

from notcher.core.errors import NotcherError
from notcher.core.sheets.smufl import CODE_POINTS

logging.getLogger("fontTools").setLevel(logging.ERROR)  # it tells of dates in fonts, which are nobody's business
SPACES_PER_EM = 4.0
"""SMuFL: an em is four staff spaces."""


class Typeface(StrEnum):
    """The shipped fonts, by what they are used for; the value is the file."""

    TEXT = "Lato-Regular.ttf"
    TEXT_BOLD = "Lato-Bold.ttf"
    FIGURE = "Inter-Regular.otf"
    FIGURE_BOLD = "Inter-Bold.otf"
    MUSIC = "Bravura.otf"


class FontMissingError(NotcherError):
    """A font that belongs to the installation is not there or damaged."""

    def __init__(self, name: str) -> None:
        super().__init__(f"The font {name} is missing or damaged.", "Install Notcher again.")


@dataclass(frozen=True, slots=True)
class Extent:
    """How far words reach: advance, and the ink's left, top, right and bottom from the origin on the baseline (y down).

    An extent of blanks has an advance and no ink: left = right.
    """

    advance: float
    left: float
    top: float
    right: float
    bottom: float


@dataclass(frozen=True, slots=True)
class _Font:
    units: float
    names: dict[int, str]
    glyphs: Any
    widths: Any


@cache
def _font(face: Typeface) -> _Font:
    path = files("notcher") / "fonts" / face.value
    try:
        font = TTFont(BytesIO(path.read_bytes()), lazy=True)
        return _Font(float(font["head"].unitsPerEm), font.getBestCmap(), font.getGlyphSet(), font["hmtx"])
    except Exception as problem:  # whatever a damaged file lets the reader raise
        raise FontMissingError(face.value) from problem


@lru_cache(maxsize=8_192)
def _letter(face: Typeface, letter: str) -> Extent:
    """One letter's extent in ems."""
    font = _font(face)
    name = font.names.get(ord(letter))
    if name is None:
        return Extent(1.0, 0.0, -0.8, 1.0, 0.25)
    pen = BoundsPen(font.glyphs)
    font.glyphs[name].draw(pen)
    advance = font.widths[name][0] / font.units
    if pen.bounds is None:
        return Extent(advance, 0.0, 0.0, 0.0, 0.0)
    left, low, right, high = (bound / font.units for bound in pen.bounds)
    return Extent(advance, left, -high, right, -low)


@lru_cache(maxsize=16_384)
def extent(text: str, face: Typeface, size: float) -> Extent:
    """Return how much room a text takes. size: of an em, in the unit that is wanted; letters are not kerned."""
    x, left, top, right, bottom = 0.0, None, 0.0, 0.0, 0.0
    for letter in text:
        ink = _letter(face, letter)
        if ink.right > ink.left:
            if left is None:
                left, top, bottom = x + ink.left, ink.top, ink.bottom
            left, right = min(left, x + ink.left), max(right, x + ink.right)
            top, bottom = min(top, ink.top), max(bottom, ink.bottom)
        x += ink.advance
    return Extent(x * size, (left or 0.0) * size, top * size, right * size, bottom * size)


def sign_extent(name: str, space: float) -> Extent:
    """Return how much room a sign of the music font takes. space: a staff space in the unit that is wanted."""
    return extent(chr(CODE_POINTS[name]), Typeface.MUSIC, SPACES_PER_EM * space)


def fitted(text: str, face: Typeface, size: float, room: float) -> str:
    """Return a text, its end cut off with an ellipsis where it is wider than there is room."""
    if extent(text, face, size).advance <= room:
        return text
    low, high = 0, len(text)
    while low < high:
        middle = (low + high + 1) // 2
        if extent(text[:middle].rstrip() + "…", face, size).advance <= room:
            low = middle
        else:
            high = middle - 1
    return text[:low].rstrip() + "…"


def wrapped(text: str, face: Typeface, size: float, room: float) -> list[str]:
    """Return a text in lines that fit; a word that is longer than a line is cut."""
    lines: list[str] = []
    line = ""
    for word in text.split():
        longer = f"{line} {word}" if line else word
        if extent(longer, face, size).advance <= room:
            line = longer
            continue
        if line:
            lines.append(line)
        while extent(word, face, size).advance > room and len(word) > 1:
            count = max(1, int(len(word) * room / extent(word, face, size).advance))
            while count > 1 and extent(word[:count], face, size).advance > room:
                count -= 1
            lines.append(word[:count])
            word = word[count:]
        line = word
    return [*lines, line] if line else lines
