"""A day as it is typed."""

import re
from datetime import date, datetime

from notcher.core.errors import NotcherError


class DayError(NotcherError):
    """Words that are no day."""


DOTTED = re.compile(r"(\d{1,2})\. ?(\d{1,2})\.? ?(\d{2}|\d{4})?")
ISO = re.compile(r"\d{4}-\d{1,2}-\d{1,2}")


def day_from_text(text: str, today: date, *, day_first: bool = True) -> date | None:
    """Return the day that words say: Friday, next week, in 7 days, 12/12, Dec 12, 12.12., 2026-03-05; None for none.

    Without a year it is the next such day, today included. day_first: whether 3/4 is the third of April; with dots the
    day is always first. Raises: DayError.
    """
    words = " ".join(text.casefold().split())
    if not words:
        return None
    try:
        if ISO.fullmatch(words):
            return date(*map(int, words.split("-")))
        if match := DOTTED.fullmatch(words):
            words, day_first = "/".join(part for part in match.groups() if part), True
        elif words.endswith("."):
            words = words[:-1]
        if (day := _parsed(words, today, day_first=day_first)) is not None:
            return day
    except (ValueError, OverflowError):
        pass
    raise DayError(f"“{text}” is no day.", "Say it as Friday, next week, 5 Mar, 12/12, 2026-03-05 or in 7 days.")


def _parsed(words: str, today: date, *, day_first: bool) -> date | None:
    import dateparser  # it takes a third of a second, and not everybody gives days

    settings = {
        "RELATIVE_BASE": datetime(today.year, today.month, today.day),
        "DATE_ORDER": "DMY" if day_first else "MDY",
    }
    for prefer in ("current_period", "future"):  # what is today is not a year away
        found = dateparser.parse(words, languages=["en"], settings=settings | {"PREFER_DATES_FROM": prefer})
        if found is None or found.date() == today:
            break
    return found.date() if found is not None else None
