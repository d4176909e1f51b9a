"""A lesson planned beside the practice board, walked through and planned anew, by delivered keys and clicks."""

import time
from dataclasses import replace
from pathlib import Path

import pytest
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QDoubleSpinBox
from pytestqt.qtbot import QtBot

from hands import answer, drag, gone, press, question, settled, walk_to
from notcher.core.formats import Document
from notcher.core.proving import Result
from notcher.core.score import BeatMap, Note, Phrase, Score
from notcher.ui.shell.program import Program
from notcher.ui.state.shell import Bench

NAMES = ("Call", "Answer", "Run")


def solo() -> Score:
    """Three phrases of two bars: two of four notes, and a run of twenty-four that is cut into pieces."""
    notes: list[Note] = []
    for number in range(2):
        notes += [Note(4.0 * number + at, 4.0 * number + at + 0.9, 2 - number, 5 + at) for at in range(4)]
    places = [(string, fret) for string in (4, 3, 2, 1) for fret in (5, 6, 7, 8, 9, 10)]
    notes += [Note(8 + 0.16 * at, 8 + 0.16 * at + 0.15, *place) for at, place in enumerate(places)]
    spans = [Phrase(4.0 * at, 4.0 * at + 3.96, name) for at, name in enumerate(NAMES)]
    return Score(tuple(notes), beat_map=BeatMap.steady(120, 0.0), phrases=tuple(spans), title="Three")


@pytest.fixture
def teaching(program: Program, qtbot: QtBot) -> Program:
    program.open(Document(solo()), None)
    qtbot.waitUntil(lambda: QApplication.focusWidget() is not None, timeout=5_000)
    press("Ctrl+5")
    assert program.bench is Bench.TEACH
    settled(program)
    return program


def planned(program: Program, qtbot: QtBot) -> list[tuple[str, str]]:
    """Plan, and return what each step is and at which pace."""
    press("P")
    settled(program)
    return shown(program)


def minutes(program: Program) -> float:
    rows = program.teach.plan.steps
    items = [rows.topLevelItem(at) for at in range(rows.topLevelItemCount())]
    return sum(float(item.text(5)) for item in items if item is not None and item.text(5))


@pytest.mark.slow
def test_thirty_minutes_are_planned_by_one_key(teaching: Program, qtbot: QtBot) -> None:
    steps = planned(teaching, qtbot)
    assert steps[:4] == [
        ("The whole solo once at full speed", "100 %"),
        ("Call once at full speed", "100 %"),
        ("Call is new", "50 %"),
        ("Call one tempo step up", "60 %"),
    ]
    assert any(words == "The 1st piece of Run, which is long" for words, _ in steps)
    assert steps[-1][0].startswith("To end with, ")
    assert minutes(teaching) == pytest.approx(30, rel=0.05), "within five per cent of what was asked for"
    rows = teaching.teach.plan.steps
    last = rows.topLevelItem(rows.topLevelItemCount() - 1)
    assert last is not None
    assert last.text(0) == "in 20 days"


@pytest.mark.slow
def test_the_lesson_is_walked_step_by_step_and_each_is_played(teaching: Program, qtbot: QtBot) -> None:
    steps = planned(teaching, qtbot)
    press("N")
    press("N")
    assert (teaching.teach.board.row, teaching.teach.board.column) == (0, 1), "Call, at half tempo"
    assert QApplication.focusWidget() is teaching.teach.board
    press("Return")
    qtbot.waitUntil(lambda: teaching.player.loop_span is not None, timeout=10_000)
    phrase = teaching.score.phrases[0]
    assert teaching.player.loop_span == pytest.approx((phrase.start_s, phrase.end_s))
    assert teaching.player.pace == 0.5
    piece = next(at for at, (words, _) in enumerate(steps) if "2nd piece of Run" in words)
    for _ in range(piece - 2):
        press("N")
    press("Return")
    first, last = teaching.teach.plan.plan.steps[piece].piece
    notes = teaching.score.notes
    qtbot.waitUntil(
        lambda: teaching.player.loop_span == pytest.approx((notes[first].onset_s, notes[last].offset_s)), timeout=10_000
    )
    press("C")
    (kept,) = teaching.passes
    assert kept.phrases != (teaching.score.phrases[2].id,), "a piece is not the phrase"
    assert teaching.teach.board._rows[teaching.teach.board.row].ids == kept.phrases, "it has a row of its own"
    press("Shift+N")
    press("Shift+N")
    assert teaching.teach.plan.steps.currentItem().text(1) == steps[piece - 2][0]


