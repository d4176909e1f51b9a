"""Phrases that are the same, by a mark: A, B, C."""

from notcher.core.patterns.moves import Kind
from notcher.core.patterns.shapes import Patterns
from notcher.core.score import Score

SAME_SHARE = 0.6  # of the notes of each of two phrases that are the same


def phrase_marks(score: Score, found: Patterns) -> dict[str, str]:
    """Return a letter for each phrase, by its id, that is like another one; like phrases have the same.

    found: of this score. Moved, with another ending, or note for note: what is common must be most of both.
    """
    spans = [(phrase.id, score.notes_of(phrase)) for phrase in score.phrases]
    group = {phrase_id: phrase_id for phrase_id, _ in spans}
    for shape in found.shapes:
        if shape.kind in (Kind.RHYTHM, Kind.CELL, Kind.SEQUENCE):
            continue
        told = [_phrase_of(spans, [later for _, later in at.pairs]) for at in shape.occurrences]
        same = [phrase_id for phrase_id in told if phrase_id]
        for phrase_id in same[1:]:
            old, new = group[phrase_id], group[same[0]]
            group = {key: new if value == old else value for key, value in group.items()}
    letters: dict[str, str] = {}
    marks = {}
    for phrase_id, _ in spans:
        if sum(value == group[phrase_id] for value in group.values()) > 1:
            letter = letters.setdefault(group[phrase_id], _letter(len(letters)))
            marks[phrase_id] = letter
    return marks


def _phrase_of(spans: list[tuple[str, range]], notes: list[int]) -> str:
    """The phrase most of whose notes some notes are; empty where there is none."""
    for phrase_id, span in spans:
        if len(span) and sum(at in span for at in notes) >= SAME_SHARE * len(span):
            return phrase_id
    return ""


def _letter(number: int) -> str:
    return chr(ord("A") + number % 26) * (1 + number // 26)
