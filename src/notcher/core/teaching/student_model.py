"""What the passes of a student tell before a lesson is planned."""

from collections.abc import Mapping, Sequence

import numpy as np

from notcher.core.proving import Result
from notcher.core.score import Score
from notcher.core.teaching.difficulty import Difficulty, difficulties
from notcher.core.teaching.ladder import Pass, clean_pace
from notcher.core.teaching.plan import MOST_ROUNDS, ROUNDS, StudentModel
from notcher.core.teaching.rungs import Tried, tries_of

LEAST_ROUNDS = 2  # once may be luck
RECENT = 10  # passes: what came before tells of somebody who had practised less


def known_of(score: Score, tried: Sequence[Tried], difficulty: Mapping[str, Difficulty] | None = None) -> StudentModel:
    """Return what the passes say: of each phrase the pace to go on from, the clean rate of notes, rounds a rung.

    The pace is the one that is clean by now (`clean_pace`), never above what was clean nor at what was only missed. The
    rate is the greatest that was clean anywhere, in notes a second of a phrase's quickest second. difficulty: as
    `difficulties` tells, where it is known.
    """
    paces, rate, limited, climbed = {}, 0.0, False, []
    difficulty = difficulties(score) if difficulty is None else difficulty
    for phrase in score.phrases:
        passes = tries_of(tried, phrase)
        if not passes:
            continue
        limited |= any(played.result is not Result.CLEAN for played in passes)
        paces[phrase.id] = going_on(passes)
        clean = {played.pace for played in passes if played.result is Result.CLEAN}
        if clean:
            climbed.append(len(passes) / len(clean))
            if phrase.id in difficulty:
                rate = max(rate, paces[phrase.id] * difficulty[phrase.id].parts.peak_notes_per_s)
    # a mark alone is one pass a rung: that tells of no habit
    rounds = float(np.clip(np.mean(climbed), LEAST_ROUNDS, MOST_ROUNDS)) if climbed and max(climbed) > 1 else ROUNDS
    return StudentModel(rate or None, paces, rounds=float(rounds), limited=limited)


def going_on(passes: Sequence[Pass]) -> float:
    """Return the pace to go on from after some passes; there is at least one."""
    passes = passes[-RECENT:]
    estimate = clean_pace(passes).pace
    clean = [played.pace for played in passes if played.result is Result.CLEAN]
    amiss = [played.pace for played in passes if played.result is not Result.CLEAN]
    if not clean:
        return min(estimate, min(amiss) - 0.01)
    reached = max(clean)
    last = next(played for played in reversed(passes) if played.pace == reached)
    # one clean pass among missed ones is luck; without any that went wrong it is all that is known
    return (
        reached
        if last.result is Result.CLEAN and not [pace for pace in amiss if pace <= reached]
        else (min(estimate, reached))
    )
