"""What stands in the record, in words: what is due, how long something takes, what a student did."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date
from html import escape

import numpy as np

from notcher.core.ledger import LEAST_DONE, Book, Estimate, Lesson, LoggedPass, Request
from notcher.core.proving import Result
from notcher.core.teaching.agenda import Due, Entry, practised_days, reviews
from notcher.core.teaching.plan import REVIEW_DAYS
from notcher.core.teaching.progress import by_stretch, day_of
from notcher.core.words import USUAL, Naming, day_words, figure, hours, many


def due_words(due: date, today: date) -> str:
    """Return how far a day is from today: today, tomorrow, in 5 days, 2 days late."""
    days = (due - today).days
    if days in (0, 1):
        return "tomorrow" if days else "today"
    return f"in {days} days" if days > 0 else f"{many(-days, 'day')} late"


def who_words(book: Book, student_id: str) -> str:
    student = book.students.get(student_id)
    return student.name if student is not None else "somebody who is gone"


def solo_words(book: Book, document_id: str) -> str:
    """Return what a solo is called."""
    document = book.known(document_id)
    return (document.title or "Untitled") if document is not None else "a solo that was not open here yet"


def stretch_words(book: Book, document_id: str, phrases: Iterable[str]) -> str:
    """Return what phrases of a solo are called, joined; what is not there any more is told as that."""
    names = book.phrase_names(document_id)
    return " + ".join(names.get(phrase, "") or "a phrase that is gone" for phrase in phrases)


def entry_words(entry: Entry, book: Book) -> str:
    """Return what an entry of the agenda is about."""
    if entry.kind is Due.REQUEST:
        request = book.requests[entry.row_id]
        return f"{request.title} was asked for"
    if entry.kind is Due.LESSON:
        lesson = book.lessons[entry.row_id]
        about = f" on {solo_words(book, lesson.document_id)}" if lesson.document_id else ""
        return f"A lesson of {many(round(lesson.minutes), 'minute')}{about}" if lesson.minutes else f"A lesson{about}"
    names = [stretch_words(book, entry.document_id, [phrase]) for phrase in entry.phrases]
    return f"Repeat {', '.join(names)} of {solo_words(book, entry.document_id)}"


INTERVALS = (
    f"What was practised is repeated after {', '.join(map(str, REVIEW_DAYS[:-1]))} and {REVIEW_DAYS[-1]} days, each "
    "about two and a half times the one before (growing intervals, Pimsleur 1967); after a day that does not end clean "
    "they begin anew."
)


def estimate_words(estimate: Estimate, naming: Naming = USUAL) -> str:
    """Return the hours a solo will take, with their range."""
    if estimate.high_h < 0.05:
        return "not known"
    likely = hours(estimate.likely_h, naming)
    if estimate.high_h - estimate.low_h < 0.05:
        return f"about {likely}"
    return f"{likely} ({hours(estimate.low_h, naming)} to {hours(estimate.high_h, naming)})"


def estimate_reason(book: Book, naming: Naming = USUAL) -> str:
    """Return on what estimates rest."""
    estimate = book.estimate(1000)
    usual, slow, quick = (1000 / count for count in (estimate.likely_h, estimate.high_h, estimate.low_h))
    rates = f"{figure(usual, naming=naming)} notes an hour on average"
    if round(slow) != round(quick):
        rates += f", half of the solos between {figure(slow, naming=naming)} and {figure(quick, naming=naming)}"
    if not estimate.rests_on:
        return f"Estimates go by {rates}: a common figure, until the hours of a few solos are noted."
    rests = f"from {many(estimate.rests_on, 'solo')} that are done"
    beside = ", with a common figure beside them" if estimate.rests_on < LEAST_DONE else ""
    return f"Estimates go by {rates}: {rests}{beside}."


@dataclass(frozen=True, slots=True)
class Done:
    """A request that is done: hours as estimated and as they were."""

    request: Request
    estimated_h: float
    spent_h: float


def done_requests(book: Book) -> list[Done]:
    """Return what is done and was estimated, the newest first."""
    rows = [row for row in book.queue(open_only=False) if row.done_at and row.spent_h > 0 and row.estimated_h]
    rows.sort(key=lambda row: row.done_at, reverse=True)
    return [Done(row, row.estimated_h or 0.0, row.spent_h) for row in rows]


def accuracy_words(rows: Sequence[Done], naming: Naming = USUAL) -> str:
    """Return how far estimates were off in the middle."""
    if not rows:
        return "No solo is done yet whose hours were estimated before."
    off = 100 * float(np.median([row.spent_h / row.estimated_h - 1 for row in rows]))
    text = f"{figure(abs(off), naming=naming)} % {'longer' if off > 0 else 'shorter'} than estimated"
    text = text if round(abs(off)) else "as long as estimated"
    return f"{many(len(rows), 'solo')}: on average it took {text}."


# --- what was done ---
def did_words(book: Book, passes: Sequence[LoggedPass], naming: Naming = USUAL) -> str:
    """Return how far each stretch came, in the order of the passes: "Call clean at 60 %, Answer not clean yet"."""
    rows = []
    for (document_id, phrases), tried in by_stretch(passes).items():
        clean = [played.pace for played in tried if played.result is Result.CLEAN]
        how = f"clean at {figure(100 * max(clean), naming=naming)} %" if clean else "not clean yet"
        rows.append(f"{stretch_words(book, document_id, phrases)} {how}")
    return ", ".join(rows)


@dataclass(frozen=True, slots=True)
class DayDone:
    """One day of a student's: the lessons held, and what was played."""

    day: date
    lessons: tuple[Lesson, ...]
    passes: tuple[LoggedPass, ...]


