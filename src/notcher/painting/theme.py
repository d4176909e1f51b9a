"""Two looks: paper for the desk, stage for the dark. Ink on every ground reaches 4.5 : 1."""

from dataclasses import dataclass
from functools import lru_cache
from importlib.resources import files

from PyQt6.QtGui import QColor, QFont, QFontDatabase

TEXT_FAMILY, FIGURE_FAMILY = "Lato", "Inter"
BASE_POINTS = 10.5  # at 100 % text size


@dataclass(frozen=True)
class Theme:
    """Colours by what they mean. Measured is always a thin line, claimed a broad band: never told by colour alone."""

    name: str
    ground: str
    panel: str
    lane: str
    line: str
    hairline: str
    ink: str
    soft_ink: str
    measured: str
    claim: str
    accent: str
    on_accent: str
    doubt: str
    good: str

    def color(self, role: str, alpha: int = 255) -> QColor:
        """Return a role's colour with an opacity; not to be changed by who gets it."""
        return _color(str(getattr(self, role)), alpha)


@lru_cache
def _color(name: str, alpha: int) -> QColor:
    color = QColor(name)
    color.setAlpha(alpha)
    return color


PAPER = Theme(
    name="paper",
    ground="#f4f1e8",
    panel="#fbf9f4",
    lane="#ebe6d9",
    line="#8f8770",
    hairline="#cfc7b3",
    ink="#1e2429",
    soft_ink="#565c60",
    measured="#a3271b",
    claim="#4f86a3",
    accent="#175c75",
    on_accent="#ffffff",
    doubt="#8a4b00",
    good="#2c6438",
)
STAGE = Theme(
    name="stage",
    ground="#11161a",
    panel="#192026",
    lane="#171d22",
    line="#6c7a84",
    hairline="#2f3a42",
    ink="#eceff1",
    soft_ink="#a9b4bc",
    measured="#ff9a66",
    claim="#4a93bb",
    accent="#8fd0e8",
    on_accent="#0c1a20",
    doubt="#f2c062",
    good="#8fd49b",
)
THEMES = {theme.name: theme for theme in (PAPER, STAGE)}


def load_fonts() -> None:
    """Make the shipped fonts known. Raises: RuntimeError when one of them is missing."""
    for file in ("Lato-Regular.ttf", "Lato-Bold.ttf", "Inter-Regular.otf", "Inter-Bold.otf"):
        if QFontDatabase.addApplicationFont(str(files("notcher") / "fonts" / file)) < 0:
            raise RuntimeError(f"the font {file} is missing from the installation")


def text_font(scale: float, *, size: float = 1.0, bold: bool = False) -> QFont:
    """Return the font of words."""
    return _font(TEXT_FAMILY, scale * size, bold)


def figure_font(scale: float, *, size: float = 1.0, bold: bool = False) -> QFont:
    """Return the font of numbers."""
    return _font(FIGURE_FAMILY, scale * size, bold)


def _font(family: str, scale: float, bold: bool) -> QFont:
    font = QFont(family)
    font.setPointSizeF(BASE_POINTS * scale)
    font.setBold(bold)
    return font
