"""What a finger may do from one plateau of the pitch to the next, and what that costs: a state machine.

A state is a fretted pitch, the bend held there and the act that the finger is in. `NEXT` says for each pair of acts
which rule prices the step between them; what is not in it no hand does.
"""

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from enum import IntEnum, StrEnum

from notcher.core.hearing.contour import Unit
from notcher.core.hearing.costs import (
    A_FRET,
    AWAY_FRAMES,
    BAR_SPEED,
    BENT_UNDER,
    EDGE_FREE,
    GLIDE_FRAMES,
    INTO_FRAMES,
    LEAP,
    LOST_AWAY,
    LOST_HEARD,
    LOST_S,
    MOST_STAIRS,
    NEAR,
    PUSH_FRAMES,
    SIZES,
    STOP_FRAMES,
    WIDEST_PUSH,
    Costs,
)
from notcher.core.hearing.pitch import HOP_S


class Act(IntEnum):
    """What the finger does on a plateau."""

    HOLDS = 0  # at its fret, bent or not
    BAR = 1  # at its fret, while the bar pulls the pitch below it
    SLIDES_IN = 2  # on the way from no fret
    SLIDES_OFF = 3  # on the way to no fret
    PASSES = 4  # sliding past frets to one
    PUSHES = 5  # between two bends of one fret


class Way(StrEnum):
    """How a plateau is come by."""

    SAME = "same"  # the note goes on
    PICK = "pick"
    REPICK = "repick"
    LEGATO = "legato"
    SLIDE = "slide"
    INTO = "into"  # struck on the way from no fret


HOLDS, BAR, SLIDES_IN, SLIDES_OFF, PASSES, PUSHES = Act
SAME, PICK, REPICK, LEGATO, SLIDE, INTO = Way  # looked up often
FRETTED = (HOLDS, BAR)
UNDER_BAR = -1.0
"""What stands for the bend that is held while a bar pulls: below the fret, anywhere."""
UP, DOWN = 1, -1  # signs of a change of pitch


@dataclass(frozen=True, slots=True)
class FingerState:
    """A fretted pitch (whole semitones), the bend held, in semitones, what the finger does, and on a slide which way.

    While it slides, fretted is the fret that it is over.
    """

    fretted: int
    bend: float
    act: Act = HOLDS
    direction: int = 0

    @property
    def flat(self) -> bool:
        """Whether the string is fretted and not bent."""
        return self.act is HOLDS and self.bend == 0


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


@dataclass(frozen=True, slots=True)
class Transition:
    """From one unit to the next: the two, what lies between, and what it costs that the string is picked, or is not.

    rise: semitones from the one to the other.
    """

    left: Unit
    unit: Unit
    link: Link
    picked: float
    unpicked: float
    rise: float


Priced = tuple[float, Way]
Rule = Callable[[FingerState, FingerState, Transition, Costs], Priced]


def transition_between(before: Unit, unit: Unit, link: Link, costs: Costs) -> Transition:
    """Return the passage from one unit to the next."""
    rise = unit.level - before.level
    pick = min(max(link.pick, costs.unlikely_pick), 1 - costs.unlikely_pick)
    glide = max(0.0, link.seconds / HOP_S - GLIDE_FRAMES) if abs(rise) > 0.5 else 0.0
    # a string picked anew leaps
    return Transition(before, unit, link, costs.glide_frame * glide - math.log(pick), -math.log(1 - pick), rise)


def options(unit: Unit, before: list[FingerState]) -> list[FingerState]:
    """Return the states that a unit could be: each fret and bend that meets its pitch, and those that simply go on."""
    levels = {unit.level}
    if unit.wave is not None:
        levels.add(unit.level - unit.wave.extent)
    finger_states: dict[FingerState, None] = {}
    for level in levels:
        for bend in (0.0, *SIZES):
            fretted = round(level - bend)
            if abs(level - bend - fretted) < NEAR:
                finger_states[FingerState(fretted, bend)] = None
        finger_states[FingerState(math.floor(level - 0.2), 0.5)] = None
    for state in before:
        if state.act in (HOLDS, PUSHES):
            finger_states[FingerState(state.fretted, state.bend)] = None
            finger_states[FingerState(state.fretted, state.bend, PUSHES)] = None
        elif state.act is BAR:
            finger_states[state] = None
        if state.act in FRETTED and state.fretted - unit.level > 0.3:
            finger_states[FingerState(state.fretted, UNDER_BAR, BAR)] = None
    for direction in (UP, DOWN):  # a slide keeps its direction
        for act in (PASSES, SLIDES_IN, SLIDES_OFF):
            finger_states[FingerState(round(unit.level), 0.0, act, direction)] = None
    return list(finger_states)


