"""How a student comes on, what is due when, what is estimated and told: against SciPy's fits and the calendar."""

from collections.abc import Mapping
from dataclasses import replace
from datetime import date, timedelta
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats

from notcher.core.ledger import Book, KnownDocument, Lesson, LoggedPass, Practised, Request, Student
from notcher.core.parsing import DayError, day_from_text
from notcher.core.proving import Mark, Result
from notcher.core.score import BeatMap, Note, Phrase, Score
from notcher.core.teaching import (
    NO_WISHES,
    Due,
    LessonOrder,
    Wishes,
    agenda,
    clean_words,
    did_words,
    done_requests,
    due_words,
    entry_words,
    estimate_reason,
    estimate_words,
    practised_days,
    progress,
    reviews,
    sheet_html,
    sheet_lines,
    sheet_text,
    student_of,
    wishes_data,
    wishes_of,
)
from notcher.core.teaching.plan import REVIEW_DAYS, Why
from notcher.core.teaching.record_words import accuracy_words
from notcher.core.words import Naming, day_words, hours

MONDAY = date(2026, 3, 2)
ADA = Student("Ada", id="ada")
CLEAN, SHAKY, MISSED = Result.CLEAN, Result.SHAKY, Result.MISSED


def played(day: date, pace: float, result: Result = CLEAN, *, phrase: str = "p", at: int = 0) -> LoggedPass:
    return LoggedPass("ada", "solo", (phrase,), pace, result, f"{day}T18:{at:02d}:00.000")


def practised(paces: list[float], *, gap: int = 7) -> list[LoggedPass]:
    """Days of practice on which a pace is clean four times in five: the curve's middle lies 8 % above it."""
    rows = []
    for number, pace in enumerate(paces):
        day = MONDAY + timedelta(days=gap * number)
        rows += [played(day, pace * 1.01, CLEAN, at=at) for at in range(12)]
        rows += [played(day, pace * 1.17, MISSED, at=20 + at) for at in range(12)]
    return rows


# --- progress ---
# A. Newell and P. Rosenbloom 1981: practice follows a power law, a straight line in logarithms; SciPy draws the line.
@pytest.mark.outside(
    what="the learning curve of a phrase",
    source="scipy; A. Newell, P. Rosenbloom 1981",
    tolerance="0.01 to 0.03",
    why="both are least squares over the same days",
    kind="library",
)
def test_the_learning_curve_is_scipys_line_through_the_days() -> None:
    days = np.arange(1.0, 25.0)
    found = progress(practised(list(0.45 * days**0.24)))
    assert len(found.days) == 24
    line = stats.linregress(np.log(days), np.log([clean.pace for clean in found.clean]))
    assert found.course is not None
    assert found.course.b == pytest.approx(line.slope, abs=0.01)
    assert found.course.a == pytest.approx(line.intercept, abs=0.02)
    assert found.course.b == pytest.approx(0.24, abs=0.03), "and it is the one that was planted"


def test_full_tempo_is_dated_where_the_planted_curve_reaches_it_with_a_range_around() -> None:
    rng = np.random.default_rng(3)
    days = np.arange(1.0, 9.0)
    found = progress(practised(list(0.6 * days**0.2 * np.exp(rng.normal(0, 0.02, days.size)))))
    true = MONDAY + timedelta(days=7 * ((1 / 0.6) ** (1 / 0.2) - 1))
    early, middle, late = found.full_on
    assert early is not None
    assert middle is not None
    assert late is not None
    assert early < middle < late
    assert early <= true <= late
    assert not found.reached


def test_of_one_day_nothing_is_foretold_and_full_tempo_is_known_once_it_is_clean() -> None:
    first = progress([played(MONDAY, 0.5)])
    assert (first.full_on, first.reached) == ((), False)
    assert "after a second day" in clean_words(first)
    done = progress([played(MONDAY + timedelta(days=7 * at), 1.1, at=at) for at in range(6)])
    assert done.reached
    assert "Full tempo is clean" in clean_words(done)
    assert progress([]).clean == ()
    assert progress([replace(played(MONDAY, 0.5), played_at="")]).days == (), "nobody knows when that was"


def test_what_gets_worse_has_no_date() -> None:
    found = progress(practised([0.8, 0.7, 0.6, 0.5, 0.45, 0.4]))
    assert found.full_on == ()
    assert "not come nearer" in clean_words(found)


# --- reviews ---
# P. Pimsleur, "A memory schedule", 1967: each interval is a fixed multiple of the one before, here about 2.5, in days.
@pytest.mark.outside(
    what="intervals of reviews",
    source="P. Pimsleur, A memory schedule, 1967: fixed ratio",
    tolerance="ratios 2.4 to 3.0",
    why="rounded to whole days",
    kind="derivation",
)
def test_reviews_come_at_growing_intervals_and_begin_anew_after_a_day_that_is_not_clean() -> None:
    assert all(2.4 < after / before <= 3.0 for before, after in pairwise(REVIEW_DAYS))
    day, rows = MONDAY, [played(MONDAY, 0.5)]
    for number in range(5):
        (review,) = reviews(practised_days(rows))
        wanted = REVIEW_DAYS[min(number, len(REVIEW_DAYS) - 1)]
        assert (review.last, review.due, review.stage) == (day, day + timedelta(days=wanted), number)
        day = review.due
        rows.append(played(day, 0.6))
    rows.append(played(day + timedelta(days=1), 0.6, SHAKY))
    (review,) = reviews(practised_days(rows))
    assert (review.stage, (review.due - review.last).days) == (0, REVIEW_DAYS[0])


