"""Which notes an edit is about."""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import Any

from notcher.core.score.note import Note
from notcher.core.score.score import Phrase, Score


@dataclass(frozen=True, slots=True)
class Selection:
    """Notes by their ids, in time order, and the one of them that keys act on first; nothing is as good as no note."""

    ids: tuple[str, ...] = ()
    note_id: str = ""

    def note(self, score: Score) -> Note:
        """Return the note that keys act on first. Raises: ValueError when nothing is selected."""
        if not self.note_id:
            raise ValueError("no note is selected")
        return score.note(self.note_id)

    def notes(self, score: Score) -> Iterator[Note]:
        """Yield the selected notes that are there."""
        wanted = set(self.ids)
        return (note for note in score.notes if note.id in wanted)

    def phrase(self, score: Score) -> Phrase:
        """Return the phrase of the note that keys act on first. Raises: ValueError where none lies."""
        phrase = score.phrase_at(self.note(score).onset_s)
        if phrase is None:
            raise ValueError("no phrase lies here")
        return phrase

    def phrase_notes(self, score: Score) -> "Selection":
        """Return the notes of the phrase here; what is selected where there is none."""
        phrase = score.phrase_at(self.note(score).onset_s)
        if phrase is None:
            return self
        return Selection(tuple(score.notes[at].id for at in score.notes_of(phrase)), self.note_id)

    def changed(self, score: Score, **fields: Any) -> Score:
        """Return the score with the same fields of every selected note changed. Raises: ValueError."""
        return score.with_changed({note.id: replace(note, **fields) for note in self.notes(score)})


NO_SELECTION = Selection()
