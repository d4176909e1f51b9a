"""The words that a note's parts are chosen from: how it begins, sounds, ends, and which way the pick goes."""

import math
from enum import StrEnum


class Attack(StrEnum):
    """How a note begins."""

    PICK = "pick"
    HAMMER = "hammer"
    PULL = "pull"
    TAP = "tap"
    SLIDE = "slide"
    REPICK = "repick"
    SWELL = "swell"


class End(StrEnum):
    """How a note ends."""

    RINGS = "rings"
    STOPS = "stops"
    CHOKED = "choked"
    SLIDES_AWAY = "slides_away"
    RUNS_ON = "runs_on"


class Tone(StrEnum):
    """What kind of sound it has."""

    NORMAL = "normal"
    NATURAL_HARMONIC = "natural_harmonic"
    SQUEAL_HARMONIC = "squeal_harmonic"
    TAPPED_HARMONIC = "tapped_harmonic"
    PALM_MUTE = "palm_mute"
    DEAD = "dead"


class PickStroke(StrEnum):
    """Which way the pick moves."""

    DOWN = "down"
    UP = "up"


HARMONIC_PARTIALS = {12: 2, 7: 3, 5: 4, 4: 5, 3: 6, 2: 9, 9: 5, 16: 5, 19: 3, 24: 4}
"""Fret where an open string is touched: the partial that is left (N. Fletcher and T. Rossing, "The Physics of Musical
Instruments", 2nd ed. 1998, ch. 9: nodes of a string)."""
HIGHEST_PARTIAL = 9
"""Above it nodes lie closer than a finger is wide."""
HARMONIC_TONES = frozenset({Tone.NATURAL_HARMONIC, Tone.SQUEAL_HARMONIC, Tone.TAPPED_HARMONIC})
LEGATO_ATTACKS = frozenset({Attack.HAMMER, Attack.PULL, Attack.SLIDE, Attack.TAP})
"""Attacks without a pick: they continue the string that sounds."""


def partials_near(fret: int) -> tuple[int, ...]:
    """Return the partials that are left when an open string is touched within half a fret of one, the nearest first.

    The nodes of partial n divide the string in n; where a fret lies see `neck.fret_position_mm`.
    """
    found: dict[int, float] = {}
    for partial in range(2, HIGHEST_PARTIAL + 1):
        for node in range(1, partial):
            off = abs(-12.0 * math.log2(1.0 - node / partial) - fret)
            if math.gcd(node, partial) == 1 and off <= 0.5:
                found[partial] = min(off, found.get(partial, off))
    return tuple(sorted(found, key=found.__getitem__))