# --- what a unit's pitch costs in a state ---
def fit_cost(unit: Unit, state: FingerState, costs: Costs, *, last: bool) -> float:
    """Return what a unit's pitch costs in a state. last: a silence follows."""
    return FITS[state.act](unit, state, costs, last)


def _frames(unit: Unit, costs: Costs) -> float:
    """How many frames of a unit speak: not those at its edges, and of a long one no more than some."""
    length = unit.last - unit.first
    return min(max(length - 2 * EDGE_FREE, 0.4 * length), costs.most_frames)


def _off_fret(unit: Unit) -> bool:
    return abs(unit.level - round(unit.level)) > 0.15


def _fits_held(unit: Unit, state: FingerState, costs: Costs, _last: bool) -> float:
    frames, off = _frames(unit, costs), unit.level - state.fretted - state.bend
    if unit.wave is not None:  # a finger's wave stands on the fret, or swings around it
        off = min(off, off - unit.wave.extent, key=abs)
    if state.bend == 0.5:
        off = max(0.0, abs(off) - 0.25)
    wrong = costs.wrong_fret if abs(off) > 0.6 else 0.0
    if state.bend > 0:
        size = min(abs(off) / costs.size_std, costs.most_size)
        far = max(0.0, abs(off) - 0.3) / costs.std
        misfit = costs.frame * frames * min(far * far / 2, costs.most_misfit)
        return size * min(1.0, frames / 8) + misfit + wrong
    misfit = min((off / costs.std) ** 2 / 2, costs.most_misfit)
    return costs.frame * frames * misfit + wrong


def _fits_bar(unit: Unit, state: FingerState, costs: Costs, _last: bool) -> float:
    """A bar pulls anywhere below the fret, for a while."""
    low = unit.level < state.fretted - 0.3
    missed = 0.0 if low else costs.most_misfit * costs.frame * _frames(unit, costs)
    return costs.bar_frame * (unit.last - unit.first) + missed


def _fits_pushed(unit: Unit, state: FingerState, costs: Costs, _last: bool) -> float:
    length = unit.last - unit.first
    rest = max(0, length - PUSH_FRAMES)  # a bend on its way does not rest
    reached = -0.4 <= unit.level - state.fretted <= WIDEST_PUSH
    return costs.push_frame * length + costs.push_rest * rest + (0.0 if reached else costs.impossible)


def _fits_passed(unit: Unit, _state: FingerState, costs: Costs, last: bool) -> float:
    length = unit.last - unit.first
    stray = 0.0 if abs(unit.level - round(unit.level)) < 0.15 else 0.7
    stray += costs.into_rest * max(0, length - STOP_FRAMES)
    return costs.over_frame * length + stray + (costs.impossible if last else 0.0)


def _fits_slid_in(unit: Unit, _state: FingerState, costs: Costs, last: bool) -> float:
    length, stray = unit.last - unit.first, 0.7 if _off_fret(unit) else 0.0
    nowhere = costs.impossible if last else 0.0  # a slide-in must end on a fret
    return costs.into_frame * length + stray + costs.into_rest * max(0, length - INTO_FRAMES) + nowhere


