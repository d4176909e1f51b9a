"""A proof as JSON and as lines for a terminal."""

from typing import Any

from notcher.core.proving import Proof
from notcher.core.score import Score


def proof_data(proof: Proof, score: Score) -> dict[str, Any]:
    """Return what `notcher prove --json` prints: every note, the worst doubt first, and what nobody wrote."""
    notes = []
    for one in proof.notes:
        note = score.notes[one.index]
        notes.append(
            {
                "index": one.index,
                "onset_s": round(note.onset_s, 4),
                "string": note.string,
                "fret": note.fret,
                "status": one.status,
                "claimed_cents": one.claimed_cents,
                "measured_cents": one.measured_cents,
                "onset_error_ms": one.onset_error_ms,
                "verdict": one.verdict,
                "doubt": one.doubt,
            }
        )
    unwritten = [
        {"onset_s": round(one.onset_s, 4), "fretted_midi": one.fretted_midi, "doubt": one.doubt}
        for one in proof.unwritten
    ]
    return {"format": "notcher-proof", "version": 1, "notes": notes, "unwritten": unwritten}


def proof_lines(proof: Proof, score: Score) -> list[str]:
    """Return one line for everything left open, worst first, and one that sums up."""
    lines = []
    for one in proof.notes:
        if one.open:
            note = score.notes[one.index]
            lines.append(
                f"{note.onset_s:8.2f} s  string {note.string} fret {note.fret:<2}  {one.status:<8} {one.verdict}"
            )
    for other in proof.unwritten:
        lines.append(f"{other.onset_s:8.2f} s  MIDI {other.fretted_midi:.0f} was heard, and nobody wrote it")
    agrees = sum(one.status == "agrees" for one in proof.notes)
    settled = sum(one.status != "agrees" and not one.open for one in proof.notes)
    more = f", {settled} more were checked by hand or are slips" if settled else ""
    return [*lines, f"{agrees} of {len(proof.notes)} notes agree with the recording{more}."]
