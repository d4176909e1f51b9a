"""What the recording did under a note: the one answer that the tab draws, snapping writes and proving judges."""

from dataclasses import dataclass, replace

import numpy as np

from notcher.core.arrays import FloatArray
from notcher.core.hearing.note_contour import measured_curve
from notcher.core.hearing.pitch import PitchTrack
from notcher.core.score import LEGATO_ATTACKS, Note, PitchCurve, Score, Vibrato

OTHER_FRET_SEMITONES = 0.6
"""A pitch further than this from the claim is another fret's: more than half a semitone, some wobble allowed."""
LEAST_S = 0.03  # a note that came late is looked at for five frames at least


@dataclass(frozen=True, slots=True, eq=False)
class Measured:
    """What was measured in a recording: a pitch track for each string that sounds, the lead first.

    offset_cents: how far the recording lies off concert pitch.
    """

    tracks: tuple[PitchTrack, ...]
    offset_cents: float = 0.0


@dataclass(frozen=True, slots=True, eq=False)
class Evidence:
    """What was measured under one note. times_s: shape (n,), after its onset. semitones: shape (n,), from its unbent
    pitch, NaN where nothing was heard."""

    times_s: FloatArray
    semitones: FloatArray

    @property
    def known(self) -> bool:
        """Whether any pitch was heard."""
        return bool(np.any(~np.isnan(self.semitones)))


def evidence(score: Score, note: Note, measured: Measured, *, shift_s: float = 0.0, around_s: float = 0.0) -> Evidence:
    """Return what the recording did under a note; of several strings that sound the one closest to the claim.

    shift_s: how much later than written the note was played; it is looked at from there. around_s: how far to look
    before the onset and past the end.
    """
    start_s = note.onset_s + shift_s
    end_s = max(note.offset_s, start_s + LEAST_S)
    unbent = score.sounding_midi(note) + measured.offset_cents / 100
    track = _nearest(note, measured.tracks, start_s, end_s, unbent)
    span = track.span(start_s - around_s, end_s + around_s)
    return Evidence(track.times_s[span] - note.onset_s, track.midi_at(span) - unbent)


def _nearest(note: Note, tracks: tuple[PitchTrack, ...], start_s: float, end_s: float, unbent: float) -> PitchTrack:
    if len(tracks) == 1:
        return tracks[0]

    def fitting(track: PitchTrack) -> int:
        deviation = track.midi_at(track.span(start_s, end_s)) - unbent
        return int(np.sum(np.abs(deviation - claimed(note, deviation.size)) < OTHER_FRET_SEMITONES))

    return max(tracks, key=fitting)


def claimed(note: Note, count: int) -> FloatArray:
    """Return the claim at evenly spaced moments of a note, semitones from its unbent pitch. Returns: shape (count,)."""
    return note.deviation_at(np.linspace(0, note.duration_s, max(count, 1), endpoint=False)[:count])


def measured_gesture(note: Note, under: Evidence) -> tuple[PitchCurve, Vibrato | None]:
    """Return the pitch curve and the vibrato that the evidence under a note amounts to.

    Raises: ValueError when no pitch was heard under it.
    """
    if not under.known:
        raise ValueError("no pitch was heard under this note")
    return measured_curve(under.semitones, struck=note.attack not in LEGATO_ATTACKS)


def snapped_to_evidence(score: Score, note_id: str, measured: Measured, *, shift_s: float = 0.0) -> Score:
    """Return the score with a note's curve and vibrato as measured from its own fret.

    Raises: ValueError when no pitch was heard under the note.
    """
    return score.with_changed({note_id: snapped_note(score, score.note(note_id), measured, shift_s=shift_s)})


def snapped_note(score: Score, note: Note, measured: Measured, *, shift_s: float = 0.0) -> Note:
    """Return a note with its curve and vibrato as measured. Raises: ValueError when no pitch was heard under it."""
    curve, vibrato = measured_gesture(note, evidence(score, note, measured, shift_s=shift_s))
    return replace(note, curve=curve, vibrato=vibrato, doubt=None, certainty=1.0)
