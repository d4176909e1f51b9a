"""A note: place, attack, pitch curve, end."""

from dataclasses import dataclass, field

import numpy as np

from notcher.core.arrays import FloatArray
from notcher.core.score.doubt import Doubt
from notcher.core.score.gesture import CARELESS_SEMITONES, GestureName, read_curve
from notcher.core.score.limits import LAST_QUARTER, LAST_S, REMARK_CHARS, check_text
from notcher.core.score.pitch_curve import FLAT, PitchCurve, Vibrato
from notcher.core.score.vocabulary import HARMONIC_TONES, HIGHEST_PARTIAL, Attack, End, PickStroke, Tone

LAST_FRET = 24  # of the longest usual necks
MOST_STRINGS = 8  # of the widest usual necks
LINK_S = 0.05
"""A string that was left shorter ago than this still sounds for what follows on it: eight analysis frames of 5.8 ms."""


@dataclass(frozen=True, slots=True)
class NoteAlternative:
    """Another way to hear a note and what is around it.

    p: how likely, 0..1. begins_s, ends_s: the stretch that it explains otherwise, from the note's onset. notes: what it
    writes there, their times from `begins_s`. at: which of them stands in the place of the note.
    """

    p: float
    begins_s: float
    ends_s: float
    notes: "tuple[Note, ...]"
    at: int = 0

    def __post_init__(self) -> None:
        if not (0 <= self.p <= 1 and self.begins_s < self.ends_s and 0 <= self.at < len(self.notes)):
            raise ValueError("no such reading")


@dataclass(frozen=True, slots=True)
class Note:
    """One note of a solo. Times are seconds in the recording; string 1 is the highest; the curve is from the fret.

    muted: with the palm besides, where its tone is a harmonic. partial: which one sounds of a touched string, where its
    fret alone does not say it; 0 for the usual one. slid_in: the hand slides into it from no fret. slip: the player's
    own, kept as played. checked: held against the recording by a person, and meant as it stands.
    division, starts_at: what the instructor says of the rhythm: into what the note's beat is divided (a name out of
    `rhythm.GRIDS`), and on which quarter the note is written; the reading of the rhythm obeys both.
    source: in a variant, the id of the note it is derived from. readings: what else was heard in it. id: see
    `identity`; a score gives one to a note that has none. Notes that say the same are equal, whichever they are.
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
    muted: bool = False
    partial: int = 0
    raked: bool = False
    slid_in: bool = False
    finger: int | None = None
    stroke: PickStroke | None = None
    garnish: bool = False
    slip: bool = False
    checked: bool = False
    certainty: float = 1.0
    doubt: Doubt | None = None
    remark: str = ""
    locked: bool = False
    division: str = ""
    starts_at: float | None = None
    source: str = ""
    readings: tuple[NoteAlternative, ...] = field(default=(), compare=False)
    id: str = field(default="", compare=False)

    def __post_init__(self) -> None:
        if not 0 <= self.onset_s < self.offset_s:
            raise ValueError(f"a note must end after it starts: {self.onset_s} s to {self.offset_s} s")
        if not self.offset_s <= LAST_S:
            raise ValueError(f"a solo ends within an hour: no note at {self.offset_s:.0f} s")
        if not (1 <= self.string <= MOST_STRINGS and 0 <= self.fret <= LAST_FRET):
            raise ValueError(f"no such place: string {self.string}, fret {self.fret}")
        if not 0 <= self.certainty <= 1:
            raise ValueError("certainty lies between 0 and 1")
        if not (self.partial == 0 or 2 <= self.partial <= HIGHEST_PARTIAL):
            raise ValueError(f"no harmonic sounds partial {self.partial}")
        if self.starts_at is not None and not abs(self.starts_at) <= LAST_QUARTER:
            raise ValueError(f"no note is written on quarter {self.starts_at}")
        if self.remark:
            check_text(self.remark, REMARK_CHARS, "a remark")

    @property
    def duration_s(self) -> float:
        return self.offset_s - self.onset_s

    @property
    def palm_muted(self) -> bool:
        """Whether the palm lies on the string."""
        return self.tone is Tone.PALM_MUTE or (self.muted and self.tone in HARMONIC_TONES)

    @property
    def reading(self) -> GestureName:
        """What the curve is called."""
        return read_curve(self.curve, self.vibrato, self.duration_s)

    @property
    def bent(self) -> bool:
        """Whether the pitch is held so far from the fret that it is a bend and no careless finger."""
        return abs(self.reading.bend_semitones) >= CARELESS_SEMITONES

    def deviation_at(self, times_s: FloatArray | float) -> FloatArray:
        """Return semitones from the fretted pitch at each time after the onset: pitch curve and vibrato together."""
        times = np.asarray(times_s, dtype=np.float64)
        semitones = self.curve.at(times)
        return semitones if self.vibrato is None else semitones + self.vibrato.at(times)

    def leads_to(self, following: "Note") -> bool:
        """Whether the string still sounds when another note begins on it."""
        return following.string == self.string and following.onset_s - self.offset_s < LINK_S

    def overlap_s(self, other: "Note") -> float:
        """Return for how long two notes sound together, seconds; negative for the rest between them."""
        return min(self.offset_s, other.offset_s) - max(self.onset_s, other.onset_s)
