"""Learners made of arithmetic climb to full tempo by the ladder and by two common habits: `./dev bench teaching`.

Writes docs/benchmarks/teaching.md. A learner's skill is the pace that goes clean half of the time. A pass teaches the
most where it is hard but not hopeless, and less when it goes wrong (M. Guadagnoli and T. Lee, "Challenge point: a
framework for conceptualizing the effects of various practice conditions in motor learning", Journal of Motor Behavior
36, 2004, put into figures of ours). Practice pays less with every pass, as in the power law of practice.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from datetime import date, timedelta
from pathlib import Path

import numpy as np

from notcher.core.ledger import LoggedPass
from notcher.core.proving import Result
from notcher.core.teaching import (
    USUAL_LADDER,
    BoardRow,
    Level,
    Pass,
    difficulties,
    due_phrases,
    estimate_of,
    next_pace,
    plan_lesson,
    plan_lines,
    student_of,
)
from notcher.core.teaching.ladder import rungs
from notcher.demo import demo_score

PAGE = Path(__file__).parents[1] / "docs" / "benchmarks" / "teaching.md"
PROFILES = {
    "beginner": (0.45, 0.05, 0.06, 0.25),
    "steady": (0.6, 0.05, 0.06, 0.2),
    "quick": (0.75, 0.08, 0.05, 0.2),
    "slow to learn": (0.6, 0.02, 0.06, 0.25),
    "uneven": (0.6, 0.05, 0.14, 0.2),
    "nearly there": (0.92, 0.04, 0.05, 0.2),
}
"""Skill at first (share of full tempo), gain of the best pass, width of the curve, how quickly mistakes are learned."""
VARIED, LEARNERS, MOST, BPM, IN_A_ROW = 0.5, 200, 600, 110.0, 3
BEST_ABOVE, REACH = 0.04, 0.12  # log pace: where a pass teaches most, and how wide that is
ALWAYS = 0.1  # of the best pass, that any pass teaches
TIRING = 0.3  # exponent by which practice pays less
HABIT_BPM = 5.0


@dataclass
class Learner:
    """skill: log pace. gain: of the best pass. width: of the curve.

    mistakes: share of a pass's worth that is lost when it goes wrong.
    """

    skill: float
    gain: float
    width: float
    mistakes: float
    dice: np.random.Generator
    passes: int = 0

    def play(self, pace: float) -> Result:
        """One pass: how it goes, and what it teaches."""
        self.passes += 1
        above = np.log(pace) - self.skill
        chance = 1 / (1 + np.exp(np.clip(above / self.width, -60, 60)))
        clean = self.dice.random() < chance
        paid = self.gain * self.passes**-TIRING
        taught = np.exp(-(((above - BEST_ABOVE) / REACH) ** 2)) + ALWAYS
        self.skill += paid * taught * (1.0 if clean else 1.0 - self.mistakes)
        if clean:
            return Result.CLEAN
        return Result.SHAKY if self.dice.random() < 0.4 else Result.MISSED


Habit = Callable[[Learner, float], int]


def learner(profile: str, number: int) -> Learner:
    skill, gain, width, mistakes = PROFILES[profile]
    dice = np.random.default_rng([sorted(PROFILES).index(profile), number])
    vary = dice.uniform(1 - VARIED, 1 + VARIED, 3)
    return Learner(float(np.log(skill)), gain * vary[0], width * vary[1], mistakes * vary[2], dice)


def by_the_ladder(someone: Learner, start: float) -> int:
    ladder = rungs(start, full_bpm=BPM)
    top = ladder.index(1.0)
    passes: list[Pass] = []
    row = 0
    while len(passes) < MOST:
        pace = min(next_pace(passes, ladder[: top + 1]), 1.0)
        result = someone.play(pace)
        passes.append(Pass(pace, result))
        row = row + 1 if pace == 1.0 and result is Result.CLEAN else 0
        if row >= IN_A_ROW:
            break
    return len(passes)


def half_then_full(someone: Learner, start: float) -> int:
    """Slowly until it is clean three times, then at full tempo."""
    pace, row = start, 0
    for count in range(1, MOST + 1):
        row = row + 1 if someone.play(pace) is Result.CLEAN else 0
        if row >= IN_A_ROW:
            if pace == 1.0:
                return count
            pace, row = 1.0, 0
    return MOST


def five_bpm_more(someone: Learner, start: float) -> int:
    """Five beats a minute more with every pass, whatever it was like; from the start again when full tempo fails."""
    pace, row = start, 0
    for count in range(1, MOST + 1):
        result = someone.play(pace)
        if pace >= 1.0:
            row = row + 1 if result is Result.CLEAN else 0
            if row >= IN_A_ROW:
                return count
            if result is Result.MISSED:
                pace, row = start, 0
        else:
            pace = min(1.0, pace + HABIT_BPM / BPM)
    return MOST


HABITS: dict[str, Habit] = {"ladder": by_the_ladder, "half, then full": half_then_full, "+5 bpm a pass": five_bpm_more}


# --- what is offered to students with a weak point ---
WEAK = {"nothing": (0.0, 0.0, 0.0), "bends": (0.5, 0.0, 0.0), "stretches": (0.0, 0.6, 0.0), "speed": (0.0, 0.0, 0.5)}
"""How much of log pace 10 N of a bend, 15 mm of a stretch, and twice the notes a second cost besides."""
LESSONS, STUDENTS, FIRST_DAY = 6, 12, date(2026, 3, 2)


def offered(weak: str, number: int) -> tuple[int, int]:
    """Six weekly lessons of one student: how many rungs were offered, and how many a good teacher would not offer.

    That is: two rungs above what stands clean, below what stands clean, or another on the board than in the estimate
    or the plan.
    """
    score, dice = demo_score(), np.random.default_rng([list(WEAK).index(weak), number])
    hard = difficulties(score)
    rate, costs = dice.uniform(3.0, 9.0), np.array(WEAK[weak])
    skills = {
        name: Learner(
            float(np.log(rate / max(1.0, row.parts.peak_notes_per_s))
                  - costs @ [row.parts.bend_n / 10, row.parts.stretch_mm / 15, row.parts.peak_notes_per_s / 10]),
            0.04, 0.06, 0.2, dice)
        for name, row in hard.items()
    }  # fmt: skip
    marks: list[LoggedPass] = []
    rungs_seen = amiss = 0
    for lesson in range(LESSONS):
        today = FIRST_DAY + timedelta(days=7 * lesson)
        student = student_of(score, marks, difficulty=hard)
        plan = plan_lesson(score, minutes=30, student=student, due=due_phrases(marks, today), difficulty=hard)
        for phrase in score.phrases:
            paces = USUAL_LADDER.paces(score.beat_map.tempo_at(phrase.start_s))
            found = student.estimates[phrase.id]
            board = estimate_of(BoardRow((phrase,)), student, marks, paces)
            mine = [step.pace for step in plan.steps if step.phrases == (phrase.id,) and not step.listen]
            rungs_seen += 1 + len(mine)
            amiss += int(board != found) + sum(_wrong(pace, found.held, found.next_pace, paces) for pace in mine)
            amiss += int(found.held is not None and not found.held <= found.next_pace <= _above(found.held, paces))
        for step in plan.steps:
            if not step.listen and len(step.phrases) == 1 and step.piece is None:
                played = [skills[step.phrases[0]].play(step.pace) for _ in range(step.rounds)]
                marks.append(LoggedPass("s", "d", step.phrases, step.pace, played[-1], f"{today}T18:00:00"))
    return rungs_seen, amiss


def _above(pace: float, paces: tuple[float, ...]) -> float:
    return min((rung for rung in paces if rung > pace + 1e-6), default=pace)


def _wrong(pace: float, held: float | None, following: float, paces: tuple[float, ...]) -> bool:
    """Whether a plan's rung is not one to offer; a warm-up may lie a rung below what is clean."""
    top = _above(held, paces) if held is not None else _above(following, paces)
    low = following if held is None else max((rung for rung in paces if rung < held - 1e-6), default=held)
    return not low - 1e-6 <= pace <= top + 1e-6


