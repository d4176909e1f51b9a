"""One decoding that explains everything that sounds: which note each stretch of the pitch curve belongs to, and how it
is moved.

The curve is read as plateaus and moves (`contour`). A state is a fretted pitch and how far the string is bent from it;
from plateau to plateau the note goes on, bent further or let down, or another begins, picked, hammered, pulled or slid
to. The cheapest explanation of the whole is found by dynamic programming (R. Bellman, 1957; segment models as in
M. Ostendorf et al., "From HMMs to segment models", IEEE Trans. Speech Audio Process. 4, 1996). Costs are in nats.
"""

import math
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np

from notcher.core.arrays import FloatArray, IntArray
from notcher.core.hearing.contour import Contour, Unit, Wave, contour
from notcher.core.hearing.pitch import HOP_S
from notcher.core.hearing.robust import median


@dataclass(frozen=True, slots=True)
class Costs:
    """What each part of an explanation costs, in nats; measured on home material unless said otherwise."""

    spread: float = 0.12  # semitones that a plateau lies off its fret
    frame: float = 0.25  # weight of a frame: neighbours say nearly the same
    most_frames: int = 60
    most_misfit: float = 4.5  # a frame speaks no louder than three spreads
    wrong_fret: float = 1.5  # of a stretch that lies on another fret altogether
    size_spread: float = 0.09  # semitones a nat, of a bend's size
    most_size: float = 2.5
    bend: float = 1.2
    release: float = 0.4
    again: float = 2.0  # bent once more after it was bent and let down
    curl: float = 2.2
    prebend: float = 3.6
    repick: float = 1.2
    slide_in: float = 1.8
    into_frame: float = 0.05
    false_pick: float = 0.8  # arriving on a fret sounds like an attack
    slide_away: float = 1.8
    away_frame: float = 0.07
    bar: float = 5.5
    bar_frame: float = 0.06
    move_s: float = 0.14  # usual time of a bend's move, log-normal
    move_spread: float = 0.8
    too_quick_s: float = 0.03
    too_quick: float = 4.0
    legato: float = 1.2
    legato_s: float = 0.02
    legato_spread: float = 0.55
    wide_legato: float = 3.0  # over five frets
    octave: float = 4.0
    out_of_bend: float = 6.0
    into_bend: float = 12.0
    same_pitch: float = 9.0
    slide: float = 1.6
    slide_fret_s: float = 0.03
    slide_spread: float = 0.6
    drift: float = 0.3
    over_frame: float = 0.15
    push: float = 1.0
    sharp: float = 0.15
    push_frame: float = 0.08
    glide_frame: float = 0.05
    unlikely_pick: float = 0.01  # no moment is surer than this that it is no attack, or that it is one
    too_short: float = 7.0  # of a note of no length; one of `SHORT_FRAMES` costs nothing
    gap_pick: float = 0.7  # a note after a silence is picked, whatever was heard of it


COSTS = Costs()
SIZES = {0.5: 1.5, 1.0: 0.8, 2.0: 0.2, 3.0: 1.0, 4.0: 0.6, 5.0: 3.5, 6.0: 4.5}
"""Bends that are written, in semitones, and what each costs (common practice, no source)."""
NEAR = 0.55
TWICE_FRAMES = 12  # 70 ms: nobody picks one string twice sooner
SLID_FROM_FRAMES = 24  # a note is held for 140 ms before the hand slides from it
LEAST_INTO_FRAMES, LEAST_INTO = 5, 0.8
AWAY_FRAMES = 30  # the last fret of a slide off still rings a little: 170 ms
INTO_FRAMES = 14  # a slide from nowhere rests on no fret for longer than 80 ms
PHANTOM_SEMITONES, PHANTOM_S = 7.0, 0.14
EARLY_FRAMES = 22
LOOK_AHEAD_FRAMES = 4  # the pitch window reaches this far into the next note
SHARP, SHARP_FRAMES = 0.85, 16  # semitones, frames
LATE_FRAMES = 50
PUSH_FRAMES = 3
CORNER_FRAMES = 2
GLIDE_FRAMES = 26  # 150 ms
EDGE_FREE = 2  # frames at each end of a plateau that still hold what was before or comes after
SMOOTH = 4.0  # nats that an even move speaks for a bend, at most
STAIR_SHARE, STAIR_SPREAD, MOST_STAIRS = 0.7, 0.07, 4.0  # semitones; nats
SHORT_FRAMES = 9  # 52 ms
BEAM, MOST_STATES = 16.0, 32  # nats; what is further behind does not catch up
PICK_REACH = 5  # frames that an attack may lie from the move it belongs to
LEAST_PICK = 0.06
SETTLED_FRAMES = 4  # from an attack until the pitch is the new note's
EDGE_FRAMES = 6  # a pick so near a plateau's edge is the move's
AWAY, INTO, OVER, PUSH = "away", "into", "over", "push"
"""On the way: sliding to or from no fret, or past frets to one; between two bends of one fret."""


