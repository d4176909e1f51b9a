"""Plans a lesson: which steps, in which order, how often, to the minute; see `plan` for what a plan is."""

from collections.abc import Container, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from notcher.core.patterns import Kind, Patterns
from notcher.core.score import Phrase, Score, count_in_of
from notcher.core.teaching.difficulty import Difficulty, difficulties
from notcher.core.teaching.ladder import USUAL_LADDER, Ladder
from notcher.core.teaching.plan import (
    BREAK_EVERY_MIN,
    BREAK_S,
    EXTREME_RISE,
    MOST_MINUTES,
    NEW_IN_HALF_AN_HOUR,
    NO_WISHES,
    REST_S,
    REVIEW_DAYS,
    SHORT_TALK_S,
    STRAIN_EVERY_MIN,
    STRAIN_N,
    STRETCH_MM,
    TALK_S,
    Caution,
    Later,
    LessonOrder,
    Plan,
    PlanError,
    Step,
    StepKey,
    StepKind,
    StepParts,
    Why,
    Wishes,
    pieces,
    step_key,
    tension_rise,
)  # fmt: skip
from notcher.core.teaching.rungs import Unit, units
from notcher.core.teaching.student_model import (
    LEAST_ROUNDS,
    MOST_ROUNDS,
    SAME_PACE,
    USUAL_BPM,
    StudentModel,
    student_of,
)  # fmt: skip

POINTS_A_ROUND = 20.0  # of difficulty, that ask for a round more (common practice, no source)
MORE_ROUNDS = 1.5  # times as many rounds at most, where there is time
JOIN_ROUNDS, WARM_UP_ROUNDS, PERFORM_ROUNDS = 3, 3, 2  # (common practice, no source)
MOST_TALK_SHARE = 0.3  # of a step: what a lesson's last minutes may be filled with
WHOLE_SHARE = 0.25  # of a lesson, that hearing the whole solo may take
AGAIN_TURNS = 12  # times that today's phrases come again in a lesson at most
NEXT_LESSON_DAYS = 7  # lessons are weekly (common practice, no source)
TALKED_OF = (Why.NEW, Why.SAME_SHAPE, Why.PIECE)
KINDS = {
    Why.WHOLE: StepKind.WHOLE, Why.WARM_UP: StepKind.WARM_UP, Why.REVIEW: StepKind.REVIEW, Why.AGAIN: StepKind.REVIEW,
    Why.GOES_ON: StepKind.REVIEW, Why.JOIN: StepKind.JOIN, Why.FROM_THE_TOP: StepKind.JOIN,
    Why.PERFORM: StepKind.PERFORM,
}  # fmt: skip