def _fits_slid_off(unit: Unit, _state: FingerState, costs: Costs, last: bool) -> float:
    length = unit.last - unit.first
    if last:  # where the string was let go it still rings a little
        return costs.away_frame * min(length, AWAY_FRAMES // 3) + 0.3 * max(0, length - 2 * AWAY_FRAMES)
    return costs.away_frame * length + 0.3 * max(0, length - AWAY_FRAMES)


FITS: Mapping[Act, Callable[[Unit, FingerState, Costs, bool], float]] = {
    HOLDS: _fits_held,
    BAR: _fits_bar,
    PUSHES: _fits_pushed,
    PASSES: _fits_passed,
    SLIDES_IN: _fits_slid_in,
    SLIDES_OFF: _fits_slid_off,
}


# --- what a step costs ---
def begun_cost(state: FingerState, link: Link, costs: Costs) -> Priced:
    """Return what it costs to begin a note from silence in a state."""
    if state.act is SLIDES_IN:
        return costs.slide_in - costs.slid_in * link.slid_in, INTO
    if state.act is not HOLDS:
        return costs.impossible, PICK
    pick = max(link.pick, costs.gap_pick)
    return -math.log(pick) + _prebent(state, costs), PICK


def step_cost(before: FingerState, state: FingerState, passage: Transition, costs: Costs) -> Priced:
    """Return the cheapest way from one unit's state to the next one's, and its name."""
    if passage.link.silent:
        return _across_silence(before, state, passage, costs)
    rule = NEXT.get((before.act, state.act))
    return (costs.impossible, SAME) if rule is None else rule(before, state, passage, costs)


def _across_silence(before: FingerState, state: FingerState, passage: Transition, costs: Costs) -> Priced:
    """A new note, unless the pitch was only lost for a moment: of a quick slide, or of the same note."""
    link = passage.link
    lost = passage.unpicked + 20 * link.seconds
    if state.act is SLIDES_OFF and link.seconds < LOST_S and passage.rise * state.direction > LOST_AWAY:
        return lost + costs.slide_away, SAME
    cost, way = begun_cost(state, link, costs)
    far = abs(state.fretted - before.fretted) > 1
    if state.flat and before.flat and far and link.seconds < LOST_S and link.slid > LOST_HEARD:
        slide = lost + costs.slide - costs.slid * link.slid
        if slide < cost:
            return slide, SLIDE
    if state == before and link.seconds < 0.12 and state.act in FRETTED:
        stay = passage.unpicked + 2.0 + 20 * link.seconds
        if stay < cost:
            return stay, SAME
    return cost, way


def _slides_on_off(before: FingerState, state: FingerState, passage: Transition, costs: Costs) -> Priced:
    left_unit, unit = passage.left, passage.unit
    stray = unit.last - unit.first <= PUSH_FRAMES  # what is let go wanders at its end
    if state.direction != before.direction or not (stray or passage.rise * before.direction > -0.1):
        return costs.impossible, SAME
    rest = costs.into_rest * max(0, left_unit.last - left_unit.first - STOP_FRAMES)
    return passage.unpicked + rest - max(_heard(passage.link, costs), 0.0), SAME


def _picked_after_slide_off(_before: FingerState, state: FingerState, passage: Transition, costs: Costs) -> Priced:
    return passage.picked + 1.0 + _prebent(state, costs), PICK


def _slides_on_in(before: FingerState, state: FingerState, passage: Transition, costs: Costs) -> Priced:
    if state.direction != before.direction or passage.rise * before.direction <= -0.1:
        return costs.impossible, SAME
    return passage.unpicked - max(_heard(passage.link, costs), 0.0), SAME


def _arrives_from_nowhere(before: FingerState, state: FingerState, passage: Transition, costs: Costs) -> Priced:
    if state.bend != 0 or passage.rise * before.direction < 0.3:
        return costs.impossible, SAME
    link, quick = passage.link, _fret_by_fret(passage, costs)
    return min(passage.unpicked, costs.false_pick) + quick - _seen(link, costs) - _heard(link, costs), SAME


def _passes_on(before: FingerState, state: FingerState, passage: Transition, costs: Costs) -> Priced:
    if passage.rise * before.direction < 0 or state.direction != before.direction:
        return costs.impossible, SAME
    slow = 0.3 * _fret_by_fret(passage, costs)
    return passage.unpicked + slow - max(_heard(passage.link, costs), 0.0), SAME


def _arrives_past_frets(before: FingerState, state: FingerState, passage: Transition, costs: Costs) -> Priced:
    if passage.rise * before.direction < 0 or state.bend != 0:
        return costs.impossible, SAME
    return passage.unpicked + 0.3 * _fret_by_fret(passage, costs) - _heard(passage.link, costs), SLIDE


def _begins_to_pass(before: FingerState, state: FingerState, passage: Transition, costs: Costs) -> Priced:
    rise = passage.rise
    if math.copysign(1, rise) != state.direction or before.bend > 0.5 or abs(rise) < 0.5:
        return costs.impossible, SAME
    return passage.unpicked + costs.slide - max(_heard(passage.link, costs), 0.0), SAME


def _begins_to_slide_off(before: FingerState, state: FingerState, passage: Transition, costs: Costs) -> Priced:
    onward = passage.rise * state.direction
    if onward < 0.3:
        return costs.impossible, SAME
    crept = costs.away_crept if onward < A_FRET else 0.0
    quick = _fret_by_fret(passage, costs)
    slides = _heard(passage.link, costs) + _seen(passage.link, costs)
    return passage.unpicked + costs.slide_away + crept + (2.0 if before.bend else 0.0) + quick - slides, SAME


def _begins_to_slide_in(_before: FingerState, _state: FingerState, passage: Transition, costs: Costs) -> Priced:
    return passage.picked + costs.slide_in - costs.slid_in * passage.link.slid_in, INTO


def _pushed_unpicked(passage: Transition, costs: Costs) -> float:
    """That no attack is in a push of the string; no finger pushes so far from one frame to the next."""
    leaps = abs(passage.rise) > LEAP and passage.link.seconds < costs.too_quick_s
    return passage.unpicked + costs.too_quick if leaps else passage.unpicked


def _begins_to_push(before: FingerState, state: FingerState, passage: Transition, costs: Costs) -> Priced:
    if state.fretted != before.fretted:
        return costs.impossible, SAME
    return _pushed_unpicked(passage, costs) + costs.push, SAME


def _pushes_on(before: FingerState, state: FingerState, passage: Transition, costs: Costs) -> Priced:
    if state.fretted != before.fretted:
        return costs.impossible, SAME
    return _pushed_unpicked(passage, costs), SAME


def _push_arrives(before: FingerState, state: FingerState, passage: Transition, costs: Costs) -> Priced:
    if state.fretted != before.fretted or state.bend == before.bend:
        return passage.picked + _prebent(state, costs), PICK
    low, high = sorted((before.bend, state.bend))
    if not low - 0.5 <= passage.left.level - state.fretted <= high + 0.5:  # what is passed lies between
        return costs.impossible, SAME
    quick = _quickness(2 * passage.link.seconds, costs.move_s, costs.move_std)
    pushed = _pushed_unpicked(passage, costs) + _moved(before, state, costs)
    return pushed + 0.5 * quick + max(passage.link.stairs, -costs.smooth), SAME


def _push_slides_on(before: FingerState, state: FingerState, passage: Transition, costs: Costs) -> Priced:
    """A push that goes over into a slide upward: priced as if it arrived a half step above its fret."""
    arrives = FingerState(state.fretted, 1.0)
    if state.direction != UP or state.fretted != before.fretted or before.bend == arrives.bend:
        return costs.impossible, SAME
    return _push_arrives(before, arrives, passage, costs)


def _to_a_note(before: FingerState, state: FingerState, passage: Transition, costs: Costs) -> Priced:
    return min(ways_between(before, state, passage, costs), default=(math.inf, PICK))


NEXT: Mapping[tuple[Act, Act], Rule] = {
    (HOLDS, HOLDS): _to_a_note,
    (HOLDS, BAR): _to_a_note,
    (HOLDS, PUSHES): _begins_to_push,
    (HOLDS, PASSES): _begins_to_pass,
    (HOLDS, SLIDES_OFF): _begins_to_slide_off,
    (HOLDS, SLIDES_IN): _begins_to_slide_in,
    (BAR, HOLDS): _to_a_note,
    (BAR, BAR): _to_a_note,
    (BAR, PASSES): _begins_to_pass,
    (BAR, SLIDES_OFF): _begins_to_slide_off,
    (BAR, SLIDES_IN): _begins_to_slide_in,
    (PUSHES, PUSHES): _pushes_on,
    (PUSHES, HOLDS): _push_arrives,
    (PUSHES, PASSES): _push_slides_on,
    (PUSHES, SLIDES_OFF): _push_slides_on,
    (PUSHES, SLIDES_IN): _push_slides_on,
    (PASSES, PASSES): _passes_on,
    (PASSES, HOLDS): _arrives_past_frets,
    (SLIDES_IN, SLIDES_IN): _slides_on_in,
    (SLIDES_IN, HOLDS): _arrives_from_nowhere,
    (SLIDES_OFF, SLIDES_OFF): _slides_on_off,
    (SLIDES_OFF, HOLDS): _picked_after_slide_off,
}
"""What a finger may do next, and the rule that prices it."""


# --- from note to note ---
def ways_between(before: FingerState, state: FingerState, passage: Transition, costs: Costs) -> list[Priced]:
    """Return all ways from one fretted state to another, and what each costs: on, picked, by legato, slid."""
    ways: list[Priced] = []
    if state.fretted == before.fretted:
        ways.append((_goes_on(before, state, passage, costs), SAME))
    if state.act is HOLDS:
        ways.append(_picked(before, state, passage, costs))
        if state.bend == 0 and before.act is HOLDS:
            frets = state.fretted - before.fretted - (before.bend if before.bend > 0 else 0)
            held_cost = costs.under_held if passage.link.held and abs(frets) <= BENT_UNDER else 0.0
            unpicked = passage.unpicked + held_cost
            ways.append((_by_legato(before, abs(frets), unpicked, passage.link, costs), LEGATO))
            ways.append((_slid(before, abs(frets), unpicked, passage.link, costs), SLIDE))
    return ways


def _goes_on(before: FingerState, state: FingerState, passage: Transition, costs: Costs) -> float:
    """The note stays: bent further, let down, pulled by the bar, or nothing of that."""
    link, cost, rise = passage.link, passage.unpicked, abs(passage.rise)
    under_bar = BAR in (before.act, state.act)
    if state.bend != before.bend:
        curled = state.bend == 0.5
        usual_s, spread = (costs.curl_s, costs.curl_std) if curled else (costs.move_s, costs.move_std)
        cost += _quickness(link.seconds, usual_s, spread)
        cost += max(link.stairs, -costs.smooth)
        cost += costs.too_quick if link.seconds < costs.too_quick_s else 0.0
        if not under_bar:
            return cost + _moved(before, state, costs)
        from_rest = 0.0 in (state.bend, before.bend)
        cost += (costs.bar if state.act is BAR else 0.5) if from_rest else costs.impossible
        return cost + _leap(passage, costs)
    if rise > 0.18:
        far = (rise - 0.18) / 0.25
        cost += _leap(passage, costs) if under_bar else costs.drift * (1 + min(far * far, 10.0))
    return cost


def _picked(before: FingerState, state: FingerState, passage: Transition, costs: Costs) -> Priced:
    """The string is picked: for another note, or again while it is bent."""
    if state.bend == 0:
        return passage.picked, PICK
    if before.fretted != state.fretted:
        return passage.picked + _prebent(state, costs), PICK
    again = costs.repick if before.bend == state.bend else _prebent(state, costs)
    return passage.picked + again, REPICK


def _by_legato(before: FingerState, frets: float, unpicked: float, link: Link, costs: Costs) -> float:
    cost = unpicked + costs.legato + _quickness(link.seconds, costs.legato_s, costs.legato_std, late=True)
    cost += costs.same_pitch if frets < 0.7 else 0.0
    cost += costs.wide_legato if frets > 5 else 0.0
    cost += costs.octave if round(frets) in (12, 19, 24) else 0.0
    return cost + (costs.out_of_bend if before.bend > 0.5 else 0.0)


def _slid(before: FingerState, frets: float, unpicked: float, link: Link, costs: Costs) -> float:
    usual_s = costs.slide_fret_s * max(1.0, frets)
    cost = unpicked + costs.slide + _quickness(link.seconds, usual_s, costs.slide_std)
    cost -= _seen(link, costs) + costs.slid * link.slid
    cost += costs.same_pitch if frets < 0.7 else 2.0 if frets < 1.5 else 0.0
    cost += costs.out_of_bend if before.bend > 0.5 else 0.0
    return cost + (costs.octave if frets > 12 else 0.0)


def _prebent(state: FingerState, costs: Costs) -> float:
    """What it costs that a string is bent before it is struck."""
    return costs.prebend + SIZES[state.bend] if state.bend > 0 else 0.0


def _moved(before: FingerState, state: FingerState, costs: Costs) -> float:
    """What it costs to bend a string from one size to another, or to let it down."""
    kind = costs.release if state.bend < before.bend else costs.curl if state.bend == 0.5 else costs.bend
    return kind + (SIZES[state.bend] if state.bend else 0.0)


def _leap(passage: Transition, costs: Costs) -> float:
    """What a move costs that is quicker than an arm moves a bar."""
    speed = abs(passage.rise) / max(passage.link.seconds, HOP_S)
    return min(costs.most_leap, costs.leap * max(0.0, speed - BAR_SPEED))


def _heard(link: Link, costs: Costs) -> float:
    """What is heard at a move that speaks for a slide, as far as it counts where frets between were seen as well."""
    return min(costs.slid * link.slid, costs.most_heard)


def _seen(link: Link, costs: Costs) -> float:
    """What the stairs of a move speak for a slide; where the hand is quick the window sees none."""
    slow = min(1.0, max(0.0, link.fret_s / costs.slide_fret_s - 1.2))
    return max(link.stairs, -costs.unseen - slow * (MOST_STAIRS - costs.unseen))


def _fret_by_fret(passage: Transition, costs: Costs) -> float:
    """What a slide costs that takes longer than its frets need."""
    frets = max(1.0, abs(passage.rise))
    return _quickness(passage.link.seconds, costs.slide_fret_s * frets, costs.slide_std, late=True)


def _quickness(seconds: float, usual_s: float, spread: float, *, late: bool = False) -> float:
    """Log-normal cost of a time; late: only what takes longer than usual costs."""
    off = math.log(max(seconds, HOP_S) / usual_s) / spread
    return 0.5 * off * off if not late or off > 0 else 0.0
