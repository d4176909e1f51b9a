"""What is asked about a lesson, on the Teach bench and in the Ledger: when it is, and what was done in it."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from datetime import date
from typing import Any

from PyQt6.QtWidgets import QWidget

from notcher.core.ledger import Lesson, LoggedPass, RowChange
from notcher.core.teaching import did_words, who_words
from notcher.core.words import Naming
from notcher.ui.state.ledger_state import LedgerState
from notcher.ui.widgets.form import Field, ask_form

MOST_MINUTES = 600.0  # ten hours: more is a slip of the finger


def ask_lesson(
    parent: QWidget,
    ledger: LedgerState,
    lesson: Lesson,
    today: date,
    on_saved: Callable[[Lesson], None] = lambda _lesson: None,
) -> None:
    """Ask on which day a lesson is and how long, and keep it."""
    who = who_words(ledger.book, lesson.student_id)

    def then(values: Mapping[str, Any]) -> None:
        changed = replace(lesson, planned_for=values["planned_for"], minutes=values["minutes"])
        ledger.put("Plan a lesson", changed)
        on_saved(changed)

    fields = (
        Field("planned_for", "On", lesson.planned_for, "day"),
        Field("minutes", "Lasts", lesson.minutes, "number", low=1, high=MOST_MINUTES, unit=" min"),
    )
    ask_form(parent, f"A lesson for {who}", fields, then, today)


def passes_in(ledger: LedgerState, lesson: Lesson, day: str) -> list[LoggedPass]:
    """Return the passes of a day, ISO 8601, that belong to a lesson, or to none yet."""
    return [
        played
        for played in ledger.book.passes_of(lesson.student_id)
        if played.played_at[:10] == day and played.lesson_id in (None, lesson.id)
    ]


def log_held(ledger: LedgerState, name: str, held: Lesson, passes: Sequence[LoggedPass]) -> None:
    """Keep a lesson as held, and passes that belonged to none as its own; one step back, by its name."""
    changes = [RowChange(ledger.book.lessons.get(held.id), held)]
    changes += [RowChange(row, replace(row, lesson_id=held.id)) for row in passes if row.lesson_id is None]
    ledger.edit(name, *changes)


def ask_held(parent: QWidget, ledger: LedgerState, lesson: Lesson, today: date, naming: Naming) -> None:
    """Ask what was done in a lesson, and keep it as held; its passes of the day become part of it."""
    day = (lesson.held_at or today.isoformat())[:10]
    passes = passes_in(ledger, lesson, day)

    def then(values: Mapping[str, Any]) -> None:
        taught = replace(lesson, held_at=values["held_at"] or day, minutes=values["minutes"], did=values["did"])
        log_held(ledger, "The lesson was held", taught, passes)

    fields = (
        Field("held_at", "Held on", day, "day"),
        Field("minutes", "Lasted", lesson.minutes, "number", low=1, high=MOST_MINUTES, unit=" min"),
        Field("did", "What we did", lesson.did or did_words(ledger.book, passes, naming), "long"),
    )
    ask_form(parent, f"The lesson with {who_words(ledger.book, lesson.student_id)}", fields, then, today)
