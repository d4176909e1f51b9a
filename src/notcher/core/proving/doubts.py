"""The list of doubts: all that someone has to look at, worst first."""

from bisect import bisect_left
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

from notcher.core.proving.proof import Finding, MissedNote, Proof, Settled, Status
from notcher.core.score import EDGE_S, Aside, Doubt, Excluded, Phrase, Score

IN_DOUBT = 0.3
"""What a note that only its certainty puts in doubt is worth in the list: less than any error that was measured."""


class DoubtState(StrEnum):
    """How a row of the list stands."""

    OPEN = "open"
    IN_DOUBT = "in doubt"
    SLIP = "slip"
    CHECKED = "checked"
    AGREES = "agrees"
    EXCLUDED = "not the solo's"


@dataclass(frozen=True, slots=True)
class ListedDoubt:
    """One row: a claimed note (`finding`), one that nobody wrote (`unwritten`) or that is `excluded`; how it stands.

    worth: 0..1, what the list is ordered by. doubt: what the note itself was doubted for.
    """

    onset_s: float
    end_s: float
    state: DoubtState
    priority: float
    finding: Finding | None = None
    unwritten: MissedNote | None = None
    excluded: Excluded | None = None
    doubt: Doubt | None = None

    @property
    def waiting(self) -> bool:
        """Whether it still has to be looked at."""
        return self.state in (DoubtState.OPEN, DoubtState.IN_DOUBT)


def doubts(proof: Proof, score: Score, *, unwritten_s: float = 0.3) -> tuple[ListedDoubt, ...]:
    """Return every note and every unwritten one, worst first; what is settled comes after all that is not.

    unwritten_s: how much of a heard note is shown.
    """
    rows = [_row(finding, score) for finding in proof.notes]
    rows += [
        ListedDoubt(missed.onset_s, missed.onset_s + unwritten_s, DoubtState.OPEN, missed.doubt, unwritten=missed)
        for missed in proof.unwritten
    ]
    rows += [
        ListedDoubt(aside.onset_s, aside.onset_s + unwritten_s, DoubtState.EXCLUDED, 0.0, excluded=aside)
        for aside in score.excluded
    ]
    return tuple(sorted(rows, key=lambda row: (not row.waiting, -row.priority, row.onset_s)))


@dataclass(frozen=True, slots=True)
class PhraseState:
    """How far a phrase is. open: what in it waits to be looked at. proved: nothing waits, and a person has looked."""

    open: int
    proved: bool


def phrase_states(rows: Sequence[ListedDoubt], score: Score) -> dict[str, PhraseState]:
    """Return how far each phrase is, by its id.

    That nothing was found proves nothing: a person has settled something in the phrase, or says that it is right.
    """
    waiting_s = sorted(row.onset_s for row in rows if row.waiting)
    settled_s = sorted(
        [note.onset_s for note in score.notes if note.checked or note.slip]
        + [aside.onset_s for aside in score.excluded if aside.why is Aside.SAID]
    )
    states = {}
    for phrase in score.phrases:
        waiting, settled = _count_in(waiting_s, phrase), _count_in(settled_s, phrase)
        states[phrase.id] = PhraseState(waiting, not waiting and (phrase.proved or settled > 0))
    return states


def _count_in(times_s: Sequence[float], phrase: Phrase) -> int:
    """How many of some rising times a phrase holds; see `Phrase.holds`."""
    return bisect_left(times_s, phrase.end_s - EDGE_S) - bisect_left(times_s, phrase.start_s - EDGE_S)


def _row(finding: Finding, score: Score) -> ListedDoubt:
    note = score.notes[finding.index]
    doubt = note.doubt if not note.checked else None
    agrees = finding.status is Status.AGREES
    state = DoubtState.OPEN if not agrees else DoubtState.IN_DOUBT if doubt is not None else DoubtState.AGREES
    if finding.settled is not Settled.NOT:
        state = DoubtState(finding.settled)
    priority = finding.doubt if doubt is None else max(finding.doubt, IN_DOUBT)
    return ListedDoubt(note.onset_s, note.offset_s, state, priority, finding, doubt=doubt)
