"""What each way of moving a string costs: bends, slides, pulls, a bar; the numbers that the writing rests on.

Costs are in nats: a gesture that is likely, fits the measured pitch and takes its usual time costs little.
"""

import math
from dataclasses import dataclass

from notcher.core.hearing.contour import Unit
from notcher.core.hearing.pitch import HOP_S

SIZES = {0.5: 1.5, 1.0: 0.8, 2.0: 0.2, 3.0: 1.0, 4.0: 0.6, 5.0: 3.5, 6.0: 4.5}
"""Bends that are written, in semitones, and what each costs (common practice, no source)."""
NEAR = 0.55
AWAY_FRAMES = 30  # the last fret of a slide off still rings a little: 170 ms
INTO_FRAMES = 6  # a slide from nowhere rests on no fret for longer than 40 ms
BENT_UNDER = 3  # semitones that a string is bent under another
STOP_FRAMES = 10  # nor a slide past frets on any of them for longer than 60 ms
BAR_SPEED = 45.0  # semitones a second (common practice, no source)
PUSH_FRAMES, WIDEST_PUSH = 3, 6.5  # frames, semitones
A_FRET = 0.8  # semitones: who slides away passes one
LEAP = 1.5  # semitones that no finger pushes from one frame to the next
GLIDE_FRAMES = 26  # 150 ms
EDGE_FREE = 2  # frames at each end of a plateau that still hold what was before or comes after
STAIR_SHARE, STAIR_SPREAD, MOST_STAIRS = 0.7, 0.07, 4.0  # semitones; nats
SHORT_FRAMES = 9  # 52 ms
LOST_S, LOST_AWAY, LOST_HEARD = 0.08, 2.5, 2.0  # seconds, semitones, nats
AWAY, INTO, OVER, PUSH = "away", "into", "over", "push"
"""On the way: sliding to or from no fret, or past frets to one; between two bends of one fret."""


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
    into_rest: float = 0.6  # a frame, of a stop on the way
    false_pick: float = 0.8  # arriving on a fret sounds like an attack
    slide_away: float = 1.8
    away_frame: float = 0.07
    away_crept: float = 2.5  # that begins with less than a fret: a curl does
    bar: float = 5.5
    bar_frame: float = 0.06
    leap: float = 0.08  # a semitone a second too quick for a bar
    most_leap: float = 6.0
    move_s: float = 0.14  # usual time of a bend's move, log-normal
    move_spread: float = 0.8
    curl_s: float = 0.25  # a curl is pushed late and slowly
    curl_spread: float = 1.0
    too_quick_s: float = 0.03
    too_quick: float = 4.0
    legato: float = 1.2
    legato_s: float = 0.02
    legato_spread: float = 0.55
    wide_legato: float = 1.0  # over five frets
    octave: float = 4.0
    out_of_bend: float = 6.0
    into_bend: float = 12.0
    same_pitch: float = 9.0
    slide: float = 1.6
    slid: float = 0.8  # how much what is heard of a slide counts
    slid_in: float = 1.2
    most_heard: float = 2.5  # of that, where frets between were seen as well
    slide_fret_s: float = 0.03
    slide_spread: float = 0.6
    smooth: float = 3.0  # what an even move speaks for a bend, at most, and against a slide: quick stairs are not seen
    unseen: float = 1.0
    drift: float = 0.3
    over_frame: float = 0.15
    push: float = 1.0
    sharp: float = 0.15
    push_frame: float = 0.08
    push_rest: float = 1.2  # a frame
    glide_frame: float = 0.05
    unlikely_pick: float = 0.01  # no moment is surer than this that it is no attack, or that it is one
    too_short: float = 7.0  # of a note of no length; one of `SHORT_FRAMES` costs nothing
    under_held: float = 2.0  # of legato while another string is held: there it is bent
    gap_pick: float = 0.7  # a note after a silence is picked, whatever was heard of it