def offered_lines() -> list[str]:
    lines = [
        "## Rungs that a good teacher would not offer",
        "",
        f"{STUDENTS} students for each weak point, {LESSONS} weekly lessons each, planned and marked; every rung on",
        "the board, in the estimates and in the plans. Asked: 0.",
        "",
        "| weak in | rungs offered | two above clean, below clean, or contradicting another view |",
        "| --- | --- | --- |",
    ]
    for weak in WEAK:
        counts = np.array([offered(weak, number) for number in range(STUDENTS)]).sum(axis=0)
        lines.append(f"| {weak} | {counts[0]} | {counts[1]} |")
    return lines


# --- lessons to be read ---
C, S, M = Result.CLEAN, Result.SHAKY, Result.MISSED
READ: tuple[tuple[str, Level | None, tuple[tuple[int, float, Result, int], ...], str], ...] = (
    ("Marit, a beginner, her first lesson", Level.BEGINNER, (),
     "Heard once, then half tempo and one step up; the long run comes in four pieces; what was new comes again after "
     "others came between; it ends with three phrases in a row."),
    ("Olly, two phrases at half tempo last week", None,
     ((0, 0.5, C, 3), (0, 0.6, S, 1), (1, 0.5, C, 2), (1, 0.6, M, 1)),
     "What is due comes first, from where it was clean; nothing is more than a step above that."),
    ("Sunniva, advanced, the first four phrases at 90 %", Level.ADVANCED,
     tuple((at, 0.9, C, 3) for at in range(4)),
     "Known and new take turns; the tapped phrase is cut and begun at 70 %, the slow ones at 80 %."),
    ("Joss, slow in bends", Level.INTERMEDIATE, ((0, 0.5, C, 3), (0, 0.6, M, 2), (3, 0.9, C, 3), (1, 0.6, C, 3)),
     "The bent phrase is not hurried: it stays at half tempo after two misses above it."),
    ("Ilsa, all but the runs", None,
     (*((at, 1.0, C, 3) for at in (0, 1, 3, 4, 6, 7)), (2, 0.7, C, 3), (5, 0.6, C, 1)),
     "Nobody is asked for more than the recorded tempo; only the two runs are practised, then all of it is joined."),
)  # fmt: skip


