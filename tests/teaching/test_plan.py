"""Lessons planned, and what their arithmetic rests on.

String tensions against a published table of plain and wound steel strings (pounds, from memory); force and way of a
bend by the formulas of statics; the staircase against Levitt's table of convergence points (JASA 49, 1971); the power
law of practice against SciPy's own fit.
"""

import json
import math
from dataclasses import replace
from itertools import pairwise

import jsonschema
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import optimize

from notcher.core.neck.strings import STRING_SETS, USUAL_SET, push_for, tension_n
from notcher.core.patterns import patterns
from notcher.core.proving import Mark, Result
from notcher.core.score import FLAT, STANDARD, Attack, BeatMap, Note, Phrase, Score, Tone, Vibrato, bent_curve, retimed
from notcher.core.teaching import (
    USUAL_LADDER,
    LessonOrder,
    Level,
    Pass,
    PlanError,
    StepKind,
    StepUnit,
    Wishes,
    clean_pace,
    course,
    difficulties,
    difficulty_words,
    next_pace,
    pieces,
    plan_data,
    plan_lesson,
    plan_lines,
    student_of,
    units,
)
from notcher.core.teaching.ladder import TARGET_SHARE, rungs, settles_at
from notcher.core.teaching.plan import NEW_IN_HALF_AN_HOUR, REST_S, STRAIN_N
from notcher.demo import demo_score

POUND_N = 4.4482216  # newtons, by definition of the pound-force


# --- strings ---
# A published tension chart for 648 mm (25.5 in) in pounds, from memory; windings differ from maker to maker by some
# per cent, plain strings are steel wire.
@pytest.mark.outside(
    what="tension of a set of strings",
    source="a maker's printed chart for 648 mm",
    tolerance="2 to 7 %",
    why="windings differ",
    kind="memory",
)
@pytest.mark.parametrize(
    ("string", "pounds", "tolerance"),
    [(1, 16.2, 0.02), (2, 15.4, 0.02), (3, 16.6, 0.02), (4, 18.4, 0.05), (5, 19.5, 0.05), (6, 17.5, 0.07)],
)
def test_tension_is_that_of_the_table(string: int, pounds: float, tolerance: float) -> None:
    found = tension_n(STANDARD.open_midi[string - 1], string, strings=USUAL_SET)
    assert found / POUND_N == pytest.approx(pounds, rel=tolerance)


def test_a_thicker_set_pulls_harder_and_a_lower_tuning_less() -> None:
    by_set = [tension_n(64, 1, strings=strings) for strings in STRING_SETS.values()]
    assert by_set == sorted(by_set)
    assert tension_n(62, 1) / tension_n(64, 1) == pytest.approx(2 ** (-4 / 12)), "T goes with the square of the pitch"


def test_a_bend_makes_the_tension_grow_with_the_square_of_the_pitch() -> None:
    push = push_for(2, 12, 2, STANDARD)
    at_rest = tension_n(STANDARD.open_midi[1], 2)
    assert push.tension_n / at_rest == pytest.approx(2 ** (4 / 12))
    # sideways force of a string pushed aside in its middle: 2 T sin(angle), sin = way / half of the length there
    half = math.hypot(324.0, push.way_mm)
    assert push.force_n == pytest.approx(2 * push.tension_n * push.way_mm / half, rel=1e-6)
    assert 8 < push.way_mm < 20, "about two string spacings of 10 mm for a whole step (common practice, no source)"


def test_a_wider_bend_takes_more_force_and_near_the_nut_it_takes_more() -> None:
    forces = [push_for(2, 12, size, STANDARD).force_n for size in (0, 1, 2, 3, 4)]
    assert forces == sorted(forces)
    assert forces[0] == pytest.approx(0.0, abs=0.1)
    assert push_for(2, 3, 2, STANDARD).force_n > push_for(2, 12, 2, STANDARD).force_n
    assert push_for(2, 12, 4, STANDARD).tension_n / push_for(2, 12, 0, STANDARD).tension_n > 1.5, (
        "two steps raise the tension by more than half"
    )
    with pytest.raises(ValueError, match="only pushed up"):
        push_for(2, 12, -1, STANDARD)


