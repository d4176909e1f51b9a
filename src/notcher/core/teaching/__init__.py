"""Lessons by computation: loops with a count-in, the rungs of a phrase."""

from notcher.core.teaching.accompaniment import ALONG, Accompaniment, accompaniment
from notcher.core.teaching.difficulty import Difficulty, Guitar, difficulties
from notcher.core.teaching.easing import LEVELS, easier, over_easy, target_ids
from notcher.core.teaching.known import known_of
from notcher.core.teaching.ladder import (
    CleanPace,
    Course,
    Pass,
    Steps,
    clean_pace,
    course,
    next_pace,
)
from notcher.core.teaching.levels import Levels
from notcher.core.teaching.loop import Loop, LoopUnderway, Passage, make_loop
from notcher.core.teaching.moving import Move, moved_lick, over_chord
from notcher.core.teaching.plan import NOTHING_KNOWN, Known, Plan, PlanError, School, Step, pieces, plan_lesson
from notcher.core.teaching.plan_data import plan_data, plan_lines
from notcher.core.teaching.rungs import RUNG_PACES, BoardRow, board_rows, next_rung, results, with_mark
from notcher.core.teaching.variations import (
    NONE_REFUSED,
    OtherNote,
    Otherwise,
    Refused,
    Variation,
    Varied,
    Vary,
    as_variant,
    derived,
    differs_from,
    put_back,
)
from notcher.core.teaching.words import (
    caution_words,
    difficulty_words,
    later_words,
    other_note_words,
    row_name,
    step_words,
    variation_words,
)

__all__ = [
    "ALONG",
    "LEVELS",
    "NONE_REFUSED",
    "NOTHING_KNOWN",
    "RUNG_PACES",
    "Accompaniment",
    "BoardRow",
    "CleanPace",
    "Course",
    "Difficulty",
    "Guitar",
    "Known",
    "Levels",
    "Loop",
    "LoopUnderway",
    "Move",
    "OtherNote",
    "Otherwise",
    "Pass",
    "Passage",
    "Plan",
    "PlanError",
    "Refused",
    "School",
    "Step",
    "Steps",
    "Variation",
    "Varied",
    "Vary",
    "accompaniment",
    "as_variant",
    "board_rows",
    "caution_words",
    "clean_pace",
    "course",
    "derived",
    "differs_from",
    "difficulties",
    "difficulty_words",
    "easier",
    "known_of",
    "later_words",
    "make_loop",
    "moved_lick",
    "next_pace",
    "next_rung",
    "other_note_words",
    "over_chord",
    "over_easy",
    "pieces",
    "plan_data",
    "plan_lesson",
    "plan_lines",
    "put_back",
    "results",
    "row_name",
    "step_words",
    "target_ids",
    "variation_words",
    "with_mark",
]
