"""Phrases that are the same, by a mark: A, B, C."""

from collections import Counter

from notcher.core.patterns.shapes import Patterns
from notcher.core.patterns.transpositions import Kind
from notcher.core.score import Score

SAME_SHARE = 0.6  # of the notes of each of two phrases that are the same


def phrase_marks(score: Score, patterns: Patterns) -> dict[str, str]:
    """Return a letter for each phrase, by its id, that is like another one; like phrases have the same.

    patterns: of this score. Moved, with another ending, or note for note: what is common must be most of both.
    """
    spans = {phrase.id: score.notes_of(phrase) for phrase in score.phrases}
    home = {at: phrase_id for phrase_id, span in spans.items() for at in span}
    group = {phrase_id: phrase_id for phrase_id in spans}
    alike: Counter[tuple[str, str]] = Counter()
    for shape in patterns.shapes:
        if shape.kind in (Kind.RHYTHM, Kind.CELL, Kind.SEQUENCE):
            continue
        for again in shape.occurrences[1:]:
            alike.update((home.get(first, ""), home.get(later, "")) for first, later in again.pairs)
    for (first, later), count in alike.items():
        if first and later and first != later:
            longest = max(len(spans[first]), len(spans[later]))
            if count >= SAME_SHARE * longest:
                old, new = group[later], group[first]
                group = {key: new if value == old else value for key, value in group.items()}
    letters: dict[str, str] = {}
    marks = {}
    for phrase_id in spans:
        if sum(value == group[phrase_id] for value in group.values()) > 1:
            letter = letters.setdefault(group[phrase_id], _letter(len(letters)))
            marks[phrase_id] = letter
    return marks


def _letter(number: int) -> str:
    return chr(ord("A") + number % 26) * (1 + number // 26)