# --- difficulty ---
def phrase_of(*notes: Note) -> Score:
    end_s = max(note.offset_s for note in notes) + 0.1
    return Score(notes, beat_map=BeatMap.steady(120, 0.0), phrases=(Phrase(0.0, end_s, "One"),))


def parts(*notes: Note):  # type: ignore[no-untyped-def]
    (found,) = difficulties(phrase_of(*notes)).values()
    return found.parts


def test_each_part_is_counted_by_itself() -> None:
    run = [Note(0.125 * at, 0.125 * at + 0.12, 3, 5 + at % 3) for at in range(9)]
    assert parts(*run).notes_per_s == pytest.approx(8)  # eight steps in a second
    assert parts(*run).peak_notes_per_s == pytest.approx(8)
    assert parts(*run).crossings_per_s == 0
    skipped = [Note(0.25 * at, 0.25 * at + 0.2, 1 + 2 * (at % 2), 7) for at in range(5)]
    assert parts(*skipped).skips_per_s == pytest.approx(4)  # four in a second, each over a string
    assert parts(Note(0, 0.4, 3, 5), Note(0.4, 0.9, 3, 7, Attack.HAMMER)).legato == 0.5
    assert parts(Note(0, 0.4, 3, 5, tone=Tone.PALM_MUTE)).mute == 1.0
    swept = [Note(0.1 * at, 0.1 * at + 0.09, 4 - at, 9 - at) for at in range(3)]
    assert parts(*swept).sweep == 1.0
    bent = Note(0.0, 0.9, 2, 12, curve=bent_curve(2, 0.9), vibrato=Vibrato(0.3, 5, 30))
    assert parts(bent).bend_n == pytest.approx(push_for(2, 12, 2, STANDARD).force_n, rel=0.03)
    assert parts(bent).vibrato_on_bends == 1.0
    fives = [Note(0.1 * at, 0.1 * at + 0.09, 3, 5 + at) for at in range(5)] + [Note(0.5, 0.9, 3, 9)]
    assert parts(*fives).odd_groups == pytest.approx(5 / 6, abs=0.01)


def test_equal_phrases_get_equal_figures_and_a_quicker_one_more() -> None:
    lick = [Note(0.25 * at, 0.25 * at + 0.2, 2, 5 + 2 * (at % 4)) for at in range(8)]
    again = [retimed(note, note.onset_s + 4, note.offset_s + 4) for note in lick]
    quick = [retimed(note, 8 + note.onset_s / 2, 8 + note.offset_s / 2) for note in lick]
    score = Score(
        (*lick, *again, *quick), beat_map=BeatMap.steady(120, 0.0),
        phrases=(Phrase(0, 2.1, "a"), Phrase(4, 6.1, "b"), Phrase(8, 9.1, "c")),
    )  # fmt: skip
    first, second, third = difficulties(score).values()
    assert first == second
    assert third.points > first.points
    assert sum(points for _, points in first.shares()) == pytest.approx(first.points, abs=0.1)


# --- the ladder ---
def test_up_after_three_clean_in_a_row_and_down_after_two_misses() -> None:
    ladder = (0.5, 0.6, 0.7, 0.8, 0.9, 1.0)
    shaky = Pass(0.5, Result.SHAKY)
    clean, missed = ([Pass(0.6, result)] for result in (Result.CLEAN, Result.MISSED))
    assert next_pace([], ladder) == 0.5
    assert next_pace([shaky, *clean * 2], ladder) == 0.6
    assert next_pace([shaky, *clean * 3], ladder) == 0.7
    assert next_pace([*clean * 2, shaky, Pass(0.5, Result.CLEAN)], ladder) == 0.5, "in a row"
    assert next_pace(missed, ladder) == 0.6
    assert next_pace(missed * 2, ladder) == 0.5
    assert next_pace([shaky, *clean * 2, Pass(0.7, Result.CLEAN)], ladder) == 0.7, "of one rung"


