"""A lesson planned: what is played through, practised, joined, in which order, how slowly and how often, to the minute.

A lesson goes as a teacher's does: the whole solo once when it is new, a warm-up on what is known, what is due, then new
phrases between known ones, their joins, and last what can be played by now, in time. The lesson order is build-up (1,
2, 1+2, 3, 1 to 3 …), pairs and then their joins, or from the end. What the minutes or the student's level do not hold
goes into later lessons; what was practised is due again after growing intervals.

Sources: the order, the amount and the count of rounds are common practice (no source); reviews at growing intervals as
in P. Pimsleur, "A memory schedule", The Modern Language Journal 51, 1967 (each a multiple of the one before), in days.
"""

from collections.abc import Container, Mapping
from dataclasses import dataclass, field
from enum import StrEnum
from itertools import pairwise

from notcher.core.errors import NotcherError
from notcher.core.score import Phrase, Score
from notcher.core.teaching.difficulty import Difficulty
from notcher.core.teaching.student_model import (
    Level,
    StudentModel,
)

MOST_MINUTES = 600.0  # ten hours is a mistyped number
NEW_IN_HALF_AN_HOUR = {Level.BEGINNER: 3, Level.INTERMEDIATE: 4, Level.ADVANCED: 6}
"""Phrases that are new in half an hour, at most (common practice, no source); hard ones take longer."""
REST_S = 2.0  # after each round
TALK_S, SHORT_TALK_S = 25.0, 10.0  # before the rounds of what is new; before what was talked of already
REVIEW_DAYS = (1, 3, 8, 20)
"""Days until what was practised is repeated: each about two and a half times the one before."""
BORDER_NOTES = 2.0  # so far from an even piece a cut may lie for the sake of a border
LONG_RUN, PIECE_NOTES = 18, 9  # notes: from which a run is cut, and about how long its pieces are
BREAK_EVERY_MIN, STRAIN_EVERY_MIN, BREAK_S = 20.0, 8.0, 60.0
"""A break after so much of a lesson, or after so much strained playing in it (common practice, no source)."""
STRAIN_N, STRETCH_MM = 10.0, 15.0  # a bend that asks more wants warm hands
EXTREME_RISE = 0.5  # of a string's tension: such bends break strings (common practice, no source)


class LessonOrder(StrEnum):
    """In which order phrases are taught."""

    BUILD_UP = "build-up"
    PAIRS = "pairs"
    FROM_THE_END = "from-the-end"


class PlanError(NotcherError):
    """A lesson that cannot be planned."""


class Why(StrEnum):
    """Why a step stands in the plan."""

    HEAR_IT = "hear it"
    NEW = "new"
    SAME_SHAPE = "same shape"  # as an earlier phrase, which is known
    GOES_ON = "goes on"  # from where its marks stand
    RUNG_UP = "one tempo step up"
    PIECE = "piece"  # of a run too long to be learned at once
    JOIN = "join"
    FROM_THE_TOP = "from the top"
    REVIEW = "review"
    NO_TIME = "no time"
    WHOLE = "whole"
    WARM_UP = "warm up"
    AGAIN = "again"  # later in the same lesson
    PERFORM = "perform"


class StepKind(StrEnum):
    """What a step is to the lesson; `NEW` is what this student has not practised."""

    WHOLE = "whole"
    WARM_UP = "warm-up"
    REVIEW = "review"
    NEW = "new"
    JOIN = "join"
    PERFORM = "perform"


StepKey = tuple[tuple[str, ...], Why, tuple[int, int] | None]


def step_key(phrases: tuple[str, ...], why: Why, piece: tuple[int, int] | None) -> StepKey:
    return phrases, Why.NEW if why in (Why.GOES_ON, Why.SAME_SHAPE) else why, piece


@dataclass(frozen=True, slots=True)
class Wishes:
    """What the instructor wants otherwise: steps left out, how often others go, and in which order.

    Steps that order does not name follow in the usual order.
    """

    skipped: frozenset[StepKey] = frozenset()
    rounds: Mapping[StepKey, int] = field(default_factory=dict)
    order: tuple[StepKey, ...] = ()


@dataclass(frozen=True, slots=True)
class StepParts:
    """What is heard in a step, in seconds over all rounds: talk comes before them, a round is count-in, sound, rest.

    rest_s: with the break after the step, if there is one.
    """

    talk_s: float
    count_in_s: float
    sound_s: float
    rest_s: float

    @property
    def seconds(self) -> float:
        return self.talk_s + self.count_in_s + self.sound_s + self.rest_s

    def as_dict(self) -> dict[str, float]:
        return {"talk_s": self.talk_s, "count_in_s": self.count_in_s, "sound_s": self.sound_s, "rest_s": self.rest_s}


