"""Meters: how bars are written, and in which beats they are felt."""

from dataclasses import dataclass

UNITS = (1, 2, 4, 8, 16)


@dataclass(frozen=True, slots=True)
class Meter:
    """Beats to a bar and their note value, as written: 6 and 8 for 6/8."""

    beats: int = 4
    unit: int = 4

    def __post_init__(self) -> None:
        if not (1 <= self.beats <= 32 and self.unit in UNITS):
            raise ValueError(f"no such meter: {self.beats}/{self.unit}")

    def __str__(self) -> str:
        return f"{self.beats}/{self.unit}"

    @property
    def quarters(self) -> float:
        """Length of a bar in quarter notes."""
        return 4.0 * self.beats / self.unit

    @property
    def compound(self) -> bool:
        """Whether three written beats are felt as one: 6/8, 9/8, 12/8 (G. Read, "Music
        Notation", 2nd ed. 1979, ch. 10)."""
        return self.unit >= 8 and self.beats > 3 and self.beats % 3 == 0

    @property
    def beat_quarters(self) -> float:
        """Length of a felt beat in quarter notes: what a foot taps, a metronome counts and a tempo tells."""
        return 4.0 / self.unit * (3 if self.compound else 1)

    @property
    def felt(self) -> int:
        """Felt beats to a bar."""
        return self.beats // 3 if self.compound else self.beats

    @property
    def strums(self) -> int:
        """Into how many parts a felt beat is strummed: eighths in most meters, the beat itself where that is one."""
        return 3 if self.compound else 2 if self.unit <= 4 else 1


def meter_from_text(text: str) -> Meter:
    """Read a meter as it is written: "6/8". Raises: ValueError."""
    beats, slash, unit = text.strip().partition("/")
    if not (slash and beats.strip().isdecimal() and unit.strip().isdecimal()):
        raise ValueError(f"no such meter: {text}")
    return Meter(int(beats), int(unit))


FOUR_FOUR = Meter()
