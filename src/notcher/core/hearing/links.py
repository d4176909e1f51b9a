"""What the decoder explains: plateaus and turning points of the pitch, cut where an attack could be, and the moves."""

import math
from dataclasses import replace
from itertools import pairwise

import numpy as np

from notcher.core.arrays import BoolArray, FloatArray, IntArray
from notcher.core.hearing.contour import Contour, Unit
from notcher.core.hearing.costs import MOST_STAIRS, STAIR_SHARE, STAIR_SPREAD
from notcher.core.hearing.gestures import Link
from notcher.core.hearing.pitch import HOP_S
from notcher.core.hearing.robust import median
from notcher.core.hearing.voices import Beside

COMMON_PERIODS, PHANTOM_OFF = (2, 3, 4, 5, 6, 8), 0.35  # semitones
PHANTOM_SEMITONES, PHANTOM_S = 7.0, 0.14  # a partial heard for a moment lies a fifth and more away, and briefly
EARLY_FRAMES = 22  # 0.13 s: a pick comes no longer after the pitch began to move
LATE_FRAMES = 50  # 0.29 s: an attack lies no farther back from the pitch that it began
CORNER_FRAMES = 2  # 12 ms: a corner of the curve and no note
BLURRED_FRAMES = 3  # the pitch window makes so much of a leap look even
PICK_REACH = 5  # frames that an attack may lie from the move it belongs to
LEAST_PICK = 0.06  # softer is the finger, not the pick
SLID_REACH = 8  # frames from where a slide is heard to where its pitch arrives
LEAST_MOVE, CREEPS = 0.8, 0.1  # semitones; the part of a small move at each end that is still its plateau
SETTLED_FRAMES = 4  # from an attack until the pitch is the new note's
EDGE_FRAMES = 6  # a pick so near a plateau's edge is the move's


def units_of(contour: Contour, moments: IntArray, chance: FloatArray, low: FloatArray) -> tuple[list[Unit], list[bool]]:
    """Return what is to be explained, and whether each unit is reached through a move, not over a silence.

    low: shape (n,), how likely what is followed from a moment on lies octaves below what sounds.
    """
    return _without_phantoms(*_cut_at_picks(contour, moments, chance), moments, chance, low)


def _cut_at_picks(contour: Contour, moments: IntArray, chance: FloatArray) -> tuple[list[Unit], list[bool]]:
    """Cut plateaus where an attack could be inside them, and begin anew inside a move that one falls into."""
    likely = moments[chance > LEAST_PICK]
    units: list[Unit] = []
    joined: list[bool] = []
    for unit, is_joined in zip(contour.units, contour.joined, strict=True):
        if is_joined and units:
            start = units[-1].last
            for at in likely[(likely > start - 2) & (likely < unit.first - SETTLED_FRAMES - 1)].tolist():
                begin = max(at + SETTLED_FRAMES, start)
                units.append(Unit(begin, begin + 1, float(contour.trend[begin])))
                joined.append(True)
        inside = likely[(likely > unit.first + EDGE_FRAMES) & (likely < unit.last - EDGE_FRAMES)].tolist()
        for first, last in pairwise([unit.first, *inside, unit.last]):
            part = contour.trend[first:last]
            whole = first == unit.first and last == unit.last
            level = unit.level if whole else median(part[min(3, part.size - 1) :])
            units.append(Unit(first, last, level, unit.wave))
            joined.append(is_joined or first > unit.first)
    return units, joined


def _without_early(
    units: list[Unit], joined: list[bool], moments: IntArray, chance: FloatArray
) -> tuple[list[Unit], list[bool]]:
    """Leave out what is heard of a note's pitch before its attack: the window reaches ahead."""
    units_kept: list[Unit] = []
    links: list[bool] = []
    for at, unit in enumerate(units):
        alone = not joined[at] and at + 1 < len(units) and joined[at + 1] and unit.last - unit.first <= EARLY_FRAMES
        if alone and abs(units[at + 1].level - unit.level) < 0.4:
            begins = (moments > unit.first - 12) & (moments <= unit.first + EDGE_FRAMES) & (chance > 0.3)
            follows = (np.abs(moments - units[at + 1].first) <= 2) & (chance > LEAST_PICK)
            if follows.any() and not begins.any():
                continue
        units_kept.append(unit)
        links.append(joined[at] and bool(units_kept[:-1]) and (at == 0 or units_kept[-2] is units[at - 1]))
    return units_kept, links


