"""Where one note becomes the next: attacks, steps of pitch without an attack, silences."""

from dataclasses import dataclass, replace

import numpy as np
from scipy import ndimage

from notcher.core.arrays import BoolArray, FloatArray, IntArray
from notcher.core.hearing.pitch import HOP_S, PitchTrack
from notcher.core.hearing.robust import median

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
LATE_VOICE_S = 0.06  # an attack is heard before the pitch is sure
PHANTOM_S, PHANTOM_SEMITONES = 0.14, 7.0
LOST_FRAMES = 14
QUIET_FRAMES = 10  # 58 ms
SLIDE_OFF_S, LEAST_SLIDE_OFF = 0.16, 2.0  # seconds, semitones
LONGEST_SCRAP_S = 0.28  # the last fret of a slide off still rings a little
DAMPING_FRAMES, DAMPING_DB, LEAST_DROP_DB = 9, 7.0, 12.0  # 7 dB in 52 ms: strings fade by 5 to 40 dB a second
LONGEST_STAIR_S, MOST_STAIR = 0.055, 2.5  # a trill's quickest notes last 60 ms and turn back
FRAGMENT_S = 0.065  # an unstruck scrap right before an attack is the hand leaving


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


def segments(track: PitchTrack, attacks: IntArray) -> list[Segment]:
    """Cut a pitch track into notes, in time order. attacks: frames, rising."""
    midi = _smoothed(track.midi)
    voiced = _bridged(~np.isnan(midi), round(GAP_S / HOP_S))
    steps = _steps(midi)
    found: list[Segment] = []
    for first, last in _runs(voiced):
        inside = [int(s) for s in attacks if first - round(LATE_VOICE_S / HOP_S) <= s < last - 2]
        within = [step for step in steps if first <= step.first and step.last <= last]
        found += _cut_run(first, last, inside, within)
    found = _with_slides_in(_without_stairs(_without_phantoms(found, midi)), midi)
    return [
        segment
        for segment in found
        if (segment.last - segment.first) * HOP_S >= SHORTEST_S * (0.8 if segment.struck else 1)
    ]


def _without_phantoms(found: list[Segment], midi: FloatArray) -> list[Segment]:
    """Give short unstruck scraps far below both neighbours to the note after them.

    While one note still rings under the next, their common period is that of a pitch far below both.
    """
    pitch = [_middle(midi[segment.first : segment.own_last]) for segment in found]
    kept: list[Segment] = []
    begin: int | None = None
    for index, segment in enumerate(found):
        inner = 0 < index < len(found) - 1 and not segment.struck and not found[index + 1].struck
        short = (segment.last - segment.first) * HOP_S < PHANTOM_S
        if inner and short and min(pitch[index - 1], pitch[index + 1]) - pitch[index] > PHANTOM_SEMITONES:
            begin = segment.first if begin is None else begin
            continue
        if begin is not None:
            before = _middle(midi[kept[-1].first : kept[-1].own_last]) if kept else pitch[index]
            segment = replace(segment, first=begin, step=pitch[index] - before, slid=False)
            begin = None
        kept.append(segment)
    return kept


def _without_stairs(found: list[Segment]) -> list[Segment]:
    """Take the frets that a slide passes for what they are: a short stop between two steps the same way is no note."""
    kept: list[Segment] = []
    index = 0
    while index < len(found):
        segment, following = found[index], found[index + 1] if index + 1 < len(found) else None
        stair = (
            following is not None
            and bool(kept)
            and not (segment.struck or following.struck)
            and segment.step * following.step > 0
            and max(abs(segment.step), abs(following.step)) < MOST_STAIR
            and (segment.last - segment.first) * HOP_S < LONGEST_STAIR_S
            and segment.first - kept[-1].last <= 1
        )
        if stair and following is not None:
            kept[-1] = replace(kept[-1], last=segment.last)
            kept.append(replace(following, step=segment.step + following.step, slid=True))
            index += 2
        else:
            kept.append(segment)
            index += 1
    return kept


def _with_slides_in(found: list[Segment], midi: FloatArray) -> list[Segment]:
    """Join a short beginning after a silence with the note it slides to: a slide from no fret."""
    kept: list[Segment] = []
    for index, segment in enumerate(found):
        before = kept[-1] if kept else None
        earlier = found[index - 2].last if index > 1 else -QUIET_FRAMES
        if (
            before is not None
            and _slid_into(before, segment, midi)
            and (segment.first - before.first) * HOP_S < SLIDE_OFF_S
            and before.first - earlier >= QUIET_FRAMES
        ):
            kept[-1] = replace(segment, first=before.first, struck=False, from_nowhere=True)
        else:
            kept.append(segment)
    return kept


