"""A pitch curve as plateaus and the moves between them, with every vibrato taken off: what the decoder reads.

Source of the straightening: D. Douglas and T. Peucker, "Algorithms for the reduction of the number of points required
to represent a digitized line", Cartographica 10, 1973.
"""

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from scipy import ndimage

from notcher.core.arrays import BoolArray, FloatArray
from notcher.core.hearing.pitch import HOP_S
from notcher.core.hearing.robust import median

GAP_FRAMES = 5  # 29 ms: a dropout shorter than this is the detector, not the player
SMOOTH_FRAMES = 3  # a median of three takes single octave slips and leaves a corner where it is
TOLERANCE = 0.1  # semitones
STILL_CHANGE, STILL_SLOPE = 0.18, 0.012  # semitones, semitones a frame (2 a second)
LEAP = 0.6  # semitones from frame to frame: more than a finger pushes in 6 ms, less than a fret
LEAP_SLOPE = 0.25  # semitones a frame, 43 a second: fingers bend at up to about 30
EXTREME, HALF_WAVE_S, WAVE_RANGE = 0.1, (0.052, 0.16), (0.12, 2.8)  # semitones, seconds, semitones from top to bottom
BESIDE = 8  # frames: what lies so near a wave is its beginning or its end
LEAST_HALF_WAVES, UNEVEN = 3, 2.6  # one and a half swings; each at most so many times as long as the one before
"""One and a half swings; the longest half wave over the shortest: beyond is no vibrato."""
SQUARE, TRILL_RANGE, OFF_FRET = 0.72, 0.75, 0.17
"""A sine spends 0.59 of its time in the outer two fifths of its range, a trill nearly all."""


@dataclass(frozen=True, slots=True)
class Wave:
    """A vibrato: frames, cycles a second, semitones from the middle to the top."""

    first: int
    last: int
    rate_hz: float
    extent: float


@dataclass(frozen=True, slots=True)
class Unit:
    """A plateau, or a turning point between two moves: frames, its middle pitch, the wave on it, if any."""

    first: int
    last: int
    level: float
    wave: Wave | None = None


@dataclass(frozen=True, slots=True, eq=False)
class Contour:
    """A whole track: units in time order; trend: the pitch without waves, NaN where silent.

    joined: whether each unit is reached from the one before through a move, and not over a silence.
    """

    units: tuple[Unit, ...]
    joined: tuple[bool, ...]
    trend: FloatArray
    waves: tuple[Wave, ...]


def contour(midi: FloatArray) -> Contour:
    """Read a pitch curve. midi: shape (n_frames,), semitones, NaN where silent."""
    units: list[Unit] = []
    joined: list[bool] = []
    waves: list[Wave] = []
    trend = np.full(midi.size, np.nan)
    for first, last in voiced_runs(midi):
        part = _filled(midi[first:last])
        smooth, smoothed = without_waves(part)
        trend[first:last] = smooth
        waves += [Wave(first + w.first, first + w.last, w.rate_hz, w.extent) for w in smoothed]
        run = _units(smooth, smoothed)
        units += [
            Unit(first + u.first, first + u.last, u.level,
                 None if u.wave is None else Wave(first + u.wave.first, first + u.wave.last, u.wave.rate_hz,
                                                  u.wave.extent))
            for u in run
        ]  # fmt: skip
        joined += [number > 0 for number in range(len(run))]
    return Contour(tuple(units), tuple(joined), trend, tuple(waves))


def voiced_runs(midi: FloatArray) -> list[tuple[int, int]]:
    """Return the voiced stretches, gaps of a few frames bridged; frames, the last exclusive. midi: (n_frames,)."""
    padded = np.pad(~np.isnan(midi), GAP_FRAMES)
    mask: BoolArray = ndimage.binary_closing(padded, np.ones(GAP_FRAMES + 1, dtype=bool))[GAP_FRAMES:-GAP_FRAMES]
    return [(a, b) for a, b in runs(mask) if not np.isnan(midi[a:b]).all()]


def runs(mask: BoolArray) -> list[tuple[int, int]]:
    """Return the stretches in which a mask, shape (n_frames,), holds; frames, the last exclusive."""
    edges = np.flatnonzero(np.diff(np.concatenate([[0], mask.astype(np.int8), [0]])))
    return [(int(a), int(b)) for a, b in zip(edges[::2], edges[1::2], strict=True)]


def _filled(part: FloatArray) -> FloatArray:
    voiced = np.flatnonzero(~np.isnan(part))
    filled = np.interp(np.arange(part.size), voiced, part[voiced])
    return np.asarray(ndimage.median_filter(filled, SMOOTH_FRAMES, mode="nearest"))


# --- vibrato ---
def without_waves(pitch: FloatArray) -> tuple[FloatArray, list[Wave]]:
    """Return the pitch with every vibrato replaced by its centre line, and the vibratos.

    pitch: shape (n_frames,), semitones, NaN where unvoiced.
    """
    turns = _turns(pitch)
    waves: list[Wave] = []
    trend = pitch.copy()
    begin = 0
    while begin + LEAST_HALF_WAVES < len(turns):
        end = begin
        while end + 1 < len(turns) and _half_wave(pitch, turns, end, begin):
            end += 1
        if end - begin >= LEAST_HALF_WAVES and not _is_trill(pitch, turns[begin : end + 1]):
            chain = turns[begin : end + 1]
            waves.append(_flattened(pitch, trend, chain))
            begin = end
        else:
            begin = max(end, begin + 1)
    return trend, waves


