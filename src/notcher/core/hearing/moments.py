"""What a network hears in each moment: an attack or none, what tone, a slide's arrival, a pitch octaves off."""

from dataclasses import dataclass

import numpy as np

from notcher.core.arrays import FloatArray, IntArray
from notcher.core.hearing.network import patch_network
from notcher.core.hearing.onsets import OnsetCurve
from notcher.core.hearing.patches import described
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


def heard_at(moments: IntArray, track: PitchTrack, onsets: OnsetCurve, sound: FloatArray) -> Moments:
    """Judge moments. moments: shape (n,), frames, rising. sound: shape (n_samples,), at the hearing rate."""
    network = patch_network("moment")
    parts = [network.judged(*some) for some in described(moments, track, onsets, sound)]
    sizes = network.answers
    answers = [
        np.concatenate([part[k] for part in parts]) if parts else np.zeros((0, size)) for k, size in enumerate(sizes)
    ]
    attack, tones, slid, slid_in, octave = answers
    return Moments(
        _chance(attack),
        _shares(tones),
        _chance(slid),
        _chance(slid_in),
        _shares(octave),
        np.concatenate(answers, axis=1),
    )


def _chance(values: FloatArray) -> FloatArray:
    return np.asarray(1 / (1 + np.exp(-values[:, 0])))


def _shares(values: FloatArray) -> FloatArray:
    if not values.size:
        return values
    raised = np.exp(values - values.max(axis=1, keepdims=True))
    return np.asarray(raised / raised.sum(axis=1, keepdims=True))