def test_before_anything_goes_wrong_one_clean_pass_is_enough_for_a_rung() -> None:
    ladder = (0.5, 0.6, 0.7, 0.8, 0.9, 1.0)
    passes: list[Pass] = []
    for expected in (0.5, 0.6, 0.7, 0.8):
        assert next_pace(passes, ladder) == expected
        passes.append(Pass(expected, Result.CLEAN))


# Levitt 1971, table I: three in a row up, one down converges where p = 0.794; two in a row where p = 0.707.
@pytest.mark.outside(
    what="where an up-down rule settles",
    source="H. Levitt, JASA 49, 1971, table I: p³ = 1/2, p² = 1/2",
    tolerance="0.001",
    why="printed to three places",
    kind="derivation",
)
@pytest.mark.parametrize(("up", "down", "share"), [(3, 1, 0.794), (2, 1, 0.707), (1, 1, 0.5), (2, 2, 0.5)])
def test_where_the_staircase_settles_is_in_the_published_table(up: int, down: int, share: float) -> None:
    assert settles_at(up, down) == pytest.approx(share, abs=0.001)


@pytest.mark.slow
@pytest.mark.parametrize(("up", "down"), [(3, 2), (3, 1), (2, 1)])
def test_a_staircase_that_is_played_settles_there(up: int, down: int) -> None:
    dice, middle, width = np.random.default_rng(8), 0.8, 0.08
    ladder = tuple(np.arange(0.3, 1.3, 0.02))
    passes: list[Pass] = [Pass(0.8, Result.SHAKY)]
    for _ in range(3_000):
        pace = next_pace(passes[-60:], ladder, in_a_row=up, missed_in_a_row=down)
        clean = dice.random() < 1 / (1 + np.exp((pace - middle) / width))
        passes.append(Pass(pace, Result.CLEAN if clean else Result.MISSED))
    settled = np.mean([one.pace for one in passes[500:]])
    assert 1 / (1 + np.exp((settled - middle) / width)) == pytest.approx(settles_at(up, down), abs=0.05)


@pytest.mark.parametrize("true", [0.55, 0.8, 1.0])
def test_the_clean_pace_is_found_and_grows_surer(true: float) -> None:
    dice = np.random.default_rng(4)
    width = 0.06
    offset = width * np.log(TARGET_SHARE / (1 - TARGET_SHARE))
    passes: list[Pass] = []
    spreads = []
    for _ in range(60):
        pace = float(np.clip(dice.normal(true, 0.08), 0.3, 1.4))
        share = 1 / (1 + np.exp((np.log(pace) - np.log(true) - offset) / width))
        passes.append(Pass(pace, Result.CLEAN if dice.random() < share else Result.MISSED))
        spreads.append(clean_pace(passes).spread)
    found = clean_pace(passes)
    assert found.low < true < found.high
    assert found.pace == pytest.approx(true, rel=0.06)
    assert spreads[-1] < spreads[9] < spreads[0]


def test_nothing_known_is_what_is_believed() -> None:
    assert clean_pace([], expected=0.6).pace == pytest.approx(0.6)


@pytest.mark.outside(
    what="the line through a student's days in logarithms",
    source="scipy.optimize; A. Newell, P. Rosenbloom 1981",
    tolerance="1 to 10 %",
    why="our line is robust",
    kind="library",
)
def test_the_course_over_days_is_scipys_line_where_there_are_many() -> None:
    """Newell and Rosenbloom 1981: a straight line in logarithms."""
    dice = np.random.default_rng(6)
    days = np.arange(1, 200.0)
    paces = 0.5 * days**0.18 * np.exp(dice.normal(0, 0.05, days.size))
    (scale, power), _ = optimize.curve_fit(
        lambda x, a, b: np.log(a) + b * np.log(x), days, np.log(paces), p0=(0.5, 0.2)
    )
    found = course(days, paces)
    assert found is not None
    assert found.b == pytest.approx(power, abs=0.01)
    assert found.at(1) == pytest.approx(scale, rel=0.02)
    early, middle, late = found.until(1.0) or (0, 0, 0)
    assert early < middle < late
    assert middle == pytest.approx((1.0 / scale) ** (1 / power), rel=0.1)
    assert course(np.zeros(0), np.zeros(0)) is None


