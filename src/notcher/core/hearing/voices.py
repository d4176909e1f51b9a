"""Which pitch belongs to which string: tracks that cross, or that take over from one another, are put right.

Tracks are found one after the other, the likeliest pitch first; where another pitch becomes the likelier one they swap.
A string does not: it keeps its pitch or moves on from it. At each break the tracks are dealt out anew so that together
they leap least (the assignment of peaks to trajectories of R. McAulay and T. Quatieri, "Speech analysis/synthesis
based on a sinusoidal representation", IEEE Trans. ASSP 34, 1986, section V, for two or three strings).
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import permutations

import numpy as np
from scipy import ndimage

from notcher.core.arrays import BoolArray, FloatArray
from notcher.core.hearing.pitch import PitchTrack

LEAP = 2.0  # semitones: beyond it a string has been struck anew, and any string may have been
BREAK = 0.5  # semitones from frame to frame that no bend makes
MEMORY = 5  # frames that a string keeps its pitch through a gap
AROUND = 17  # frames, 100 ms: what sounds so near a move sounds beside it
AHEAD = 2  # frames that the middle of these lies after the move
STILL, APART = 0.5, 1.5  # semitones that a held string wanders at most; that it is away at least


@dataclass(frozen=True, slots=True, eq=False)
class Beside:
    """What other strings do: each of shape (n_frames,). sounds: one sounds near; held: one keeps its pitch there."""

    sounds: BoolArray
    held: BoolArray


def beside(track: PitchTrack, tracks: Sequence[PitchTrack]) -> Beside:
    """Return what the other strings do around each frame of one."""
    sounds, still = np.zeros((2, track.times_s.size), dtype=bool)
    for other in tracks:
        if other is track:
            continue
        midi = np.nan_to_num(other.midi, nan=-99.0)
        highest = ndimage.maximum_filter1d(midi, AROUND, origin=-AHEAD)
        lowest = ndimage.minimum_filter1d(midi, AROUND, origin=-AHEAD)
        sounds |= ndimage.maximum_filter1d(midi, AROUND) > 0
        still |= (lowest > 0) & (highest - lowest < STILL) & (np.abs(np.nan_to_num(track.midi) - midi) > APART)
    return Beside(sounds, still)


def settled_voices(tracks: Sequence[PitchTrack]) -> tuple[PitchTrack, ...]:
    """Return the tracks with each pitch on the string that it came from; where nothing tells, they stay as they are."""
    if len(tracks) < 2:
        return tuple(tracks)
    midi = np.stack([track.midi for track in tracks])
    order = _order(midi)
    hertz = np.take_along_axis(np.stack([track.pitch_hz for track in tracks]), order, axis=0)
    voicing = np.take_along_axis(np.stack([track.voicing for track in tracks]), order, axis=0)
    pitch_tracks = [replace(track, pitch_hz=hertz[at], voicing=voicing[at]) for at, track in enumerate(tracks)]
    return (pitch_tracks[0], *(track for track in pitch_tracks[1:] if not np.isnan(track.pitch_hz).all()))


def _order(midi: FloatArray) -> np.ndarray:
    """Return the number of the track that each voice takes at each frame; shapes (n_tracks, n_frames)."""
    count, frames = midi.shape
    ways = [np.array(way) for way in permutations(range(count))]
    same = ways[0]
    order = np.repeat(same[:, None], frames, axis=1)
    voiced = ~np.isnan(midi)
    step = np.abs(np.diff(np.nan_to_num(midi, nan=-99.0), axis=1, prepend=-99.0)) > BREAK
    several = np.convolve(voiced.sum(axis=0) >= 2, np.ones(2 * MEMORY + 1), mode="same") > 0
    way, ordered_until = same, 0
    for frame in np.flatnonzero((step.any(axis=0) & several) | ~voiced.any(axis=0)).tolist():
        order[:, ordered_until:frame] = way[:, None]
        ordered_until = frame
        if not several[frame] or not voiced[:, frame].any():
            way = same
            continue
        held_midi = _held(midi, order, frame)
        way = min(ways, key=lambda some: (_leaps(held_midi, midi[some, frame]), np.count_nonzero(some != same)))
    order[:, ordered_until:] = way[:, None]
    return order


def _held(midi: FloatArray, order: np.ndarray, frame: int) -> FloatArray:
    """Return the pitch that each voice had last, NaN for one that has rested."""
    span = slice(max(0, frame - MEMORY), frame)
    recent = np.take_along_axis(midi[:, span], order[:, span], axis=0)
    result = np.full(midi.shape[0], np.nan)
    for voice, row in enumerate(recent):
        voiced = row[~np.isnan(row)]
        result[voice] = voiced[-1] if voiced.size else np.nan
    return result


def _leaps(held_midi: FloatArray, next_midi: FloatArray) -> float:
    """How far the voices leap together, semitones; one that begins leaps as far as one that is struck anew."""
    leaps = np.minimum(np.nan_to_num(np.abs(next_midi - held_midi), nan=LEAP), LEAP)
    return float(np.round(leaps[~np.isnan(next_midi)].sum(), 2))
