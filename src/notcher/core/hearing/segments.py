"""Where one note becomes the next: strikes, steps of pitch without a strike, silences."""

from dataclasses import dataclass, replace

import numpy as np
from scipy import ndimage

from notcher.core.arrays import BoolArray, FloatArray, IntArray
from notcher.core.hearing.pitch import HOP_S, PitchTrack

SHORTEST_S = 0.045
SMOOTH_FRAMES = 3
STEP_REACH = 2  # frames on each side: a step is over within 4 frames, 23 ms
STEP_SEMITONES = 0.65
WIDE_REACH = 7
GLIDE_SEMITONES = 0.88  # in 23 ms: 38 semitones a second; fingers bend at up to about 30
STEP_SHARE = 0.72  # of the change over 14 frames, a step makes this much within 4; a bend much less
SLIDE_FASTEST_S = 0.03
ARRIVED_SEMITONES = 0.4
GAP_S = 0.03
LOOK_AHEAD_FRAMES = 4  # the pitch window reaches this far into the next note
MERGE_S = 0.04
LATE_VOICE_S = 0.06  # a strike is heard before the pitch is sure
PHANTOM_S, PHANTOM_SEMITONES = 0.14, 7.0
FRAGMENT_S = 0.065  # an unstruck scrap right before a strike is the hand leaving


@dataclass(frozen=True, slots=True)
class Segment:
    """Frames first..last (exclusive) of one note; how it was reached: struck, or by a step of so many semitones.

    own_last: up to here the pitch is this note's own; after it the window already hears the next, or a slide leaves.
    """

    first: int
    last: int
    own_last: int
    struck: bool
    step: float = 0.0
    slid: bool = False


@dataclass(frozen=True, slots=True)
class _Step:
    """A change of pitch too quick for a bend: from frame, to frame, semitones, frame of arrival."""

    first: int
    last: int
    semitones: float
    arrival: int

    @property
    def slid(self) -> bool:
        """Whether frets in between could be heard: a leap is over at once, a slide takes a while for each fret."""
        span_s = (self.arrival - self.first) * HOP_S
        return abs(self.semitones) > 1.4 and span_s > SLIDE_FASTEST_S + 0.006 * abs(self.semitones)


def turns(track: PitchTrack) -> IntArray:
    """Return the frames where the pitch steps or a silence ends: where a note could begin without being heard to."""
    midi = _smoothed(track.midi)
    starts = [first for first, _ in _runs(_bridged(~np.isnan(midi), round(GAP_S / HOP_S)))]
    return np.unique(np.array([*starts, *(step.arrival for step in _steps(midi))], dtype=np.int64))


def segments(track: PitchTrack, strikes: IntArray) -> list[Segment]:
    """Cut a pitch track into notes, in time order. strikes: frames, rising."""
    midi = _smoothed(track.midi)
    voiced = _bridged(~np.isnan(midi), round(GAP_S / HOP_S))
    steps = _steps(midi)
    found: list[Segment] = []
    for first, last in _runs(voiced):
        inside = [int(s) for s in strikes if first - round(LATE_VOICE_S / HOP_S) <= s < last - 2]
        within = [step for step in steps if first <= step.first and step.last <= last]
        found += _cut_run(first, last, inside, within)
    found = _without_phantoms(found, midi)
    return [one for one in found if (one.last - one.first) * HOP_S >= SHORTEST_S * (0.8 if one.struck else 1)]


def _without_phantoms(found: list[Segment], midi: FloatArray) -> list[Segment]:
    """Give short unstruck scraps far below both neighbours to the note after them.

    While one note still rings under the next, their common period is that of a pitch far below both.
    """
    pitch = [_middle(midi[one.first : one.own_last]) for one in found]
    kept: list[Segment] = []
    begin: int | None = None
    for index, one in enumerate(found):
        inner = 0 < index < len(found) - 1 and not one.struck and not found[index + 1].struck
        short = (one.last - one.first) * HOP_S < PHANTOM_S
        if inner and short and min(pitch[index - 1], pitch[index + 1]) - pitch[index] > PHANTOM_SEMITONES:
            begin = one.first if begin is None else begin
            continue
        if begin is not None:
            before = _middle(midi[kept[-1].first : kept[-1].own_last]) if kept else pitch[index]
            one = replace(one, first=begin, step=pitch[index] - before, slid=False)
            begin = None
        kept.append(one)
    return kept


