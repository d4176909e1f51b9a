"""A lesson planned: what is played through, practised, joined, in which order, how slowly and how often, to the minute.

The lesson order is build-up (1, 2, 1+2, 3, 1 to 3 …), pairs and then their joins, or from the end. What the
minutes do not hold goes into later lessons; what was practised is due again after growing intervals.

Sources: the order and the count of rounds are common practice (no source); reviews at growing intervals as in
P. Pimsleur, "A memory schedule", The Modern Language Journal 51, 1967 (each a multiple of the one before), in days.
"""

from collections.abc import Container, Mapping, Sequence
from dataclasses import dataclass, field, replace
from enum import StrEnum
from itertools import pairwise

import numpy as np

from notcher.core.errors import NotcherError
from notcher.core.patterns import Kind, Patterns
from notcher.core.score import Phrase, Score
from notcher.core.teaching.difficulty import Difficulty, difficulties
from notcher.core.teaching.ladder import USUAL_LADDER, USUAL_START, Ladder

MOST_MINUTES = 600.0  # ten hours is a mistyped number
USUAL_BPM = 100.0  # of a solo without beats
ROUNDS, MOST_ROUNDS, JOIN_ROUNDS = 4, 12, 3  # of a rung, at most, of two joined phrases (common practice, no source)
REST_S, TALK_S, LISTEN_TALK_S = 2.0, 25.0, 10.0  # after each round; once a step; after listening
MOST_TALK_SHARE = 0.5  # of a step: what a lesson's last minutes may be filled with
REVIEW_DAYS = (1, 3, 8, 20)
"""Days until what was practised is repeated: each about two and a half times the one before."""
NEXT_LESSON_DAYS = 7  # lessons are weekly (common practice, no source)
SAME_PACE = 1e-6  # as numbers round
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


StepKey = tuple[tuple[str, ...], Why, tuple[int, int] | None]


def _key(phrases: tuple[str, ...], why: Why, piece: tuple[int, int] | None) -> StepKey:
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
class Step:
    """One thing to do. phrases: ids, in order. pace: of the recorded tempo. rounds: times through it.

    seconds: all of it, count-ins, rests and talk too. piece: first and last note, of a part of a phrase. listen: played
    through once, not practised. like: the phrase it is the same as, moved; saves: notes that are known because of that.
    break_s: of a break after it. locked: its rounds are the instructor's, and stay.
    """

    phrases: tuple[str, ...]
    pace: float
    bpm: float
    rounds: int
    seconds: float
    why: Why
    piece: tuple[int, int] | None = None
    listen: bool = False
    like: str = ""
    saves: int = 0
    break_s: float = 0.0
    locked: bool = False

    @property
    def key(self) -> StepKey:
        """What the step is, whatever its pace: wishes for it hold in the next plan too."""
        return _key(self.phrases, self.why, self.piece)


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

    tension_rise: see `tension_rise`, of what is taught.
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

    @property
    def planned_minutes(self) -> float:
        return sum(step.seconds for step in self.steps) / 60.0


@dataclass(frozen=True, slots=True)
class StudentModel:
    """What is known of the student. clean_rate: notes a second that are clean, None for nothing known.

    limited: something was not clean yet; else more than the rate may well be clean. paces: of each phrase, by id, what
    is clean by now. rounds: how many rounds a rung took so far, on the whole.
    """

    clean_rate: float | None = None
    paces: Mapping[str, float] = field(default_factory=dict)
    rounds: float = float(ROUNDS)
    limited: bool = True


UNKNOWN_STUDENT = StudentModel()
NO_WISHES = Wishes()


