"""Making a claim fit what was heard: the correction that each finding offers."""

from dataclasses import replace

from notcher.core.hearing import Draft, snapped_to_evidence
from notcher.core.hearing.evidence import OTHER_FRET_SEMITONES
from notcher.core.neck import Place, inserted, moved, nearest_place
from notcher.core.proving.proof import FLAT_SEMITONES, ONSET_S, Finding, MissedNote, Status
from notcher.core.score import Aside, Attack, Excluded, Note, Score, new_id, sounding_with
from notcher.core.score.edits import SHORTEST_S, joined_with_next


def corrected(score: Score, finding: Finding, draft: Draft) -> Score:
    """Return the score with one note's claim made what was heard.

    A note that was not heard goes, a wrong fret becomes the one that sounds, a bend takes the measured curve, an onset
    or an attack the heard one. A note that agrees stays. Raises: ValueError when the evidence cannot be written.
    """
    note = score.note(finding.note_id)
    other = draft.score.notes[finding.partner] if finding.partner is not None else None
    if finding.status is Status.MISSING:
        return score.without([note.id])
    if finding.status is Status.PITCH:
        return _on_heard_pitch(score, finding, draft)
    if finding.status is Status.BEND and not (other is not None and _begins_elsewhere(finding)):
        return snapped_to_evidence(score, note.id, draft.measured, shift_s=finding.shift_s)
    if finding.status in (Status.ONSET, Status.BEND) and other is not None:
        moved_to = score.with_note(note.id, onset_s=other.onset_s, offset_s=_end_from(note, other))
        same = abs(other.reading.bend_semitones - note.reading.bend_semitones) <= FLAT_SEMITONES
        if finding.status is Status.ONSET and same:
            return moved_to
        # late and bent otherwise: one key corrects both, or the next look would find the other
        return snapped_to_evidence(_on_heard_pitch(moved_to, finding, draft), note.id, draft.measured)
    if finding.status is Status.ATTACK:
        return _struck_as_heard(score, note, other)
    return score


def _begins_elsewhere(finding: Finding) -> bool:
    return abs(finding.onset_error_ms or 0.0) > 1000 * ONSET_S


def _on_heard_pitch(score: Score, finding: Finding, draft: Draft) -> Score:
    note = score.note(finding.note_id)
    other = draft.score.notes[finding.partner] if finding.partner is not None else None
    if other is not None:
        midi = draft.score.fretted_midi(other)
        score = score.with_note(note.id, curve=other.curve, vibrato=other.vibrato, tone=other.tone)
    else:
        off = (finding.measured_cents or 0.0) - finding.claimed_cents
        midi = score.fretted_midi(note) + round(off / 100)
    return moved(score, note.id, nearest_place(midi, score.tuning, Place(note.string, note.fret)))


def _end_from(note: Note, other: Note) -> float:
    """A moved note keeps its end where the recording agrees with it, else it takes the heard one."""
    least_s = max(SHORTEST_S, 0.5 * other.duration_s)
    keeps = other.onset_s + least_s < note.offset_s < other.offset_s + ONSET_S
    return note.offset_s if keeps else other.offset_s


def _struck_as_heard(score: Score, note: Note, other: Note | None) -> Score:
    """Take the heard attack; a note that only goes on from the one before on its fret becomes part of it."""
    if other is not None:
        return score.with_note(note.id, attack=other.attack)
    index = score.position(note.id)
    if _sounds_elsewhere(score, index):
        return score.without([note.id])
    before = next((earlier for earlier in reversed(score.notes[:index]) if earlier.string == note.string), None)
    if before is not None and before.leads_to(note):
        if before.fret == note.fret:
            return joined_with_next(score, before.id)
        return score.with_note(note.id, attack=_legato(before, note))
    raise ValueError("its pitch was sounding already, but no note of this string leads to it")


def _sounds_elsewhere(score: Score, index: int) -> bool:
    """Whether a note on another string is claimed to sound this pitch all along."""
    at_s, pitch = score.notes[index].onset_s, score.sounding_midi(score.notes[index])
    return any(
        other.onset_s < at_s and abs(float(score.pitch_at(other, at_s - other.onset_s)) - pitch) < OTHER_FRET_SEMITONES
        for other in sounding_with(score, index)
    )


def _legato(before: Note, note: Note) -> Attack:
    return Attack.HAMMER if note.fret > before.fret else Attack.PULL


def written_in(score: Score, unwritten: MissedNote, draft: Draft, *, style: str = "position") -> tuple[Score, str]:
    """Return the score with a heard note written into it, placed among its neighbours, and the note's id.

    Raises: PlaceError when its pitch is on no string.
    """
    return inserted(score, draft.score.notes[unwritten.partner], unwritten.fretted_midi, style=style)


def exclude(score: Score, unwritten: MissedNote, draft: Draft) -> Score:
    """Return the score with a heard note noted as not the solo's."""
    note = draft.score.notes[unwritten.partner]
    midi = draft.score.sounding_midi(note)
    return replace(score, excluded=(*score.excluded, Excluded(unwritten.onset_s, midi, note=note)))


def taken_in(score: Score, excluded: Excluded, *, style: str = "position") -> tuple[Score, str]:
    """Return the score with what was held to be none of the solo's written into it, and the note's id.

    Raises: ValueError where only its pitch is known; PlaceError when that is on no string.
    """
    if excluded.note is None:
        raise ValueError("of this only the pitch is known; hear the recording again")
    result = replace(score, excluded=tuple(other for other in score.excluded if other != excluded))
    midi = score.fretted_midi(excluded.note) if excluded.why is not Aside.OFF_NECK else excluded.midi
    note = replace(excluded.note, id=new_id(), certainty=1.0, doubt=None)
    return inserted(result, note, midi, style=style)
