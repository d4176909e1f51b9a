"""What the strings do to the hand: their tension, and how far and how hard one is pushed for a bend.

The vibrating-string law f = sqrt(T / m) / (2 L) (M. Mersenne, "Harmonie universelle", 1636; N. Fletcher and T. Rossing,
"The Physics of Musical Instruments", 1998, ch. 2.2), Hooke's law for what a longer way does to the tension, and
geometry for the way: the string is pushed aside at the fret, its ends stay.
"""

import math
from dataclasses import dataclass

from notcher.core.neck.fretboard import SCALE_LENGTH_MM, fret_position_mm
from notcher.core.score import Tuning, midi_to_hz

STEEL_PA = 2.0e11  # Young's modulus of steel (handbook value; from memory)
STEEL_KG_M3 = 7_850.0  # plain carbon steel, any handbook of materials
INCH_MM = 25.4
BEHIND_NUT_MM = 40.0  # to the post, on the usual headstock: that part is stretched along
GRAVITY = 9.80665  # m/s², to tell newtons in kilograms


@dataclass(frozen=True, slots=True)
class StringSet:
    """The strings on a guitar. gauges: thousandths of an inch, highest first. wound: from which string on they are."""

    name: str
    gauges: tuple[float, ...]
    wound: int = 4

    def core_mm(self, string: int) -> float:
        """Return the diameter of what carries the tension: of a wound string the core under the winding."""
        return self.gauges[string - 1] / 1000 * INCH_MM * (CORE_SHARE if string >= self.wound else 1.0)

    def kg_per_m(self, string: int) -> float:
        """Return the mass of a metre of a string."""
        size_m = self.gauges[string - 1] / 1000 * INCH_MM / 1000
        fill = WINDING_FILL if string >= self.wound else 1.0
        return STEEL_KG_M3 * math.pi / 4 * size_m**2 * fill


CORE_SHARE = 0.44  # of a wound string's diameter that is core (common practice, no source)
WINDING_FILL = 0.86  # of a wound string's section that is metal: round wire leaves gaps
STRING_SETS = {
    strings.name: strings
    for strings in (
        StringSet("9 to 42", (9, 11, 16, 24, 32, 42)),
        StringSet("10 to 46", (10, 13, 17, 26, 36, 46)),
        StringSet("11 to 49", (11, 14, 18, 28, 38, 49)),
        StringSet("12 to 54, wound third", (12, 16, 24, 32, 42, 54), wound=3),
    )
}
"""Usual sets, by their outer gauges (common practice, no source)."""
USUAL_SET = STRING_SETS["10 to 46"]


@dataclass(frozen=True, slots=True)
class BendEffort:
    """What a bend asks of the hand. force_n: sideways at the fret, newtons. way_mm: how far the string is pushed aside.

    tension_n: of the string while it is bent.
    """

    force_n: float
    way_mm: float
    tension_n: float


def tension_n(
    midi: float, string: int, *, strings: StringSet = USUAL_SET, scale_length_mm: float = SCALE_LENGTH_MM
) -> float:
    """Return the tension of an open string tuned to a pitch, newtons: T = m (2 L f)²."""
    return strings.kg_per_m(string) * (2 * scale_length_mm / 1000 * float(midi_to_hz(midi))) ** 2


def push_for(
    string: int,
    fret: int,
    semitones: float,
    tuning: Tuning,
    *,
    strings: StringSet = USUAL_SET,
    scale_length_mm: float = SCALE_LENGTH_MM,
) -> BendEffort:
    """Return what it takes to bend a fretted note up.

    The bent string sounds r = 2^(n/12) times higher, so its tension is r² times what it was; the stretch that makes
    that much more tension is what pushing it aside by some way adds to its length.
    Raises: ValueError for a bend downward, or a string that is not there.
    """
    if semitones < 0 or not 1 <= string <= min(tuning.strings, len(strings.gauges)):
        raise ValueError("a string is only pushed up, and must be there")
    at_rest = tension_n(tuning.open_midi[string - 1], string, strings=strings, scale_length_mm=scale_length_mm)
    ratio = 2.0 ** (semitones / 12)
    bent = at_rest * ratio**2
    area_m2 = math.pi / 4 * (strings.core_mm(string) / 1000) ** 2
    whole_mm = scale_length_mm + BEHIND_NUT_MM
    stretch_mm = (bent - at_rest) / (STEEL_PA * area_m2) * whole_mm
    nut_mm = max(1.0, fret_position_mm(fret, scale_length_mm=scale_length_mm))
    bridge_mm = scale_length_mm - nut_mm
    way_mm = _way(stretch_mm, nut_mm, bridge_mm)
    force = bent * (way_mm / math.hypot(way_mm, nut_mm) + way_mm / math.hypot(way_mm, bridge_mm))
    return BendEffort(force, way_mm, bent)


def _way(stretch_mm: float, nut_mm: float, bridge_mm: float) -> float:
    """How far aside a string must go to become so much longer; by halving, to a hundredth of a millimetre."""
    low, high = 0.0, 60.0
    while high - low > 0.01:
        middle = (low + high) / 2
        longer = math.hypot(middle, nut_mm) + math.hypot(middle, bridge_mm) - nut_mm - bridge_mm
        low, high = (middle, high) if longer < stretch_mm else (low, middle)
    return (low + high) / 2