def days_done(book: Book, student_id: str) -> list[DayDone]:
    """Return what a student did, day by day, the newest first. The student's passes were read."""
    lessons: dict[date, list[Lesson]] = {}
    for lesson in book.lessons_of(student_id, taught=True):
        if (day := day_of(lesson.held_at)) is not None:
            lessons.setdefault(day, []).append(lesson)
    passes: dict[date, list[LoggedPass]] = {}
    for played in book.passes_of(student_id):
        if (day := day_of(played.played_at)) is not None:
            passes.setdefault(day, []).append(played)
    days = sorted({*lessons, *passes}, reverse=True)
    return [DayDone(day, tuple(lessons.get(day, ())), tuple(passes.get(day, ()))) for day in days]


def sheet_lines(book: Book, student_id: str, naming: Naming = USUAL) -> list[tuple[str, str]]:
    """Return a student's sheet of what we did: ("title" | "day" | "line", words), for whoever lays it out."""
    lines = [("title", f"What we did: {who_words(book, student_id)}")]
    for day_done in days_done(book, student_id):
        minutes = sum(lesson.minutes for lesson in day_done.lessons)
        lesson_text = (
            f": a lesson of {many(round(minutes), 'minute')}" if minutes else ": a lesson" if day_done.lessons else ""
        )
        lines.append(("day", f"{day_words(day_done.day)}{lesson_text}"))
        noted = [lesson.did for lesson in day_done.lessons if lesson.did.strip()]
        lines += [("line", words) for words in noted]
        solos = dict.fromkeys(played.document_id for played in day_done.passes)
        for solo in solos:
            mine = [played for played in day_done.passes if played.document_id == solo]
            text = did_words(book, mine, naming)
            if text not in noted:
                lines.append(("line", f"{solo_words(book, solo)}: {text}"))
    due = list(reviews(practised_days(book.passes_of(student_id))))
    if due:
        lines.append(("day", "To repeat"))
        by_day: dict[date, list[str]] = {}
        for review in due:
            by_day.setdefault(review.due, []).append(stretch_words(book, review.document_id, review.phrases))
        lines += [("line", f"{day_words(day)}: {', '.join(names)}") for day, names in by_day.items()]
    return lines


def sheet_text(lines: Sequence[tuple[str, str]]) -> str:
    """Return a sheet as plain text."""
    shapes = {"title": "{0}\n{1}", "day": "\n{0}", "line": "  {0}"}
    return "\n".join(shapes[kind].format(words, "=" * len(words)) for kind, words in lines) + "\n"


def sheet_html(lines: Sequence[tuple[str, str]]) -> str:
    """Return a sheet as HTML for a page of rich text."""
    shapes = {"title": "<h2>{0}</h2>", "day": "<h4>{0}</h4>", "line": "<p>{0}</p>"}
    return "".join(shapes[kind].format(escape(words)) for kind, words in lines)
