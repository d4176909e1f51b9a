"""A tuned neck: open strings, capo, distance from concert pitch; frequencies of pitches."""

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


def tuning_from_text(text: str) -> Tuning:
    """Read a tuning's name or its open strings, highest first: "half-down" or "E4 B3 G3 D3 A2 E2".

    Raises: TuningError.
    """
    if text in TUNINGS:
        return TUNINGS[text]
    try:
        return Tuning(tuple(_name_to_midi(name) for name in text.split()))
    except ValueError as problem:
        raise TuningError(
            f"{text!r} is no tuning.",
            f'Give one of {", ".join(TUNINGS)}, or the open strings from the highest: "E4 B3 G3 D3 A2 E2".',
        ) from problem


def _name_to_midi(name: str) -> float:
    steps = {"C": 0, "D": 2, "E": 4, "F": 5, "G": 7, "A": 9, "B": 11}
    letter, rest = name[:1].upper(), name[1:]
    if letter not in steps or not rest.lstrip("#b").isdecimal():
        raise ValueError(name)
    return float(steps[letter] + rest.count("#") - rest.count("b") + 12 * (int(rest.lstrip("#b")) + 1))
