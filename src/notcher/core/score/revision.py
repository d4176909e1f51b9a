"""Named states of a solo, and what changed between two."""

from dataclasses import dataclass
from enum import StrEnum

from notcher.core.score.limits import NAME_CHARS, check_text
from notcher.core.score.note import Note
from notcher.core.score.score import Score

SAME_ONSET_S = 0.06  # notes that begin within this of each other may be the same note, edited
RETIMED_S = 0.02  # less is not worth telling a reader


@dataclass(frozen=True, slots=True)
class Revision:
    """A state that was kept: its name, when (ISO 8601, local time), and the score as it was."""

    name: str
    saved_at: str
    score: Score

    def __post_init__(self) -> None:
        check_text(self.name, NAME_CHARS, "the name of a state")


class ChangeKind(StrEnum):
    """How a note differs from one state to the next."""

    ADDED = "added"
    REMOVED = "removed"
    MOVED = "moved"  # another place
    REBENT = "re-bent"  # another pitch curve or vibrato
    RETIMED = "re-timed"
    CHANGED = "changed"  # anything else that is played


@dataclass(frozen=True, slots=True)
class NoteChange:
    """One difference: what kind, the note before and after (None when there is none)."""

    kind: ChangeKind
    before: Note | None
    after: Note | None

    @property
    def fields(self) -> tuple[str, ...]:
        """Of a changed note, what differs."""
        if self.before is None or self.after is None:
            return ()
        return tuple(name for name in PLAYED if getattr(self.before, name) != getattr(self.after, name))

    @property
    def onset_s(self) -> float:
        note = self.after or self.before
        return note.onset_s if note is not None else 0.0


PLAYED = ("attack", "end", "tone", "raked", "slid_in", "finger", "stroke", "garnish", "slip")
"""What a change of is called "changed"."""


def changes(before: Score, after: Score) -> list[NoteChange]:
    """Return how the second score differs from the first, in time order.

    Notes are paired by id, then by onset and pitch, then by onset alone.
    """
    note_changes = []
    for first, second in _paired(before, after):
        if first is None or second is None:
            note_changes.append(NoteChange(ChangeKind.ADDED if first is None else ChangeKind.REMOVED, first, second))
        elif (kind := _kind(first, second)) is not None:
            note_changes.append(NoteChange(kind, first, second))
    return sorted(note_changes, key=lambda change: change.onset_s)


def _kind(first: Note, second: Note) -> ChangeKind | None:
    if (first.string, first.fret) != (second.string, second.fret):
        return ChangeKind.MOVED
    if first.curve != second.curve or first.vibrato != second.vibrato:
        return ChangeKind.REBENT
    if max(abs(first.onset_s - second.onset_s), abs(first.offset_s - second.offset_s)) > RETIMED_S:
        return ChangeKind.RETIMED
    differs = any(getattr(first, name) != getattr(second, name) for name in PLAYED)
    return ChangeKind.CHANGED if differs else None


def _paired(before: Score, after: Score) -> list[tuple[Note | None, Note | None]]:
    """Pair what is the same note in both; each note belongs to one pair."""
    places = {note.id: index for index, note in enumerate(after.notes)}
    partner = {index: places[note.id] for index, note in enumerate(before.notes) if note.id in places}
    free = set(range(len(after.notes))) - set(partner.values())
    for same_pitch in (True, False):
        for index, note in enumerate(before.notes):
            if index in partner:
                continue
            near = range(after.first_after(note.onset_s - SAME_ONSET_S), after.first_after(note.onset_s + SAME_ONSET_S))
            fits = [
                at
                for at in near
                if at in free and (not same_pitch or before.fretted_midi(note) == after.fretted_midi(after.notes[at]))
            ]
            if fits:
                partner[index] = min(fits, key=lambda at: abs(after.notes[at].onset_s - note.onset_s))
                free.discard(partner[index])
    pairs: list[tuple[Note | None, Note | None]] = [
        (note, after.notes[partner[index]] if index in partner else None) for index, note in enumerate(before.notes)
    ]
    return pairs + [(None, after.notes[index]) for index in sorted(free)]
