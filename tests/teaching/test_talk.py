"""What is said before a step's rounds names what is there in the music."""

from notcher.core.score import Attack, BeatMap, Note, Phrase, Score, bent_curve
from notcher.core.teaching import StepKind, plan_lesson, talk_words


def solo() -> Score:
    """A phrase with a bend of a step and a half on fret 15 and a shift of nine frets, and a plain one after it."""
    notes = (
        Note(0.0, 0.9, 2, 15, curve=bent_curve(3, 0.9)), Note(1.0, 1.4, 2, 6), Note(1.5, 1.9, 2, 8, Attack.HAMMER),
        Note(2.0, 2.4, 3, 7), Note(4.0, 4.4, 1, 5), Note(4.5, 4.9, 1, 7), Note(5.0, 5.4, 2, 5), Note(5.5, 5.9, 2, 8),
    )  # fmt: skip
    return Score(
        notes, beat_map=BeatMap.steady(120, 0.0), phrases=(Phrase(0.0, 2.5, "Call"), Phrase(4.0, 6.0, "Reply"))
    )


def test_what_is_new_is_told_by_its_place_its_bend_and_its_shift() -> None:
    score = solo()
    plan = plan_lesson(score, minutes=20)
    new = next(step for step in plan.steps if step.kind is StepKind.NEW and not step.listen)
    said = talk_words(new, plan, score)
    assert said[0] == "It begins on string 2, fret 15."
    # fret 15 bent one and a half steps sounds like 18: three frets up (a step is two frets, by definition)
    assert "The bend of 1½ steps on string 2, fret 15 sounds like fret 18." in said
    assert "The hand moves from fret 15 to fret 6." in said
    assert "Not picked: 1 note (hammered)." in said


def test_every_step_has_something_to_say_and_a_join_says_where_it_lies() -> None:
    score = solo()
    plan = plan_lesson(score, minutes=20)
    assert all(talk_words(step, plan, score) for step in plan.steps)
    join = next(step for step in plan.steps if step.kind is StepKind.JOIN)
    assert talk_words(join, plan, score) == ["Watch the join: from string 3, fret 7 to string 1, fret 5."]