@pytest.mark.parametrize(
    ("by", "size", "expected"),
    [
        (StepUnit.PERCENT, 10, (0.5, 0.6, 0.7, 0.8, 0.9, 1.0, 1.1)),
        (StepUnit.BPM, 12, (0.5, 0.6, 0.7, 0.8, 0.9, 1.0, 1.1)),
        (StepUnit.RATIO, 2 ** (1 / 2), (0.5, 0.7071, 1.0, 1.4142)),
    ],
)
def test_rungs_lead_to_full_tempo_and_one_above(by: StepUnit, size: float, expected: tuple[float, ...]) -> None:
    assert rungs(0.5, full_bpm=120, by=by, size=size) == pytest.approx(expected, abs=1e-3)
    with pytest.raises(ValueError, match="goes up"):
        rungs(0.5, full_bpm=120, by=by, size=0)


# --- the plan ---
@pytest.mark.slow
@pytest.mark.parametrize("lesson_order", LessonOrder)
@pytest.mark.parametrize("minutes", [5, 15, 30, 45, 60])
def test_the_minutes_are_those_that_were_asked_for(lesson_order: LessonOrder, minutes: int) -> None:
    score = demo_score()
    plan = plan_lesson(score, minutes=minutes, lesson_order=lesson_order, patterns=patterns(score))
    assert plan.planned_minutes == pytest.approx(minutes, rel=0.05)
    assert all(step.rounds <= 12 for step in plan.steps)
    data = plan_data(plan)
    from notcher.core.formats.files.atomic import schema

    jsonschema.validate(data, schema("plan"))
    assert data["planned_minutes"] == pytest.approx(sum(step["seconds"] for step in data["steps"]) / 60)
    for step in data["steps"]:
        first = score.phrase_of(step["phrases"][0])
        assert first is not None
        assert step["bpm"] == pytest.approx(step["pace"] * score.beat_map.tempo_at(first.start_s), rel=0.01)
    assert json.dumps(data)
    assert plan_lines(plan)


def practised(plan) -> list[tuple[str, ...]]:  # type: ignore[no-untyped-def]
    names = {phrase.id: phrase.name for phrase in plan.phrases}
    return [
        tuple(names[name] for name in step.phrases) for step in plan.steps if not step.listen and step.piece is None
    ]


def four() -> Score:
    """Four phrases of four notes, none like another."""
    notes, phrases = [], []
    for number, frets in enumerate(((5, 8, 7, 5), (12, 10, 9, 12), (3, 5, 3, 7), (14, 17, 14, 15))):
        begin_s = 4.0 * number
        notes += [
            Note(begin_s + 0.5 * at, begin_s + 0.5 * at + 0.4, 2 + number % 3, fret) for at, fret in enumerate(frets)
        ]
        phrases.append(Phrase(begin_s, begin_s + 3.5, f"P{number + 1}"))
    return Score(tuple(notes), beat_map=BeatMap.steady(120, 0.0), phrases=tuple(phrases))


FOUR = four()
FOUR_DIFFICULTY = difficulties(FOUR)


def unique(rows: list[tuple[str, ...]]) -> list[tuple[str, ...]]:
    return list(dict.fromkeys(rows))


def test_the_orders_of_the_lesson_orders() -> None:
    """Build-up: 1, 2, 1+2, 3, 1+2+3 …; pairs and joins; from the end (common practice, no source)."""
    score = four()
    quick = student_of(score, (), level=Level.ADVANCED)  # who learns four phrases in an hour
    build_up = unique(practised(plan_lesson(score, minutes=60, student=quick)))
    assert build_up == [("P1",), ("P2",), ("P1", "P2"), ("P3",), ("P1", "P2", "P3"), ("P4",), ("P1", "P2", "P3", "P4")]
    pairs = unique(practised(plan_lesson(score, minutes=60, lesson_order=LessonOrder.PAIRS, student=quick)))
    assert pairs == [("P1",), ("P2",), ("P1", "P2"), ("P3",), ("P4",), ("P3", "P4"), ("P1", "P2", "P3", "P4")]
    from_end = unique(practised(plan_lesson(score, minutes=60, lesson_order=LessonOrder.FROM_THE_END, student=quick)))
    assert from_end[:3] == [("P4",), ("P3",), ("P3", "P4")]