def test_joins_are_not_repeated_by_themselves() -> None:
    join = replace(played(MONDAY, 0.5), phrases=("p", "q"))
    assert reviews(practised_days([join])) == []


def a_book(**more: Mapping[str, object]) -> Book:
    phrases = ({"id": "p", "name": "Call", "bpm": 92.0}, {"id": "q", "name": "Answer", "bpm": 92.0})
    solo = KnownDocument("doc", "solo", "Slack water", "", 120, phrases)
    return Book(students={"ada": ADA}, documents={"doc": solo}, **more)  # type: ignore[arg-type]


def test_the_agenda_holds_lessons_requests_and_reviews_by_their_day() -> None:
    lesson = Lesson("ada", "doc", "2026-03-05", minutes=30, id="l")
    held = Lesson("ada", "doc", "2026-03-01", "2026-03-01", id="h")
    request = Request("ada", "Halyard", due="2026-03-04", id="r")
    undated = Request("ada", "Some day", id="u")
    days = (Practised("ada", "solo", ("p",), "2026-03-03", 0.5, CLEAN),
            Practised("ada", "solo", ("q",), "2026-03-03", 0.5, MISSED))  # fmt: skip
    book = replace(a_book(lessons={"l": lesson, "h": held}, requests={"r": request, "u": undated}), days=days)
    entries = agenda(book)
    assert [(entry.kind, entry.due.day) for entry in entries] == [(Due.REQUEST, 4), (Due.REVIEW, 4), (Due.LESSON, 5)]
    assert [entry_words(entry, book) for entry in entries] == [
        "Halyard was asked for", "Repeat Call, Answer of Slack water", "A lesson of 30 minutes on Slack water",
    ]  # fmt: skip
    assert len(agenda(book, until=date(2026, 3, 4))) == 2
    assert agenda(book, student_id="somebody else") == []
    newer = book.with_passes("ada", [played(date(2026, 3, 4), 0.6)])
    assert [entry.due.day for entry in agenda(newer) if entry.kind is Due.REVIEW] == [5], (
        "passes that were read are newer"
    )


# --- what is known before a lesson ---
def test_rounds_are_expected_as_they_were_needed_so_far() -> None:
    score = Score(
        tuple(Note(at, at + 0.9, 2, 5) for at in range(8)), beat_map=BeatMap.steady(60, 0.0),
        phrases=(Phrase(0, 4, "a", id="p"), Phrase(4, 8, "b", id="q")),
    )  # fmt: skip
    once = student_of(score, [Mark(("p",), 0.5, CLEAN), Mark(("p",), 0.6, CLEAN)])
    assert once.rounds == 4, "a mark a rung tells of no habit"
    rows = [Mark(("p",), 0.5, MISSED)] * 5 + [Mark(("p",), 0.5, CLEAN)] * 3
    assert student_of(score, rows).rounds == 8


def test_the_pace_to_go_on_from_is_that_of_lately() -> None:
    score = Score((Note(0, 0.9, 2, 5),), phrases=(Phrase(0, 4, "a", id="p"),))
    early = [Mark(("p",), 0.5, MISSED)] * 10
    late = [Mark(("p",), pace, CLEAN) for pace in (0.7, 0.7, 0.8, 0.8, 0.8, 0.8, 0.8, 0.8, 0.8, 0.8)]
    assert student_of(score, early + late).estimates["p"].held == 0.8
    lucky = [Mark(("p",), 0.6, MISSED)] * 8 + [Mark(("p",), 0.9, CLEAN)]
    assert student_of(score, lucky).estimates["p"].clean_now < 0.75, "one clean pass among missed ones is luck"


KEYS = st.tuples(
    st.lists(st.text("abc", min_size=1, max_size=3), min_size=1, max_size=3).map(tuple),
    st.sampled_from(list(Why)),
    st.none() | st.tuples(st.integers(0, 99), st.integers(0, 99)),
)


@pytest.mark.slow
@given(
    st.frozensets(KEYS, max_size=4), st.dictionaries(KEYS, st.integers(1, 12), max_size=4), st.lists(KEYS, max_size=4)
)
def test_wishes_go_into_the_record_and_come_out_the_same(
    skipped: frozenset,
    rounds: dict,
    order: list,  # type: ignore[type-arg]
) -> None:
    wishes = Wishes(skipped, rounds, tuple(order))
    assert wishes_of(wishes_data(wishes)) == wishes