@pytest.mark.slow
def test_what_was_clean_makes_another_plan_and_it_lasts(teaching: Program, qtbot: QtBot, tmp_path: Path) -> None:
    before = planned(teaching, qtbot)
    for _ in range(3):
        press("N")
    press("C")  # Call at 60 %
    assert [(mark.pace, mark.result) for mark in teaching.passes] == [(0.6, Result.CLEAN)]
    assert planned(teaching, qtbot) != before
    after = planned(teaching, qtbot)
    assert ("Call goes on where it stood", "60 %") in after
    assert ("Call one tempo step up", "70 %") in after


@pytest.mark.slow
def test_minutes_and_lesson_order_are_chosen_by_keys_and_remembered(teaching: Program, qtbot: QtBot) -> None:
    panel = teaching.teach.plan
    walk_to(panel.minutes)
    press("Ctrl+A")
    QTest.keyClicks(QApplication.focusWidget(), "12")
    press("Tab")
    assert QApplication.focusWidget() is panel.lesson_order
    press("End")
    press("Tab")
    assert QApplication.focusWidget() is panel.button
    press("Return")
    settled(teaching)
    assert panel.steps.topLevelItem(1).text(1) == "Run once at full speed"
    assert minutes(teaching) == pytest.approx(12, rel=0.05)
    assert (teaching.settings.get("lesson_minutes"), teaching.settings.get("lesson_order")) == (12.0, "from-the-end")


def test_without_a_phrase_one_sentence_says_so(program: Program, qtbot: QtBot) -> None:
    program.open(Document(replace(solo(), phrases=())), None)
    press("Ctrl+5")
    press("N")
    assert "P plans one" in program.said
    press("P")
    assert "There is no phrase yet" in program.said
    assert program.teach.plan.plan is None


@pytest.mark.slow
def test_other_phrases_ask_for_another_plan(teaching: Program, qtbot: QtBot) -> None:
    planned(teaching, qtbot)
    press("Ctrl+2")
    press("Ctrl+Alt+P")
    settled(teaching)
    press("Ctrl+5")
    assert teaching.teach.plan.plan is None
    assert "P plans the lesson anew" in teaching.teach.plan.total.text()
    assert planned(teaching, qtbot)


@pytest.mark.slow
def test_the_steps_take_the_arrows_and_nothing_else(teaching: Program, qtbot: QtBot) -> None:
    planned(teaching, qtbot)
    walk_to(teaching.teach.plan.steps)
    press("Down")
    press("Down")
    assert (teaching.teach.board.row, teaching.teach.board.column) == (0, 1)
    press("C")
    assert [mark.pace for mark in teaching.passes] == [0.5]


def rows(program: Program) -> list[str]:
    steps = program.teach.plan.steps
    items = [steps.topLevelItem(at) for at in range(steps.topLevelItemCount())]
    return [f"{item.text(0) if not item.text(2) else ''}{item.text(1)} {item.text(4)}" for item in items if item]


@pytest.mark.slow
def test_steps_are_skipped_lengthened_kept_and_moved_by_keys(teaching: Program, qtbot: QtBot) -> None:
    proposed = planned(teaching, qtbot)
    press("N")
    press("X")
    settled(teaching)
    assert "Call once at full speed" not in [words for words, _ in shown(teaching)]
    assert any(row.startswith("skippedCall once") for row in rows(teaching)), "what is left out stays in view"
    assert minutes(teaching) == pytest.approx(30, rel=0.05)
    before = teaching.teach.plan.step
    assert before is not None
    press("+")
    settled(teaching)
    longer = teaching.teach.plan.step
    assert longer is not None
    assert (longer.key, longer.rounds, longer.locked) == (before.key, before.rounds + 1, True)
    assert f"Call is new {before.rounds + 1} times, kept" in rows(teaching)
    press("K")
    settled(teaching)
    assert teaching.teach.plan.step.locked is False
    press("Alt+Down")
    settled(teaching)
    assert [words for words, _ in shown(teaching)][1:3] == ["Call one tempo step up", "Call is new"]
    assert teaching.teach.plan.step.key == before.key, "the step that was moved is still the chosen one"
    assert minutes(teaching) == pytest.approx(30, rel=0.05)
    press("Shift+P")
    settled(teaching)
    assert shown(teaching) == proposed


def shown(program: Program) -> list[tuple[str, str]]:
    steps = program.teach.plan.steps
    items = [steps.topLevelItem(at) for at in range(steps.topLevelItemCount())]
    return [(item.text(1), item.text(2)) for item in items if item is not None and item.text(2)]