def _turns(pitch: FloatArray) -> list[int]:
    """Frames of alternating tops and bottoms that differ by more than `EXTREME`."""
    turns: list[int] = []
    way, best = 0, 0
    for frame in range(1, pitch.size):
        value, top = pitch[frame], pitch[best]
        if (way >= 0 and value > top) or (way <= 0 and value < top):
            best = frame
            if way == 0 and abs(value - pitch[0]) > EXTREME:
                way = 1 if value > pitch[0] else -1
        elif way != 0 and abs(value - top) > EXTREME:
            turns.append(best)
            way, best = -way, frame
    return turns


def _half_wave(pitch: FloatArray, turns: list[int], at: int, begin: int) -> bool:
    """Whether the stretch from one turn to the next is half a vibrato's cycle, like those before it."""
    span_s = (turns[at + 1] - turns[at]) * HOP_S
    size = abs(pitch[turns[at + 1]] - pitch[turns[at]])
    if not (HALF_WAVE_S[0] <= span_s <= HALF_WAVE_S[1] and WAVE_RANGE[0] <= size <= WAVE_RANGE[1]):
        return False
    if at == begin:
        return True
    before = abs(pitch[turns[at]] - pitch[turns[at - 1]])
    return bool(1 / UNEVEN <= size / before <= UNEVEN)


def _is_trill(pitch: FloatArray, chain: list[int]) -> bool:
    sizes = np.abs(np.diff(pitch[chain]))
    size = median(sizes)
    if size < TRILL_RANGE or abs(size - round(size)) > OFF_FRET:  # frets lie whole semitones apart
        return False
    outer = []
    for a, b in pairwise(chain):
        low, high = sorted((pitch[a], pitch[b]))
        inside = (pitch[a:b] - low) / max(high - low, 1e-6)
        outer.append(np.mean((inside < 0.2) | (inside > 0.8)))
    return float(np.mean(outer)) > SQUARE


def _flattened(pitch: FloatArray, trend: FloatArray, chain: list[int]) -> Wave:
    """Put the middle of a wave in its place, in `trend`; return the wave."""
    half = round(float(np.mean(np.diff(chain))))
    middles = [((a + b) / 2, (pitch[a] + pitch[b]) / 2) for a, b in pairwise(chain)]
    first, last = max(0, chain[0] - half // 2), min(pitch.size, chain[-1] + half // 2 + 1)
    frames = np.arange(first, last)
    trend[first:last] = np.interp(frames, [at for at, _ in middles], [value for _, value in middles])
    extent = median(np.abs(np.diff(pitch[chain]))) / 2
    return Wave(first, last, 1 / (2 * half * HOP_S), float(extent))


# --- plateaus and moves ---
def _units(trend: FloatArray, waves: list[Wave]) -> list[Unit]:
    """The plateaus of one voiced stretch, and a turning point wherever two moves meet without one."""
    knots = simplified(trend, TOLERANCE)
    pieces = [(a, b, _still(trend, a, b)) for a, b in pairwise(knots)]
    if not pieces:
        return [Unit(0, trend.size, float(trend[0]))]
    merged: list[tuple[int, int, bool]] = []
    for a, b, still in pieces:
        alike = bool(merged) and merged[-1][2] == still
        if alike and still and abs(_middle(trend, *merged[-1][:2]) - _middle(trend, a, b)) < STILL_CHANGE:
            merged[-1] = (merged[-1][0], b, True)
        elif alike and not still and _goes_on(trend, merged[-1][:2], (a, b)):
            merged[-1] = (merged[-1][0], b, False)
        else:
            merged.append((a, b, still))
    units: list[Unit] = []
    for number, (a, b, still) in enumerate(merged):
        if still:
            on = [
                w for w in waves if min(w.last + BESIDE, b + 1) - max(w.first - BESIDE, a) > min(0.5 * (b - a), BESIDE)
            ]
            wave = max(on, key=lambda w: w.extent, default=None)
            units.append(Unit(a, b + 1, _middle(trend, a, b), wave))
            continue
        if number == 0 or not merged[number - 1][2]:
            units.append(Unit(a, a + 1, float(trend[a])))
        if number == len(merged) - 1:
            units.append(Unit(b, b + 1, float(trend[b])))
    return units


def _still(trend: FloatArray, a: int, b: int) -> bool:
    change = abs(trend[b] - trend[a])
    return bool(change < STILL_CHANGE or (change < 2.2 * STILL_CHANGE and change / (b - a) < STILL_SLOPE))


def _goes_on(trend: FloatArray, before: tuple[int, int], after: tuple[int, int]) -> bool:
    """Whether two moves are one: the same way, and not a leap and a push."""
    first, second = ((trend[b] - trend[a]) / (b - a) for a, b in (before, after))
    if first * second <= 0:
        return False
    (slow, _), (quick, way) = sorted(
        ((abs(first), abs(trend[before[1]] - trend[before[0]])), (abs(second), abs(trend[after[1]] - trend[after[0]])))
    )
    return not (quick > LEAP_SLOPE and quick > 3 * slow and way > LEAP)


def _middle(trend: FloatArray, a: int, b: int) -> float:
    return median(trend[a : b + 1])


def simplified(values: FloatArray, tolerance: float) -> list[int]:
    """Return the indices of the fewest points whose straight lines stay within a tolerance.

    values: shape (n,); tolerance: in their unit. Source: D. Douglas and T. Peucker, "Algorithms for the reduction of
    the number of points required to represent a digitized line", Cartographica 10, 1973.
    """
    keep, stack = {0, values.size - 1}, [(0, values.size - 1)]
    while stack:
        first, last = stack.pop()
        if last - first < 2:
            continue
        span = np.arange(first, last + 1)
        line = values[first] + (values[last] - values[first]) * (span - first) / (last - first)
        error = np.abs(values[first : last + 1] - line)
        worst = int(np.argmax(error))
        if error[worst] > tolerance:
            keep.add(first + worst)
            stack += [(first, first + worst), (first + worst, last)]
    return sorted(keep)
