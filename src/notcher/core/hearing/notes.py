"""From the pitch curves of the sounding strings to spans, shapes and a description of each note."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from notcher.core.arrays import FloatArray
from notcher.core.hearing.analysis import Analysis
from notcher.core.hearing.attacks import attack_moments
from notcher.core.hearing.contour import Contour, contour
from notcher.core.hearing.decoder import FAR_BEHIND, Decoded, Explained, decoded
from notcher.core.hearing.gestures import Way
from notcher.core.hearing.moments import OCTAVES, Moments, heard_anew, heard_at
from notcher.core.hearing.note_contour import NoteContour, claimed_curve, put_where_it_swings
from notcher.core.hearing.pitch import HOP_S, PitchTrack
from notcher.core.hearing.pitch_paths import level_db
from notcher.core.hearing.robust import median, percentile
from notcher.core.hearing.segments import DAMPING_SPAN, Segment, turns, with_damping
from notcher.core.hearing.tremolo import with_tremolo
from notcher.core.hearing.trust import note_features
from notcher.core.hearing.tuning import offset_cents
from notcher.core.hearing.voices import beside
from notcher.core.score import FLAT, Vibrato

BENT_FRAMES, RESTS_FRAMES = 9, 12  # 52 ms: a finger that hammers is quicker; 70 ms: a pluck is sharp for less
CURL, CURL_FROM = (0.22, 0.72), 0.55  # semitones; share of the note
REST_RANGE, REST_OFF, LEAST_REST_FRAMES, LEAST_RESTS = 0.3, 0.15, 4, 10  # semitones, semitones, frames, notes


@dataclass(frozen=True, slots=True, eq=False)
class OtherCut:
    """Another reading of a note: see `decoder.Other`; first, last: frames of the stretch that it explains."""

    cost_delta: float
    first: int
    last: int
    cuts: Sequence[Segment]
    shapes: Sequence[NoteContour]
    at: int


@dataclass(frozen=True, slots=True, eq=False)
class SegmentedTrack:
    """One track's notes: span, shape and description of each; features: shape (n_notes, n_features).

    judged: what is heard at the onset of each note.
    resting: shape (2, n_frames), the middle and the foot of every vibrato in its place, semitones, the recording's
    offset still in them.
    """

    track: PitchTrack
    resting: FloatArray
    cuts: Sequence[Segment]
    shapes: Sequence[NoteContour]
    features: FloatArray
    judged: Moments
    others: Sequence[Sequence[OtherCut]]


def segmented_tracks(analysis: Analysis) -> tuple[list[SegmentedTrack], float]:
    """Return the notes of every track, the lead first, and how many cents the lead lies off concert pitch."""
    onsets, sound = analysis.onsets, analysis.sound
    result: list[SegmentedTrack] = []
    offset = 0.0
    fine = level_db(sound, span=DAMPING_SPAN)
    requests = [(attack_moments(onsets, turns(track)), track) for track in analysis.tracks]
    for number, ((moments, track), there) in enumerate(zip(requests, heard_at(requests, onsets, sound), strict=True)):
        midi = track.midi
        if number == 0:
            offset = _offset(contour(midi))
        there = replace(there, attack=with_tremolo(moments, there.attack, midi))
        low = there.octave[:, OCTAVES.index("low")]
        explained = decoded(
            midi - offset / 100,
            moments,
            there.attack,
            slid=there.slid,
            slid_in=there.slid_in,
            low=low,
            beside=beside(track, analysis.tracks) if analysis.alone else None,
        )
        notes, curve = explained.notes, explained.curve
        cuts = [_segment(note, notes[at - 1] if at else None) for at, note in enumerate(notes)]
        if analysis.alone:
            cuts = with_damping(cuts, fine)
        if not cuts:
            continue
        shapes = [_shape(note, cut, curve) for note, cut in zip(notes, cuts, strict=True)]
        struck = np.zeros(track.times_s.size)
        struck[moments] = there.attack
        cost_delta = np.array(
            [min((other.cost_delta for other in some), default=FAR_BEHIND) for some in explained.others]
        )
        begun = np.array([cut.first for cut in cuts])
        judged = heard_anew(begun, (moments, there), track, onsets, sound)
        features = note_features(
            cuts,
            shapes,
            track,
            onsets,
            sound,
            judged=judged,
            cost_delta=cost_delta,
            struck=struck,
            rank=number,
            alone=analysis.alone,
        )
        result.append(
            SegmentedTrack(track, _resting(curve) + offset / 100, cuts, shapes, features, judged, _others(explained))
        )
    return result, offset


def _others(explained: Explained) -> list[list[OtherCut]]:
    result = []
    for some in explained.others:
        readings = []
        for other in some:
            cuts = [_segment(note, other.notes[at - 1] if at else None) for at, note in enumerate(other.notes)]
            if other.notes[0].way in (Way.LEGATO, Way.SLIDE) and other.first > 0:
                cuts[0] = _segment(other.notes[0], explained.notes[other.first - 1])
            shapes = [_shape(note, cut, explained.curve) for note, cut in zip(other.notes, cuts, strict=True)]
            stretch = explained.notes[other.first].first, explained.notes[other.last - 1].last
            readings.append(OtherCut(other.cost_delta, *stretch, cuts, shapes, other.at))
        result.append(readings)
    return result


def _segment(note: Decoded, before: Decoded | None) -> Segment:
    picked = note.way in (Way.PICK, Way.REPICK)
    left_at = 0.0 if before is None else before.fretted + max(before.bends[-1], 0.0)
    step = 0.0 if picked or before is None or note.way is Way.INTO else note.fretted - left_at
    return Segment(
        note.first,
        note.last,
        max(note.first + 2, min(note.own_last, note.last)),
        picked,
        step,
        note.way is Way.SLIDE,
        note.from_nowhere,
        note.slides_away,
        repicked=note.way is Way.REPICK,
    )


def _shape(note: Decoded, cut: Segment, curve: Contour) -> NoteContour:
    """The claim of a decoded note: flat where nothing bends it, else what was measured."""
    trend = curve.trend[cut.first : cut.own_last]
    voiced = np.flatnonzero(~np.isnan(trend))
    deviation = np.interp(np.arange(trend.size), voiced, trend[voiced]) - note.fretted if voiced.size else np.zeros(1)
    if note.way is Way.INTO:  # the way to its fret is no part of its curve
        on_it = np.flatnonzero(np.abs(deviation) < 0.5)
        deviation[: on_it[0] if on_it.size else 0] = 0.0
    vibrato, wave = None, note.wave
    if wave is not None and wave.last - max(wave.first, cut.first) > 0.5 * (wave.last - wave.first):
        from_s = max(0.0, (wave.first - cut.first) * HOP_S)
        vibrato = Vibrato(from_s, wave.rate_hz, min(400.0, 100 * wave.extent))
    bent = note.direction != 0 or any(bend != 0 for bend in note.bends)
    if vibrato is not None and wave is not None and bent:
        inside = slice(max(0, wave.first - cut.first), wave.last - cut.first)
        vibrato = replace(vibrato, side=put_where_it_swings(deviation, inside, wave))
    curled = not bent and note.way is not Way.LEGATO and _curls(deviation)
    settled = deviation[np.abs(deviation) < 0.5]
    plateau = 0.0 if bent or settled.size < 0.35 * deviation.size else 100 * median(settled)
    if vibrato is not None and abs(plateau - vibrato.extent_cents) < abs(plateau):
        plateau -= vibrato.extent_cents
    return NoteContour(
        note.fretted,
        FLAT
        if not (bent or curled)
        else claimed_curve(deviation, begins_flat=note.direction == 0 and note.bends[0] == 0),
        vibrato,
        plateau,
    )


def _curls(deviation: FloatArray) -> bool:
    """Whether a note that rests on its fret is pushed a little just before it ends."""
    late = deviation[round(CURL_FROM * deviation.size) :]
    early = deviation[: round(CURL_FROM * deviation.size)]
    if late.size < 5 or early.size < 5:
        return False
    top = float(late[-4:-1].max())
    return bool(
        CURL[0] <= top - median(early) <= CURL[1] and top >= float(late.max()) - 0.05 and abs(median(early)) < 0.2
    )


def _resting(curve: Contour) -> FloatArray:
    feet = curve.trend.copy()
    for wave in curve.waves:
        feet[wave.first : wave.last] -= wave.extent
    return np.stack([curve.trend, feet])


def resting_share(segmented: SegmentedTrack, offset: float) -> float:
    """Which share of a track's notes comes to rest on a fret or a bend's target; a speaking voice hardly ever does.

    A vibrato is no unrest: what is looked at is its middle, or its foot. offset: cents off concert pitch. Returns:
    0..1; 1 with too few notes to tell.
    """
    rests = []
    for cut in segmented.cuts:
        late = segmented.resting[:, cut.first + 3 + (cut.own_last - cut.first - 3) // 3 : cut.own_last] - offset / 100
        late = late[:, ~np.isnan(late[0])]
        if late.shape[1] >= LEAST_REST_FRAMES:
            rests.append(any(_rests(row) for row in late))
    return float(np.mean(rests)) if len(rests) >= LEAST_RESTS else 1.0


def _rests(late: FloatArray) -> bool:
    middle = median(late)
    return bool(percentile(late, 90) - percentile(late, 10) < REST_RANGE and abs(middle - round(middle)) < REST_OFF)


def _offset(curve: Contour) -> float:
    """Cents off concert pitch, from plateaus that hardly move; not from those that a bend may have led to."""
    still = [
        (unit, joined and unit.first - before.last >= BENT_FRAMES)
        for before, unit, joined in zip((*curve.units[:1], *curve.units), curve.units, curve.joined, strict=False)
        if unit.wave is None and unit.last - unit.first >= RESTS_FRAMES
    ]
    steady = [unit for unit, moved in still if not moved] or [unit for unit, _ in still]
    levels = np.array([unit.level for unit in steady])
    return offset_cents(levels, np.array([min((unit.last - unit.first) * HOP_S, 0.6) for unit in steady]))
