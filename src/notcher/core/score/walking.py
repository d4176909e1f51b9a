"""From note to note: which one is next, by time, by phrase, by beat, by string, by doubt."""

import math

from notcher.core.score.score import Score

ON_BEAT, EARLY_S = 0.05, 0.04  # felt beats; seconds that a note may come before the beat it belongs to


def note_beside(score: Score, note_id: str, by: int) -> str:
    """Return the note so many further on (back where negative); the first or the last at the ends."""
    if not score.notes:
        return ""
    at = score.index_of(note_id)
    index = 0 if at is None else max(0, min(len(score.notes) - 1, at + by))
    return score.notes[index].id


def in_next_phrase(score: Score, note_id: str, by: int) -> str:
    """Return the first note of the next (1) or the previous (-1) phrase; the note itself where there is none."""
    here = score.position(note_id)
    starts = [score.notes_of(phrase).start for phrase in score.phrases]
    later = [start for start in starts if here < start < len(score.notes)]
    earlier = [start for start in starts if start < here]
    at = min(later, default=here) if by > 0 else max(earlier, default=here)
    return score.notes[at].id


def from_next_beat(score: Score, note_id: str, by: int) -> str:
    """Return the first note from the next (1) or the previous (-1) felt beat on. Raises: ValueError without beats."""
    beat_map = score.beat_map
    beat = beat_map.felt(beat_map.quarter(score.note(note_id).onset_s))
    at = math.floor(beat + ON_BEAT) + 1 if by > 0 else math.ceil(beat - ON_BEAT) - 1
    at_s = beat_map.time(beat_map.quarter_of(float(at)))
    return score.notes[min(score.first_after(at_s - EARLY_S), len(score.notes) - 1)].id


def on_other_string(score: Score, note_id: str, direction: int) -> str:
    """Return the note nearest in time on a higher (-1) or lower (+1) string; the note itself where there is none."""
    note = score.note(note_id)
    others = [other for other in score.notes if (other.string - note.string) * direction > 0]
    return min(others, key=lambda other: abs(other.onset_s - note.onset_s), default=note).id


def next_doubtful(score: Score, note_id: str, by: int) -> str:
    """Return the next (1) or the previous (-1) note in doubt, round again after the last; empty where none is."""
    here = score.index_of(note_id)
    here = -1 if here is None else here
    doubtful = [index for index, note in enumerate(score.notes) if note.doubt]
    if not doubtful:
        return ""
    further = [index for index in doubtful if (index > here if by > 0 else index < here)] or doubtful
    return score.notes[further[0] if by > 0 else further[-1]].id