COSTS = Costs()


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
    slid, slid_in: log-likelihood ratios of what was heard there if a slide arrives, or a hand slides in from no fret.
    fret_s: seconds that a move takes for each semitone. beside, held: another string sounds along, and keeps its pitch.
    """

    silent: bool
    seconds: float
    pick: float
    pick_frame: int
    arrival: int
    stairs: float = 0.0
    slid: float = 0.0
    slid_in: float = 0.0
    fret_s: float = 0.0
    beside: bool = False
    held: bool = False


Attacked = tuple[float, float]
"""What it costs that the string is picked between two units, and that it is not."""


def options(unit: Unit, before: list[State]) -> list[State]:
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


def fit_cost(unit: Unit, state: State, costs: Costs, *, last: bool) -> float:
    """What a unit's pitch costs in a state."""
    length = unit.last - unit.first
    frames = min(max(length - 2 * EDGE_FREE, 0.4 * length), costs.most_frames)
    if state.slid:
        if state.slid == PUSH:
            rest = max(0, length - PUSH_FRAMES)  # a bend on its way does not rest
            reached = -0.4 <= unit.level - state.fretted <= WIDEST_PUSH
            return costs.push_frame * length + costs.push_rest * rest + (0.0 if reached else 50.0)
        if state.slid == OVER:
            stray = 0.0 if abs(unit.level - round(unit.level)) < 0.15 else 0.7
            stray += costs.into_rest * max(0, length - STOP_FRAMES)
            return costs.over_frame * length + stray + (50.0 if last else 0.0)
        stray = 0.7 if state.slid == INTO and abs(unit.level - round(unit.level)) > 0.15 else 0.0
        if state.slid == INTO:
            nowhere = 50.0 if last else 0.0  # who slides in arrives
            return costs.into_frame * length + stray + costs.into_rest * max(0, length - INTO_FRAMES) + nowhere
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
        misfit = costs.frame * frames * min(far * far / 2, costs.most_misfit)
        return size * min(1.0, frames / 8) + misfit + (costs.wrong_fret if abs(off) > 0.6 else 0.0)
    misfit = min((off / costs.spread) ** 2 / 2, costs.most_misfit)
    return costs.frame * frames * misfit + (costs.wrong_fret if abs(off) > 0.6 else 0.0)


def begun_cost(state: State, link: Link, costs: Costs) -> tuple[float, str]:
    """What it costs to begin a note from silence in a state."""
    if state.slid == INTO:
        return costs.slide_in - costs.slid_in * link.slid_in, INTO
    if state.slid or state.bend < 0:
        return 50.0, "pick"
    pick = max(link.pick, costs.gap_pick)
    return -math.log(pick) + (costs.prebend + SIZES[state.bend] if state.bend > 0 else 0.0), "pick"


