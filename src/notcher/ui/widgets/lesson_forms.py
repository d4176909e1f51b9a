"""What is asked about a lesson, on the Teach bench and in the Ledger: when it is, and what was done in it."""

from collections.abc import Callable, Mapping
from dataclasses import replace
from datetime import date
from typing import Any

from PyQt6.QtWidgets import QWidget

from notcher.core.ledger import Lesson, RowChange
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


def ask_held(parent: QWidget, ledger: LedgerState, lesson: Lesson, today: date, naming: Naming) -> None:
    """Ask what was done in a lesson, and keep it as held; its passes of the day become part of it."""
    day = (lesson.held_at or today.isoformat())[:10]
    passes = [
        played
        for played in ledger.book.passes_of(lesson.student_id)
        if played.played_at[:10] == day and played.lesson_id in (None, lesson.id)
    ]

    def then(values: Mapping[str, Any]) -> None:
        taught = replace(lesson, held_at=values["held_at"] or day, minutes=values["minutes"], did=values["did"])
        changes = [RowChange(ledger.book.lessons.get(lesson.id), taught)]
        changes += [RowChange(row, replace(row, lesson_id=lesson.id)) for row in passes if row.lesson_id is None]
        ledger.edit("The lesson was held", *changes)

    fields = (
        Field("held_at", "Held on", day, "day"),
        Field("minutes", "Lasted", lesson.minutes, "number", low=1, high=MOST_MINUTES, unit=" min"),
        Field("did", "What we did", lesson.did or did_words(ledger.book, passes, naming), "long"),
    )
    ask_form(parent, f"The lesson with {who_words(ledger.book, lesson.student_id)}", fields, then, today)