def read_lines() -> list[str]:
    score = demo_score()
    ids = [phrase.id for phrase in score.phrases]
    lines = ["## Five lessons, read line by line", ""]
    for name, level, rows, remark in READ:
        marks = [
            LoggedPass("s", "d", (ids[at],), pace, result, f"{FIRST_DAY}T18:00:{number:02d}")
            for at, pace, result, count in rows
            for number in range(count)
        ]
        student = student_of(score, marks, level=level)
        due = due_phrases(marks, FIRST_DAY + timedelta(days=7))
        plan = plan_lesson(score, minutes=30, student=student, due=due)
        lines += [f"### {name}", "", "```", *(line.rstrip() for line in plan_lines(plan) if not line.startswith("in ")),
                  "```", "", f"Read: {remark}", ""]  # fmt: skip
    return lines


def main() -> None:
    lines = [
        "# Learners made of arithmetic",
        "",
        "Made by `./dev bench teaching`: passes until full tempo is clean three times in a row, mean of",
        f"{LEARNERS} learners a profile, each parameter varied by ± {VARIED:.0%}, {MOST} at most. The same learners",
        "for each habit. Asked: fewer than both habits, and for no profile more than 5 % worse. The ladder never goes",
        "two rungs above what is clean, and all begin at half tempo here: who is nearly there pays for that. In a",
        "lesson a phrase begins where the student's other marks let one expect it.",
        "",
        "| profile | " + " | ".join(HABITS) + " | beside the better habit |",
        "| --- |" + " --- |" * (len(HABITS) + 1),
    ]
    totals = dict.fromkeys(HABITS, 0.0)
    for profile in PROFILES:
        means = {
            name: float(np.mean([habit(learner(profile, n), 0.5) for n in range(LEARNERS)]))
            for name, habit in HABITS.items()
        }
        for name, mean in means.items():
            totals[name] += mean / len(PROFILES)
        better = min(mean for name, mean in means.items() if name != "ladder")
        cells = " | ".join(f"{mean:.1f}" for mean in means.values())
        lines.append(f"| {profile} | {cells} | {means['ladder'] / better - 1:+.0%} |")
    lines.append("| **mean** | " + " | ".join(f"**{total:.1f}**" for total in totals.values()) + " | |")
    lines += ["", *offered_lines(), "", *read_lines()]
    text = "\n".join(lines).rstrip() + "\n"
    print(text)
    PAGE.write_text(text)


if __name__ == "__main__":
    main()
