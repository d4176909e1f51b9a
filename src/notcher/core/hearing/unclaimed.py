"""Sound that no note claims: where it is, and what note it would be."""

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from scipy import ndimage

from notcher.core.arrays import BoolArray, FloatArray, IntArray
from notcher.core.hearing.contour import runs
from notcher.core.hearing.evidence import Measured, snapped_to_evidence
from notcher.core.hearing.pitch import HOP_S, PitchTrack
from notcher.core.hearing.segments import Segment, with_damping
from notcher.core.neck import Place, inserted, nearest_place, places
from notcher.core.score import Note, Score

GRACE_S = 0.03  # so much of the sound around a note belongs to it
LEAST_S = 0.06
LONGEST_S = 12.0  # that a note is held
CLAIMS_SEMITONES = 1.2  # on each side of what a note claims; of several strings that sound it claims the one so near
FOLLOWED = 0.5  # of a second string only what is followed so surely
LEAP_SEMITONES, LEAP_FRAMES = 0.7, 3  # a quicker change is another note
FOOT = 10  # percentile: what is bent rests at its lowest
FIRST_PLACE = Place(3, 12)


@dataclass(frozen=True, slots=True)
class Unclaimed:
    """A stretch of measured pitch that no note explains, as one note would. track: which string's it is, 0 the lead.

    fretted_midi: whole semitones. place: where that lives near the note before it.
    """

    track: int
    start_s: float
    end_s: float
    fretted_midi: int
    place: Place


def unclaimed(score: Score, measured: Measured, attacks_s: FloatArray) -> tuple[Unclaimed, ...]:
    """Return what was measured and is neither written nor said not to be the solo's, in time order.

    attacks_s: shape (n,), rising: where a stretch is cut into notes, beside where its pitch leaps.
    """
    found: list[Unclaimed] = []
    for number, track in enumerate(measured.tracks):
        midi = track.midi - measured.offset_cents / 100
        free = _free(score, track, midi, GRACE_S, any_pitch=number == 0)
        pieces = _pieces(track.times_s, midi, free, attacks_s)
        bare = _free(score, track, midi, 0.0, any_pitch=number == 0) if pieces else free
        for begun, ended in pieces:
            first, grown = _grown(begun, ended, midi, bare)
            last = with_damping([Segment(first, grown, grown, struck=True)], track.level_db)[0].last
            fretted = round(float(np.percentile(midi[first:last], FOOT)))
            if _rings_on(score, float(track.times_s[first]), float(midi[first]), attacks_s):
                continue
            if places(fretted, score.tuning):
                start_s, end_s = float(track.times_s[first]), float(track.times_s[last - 1]) + HOP_S
                found.append(Unclaimed(number, start_s, end_s, fretted, _beside(score, fretted, start_s)))
    return tuple(sorted(found, key=lambda one: (one.start_s, one.track)))


def _free(score: Score, track: PitchTrack, midi: FloatArray, grace_s: float, *, any_pitch: bool) -> BoolArray:
    """Frames with a pitch that no note claims.

    grace_s: around each note. any_pitch: a note claims the lead whatever its pitch.
    """
    sounds = ~np.isnan(midi) if any_pitch else ~np.isnan(midi) & (track.voicing > FOLLOWED)
    aside = [one.note for one in score.excluded if one.note is not None]
    notes = [*score.notes, *aside]
    if not notes:
        return sounds
    first = np.searchsorted(track.times_s, [note.onset_s - grace_s for note in notes])
    last = np.searchsorted(track.times_s, [note.offset_s + grace_s for note in notes])
    length = last - first
    # every frame of every note, one after the other
    frames = np.arange(int(length.sum())) - np.repeat(np.cumsum(length) - length, length) + np.repeat(first, length)
    claims = np.ones(frames.size, dtype=bool)
    if not any_pitch:
        base = np.array([score.sounding_midi(note) for note in notes])
        reach = np.array([note.reading.bend_semitones for note in notes])
        low = np.repeat(base + np.minimum(reach, 0) - CLAIMS_SEMITONES, length)
        high = np.repeat(base + np.maximum(reach, 0) + CLAIMS_SEMITONES, length)
        claims = (midi[frames] > low) & (midi[frames] < high)
    sounds[frames[claims]] = False
    return sounds


def _pieces(times_s: FloatArray, midi: FloatArray, free: BoolArray, attacks_s: FloatArray) -> list[tuple[int, int]]:
    """Stretches of free frames, cut where the pitch leaps and at attacks, as first and last frame (exclusive)."""
    apart = np.abs(midi[LEAP_FRAMES:] - midi[:-LEAP_FRAMES])
    leaps = np.zeros(midi.size, dtype=bool)
    leaps[LEAP_FRAMES // 2 : LEAP_FRAMES // 2 + apart.size] = np.nan_to_num(apart) > LEAP_SEMITONES
    steady = ndimage.binary_opening(free & ~leaps, np.ones(LEAP_FRAMES, dtype=bool))
    cuts: IntArray = np.searchsorted(times_s, attacks_s)
    pieces = []
    for first, last in runs(steady):
        inside = cuts[(cuts > first) & (cuts < last)].tolist()
        edges = [first, *inside, last]
        pieces += [(a, b) for a, b in pairwise(edges) if (b - a) * HOP_S >= LEAST_S]
    return pieces


def _grown(first: int, last: int, midi: FloatArray, free: BoolArray) -> tuple[int, int]:
    """A piece with what of its own pitch lies within the grace of its neighbours."""
    most = round(GRACE_S / HOP_S)
    for _ in range(most):
        if first > 0 and free[first - 1] and abs(midi[first - 1] - midi[first]) < LEAP_SEMITONES / LEAP_FRAMES:
            first -= 1
        if last < midi.size and free[last] and abs(midi[last] - midi[last - 1]) < LEAP_SEMITONES / LEAP_FRAMES:
            last += 1
    return first, last


def _rings_on(score: Score, start_s: float, midi: float, attacks_s: FloatArray) -> bool:
    """Whether a stretch is only the end of a note's own sound: it goes on where the note was let go, unstruck."""
    if np.any(np.abs(attacks_s - start_s) < GRACE_S):
        return False
    for index in range(score.first_after(start_s - LONGEST_S), score.first_after(start_s)):
        note = score.notes[index]
        ends = float(score.pitch_at(note, note.duration_s))
        if abs(note.offset_s - start_s) < 2 * GRACE_S and abs(ends - midi) < LEAP_SEMITONES:
            return True
    return False


def _beside(score: Score, fretted_midi: int, start_s: float) -> Place:
    at = score.first_after(start_s) - 1
    near = score.notes[max(at, 0)] if score.notes else None
    where = FIRST_PLACE if near is None else Place(near.string, near.fret)
    return nearest_place(fretted_midi, score.tuning, where)


def with_claim(score: Score, sound: Unclaimed, measured: Measured, *, school: str = "position") -> tuple[Score, int]:
    """Return the score with a note written for what nobody had claimed, and its index.

    Its onset, length, pitch, bend and vibrato are as measured; the solver puts it among its neighbours.
    Raises: PlaceError when its pitch is on no string.
    """
    note = Note(sound.start_s, sound.end_s, sound.place.string, sound.place.fret)
    changed, index = inserted(score, note, float(sound.fretted_midi), school=school)
    return snapped_to_evidence(changed, index, measured), index
