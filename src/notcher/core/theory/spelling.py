"""How a pitch is spelled in a key: F# or Gb.

A key's twelve names are neighbours on the line of fifths, from five below its tonic to six above it: the harmonic
chromatic scale. Source: D. Temperley, "The Cognition of Basic Musical Structures", 2001, ch. 5 (line of fifths); the
span as in H. C. Longuet-Higgins, "Letter to a musical friend", The Music Review 23, 1962 (both from memory).
"""

from notcher.core.score import Key
from notcher.core.score.key import FIFTHS

BELOW, ABOVE = 5, 6  # fifths on either side: the twelve names that keys use
USUAL_TONIC_FIFTHS = 1
"""Without a key: Eb Bb F C G D A E B F# C# and Ab, the names most often met (common practice, no source)."""


def spelled(midi: float, key: Key | None = None) -> tuple[str, int, int]:
    """Return a pitch's letter, its sign (-2..2, sharps above 0) and its octave, middle C = C4 = 60.

    midi: semitones, the nearest whole one is spelled.
    """
    whole = round(midi)
    tonic = USUAL_TONIC_FIFTHS if key is None else key.tonic_fifths
    at = next(at for at in range(tonic - BELOW, tonic + ABOVE + 1) if (7 * at - whole) % 12 == 0)
    letter, alter = FIFTHS[(at + 1) % 7], (at + 1) // 7
    natural = "C D EF G A B".index(letter)
    return letter, alter, (whole - alter - natural) // 12 - 1


def spelled_name(midi: float, key: Key | None = None) -> str:
    """Return a pitch's name without its octave: F#, Gb, Bbb."""
    letter, alter, _ = spelled(midi, key)
    return letter + ("#" * alter if alter > 0 else "b" * -alter)


def named_key(tonic: int, scale: str) -> Key:
    """Return the key on a pitch class (C = 0), on the name of its tonic that needs the fewest signs; of two the flat
    one."""
    return Key("C", scale).moved(tonic)
