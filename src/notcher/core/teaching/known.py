"""What the marks of a rung board tell of a student."""

from collections.abc import Mapping, Sequence

from notcher.core.proving import Mark, Result
from notcher.core.score import Score
from notcher.core.teaching.difficulty import Difficulty, difficulties
from notcher.core.teaching.plan import Known
from notcher.core.teaching.rungs import next_rung, results


def known_of(score: Score, marks: Sequence[Mark], asked: Mapping[str, Difficulty] | None = None) -> Known:
    """Return what the marks say: of each phrase that was tried the pace to go on from, and the clean rate of notes.

    The pace is the fastest clean one, else the rung that comes after what was missed. The rate is the greatest that
    was clean anywhere, in notes a second of a phrase's quickest second. asked: as
    `difficulties` tells, where it is known.
    """
    told, paces, rate, limited = tuple(marks), {}, 0.0, False
    asked = difficulties(score) if asked is None else asked
    for phrase in score.phrases:
        tried = results(told, phrase)
        limited |= any(result is not Result.CLEAN for result in tried.values())
        clean = [pace for pace, result in tried.items() if result is Result.CLEAN]
        if clean:
            paces[phrase.id] = max(clean)
            if phrase.id in asked:
                rate = max(rate, paces[phrase.id] * asked[phrase.id].parts.peak_notes_per_s)
        elif tried:
            paces[phrase.id] = next_rung(told, phrase)
    return Known(rate or None, paces, limited=limited)