def plan_lesson(
    score: Score,
    *,
    minutes: float,
    lesson_order: LessonOrder = LessonOrder.BUILD_UP,
    patterns: Patterns | None = None,
    student: StudentModel | None = None,
    due: Container[str] = (),
    full_first: bool = True,
    wishes: Wishes = NO_WISHES,
    difficulty: Mapping[str, Difficulty] | None = None,
    ladder: Ladder = USUAL_LADDER,
) -> Plan:
    """Plan a lesson on a solo.

    patterns: what comes again in it. student: as `student_of` tells; None for somebody of whom nothing is known. due:
    phrases, by id, whose review is due. full_first: each phrase is heard at full speed before it is slowed. wishes:
    what is wanted otherwise; the rest is planned around it. difficulty: as `difficulties` tells, where it is known.
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
    student = student or student_of(score, (), difficulty=difficulty, ladder=ladder)
    work = _Work(score, phrases, difficulty, _like(score, phrases, patterns), student, ladder)
    proposed = _rows(work, lesson_order, due, minutes, full_first=full_first)
    rows, left_out = _as_wished(proposed, wishes)
    if not rows:
        raise PlanError("Every step is skipped.", "Bring one back, or plan as proposed.")
    steps, rest = _fitted(work, rows, minutes * 60.0)
    later, cautions = _later(work, steps, rest), _cautions(work, steps, minutes)
    skipped = tuple(_step(work, row) for row in left_out)
    rise = tension_rise(score, {name for step in steps for name in step.phrases})
    return Plan(lesson_order, minutes, phrases, work.difficulty, tuple(steps), later, cautions, skipped, rise, student)


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
    student: StudentModel
    ladder: Ladder

    def bpm(self, phrase: Phrase) -> float:
        """Full tempo where a phrase begins."""
        beat_map = self.score.beat_map
        return float(beat_map.tempo_at(phrase.start_s)) if beat_map.known else USUAL_BPM

    def paces(self, unit: Unit) -> tuple[float, ...]:
        return self.ladder.paces(self.bpm(unit[0]))

    def is_new(self, unit: Unit) -> bool:
        """Whether the student has not practised it."""
        return not any(phrase.id in self.student.tried for phrase in unit)

    def held(self, unit: Unit) -> float | None:
        """The highest rung that stands marked clean; None where none does."""
        held = [self.student.estimates[phrase.id].held for phrase in unit]
        return None if None in held else min(pace for pace in held if pace is not None)

    def points(self, unit: Unit) -> float:
        return max(self.difficulty[phrase.id].points for phrase in unit)

    def start(self, unit: Unit) -> float:
        """The pace to begin at: the rung that stands marked clean, else what the estimate says."""
        held = self.held(unit)
        wanted = min(self.student.estimates[phrase.id].next_pace for phrase in unit)
        return self.rung(unit, min(held, wanted) if held is not None else wanted)

    def goal(self, unit: Unit) -> float | None:
        """The pace to end at: the rung that is to be practised next; of what is new one above its start, or none."""
        start = self.start(unit)
        if self.held(unit) is not None:
            wanted = min(self.student.estimates[phrase.id].next_pace for phrase in unit)
            return wanted if wanted > start + SAME_PACE else None
        return min((pace for pace in self.paces(unit) if start + SAME_PACE < pace <= 1.0 + SAME_PACE), default=None)

    def rounds(self, unit: Unit) -> int:
        """How many rounds a rung takes: by how hard it is, and by how many the student took so far."""
        wanted = LEAST_ROUNDS + self.points(unit) / POINTS_A_ROUND
        if not self.is_new(unit):
            wanted = (wanted + self.student.rounds) / 2
        return round(float(np.clip(wanted, LEAST_ROUNDS, MOST_ROUNDS)))

    def strains(self, names: Sequence[str]) -> bool:
        """Whether any of these phrases has a bend or a stretch that strains the hand."""
        parts = [self.difficulty[name].parts for name in names]
        return any(part.bend_n >= STRAIN_N or part.stretch_mm >= STRETCH_MM for part in parts)

    def rung(self, unit: Unit, pace: float) -> float:
        """The rung at or below a pace, full tempo at most; the lowest where none is."""
        paces = self.paces(unit)
        return max((rung for rung in paces if rung <= min(pace, 1.0) + SAME_PACE), default=paces[0])

    def span_s(self, phrases: Sequence[Phrase], piece: tuple[int, int] | None) -> tuple[float, float]:
        """From when to when of the recording a step plays."""
        if piece is None:
            return phrases[0].start_s, phrases[-1].end_s
        return self.score.notes[piece[0]].onset_s, self.score.notes[piece[1]].offset_s


# --- the order ---
@dataclass(frozen=True, slots=True)
class _PlanRow:
    """A step before its minutes are known. learns: what can be played after it, in time, and at which pace."""

    phrases: tuple[Phrase, ...]
    pace: float
    rounds: int
    why: Why
    listen: bool = False
    piece: tuple[int, int] | None = None
    like: str = ""
    saves: int = 0
    is_new: bool = False
    learns: Unit = ()
    locked: bool = False

    @property
    def key(self) -> StepKey:
        return step_key(tuple(phrase.id for phrase in self.phrases), self.why, self.piece)

    @property
    def kind(self) -> StepKind:
        return StepKind.NEW if self.is_new else KINDS.get(self.why, StepKind.REVIEW)


def _rows(
    work: _Work, lesson_order: LessonOrder, due: Container[str], minutes: float, *, full_first: bool
) -> list[_PlanRow]:
    """All that could be done, in order; the last row is what the lesson ends with."""
    taught = units(work.score)
    order = list(taught[::-1] if lesson_order is LessonOrder.FROM_THE_END else taught)
    rows = _whole(work, minutes)
    first = _warm_up(work, taught, due)
    rows += [] if first is None else [first]
    reviews = [unit for unit in order if any(phrase.id in due for phrase in unit)]
    for unit in reviews:
        rows += _practised(work, unit, Why.REVIEW)
    known = [
        unit
        for unit in order
        if unit not in reviews and not work.is_new(unit) and (work.held(unit) or 0.0) < 1.0 - SAME_PACE
    ]
    new = [unit for unit in order if work.is_new(unit)]
    count = max(1, round(NEW_IN_HALF_AN_HOUR[work.student.level] * minutes / 30.0))
    learned = [unit for unit in order if not work.is_new(unit)]
    for number, unit in enumerate(new[:count]):
        if known:  # hard and easy by turns: what is known comes before what is new
            rows += _practised(work, known.pop(0), Why.GOES_ON)
        if full_first:
            rows.append(_PlanRow(unit, 1.0, 1, Why.HEAR_IT, listen=True, is_new=True))
        rows += _learned(work, unit)
        learned.append(unit)
        rows += _joined(work, lesson_order, order, learned, last=number == min(count, len(new)) - 1)
    for unit in known:
        rows += _practised(work, unit, Why.GOES_ON)
    if not new and len(learned) > 1:
        rows += _joined(work, lesson_order, order, learned, last=True)
    return rows


def _whole(work: _Work, minutes: float) -> list[_PlanRow]:
    """The whole solo once at full speed, at the beginning of a first lesson."""
    phrases = work.phrases
    if work.student.tried or phrases[-1].end_s - phrases[0].start_s > WHOLE_SHARE * 60 * minutes:
        return []
    return [_PlanRow(phrases, 1.0, 1, Why.WHOLE, listen=True)]


def _warm_up(work: _Work, taught: Sequence[Unit], due: Container[str]) -> _PlanRow | None:
    """The easiest of what stands clean, what is due before the rest, without bends and stretches that strain."""
    clean = [unit for unit in taught if work.held(unit) is not None]
    if not clean:
        return None

    def hard(unit: Unit) -> tuple[bool, bool, float]:
        names = [phrase.id for phrase in unit]
        return work.strains(names), not any(name in due for name in names), work.points(unit)

    unit = min(clean, key=hard)
    held = work.held(unit) or 0.0
    below = max((pace for pace in work.paces(unit) if pace < held - SAME_PACE), default=held)
    return _PlanRow(unit, work.rung(unit, below), WARM_UP_ROUNDS, Why.WARM_UP, learns=unit)


def _practised(work: _Work, unit: Unit, why: Why) -> list[_PlanRow]:
    """What was practised before goes on: where it was clean, then a rung up."""
    start, goal, rounds = work.start(unit), work.goal(unit), work.rounds(unit)
    few = max(LEAST_ROUNDS, rounds // 2)
    rows = [_PlanRow(unit, start, rounds if goal is None else few, why, learns=unit)]
    if goal is not None:
        rows.append(_PlanRow(unit, goal, rounds, Why.RUNG_UP, learns=unit))
    return rows


def _joined(
    work: _Work, lesson_order: LessonOrder, order: Sequence[Unit], learned: Sequence[Unit], *, last: bool
) -> list[_PlanRow]:
    """The joins after a phrase was learned. learned: so far, that one at the end. last: no other is learned today."""
    if len(learned) < 2:
        return []
    if lesson_order is LessonOrder.PAIRS:
        at = order.index(learned[-1])
        pair = order[at - at % 2 : at - at % 2 + 2]
        rows = []
        if len(pair) == 2 and all(unit in learned for unit in pair):
            rows.append(_join(work, pair, JOIN_ROUNDS, Why.JOIN))
        if last and len(order) > 2 and len(learned) == len(order):
            rows.append(_join(work, learned, JOIN_ROUNDS - 1, Why.FROM_THE_TOP))
        return rows
    run = _longest_run(order, learned, holding=learned[-1])
    if len(run) < 2:
        return []
    why = Why.JOIN if lesson_order is LessonOrder.FROM_THE_END else Why.FROM_THE_TOP
    return [_join(work, run, JOIN_ROUNDS - 1, why)]


def _join(work: _Work, joined: Sequence[Unit], rounds: int, why: Why) -> _PlanRow:
    pace = min(work.start(unit) for unit in joined)
    phrases = sorted((phrase for unit in joined for phrase in unit), key=lambda phrase: phrase.start_s)
    return _PlanRow(tuple(phrases), pace, rounds, why)


def _longest_run(order: Sequence[Unit], learned: Sequence[Unit], *, holding: Unit | None = None) -> list[Unit]:
    """The longest stretch of neighbours that are all learned, that one among them, if one is given."""
    runs: list[list[Unit]] = [[]]
    for unit in order:
        if unit in learned:
            runs[-1].append(unit)
        else:
            runs.append([])
    wanted = [run for run in runs if holding is None or holding in run]
    return max(wanted, key=lambda run: sum(unit[-1].end_s - unit[0].start_s for unit in run), default=[])


def _learned(work: _Work, unit: Unit) -> list[_PlanRow]:
    """The steps that teach what is new: its pieces where it is long, then all of it, two rungs."""
    start, rounds, goal = work.start(unit), work.rounds(unit), work.goal(unit)
    like, saves = work.like.get(unit[0].id, ("", 0))
    rows: list[_PlanRow] = []
    if not like and len(unit) == 1:
        rows += [
            _PlanRow(unit, start, max(LEAST_ROUNDS, rounds // 2), Why.PIECE, piece=piece, is_new=True)
            for piece in pieces(work.score, unit[0])
        ]
    why = Why.SAME_SHAPE if like else Why.NEW
    fewer = max(LEAST_ROUNDS, rounds // 2) if like else rounds
    rows.append(_PlanRow(unit, start, fewer, why, like=like, saves=saves, is_new=True, learns=unit))
    if goal is not None:
        rows.append(_PlanRow(unit, goal, fewer, Why.RUNG_UP, is_new=True, learns=unit))
    return rows


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
    """As many steps as the seconds hold, the last for what can be played by now; and what is left for later."""
    steps: list[Step] = []
    done: list[_PlanRow] = []
    spent, last = 0.0, None
    for row in rows:
        ends = _performed(work, [*done, row])
        end_s = 0.0 if ends is None else _step(work, ends).seconds
        step = _step(work, row)
        if spent + step.seconds + end_s > budget_s and not row.listen and not row.locked:
            row = replace(row, rounds=1)
            step = _step(work, row)
        if spent + step.seconds + end_s > budget_s:
            break
        spent, last = spent + step.seconds, ends
        steps.append(step)
        done.append(row)
    while len(steps) > 1 and steps[-1].listen:
        del steps[-1], done[-1]  # nothing is heard today that is not practised
    if not steps:
        return [_step(work, rows[0] if rows[0].locked else replace(rows[0], rounds=1))], list(rows[1:])
    ending = [] if last is None else [_step(work, last)]
    left_s = budget_s - sum(step.seconds for step in (*steps, *ending))
    steps, left_s = _filled(steps, left_s, [round(MORE_ROUNDS * step.rounds) for step in steps])
    again = _once_more(work, done, left_s)
    left_s -= sum(step.seconds for step in again)
    steps, _ = _filled([*steps, *again, *ending], left_s, [MOST_ROUNDS] * (len(steps) + len(again) + len(ending)))
    return steps, list(rows[len(done) :])


def _performed(work: _Work, done: Sequence[_PlanRow]) -> _PlanRow | None:
    """What a lesson ends with: the longest stretch that was learned so far, today or before, in time."""
    today = [row.learns for row in done if row.learns]
    if not today:
        return None
    order = units(work.score)
    learned = [unit for unit in order if unit in today or not work.is_new(unit)]
    run = _longest_run(order, learned)
    return _join(work, run, PERFORM_ROUNDS, Why.PERFORM)


def _once_more(work: _Work, done: Sequence[_PlanRow], left_s: float) -> list[Step]:
    """Today's phrases again, after others came between, while there is time."""
    today = list(dict.fromkeys(row.learns for row in done if row.learns and row.why is not Why.WARM_UP))
    today = [unit for unit in today if (work.held(unit) or 0.0) < 1.0 - SAME_PACE] or today
    rows = [_PlanRow(unit, work.start(unit), work.rounds(unit), Why.AGAIN) for unit in today]
    rows += [row for row in done if row.kind is StepKind.JOIN][-1:]
    steps: list[Step] = []
    for _ in range(AGAIN_TURNS):
        for row in rows:
            step = _step(work, row)
            if step.seconds > left_s:
                return steps
            steps.append(step)
            left_s -= step.seconds
    return steps


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
            step = replace(step, parts=replace(step.parts, rest_s=step.parts.rest_s + BREAK_S), break_s=BREAK_S)
            since_break = strained = 0.0
        result.append(step)
    return result


