"""The lengths of a page, all from one: a staff space. Millimetres."""

from dataclasses import dataclass
from functools import cached_property

from notcher.core.sheets.smufl import default
from notcher.core.sheets.typeface import Typeface, extent

SPACE_MM = 1.75
"""A staff of 7 mm: the usual size of printed parts (T. Ross, "The Art of Music Engraving and Processing", 1970, from
memory)."""
TAB_SPACES = 1.6
"""From string to string: half again of a staff's, so that figures stand free (SMuFL draws its tab clefs for 1.5)."""


@dataclass(frozen=True)
class Style:
    """Lengths for one size of print. space: a staff space."""

    space: float = SPACE_MM

    @cached_property
    def tab(self) -> float:
        """From string to string."""
        return TAB_SPACES * self.space

    @cached_property
    def figure(self) -> float:
        """The em of a fret's figure: its digits are three quarters of the way from string to string high."""
        digit = extent("8", Typeface.FIGURE_BOLD, 1.0)
        return 0.74 * self.tab / (digit.bottom - digit.top)

    @cached_property
    def small(self) -> float:
        """The em of counts, figures over bends, bar numbers."""
        return 1.45 * self.space

    @cached_property
    def text(self) -> float:
        """The em of words."""
        return 1.65 * self.space

    @cached_property
    def chord(self) -> float:
        return 2.3 * self.space

    @cached_property
    def title(self) -> float:
        return 3.6 * self.space

    @cached_property
    def line(self) -> float:
        return default("staffLineThickness") * self.space

    @cached_property
    def stem(self) -> float:
        return default("stemThickness") * self.space

    @cached_property
    def beam(self) -> float:
        return default("beamThickness") * self.space

    @cached_property
    def beam_step(self) -> float:
        """From beam to beam, edge to the same edge."""
        return (default("beamThickness") + default("beamSpacing")) * self.space

    @cached_property
    def thin_bar(self) -> float:
        return default("thinBarlineThickness") * self.space

    @cached_property
    def thick_bar(self) -> float:
        return default("thickBarlineThickness") * self.space

    @cached_property
    def mark(self) -> float:
        """The width of a gesture's line."""
        return 0.17 * self.space

    @cached_property
    def gap(self) -> float:
        """The least room between things that do not belong together."""
        return 0.35 * self.space