def step_cost(
    before: State, state: State, left: Unit, unit: Unit, link: Link, attack: Attacked, costs: Costs
) -> tuple[float, str]:
    """The cheapest way from one unit's state to the next one's, and its name."""
    picked, unpicked = attack
    if link.silent:
        lost = unpicked + 20 * link.seconds  # a quick slide is lost for a moment
        if state.slid == AWAY and link.seconds < LOST_S and (unit.level - left.level) * state.bend > LOST_AWAY:
            return lost + costs.slide_away, "same"
        cost, how = begun_cost(state, link, costs)
        led = not state.slid and state.bend == 0 == before.bend and not before.slid
        if led and link.seconds < LOST_S and link.slid > LOST_HEARD and abs(state.fretted - before.fretted) > 1:
            slide = lost + costs.slide - costs.slid * link.slid
            if slide < cost:
                return slide, "slide"
        if state == before and link.seconds < 0.12 and not state.slid:  # lost for a moment
            stay = unpicked + 2.0 + 20 * link.seconds
            if stay < cost:
                return stay, "same"
        return cost, how
    if before.slid == AWAY:
        if state.slid == AWAY:
            stray = unit.last - unit.first <= PUSH_FRAMES  # what is let go wanders at its end
            goes_on = state.bend == before.bend and (stray or (unit.level - left.level) * before.bend > -0.1)
            rest = costs.into_rest * max(0, left.last - left.first - STOP_FRAMES)
            return (unpicked + rest - max(_heard(link, costs), 0.0) if goes_on else 50.0), "same"
        if state.slid or state.bend < 0:
            return 50.0, "pick"
        return picked + 1.0 + (costs.prebend + SIZES[state.bend] if state.bend else 0.0), "pick"
    if before.slid == INTO:
        onward = (unit.level - left.level) * before.bend
        goes_on = state.slid == INTO and state.bend == before.bend
        if not (goes_on and onward > -0.1) and not (onward >= 0.3 and state == State(state.fretted, 0.0)):
            return 50.0, "same"
        heard = _heard(link, costs)
        if goes_on:
            return unpicked - max(heard, 0.0), "same"
        quick = _fret_by_fret(left, unit, link, costs)
        return min(unpicked, costs.false_pick) + quick - _seen(link, costs) - heard, "same"
    if before.slid == OVER:
        onward = (unit.level - left.level) * before.bend
        goes_on = state.slid == OVER and state.bend == before.bend
        if onward < 0 or not (goes_on or state == State(state.fretted, 0.0)):
            return 50.0, "same"
        heard = max(_heard(link, costs), 0.0) if goes_on else _heard(link, costs)
        return unpicked + 0.3 * _fret_by_fret(left, unit, link, costs) - heard, "same" if goes_on else "slide"
    if PUSH in (before.slid, state.slid):
        return _pushed(before, state, left, unit, link, attack, costs)
    if state.slid == OVER:
        way = math.copysign(1.0, unit.level - left.level)
        if way != state.bend or before.bend > 0.5 or abs(unit.level - left.level) < 0.5:
            return 50.0, "same"
        return unpicked + costs.slide - max(_heard(link, costs), 0.0), "same"
    if state.slid == AWAY:
        onward = (unit.level - left.level) * state.bend
        if onward < 0.3:
            return 50.0, "same"
        crept = costs.away_crept if onward < A_FRET else 0.0
        quick = _fret_by_fret(left, unit, link, costs)
        slides = _heard(link, costs) + _seen(link, costs)
        return unpicked + costs.slide_away + crept + (2.0 if before.bend else 0.0) + quick - slides, "same"
    if state.slid == INTO:
        return picked + costs.slide_in - costs.slid_in * link.slid_in, INTO
    return min(ways_between(before, state, left, unit, link, attack, costs), default=(math.inf, "pick"))


def _pushed(
    before: State, state: State, left: Unit, unit: Unit, link: Link, attack: Attacked, costs: Costs
) -> tuple[float, str]:
    """Into, along and out of a bend that is on its way."""
    picked, unpicked = attack
    if abs(unit.level - left.level) > LEAP and link.seconds < costs.too_quick_s:
        unpicked += costs.too_quick
    same = state.fretted == before.fretted
    if state.bend < 0 or before.bend < 0:
        return 50.0, "same"
    if state.slid == PUSH:
        return (unpicked + (0.0 if before.slid else costs.push) if same else 50.0), "same"
    if same and state.bend != before.bend:
        low, high = sorted((before.bend, state.bend))
        if not low - 0.5 <= left.level - state.fretted <= high + 0.5:  # what is passed lies between
            return 50.0, "same"
        quick = _quickness(2 * link.seconds, costs.move_s, costs.move_spread)
        return unpicked + _moved(before, state, costs) + 0.5 * quick + max(link.stairs, -costs.smooth), "same"
    if state.slid:
        return 50.0, "same"
    return picked + (costs.prebend + SIZES[state.bend] if state.bend else 0.0), "pick"


def attack_costs(left: Unit, unit: Unit, link: Link, costs: Costs) -> Attacked:
    pick = min(max(link.pick, costs.unlikely_pick), 1 - costs.unlikely_pick)
    glide = max(0.0, link.seconds / HOP_S - GLIDE_FRAMES) if abs(unit.level - left.level) > 0.5 else 0.0
    return costs.glide_frame * glide - math.log(pick), -math.log(1 - pick)  # a string picked anew leaps


