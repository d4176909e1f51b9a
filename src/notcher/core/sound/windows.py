"""Windows of a sound, silent beyond its ends; a long recording is not copied for them, as padding it would."""

import numpy as np

from notcher.core.arrays import FloatArray, IntArray

BLOCKS = 4_096  # of samples that are squared at once


def stretch_of(sound: FloatArray, first: int, last: int) -> FloatArray:
    """Return the samples from `first` to `last` (exclusive), either of which may lie outside; float32.

    sound: shape (n_samples,).
    """
    part = sound[min(max(first, 0), sound.size) : max(last, 0)].astype(np.float32, copy=False)
    before = min(max(-first, 0), last - first)
    return np.pad(part, (before, last - first - before - part.size))


def frames_of(sound: FloatArray, first: int, last: int, *, hop: int, size: int, lead: int) -> FloatArray:
    """Return the windows of the frames from `first` to `last` (exclusive); shape (last - first, size), float32.

    lead: samples by which a frame's window begins before sample frame * hop.
    """
    begin = first * hop - lead
    part = stretch_of(sound, begin, begin + (last - first - 1) * hop + size)
    return np.lib.stride_tricks.sliding_window_view(part, size)[::hop]


def windows_at(sound: FloatArray, starts: IntArray, size: int) -> FloatArray:
    """Return the windows that begin at some samples; shape (*starts.shape, size)."""
    at = starts[..., None] + np.arange(size)
    inside = (at >= 0) & (at < sound.size)
    return np.where(inside, sound[np.clip(at, 0, sound.size - 1)], np.float32(0.0))


def mean_squares(sound: FloatArray, frames: int, *, hop: int, window: int) -> FloatArray:
    """Return the mean square around each frame; shape (frames,).

    window: samples around frame * hop, a whole number of hops, so that blocks can be summed once.
    """
    blocks, lead = frames + window // hop, window // 2
    squares = np.empty(blocks)
    for first in range(0, blocks, BLOCKS):
        last = min(first + BLOCKS, blocks)
        part = stretch_of(sound, first * hop - lead, last * hop - lead).reshape(-1, hop)
        squares[first:last] = np.einsum("ij,ij->i", part, part, dtype=np.float64)
    sums = np.concatenate([[0.0], np.cumsum(squares)])
    return np.asarray(np.maximum(sums[window // hop :][:frames] - sums[:frames], 0) / window)