@dataclass(frozen=True, slots=True)
class State:
    """A fretted pitch (whole semitones) and the bend held, in semitones; slid: on the way from or to no fret."""

    fretted: int
    bend: float
    slid: str = ""


@dataclass(frozen=True, slots=True)
class Link:
    """What lies between two units: a silence or a move, how long, and how likely an attack is in it, at which frame.

    stairs: log-likelihood ratio that the move's frames sit on whole semitones, as a slide's do and a bend's do not.
    """

    silent: bool
    seconds: float
    pick: float
    pick_frame: int
    arrival: int
    stairs: float = 0.0


@dataclass(frozen=True, slots=True)
class Decoded:
    """One note. how: pick, repick, legato, slide, or into (from no fret); bends: what is held at each of its units.

    first, last: frames, the last exclusive. own_last: up to here the pitch is its own. wave: its vibrato. from_nowhere,
    slides_away: a slide from or to no fret.
    """

    first: int
    last: int
    own_last: int
    fretted: int
    how: str
    bends: tuple[float, ...]
    wave: Wave | None
    from_nowhere: bool = False
    slides_away: bool = False


def decoded(
    midi: FloatArray, moments: IntArray, chance: FloatArray, *, costs: Costs = COSTS
) -> tuple[list[Decoded], Contour]:
    """Explain a pitch curve.

    midi: shape (n_frames,), semitones without the tuning's offset, NaN where silent. moments, chance: shape (n,), the
    frames where an attack could be and how likely each is one. Returns: the notes in time order, and the curve as read.
    """
    found = contour(midi)
    units, joined = _without_phantoms(*_cut_at_picks(found, moments, chance), moments, chance)
    if not units:
        return [], found
    links = _links(units, joined, found.trend, moments, chance)
    states, came = _solved(units, links, costs)
    return _notes(units, links, states, came, found), found


# --- what is explained ---
def _cut_at_picks(found: Contour, moments: IntArray, chance: FloatArray) -> tuple[list[Unit], list[bool]]:
    """Cut plateaus where an attack could be inside them, and begin anew inside a move that one falls into."""
    likely = moments[chance > LEAST_PICK]
    units: list[Unit] = []
    joined: list[bool] = []
    for unit, is_joined in zip(found.units, found.joined, strict=True):
        if is_joined and units:
            start = units[-1].last
            for at in likely[(likely > start - 2) & (likely < unit.first - SETTLED_FRAMES - 1)].tolist():
                begin = max(at + SETTLED_FRAMES, start)
                units.append(Unit(begin, begin + 1, float(found.trend[begin])))
                joined.append(True)
        inside = likely[(likely > unit.first + EDGE_FRAMES) & (likely < unit.last - 3)].tolist()
        for first, last in pairwise([unit.first, *inside, unit.last]):
            part = found.trend[first:last]
            whole = first == unit.first and last == unit.last
            level = unit.level if whole else median(part[min(3, part.size - 1) :])
            units.append(Unit(first, last, level, unit.wave))
            joined.append(is_joined or first > unit.first)
    return units, joined


