"""The strings that sound, as pitch curves: the lead, and what is struck together with it.

Each moment offers a few pitches; a small network says how likely each of them is a string of the lead, and the best
path through them is one track (Viterbi, as in M. Mauch and S. Dixon, "pYIN", ICASSP 2014). What a track has taken is
gone for the next.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from notcher.core.arrays import FloatArray, IntArray
from notcher.core.hearing.network import network
from notcher.core.hearing.pitch import HOP, HOP_S, PitchTrack
from notcher.core.hearing.salience import FRAME, LOW_MIDI, PER_SEMITONE, PITCHES, SALIENCE_HOP_S, Salience
from notcher.core.hearing.viterbi import best_path
from notcher.core.sound.windows import mean_squares

JUMP_COST, JUMP_MOST, FREE_SEMITONES = 0.25, 2.5, 0.3
"""For each semitone, at most; a bend moves less than this in a frame and is free."""
SWITCH_COST = 1.5  # voicing changes seldom: a note lasts twenty frames and more
SILENCE_COST = 1.4  # what calling a moment silent costs on top: the end of a note is easily lost in the band
SAME_SEMITONES = 0.6  # more than a vibrato, less than a fret
BLOCK_FRAMES = 2_048  # bounds memory
HINT_ODDS, AGAINST_HINT = 0.97, 0.01  # who points is nearly always right, and may be a little beside it


@dataclass(frozen=True, slots=True)
class Hint:
    """The instructor's word for where the lead is: a range of pitch over a stretch of time."""

    start_s: float
    end_s: float
    low_midi: float
    high_midi: float

    def __post_init__(self) -> None:
        if not (self.start_s < self.end_s and self.low_midi < self.high_midi):
            raise ValueError("a hint spans some time and some pitch")


@dataclass(frozen=True, slots=True, eq=False)
class Likeness:
    """The pitches of each moment and how likely each is the lead's; shapes (n_frames, CANDIDATES)."""

    midi: FloatArray
    chance: FloatArray

    def without(self, midi: FloatArray) -> "Likeness":
        """Return what is left when a track is taken out. midi: shape (n_frames,), NaN where it rests."""
        excluded = np.abs(self.midi - midi[:, None]) < SAME_SEMITONES
        return Likeness(self.midi, np.where(excluded, 0.0, self.chance))


def likeness(spectra: Salience, *, alone: bool) -> Likeness:
    """Judge the peaks of a salience map. alone: no band plays, so what sounds beside a string is a string."""
    judge, midi = network("pitch"), spectra.midi
    chance = np.concatenate(
        [
            judge.chance(peak_features(spectra, first, min(first + BLOCK_FRAMES, len(midi)), alone=alone))
            for first in range(0, len(midi), BLOCK_FRAMES)
        ]
    )
    return Likeness(midi, np.where(np.isnan(midi), 0.0, chance))


def peak_features(spectra: Salience, first: int, last: int, *, alone: bool) -> FloatArray:
    """What the network judges the peaks of some frames by; shape (last - first, CANDIDATES, n_features)."""
    features = spectra.features(first, last)
    return np.concatenate([features, np.full_like(features[..., :1], alone)], axis=2)


def steered(likelihood: Likeness, strength: FloatArray, hints: Sequence[Hint]) -> Likeness:
    """Return the pitches as the instructor's hints leave them: in a hint's time only its range can be the lead.

    strength: shape (n_frames, n_bins), as in `Salience`; the strongest pitch in the range stands in where no peak lies
    there.
    """
    midi, chance = likelihood.midi.copy(), likelihood.chance.copy()
    for hint in hints:
        span = slice(max(0, round(hint.start_s / SALIENCE_HOP_S)), max(0, round(hint.end_s / SALIENCE_HOP_S)) + 1)
        low, high = (
            np.clip(round((m - LOW_MIDI) * PER_SEMITONE), 0, PITCHES - 1) for m in (hint.low_midi, hint.high_midi)
        )
        part = strength[span, int(low) : int(high) + 1]
        if part.size == 0:
            continue
        inside = (midi[span] >= hint.low_midi) & (midi[span] <= hint.high_midi)
        chance[span] = np.where(inside, np.maximum(chance[span], 0.3), AGAINST_HINT)
        bare = ~inside.any(axis=1)
        midi[span, -1] = np.where(bare, LOW_MIDI + (low + part.argmax(axis=1)) / PER_SEMITONE, midi[span, -1])
        best = np.where(bare, midi.shape[1] - 1, chance[span].argmax(axis=1))
        chance[np.arange(chance.shape[0])[span], best] = HINT_ODDS
    return Likeness(midi, chance)


def pitch_path(likelihood: Likeness, *, silence_cost: float = SILENCE_COST) -> IntArray:
    """Return the most likely path: the column of the pitch taken in each frame, -1 where the track rests (Viterbi).

    Returns: shape (n_frames,).
    """
    count = likelihood.midi.shape[1]
    midi = np.nan_to_num(likelihood.midi)
    chance = np.clip(likelihood.chance, 1e-5, 1 - 1e-5)
    local = np.column_stack([-np.log(chance), silence_cost - np.log(1 - chance.max(axis=1))])
    switch = np.full((count + 1, count + 1), SWITCH_COST)
    switch[count, count] = 0.0

    def move(at: IntArray) -> FloatArray:
        cost = np.repeat(switch[None], at.size, axis=0)
        leap = np.maximum(np.abs(midi[at][:, None, :] - midi[at - 1][:, :, None]) - FREE_SEMITONES, 0)
        cost[:, :count, :count] = np.minimum(JUMP_COST * leap, JUMP_MOST)
        return cost

    path = best_path(local, move)
    return np.where(path == count, -1, path)


def path_track(likelihood: Likeness, path: IntArray, level_db: FloatArray) -> PitchTrack:
    """Return a path as a pitch track at the hearing hop. level_db: shape (n_samples // HOP + 1,)."""
    rows = np.arange(path.size)
    midi = np.where(path >= 0, likelihood.midi[rows, path], np.nan)
    chance = np.where(path >= 0, likelihood.chance[rows, path], 0.0)
    frames = np.arange(level_db.size)
    before = np.minimum(frames // 2, path.size - 1)
    after = np.minimum((frames + 1) // 2, path.size - 1)
    joined = np.where(np.abs(midi[before] - midi[after]) < 0.7, (midi[before] + midi[after]) / 2, midi[before])
    return PitchTrack(frames * HOP_S, 440.0 * 2.0 ** ((joined - 69) / 12), chance[before], level_db)


def level_db(sound: FloatArray, *, span: int = FRAME // 2) -> FloatArray:
    """Loudness around each frame of the hearing hop, decibels below full scale; shape (n_samples // HOP + 1,).

    span: samples that are looked at together.
    """
    squares = mean_squares(sound, 1 + sound.size // HOP, hop=HOP, window=span)
    return np.asarray(10 * np.log10(np.maximum(squares, 1e-9)))
