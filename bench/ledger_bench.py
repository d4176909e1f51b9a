"""How long the record of years takes to open and to read: `./dev bench ledger`, writes docs/benchmarks/ledger.md."""

import tempfile
import time
from collections.abc import Callable
from datetime import datetime, timedelta
from pathlib import Path

import numpy as np

from notcher.core.ledger import Lesson, LoggedPass, Request, Student
from notcher.core.ledger.record import Record
from notcher.core.ledger.store import Ledger, back_up
from notcher.core.proving import Result
from notcher.core.teaching import agenda, progress

PAGE = Path(__file__).parent.parent / "docs" / "benchmarks" / "ledger.md"
YEARS, LESSONS_A_WEEK, PASSES_A_LESSON, STUDENTS = 5, 4, 45, 12
ASKED_S = 0.5


def filled(path: Path) -> list[Student]:
    """Write five years of lessons, seeded."""
    rng = np.random.default_rng(5)
    ledger = Ledger(path)
    record = Record(ledger)
    students = [Student(f"Student {at + 1}") for at in range(STUDENTS)]
    record.put(*students)
    begun = datetime(2021, 1, 4, 17)
    results = list(Result)
    for lesson in range(YEARS * 52 * LESSONS_A_WEEK):
        student = students[lesson % STUDENTS]
        week, place = divmod(lesson, LESSONS_A_WEEK)
        day = begun + timedelta(weeks=week, days=place)
        solo = f"solo {lesson // 40}"
        if not lesson % 20:
            record.put(Request(student.id, solo, note_count=300, spent_h=3.0, done_at=day.isoformat()))
        record.put(
            Lesson(student.id, solo, day.isoformat(), day.isoformat(), 30.0),
            *(LoggedPass(
                student.id, solo, (f"phrase {at % 9}",), float(rng.choice((0.5, 0.6, 0.7, 0.8, 0.9, 1.0))),
                results[int(rng.integers(len(results)))], (day + timedelta(minutes=at)).isoformat(),
            )
            for at in range(PASSES_A_LESSON)),
        )  # fmt: skip
    ledger.close()
    return students


def took(work: Callable[[], object]) -> float:
    """The middle one of five times, in seconds."""
    times = []
    for _ in range(5):
        begun = time.perf_counter()
        work()
        times.append(time.perf_counter() - begun)
    return float(np.median(times))


def main() -> None:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "ledger.sqlite"
        students = filled(path)

        def opened() -> None:
            ledger = Ledger(path)
            Record(ledger).read(students[0].id)
            ledger.close()

        ledger = Ledger(path)
        record = Record(ledger)
        book = record.read(students[0].id)
        figures = {
            f"opened, with all of the book and one student's passes (asked: {ASKED_S} s)": took(opened),
            "what is due, for everybody": took(lambda: agenda(book)),
            "one student's plots": took(lambda: progress(book.passes_of(students[0].id))),
            "a lesson's passes kept": took(
                lambda: record.put(
                    *(
                        LoggedPass(students[0].id, "solo", ("phrase",), 0.5, Result.CLEAN, "2026-01-05T17:00:00")
                        for _ in range(PASSES_A_LESSON)
                    )
                )
            ),
            "an estimate": took(lambda: book.estimate(300)),
            "everything given out": took(record.all_data),
            "a copy made": took(lambda: back_up(path)),
            "a sum of a million numbers, for comparison": took(lambda: sum(range(1_000_000))),
        }
        count = YEARS * 52 * LESSONS_A_WEEK
        lines = [
            "# The record of years",
            "",
            f"Made by `./dev bench ledger`: {YEARS} years of {LESSONS_A_WEEK} lessons a week, {count} lessons with "
            f"{PASSES_A_LESSON} passes each, {path.stat().st_size / 1e6:.1f} MB. The middle one of five times.",
            "",
            "| what | ms |",
            "| --- | --- |",
            *(f"| {name} | {seconds * 1000:.0f} |" for name, seconds in figures.items()),
            "",
        ]
        ledger.close()
    print("\n".join(lines))
    PAGE.write_text("\n".join(lines), "utf-8")


if __name__ == "__main__":
    main()
