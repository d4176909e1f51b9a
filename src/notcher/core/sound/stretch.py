"""Another pace at the same pitch, or another pitch at the same pace."""

from concurrent.futures import ThreadPoolExecutor

import numpy as np
import pedalboard

from notcher.core.arrays import FloatArray
from notcher.core.errors import CancelCheck, Cancelled, Progress, never_cancelled, no_progress
from notcher.core.sound.clip import Clip

SLOWEST, FASTEST = 0.25, 1.5  # slower is smeared, faster is not practised
SEGMENT_S = 4.0
"""The stretcher's clock drifts inside a long segment (measured 53 ms in 20 s); four seconds hold it under 10 ms."""
FADE_S = 0.25  # two stretched parts part in phase by less than a beat heard
FIRST_S = 0.2  # for one who waits; each further segment is twice as long, up to `SEGMENT_S`


def stretched(
    clip: Clip,
    pace: float,
    *,
    semitones: float = 0.0,
    into: FloatArray | None = None,
    progress: Progress = no_progress,
    cancelled: CancelCheck = never_cancelled,
) -> Clip:
    """Return the clip at `pace` times its speed, its pitch moved; its length is exactly samples / pace, rounded.

    into: an array of that length to fill from the front, for one who listens while the rest is made.
    Raises: ValueError outside 0.25..1.5; Cancelled.
    """
    if not SLOWEST <= pace <= FASTEST:
        raise ValueError(f"pace must lie between {SLOWEST:.0%} and {FASTEST:.0%}")
    if clip.samples.shape[0] == 0 or (pace == 1.0 and not semitones and into is None):
        return clip
    total = round(clip.samples.shape[0] / pace)
    result = np.zeros((total, clip.channels), dtype=np.float32) if into is None else into
    if pace == 1.0 and not semitones:  # faded across itself it would swell at every seam
        result[:] = clip.samples
        progress(1.0)
        return Clip(result, clip.sample_rate, clip.name, clip.groups)
    segment_s, stop, fade = SEGMENT_S if into is None else FIRST_S, 0, 0
    while stop < clip.samples.shape[0]:
        if cancelled():
            raise Cancelled
        first, stop = stop, stop + round(segment_s * clip.sample_rate)
        lead_in, fade = fade, round(min(FADE_S, segment_s) * clip.sample_rate)
        segment_s = min(2 * segment_s, SEGMENT_S)
        piece = clip.samples[first - lead_in : stop + fade]
        slow = _stretched_piece(piece, clip.sample_rate, pace, semitones, clip.groups)
        _cross_fade_in(result, slow, at=round((first - lead_in) / pace), fade=round(lead_in / pace))
        progress(min(1.0, stop / clip.samples.shape[0]))
    return Clip(result, clip.sample_rate, clip.name, clip.groups)


def _stretched_piece(
    piece: FloatArray, sample_rate: int, pace: float, semitones: float, groups: tuple[int, ...]
) -> FloatArray:
    """One piece at the pace. groups: of channels that are one picture, for together a sound's pitch pulls at another's
    (measured: a semitone apart, each ends up 14 cents nearer)."""
    if len(groups) > 1:
        ends = np.cumsum(groups)
        pictures = [piece[:, end - count : end] for count, end in zip(groups, ends, strict=True)]
        with ThreadPoolExecutor(len(pictures)) as pool:  # the stretcher lets other threads run
            sides = pool.map(lambda picture: _stretched_piece(picture, sample_rate, pace, semitones, ()), pictures)
        return np.concatenate(list(sides), axis=1)
    slow = pedalboard.time_stretch(
        np.ascontiguousarray(piece.T),
        float(sample_rate),
        stretch_factor=pace,
        pitch_shift_in_semitones=semitones,
        high_quality=True,
    ).T
    wanted = round(piece.shape[0] / pace)
    if slow.shape[0] < wanted:
        slow = np.pad(slow, ((0, wanted - slow.shape[0]), (0, 0)))
    return np.asarray(slow[:wanted], dtype=np.float32)


def _cross_fade_in(result: FloatArray, piece: FloatArray, *, at: int, fade: int) -> None:
    """Lay a piece over what is there, fading across the first `fade` samples at equal power."""
    piece = piece[: result.shape[0] - at]
    fade = min(fade, piece.shape[0])
    rise = np.sin(np.linspace(0, np.pi / 2, fade, dtype=np.float32))[:, None]
    fall = rise[::-1]
    result[at : at + fade] = result[at : at + fade] * fall + piece[:fade] * rise
    result[at + fade : at + piece.shape[0]] = piece[fade:]