def _without_early(
    units: list[Unit], joined: list[bool], moments: IntArray, chance: FloatArray
) -> tuple[list[Unit], list[bool]]:
    """Leave out what is heard of a note's pitch before its attack: the window reaches ahead."""
    kept: list[Unit] = []
    links: list[bool] = []
    for at, unit in enumerate(units):
        alone = not joined[at] and at + 1 < len(units) and joined[at + 1] and unit.last - unit.first <= EARLY_FRAMES
        if alone and abs(units[at + 1].level - unit.level) < 0.4:
            begins = (moments > unit.first - 12) & (moments <= unit.first + EDGE_FRAMES) & (chance > 0.3)
            follows = (np.abs(moments - units[at + 1].first) <= 2) & (chance > LEAST_PICK)
            if follows.any() and not begins.any():
                continue
        kept.append(unit)
        links.append(joined[at] and bool(kept[:-1]) and (at == 0 or kept[-2] is units[at - 1]))
    return kept, links


def _without_phantoms(
    units: list[Unit], joined: list[bool], moments: IntArray, chance: FloatArray
) -> tuple[list[Unit], list[bool]]:
    """Leave out short stretches far below what lies around them.

    While one string still rings under the next, their common period is that of a pitch far below both.
    """
    surely = moments[chance > 0.5]
    units, joined = _without_early(units, joined, moments, chance)
    kept: list[Unit] = []
    links: list[bool] = []
    begins: int | None = None  # where a stretch was left out right after a silence
    for at, unit in enumerate(units):
        after = next((later for later in units[at + 1 : at + 4] if later.level - unit.level > PHANTOM_SEMITONES), None)
        joined_after = at + 1 < len(units) and joined[at + 1]
        first = not joined[at] or begins is not None
        before = kept[-1] if kept and not first else None
        deep = after is not None and joined_after
        deep = deep and (first or (before is not None and before.level - unit.level > PHANTOM_SEMITONES))
        struck = bool(
            np.any((surely > unit.first + (PICK_REACH if first else -PICK_REACH)) & (surely < unit.last + PICK_REACH))
        )
        if deep and not struck and (unit.last - unit.first) * HOP_S < PHANTOM_S:
            begins = (unit.first if begins is None else begins) if first else None
            continue
        if begins is not None:
            kept.append(replace(unit, first=begins))
            links.append(False)
            begins = None
            continue
        kept.append(unit)
        links.append(joined[at])
    return kept, links


def _links(
    units: list[Unit], joined: list[bool], trend: FloatArray, moments: IntArray, chance: FloatArray
) -> list[Link]:
    """What lies before each unit; no attack is taken for two."""
    links: list[Link] = []
    used = -1
    for at, unit in enumerate(units):
        before = units[at - 1] if at else None
        if before is None or not joined[at]:
            near = (moments >= unit.first - 12) & (moments <= unit.first + EDGE_FRAMES + 2)
            if not np.any(near & (chance > 0.5)):  # a harmonic's pitch is sure only long after it was struck
                far = (moments >= unit.first - LATE_FRAMES) & (moments < unit.first) & (chance > 0.6)
                near = near | (far & (moments > (before.last if before is not None else -1)))
        else:
            near = (moments >= before.last - 1 - PICK_REACH) & (moments <= unit.first + PICK_REACH)
            if _leads_on(units, joined, at):  # the attack is that of the leap which follows
                near = near & (moments < unit.last - 1 - PICK_REACH)
        best = _best(moments, chance, near & (moments > used + 2))
        pick = 0.0 if best is None else float(chance[best])
        frame = None if best is None else int(moments[best])
        if frame is not None and pick > LEAST_PICK:
            used = frame
        if before is None or not joined[at]:
            frame = unit.first if frame is None else min(frame, unit.first + 8)
            gap = unit.first - (before.last if before is not None else 0)
            links.append(Link(True, gap * HOP_S, pick, frame, unit.first))
            continue
        start, stop = before.last - 1, unit.first
        arrival = _arrival(trend, start, stop, unit.level - before.level, unit.level)
        seconds, stairs = max(stop - start, 1) * HOP_S, _stairs(trend[start + 1 : stop])
        links.append(Link(False, seconds, pick, arrival if frame is None else frame, arrival, stairs))
    return links


