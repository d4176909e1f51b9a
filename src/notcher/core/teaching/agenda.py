"""What is due: lessons that are planned, solos that were asked for, and what was practised and is to be repeated.

Reviews come at growing intervals, each a multiple of the one before (P. Pimsleur, "A memory schedule", The Modern
Language Journal 51, 1967, in days); after a day that did not end clean they begin anew.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from enum import StrEnum

from notcher.core.ledger import Book, LoggedPass, Practised
from notcher.core.proving import Result
from notcher.core.teaching.plan import REVIEW_DAYS
from notcher.core.teaching.progress import day_of


@dataclass(frozen=True, slots=True)
class Review:
    """A stretch that is to be repeated. phrases: ids. last: when it was played. stage: how many reviews went well.

    pace: of the last pass.
    """

    student_id: str
    document_id: str
    phrases: tuple[str, ...]
    last: date
    due: date
    stage: int
    pace: float


def practised_days(passes: Iterable[LoggedPass]) -> list[Practised]:
    """Return the last pass of each stretch on each day, in order; undated ones are left out."""
    practiseds: dict[tuple[str, str, tuple[str, ...], str], Practised] = {}
    for played in sorted(passes, key=lambda row: (row.played_at, row.id)):
        if day_of(played.played_at) is not None:
            day = Practised(played.student_id, played.document_id, played.phrases, played.played_at[:10], played.pace,
                            played.result)  # fmt: skip
            practiseds[day.student_id, day.document_id, day.phrases, day.day] = day
    return list(practiseds.values())


def reviews(days: Iterable[Practised]) -> list[Review]:
    """Return when each single phrase is to be repeated, the earliest first. days: see `practised_days`."""
    by_phrase: dict[tuple[str, str, tuple[str, ...]], list[Practised]] = {}
    for day in sorted(days, key=lambda row: row.day):
        if len(day.phrases) == 1:
            by_phrase.setdefault((day.student_id, day.document_id, day.phrases), []).append(day)
    result = [_review(rows) for rows in by_phrase.values()]
    return sorted(result, key=lambda review: (review.due, review.student_id, review.phrases))


def due_phrases(passes: Iterable[LoggedPass], today: date) -> dict[str, float]:
    """Return which phrases are to be repeated by a day: the pace each was played at last, by its id."""
    found = reviews(practised_days(passes))
    return {review.phrases[0]: review.pace for review in found if review.due <= today}


def _review(rows: Sequence[Practised]) -> Review:
    stage = 0
    for row in rows[1:]:
        stage = stage + 1 if row.result is Result.CLEAN else 0
    if rows[-1].result is not Result.CLEAN:
        stage = 0
    last = date.fromisoformat(rows[-1].day)
    due = last + timedelta(days=REVIEW_DAYS[min(stage, len(REVIEW_DAYS) - 1)])
    end = rows[-1]
    return Review(end.student_id, end.document_id, end.phrases, last, due, stage, end.pace)


class Due(StrEnum):
    """What an entry of the agenda is."""

    LESSON = "lesson"
    REQUEST = "request"
    REVIEW = "review"


@dataclass(frozen=True, slots=True)
class Entry:
    """One thing that is due. row_id: of the lesson or the request. document_id: what it is about, empty if unknown.

    phrases: ids, of what is to be repeated on one solo.
    """

    kind: Due
    due: date
    student_id: str
    document_id: str = ""
    row_id: str = ""
    phrases: tuple[str, ...] = ()


def agenda(book: Book, *, until: date | None = None, student_id: str = "") -> list[Entry]:
    """Return what is due up to a day (None: ever), the earliest first; of one student or of all.

    What is to be repeated is told of the students whose passes or days were read; one entry a solo and a day.
    """
    entries = [
        Entry(Due.LESSON, day, lesson.student_id, lesson.document_id, lesson.id)
        for lesson in book.lessons_of(student_id, taught=False)
        if (day := day_of(lesson.planned_for)) is not None
    ]
    entries += [
        Entry(Due.REQUEST, day, request.student_id, request.document_id, request.id)
        for request in book.queue(student_id=student_id)
        if (day := day_of(request.due)) is not None
    ]
    again: dict[tuple[date, str, str], list[str]] = {}
    for review in reviews(_days(book, student_id)):
        again.setdefault((review.due, review.student_id, review.document_id), []).append(review.phrases[0])
    entries += [
        Entry(Due.REVIEW, due, who, solo, phrases=tuple(phrases)) for (due, who, solo), phrases in again.items()
    ]
    kinds = list(Due)
    there = [entry for entry in entries if until is None or entry.due <= until]
    return sorted(there, key=lambda entry: (entry.due, kinds.index(entry.kind), entry.student_id, entry.document_id))


def _days(book: Book, student_id: str) -> list[Practised]:
    """The days of practice: by the passes where they were read, which are newer."""
    wanted = [student.id for student in book.present if student_id in ("", student.id)]
    practiseds = [day for day in book.days if day.student_id in wanted and day.student_id not in book.read_of]
    for name in wanted:
        if name in book.read_of:
            practiseds += practised_days(book.passes_of(name))
    return practiseds