def _step(work: _Work, row: _PlanRow) -> Step:
    start_s, end_s = work.span_s(row.phrases, row.piece)
    talk_s = TALK_S if row.why in TALKED_OF and not row.listen else SHORT_TALK_S
    lead_s = 0.0 if row.listen else count_in_of(work.score.beat_map, start_s).length_s / row.pace
    parts = StepParts(talk_s, row.rounds * lead_s, row.rounds * (end_s - start_s) / row.pace, row.rounds * REST_S)
    bpm = work.bpm(row.phrases[0]) * row.pace
    ids = tuple(phrase.id for phrase in row.phrases)
    return Step(
        ids, row.pace, round(bpm, 1), row.rounds, parts, row.why, row.kind, row.piece, row.listen, row.like, row.saves,
        locked=row.locked,
    )  # fmt: skip


def _filled(steps: list[Step], left_s: float, at_most: Sequence[int]) -> tuple[list[Step], float]:
    """Steps with more rounds, while there is time for one more of any; and the time that is left."""
    growing = True
    while growing and left_s > 0:
        growing = False
        for at, step in enumerate(steps):
            if step.listen or step.locked or step.rounds >= at_most[at]:
                continue
            parts, rounds = step.parts, step.rounds
            round_s = (parts.seconds - parts.talk_s) / rounds
            if round_s <= left_s:
                more = (rounds + 1) / rounds
                parts = StepParts(parts.talk_s, parts.count_in_s * more, parts.sound_s * more, parts.rest_s * more)
                steps[at] = replace(step, rounds=rounds + 1, parts=parts)
                left_s, growing = left_s - round_s, True
    return steps, left_s


def _talked(steps: list[Step], budget_s: float) -> list[Step]:
    """Steps with talk for what is left of the time."""
    left_s = budget_s - sum(step.seconds for step in steps)
    for at, step in enumerate(steps):
        if left_s <= 0:
            break
        more = min(left_s, MOST_TALK_SHARE * step.seconds)
        steps[at] = replace(step, parts=replace(step.parts, talk_s=step.parts.talk_s + more))
        left_s -= more
    return steps


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
