"""What stands at the beginning of a line: the strings' names, clefs, key."""

from notcher.core.sheets.engraver import Engraver
from notcher.core.sheets.heads import key_signs
from notcher.core.sheets.typeface import sign_extent

LABEL, CLEF_GAP, KEY_SIGN = 1.7, 0.6, 1.05
"""Staff spaces: room of the strings' names, around a clef, of each sign of a key."""
BEFORE_FIRST = 0.7  # spaces between the signs and the first note


def lead_width(engraver: Engraver, time_s: float, *, first: bool) -> float:
    """Return how much room what stands before the first column of a line takes.

    time_s: when the line begins, for its key. first: of the sheet, so that it has a clef.
    """
    space = engraver.style.space
    width = LABEL * space
    if first or engraver.staff:
        width += clef_width(engraver) + 2 * CLEF_GAP * space
    if engraver.staff:
        width += len(key_signs(engraver.written_key(time_s))) * KEY_SIGN * space
    return width + BEFORE_FIRST * space


def clef_width(engraver: Engraver) -> float:
    """Return how wide the widest clef of a line is."""
    space = engraver.style.space
    name, size = tab_clef(engraver)
    tab = sign_extent(name, size).advance
    return max(tab, sign_extent("gClef8vb", space).right) if engraver.staff else tab


def tab_clef(engraver: Engraver) -> tuple[str, float]:
    """Return the clef of the strings, and the staff space at which it fills three quarters of their height."""
    name = "4stringTabClef" if engraver.strings <= 4 else "6stringTabClef"
    extent = sign_extent(name, 1.0)
    return name, 0.78 * engraver.tab_height / (extent.bottom - extent.top)