def ways_between(
    before: State, state: State, left: Unit, unit: Unit, link: Link, attack: Attacked, costs: Costs
) -> list[tuple[float, str]]:
    """All ways from one note to itself, bent otherwise, or to another, and what each costs."""
    picked, unpicked = attack
    ways: list[tuple[float, str]] = []
    if state.fretted == before.fretted:
        stay = unpicked
        if state.bend != before.bend:
            curled = state.bend == 0.5
            usual_s, spread = (costs.curl_s, costs.curl_spread) if curled else (costs.move_s, costs.move_spread)
            stay += _quickness(link.seconds, usual_s, spread)
            stay += max(link.stairs, -costs.smooth)
            stay += costs.too_quick if link.seconds < costs.too_quick_s else 0.0
            if state.bend < 0 or before.bend < 0:
                stay += (costs.bar if state.bend < 0 else 0.5) if 0.0 in (state.bend, before.bend) else 50.0
                stay += _leap(left, unit, link, costs)
            else:
                stay += _moved(before, state, costs)
        elif abs(unit.level - left.level) > 0.18:
            far = (abs(unit.level - left.level) - 0.18) / 0.25
            stay += costs.drift * (1 + min(far * far, 10.0)) if state.bend >= 0 else _leap(left, unit, link, costs)
        ways.append((stay, "same"))
    if state.bend >= 0:
        again, held = picked, before.fretted == state.fretted
        if state.bend > 0:
            again += costs.repick if held and before.bend == state.bend else costs.prebend + SIZES[state.bend]
        ways.append((again, "repick" if state.bend > 0 and held else "pick"))
    frets = state.fretted - before.fretted - (before.bend if before.bend > 0 else 0)
    if state.bend == 0 and before.bend >= 0:
        unpicked += costs.under_held if link.held and abs(frets) <= BENT_UNDER else 0.0
        legato = unpicked + costs.legato + _quickness(link.seconds, costs.legato_s, costs.legato_spread, late=True)
        legato += costs.same_pitch if abs(frets) < 0.7 else 0.0
        legato += costs.wide_legato if abs(frets) > 5 else 0.0
        legato += costs.octave if round(abs(frets)) in (12, 19, 24) else 0.0
        legato += costs.out_of_bend if before.bend > 0.5 else 0.0
        wide = max(1.0, abs(frets))
        slide = unpicked + costs.slide + _quickness(link.seconds, costs.slide_fret_s * wide, costs.slide_spread)
        slide -= _seen(link, costs) + costs.slid * link.slid
        slide += costs.same_pitch if abs(frets) < 0.7 else 2.0 if abs(frets) < 1.5 else 0.0
        slide += costs.out_of_bend if before.bend > 0.5 else 0.0
        slide += costs.octave if abs(frets) > 12 else 0.0
        ways += [(legato, "legato"), (slide, "slide")]
    return ways


def _moved(before: State, state: State, costs: Costs) -> float:
    """What it costs to bend a string from one size to another, or to let it down."""
    kind = costs.release if state.bend < before.bend else costs.curl if state.bend == 0.5 else costs.bend
    return kind + (SIZES[state.bend] if state.bend else 0.0)


def _leap(left: Unit, unit: Unit, link: Link, costs: Costs) -> float:
    """What a move costs that is quicker than an arm moves a bar."""
    speed = abs(unit.level - left.level) / max(link.seconds, HOP_S)
    return min(costs.most_leap, costs.leap * max(0.0, speed - BAR_SPEED))


def _heard(link: Link, costs: Costs) -> float:
    """What is heard at a move that speaks for a slide, as far as it counts where frets between were seen as well."""
    return min(costs.slid * link.slid, costs.most_heard)


def _seen(link: Link, costs: Costs) -> float:
    """What the stairs of a move speak for a slide; where the hand is quick the window sees none."""
    slow = min(1.0, max(0.0, link.fret_s / costs.slide_fret_s - 1.2))
    return max(link.stairs, -costs.unseen - slow * (MOST_STAIRS - costs.unseen))


def _fret_by_fret(left: Unit, unit: Unit, link: Link, costs: Costs) -> float:
    """What a slide costs that takes longer than its frets need."""
    frets = max(1.0, abs(unit.level - left.level))
    return _quickness(link.seconds, costs.slide_fret_s * frets, costs.slide_spread, late=True)


def _quickness(seconds: float, usual_s: float, spread: float, *, late: bool = False) -> float:
    """Log-normal cost of a time; late: only what takes longer than usual costs."""
    off = math.log(max(seconds, HOP_S) / usual_s) / spread
    return 0.5 * off * off if not late or off > 0 else 0.0
