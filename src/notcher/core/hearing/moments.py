"""What a network hears in each moment: an attack or none, what tone, a slide's arrival, a pitch octaves off."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from notcher.core.arrays import FloatArray, IntArray
from notcher.core.hearing.network import patch_network
from notcher.core.hearing.onsets import OnsetCurve
from notcher.core.hearing.patches import Asked, described
from notcher.core.hearing.pitch import PitchTrack
from notcher.core.score import Tone

TONES = (Tone.NORMAL, Tone.PALM_MUTE, Tone.NATURAL_HARMONIC, Tone.SQUEAL_HARMONIC, Tone.DEAD)
OCTAVES = ("right", "low", "high")
"""Whether the followed pitch is that which sounds, or lies octaves below or above it."""


@dataclass(frozen=True, slots=True, eq=False)
class Moments:
    """Of each moment how likely it is, 0..1, to be an attack, and, if it is one, of each kind of tone, shape
    (n, len(TONES)), and slid into from no fret; if it is none, where a slide arrives; which octave is followed, shape
    (n, len(OCTAVES)). values: all log-odds, shape (n, n_values).
    """

    attack: FloatArray
    tones: FloatArray
    slid: FloatArray
    slid_in: FloatArray
    octave: FloatArray
    values: FloatArray


def heard_at(requests: Sequence[Asked], onsets: OnsetCurve, sound: FloatArray) -> list[Moments]:
    """Judge the moments of each track. sound: shape (n_samples,), at the hearing rate."""
    network = patch_network("moment")
    ends = np.cumsum([moments.size for moments, _ in requests])
    values = np.empty((int(ends[-1]) if ends.size else 0, sum(network.answers)))
    for which, patches, scalars in described(requests, onsets, sound):
        values[which] = np.concatenate(network.judged(patches, scalars), axis=1)
    return [_read(part) for part in np.split(values, ends[:-1])]


def heard_anew(
    moments: IntArray, known_moments: tuple[IntArray, Moments], track: PitchTrack, onsets: OnsetCurve, sound: FloatArray
) -> Moments:
    """Judge moments of which many were judged before.

    moments: shape (n_moments,), frames, rising. known_moments: those, rising, and what was heard there. sound: shape
    (n_samples,), mono at `RATE`.
    """
    before, judged = known_moments
    at = np.minimum(np.searchsorted(before, moments), max(0, before.size - 1))
    same = before[at] == moments if before.size else np.zeros(moments.size, dtype=bool)
    fresh = heard_at([(moments[~same], track)], onsets, sound)[0].values
    values = np.empty((moments.size, fresh.shape[1]))
    values[~same] = fresh
    if same.any():
        values[same] = judged.values[at[same]]
    return _read(values)


def _read(values: FloatArray) -> Moments:
    answers = np.split(values, np.cumsum(patch_network("moment").answers)[:-1], axis=1)
    attack, tones, slid, slid_in, octave = answers
    return Moments(
        _chance(attack),
        _shares(tones),
        _chance(slid),
        _chance(slid_in),
        _shares(octave),
        values,
    )


def _chance(values: FloatArray) -> FloatArray:
    return np.asarray(1 / (1 + np.exp(-values[:, 0])))


def _shares(values: FloatArray) -> FloatArray:
    if not values.size:
        return values
    raised = np.exp(values - values.max(axis=1, keepdims=True))
    return np.asarray(raised / raised.sum(axis=1, keepdims=True))
