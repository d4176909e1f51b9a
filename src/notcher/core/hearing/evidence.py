"""Laying the claim on the evidence: what was measured under a note becomes its curve and vibrato."""

import numpy as np

from notcher.core.hearing.pitch import PitchTrack
from notcher.core.hearing.shape import measured_curve
from notcher.core.score import LEGATO_ATTACKS, Score


def snapped_to_evidence(score: Score, index: int, track: PitchTrack) -> Score:
    """Return the score with a note's curve and vibrato as measured from its own fret.

    Raises: ValueError when no pitch was heard under the note.
    """
    note = score.notes[index]
    midi = track.midi[track.span(note.onset_s, note.offset_s)] - score.tuning.offset_cents / 100
    if midi.size == 0 or np.isnan(midi).all():
        raise ValueError("no pitch was heard under this note")
    struck = note.attack not in LEGATO_ATTACKS
    curve, vibrato = measured_curve(midi - score.sounding_midi(note), struck=struck)
    return score.with_note(index, curve=curve, vibrato=vibrato, doubt="", certainty=1.0)
