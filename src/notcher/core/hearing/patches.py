"""What a moment sounds like: levels over time and pitch, seen from the pitch that follows.

Partials lie in the same rows whichever note is played, so one small network can tell what a pick, a hammering finger,
a muting hand or a touched harmonic does to them (log-frequency patches as in R. Bittner et al., "Deep salience
representations for F0 estimation", ISMIR 2017).
"""

import math
from collections.abc import Iterator, Sequence

import numpy as np
from scipy import fft

from notcher.core.arrays import FloatArray, IntArray
from notcher.core.hearing.attacks import middle_midi, rise_db
from notcher.core.hearing.onsets import OnsetCurve
from notcher.core.hearing.pitch import HOP, RATE, PitchTrack
from notcher.core.hearing.salience import three_wide

WINDOWS, SIZE = (1024, 384), 2048  # samples: 46 ms to tell partials apart, 17 ms to tell when
BELOW, ABOVE, PER_SEMITONE = 12, 48, 3  # semitones about the pitch
EARLIER, LATER = 12, 32  # frames about the moment: 70 ms before, 186 ms after
LOWEST_MIDI, HIGHEST_MIDI = 16, 125
"""From half of a seven-string's lowest string to the fourth partial of the highest fret."""
ROWS, COLUMNS = BELOW + ABOVE + 1, EARLIER + LATER  # the picture around a moment, with the moment itself
SHAPE = (len(WINDOWS), ROWS, COLUMNS)
AROUND_FRAMES = (-6, -3, 0, 3, 6, 12)  # 35 ms before to 70 ms after: a decay, the attack, how it rings
BLOCK_FRAMES, BLOCK_SAMPLES = 1_024, 65_536  # so that ten minutes take no more memory than one
AT_ONCE = 128  # pictures in one product: the cache holds them


Asked = tuple[IntArray, PitchTrack]
"""Moments of a track: shape (n_moments,), frames, rising."""


def described(
    requests: Sequence[Asked], onsets: OnsetCurve, sound: FloatArray
) -> Iterator[tuple[IntArray, FloatArray, FloatArray]]:
    """Describe the moments of tracks, some at a time, so that the sound is measured once for all.

    sound: shape (n_samples,), at the hearing rate. Yields: which of all that were asked, one track's after the other's,
    shape (n,); patches, shape (n, *SHAPE); what else is known, shape (n, n_values).
    """
    parts = [around(*some, onsets) for some in requests]
    moments = np.concatenate([some for some, _ in requests])
    after, scalars = np.concatenate([part[0] for part in parts]), np.concatenate([part[2] for part in parts])
    scale = _scale(sound)
    sound = sound.astype(np.float32, copy=False)
    order = np.argsort(moments, kind="stable")
    for begun in range(0, moments.size, AT_ONCE):
        which = order[begun : begun + AT_ONCE]
        yield which, _patches(moments[which], after[which], sound, scale), scalars[which]


def around(moments: IntArray, track: PitchTrack, onsets: OnsetCurve) -> tuple[FloatArray, FloatArray, FloatArray]:
    """Return the pitch after and before each moment, MIDI, and scalar features of the track there.

    moments: shape (n_moments,), frames. Returns: two of shape (n_moments,), NaN where unvoiced, and one of shape
    (n_moments, n_features).
    """
    midi, last = track.midi, track.times_s.size - 1
    after, before = middle_midi(midi, moments, 2, 9), middle_midi(midi, moments, -9, -2)
    missing = np.stack([np.isnan(before), np.isnan(after)], axis=1)
    after = np.where(np.isnan(after), middle_midi(midi, moments, 2, 20), after)
    after = np.where(np.isnan(after), np.where(np.isnan(before), 60.0, before), after)
    before = np.where(np.isnan(before), after, before)
    change = np.clip(after - before, -12, 12)[:, None] / 5
    near = np.clip(moments[:, None] + np.array(AROUND_FRAMES), 0, last)
    rise = rise_db(track.level_db)[np.clip(moments, 0, last)][:, None] / 10
    columns = [track.voicing[near], onsets.flux[near], onsets.click[near], rise, change, np.abs(change), missing]
    return after, before, np.concatenate([*columns, after[:, None] / 60 - 1], axis=1).astype(np.float32)


def _scale(sound: FloatArray) -> float:
    """Effective level of what sounds, digital silence left out; block by block, for a long sound is large."""
    blocks = range(0, sound.size, BLOCK_SAMPLES)
    energy = sum(float(np.vdot(part, part)) for part in (sound[at : at + BLOCK_SAMPLES] for at in blocks))
    return math.sqrt(energy / count) if (count := int(np.count_nonzero(sound))) else 1.0


def _patches(moments: IntArray, midi: FloatArray, sound: FloatArray, scale: float) -> FloatArray:
    """Patches of moments that lie close together; the frames between are measured once."""
    result = np.empty((moments.size, *SHAPE), dtype=np.float32)
    first_row = np.rint((midi - BELOW - LOWEST_MIDI) * PER_SEMITONE).astype(np.int64)
    rows = first_row[:, None] + np.arange(ROWS) * PER_SEMITONE
    begun = 0
    while begun < moments.size:
        start = int(moments[begun]) - EARLIER
        ended = int(np.searchsorted(moments, start + BLOCK_FRAMES - COLUMNS, side="right"))
        apart = np.flatnonzero(np.diff(moments[begun:ended]) > COLUMNS)  # nothing is measured where nothing is asked
        ended = begun + 1 + int(apart[0]) if apart.size else max(ended, begun + 1)
        frames = int(moments[ended - 1]) + LATER - start
        columns = moments[begun:ended, None] - EARLIER - start + np.arange(COLUMNS)
        for number, window in enumerate(WINDOWS):
            level = _levels(sound, start, frames, window, scale)
            high = level.shape[1] - 1
            at = np.clip(rows[begun:ended], 0, high)
            part = level[columns[:, None, :], at[:, :, None]]
            outside = (rows[begun:ended] < 0) | (rows[begun:ended] > high)
            part[outside] = level.min()
            result[begun:ended, number] = part
        begun = ended
    return result


def _levels(sound: FloatArray, start: int, frames: int, window: int, scale: float) -> FloatArray:
    """Log levels by frame and third of a semitone, each the greatest within half a semitone."""
    first = (start + np.arange(frames)) * HOP - window // 2
    inside = (first >= 0) & (first + window <= sound.size)
    samples = sound[np.clip(first, 0, max(0, sound.size - window))[:, None] + np.arange(window)] * inside[:, None]
    shape = np.hanning(window).astype(np.float32) * (2 / window)
    magnitude = three_wide(np.abs(fft.rfft(samples * shape, SIZE, axis=1)))
    midi = np.arange(LOWEST_MIDI, HIGHEST_MIDI, 1 / PER_SEMITONE)
    bins = np.minimum(440 * 2 ** ((midi - 69) / 12) * SIZE / RATE, SIZE // 2 - 1.001)
    below, share = bins.astype(np.int64), (bins % 1).astype(np.float32)
    level = np.log10((magnitude[:, below] * (1 - share) + magnitude[:, below + 1] * share) / scale + 1e-4)
    return np.asarray(three_wide(level), dtype=np.float32)
