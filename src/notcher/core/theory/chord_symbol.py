"""A chord symbol and the tones it stands for."""

import re
from dataclasses import dataclass

from notcher.core.errors import NotcherError

LETTERS = {"C": 0, "D": 2, "E": 4, "F": 5, "G": 7, "A": 9, "B": 11}
QUALITIES: dict[str, tuple[int, ...]] = {
    "": (0, 4, 7),
    "m": (0, 3, 7),
    "5": (0, 7),
    "6": (0, 4, 7, 9),
    "m6": (0, 3, 7, 9),
    "69": (0, 4, 7, 9, 14),
    "7": (0, 4, 7, 10),
    "maj7": (0, 4, 7, 11),
    "m7": (0, 3, 7, 10),
    "mmaj7": (0, 3, 7, 11),
    "9": (0, 4, 7, 10, 14),
    "maj9": (0, 4, 7, 11, 14),
    "m9": (0, 3, 7, 10, 14),
    "11": (0, 7, 10, 14, 17),
    "m11": (0, 3, 7, 10, 14, 17),
    "13": (0, 4, 7, 10, 14, 21),
    "add9": (0, 4, 7, 14),
    "madd9": (0, 3, 7, 14),
    "sus2": (0, 2, 7),
    "sus4": (0, 5, 7),
    "7sus4": (0, 5, 7, 10),
    "9sus4": (0, 5, 7, 10, 14),
    "dim": (0, 3, 6),
    "dim7": (0, 3, 6, 9),
    "m7b5": (0, 3, 6, 10),
    "aug": (0, 4, 8),
    "7#5": (0, 4, 8, 10),
    "7b5": (0, 4, 6, 10),
    "7b9": (0, 4, 7, 10, 13),
    "7#9": (0, 4, 7, 10, 15),
}
"""Semitones over the root. Source: the kinds of MusicXML 4.0 (W3C, 2021, type kind-value) and their degrees."""
OTHER_WORDS = (
    ("min", "m"), ("-", "m"), ("Maj", "maj"), ("M", "maj"), ("Δ", "maj7"), ("°", "dim"), ("ø", "m7b5"), ("+", "aug"),
    ("sus", "sus4"), ("maj7maj7", "maj7"), ("sus44", "sus4"), ("sus42", "sus2"), ("aug7", "7#5"), ("6/9", "69"),
)  # fmt: skip
NAME = re.compile(r"([A-G])([#b♯♭]?)(.*)")


class ChordError(NotcherError):
    """A chord symbol that no one can read."""


@dataclass(frozen=True, slots=True)
class ChordTones:
    """Root and bass as pitch classes (0 = C), the tones as semitones over the root, rising."""

    root: int
    intervals: tuple[int, ...]
    bass: int

    @property
    def pitch_classes(self) -> frozenset[int]:
        return frozenset((self.root + step) % 12 for step in self.intervals) | {self.bass}


def chord_tones(name: str) -> ChordTones:
    """Read a chord symbol such as "Em", "C#m7b5" or "D/F#". Raises: ChordError."""
    words = name.strip().replace("(", "").replace(")", "").replace(",", "")
    upper, _, lower = words.partition("/") if "6/9" not in words else (words, "", "")
    root, rest = _pitch_class(upper, name)
    for other, usual in OTHER_WORDS:
        rest = rest.replace(other, usual)
    rest = rest.replace("♭", "b").replace("♯", "#")
    if rest not in QUALITIES:
        raise _unreadable(name)
    bass = root
    if lower:
        bass, more = _pitch_class(lower, name)
        if more:
            raise _unreadable(name)
    return ChordTones(root, QUALITIES[rest], bass)


def _pitch_class(text: str, name: str) -> tuple[int, str]:
    found = NAME.fullmatch(text.strip())
    if found is None:
        raise _unreadable(name)
    letter, sign, rest = found.groups()
    shift = {"": 0, "#": 1, "♯": 1, "b": -1, "♭": -1}[sign]
    return (LETTERS[letter] + shift) % 12, rest


def _unreadable(name: str) -> ChordError:
    return ChordError(f"{name!r} is no chord.", "Write a root and a kind, as in Em, C7, F#m7b5 or D/F#.")