@pytest.mark.parametrize("data", [{}, {"skipped": 3}, {"order": [["a"]]}, {"rounds": [[[["p"], "newer", None], 3]]}])
def test_wishes_of_another_version_are_no_wish(data: dict) -> None:  # type: ignore[type-arg]
    assert wishes_of(data) == NO_WISHES


# --- words ---
def test_the_sheet_tells_day_by_day_what_was_done_and_what_to_repeat() -> None:
    lesson = Lesson("ada", "doc", "2026-03-02", "2026-03-02", 30, did="Slow bends <first>", id="l")
    rows = [played(MONDAY, 0.5), played(MONDAY, 0.6, MISSED, at=1), played(MONDAY, 0.5, MISSED, phrase="q", at=2)]
    book = a_book(lessons={"l": lesson}).with_passes("ada", rows)
    text = sheet_text(sheet_lines(book, "ada"))
    assert text.splitlines() == [
        "What we did: Ada", "================", "", "2 Mar 2026: a lesson of 30 minutes", "  Slow bends <first>",
        "  Slack water: Call clean at 50 %, Answer not clean yet", "", "To repeat", "  3 Mar 2026: Call, Answer",
    ]  # fmt: skip
    assert "Slow bends &lt;first&gt;" in sheet_html(sheet_lines(book, "ada")), "what was typed is no markup"
    assert did_words(book, rows, Naming()) == "Call clean at 50 %, Answer not clean yet"


def test_hours_against_estimate() -> None:
    rows = {
        f"r{at}": Request("ada", f"solo {at}", estimated_h=2.0, spent_h=2.0 * more, note_count=240, id=f"r{at}",
                          done_at=f"2026-0{at + 1}-01")
        for at, more in enumerate((0.9, 1.1, 1.5))
    }  # fmt: skip
    book = a_book(requests=rows)
    assert [done.request.title for done in done_requests(book)] == ["solo 2", "solo 1", "solo 0"]
    assert accuracy_words(done_requests(book)) == "3 solos: on average it took 10 % longer than estimated."
    assert estimate_words(book.estimate(240)) == "2.2 h (2.0 h to 2.5 h)"
    assert "from 3 solos that are done" in estimate_reason(book)
    assert "a common figure" in estimate_reason(a_book())


@pytest.mark.parametrize(
    ("text", "expected"),
    [
        ("", None), ("today", MONDAY), ("Tomorrow", date(2026, 3, 3)), ("in 7 days", date(2026, 3, 9)),
        ("2 weeks", date(2026, 3, 16)), ("2026-12-24", date(2026, 12, 24)), ("24. December", date(2026, 12, 24)),
        ("1 mar", date(2027, 3, 1)), ("2 Mar", MONDAY), ("29 feb 2028", date(2028, 2, 29)),
        ("Friday", date(2026, 3, 6)), ("next week", date(2026, 3, 9)), ("12/12", date(2026, 12, 12)),
        ("Dec 12", date(2026, 12, 12)), ("12.12.", date(2026, 12, 12)), ("3.4.", date(2026, 4, 3)),
        ("3/4", date(2026, 4, 3)), ("in two weeks", date(2026, 3, 16)), ("on Wednesday", date(2026, 3, 4)),
    ],
)  # fmt: skip
def test_days_are_read_as_people_write_them(text: str, expected: date | None) -> None:
    assert day_from_text(text, MONDAY) == expected


def test_where_the_month_comes_first_a_slash_says_so_and_a_dot_does_not() -> None:
    assert day_from_text("3/4", MONDAY, day_first=False) == date(2026, 3, 4)
    assert day_from_text("3.4.", MONDAY, day_first=False) == date(2026, 4, 3)


@pytest.mark.parametrize("text", ["soon", "31 feb", "2026-13-01", "5 Smarch", "in many days", "99 mar 2026"])
def test_what_is_no_day_is_refused(text: str) -> None:
    with pytest.raises(DayError, match="is no day"):
        day_from_text(text, MONDAY)


@given(st.dates(date(2020, 1, 1), date(2040, 1, 1)))
def test_days_that_are_told_are_read_back(day: date) -> None:
    assert day_from_text(day_words(day), MONDAY) == day


def test_how_far_a_day_is() -> None:
    told = [due_words(MONDAY + timedelta(days=days), MONDAY) for days in (-2, -1, 0, 1, 5)]
    assert told == ["2 days late", "1 day late", "today", "tomorrow", "in 5 days"]
    assert [hours(value) for value in (0.01, 0.5, 1.25)] == ["1 min", "30 min", "1.2 h"]


def test_lesson_orders_are_called_as_the_record_keeps_them() -> None:
    assert [str(lesson_order) for lesson_order in LessonOrder] == ["build-up", "pairs", "from-the-end"]


def test_who_plays_at_full_tempo_already_is_promised_no_day() -> None:
    reached = progress(practised([0.7, 0.85, 1.1]))
    assert reached.full_on == ()
    assert progress(practised([0.7, 0.8, 0.9])).full_on != ()