def _without_phantoms(
    units: list[Unit], joined: list[bool], moments: IntArray, chance: FloatArray, low: FloatArray
) -> tuple[list[Unit], list[bool]]:
    """Leave out short stretches far below what lies around them.

    While one string still rings under the next, their common period is that of a pitch octaves below both.
    """
    surely = moments[chance > 0.5]
    units, joined = _without_early(units, joined, moments, chance)
    units_kept: list[Unit] = []
    links: list[bool] = []
    begins: int | None = None  # where a stretch was left out right after a silence
    for at, unit in enumerate(units):
        after = next((later for later in units[at + 1 : at + 4] if later.level - unit.level > PHANTOM_SEMITONES), None)
        joined_after = at + 1 < len(units) and joined[at + 1]
        first = not joined[at] or begins is not None
        before = units_kept[-1] if units_kept and not first else None
        deep = after is not None and joined_after
        deep = deep and (first or (before is not None and before.level - unit.level > PHANTOM_SEMITONES))
        too_low = bool(np.any(low[np.abs(moments - unit.first) <= PICK_REACH] > 0.5))
        common = any(_common(unit.level, other.level) for other in (before, after) if other is not None)
        deep = deep and (common or too_low)
        struck = bool(
            np.any((surely > unit.first + (PICK_REACH if first else -PICK_REACH)) & (surely < unit.last + PICK_REACH))
        )
        if deep and not struck and (unit.last - unit.first) * HOP_S < PHANTOM_S:
            begins = (unit.first if begins is None else begins) if first else None
            continue
        if begins is not None:
            units_kept.append(replace(unit, first=begins))
            links.append(False)
            begins = None
            continue
        units_kept.append(unit)
        links.append(joined[at])
    return units_kept, links


def _common(low: float, high: float) -> bool:
    """Whether a period could be that of two strings together: a whole number of the higher one's fits into it."""
    return min(abs(high - low - 12 * math.log2(times)) for times in COMMON_PERIODS) < PHANTOM_OFF


def links_between(
    units: list[Unit],
    joined: list[bool],
    trend: FloatArray,
    moments: IntArray,
    chance: FloatArray,
    slides: tuple[FloatArray, FloatArray],
    beside: Beside | None = None,
) -> list[Link]:
    """What lies before each unit; no attack is taken for two.

    trend: shape (n_frames,), semitones. moments, chance: shape (n_moments,), frames, and how likely each is an attack.
    slides: two of shape (n_moments,), log-odds in nats that a slide arrives there, and that one comes from no fret.
    """
    links: list[Link] = []
    used = -1
    for at, unit in enumerate(units):
        before = units[at - 1] if at and joined[at] else None
        if before is None:
            near = _near_silence(unit, units[at - 1].last if at else -1, moments, chance)
        else:
            near = _near_move(units, joined, at, moments)
        best = _best(moments, chance, near & (moments > used + 2))
        pick = 0.0 if best is None else float(chance[best])
        frame = None if best is None else int(moments[best])
        into = 0.0 if best is None else float(slides[1][best])
        if frame is not None and pick > LEAST_PICK:
            used = frame
        if before is None:
            links.append(_silence(unit, units[at - 1].last if at else 0, frame, pick, into, moments, slides[0]))
        else:
            links.append(_move(before, unit, trend, frame, pick, into, moments, slides[0], beside))
    return links


def _near_silence(unit: Unit, before_last: int, moments: IntArray, chance: FloatArray) -> BoolArray:
    """Which attacks could be the one of a unit after a silence."""
    near = (moments >= unit.first - 12) & (moments <= unit.first + EDGE_FRAMES + 2)
    if not np.any(near & (chance > 0.5)):  # a harmonic's pitch is sure only long after it was struck
        far = (moments >= unit.first - LATE_FRAMES) & (moments < unit.first) & (chance > 0.6)
        near = near | (far & (moments > before_last))
    return np.asarray(near)


def _near_move(units: list[Unit], joined: list[bool], at: int, moments: IntArray) -> BoolArray:
    """Which attacks could lie in the move to a unit."""
    near = (moments >= units[at - 1].last - 1 - PICK_REACH) & (moments <= units[at].first + PICK_REACH)
    if _leads_on(units, joined, at):  # the attack is that of the leap which follows
        near = near & (moments < units[at].last - 1 - PICK_REACH)
    return np.asarray(near)


