"""How a student comes on with one phrase: what is clean on each day of practice, and when it will be at full tempo."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from itertools import pairwise

import numpy as np

from notcher.core.ledger import LoggedPass
from notcher.core.teaching.ladder import USUAL_START, CleanPace, Course, Pass, clean_pace, course

USUAL_GAP_DAYS = 7.0  # from one day of practice to the next, before two are known: a lesson a week
FULL = 1.0  # of the record's tempo
FURTHEST_DAYS = 3 * 365  # what lies beyond is not foretold


@dataclass(frozen=True, slots=True)
class Progress:
    """days: of practice, rising. clean: what was clean on each. passes: (day, pass), in order.

    full_on: when full tempo is likely: early, middle and late; a day past three years is None. Empty where it does not
    come nearer, or where one day is all that is known.
    """

    days: tuple[date, ...]
    clean: tuple[CleanPace, ...]
    passes: tuple[tuple[date, Pass], ...]
    course: Course | None
    full_on: tuple[date | None, ...] = ()

    @property
    def reached(self) -> bool:
        """Whether full tempo is clean by now."""
        return bool(self.clean) and self.clean[-1].pace >= FULL


def day_of(moment: str) -> date | None:
    """Return the day of an ISO 8601 moment; None where nobody knows."""
    try:
        return date.fromisoformat(moment[:10])
    except ValueError:
        return None


def by_stretch(passes: Iterable[LoggedPass]) -> dict[tuple[str, tuple[str, ...]], list[LoggedPass]]:
    """Return passes by (id of the solo, phrases), stretches and passes in the order they came."""
    result: dict[tuple[str, tuple[str, ...]], list[LoggedPass]] = {}
    for played in passes:
        result.setdefault((played.document_id, played.phrases), []).append(played)
    return result


def progress(passes: Sequence[LoggedPass]) -> Progress:
    """Return how one phrase came on. passes: through it, in the order they were played; undated ones are left out.

    The date of full tempo is that of the learning curve (see `ladder.course`) at the usual distance between two days of
    practice; its range is where eight in ten would fall by the scatter so far.
    """
    dated = [(day, Pass(played.pace, played.result)) for played in passes if (day := day_of(played.played_at))]
    days = tuple(dict.fromkeys(day for day, _ in dated))
    clean: list[CleanPace] = []
    for day in days:
        expected = clean[-1].pace if clean else USUAL_START
        clean.append(clean_pace([played for on, played in dated if on == day], expected=expected))
    fitted = course(np.arange(1.0, len(days) + 1), np.array([pace.pace for pace in clean])) if days else None
    return Progress(days, tuple(clean), tuple(dated), fitted, _full_on(days, clean, fitted))


def _full_on(days: Sequence[date], clean: Sequence[CleanPace], fitted: Course | None) -> tuple[date | None, ...]:
    if fitted is None or len(days) < 2 or clean[-1].pace >= FULL or (reach := fitted.until(FULL)) is None:
        return ()
    gap = gap_days(days)
    ahead = [max(1.0, count - len(days)) * gap for count in reach]
    return tuple(days[-1] + timedelta(days=round(more)) if more <= FURTHEST_DAYS else None for more in ahead)


def gap_days(days: Sequence[date]) -> float:
    """Return the usual distance between two days of practice: the middle one so far."""
    return float(np.median([(b - a).days for a, b in pairwise(days)])) if len(days) > 1 else USUAL_GAP_DAYS
