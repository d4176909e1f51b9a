"""Times in a recording."""

from datetime import date

from notcher.core.words.naming import USUAL, Naming
from notcher.core.words.numbers import figure


def clock(time_s: float, naming: Naming = USUAL) -> str:
    """Return a time in the recording as minutes:seconds.tenths."""
    tenths = round(time_s * 10)
    return f"{tenths // 600}:{tenths % 600 // 10:02d}{naming.decimal_mark}{tenths % 10}"


def seconds(time_s: float, decimals: int = 2, naming: Naming = USUAL) -> str:
    """Return a time with its unit."""
    return f"{figure(time_s, decimals, naming=naming)} s"


def late_words(late_s: float) -> str:
    """Return how far from its beat something came: 12 ms late."""
    late_ms = round(1000 * late_s)
    return f"{abs(late_ms)} ms {'late' if late_ms > 0 else 'early'}" if late_ms else "on time"


MONTHS = ("Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec")


def day_words(day: date) -> str:
    """Return a day: 5 Mar 2026."""
    return f"{day.day} {MONTHS[day.month - 1]} {day.year}"


def hours(hours_h: float, naming: Naming = USUAL) -> str:
    """Return a time of work: 40 min, 2.5 h."""
    if 0 < hours_h < 0.95:
        return f"{max(1, round(hours_h * 60))} min"
    return f"{figure(hours_h, 1, naming=naming)} h"