def _middle(midi: FloatArray) -> float:
    return float(np.nanmedian(midi)) if midi.size and not np.isnan(midi).all() else 0.0


def _near(strike: int, step: _Step) -> bool:
    merge = round(MERGE_S / HOP_S)
    return step.first - merge <= strike <= step.last + merge


def _cut_run(first: int, last: int, strikes: list[int], steps: list[_Step]) -> list[Segment]:
    merge = round(MERGE_S / HOP_S)
    marks: list[tuple[int, bool, float, bool]] = [(strike, True, 0.0, False) for strike in strikes]
    for step in steps:
        if not any(_near(strike, step) for strike in strikes):
            marks.append((step.arrival, False, step.semitones, step.slid))
    marks.sort()
    if not marks or marks[0][0] > first + merge:
        marks.insert(0, (first, False, 0.0, False))
    marks = [
        mark
        for mark, following in zip(marks, [*marks[1:], (10**9, False, 0.0, False)], strict=True)
        if mark[1] or not following[1] or (following[0] - mark[0]) * HOP_S > FRAGMENT_S
    ]
    cuts = [mark[0] for mark in marks[1:]] + [last]
    leaves = {step.arrival: step.first - STEP_REACH for step in steps}
    return [
        Segment(
            max(at, 0),
            cut,
            max(at + 3, min(leaves.get(cut, cut), cut - LOOK_AHEAD_FRAMES)) if cut != last else cut,
            struck,
            semitones,
            slid,
        )
        for (at, struck, semitones, slid), cut in zip(marks, cuts, strict=True)
        if cut > at
    ]


def _smoothed(midi: FloatArray) -> FloatArray:
    """Median over a few frames, so that a single stray frame is no step; silence stays silence."""
    filled = np.where(np.isnan(midi), -1e3, midi)
    middle = ndimage.median_filter(filled, SMOOTH_FRAMES, mode="nearest")
    return np.where(np.isnan(midi) | (middle < -100), np.nan, middle)


def _bridged(voiced: BoolArray, frames: int) -> BoolArray:
    """Close gaps of up to `frames` between voiced stretches."""
    padded = np.pad(voiced, frames)
    return np.asarray(ndimage.binary_closing(padded, np.ones(frames + 1, dtype=bool))[frames:-frames])


def _runs(mask: BoolArray) -> list[tuple[int, int]]:
    edges = np.flatnonzero(np.diff(np.concatenate([[0], mask.astype(np.int8), [0]])))
    return [(int(a), int(b)) for a, b in zip(edges[::2], edges[1::2], strict=True)]


def _steps(midi: FloatArray) -> list[_Step]:
    """Find changes of pitch too sudden for a bend."""
    filled = _filled(midi)
    if filled.size <= 2 * WIDE_REACH:
        return []
    near = _change(filled, STEP_REACH)
    wide = _change(filled, WIDE_REACH)
    sudden = (np.abs(near) >= STEP_SEMITONES) & (
        (np.abs(near) >= STEP_SHARE * np.abs(wide)) | (np.abs(near) >= GLIDE_SEMITONES)
    )
    found: list[_Step] = []
    settled = 0
    for first, last in _runs(sudden):
        if first < settled:  # still the same glide
            continue
        before, settled = max(first - STEP_REACH, 0), _settled(filled, last)
        change = float(filled[settled] - filled[before])
        if abs(change) >= STEP_SEMITONES:
            away = np.flatnonzero(np.abs(filled[before : settled + 1] - filled[settled]) >= ARRIVED_SEMITONES)
            found.append(_Step(first, settled, change, before + int(away[-1]) + 1 if away.size else before))
    return found


def _settled(values: FloatArray, frame: int) -> int:
    """Return the first frame from which the pitch stays longer than a slide rests on a fret; at most 100 ms on."""
    end = min(frame + 18, values.size - 1)
    while frame < end and np.ptp(values[frame : frame + 6]) > 0.3:
        frame += 1
    return frame


def _change(values: FloatArray, reach: int) -> FloatArray:
    padded = np.pad(values, reach, mode="edge")
    return np.asarray(padded[2 * reach :] - padded[: -2 * reach])


def _filled(midi: FloatArray) -> FloatArray:
    """Hold the last pitch through silence, so that a rest is no step by itself."""
    known = ~np.isnan(midi)
    if not known.any():
        return np.zeros(0)
    index = np.maximum.accumulate(np.where(known, np.arange(midi.size), -1))
    index[index < 0] = int(np.argmax(known))
    return np.asarray(midi[index])
