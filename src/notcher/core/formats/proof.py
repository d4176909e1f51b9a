"""A proof as JSON and as lines for a terminal."""

from typing import Any

from notcher.core.proving import Proof, Status
from notcher.core.score import Score
from notcher.core.words import verdict_words


def proof_data(proof: Proof, score: Score) -> dict[str, Any]:
    """Return what `notcher prove --json` prints: every note, the worst doubt first, and what nobody wrote."""
    notes = []
    for finding in proof.notes:
        note = score.notes[finding.index]
        notes.append(
            {
                "index": finding.index,
                "id": note.id,
                "onset_s": round(note.onset_s, 4),
                "string": note.string,
                "fret": note.fret,
                "status": str(finding.status),
                "claimed_cents": finding.claimed_cents,
                "measured_cents": finding.measured_cents,
                "onset_error_ms": finding.onset_error_ms,
                "verdict": verdict_words(finding, score),
                "doubt": finding.doubt,
            }
        )
    unwritten = [
        {"onset_s": round(unwritten.onset_s, 4), "fretted_midi": unwritten.fretted_midi, "doubt": unwritten.doubt}
        for unwritten in proof.unwritten
    ]
    return {"format": "notcher-proof", "version": 1, "notes": notes, "unwritten": unwritten}


def proof_lines(proof: Proof, score: Score) -> list[str]:
    """Return one line for everything left open, worst first, and one that sums up."""
    lines = []
    for finding in proof.notes:
        if finding.open:
            note = score.notes[finding.index]
            lines.append(
                f"{note.onset_s:8.2f} s  string {note.string} fret {note.fret:<2}  "
                f"{finding.status:<8} {verdict_words(finding, score)}"
            )
    for other in proof.unwritten:
        lines.append(f"{other.onset_s:8.2f} s  MIDI {other.fretted_midi:.0f} was played but is not in the tab")
    agrees = sum(finding.status is Status.AGREES for finding in proof.notes)
    settled = sum(finding.status is not Status.AGREES and not finding.open for finding in proof.notes)
    more = f", {settled} more were checked by hand or are slips" if settled else ""
    return [*lines, f"{agrees} of {len(proof.notes)} notes agree with the recording{more}."]
