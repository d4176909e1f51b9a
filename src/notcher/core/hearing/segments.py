"""One note's frames and how it was reached; where one could begin unheard; where a sound breaks off."""

from dataclasses import dataclass, replace
from itertools import zip_longest

import numpy as np
from numpy.lib.stride_tricks import sliding_window_view
from scipy import ndimage

from notcher.core.arrays import FloatArray, IntArray
from notcher.core.hearing.contour import runs, voiced_runs
from notcher.core.hearing.pitch import PitchTrack

SMOOTH_FRAMES = 3  # as for the contour
STEP_REACH = 2  # frames on each side: a step is over within 4 frames, 23 ms
STEP_SEMITONES = 0.65  # more than a wide vibrato's half, less than a fret
WIDE_REACH = 7  # 41 ms: a slide's corner, not a hammer's
GLIDE_SEMITONES = 0.88  # in 23 ms: 38 semitones a second; fingers bend at up to about 30
STEP_SHARE = 0.72  # of the change over 14 frames, a step makes this much within 4; a bend much less
ARRIVED_SEMITONES = 0.4  # nearer than the next fret
STEEPER = 1.6  # times as steep as it rang before: a hand damps, a string does not by itself
DAMPING_SPAN, LEVEL_AHEAD_FRAMES = 384, 2  # samples, 17 ms; so far it reaches into the next note
DAMPING_FRAMES, DAMPING_DB, LEAST_DROP_DB = 9, 7.0, 10.0  # 7 dB in 52 ms: strings fade by 5 to 40 dB a second


@dataclass(frozen=True, slots=True)
class Segment:
    """Frames first..last (exclusive) of one note; how it was reached: struck, or by a step of so many semitones.

    own_last: up to here the pitch is this note's own; after it the window already hears the next, or a slide leaves.
    from_nowhere: a slide into the note from no fret. slides_away: it leaves by a slide to no fret. damped: the sound
    breaks off at its end instead of fading.
    """

    first: int
    last: int
    own_last: int
    struck: bool
    step: float = 0.0
    slid: bool = False
    from_nowhere: bool = False
    slides_away: bool = False
    damped: bool = False
    repicked: bool = False


def turns(track: PitchTrack) -> IntArray:
    """Return the frames where the pitch steps or a silence ends: where a note could begin without an attack.

    Returns: shape (n_turns,), frames, rising.
    """
    midi = _smoothed(track.midi)
    starts = [first for first, _ in voiced_runs(midi)]
    return np.unique(np.array([*starts, *_steps(midi)], dtype=np.int64))


def with_damping(segments: list[Segment], level_db: FloatArray) -> list[Segment]:
    """End each note where its sound breaks off faster than any string fades, and mark it as damped.

    level_db: shape (n_frames,), of a guitar alone, seen through a window of `DAMPING_SPAN`.
    """
    result = []
    for segment, following in zip_longest(segments, segments[1:]):
        # the window hears the next attack before it begins; before a silence the fall is heard to its end
        joined = following is not None and following.first - segment.last < DAMPING_FRAMES
        own_until = segment.last - segment.first + (-LEVEL_AHEAD_FRAMES if joined else DAMPING_FRAMES)
        level = level_db[segment.first : segment.last + DAMPING_FRAMES]
        if level.size <= DAMPING_FRAMES:  # the recording ends here
            result.append(segment)
            continue
        drop = level[:-DAMPING_FRAMES] - level[DAMPING_FRAMES:]
        # from here on the level only falls, and steeply
        lowest = level[: max(1, own_until)].min()
        past = sliding_window_view(np.pad(level[: drop.size], (DAMPING_FRAMES, 0), mode="edge"), DAMPING_FRAMES + 1)
        before = past.max(axis=1) - level[: drop.size]  # a muted string falls all the time
        sudden = drop > np.maximum(DAMPING_DB, STEEPER * before)
        broken = sudden & (level[: drop.size] - lowest > LEAST_DROP_DB)
        broken[:8] = False
        at = int(np.argmax(broken)) if broken.any() else 0
        own = level[at : max(at + 1, own_until)]
        after = level[at + DAMPING_FRAMES : max(at + 1, own_until)]  # what was stopped does not come back
        back = float(after.max(initial=-np.inf)) > float(level[at]) - DAMPING_DB / 2
        falls_on = at > 0 and float(own.max()) <= float(level[at]) + 3 and not back
        last = segment.first + at + DAMPING_FRAMES // 3
        if falls_on and last < segment.last + 2:
            away = segment.slides_away and last > segment.own_last  # what is let go drops; what slides sounds on
            own_last = min(segment.own_last, last)
            segment = replace(segment, last=min(last, segment.last), own_last=own_last, damped=True, slides_away=away)
        result.append(segment)
    return result


def _smoothed(midi: FloatArray) -> FloatArray:
    """Median over a few frames, so that a single stray frame is no step; silence stays silence."""
    filled = np.where(np.isnan(midi), -1e3, midi)
    middle = ndimage.median_filter(filled, SMOOTH_FRAMES, mode="nearest")
    return np.where(np.isnan(midi) | (middle < -100), np.nan, middle)


def _steps(midi: FloatArray) -> list[int]:
    """Return the frames of arrival of changes of pitch too sudden for a bend."""
    filled = _filled(midi)
    if filled.size <= 2 * WIDE_REACH:
        return []
    near = _change(filled, STEP_REACH)
    wide = _change(filled, WIDE_REACH)
    sudden = (np.abs(near) >= STEP_SEMITONES) & (
        (np.abs(near) >= STEP_SHARE * np.abs(wide)) | (np.abs(near) >= GLIDE_SEMITONES)
    )
    result: list[int] = []
    settled = 0
    for first, last in runs(sudden):
        if first < settled:  # still the same glide
            continue
        before, settled = max(first - STEP_REACH, 0), _settled(filled, last)
        change = float(filled[settled] - filled[before])
        if abs(change) >= STEP_SEMITONES:
            away = np.flatnonzero(np.abs(filled[before : settled + 1] - filled[settled]) >= ARRIVED_SEMITONES)
            result.append(before + int(away[-1]) + 1 if away.size else before)
    return result


def _settled(values: FloatArray, frame: int) -> int:
    """Return the first frame from which the pitch stays longer than a slide rests on a fret; at most 100 ms on."""
    frame = min(frame, values.size - 1)  # the recording may end in the middle of a step
    end = min(frame + 18, values.size - 1)
    while frame < end and np.ptp(values[frame : frame + 6]) > 0.3:
        frame += 1
    return frame


def _change(values: FloatArray, reach: int) -> FloatArray:
    padded = np.pad(values, reach, mode="edge")
    return np.asarray(padded[2 * reach :] - padded[: -2 * reach])


def _filled(midi: FloatArray) -> FloatArray:
    """Hold the last pitch through silence, so that a rest is no step by itself."""
    voiced = ~np.isnan(midi)
    if not voiced.any():
        return np.zeros(0)
    index = np.maximum.accumulate(np.where(voiced, np.arange(midi.size), -1))
    index[index < 0] = int(np.argmax(voiced))
    return np.asarray(midi[index])
