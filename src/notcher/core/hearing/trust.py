"""How far each heard note can be trusted, and whether it was slid to.

One description of a note, what is heard at its onset, its steadiness, its neighbours, serves small networks.
"""

from collections.abc import Sequence
from itertools import pairwise

import numpy as np

from notcher.core.arrays import FloatArray
from notcher.core.hearing.frets_between import frets_between
from notcher.core.hearing.moments import Moments
from notcher.core.hearing.network import network
from notcher.core.hearing.note_contour import NoteContour
from notcher.core.hearing.onsets import OnsetCurve
from notcher.core.hearing.patches import around
from notcher.core.hearing.pitch import HOP_S, PitchTrack
from notcher.core.hearing.robust import median
from notcher.core.hearing.segments import Segment

FAR_S = 2.0  # a neighbour further away than this is no neighbour


def note_features(
    cuts: Sequence[Segment],
    shapes: Sequence[NoteContour],
    track: PitchTrack,
    onsets: OnsetCurve,
    sound: FloatArray,
    *,
    judged: Moments,
    cost_delta: FloatArray,
    struck: FloatArray,
    rank: int,
    alone: bool,
) -> FloatArray:
    """Describe each note. judged: what is heard at their onsets.

    behind: shape (n_notes,), nats to the next best reading of each. struck: shape (n_frames,), chance of an attack at
    each frame, 0 where none was looked for. rank: of the track, 0 for the lead.
    Returns: shape (n_notes, n_features), float32.
    """
    onset = np.array([cut.first for cut in cuts], dtype=np.int64)
    scalars = around(onset, track, onsets)[2]
    own = np.array([_own(cut, shape, track, struck) for cut, shape in zip(cuts, shapes, strict=True)])
    first = np.array([cut.first for cut in cuts]) * HOP_S
    last = np.array([cut.last for cut in cuts]) * HOP_S
    pitch = np.array([shape.fretted_midi for shape in shapes], dtype=np.float64)
    gap = np.minimum(first[1:] - last[:-1], FAR_S)
    step = np.clip(np.diff(pitch), -19, 19) / 5
    before = np.stack(
        [np.concatenate([[FAR_S], gap]), np.concatenate([[0], step]), np.abs(np.concatenate([[0], step]))]
    )
    after = np.stack([np.concatenate([gap, [FAR_S]]), np.concatenate([step, [0]]), np.abs(np.concatenate([step, [0]]))])
    scene = np.broadcast_to([float(rank > 0), float(alone)], (len(cuts), 2))
    way = frets_between(cuts, shapes, sound)
    return np.concatenate(
        [judged.values, scalars, own, cost_delta[:, None] / 4, before.T, after.T, scene, way], axis=1
    ).astype(np.float32)


def _own(cut: Segment, shape: NoteContour, track: PitchTrack, struck: FloatArray) -> list[float]:
    voicing, level = track.voicing[cut.first : cut.own_last], track.level_db[cut.first : cut.last]
    inside = struck[cut.first + 6 : cut.last - 2]
    early = level[: max(1, level.size // 3)]
    bends = [b for _, b in shape.curve.points]
    return [
        float(cut.struck),
        float(cut.slid),
        np.clip(cut.step, -19, 19) / 5,
        float(struck[max(0, cut.first - 3) : cut.first + 4].max(initial=0)),
        float(inside.max(initial=0)),
        float(np.log((cut.last - cut.first) * HOP_S)),
        float(voicing.mean()) if voicing.size else 0.0,
        median(voicing) if voicing.size else 0.0,
        float(voicing.min()) if voicing.size else 0.0,
        abs(shape.plateau_cents) / 25,
        max(bends, default=0.0) / 2,
        min(bends, default=0.0) / 2,
        sum(abs(b - a) for a, b in pairwise(bends)) / 2,
        float(shape.vibrato is not None),
        float(early.max() - level[-1]) / 20 if level.size else 0.0,
        float(level.max() - median(level)) / 10 if level.size else 0.0,
    ]


def sureness(features: FloatArray) -> FloatArray:
    """How likely each note is right: its onset to 50 ms and its fret's pitch to the semitone. features: shape
    (n_notes, n_features). Returns: shape (n_notes,), 0 to 1."""
    return network("right").chance(features)