def plan_lesson(
    score: Score,
    *,
    minutes: float,
    lesson_order: LessonOrder = LessonOrder.BUILD_UP,
    patterns: Patterns | None = None,
    student: StudentModel = UNKNOWN_STUDENT,
    full_first: bool = True,
    wishes: Wishes = NO_WISHES,
    difficulty: Mapping[str, Difficulty] | None = None,
    ladder: Ladder = USUAL_LADDER,
) -> Plan:
    """Plan a lesson on a solo.

    patterns: what comes again in it. full_first: each phrase is heard at full speed before it is slowed. wishes: what
    is wanted otherwise; the rest is planned around it. difficulty: as `difficulties` tells, where it is known.
    ladder: how rungs follow each other.
    Raises: PlanError when there are no phrases with notes, no minutes, or when every step is skipped.
    """
    if not 1.0 <= minutes <= MOST_MINUTES:
        raise PlanError(
            f"A lesson of {minutes:g} minutes cannot be planned.", f"Ask for 1 to {MOST_MINUTES:.0f} minutes."
        )
    phrases = tuple(phrase for phrase in score.phrases if score.notes_of(phrase))
    if not phrases:
        raise PlanError("There are no phrases to teach.", "Mark some, or let Structure, Find phrases again find them.")
    difficulty = difficulties(score) if difficulty is None else difficulty
    work = _Work(score, phrases, difficulty, _like(score, phrases, patterns), student, ladder)
    rows, left_out = _as_wished(_rows(work, lesson_order, full_first), wishes)
    if not rows:
        raise PlanError("Every step is skipped.", "Bring one back, or plan as proposed.")
    steps, rest = _fitted(work, rows, minutes * 60.0)
    later, cautions = _later(work, steps, rest), _cautions(work, steps, minutes)
    skipped = tuple(_step(work, row) for row in left_out)
    rise = tension_rise(score, {name for step in steps for name in step.phrases})
    return Plan(lesson_order, minutes, phrases, work.difficulty, tuple(steps), later, cautions, skipped, rise)


def _like(score: Score, phrases: Sequence[Phrase], patterns: Patterns | None) -> dict[str, tuple[str, int]]:
    """Of each phrase that is mostly an earlier one moved: which, and how many notes that saves."""
    if patterns is None:
        return {}
    home = {at: phrase.id for phrase in phrases for at in score.notes_of(phrase)}
    result: dict[str, tuple[str, int]] = {}
    for phrase in phrases:
        inside = set(score.notes_of(phrase))
        counts: dict[str, set[int]] = {}
        for shape in patterns.shapes:
            if shape.kind in (Kind.RHYTHM, Kind.CELL, Kind.SEQUENCE):
                continue
            for again in shape.occurrences[1:]:
                for earlier, later in again.pairs:
                    source = home.get(earlier)
                    if later in inside and source not in (None, phrase.id):
                        counts.setdefault(str(source), set()).add(later)
        best = max(counts.items(), key=lambda row: len(row[1]), default=None)
        if best is not None and len(best[1]) >= 0.6 * len(inside):
            result[phrase.id] = best[0], len(best[1])
    return result