def _leads_on(units: list[Unit], joined: list[bool], at: int) -> bool:
    """Whether a unit is only the corner of a small move before a larger one."""
    if at + 1 >= len(units) or not joined[at + 1] or units[at].last - units[at].first > CORNER_FRAMES:
        return False
    left, here, right = (unit.level for unit in units[at - 1 : at + 2])
    return abs(right - here) > max(1.0, 2 * abs(here - left))


def _stairs(way: FloatArray) -> float:
    off = way - np.round(way)
    density = STAIR_SHARE * np.exp(-0.5 * (off / STAIR_SPREAD) ** 2) / (STAIR_SPREAD * math.sqrt(2 * math.pi))
    ratio = float(np.log(density + 1 - STAIR_SHARE).sum()) if way.size else 0.0
    return max(-MOST_STAIRS, min(MOST_STAIRS, 0.5 * ratio))


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


# --- the cheapest explanation ---
def _solved(units: list[Unit], links: list[Link], costs: Costs) -> tuple[list[State], list[str]]:
    """Return the state of each unit, and how it was come by: same, pick, legato, slide, repick, into, away."""
    # what it costs to be here, the frame at which this note began, and how often it was bent or let down
    total: dict[State, tuple[float, int, int]] = {}
    table: list[dict[State, tuple[State | None, str]]] = []
    for at, (unit, link) in enumerate(zip(units, links, strict=True)):
        over = at + 1 == len(units) or links[at + 1].silent
        now: dict[State, tuple[float, int, int]] = {}
        came: dict[State, tuple[State | None, str]] = {}
        for state in _options(unit, list(total)):
            best, source, how, begun, moves = math.inf, None, "pick", unit.first, int(state.bend > 0)
            if not total:
                best, how = _begun(state, link, costs)
            for before, (spent, since, bent) in total.items():
                cost, way = _step(before, state, units[at - 1], unit, link, costs)
                moved = way == "same" and state.bend != before.bend and not state.slid and before.slid != INTO
                cost += costs.again if moved and bent > 1 and min(state.bend, before.bend) >= 0 else 0.0
                if way != "same":
                    until = link.pick_frame if way in ("pick", "repick") else link.arrival
                    least = {"slide": SLID_FROM_FRAMES, "pick": TWICE_FRAMES}.get(way, SHORT_FRAMES)
                    short = least - (units[at - 1].last if link.silent else until) + since
                    cost += costs.too_short * max(0.0, short / least)
                if spent + cost < best:
                    best, source, how = spent + cost, before, way
                    moves = bent + moved if way == "same" else int(state.bend > 0)
                    begun = since if way == "same" else link.pick_frame if way in ("pick", "repick") else link.arrival
                    if before.slid == INTO and not state.slid:  # only here the note comes to rest
                        begun = link.arrival
            fit = _fit(unit, state, costs, last=over)
            if not state.slid and state.bend == 0 and unit.last - begun <= SHARP_FRAMES:
                off = unit.level - state.fretted  # a hard pluck stretches the string for a moment
                fit = min(fit, costs.sharp) if 0 < off < SHARP else fit
            now[state] = (best + fit, begun, moves)
            came[state] = (source, how)
        bound = BEAM + min(cost for cost, _, _ in now.values())
        kept = sorted((value, number) for number, value in enumerate(now.values()) if value[0] <= bound)
        names = list(now)
        total = {names[number]: value for value, number in kept[:MOST_STATES]}
        table.append(came)
    last: State | None = min(total, key=lambda one: total[one][0])
    states: list[State] = []
    ways: list[str] = []
    for came in reversed(table):
        assert last is not None
        states.append(last)
        last, how = came[last]
        ways.append(how)
    return states[::-1], ways[::-1]


