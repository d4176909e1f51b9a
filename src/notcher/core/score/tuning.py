"""A tuned neck: open strings, capo, distance from concert pitch; frequencies of pitches."""

import re
from dataclasses import dataclass

from notcher.core.errors import NotcherError

CONCERT_A_HZ, CONCERT_A_MIDI = 440.0, 69
"""ISO 16:1975."""


class TuningError(NotcherError):
    """A tuning that no one can read."""


def midi_to_hz(midi: float, *, offset_cents: float = 0.0) -> float:
    """Return the frequency of a pitch in equal temperament, hertz. Source: ISO 16:1975 for A = 440 Hz."""
    return float(CONCERT_A_HZ * 2 ** ((midi - CONCERT_A_MIDI + offset_cents / 100) / 12))


@dataclass(frozen=True, slots=True)
class Tuning:
    """Open strings as MIDI numbers, highest string first; a capo at a fret; cents above or below A = 440 Hz.

    Frets are counted from the nut; a capo makes the frets below it unplayable.
    """

    open_midi: tuple[float, ...] = (64, 59, 55, 50, 45, 40)
    capo: int = 0
    offset_cents: float = 0.0

    def __post_init__(self) -> None:
        if not 4 <= len(self.open_midi) <= 8 or not all(12 <= midi <= 88 for midi in self.open_midi):
            raise ValueError(f"a neck has 4 to 8 strings between C0 and E6: {self.open_midi}")
        if not 0 <= self.capo <= 12 or not abs(self.offset_cents) <= 100:
            raise ValueError("a capo sits at fret 0..12, and the offset is at most a semitone")

    @property
    def strings(self) -> int:
        return len(self.open_midi)

    @property
    def shift(self) -> int:
        """How much higher than on a standard neck the highest string sounds, semitones: what is called E sounds so."""
        return round(self.open_midi[0]) - 64

    def midi(self, string: int, fret: int) -> float:
        """Return the fretted pitch of a place; raises ValueError for a string the neck does not have."""
        if not 1 <= string <= self.strings:
            raise ValueError(f"this neck has no string {string}")
        return self.open_midi[string - 1] + fret


STANDARD = Tuning()
TUNINGS: dict[str, Tuning] = {
    "standard": STANDARD,
    "half-down": Tuning((63, 58, 54, 49, 44, 39)),
    "whole-down": Tuning((62, 57, 53, 48, 43, 38)),
    "drop-d": Tuning((64, 59, 55, 50, 45, 38)),
}
"""What old recordings are in nearly always; these are told from each other by ear."""
USUAL_TUNINGS: dict[str, Tuning] = TUNINGS | {
    "three-half-down": Tuning((61, 56, 52, 47, 42, 37)),
    "two-whole-down": Tuning((60, 55, 51, 46, 41, 36)),
    "drop-c-sharp": Tuning((63, 58, 54, 49, 44, 37)),
    "drop-c": Tuning((62, 57, 53, 48, 43, 36)),
    "drop-b": Tuning((61, 56, 52, 47, 42, 35)),
    "double-drop-d": Tuning((62, 59, 55, 50, 45, 38)),
    "dadgad": Tuning((62, 57, 55, 50, 45, 38)),
    "open-d": Tuning((62, 57, 54, 50, 45, 38)),
    "open-d-minor": Tuning((62, 57, 53, 50, 45, 38)),
    "open-e": Tuning((64, 59, 56, 52, 47, 40)),
    "open-e-minor": Tuning((64, 59, 55, 52, 47, 40)),
    "open-g": Tuning((62, 59, 55, 50, 43, 38)),
    "open-g-minor": Tuning((62, 58, 55, 50, 43, 38)),
    "open-a": Tuning((64, 61, 57, 52, 45, 40)),
    "open-c": Tuning((64, 60, 55, 48, 43, 36)),
    "fourths": Tuning((65, 60, 55, 50, 45, 40)),
    "seven-standard": Tuning((64, 59, 55, 50, 45, 40, 35)),
    "seven-half-down": Tuning((63, 58, 54, 49, 44, 39, 34)),
    "seven-drop-a": Tuning((64, 59, 55, 50, 45, 40, 33)),
    "eight-standard": Tuning((64, 59, 55, 50, 45, 40, 35, 30)),
    "eight-half-down": Tuning((63, 58, 54, 49, 44, 39, 34, 29)),
    "eight-drop-e": Tuning((64, 59, 55, 50, 45, 40, 35, 28)),
}
"""All that have a name; common practice, no source."""
WIDEST = USUAL_TUNINGS["eight-standard"].open_midi
"""Beside which strings that are called without their octave are sought."""


def tuning_from_text(text: str) -> Tuning:
    """Read a tuning's name or its open strings: "half-down", "E4 B3 G3 D3 A2 E2", "D A D G A D" or "DADGAD".

    With octaves they are read from whichever end they begin; without, from the lowest, as players say them, unless
    they begin with the small e of the highest string.
    Raises: TuningError.
    """
    if text in USUAL_TUNINGS:
        return USUAL_TUNINGS[text]
    try:
        if not any(letter.isdecimal() for letter in text):
            names = re.findall(r"[A-Ga-g][#b♯♭]?|\S", text)
            return _tuning_from_letters(names[::-1] if names[0].islower() and names[-1][0].isupper() else names)
        midi = [_name_to_midi(name) for name in text.replace("-", " ").split()]
        return Tuning(tuple(midi if midi[0] >= midi[-1] else reversed(midi)))
    except (ValueError, IndexError) as problem:
        raise TuningError(
            f"{text!r} is no tuning.",
            f'Give one of {", ".join(USUAL_TUNINGS)}, or the open strings: "E4 B3 G3 D3 A2 E2", or "D A D G A D" '
            "from the lowest.",
        ) from problem


def _tuning_from_letters(names: list[str]) -> Tuning:
    """Put each string, the lowest first, into the octave in which it is nearest to the usual one."""
    usual = reversed(WIDEST[: len(names)])
    midi = []
    for name, near in zip(names, usual, strict=True):
        step = _name_to_midi(f"{name}0") - 12
        midi.append(step + 12 * round((near - 0.5 - step) / 12))  # of two as near the lower: strings are let down
    return Tuning(tuple(reversed(midi)))


def _name_to_midi(name: str) -> float:
    steps = {"C": 0, "D": 2, "E": 4, "F": 5, "G": 7, "A": 9, "B": 11}
    letter, rest = name[:1].upper(), name[1:].replace("♯", "#").replace("♭", "b")
    if letter not in steps or not rest.lstrip("#b").isdecimal():
        raise ValueError(name)
    return float(steps[letter] + rest.count("#") - rest.count("b") + 12 * (int(rest.lstrip("#b")) + 1))
