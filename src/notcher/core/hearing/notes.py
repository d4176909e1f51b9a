"""From the pitch curves of the sounding strings to spans, shapes and a description of each note."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from notcher.core.arrays import FloatArray
from notcher.core.hearing.listen import Listening
from notcher.core.hearing.onsets import OnsetCurve
from notcher.core.hearing.pitch import HOP_S, PitchTrack
from notcher.core.hearing.segments import Segment, segments, turns
from notcher.core.hearing.shape import Shape, shape_of
from notcher.core.hearing.strikes import strike_chance, strike_moments
from notcher.core.hearing.trust import note_features
from notcher.core.hearing.tuning import offset_cents

STRUCK = 0.5


@dataclass(frozen=True, slots=True, eq=False)
class VoiceNotes:
    """One voice's notes: span, shape and description of each; features: shape (n_notes, n_features)."""

    track: PitchTrack
    cuts: Sequence[Segment]
    shapes: Sequence[Shape]
    features: FloatArray


def voice_notes(found: Listening, onsets: OnsetCurve, sound: FloatArray) -> tuple[list[VoiceNotes], float]:
    """Return the notes of every voice, the lead first, and how many cents the lead lies off concert pitch.

    sound: shape (n_samples,), at the hearing rate.
    """
    result: list[VoiceNotes] = []
    offset = 0.0
    for number, track in enumerate(found.voices):
        moments = strike_moments(onsets, turns(track))
        chance = strike_chance(moments, track, onsets, sound)
        midi = track.midi
        cuts = [
            cut
            for cut in segments(track, moments[chance > STRUCK])
            if not np.isnan(midi[cut.first : cut.own_last]).all()
        ]
        if number == 0:
            offset = _offset(midi, cuts)
        if not cuts:
            continue
        shapes = [shape_of(midi[c.first : c.own_last], struck=c.struck, offset_cents=offset) for c in cuts]
        struck = np.zeros(track.times_s.size)
        struck[moments] = chance
        features = note_features(cuts, shapes, track, onsets, sound, struck=struck, voice=number, alone=found.alone)
        result.append(VoiceNotes(track, cuts, shapes, features))
    return result, offset


def _offset(track_midi: FloatArray, cuts: list[Segment]) -> float:
    """Cents off concert pitch, from the steady second half of notes that hardly move."""
    middles, weights = [], []
    for cut in cuts:
        midi = track_midi[cut.first + 3 : cut.own_last]
        midi = midi[~np.isnan(midi)]
        if midi.size >= 6 and np.percentile(midi, 90) - np.percentile(midi, 10) < 0.3:
            middles.append(float(np.median(midi)))
            weights.append(min(midi.size * HOP_S, 0.6))
    return offset_cents(np.array(middles), np.array(weights))