def _slid_into(before: Segment, segment: Segment, midi: FloatArray) -> bool:
    """Whether a short beginning leads to a note by frets; on the way the pitch may be lost for a moment."""
    leap = _middle(midi[segment.first : segment.own_last]) - _middle(midi[before.first : before.last])
    lost = not segment.struck and segment.step == 0 and segment.first - before.last <= LOST_FRAMES
    return (segment.slid and segment.first - before.last <= 1) or (lost and 1.5 < abs(leap) < 12.5)


def with_slides_off(found: list[Segment], midi: FloatArray) -> list[Segment]:
    """Mark notes whose pitch runs off within a moment before a silence; scraps of the way are dropped.

    midi: shape (n_frames,), semitones, NaN where silent.
    """
    kept: list[Segment] = []
    starts = [segment.first for segment in found[1:]] + [midi.size]
    for segment, following in zip(found, starts, strict=True):
        silent = following - segment.last >= QUIET_FRAMES
        before = kept[-1] if kept else None
        scrap = (
            before is not None
            and not segment.struck
            and segment.slid
            and (segment.last - segment.first) * HOP_S < LONGEST_SCRAP_S
        )
        if scrap and silent and before is not None and segment.first - before.last <= 1:
            kept[-1] = replace(before, last=segment.last, slides_away=True)
        elif silent and (off := _runs_off(midi[segment.first : segment.last])) is not None:
            kept.append(replace(segment, own_last=min(segment.own_last, segment.first + off), slides_away=True))
        else:
            kept.append(segment)
    return kept


def _runs_off(midi: FloatArray) -> int | None:
    """Return the frame from which a pitch leaves its note by frets, at most a moment before it ends; else None."""
    known = np.flatnonzero(~np.isnan(midi))
    if known.size < 20:
        return None
    midi, reach = midi[: known[-1] + 1], round(SLIDE_OFF_S / HOP_S)
    home = _middle(midi[:-reach] if midi.size > 2 * reach else midi[: midi.size // 2])
    tail = np.abs(midi[-reach:] - home)
    gone = np.flatnonzero(~(tail < 0.7))
    if gone.size < 3 or not np.nanmax(tail[-4:]) >= LEAST_SLIDE_OFF or gone[0] == 0:
        return None
    return int(midi.size - reach + gone[0])


def with_damping(found: list[Segment], level_db: FloatArray) -> list[Segment]:
    """End each note where its sound breaks off faster than any string fades, and mark it as damped.

    level_db: shape (n_frames,), of a guitar alone.
    """
    result = []
    for segment in found:
        level = level_db[segment.first : segment.last + DAMPING_FRAMES]
        drop = level[:-DAMPING_FRAMES] - level[DAMPING_FRAMES:]
        # from here on the level only falls, and steeply
        own_size = max(1, segment.last - segment.first - LOOK_AHEAD_FRAMES)
        lowest = np.full(level.size, level[:own_size].min())
        broken = (drop > DAMPING_DB) & (level[: drop.size] - lowest[: drop.size] > LEAST_DROP_DB)
        broken[:8] = False
        at = int(np.argmax(broken)) if broken.any() else 0
        own = level[
            at : max(at + 1, segment.last - segment.first - LOOK_AHEAD_FRAMES)
        ]  # the next attack is no part of it
        falls_on = at > 0 and float(own.max()) <= float(level[at]) + 3
        last = segment.first + at + DAMPING_FRAMES // 3
        if falls_on and last < segment.last + 2:
            segment = replace(segment, last=min(last, segment.last), own_last=min(segment.own_last, last), damped=True)
        result.append(segment)
    return result


def _middle(midi: FloatArray) -> float:
    known = midi[~np.isnan(midi)]
    return median(known) if known.size else 0.0


def _near(attack: int, step: _Step) -> bool:
    merge = round(MERGE_S / HOP_S)
    return step.first - merge <= attack <= step.last + merge


def _cut_run(first: int, last: int, attacks: list[int], steps: list[_Step]) -> list[Segment]:
    merge = round(MERGE_S / HOP_S)
    marks: list[tuple[int, bool, float, bool]] = [(attack, True, 0.0, False) for attack in attacks]
    for step in steps:
        if not any(_near(attack, step) for attack in attacks):
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
    known = ~np.isnan(midi)
    if not known.any():
        return np.zeros(0)
    index = np.maximum.accumulate(np.where(known, np.arange(midi.size), -1))
    index[index < 0] = int(np.argmax(known))
    return np.asarray(midi[index])