@pytest.mark.slow
def test_a_skipped_step_is_brought_back_where_it_was(teaching: Program, qtbot: QtBot) -> None:
    proposed = planned(teaching, qtbot)
    press("X")
    settled(teaching)
    walk_to(teaching.teach.plan.steps)
    for _ in range(len(teaching.teach.plan.plan.steps)):
        press("Down")
    press("X")
    settled(teaching)
    assert shown(teaching) == proposed


@pytest.mark.slow
def test_a_step_is_dragged_to_another_place(teaching: Program, qtbot: QtBot) -> None:
    proposed = planned(teaching, qtbot)
    press("N")
    press("N")
    steps = teaching.teach.plan.steps
    start, end = (steps.visualItemRect(steps.topLevelItem(at)).center() for at in (2, 4))
    drag(teaching.window, steps.viewport(), start, end)
    settled(teaching)
    assert [words for words, _ in shown(teaching)][4] == "Call is new"
    assert sorted(shown(teaching)) == sorted(proposed), "nothing is lost or doubled"


@pytest.mark.slow
def test_how_loud_a_lesson_is_is_told_once_it_was_measured(teaching: Program, qtbot: QtBot) -> None:
    planned(teaching, qtbot)
    said = teaching.teach.plan.cautions
    assert "NIOSH" not in said.text()
    press("Ctrl+Space")
    finder = question()
    answer("Settings")
    gone(finder)
    dialog = question()
    walk_to(next(box for box in dialog.findChildren(QDoubleSpinBox) if box.accessibleName() == "How loud a lesson is"))
    press("Ctrl+A")
    QTest.keyClicks(QApplication.focusWidget(), "94")
    press("Return")
    gone(dialog)
    assert said.isVisible()
    assert "30 minutes at 94 dB(A) are 50 % of a day's noise (NIOSH 1998)" in said.text()


SPEED = 80.0  # of the loudspeaker and of the lesson's clock


def quick(program: Program) -> None:
    """Let time pass quickly, for the sound and for the clock alike."""
    program.player.speaker._speed = SPEED  # type: ignore[attr-defined]
    program.teaching.runner._clock = lambda: SPEED * time.monotonic()


@pytest.mark.slow
def test_thirty_minutes_run_by_the_footswitch_alone(teaching: Program, qtbot: QtBot) -> None:
    """One foot starts it; every step comes by itself, its rounds are played, and what was done stands there."""
    quick(teaching)
    teaching.settings.set("switch_1", "lesson.run")
    teaching.settings.set("switch_2", "board.clean")
    planned(teaching, qtbot)
    plan = teaching.teach.plan.plan
    press("F9")
    qtbot.waitUntil(
        lambda: teaching.teaching.runner.running is not None and teaching.teaching.runner.running.at == 1,
        timeout=20_000,
    )
    assert teaching.teach.plan.step == plan.steps[1], "the board shows where it is"
    qtbot.waitUntil(lambda: teaching.player.playing, timeout=10_000)
    assert teaching.player.pace == plan.steps[1].pace
    press("F10")
    assert [played.phrases for played in teaching.passes] == [plan.steps[1].phrases]
    qtbot.waitUntil(lambda: not teaching.teaching.runner.runs, timeout=120_000)
    done = teaching.teaching.runner.running
    assert [one.at for one in done.done] == list(range(len(plan.steps)))
    assert all(one.rounds >= plan.steps[one.at].rounds for one in done.done)
    said = teaching.said
    assert f"Done: {len(plan.steps)} of {len(plan.steps)} steps" in said
    assert "planned were 30.0" in said
    row = teaching.teach.plan.steps.topLevelItem(1)
    assert row.text(4) == f"{plan.steps[1].rounds} of {plan.steps[1].rounds}"
    assert " of " in row.text(5), "minutes done beside minutes planned"


@pytest.mark.slow
def test_a_lesson_that_runs_is_skipped_repeated_lengthened_and_ended(teaching: Program, qtbot: QtBot) -> None:
    planned(teaching, qtbot)
    plan = teaching.teach.plan.plan
    press("R")
    assert "No lesson runs" in teaching.said
    press("Shift+Return")
    running = teaching.teaching.runner
    assert running.running.at == 0
    press("N")
    assert running.running.at == 1
    press("E")
    assert running.running.wanted_rounds == plan.steps[1].rounds + 1
    press("R")
    assert (running.running.at, running.running.wanted_rounds) == (1, plan.steps[1].rounds)
    press("Shift+N")
    assert running.running.at == 0
    qtbot.waitUntil(lambda: teaching.player.playing, timeout=10_000)
    assert "step 1 of" in teaching.teach.plan.total.text()
    press("Shift+Return")
    assert not teaching.player.playing
    assert "Done: " in teaching.said
