"""Where one phrase ends and the next begins: at rests and after long notes."""

import numpy as np

from notcher.core.score import Phrase, Score

REST_S = 0.28
LONGEST_S, SHORTEST_S = 9.0, 1.0


def phrases_of(score: Score) -> tuple[Phrase, ...]:
    """Cut a solo into phrases of one to nine seconds, at the longest breaths first; numbered in order."""
    notes = score.notes
    if not notes:
        return ()
    spans = _split(0, len(notes), score)
    return tuple(
        Phrase(notes[first].onset_s, max(note.offset_s for note in notes[first:last]), f"Phrase {number}")
        for number, (first, last) in enumerate(spans, start=1)
    )


def _split(first: int, last: int, score: Score) -> list[tuple[int, int]]:
    notes = score.notes[first:last]
    length_s = notes[-1].offset_s - notes[0].onset_s
    if len(notes) < 2 or length_s < 2 * SHORTEST_S:
        return [(first, last)]
    # a breath is the rest after a note, and half as much the note's own length
    onsets = np.array([note.onset_s for note in notes])
    ends = np.maximum.accumulate([note.offset_s for note in notes])
    rest = np.maximum(onsets[1:] - ends[:-1], 0)
    breath = rest + 0.25 * np.diff(onsets)
    inside = (onsets[1:] - onsets[0] >= SHORTEST_S) & (ends[-1] - onsets[1:] >= SHORTEST_S)
    if not inside.any():
        return [(first, last)]
    at = int(np.argmax(np.where(inside, breath, -1))) + 1
    if rest[at - 1] < REST_S and length_s <= LONGEST_S:
        return [(first, last)]
    return _split(first, first + at, score) + _split(first + at, last, score)