def _options(unit: Unit, before: list[State]) -> list[State]:
    """States that a unit could be: each fret and bend that meets its pitch, and those that simply go on."""
    levels = {unit.level}
    if unit.wave is not None:
        levels.add(unit.level - unit.wave.extent)
    found: dict[State, None] = {}
    for level in levels:
        for bend in (0.0, *SIZES):
            fretted = round(level - bend)
            if abs(level - bend - fretted) < NEAR:
                found[State(fretted, bend)] = None
        found[State(math.floor(level - 0.2), 0.5)] = None
    for state in before:
        if state.slid in ("", PUSH):
            found[State(state.fretted, state.bend)] = None
            found[State(state.fretted, state.bend, PUSH)] = None
        if not state.slid and state.fretted - unit.level > 0.3:
            found[State(state.fretted, -1.0)] = None
    for way in (1.0, -1.0):  # a slide keeps its way, kept where a bend would be
        found[State(round(unit.level), way, OVER)] = None
        found[State(round(unit.level), way, INTO)] = None
        found[State(round(unit.level), way, AWAY)] = None
    return list(found)


def _fit(unit: Unit, state: State, costs: Costs, *, last: bool) -> float:
    """What a unit's pitch costs in a state."""
    length = unit.last - unit.first
    frames = min(max(length - 2 * EDGE_FREE, 0.4 * length), costs.most_frames)
    if state.slid:
        if state.slid == PUSH:
            rest = max(0, length - PUSH_FRAMES)  # a bend on its way does not rest
            return costs.push_frame * length + 0.8 * rest + (50.0 if unit.level < state.fretted - 0.4 else 0.0)
        if state.slid == OVER:
            stray = 0.0 if abs(unit.level - round(unit.level)) < 0.15 else 0.7
            return costs.over_frame * (unit.last - unit.first) + stray + (50.0 if last else 0.0)
        stray = 0.7 if state.slid == INTO and abs(unit.level - round(unit.level)) > 0.15 else 0.0
        if state.slid == INTO:
            return costs.into_frame * length + stray + 0.3 * max(0, length - INTO_FRAMES)
        if last:  # where the string was let go it still rings a little
            return costs.away_frame * min(length, AWAY_FRAMES // 3) + 0.3 * max(0, length - 2 * AWAY_FRAMES)
        return costs.away_frame * length + 0.3 * max(0, length - AWAY_FRAMES)
    if state.bend < 0:  # a bar pulls anywhere, for a while
        low = unit.level < state.fretted - 0.3
        return costs.bar_frame * length + (0.0 if low else costs.most_misfit * costs.frame * frames)
    off = unit.level - state.fretted - state.bend
    if unit.wave is not None:  # a finger's wave stands on the fret, or swings around it
        off = min(off, off - unit.wave.extent, key=abs)
    if state.bend == 0.5:
        off = max(0.0, abs(off) - 0.25)
    if state.bend > 0:
        size = min(abs(off) / costs.size_spread, costs.most_size)
        far = max(0.0, abs(off) - 0.3) / costs.spread
        return size * min(1.0, frames / 8) + costs.frame * frames * min(far * far / 2, costs.most_misfit)
    misfit = min((off / costs.spread) ** 2 / 2, costs.most_misfit)
    return costs.frame * frames * misfit + (costs.wrong_fret if abs(off) > 0.6 else 0.0)


def _begun(state: State, link: Link, costs: Costs) -> tuple[float, str]:
    """What it costs to begin a note from silence in a state."""
    if state.slid == INTO:
        return costs.slide_in, INTO
    if state.slid or state.bend < 0:
        return 50.0, "pick"
    pick = max(link.pick, costs.gap_pick)
    return -math.log(pick) + (costs.prebend + SIZES[state.bend] if state.bend > 0 else 0.0), "pick"


def _step(before: State, state: State, left: Unit, unit: Unit, link: Link, costs: Costs) -> tuple[float, str]:
    """The cheapest way from one unit's state to the next one's, and its name."""
    pick = min(max(link.pick, costs.unlikely_pick), 1 - costs.unlikely_pick)
    picked, unpicked = -math.log(pick), -math.log(1 - pick)
    if abs(unit.level - left.level) > 0.5:  # a string picked anew leaps, it does not glide
        picked += costs.glide_frame * max(0.0, link.seconds / HOP_S - GLIDE_FRAMES)
    if link.silent:
        cost, how = _begun(state, link, costs)
        if state == before and link.seconds < 0.12 and not state.slid:  # lost for a moment
            stay = unpicked + 2.0 + 20 * link.seconds
            if stay < cost:
                return stay, "same"
        return cost, how
    if before.slid == AWAY:
        if state.slid == AWAY:
            goes_on = (unit.level - left.level) * before.bend > 0.05 and state.bend == before.bend
            return (unpicked if goes_on else 50.0), "same"
        if state.slid or state.bend < 0:
            return 50.0, "pick"
        return picked + 1.0 + (costs.prebend + SIZES[state.bend] if state.bend else 0.0), "pick"
    if before.slid == INTO:
        onward = (unit.level - left.level) * before.bend
        goes_on = state.slid == INTO and state.bend == before.bend
        if onward < 0.3 or not (goes_on or state == State(state.fretted, 0.0)):
            return 50.0, "same"
        if goes_on:
            return min(unpicked, costs.false_pick), "same"
        quick = _fret_by_fret(left, unit, link, costs)
        return min(unpicked, costs.false_pick) + quick - link.stairs, "same"
    if before.slid == OVER:
        onward = (unit.level - left.level) * before.bend
        goes_on = state.slid == OVER and state.bend == before.bend
        if onward < 0 or not (goes_on or state == State(state.fretted, 0.0)):
            return 50.0, "same"
        quick = _fret_by_fret(left, unit, link, costs)
        return unpicked + 0.3 * quick, "same" if goes_on else "slide"
    if PUSH in (before.slid, state.slid):
        return _pushed(before, state, link, unpicked, picked, costs)
    if state.slid == OVER:
        way = math.copysign(1.0, unit.level - left.level)
        if way != state.bend or before.bend > 0.5 or abs(unit.level - left.level) < 0.5:
            return 50.0, "same"
        return unpicked + costs.slide, "same"
    if state.slid == AWAY:
        if (unit.level - left.level) * state.bend < 0.3:
            return 50.0, "same"
        quick = _fret_by_fret(left, unit, link, costs)
        return unpicked + costs.slide_away + (2.0 if before.bend else 0.0) + quick - link.stairs, "same"
    if state.slid == INTO:
        return picked + costs.slide_in, INTO
    return _between(before, state, left, unit, link, picked, unpicked, costs)


def _pushed(before: State, state: State, link: Link, unpicked: float, picked: float, costs: Costs) -> tuple[float, str]:
    """Into, along and out of a bend that is on its way."""
    same = state.fretted == before.fretted
    if state.bend < 0 or before.bend < 0:
        return 50.0, "same"
    if state.slid == PUSH:
        return (unpicked + (0.0 if before.slid else costs.push) if same else 50.0), "same"
    if same and state.bend != before.bend:
        size = SIZES[state.bend] if state.bend else 0.0
        kind = costs.release if state.bend < before.bend else costs.curl if state.bend == 0.5 else costs.bend
        quick = _quickness(2 * link.seconds, costs.move_s, costs.move_spread)
        return unpicked + kind + size + 0.5 * quick + max(link.stairs, -SMOOTH), "same"
    if state.slid:
        return 50.0, "same"
    return picked + (costs.prebend + SIZES[state.bend] if state.bend else 0.0), "pick"


def _between(
    before: State, state: State, left: Unit, unit: Unit, link: Link, picked: float, unpicked: float, costs: Costs
) -> tuple[float, str]:
    """From one note to itself, bent otherwise, or to another."""
    best, how = math.inf, "pick"
    moved = unit.level - left.level
    if state.fretted == before.fretted:
        stay = unpicked
        if state.bend != before.bend:
            stay += _quickness(link.seconds, costs.move_s, costs.move_spread)
            stay += max(link.stairs, -SMOOTH)
            stay += costs.too_quick if link.seconds < costs.too_quick_s else 0.0
            if state.bend < 0 or before.bend < 0:
                stay += (costs.bar if state.bend < 0 else 0.5) if 0.0 in (state.bend, before.bend) else 50.0
            elif state.bend > before.bend:
                stay += (costs.curl if state.bend == 0.5 else costs.bend) + SIZES[state.bend]
            else:
                stay += costs.release + (SIZES[state.bend] if state.bend else 0.0)
        elif abs(moved) > 0.18:
            stay += costs.drift
        best, how = stay, "same"
    if state.bend >= 0:
        again = picked
        if state.bend > 0:
            held = before.fretted == state.fretted and before.bend == state.bend
            again += costs.repick if held else costs.prebend + SIZES[state.bend]
        if again < best:
            best, how = again, "repick" if state.bend > 0 and before.fretted == state.fretted else "pick"
    frets = state.fretted - before.fretted - (before.bend if before.bend > 0 else 0)
    if state.bend == 0 and before.bend >= 0:
        legato = unpicked + costs.legato + _quickness(link.seconds, costs.legato_s, costs.legato_spread, late=True)
        legato += costs.same_pitch if abs(frets) < 0.7 else 0.0
        legato += costs.wide_legato if abs(frets) > 5 else 0.0
        legato += costs.octave if round(abs(frets)) in (12, 19, 24) else 0.0
        legato += costs.out_of_bend if before.bend > 0.5 else 0.0
        if legato < best:
            best, how = legato, "legato"
        wide = max(1.0, abs(frets))
        slide = unpicked + costs.slide + _quickness(link.seconds, costs.slide_fret_s * wide, costs.slide_spread)
        slide -= link.stairs
        slide += costs.same_pitch if abs(frets) < 0.7 else 2.0 if abs(frets) < 1.5 else 0.0
        slide += costs.out_of_bend if before.bend > 0.5 else 0.0
        slide += costs.octave if abs(frets) > 12 else 0.0
        if slide < best:
            best, how = slide, "slide"
    return best, how


def _fret_by_fret(left: Unit, unit: Unit, link: Link, costs: Costs) -> float:
    """What a slide costs that takes longer than its frets need."""
    frets = max(1.0, abs(unit.level - left.level))
    return _quickness(link.seconds, costs.slide_fret_s * frets, costs.slide_spread, late=True)


def _quickness(seconds: float, usual_s: float, spread: float, *, late: bool = False) -> float:
    """Log-normal cost of a time; late: only what takes longer than usual costs."""
    off = math.log(max(seconds, HOP_S) / usual_s) / spread
    return 0.5 * off * off if not late or off > 0 else 0.0


# --- what was found ---
def _notes(units: list[Unit], links: list[Link], states: list[State], ways: list[str], found: Contour) -> list[Decoded]:
    notes: list[Decoded] = []
    came_from = 0.0
    for at, (unit, link, state, how) in enumerate(zip(units, links, states, ways, strict=True)):
        came_from = unit.level if how == INTO else came_from
        after_in = at > 0 and states[at - 1].slid == INTO and not state.slid
        if how == "same" and notes and not (after_in and state.slid):
            note = notes[-1]
            bends = note.bends if state.slid else (*note.bends, state.bend)
            away = note.slides_away or state.slid == AWAY
            own = note.own_last if state.slid in (AWAY, OVER) else unit.last
            fretted = state.fretted if after_in else note.fretted
            if after_in:  # what only passes through at the attack is no slide
                way = abs(unit.level - came_from)
                slid = unit.first - note.first >= LEAST_INTO_FRAMES and way > LEAST_INTO
                note = replace(note, from_nowhere=slid, bends=())
            wave = note.wave if note.wave is not None or state.slid else unit.wave
            notes[-1] = replace(
                note, last=unit.last, own_last=own, bends=bends, slides_away=away, fretted=fretted, wave=wave
            )
            continue
        picked = how in ("pick", "repick")
        struck = picked or (how == INTO and link.pick > 0.5)
        first = link.pick_frame if struck else unit.first if how == INTO else link.arrival
        if notes:
            first = max(first, notes[-1].first + 3)
            last = first if not link.silent else min(first, notes[-1].last)
            own = min(notes[-1].own_last, units[at - 1].last, last)
            if picked and not link.silent and not notes[-1].slides_away:  # its pitch goes on until the next attack
                own = max(own, min(last - LOOK_AHEAD_FRAMES, last))
            notes[-1] = replace(notes[-1], last=last, own_last=own)
        notes.append(
            Decoded(
                first,
                unit.last,
                unit.last,
                state.fretted,
                how,
                (state.bend,),
                unit.wave if not state.slid else None,
                how == INTO,
            )
        )
    return [note for note in notes if note.last - note.first >= 3]
