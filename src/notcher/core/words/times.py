"""Times in a recording."""

import re
from datetime import date, timedelta

from notcher.core.errors import NotcherError
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


class DayError(NotcherError):
    """Words that are no day."""


def day_from_text(text: str, today: date) -> date | None:
    """Return the day that words say: 5 Mar, 5 Mar 2026, 2026-03-05, tomorrow, in 7 days, in 2 weeks; None for none.

    Without a year it is the next such day, today included. Raises: DayError.
    """
    said = " ".join(text.casefold().split())
    if not said:
        return None
    if said in ("today", "tomorrow"):
        return today + timedelta(days=said == "tomorrow")
    try:
        if found := re.fullmatch(r"(?:in )?\+?(\d{1,3}) (day|week)s?", said):
            return today + timedelta(days=int(found[1]) * (7 if found[2] == "week" else 1))
        if re.fullmatch(r"\d{4}-\d{1,2}-\d{1,2}", said):
            return date(*map(int, said.split("-")))
        if found := re.fullmatch(r"(\d{1,2})\.? ([a-z]{3})[a-z]*\.?(?: (\d{4}))?", said):
            month = [name.casefold() for name in MONTHS].index(found[2]) + 1
            if found[3]:
                return date(int(found[3]), month, int(found[1]))
            this = date(today.year, month, int(found[1]))
            return this if this >= today else this.replace(year=today.year + 1)
    except (ValueError, OverflowError):
        pass
    raise DayError(f"“{text}” is no day.", "Say it as 5 Mar, 2026-03-05, tomorrow or in 7 days.")