def test_full_speed_first_or_slow_first() -> None:
    first, second = plan_lesson(four(), minutes=20).steps[:2]
    assert (first.kind, first.listen, first.pace, first.rounds) == (StepKind.WHOLE, True, 1.0, 1)
    assert (second.kind, second.listen, second.pace, second.rounds) == (StepKind.NEW, True, 1.0, 1)
    slow_first = plan_lesson(four(), minutes=20, full_first=False).steps
    assert [step.kind for step in slow_first if step.listen] == [StepKind.WHOLE]


def test_what_is_the_same_shape_is_taught_shorter_and_said() -> None:
    score = four()
    moved = [replace(note, onset_s=note.onset_s + 16, offset_s=note.offset_s + 16, fret=note.fret + 2, id="")
             for note in score.notes[:4]]  # fmt: skip
    longer = replace(score, phrases=(*score.phrases, Phrase(16.0, 19.5, "P5"))).with_notes([*score.notes, *moved])
    found = patterns(longer)
    plan = plan_lesson(longer, minutes=90, patterns=found)
    same = [step for step in plan.steps if step.like]
    if found.explained:  # four notes may be too few to be told apart from chance
        assert {step.like for step in same} == {longer.phrases[0].id}


def test_a_long_run_is_cut_where_the_hand_moves_and_pieces_share_a_note() -> None:
    notes = [Note(0.2 * at, 0.2 * at + 0.15, 2, 5 + at % 4 + (7 if at >= 11 else 0)) for at in range(24)]
    score = Score(tuple(notes), beat_map=BeatMap.steady(120, 0.0), phrases=(Phrase(0.0, 5.0, "Run"),))
    cut = pieces(score, score.phrases[0])
    assert cut[0][0] == 0
    assert cut[-1][1] == 23
    assert all(a[1] == b[0] for a, b in pairwise(cut)), "each begins with the last note of the one before"
    assert {first for first, _ in cut} & {10, 11}, "where the hand shifts"
    assert pieces(four(), four().phrases[0]) == []


def marked(*rows: tuple[str, float, str]) -> list[Mark]:
    return [Mark((phrase,), pace, Result(mark)) for phrase, pace, mark in rows]


def test_what_is_known_of_the_student_makes_another_plan() -> None:
    score = four()
    first = score.phrases[0].id
    marks = marked(*[(first, 0.8, "clean")] * 3)
    plan = plan_lesson(score, minutes=20, student=student_of(score, marks))
    mine = [(step.kind, step.pace) for step in plan.steps if step.phrases == (first,) and not step.listen]
    assert mine[0] == (StepKind.WARM_UP, 0.7), "a rung below what is clean"
    assert (StepKind.REVIEW, 0.8) in mine
    assert max(pace for _, pace in mine) == pytest.approx(0.9), "never two rungs above what is clean"


def test_what_is_wished_of_steps_holds_and_the_rest_is_planned_around_it() -> None:
    score = four()
    usual = plan_lesson(score, minutes=20)
    first, second, third = (step.key for step in usual.steps[:3])
    wishes = Wishes(frozenset({first}), {third: 9}, (third, second))
    other = plan_lesson(score, minutes=20, wishes=wishes)
    assert [step.key for step in other.steps[:2]] == [third, second]
    assert first not in {step.key for step in other.steps}
    assert [step.key for step in other.skipped] == [first]
    assert (other.steps[0].rounds, other.steps[0].locked) == (9, True)
    assert other.planned_minutes == pytest.approx(20, rel=0.05)
    assert {step.key for step in usual.steps} - {first} <= {step.key for step in other.steps}
    everything = frozenset(step.key for step in plan_lesson(score, minutes=600).steps)
    with pytest.raises(PlanError, match="Every step is skipped"):
        plan_lesson(score, minutes=20, wishes=Wishes(everything))


