"""From the pitch curves of the sounding strings to spans, shapes and a description of each note."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from notcher.core.arrays import FloatArray
from notcher.core.hearing.analysis import Analysis
from notcher.core.hearing.attacks import attack_chance, attack_moments
from notcher.core.hearing.pitch import HOP_S, PitchTrack
from notcher.core.hearing.robust import median, percentile
from notcher.core.hearing.segments import Segment, segments, turns, with_damping, with_slides_off
from notcher.core.hearing.shape import Shape, shape_of
from notcher.core.hearing.trust import note_features
from notcher.core.hearing.tuning import offset_cents

STRUCK = 0.5
REST_RANGE, REST_OFF, LEAST_REST_FRAMES, LEAST_RESTS = 0.3, 0.15, 4, 10  # semitones, semitones, frames, notes


@dataclass(frozen=True, slots=True, eq=False)
class SegmentedTrack:
    """One track's notes: span, shape and description of each; features: shape (n_notes, n_features)."""

    track: PitchTrack
    cuts: Sequence[Segment]
    shapes: Sequence[Shape]
    features: FloatArray


def segmented_tracks(found: Analysis) -> tuple[list[SegmentedTrack], float]:
    """Return the notes of every track, the lead first, and how many cents the lead lies off concert pitch."""
    onsets, sound = found.onsets, found.sound
    result: list[SegmentedTrack] = []
    offset = 0.0
    for number, track in enumerate(found.tracks):
        moments = attack_moments(onsets, turns(track))
        chance = attack_chance(moments, track, onsets, sound)
        midi = track.midi
        cuts = segments(track, moments[chance > STRUCK])
        if found.alone:
            cuts = with_damping(cuts, track.level_db)
        cuts = with_slides_off(cuts, midi) if cuts else []
        cuts = [cut for cut in cuts if not np.isnan(midi[cut.first : cut.own_last]).all()]
        if not cuts:
            continue
        if number == 0:
            offset = _offset(midi, cuts)
        shapes = [shape_of(midi[c.first : c.own_last], struck=c.struck, offset_cents=offset) for c in cuts]
        struck = np.zeros(track.times_s.size)
        struck[moments] = chance
        features = note_features(cuts, shapes, track, onsets, sound, struck=struck, rank=number, alone=found.alone)
        result.append(SegmentedTrack(track, cuts, shapes, features))
    return result, offset


def resting_share(segmented: SegmentedTrack, offset: float) -> float:
    """Which share of a track's notes comes to rest on a fret or a bend's target; a speaking voice hardly ever does.

    offset: cents off concert pitch. Returns: 0..1; 1 with too few notes to tell.
    """
    midi, rests = segmented.track.midi - offset / 100, []
    for cut in segmented.cuts:
        late = midi[cut.first + 3 + (cut.own_last - cut.first - 3) // 3 : cut.own_last]
        late = late[~np.isnan(late)]
        if late.size >= LEAST_REST_FRAMES:
            middle = median(late)
            still = percentile(late, 90) - percentile(late, 10) < REST_RANGE
            rests.append(bool(still and abs(middle - round(middle)) < REST_OFF))
    return float(np.mean(rests)) if len(rests) >= LEAST_RESTS else 1.0


def _offset(track_midi: FloatArray, cuts: list[Segment]) -> float:
    """Cents off concert pitch, from the steady second half of notes that hardly move."""
    middles, weights = [], []
    for cut in cuts:
        midi = track_midi[cut.first + 3 : cut.own_last]
        midi = midi[~np.isnan(midi)]
        if midi.size >= 6 and percentile(midi, 90) - percentile(midi, 10) < 0.3:
            middles.append(median(midi))
            weights.append(min(midi.size * HOP_S, 0.6))
    return offset_cents(np.array(middles), np.array(weights))
