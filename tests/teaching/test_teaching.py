"""Loops without a seam, count-ins on the beat, rungs in order."""

import itertools

import numpy as np
import pytest

from conftest import RATE, sine
from notcher.core.mixing import Loop, LoopPassage, make_loop
from notcher.core.proving import Mark, Result
from notcher.core.score import BeatMap, Note, Phrase, Score
from notcher.core.sound import Clip
from notcher.core.teaching import (
    RUNG_PACES,
    BoardRow,
    Ladder,
    LessonOrder,
    Phase,
    Running,
    StepUnit,
    StudentModel,
    board_rows,
    estimate_of,
    plan_lesson,
    ran_words,
    results,
    row_name,
    running_words,
)


@pytest.fixture(scope="module")
def tone() -> Clip:
    return Clip(np.column_stack([sine(261.63, 4.0), sine(392.0, 4.0)]), RATE)


@pytest.mark.slow
@pytest.mark.parametrize("pace", [0.25, 0.5, 1.0, 1.5])
def test_a_loop_has_no_click_at_its_seam(tone: Clip, pace: float) -> None:
    loop = make_loop(tone, 1.013, 1.987, pace=pace, count_in=False)
    length = loop.length
    assert length == round(0.974 / pace * RATE)
    sound = loop.read(0, 3 * length)
    steps = np.abs(np.diff(sound, axis=0)).max(axis=1)
    seams = np.concatenate([steps[at - 3 : at + 3] for at in (length, 2 * length)])
    # no larger a step than the tone itself makes from sample to sample
    assert seams.max() <= 1.05 * np.percentile(steps, 99.9)


