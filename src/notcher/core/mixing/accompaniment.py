"""What a student plays along with: a click, the band of the chord and beat lanes, or the slowed recording."""

from dataclasses import dataclass

import numpy as np

from notcher.core.arrays import FloatArray
from notcher.core.errors import CancelCheck, never_cancelled
from notcher.core.mixing.levels import Levels
from notcher.core.mixing.loop import counted_in
from notcher.core.score import Score, excerpt
from notcher.core.sound import Clip, stretched
from notcher.core.synthesis import backing

ALONG = ("click", "band", "recording", "nothing")
TAIL_S, FADE_S = 1.0, 0.02  # the last chord rings out; no click at the ends
AS_THEY_ARE = Levels()
PARTS = {"click": ("click",), "band": ("strum", "bass", "drums"), "nothing": ()}


@dataclass(frozen=True, slots=True, eq=False)
class Accompaniment:
    """The sound, two channels, and when in it the practised stretch begins and ends, seconds."""

    clip: Clip
    begin_s: float
    end_s: float


def accompaniment(
    score: Score,
    recording: Clip | None,
    start_s: float,
    end_s: float,
    *,
    along: str,
    pace: float = 1.0,
    sample_rate: int = 44_100,
    levels: Levels = AS_THEY_ARE,
    cancelled: CancelCheck = never_cancelled,
) -> Accompaniment:
    """Make what is played along with: a bar of clicks, then one of `ALONG` at a pace.

    Raises: ValueError for another kind, or for the recording where there is none; Cancelled.
    """
    if along not in ALONG:
        raise ValueError(f"one plays along with {', '.join(ALONG)}; not {along!r}")
    if along == "recording" and recording is None:
        raise ValueError("there is no recording to play along with")
    rate = recording.sample_rate if along == "recording" and recording is not None else sample_rate
    lead = levels.click * counted_in(score.beat_map, start_s, pace, rate)
    length_s = (end_s - start_s) / pace
    if along == "recording" and recording is not None:
        slow = stretched(recording.cut(start_s, end_s), pace, cancelled=cancelled)
        body = levels.recording * _both_sides(slow.samples)
    else:
        part = excerpt(score, start_s, end_s, pace=pace)
        level = levels.band if along == "band" else levels.click
        body = level * backing(part, duration_s=length_s, sample_rate=rate, parts=PARTS[along]).samples
    tail = np.zeros((round(TAIL_S * rate), 2), dtype=np.float32)
    body = np.clip(body, -1.0, 1.0).astype(np.float32)
    fade = min(round(FADE_S * rate), body.shape[0])
    body[body.shape[0] - fade :] *= np.linspace(1, 0, fade, dtype=np.float32)[:, None]
    begin_s = lead.shape[0] / rate
    return Accompaniment(Clip(np.concatenate([lead, body, tail]), rate, along), begin_s, begin_s + length_s)


def _both_sides(samples: FloatArray) -> FloatArray:
    return np.repeat(samples, 2, axis=1) if samples.shape[1] == 1 else samples[:, :2]