@dataclass(frozen=True, eq=False)
class _Work:
    score: Score
    phrases: tuple[Phrase, ...]
    difficulty: Mapping[str, Difficulty]
    like: Mapping[str, tuple[str, int]]
    known: StudentModel
    ladder: Ladder

    def bpm(self, phrase: Phrase) -> float:
        """Full tempo where a phrase begins."""
        beat_map = self.score.beat_map
        return float(beat_map.tempo_at(phrase.start_s)) if beat_map.known else USUAL_BPM

    def count_in_s(self, phrase: Phrase, pace: float) -> float:
        """A bar of clicks at the pace."""
        beat_map = self.score.beat_map
        beats = 4.0
        if beat_map.known:
            bar = beat_map.bar_at(beat_map.quarter(phrase.start_s))
            meter = beat_map.bar_meter(bar)
            beats = meter.quarters / meter.beat_quarters
        return beats * 60.0 / (self.bpm(phrase) * pace)

    def start(self, phrase: Phrase) -> float:
        """The pace to begin at: what is clean already, what the student's rate of notes allows, or half tempo."""
        if phrase.id in self.known.paces:
            return self.rung(phrase, self.known.paces[phrase.id])
        rate = self.difficulty[phrase.id].parts.peak_notes_per_s
        if self.known.clean_rate is not None and rate > 0:
            pace = self.known.clean_rate / rate
            return self.rung(phrase, pace if self.known.limited else max(pace, USUAL_START))
        return self.rung(phrase, USUAL_START)

    def strains(self, names: Sequence[str]) -> bool:
        """Whether any of these phrases has a bend or a stretch that strains the hand."""
        parts = [self.difficulty[name].parts for name in names]
        return any(part.bend_n >= STRAIN_N or part.stretch_mm >= STRETCH_MM for part in parts)

    def rung(self, phrase: Phrase, pace: float) -> float:
        """The rung at or below a pace, full tempo at most; the lowest where none is."""
        paces = self.ladder.paces(self.bpm(phrase))
        return max((rung for rung in paces if rung <= min(pace, 1.0) + SAME_PACE), default=paces[0])

    def above(self, phrase: Phrase, pace: float) -> float | None:
        """The next rung; the one above full tempo comes after that, and then none."""
        return min((rung for rung in self.ladder.paces(self.bpm(phrase)) if rung > pace + SAME_PACE), default=None)

    def seconds(self, phrases: Sequence[Phrase], pace: float, rounds: int, talk_s: float) -> float:
        """What a step takes."""
        length_s = (phrases[-1].end_s - phrases[0].start_s) / pace
        return rounds * (self.count_in_s(phrases[0], pace) + length_s + REST_S) + talk_s


# --- the order ---
@dataclass(frozen=True, slots=True)
class _PlanRow:
    """A step before its minutes are known. new: the phrase that is new in it."""

    phrases: tuple[Phrase, ...]
    pace: float
    rounds: int
    why: Why
    listen: bool = False
    piece: tuple[int, int] | None = None
    like: str = ""
    saves: int = 0
    new: str = ""
    locked: bool = False

    @property
    def key(self) -> StepKey:
        return _key(tuple(phrase.id for phrase in self.phrases), self.why, self.piece)


def _rows(work: _Work, lesson_order: LessonOrder, full_first: bool) -> list[_PlanRow]:
    order = list(work.phrases[::-1] if lesson_order is LessonOrder.FROM_THE_END else work.phrases)
    rows: list[_PlanRow] = []
    learned: list[Phrase] = []
    for number, phrase in enumerate(order):
        if full_first:
            rows.append(_PlanRow((phrase,), 1.0, 1, Why.HEAR_IT, listen=True, new=phrase.id))
        rows += _learned(work, phrase)
        learned.append(phrase)
        if number == 0:
            continue
        pace = min(work.start(earlier) for earlier in learned)
        if lesson_order is LessonOrder.PAIRS:
            if number % 2:
                rows.append(_PlanRow(tuple(order[number - 1 : number + 1]), pace, JOIN_ROUNDS, Why.JOIN, new=phrase.id))
            if number == len(order) - 1:
                rows.append(_PlanRow(tuple(order), pace, 2, Why.FROM_THE_TOP, new=phrase.id))
        else:
            so_far = tuple(sorted(learned, key=lambda one: one.start_s))
            why = Why.JOIN if lesson_order is LessonOrder.FROM_THE_END else Why.FROM_THE_TOP
            rows.append(_PlanRow(so_far, pace, JOIN_ROUNDS - 1, why, new=phrase.id))
    return rows