def test_a_loop_goes_round_and_tells_its_time(tone: Clip) -> None:
    loop = make_loop(tone, 1.0, 2.0, pace=0.5, beat_map=BeatMap.steady(120, 0.0))
    lead, length = loop.count_in.shape[0], loop.length
    # it begins on the third beat of a bar: a whole bar and two beats at 120 a minute, at half pace: 6 s
    assert lead == 6 * RATE
    assert loop.time_at(lead) == pytest.approx(1.0)
    assert loop.time_at(lead + length // 2) == pytest.approx(1.5, abs=1e-3)
    assert loop.time_at(lead + length) == pytest.approx(1.0)
    assert [loop.pass_at(at) for at in (0, lead, lead + length, lead + 2 * length)] == [0, 1, 2, 3]
    assert np.array_equal(loop.read(lead + 100, 50), loop.read(0, lead + 200)[lead + 100 : lead + 150])
    assert not loop.ended_at(10**9)


@pytest.mark.slow
@pytest.mark.parametrize("pace", [0.5, 1.0, 1.25])
@pytest.mark.parametrize("at_s", [1.0, 1.4, 1.95])
def test_a_loop_entered_in_its_middle_has_no_click_and_keeps_its_time(tone: Clip, pace: float, at_s: float) -> None:
    loop = Loop(tone, 1.013, 1.987, pace=pace, at_s=at_s)
    assert np.all(loop.read(0, 1000) == 0), "not made yet: silent"
    entered: list[np.ndarray] = []
    loop.prepare(lambda _share: entered.append(loop.read(0, 800)))
    assert np.abs(entered[0][:2]).max() < 0.01, "it fades in"
    assert np.abs(entered[0][600:]).max() > 0.1, "the entry sounds before the rest is made"
    length = round(0.974 / pace * RATE)
    assert loop.time_at(0) == pytest.approx(max(at_s, 1.013), abs=0.002)
    assert loop.time_at(length) == pytest.approx(loop.time_at(0), abs=1e-3)
    turn = length - loop.entry
    assert (loop.pass_at(0), loop.pass_at(turn - 1), loop.pass_at(turn), loop.pass_at(turn + length)) == (1, 1, 2, 3)
    sound = loop.read(0, 3 * length)
    steps = np.abs(np.diff(sound, axis=0)).max(axis=1)
    seams = np.concatenate([steps[at - 3 : at + 3] for at in (turn, length, length + turn, 2 * length)])
    assert seams.max() <= 1.05 * np.percentile(steps, 99.9)
    whole = make_loop(tone, 1.013, 1.987, pace=pace, count_in=False).read(0, length)
    later = sound[turn : turn + length]
    assert np.sqrt(np.mean(later**2)) == pytest.approx(np.sqrt(np.mean(whole**2)), rel=0.1), "as loud as the other"


def test_the_count_in_clicks_on_the_beats(tone: Clip) -> None:
    # the phrase begins half a beat late: clicks stay on the beats before it
    loop = make_loop(tone, 2.25, 3.0, beat_map=BeatMap.steady(120, 0.0))
    loud = np.abs(loop.count_in[:, 0])
    starts = np.flatnonzero(np.diff((loud > 0.02).astype(int), prepend=0) == 1)
    groups = starts[np.diff(starts, prepend=-RATE) > RATE // 10] / RATE
    # bar 2 begins at 2.0 s: a whole bar is counted, then its first beat; the phrase comes half a beat after that
    assert groups == pytest.approx([0.0, 0.5, 1.0, 1.5, 2.0], abs=0.002)
    assert loop.count_in.shape[0] == pytest.approx(2.25 * RATE, abs=1)


def test_a_loop_needs_something_to_go_round(tone: Clip) -> None:
    with pytest.raises(ValueError, match="50 ms"):
        make_loop(tone, 3.99, 9.0)


def test_a_loop_up_to_the_very_end_fades(tone: Clip) -> None:
    loop = make_loop(tone, 3.0, 4.0, count_in=False)
    sound = loop.read(0, loop.length)
    assert np.abs(sound[-1]).max() < 0.01
    assert np.abs(sound[0]).max() < 0.01


@pytest.mark.slow
def test_a_passage_is_made_while_it_plays(tone: Clip) -> None:
    passage = LoopPassage(tone, 1.0, 0.5)
    assert np.all(passage.read(0, 1000) == 0), "not made yet: silent"
    passage.prepare()
    assert np.abs(passage.read(RATE, 1000)).max() > 0.1
    assert passage.time_at(RATE) == pytest.approx(1.5)
    assert passage.ended_at(6 * RATE)
    assert passage.read(7 * RATE, 10).shape == (10, 2)
    whole = LoopPassage(tone, 0.0, 1.0)
    whole.prepare()
    assert np.array_equal(whole.read(500, 100), tone.samples[500:600])


SPAN = Phrase(0.0, 2.0, "a")


def passed(*tried: tuple[float, Result]) -> list[Mark]:
    return [Mark((SPAN.id,), pace, result) for pace, result in tried]


# Transformed up-down rule: three clean in a row lead up, two missed in a row down, a shaky one stays; before the first
# that is not clean one clean pass is enough (H. Levitt, JASA 49, 1971).
@pytest.mark.outside(
    what="the transformed up-down rule",
    source="H. Levitt, JASA 49, 1971",
    tolerance="exact",
    why="rungs",
    kind="derivation",
)
def test_rungs_climb_and_fall_back_by_the_published_rule() -> None:
    clean, shaky, missed = Result.CLEAN, Result.SHAKY, Result.MISSED

    def following(*tried: tuple[float, Result]) -> float:
        """The next rung of a row that was played so, by the one estimate that the board asks."""
        return estimate_of(BoardRow((SPAN,)), StudentModel(), passed(*tried), RUNG_PACES).next_pace

    assert following() == 0.5, "about half tempo (common practice, no source)"
    assert following((0.5, clean)) == 0.6
    assert following((0.5, clean), (0.6, shaky)) == 0.6
    assert following((0.5, clean), (0.6, shaky), (0.6, clean), (0.6, clean)) == 0.6
    assert following((0.7, shaky), *[(0.7, clean)] * 3) == 0.8
    assert following((0.7, missed)) == 0.7
    assert following((0.7, missed), (0.7, missed)) == 0.6
    assert following((1.0, clean)) == RUNG_PACES[-1]


def test_a_cell_shows_its_last_pass_at_the_nearest_rung() -> None:
    tried = passed((0.5, Result.MISSED), (0.5, Result.SHAKY), (0.68, Result.CLEAN))
    other = Mark((SPAN.id, "another"), 0.9, Result.CLEAN)
    assert results([*tried, other], SPAN) == {0.5: Result.SHAKY, 0.7: Result.CLEAN}


@pytest.mark.parametrize("by", list(StepUnit))
def test_every_ladder_leads_from_slow_to_one_rung_above_full_tempo(by: StepUnit) -> None:
    paces = Ladder(by).paces(120.0)
    assert paces[0] == 0.4
    assert paces[-2] == 1.0
    steps = [round(b - a, 3) for a, b in itertools.pairwise(paces)]
    if by is StepUnit.PERCENT:
        assert set(steps) == {0.1}
    elif by is StepUnit.BPM:
        assert steps[0] * 120 == pytest.approx(8, abs=0.1)
    else:
        assert paces[1] / paces[0] == pytest.approx(1.12, abs=0.01)


# The orders: building up, in pairs that are joined, from the end (common practice, no source).
@pytest.mark.parametrize(
    ("lesson_order", "names"),
    [
        (LessonOrder.BUILD_UP, ["a", "b", "a + b", "c", "a to c", "d", "a to d"]),
        (LessonOrder.PAIRS, ["a", "b", "a + b", "c", "d", "c + d", "a to d"]),
        (LessonOrder.FROM_THE_END, ["d", "c", "c + d", "b", "b to d", "a", "a to d"]),
    ],
)
def test_the_board_holds_phrases_and_joins_in_teaching_order(lesson_order: LessonOrder, names: list[str]) -> None:
    notes = tuple(Note(0.5 * at, 0.5 * at + 0.4, 2, 5) for at in range(16))
    spans = tuple(Phrase(2.0 * at, 2.0 * at + 2, name, id=name) for at, name in enumerate("abcd"))
    score = Score(notes, phrases=spans)
    rows = board_rows(score, lesson_order)
    assert [row_name(row) for row in rows] == names
    assert (rows[2].start_s, rows[2].end_s) == ((4.0, 8.0) if lesson_order is LessonOrder.FROM_THE_END else (0.0, 4.0))
    before = Mark((spans[1].id, spans[2].id), 0.5, Result.CLEAN)
    assert row_name(board_rows(score, lesson_order, [before])[-1]) == "b + c", "what was practised keeps its row"


def test_a_long_phrase_has_a_row_for_each_piece() -> None:
    notes = tuple(Note(0.2 * at, 0.2 * at + 0.15, 1 + at % 3, 5 + at % 4) for at in range(27))
    score = Score(notes, phrases=(Phrase(0.0, 6.0, "Run"),))
    rows = board_rows(score)
    assert [row_name(row) for row in rows] == ["Run, 1st piece", "Run, 2nd piece", "Run, 3rd piece", "Run"]
    assert rows[0].ids != rows[1].ids != rows[3].ids
    assert rows[1].start_s == score.notes[rows[0].piece[1]].onset_s, "pieces share a note"


# --- a lesson that runs by itself ---
def running() -> Running:
    notes = tuple(Note(0.5 * at, 0.5 * at + 0.4, 2, 5) for at in range(16))
    spans = (Phrase(0.0, 4.0, "a"), Phrase(4.0, 8.0, "b"))
    return Running(plan_lesson(Score(notes, beat_map=BeatMap.steady(120, 0.0), phrases=spans), minutes=10))


def test_a_lesson_walks_through_its_steps_and_takes_the_time_that_was_planned() -> None:
    now, clock_s = running(), 0.0
    seen: list[tuple[int, Phase]] = []
    while not now.over:
        seen.append((now.at, now.phase))
        now, clock_s = now.passed(0.25), clock_s + 0.25
    steps = now.plan.steps
    assert list(dict.fromkeys(at for at, _ in seen)) == list(range(len(steps)))
    assert [done.rounds for done in now.done] == [step.rounds for step in steps]
    assert clock_s == pytest.approx(60 * now.plan.planned_minutes, abs=0.25)
    assert now.in_all_s == pytest.approx(60 * now.plan.planned_minutes)
    for at, step in enumerate(steps):  # what is heard of each step is what its parts say
        mine = [phase for place, phase in seen if place == at]
        parts = {Phase.TALK: step.parts.talk_s, Phase.COUNT_IN: step.parts.count_in_s, Phase.PLAY: step.parts.sound_s}
        for phase, seconds in parts.items():
            assert 0.25 * mine.count(phase) == pytest.approx(seconds, abs=0.25 * (step.rounds + 1))
        order = list(dict.fromkeys(mine))
        assert order[0] is Phase.TALK
    assert "Done" in running_words(now)


def test_steps_are_skipped_repeated_and_lengthened_and_what_was_done_is_kept() -> None:
    now = running().at_step(2)
    step = now.step
    one = now.passed(step.parts.talk_s + now.round_s - 0.1)
    assert (one.phase, one.rounds, one.sounded) == (Phase.REST, 0, 1), "what sounded counts, its rest or not"
    longer = one.extended()
    assert longer.wanted_rounds == step.rounds + 1
    assert longer.length_s == pytest.approx(one.length_s + one.round_s)
    again = one.at_step(2)
    assert (again.rounds, again.in_step_s, again.phase) == (0, 0.0, Phase.TALK)
    assert again.done_of(2)[0] == 1, "what was played of it counts"
    ended = again.passed(step.parts.talk_s + 2 * now.round_s).ended()
    assert ended.phase is Phase.OVER
    assert ended.done_of(2)[0] == 3
    assert [(done.phrases, rounds) for done, rounds in ended.sounded_steps] == [(step.phrases, 3)]
    assert "3 rounds" in ran_words(ended)
    assert ended.passed(100.0) == ended.went_on() == ended.extended() == ended


@pytest.mark.slow
@pytest.mark.parametrize("left_s", [0.03, 0.2, 1.0])
def test_a_loop_entered_shortly_before_its_end_begins_once_it_can_go_on(left_s: float) -> None:
    """At the first word that it can be heard there is sound for the next third of a second, over its end as well."""
    noise = np.random.default_rng(5).uniform(-0.5, 0.5, (6 * RATE, 1)).astype(np.float32)
    loop = Loop(Clip(noise, RATE), 1.0, 5.0, pace=0.5, at_s=5.0 - 0.5 * left_s)
    heard: list[np.ndarray] = []

    def told(_share: float) -> None:
        if not heard:
            heard.append(loop.parts(0, RATE // 3).copy())

    loop.prepare(told)
    level = np.abs(heard[0][: heard[0].shape[0] // 441 * 441, 0]).reshape(-1, 441).max(axis=1)
    assert level[3:].min() > 0.05, "ten milliseconds of silence"