def test_a_wish_holds_when_the_marks_are_others() -> None:
    score = four()
    usual = plan_lesson(score, minutes=20)
    new = next(step for step in usual.steps if not step.listen)
    known = student_of(score, marked(*[(score.phrases[0].id, 0.7, "clean")] * 3))
    other = plan_lesson(score, minutes=20, student=known, wishes=Wishes(rounds={new.key: 7}))
    again = next(step for step in other.steps if step.key == new.key)
    assert (again.pace, again.rounds) == (0.7, 7)


def test_rounds_that_do_not_fit_are_for_later_and_not_cut() -> None:
    score = four()
    new = next(step for step in plan_lesson(score, minutes=20).steps if not step.listen)
    short = plan_lesson(score, minutes=1, wishes=Wishes(rounds={new.key: 12}))
    assert all(step.key != new.key or step.rounds == 12 for step in short.steps)


def test_marks_say_where_to_go_on() -> None:
    score = four()
    first, second, third = (phrase.id for phrase in score.phrases[:3])
    marks = [
        *marked((first, 0.5, "clean"), (first, 0.7, "clean"), (first, 0.8, "missed"), (second, 0.5, "missed")),
        Mark((first, second), 1.0, Result.CLEAN),
    ]
    known = student_of(score, marks)
    assert (known.estimates[first].held, known.estimates[first].marks) == (0.7, 3)
    assert 0.7 <= known.estimates[first].clean_now < 0.8
    assert 0.25 < known.estimates[second].clean_now < 0.5
    assert known.estimates[third].marks == 0
    assert known.estimates[third].next_pace <= 0.7, "what was never tried begins no quicker than what is clean"
    assert known.tried == {first, second}


# The clock, the advice and the board of one student: nothing that a good teacher would not offer.
@pytest.mark.parametrize("count", [1, 3, 10])
def test_marks_at_half_tempo_tell_of_half_tempo(count: int) -> None:
    score = four()
    first = score.phrases[0].id
    found = student_of(score, marked(*[(first, 0.5, "clean")] * count)).estimates[first]
    assert found.next_pace == 0.6
    assert 0.5 <= found.clean_now <= 0.6
    assert found.low <= found.clean_now <= found.high
    assert found.low >= 0.5 or count < 3


@given(st.lists(st.tuples(st.sampled_from([0.4, 0.5, 0.6, 0.7, 0.8, 0.9, 1.0, 1.1]),
                          st.sampled_from(["clean", "shaky", "missed"])), max_size=25))  # fmt: skip
@settings(max_examples=300, deadline=None)
def test_the_next_rung_is_never_two_above_what_is_clean_nor_below_it(rows: list[tuple[float, str]]) -> None:
    score = FOUR
    first = score.phrases[0].id
    found = student_of(score, marked(*[(first, *row) for row in rows]), difficulty=FOUR_DIFFICULTY).estimates[first]
    ladder = USUAL_LADDER.paces(120)
    assert found.low <= found.clean_now <= found.high
    assert any(found.next_pace == pytest.approx(pace) for pace in ladder)
    if found.held is not None:
        at = ladder.index(found.held)
        assert found.next_pace in ladder[at : at + 2]
        assert found.held <= found.clean_now <= ladder[min(at + 1, len(ladder) - 1)]


