"""A day as it is typed."""

import re
from datetime import date, timedelta

from notcher.core.errors import NotcherError
from notcher.core.words.times import MONTHS


class DayError(NotcherError):
    """Words that are no day."""


def day_from_text(text: str, today: date) -> date | None:
    """Return the day that words say: 5 Mar, 5 Mar 2026, 2026-03-05, tomorrow, in 7 days, in 2 weeks; None for none.

    Without a year it is the next such day, today included. Raises: DayError.
    """
    words = " ".join(text.casefold().split())
    if not words:
        return None
    if words in ("today", "tomorrow"):
        return today + timedelta(days=words == "tomorrow")
    try:
        if match := re.fullmatch(r"(?:in )?\+?(\d{1,3}) (day|week)s?", words):
            return today + timedelta(days=int(match[1]) * (7 if match[2] == "week" else 1))
        if re.fullmatch(r"\d{4}-\d{1,2}-\d{1,2}", words):
            return date(*map(int, words.split("-")))
        if match := re.fullmatch(r"(\d{1,2})\.? ([a-z]{3})[a-z]*\.?(?: (\d{4}))?", words):
            month = [name.casefold() for name in MONTHS].index(match[2]) + 1
            if match[3]:
                return date(int(match[3]), month, int(match[1]))
            this = date(today.year, month, int(match[1]))
            return this if this >= today else this.replace(year=today.year + 1)
    except (ValueError, OverflowError):
        pass
    raise DayError(f"“{text}” is no day.", "Say it as 5 Mar, 2026-03-05, tomorrow or in 7 days.")
