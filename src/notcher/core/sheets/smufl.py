"""The music font: which sign is where in it, its anchors and the line widths it was drawn for.

Source: W3C Music Notation Community Group, "Standard Music Font Layout (SMuFL)", version 1.4; `engravingDefaults` and
anchors are the shipped font's own metadata. Everything is told in staff spaces.
"""

import json
from functools import cache
from importlib.resources import files

CODE_POINTS = {
    "6stringTabClef": 0xE06D,
    "4stringTabClef": 0xE06E,
    "gClef": 0xE050,
    "gClef8vb": 0xE052,
    "repeatDot": 0xE044,
    "noteheadWhole": 0xE0A2,
    "noteheadHalf": 0xE0A3,
    "noteheadBlack": 0xE0A4,
    "noteheadXBlack": 0xE0A9,
    "noteheadXHalf": 0xE0A8,
    "noteheadXWhole": 0xE0A7,
    "noteheadDiamondBlack": 0xE0DB,
    "noteheadDiamondHalf": 0xE0D9,
    "noteheadDiamondWhole": 0xE0D8,
    "augmentationDot": 0xE1E7,
    "accidentalFlat": 0xE260,
    "accidentalNatural": 0xE261,
    "accidentalSharp": 0xE262,
    "accidentalDoubleSharp": 0xE263,
    "accidentalDoubleFlat": 0xE264,
    "articStaccatoAbove": 0xE4A2,
    "restWhole": 0xE4E3,
    "restHalf": 0xE4E4,
    "restQuarter": 0xE4E5,
    "rest8th": 0xE4E6,
    "rest16th": 0xE4E7,
    "rest32nd": 0xE4E8,
    "rest64th": 0xE4E9,
    "rest128th": 0xE4EA,
    "rest256th": 0xE4EB,
    "metNoteWhole": 0xECA2,
    "metNoteHalfUp": 0xECA3,
    "metNoteQuarterUp": 0xECA5,
    "metNote8thUp": 0xECA7,
    "metNote16thUp": 0xECA9,
    "metAugmentationDot": 0xECB7,
} | {f"timeSig{digit}": 0xE080 + digit for digit in range(10)} | {
    f"tuplet{digit}": 0xE880 + digit for digit in range(10)
} | {
    f"flag{name}{way}": 0xE240 + 2 * at + (way == "Down")
    for at, name in enumerate(("8th", "16th", "32nd", "64th", "128th", "256th"))
    for way in ("Up", "Down")
}  # fmt: skip
"""SMuFL's code points of the signs that are used here."""


@cache
def _metadata() -> dict[str, dict[str, dict[str, list[float]]]]:
    text = (files("notcher") / "fonts" / "bravura_metadata.json").read_text("utf-8")
    return dict(json.loads(text))


def default(name: str) -> float:
    """Return one of the font's engraving defaults, in staff spaces: stemThickness, beamThickness …"""
    return float(_metadata()["engravingDefaults"][name])  # type: ignore[arg-type]


def anchor(sign: str, name: str) -> tuple[float, float]:
    """Return an anchor of a sign, in staff spaces right of and above its origin; the origin where it has none."""
    x, y = _metadata()["glyphsWithAnchors"].get(sign, {}).get(name, (0.0, 0.0))
    return float(x), float(y)