@dataclass(frozen=True, slots=True)
class Step:
    """One thing to do. phrases: ids, in order. pace: of the recorded tempo. rounds: times through it.

    parts: what is heard in it. kind: what it is to the lesson. piece: first and last note, of a part of a phrase.
    listen: played through once, not practised. like: the phrase it is the same as, moved; saves: notes that are known
    because of that. break_s: of a break after it. locked: its rounds are the instructor's, and stay.
    """

    phrases: tuple[str, ...]
    pace: float
    bpm: float
    rounds: int
    parts: StepParts
    why: Why
    kind: StepKind = StepKind.NEW
    piece: tuple[int, int] | None = None
    listen: bool = False
    like: str = ""
    saves: int = 0
    break_s: float = 0.0
    locked: bool = False

    @property
    def seconds(self) -> float:
        """All of it, count-ins, rests and talk too."""
        return self.parts.seconds

    @property
    def key(self) -> StepKey:
        """What the step is, whatever its pace: wishes for it hold in the next plan too."""
        return step_key(self.phrases, self.why, self.piece)


@dataclass(frozen=True, slots=True)
class Later:
    """What is for another day. days_from_now: when."""

    phrases: tuple[str, ...]
    days_from_now: int
    why: Why


class Caution(StrEnum):
    """What is said once, where it applies."""

    WARM_UP = "warm up"
    STRETCH = "stretch"
    BREAKS = "breaks"
    STRINGS = "strings"


@dataclass(frozen=True, slots=True)
class Plan:
    """A lesson. phrases: all that are taught or to come, in the solo's order. skipped: as they would be.

    tension_rise: see `tension_rise`, of what is taught. student: what the plan rests on.
    """

    lesson_order: LessonOrder
    minutes: float
    phrases: tuple[Phrase, ...]
    difficulty: Mapping[str, Difficulty]
    steps: tuple[Step, ...]
    later: tuple[Later, ...]
    cautions: tuple[Caution, ...]
    skipped: tuple[Step, ...] = ()
    tension_rise: float = 0.0
    student: StudentModel = field(default_factory=StudentModel)

    @property
    def planned_minutes(self) -> float:
        return sum(step.seconds for step in self.steps) / 60.0


NO_WISHES = Wishes()


def pieces(score: Score, phrase: Phrase) -> list[tuple[int, int]]:
    """Return the pieces of a long run, by first and last note, each beginning with the last note of the one before.

    Cut where the hand moves or the string changes, nearest to even pieces; nothing for a phrase that is short.
    """
    inside = score.notes_of(phrase)
    if len(inside) < LONG_RUN:
        return []
    count = max(2, round(len(inside) / PIECE_NOTES))
    cuts = [inside.start]
    for number in range(1, count):
        wanted = inside.start + number * len(inside) / count
        near = range(max(cuts[-1] + 3, round(wanted) - 3), min(inside.stop - 3, round(wanted) + 4))
        if near:
            cuts.append(min(near, key=lambda at: abs(at - wanted) - BORDER_NOTES * _border(score, at)))
    cuts.append(inside.stop - 1)
    return [(first, last) for first, last in pairwise(cuts) if last > first]


def _border(score: Score, at: int) -> float:
    """How good a place a note is to cut at, in notes: a shift, another string, a rest before it."""
    before, note = score.notes[at - 1], score.notes[at]
    shift = 2.0 if abs(note.fret - before.fret) > 4 else 0.0
    crossing = 1.0 if note.string != before.string else 0.0
    return shift + crossing + (2.0 if note.onset_s - before.offset_s > 0.1 else 0.0)


def tension_rise(score: Score, phrases: Container[str]) -> float:
    """Return by which share the widest bend of some phrases raises its string's tension: 0.5 is half as much again.

    The pitch goes with the square root of the tension (Mersenne's law), so n semitones raise it by 2^(n/6) - 1.
    """
    bends = [
        score.notes[at].reading.bend_semitones
        for phrase in score.phrases if phrase.id in phrases
        for at in score.notes_of(phrase)
    ]  # fmt: skip
    return float(2.0 ** (max([0.0, *bends]) / 6) - 1)
