"""A made-up record for pictures: an instructor ashore and three of a lightship's crew, over nine weeks, seeded."""

from collections.abc import Sequence
from datetime import date, datetime, timedelta

import numpy as np

from notcher.core.formats.document.models import to_data
from notcher.core.ledger import KnownDocument, LedgerRow, Lesson, LoggedPass, Request, Sent, Student
from notcher.core.proving import Result
from notcher.core.score import Score

WEEKS = 9
STUDENTS = (
    ("Marit", "solid body, bridge pickup", "9 to 42", "build-up", 0.58, "Quick left hand; counts aloud."),
    ("Olly", "semi-hollow", "10 to 46", "pairs", 0.46, "Bends stop short when tired."),
    ("Sunniva", "solid body, seven frets worn", "11 to 49", "from-the-end", 0.7, ""),
)
GONE_BEFORE = (("Fog signal", 210, 1.9, 2.1), ("Anchor watch", 340, 3.0, 2.6), ("Slack water", 160, 1.3, 1.4),
               ("Lamp oil", 420, 3.4, 4.2), ("Two tides", 260, 2.3, 2.0))  # fmt: skip


def sample_rows(score: Score, document_id: str, today: date) -> list[LedgerRow]:
    """Return rows of three students on one solo. score: it has phrases."""
    rng = np.random.default_rng(11)
    phrases = tuple({"id": phrase.id, "name": phrase.name, "bpm": None} for phrase in score.phrases)
    rows: list[LedgerRow] = [KnownDocument(document_id, document_id, score.title, "", len(score.notes), phrases)]
    for at, (name, guitar, strings, lesson_order, skill, notes) in enumerate(STUDENTS):
        student = Student(name, guitar, "standard", strings, "", lesson_order, notes, id=f"sample-{at}")
        rows += [student, *_lessons(student, score, document_id, today, skill, rng)]
    rows += [
        Request(f"sample-{number % 3}", title, due="", asked_at="2026-01-05", note_count=count, estimated_h=about,
                spent_h=took, done_at=(today - timedelta(days=90 - 12 * number)).isoformat(), id=f"sample-r{number}")
        for number, (title, count, about, took) in enumerate(GONE_BEFORE)
    ]  # fmt: skip
    waiting = (("Buoy bell", "live", "from 1:10 to 2:05", 4, 0), ("Halyard", "studio", "all", 13, 220),
               ("Low cloud", "live", "the second solo", 27, 0))  # fmt: skip
    rows += [
        Request(f"sample-{at}", title, version, stretch, "neck pickup", f"{today - timedelta(days=9)}",
                f"{today + timedelta(days=due)}", note_count=count, spent_h=0.5 * at, id=f"sample-w{at}",
                estimated_h=2.0 if count else None)
        for at, (title, version, stretch, due, count) in enumerate(waiting)
    ]  # fmt: skip
    rows.append(Lesson("sample-1", document_id, today.isoformat(), minutes=30.0, id="sample-l"))
    before = score.with_note(score.notes[3].id, fret=score.notes[3].fret + 1).without([score.notes[6].id])
    rows.append(Sent("sample-0", document_id, score.title, (today - timedelta(days=6)).isoformat(), to_data(before)))
    return rows


def _lessons(student: Student, score: Score, document_id: str, today: date, skill: float,
             rng: np.random.Generator) -> Sequence[LedgerRow]:  # fmt: skip
    """Passes once a week: what is clean rises with practice, and each phrase begins a week or two after the last."""
    rows: list[LedgerRow] = []
    for week in range(WEEKS):
        day = today - timedelta(days=7 * (WEEKS - week) - 3)
        lesson = Lesson(student.id, document_id, day.isoformat(), day.isoformat(), 30.0, id=f"{student.id}-{week}")
        rows.append(lesson)
        for at, phrase in enumerate(score.phrases[:5]):
            if (weeks := week - 1.4 * at) < 0:
                continue
            able = skill * (1 + weeks) ** 0.21 * (1 - 0.05 * at)
            for number in range(5):
                pace = float(np.clip(round((able - 0.1 + 0.05 * number) * 10) / 10, 0.4, 1.1))
                chance = 1 / (1 + np.exp((pace - able) / 0.05))
                told = rng.random()
                result = Result.CLEAN if told < chance else Result.SHAKY if told < chance + 0.25 else Result.MISSED
                moment = datetime(day.year, day.month, day.day, 17, 2 * number + at)
                rows.append(
                    LoggedPass(student.id, document_id, (phrase.id,), pace, result, moment.isoformat(),
                               lesson_id=lesson.id, id=f"{student.id}-{week}-{at}-{number}")
                )  # fmt: skip
    return rows