def _learned(work: _Work, phrase: Phrase) -> list[_PlanRow]:
    """The steps that teach one phrase: its pieces where it is long, then all of it, two rungs."""
    start = work.start(phrase)
    rounds = round(float(np.clip(work.known.rounds, 2, MOST_ROUNDS)))
    like, saves = work.like.get(phrase.id, ("", 0))
    rows: list[_PlanRow] = []
    if not like:
        rows += [
            _PlanRow((phrase,), start, max(2, rounds // 2), Why.PIECE, piece=piece, new=phrase.id)
            for piece in pieces(work.score, phrase)
        ]
    why = Why.GOES_ON if phrase.id in work.known.paces else Why.SAME_SHAPE if like else Why.NEW
    fewer = max(2, rounds // 2) if like else rounds
    rows.append(_PlanRow((phrase,), start, fewer, why, like=like, saves=saves, new=phrase.id))
    faster = work.above(phrase, start)
    if faster is not None:
        rows.append(_PlanRow((phrase,), faster, fewer, Why.RUNG_UP, new=phrase.id))
    return rows


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


def _as_wished(rows: Sequence[_PlanRow], wishes: Wishes) -> tuple[list[_PlanRow], list[_PlanRow]]:
    """The rows in the order and with the rounds that were wished, and those that are left out."""
    place = {key: at for at, key in enumerate(wishes.order)}
    result = sorted(
        (row for row in rows if row.key not in wishes.skipped), key=lambda row: place.get(row.key, len(place))
    )
    result = [
        replace(row, rounds=wishes.rounds[row.key], locked=True) if row.key in wishes.rounds else row for row in result
    ]
    return result, [row for row in rows if row.key in wishes.skipped]


# --- minutes ---
def _fitted(work: _Work, rows: Sequence[_PlanRow], budget_s: float) -> tuple[list[Step], list[_PlanRow]]:
    """As many steps as the minutes hold, in order, with their breaks; what is left goes into rounds, then into talk."""
    kept_s = 0.0  # for breaks: how many there are shows once the steps are full
    for _ in range(MOST_TRIES):
        steps, rest = _chosen(work, rows, budget_s - kept_s)
        paused = _with_breaks(work, steps)
        needed_s = sum(step.break_s for step in paused)
        if needed_s <= kept_s:
            break
        kept_s = needed_s
    return _talked(paused, budget_s), rest


MOST_TRIES = 6  # it settles in two or three


def _chosen(work: _Work, rows: Sequence[_PlanRow], budget_s: float) -> tuple[list[Step], list[_PlanRow]]:
    """As many steps as the seconds hold, filled up with rounds, and what is left for later."""
    steps: list[Step] = []
    spent = 0.0
    for row in rows:
        step = _step(work, row)
        if spent + step.seconds > budget_s and not row.listen and not row.locked:
            step = _step(work, replace(row, rounds=1))
        if spent + step.seconds > budget_s:
            break
        spent += step.seconds
        steps.append(step)
    while len(steps) > 1 and steps[-1].listen:
        del steps[-1]  # nothing is heard today that is not practised
    count = max(1, len(steps))
    steps = steps or [_step(work, rows[0] if rows[0].locked else replace(rows[0], rounds=1))]
    return _filled(work, steps, budget_s), list(rows[count:])


def _with_breaks(work: _Work, steps: Sequence[Step]) -> list[Step]:
    """The steps, with a break after so much of the lesson, or of strained playing; none at the end."""
    result: list[Step] = []
    since_break = strained = 0.0
    left_s = sum(step.seconds for step in steps)
    for step in steps:
        left_s -= step.seconds
        since_break += step.seconds
        strained += step.seconds if not step.listen and work.strains(step.phrases) else 0.0
        tired = since_break >= BREAK_EVERY_MIN * 60 or strained >= STRAIN_EVERY_MIN * 60
        if tired and left_s > 2 * BREAK_S:
            step = replace(step, seconds=step.seconds + BREAK_S, break_s=BREAK_S)
            since_break = strained = 0.0
        result.append(step)
    return result


def _step(work: _Work, row: _PlanRow, *, talk_s: float | None = None) -> Step:
    usual_s = LISTEN_TALK_S if row.listen else TALK_S
    talk = usual_s if talk_s is None else talk_s
    seconds = work.seconds(row.phrases, row.pace, row.rounds, talk)
    if row.piece is not None:
        notes = work.score.notes
        length_s = notes[row.piece[1]].offset_s - notes[row.piece[0]].onset_s
        seconds = row.rounds * (work.count_in_s(row.phrases[0], row.pace) + length_s / row.pace + REST_S) + talk
    bpm = work.bpm(row.phrases[0]) * row.pace
    ids = tuple(phrase.id for phrase in row.phrases)
    return Step(
        ids, row.pace, round(bpm, 1), row.rounds, seconds, row.why, row.piece, row.listen, row.like, row.saves,
        locked=row.locked,
    )  # fmt: skip


def _filled(work: _Work, steps: list[Step], budget_s: float) -> list[Step]:
    """Steps with more rounds, while there is time for one more of any."""
    by_id = {phrase.id: phrase for phrase in work.phrases}
    left_s = budget_s - sum(step.seconds for step in steps)
    growing = True
    while growing and left_s > 0:
        growing = False
        for at, step in enumerate(steps):
            if step.listen or step.locked or step.rounds >= MOST_ROUNDS:
                continue
            round_s = _round_s(work, step, by_id)
            if round_s <= left_s:
                steps[at] = replace(step, rounds=step.rounds + 1, seconds=step.seconds + round_s)
                left_s, growing = left_s - round_s, True
    return steps


def _talked(steps: list[Step], budget_s: float) -> list[Step]:
    """Steps with talk for what is left of the time."""
    left_s = budget_s - sum(step.seconds for step in steps)
    for at, step in enumerate(steps):
        if left_s <= 0:
            break
        more = min(left_s, MOST_TALK_SHARE * step.seconds)
        steps[at] = replace(step, seconds=step.seconds + more)
        left_s -= more
    return [replace(step, seconds=round(step.seconds, 1)) for step in steps]


def _round_s(work: _Work, step: Step, by_id: Mapping[str, Phrase]) -> float:
    phrases = [by_id[name] for name in step.phrases]
    length_s = phrases[-1].end_s - phrases[0].start_s
    if step.piece is not None:
        notes = work.score.notes
        length_s = notes[step.piece[1]].offset_s - notes[step.piece[0]].onset_s
    return work.count_in_s(phrases[0], step.pace) + length_s / step.pace + REST_S


# --- what is for later ---
def _later(work: _Work, steps: Sequence[Step], rest: Sequence[_PlanRow]) -> tuple[Later, ...]:
    taught = list(dict.fromkeys(name for step in steps if not step.listen for name in step.phrases))
    laters = [Later(tuple(taught), days, Why.REVIEW) for days in REVIEW_DAYS] if taught else []
    to_come = [phrase.id for phrase in work.phrases if phrase.id not in taught]
    if to_come:
        laters.append(Later(tuple(to_come), NEXT_LESSON_DAYS, Why.NO_TIME))
    elif rest:
        left_out = dict.fromkeys(phrase.id for row in rest for phrase in row.phrases)
        laters.append(Later(tuple(left_out), NEXT_LESSON_DAYS, Why.NO_TIME))
    return tuple(sorted(laters, key=lambda later: later.days_from_now))


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


def _cautions(work: _Work, steps: Sequence[Step], minutes: float) -> tuple[Caution, ...]:
    taught = {name for step in steps for name in step.phrases}
    parts = [work.difficulty[name].parts for name in taught]
    result: list[Caution] = []
    if any(part.bend_n >= STRAIN_N for part in parts):
        result.append(Caution.WARM_UP)
    if tension_rise(work.score, taught) >= EXTREME_RISE:
        result.append(Caution.STRINGS)
    if any(part.stretch_mm >= STRETCH_MM for part in parts):
        result.append(Caution.STRETCH)
    if minutes > BREAK_EVERY_MIN or any(step.break_s for step in steps):
        result.append(Caution.BREAKS)
    return tuple(result)