def test_who_is_slow_in_bends_begins_the_next_bend_slowly_too() -> None:
    """Two phrases with the same quick second, one of them bent; the bent ones are only clean at half tempo."""

    def phrase(number: int, bend: float) -> list[Note]:
        begin_s = 4.0 * number
        curve = bent_curve(bend, 0.4) if bend else FLAT
        return [Note(begin_s + 0.5 * at, begin_s + 0.5 * at + 0.45, 2, 8 + at % 2, curve=curve) for at in range(6)]

    bends = (0.0, 3.0, 0.0, 3.0, 0.0, 3.0)
    notes = [note for number, bend in enumerate(bends) for note in phrase(number, bend)]
    spans = tuple(Phrase(4.0 * at, 4.0 * at + 3.5, f"P{at}", id=f"p{at}") for at in range(len(bends)))
    score = Score(tuple(notes), beat_map=BeatMap.steady(120, 0.0), phrases=spans)
    days = [(f"p{at}", 0.5 if bends[at] else 0.9, "clean") for at in range(4) for _ in range(3)]
    failed = [(f"p{at}", 0.6, "missed") for at in (1, 3) for _ in range(2)]
    found = student_of(score, marked(*days, *failed)).estimates
    assert found["p5"].clean_now < 0.75 * found["p4"].clean_now
    assert found["p5"].next_pace < found["p4"].next_pace


def test_a_beginner_gets_two_or_three_new_phrases_in_half_an_hour_and_ends_with_music() -> None:
    score = demo_score()
    for level, count in NEW_IN_HALF_AN_HOUR.items():
        plan = plan_lesson(score, minutes=30, student=student_of(score, (), level=level))
        new = {step.phrases for step in plan.steps if step.kind is StepKind.NEW}
        assert len(new) <= count
        assert plan.steps[-1].kind is StepKind.PERFORM
        longest = max(len(step.phrases) for step in plan.steps if step.kind is not StepKind.WHOLE)
        assert len(plan.steps[-1].phrases) == longest, "the longest stretch so far"
    beginner = plan_lesson(score, minutes=30, student=student_of(score, (), level=Level.BEGINNER))
    assert 2 <= len({step.phrases for step in beginner.steps if step.kind is StepKind.NEW}) <= 3
    assert max(step.pace for step in beginner.steps if not step.listen) <= 0.6, "half tempo, and a rung above"


def test_what_is_due_comes_first_and_known_and_new_take_turns() -> None:
    score = demo_score()
    ids = [phrase.id for phrase in score.phrases]
    known = student_of(score, marked(*[(name, 0.5, "clean") for name in ids[:3] for _ in range(3)]))
    plan = plan_lesson(score, minutes=45, student=known, due={ids[1]})
    kinds = [step.kind for step in plan.steps]
    assert kinds[0] is StepKind.WARM_UP
    first = next(step for step in plan.steps if step.kind is StepKind.REVIEW)
    assert first.phrases == (ids[1],)
    assert not [step for step in plan.steps if step.kind is StepKind.WHOLE], "it was heard in the first lesson"
    firsts = [step for step, before in zip(plan.steps[1:], plan.steps, strict=False) if step.phrases != before.phrases]
    new = [step for step in firsts if step.kind is StepKind.NEW]
    assert len(new) >= 2
    between = plan.steps.index(new[0]), plan.steps.index(new[1])
    assert any(step.kind in (StepKind.REVIEW, StepKind.JOIN) for step in plan.steps[slice(*between)])


def test_a_phrase_of_two_notes_is_taught_with_its_neighbour() -> None:
    score = four()
    tiny = (Note(15.8, 16.0, 2, 5), Note(16.1, 16.4, 2, 7))
    longer = replace(score.with_notes([*score.notes, *tiny]), phrases=(*score.phrases, Phrase(15.8, 16.5, "Tail")))
    plan = plan_lesson(longer, minutes=90)
    assert [len(unit) for unit in units(longer)] == [1, 1, 1, 2]
    for step in plan.steps:
        assert (longer.phrases[4].id in step.phrases) == (longer.phrases[3].id in step.phrases)


# A round is count-in, sound and rest; a bar at 120 is two seconds, so 4 s at half tempo (derived by hand).
def test_each_step_says_its_parts_and_they_add_up() -> None:
    score = four()
    plan = plan_lesson(score, minutes=20)
    step = next(step for step in plan.steps if not step.listen and len(step.phrases) == 1)
    assert step.parts.count_in_s == pytest.approx(step.rounds * 2.0 / step.pace)
    assert step.parts.sound_s == pytest.approx(step.rounds * 3.5 / step.pace)
    assert step.parts.rest_s == pytest.approx(step.rounds * REST_S + step.break_s)
    assert step.seconds == pytest.approx(sum(step.parts.as_dict().values()))
    silent = sum(step.parts.talk_s + step.parts.rest_s for step in plan.steps) / 60
    assert silent < 0.45 * plan.planned_minutes, "half of a step was silence"


