"""Keys: a tonic and a scale, and with them how notes are spelled."""

from dataclasses import dataclass

SCALES = {
    "major": 0,
    "natural minor": -3,
    "harmonic minor": -3,
    "melodic minor": -3,
    "dorian": -2,
    "phrygian": -4,
    "lydian": 1,
    "mixolydian": -1,
    "locrian": -5,
    "major pentatonic": 0,
    "minor pentatonic": -3,
    "blues": -3,
    "half-whole": -3,
    "whole-half": -3,
    "whole tone": 0,
}
"""How many fifths the signature of each scale lies above that of the major scale on the same tonic; scales that repeat
inside the octave are signed as the minor or major they are used over (common practice, no source)."""
FIFTHS = "FCGDAEB"
"""The letters in rising fifths."""
MOST_FIFTHS = 7  # seven sharps or flats
LOWEST_TONIC = -8  # Fb, on the line of fifths


@dataclass(frozen=True, slots=True)
class Key:
    """A tonic (a letter with # or b) and the name of a scale out of `SCALES`; in a score as called on the neck."""

    tonic: str
    scale: str = "major"

    def __post_init__(self) -> None:
        letter, signs = self.tonic[:1], self.tonic[1:]
        if len(letter) != 1 or letter not in FIFTHS or signs not in ("", "#", "b"):
            raise ValueError(f"no such tonic: {self.tonic!r}; write a letter with # or b, as in F#")
        if self.scale not in SCALES:
            raise ValueError(f"no such scale: {self.scale!r}")
        if abs(self.fifths) > MOST_FIFTHS:
            raise ValueError(f"{self} needs more than seven signs; write it on the other name of its tonic")

    def __str__(self) -> str:
        return f"{self.tonic} {self.scale}"

    @property
    def tonic_fifths(self) -> int:
        """Where the tonic lies on the line of fifths, C = 0."""
        return FIFTHS.index(self.tonic[0]) - 1 + 7 * (self.tonic.count("#") - self.tonic.count("b"))

    @property
    def fifths(self) -> int:
        """The signature: sharps, or flats as a negative number."""
        return self.tonic_fifths + SCALES[self.scale]

    def moved(self, semitones: int) -> "Key":
        """Return the key that sounds so much higher, on the name of its tonic that needs the fewest signs.

        By none it is the same key. Of two that need as many the flat one: a neck is tuned down, not up (common
        practice, no source).
        """
        if semitones == 0:
            return self
        up = (self.tonic_fifths + 7 * semitones) % 12
        named = [
            Key(_tonic(at), self.scale)
            for at in (up, up - 12)
            if at >= LOWEST_TONIC and abs(at + SCALES[self.scale]) <= MOST_FIFTHS
        ]
        return min(named, key=lambda key: (abs(key.fifths), key.fifths))


def _tonic(fifths: int) -> str:
    """The name on the line of fifths, C = 0."""
    signs = (fifths + 1) // 7
    return FIFTHS[(fifths + 1) % 7] + ("#" * signs if signs > 0 else "b" * -signs)


def key_from_text(text: str) -> Key:
    """Read a key as it is said: "F# minor", "Bb", "D dorian". Raises: ValueError."""
    tonic, _, scale = text.strip().replace("♯", "#").replace("♭", "b").partition(" ")
    words = scale.strip().lower() or "major"
    return Key(tonic[:1].upper() + tonic[1:], "natural minor" if words == "minor" else words)
