"""A note: place, attack, curve, end."""

from dataclasses import dataclass
from enum import StrEnum

from notcher.core.score.gesture import Reading, read_curve
from notcher.core.score.pitch_curve import FLAT, PitchCurve, Vibrato

LAST_FRET = 24
MOST_STRINGS = 8


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


class Stroke(StrEnum):
    """Which way the pick moves."""

    DOWN = "down"
    UP = "up"


HARMONIC_PARTIALS = {12: 2, 7: 3, 5: 4, 4: 5, 3: 6, 9: 5, 16: 5, 19: 3, 24: 4}
"""Fret where an open string is touched: the partial that is left (N. Fletcher and T. Rossing, "The Physics of Musical
Instruments", 2nd ed. 1998, ch. 9: nodes of a string)."""
LEGATO_ATTACKS = frozenset({Attack.HAMMER, Attack.PULL, Attack.SLIDE, Attack.TAP})
"""Attacks without a pick: they continue the string that sounds."""


@dataclass(frozen=True, slots=True)
class Note:
    """One note of a solo. Times are seconds in the recording; string 1 is the highest; the curve is from the fret.

    slip: the player's own, kept as played. checked: held against the recording by a person, and meant as it stands.
    """

    onset_s: float
    offset_s: float
    string: int
    fret: int
    attack: Attack = Attack.PICK
    curve: PitchCurve = FLAT
    vibrato: Vibrato | None = None
    end: End = End.STOPS
    tone: Tone = Tone.NORMAL
    raked: bool = False
    finger: int | None = None
    stroke: Stroke | None = None
    garnish: bool = False
    slip: bool = False
    checked: bool = False
    certainty: float = 1.0
    doubt: str = ""
    remark: str = ""
    locked: bool = False

    def __post_init__(self) -> None:
        if not 0 <= self.onset_s < self.offset_s < 1e6:
            raise ValueError(f"a note must end after it starts: {self.onset_s} s to {self.offset_s} s")
        if not (1 <= self.string <= MOST_STRINGS and 0 <= self.fret <= LAST_FRET):
            raise ValueError(f"no such place: string {self.string}, fret {self.fret}")
        if not 0 <= self.certainty <= 1:
            raise ValueError("certainty lies between 0 and 1")

    @property
    def duration_s(self) -> float:
        return self.offset_s - self.onset_s

    @property
    def reading(self) -> Reading:
        """What the curve is called."""
        return read_curve(self.curve, self.vibrato, self.duration_s)
