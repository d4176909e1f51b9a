"""The list of doubts: all that someone has to look at, worst first."""

from dataclasses import dataclass

from notcher.core.proving.proof import Finding, Proof, Unwritten
from notcher.core.score import Score, midi_to_name

STATES = ("open", "in doubt", "slip", "checked", "agrees")
IN_DOUBT = 0.3


@dataclass(frozen=True, slots=True)
class Doubt:
    """One row: a claimed note or one that nobody wrote, what is said of it, and how it stands (one of `STATES`).

    place: where it is written, or what was heard. worth: 0..1, what the list is ordered by.
    """

    onset_s: float
    end_s: float
    place: str
    words: str
    state: str
    worth: float
    finding: Finding | None = None
    unwritten: Unwritten | None = None

    @property
    def waiting(self) -> bool:
        """Whether it still has to be looked at."""
        return self.state in ("open", "in doubt")


def doubts(proof: Proof, score: Score, *, unwritten_s: float = 0.3) -> tuple[Doubt, ...]:
    """Return every note and every unwritten one, worst first; what is settled comes after all that is not.

    unwritten_s: how much of a heard note is shown.
    """
    rows = [_row(finding, score) for finding in proof.notes]
    for heard in proof.unwritten:
        words = f"{midi_to_name(heard.fretted_midi)} was heard, and nobody wrote it"
        rows.append(
            Doubt(heard.onset_s, heard.onset_s + unwritten_s, "not written", words, "open", heard.doubt, None, heard)
        )
    return tuple(sorted(rows, key=lambda row: (not row.waiting, -row.worth, row.onset_s)))


def _row(finding: Finding, score: Score) -> Doubt:
    note = score.notes[finding.index]
    words, worth, state = finding.verdict, finding.doubt, "open" if finding.status != "agrees" else "agrees"
    if note.doubt and not note.checked:
        words = note.doubt if state == "agrees" else f"{words}; {note.doubt}"
        worth = max(worth, IN_DOUBT)
        state = "in doubt" if state == "agrees" else state
    place = f"string {note.string}, fret {note.fret}"
    return Doubt(note.onset_s, note.offset_s, place, words, finding.settled or state, worth, finding)