def test_each_step_says_why() -> None:
    said = [step["why"] for step in plan_data(plan_lesson(four(), minutes=20))["steps"]]
    name = four().phrases[0].name or "a phrase"
    assert said[:4] == [
        "the whole solo once at full speed", f"{name} once at full speed", f"{name} is new",
        f"{name} one tempo step up",
    ]  # fmt: skip


def test_how_hard_a_phrase_is_is_told_part_by_part() -> None:
    wide = phrase_of(Note(0.0, 0.9, 2, 12, curve=bent_curve(4, 0.9)), Note(1.0, 1.4, 2, 12))
    found = difficulties(wide)[wide.phrases[0].id]
    told = dict(line.split(": ") for line in difficulty_words(found).splitlines()[1:])
    assert told["bend effort"] == "high", "two steps"
    assert found.parts.bend_n > STRAIN_N
    assert "share of swept notes" not in told, "what asks nothing is not told"
    assert difficulty_words(found).startswith(f"difficulty {found.points:.0f} (")


def test_what_the_minutes_do_not_hold_comes_later_and_reviews_grow() -> None:
    plan = plan_lesson(four(), minutes=4)
    kinds = {str(later.why) for later in plan.later}
    assert kinds == {"review", "no time"}
    days = [later.days_from_now for later in plan.later if str(later.why) == "review"]
    assert days == sorted(days)
    ratios = [b / a for a, b in pairwise(days)]
    assert min(ratios) > 2, "each interval a multiple of the one before (Pimsleur 1967)"


def test_cautions_where_they_apply_and_once() -> None:
    wide = phrase_of(Note(0.0, 0.9, 2, 12, curve=bent_curve(4, 0.9)), Note(1.0, 1.4, 2, 12))
    said = plan_data(plan_lesson(wide, minutes=5))["cautions"]
    assert any("Warm the hands up" in caution and "clinician" in caution for caution in said)
    assert len(said) == len(set(said))
    # pitch goes with the root of the tension: two steps are 2^(4/6) = 1.587 times as much (from Mersenne's law)
    assert any("tension by 59 %" in caution for caution in said)
    step = phrase_of(Note(0.0, 0.9, 2, 12, curve=bent_curve(2, 0.9)), Note(1.0, 1.4, 2, 12))
    assert not any("tension" in caution for caution in plan_data(plan_lesson(step, minutes=5))["cautions"])
    assert plan_data(plan_lesson(four(), minutes=5))["cautions"] == []


def test_strained_playing_gets_its_breaks_sooner() -> None:
    easy = four()
    wide = tuple(replace(note, fret=12, curve=bent_curve(4, 0.5)) for note in easy.notes)
    strained = replace(easy, notes=tuple(replace(note, string=2) for note in wide))
    pauses = [
        [step.break_s for step in plan_lesson(score, minutes=40).steps if step.break_s] for score in (easy, strained)
    ]
    assert len(pauses[1]) > len(pauses[0]) > 0
    assert plan_lesson(strained, minutes=40).planned_minutes == pytest.approx(40, rel=0.05)


@pytest.mark.parametrize("minutes", [0, -3, 10_000])
def test_minutes_that_are_no_lesson_are_refused(minutes: float) -> None:
    with pytest.raises(PlanError, match="cannot be planned"):
        plan_lesson(four(), minutes=minutes)


def test_without_phrases_or_beats() -> None:
    with pytest.raises(PlanError, match="no phrases to teach"):
        plan_lesson(replace(four(), phrases=()), minutes=20)
    bare = replace(four(), beat_map=BeatMap())
    assert plan_lesson(bare, minutes=20).planned_minutes == pytest.approx(20, rel=0.05)