def _silence(
    unit: Unit, before_last: int, frame: int | None, pick: float, into: float, moments: IntArray, slid: FloatArray
) -> Link:
    at_frame = unit.first if frame is None else min(frame, unit.first + 8)
    arrival_heard = _slid_at(unit.first, moments, slid)
    seconds = (unit.first - before_last) * HOP_S
    return Link(True, seconds, pick, at_frame, unit.first, slid=arrival_heard, slid_in=into)


def _move(
    before: Unit,
    unit: Unit,
    trend: FloatArray,
    frame: int | None,
    pick: float,
    into: float,
    moments: IntArray,
    slid: FloatArray,
    beside: Beside | None,
) -> Link:
    start, stop = before.last - 1, unit.first
    arrival = _arrival(trend, start, stop, unit.level - before.level, unit.level)
    frames = _crept(before, unit, trend, start, stop)
    seconds = max(frames, 1) * HOP_S
    return Link(
        False,
        seconds,
        pick,
        arrival if frame is None else frame,
        arrival,
        _stairs(trend[start + 1 : stop]),
        _slid_at(arrival, moments, slid),
        into,
        seconds / max(1.0, abs(unit.level - before.level)),
        beside=beside is not None and bool(beside.sounds[start]),
        held=beside is not None and bool(beside.held[min(arrival, beside.held.size - 1)]),
    )


def _crept(before: Unit, after: Unit, trend: FloatArray, start: int, stop: int) -> int:
    """How many frames a move takes; a small slow one has no frames of its own between the two plateaus it joins."""
    level_before, step, begin, end = before.level, after.level - before.level, before.first, after.last
    if abs(step) > LEAST_MOVE or step == 0:
        return stop - start
    share = (trend[begin:end] - level_before) / step
    still = np.flatnonzero(share[: stop - begin + 1] <= CREEPS)
    leaves = int(still[-1]) if still.size else start - begin
    there = np.flatnonzero(share[leaves:] >= 1 - CREEPS)
    return max(stop - start, int(there[0]) if there.size else 0)


def _slid_at(arrival: int, moments: IntArray, slid: FloatArray) -> float:
    """What was heard of a slide near the frame where a move arrives."""
    nearest = int(np.argmin(np.abs(moments - arrival))) if moments.size else 0
    near_onset = moments.size > 0 and abs(int(moments[nearest]) - arrival) <= SLID_REACH
    return float(slid[nearest]) if near_onset else 0.0


def _leads_on(units: list[Unit], joined: list[bool], at: int) -> bool:
    """Whether a unit is only the corner of a small move before a larger one."""
    if at + 1 >= len(units) or not joined[at + 1] or units[at].last - units[at].first > CORNER_FRAMES:
        return False
    previous, here, right = (unit.level for unit in units[at - 1 : at + 2])
    return abs(right - here) > max(1.0, 2 * abs(here - previous))


def _stairs(way: FloatArray) -> float:
    off = way - np.round(way)
    density = STAIR_SHARE * np.exp(-0.5 * (off / STAIR_SPREAD) ** 2) / (STAIR_SPREAD * math.sqrt(2 * math.pi))
    ratio = 0.5 * float(np.log(density + 1 - STAIR_SHARE).sum()) if way.size else 0.0
    visibility = min(1.0, max(0.0, (way.size - BLURRED_FRAMES) / BLURRED_FRAMES)) if ratio < 0 else 1.0
    return max(-MOST_STAIRS, min(MOST_STAIRS, ratio * visibility))


def _arrival(trend: FloatArray, start: int, stop: int, step: float, level: float) -> int:
    """The frame at which a move has come near to where it goes."""
    if stop <= start or abs(step) < 0.3:
        return stop
    away = np.abs(trend[start : stop + 1] - level)
    reached = np.flatnonzero(away < (max(0.4, 0.25 * abs(step)) if abs(step) > 0.8 else 0.5 * abs(step)))
    return start + int(reached[0]) if reached.size else stop


def _best(moments: IntArray, chance: FloatArray, near: np.ndarray) -> int | None:
    at = np.flatnonzero(near)
    return None if at.size == 0 else int(at[np.argmax(chance[at])])
