"""A chord symbol and the tones it stands for."""

import re
from dataclasses import dataclass

from notcher.core.errors import NotcherError
from notcher.core.score import Key
from notcher.core.theory.spelling import spelled_name

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
    intervals = QUALITIES.get(rest) or _changed(rest)
    if intervals is None:
        raise _unreadable(name)
    bass = root
    if lower:
        bass, more = _pitch_class(lower, name)
        if more:
            raise _unreadable(name)
    return ChordTones(root, intervals, bass)


CHANGE = re.compile(r"(add|no|omit|sus)?([b#]?)(\d+)|(sus4|sus2|alt)")
DEGREE_STEPS = {2: 14, 3: 4, 4: 17, 5: 7, 6: 9, 7: 10, 9: 14, 11: 17, 13: 21}
"""Semitones over the root of a chord's degrees: of the major scale, but the seventh of a dominant."""
ALTERED = (0, 4, 6, 8, 10, 13, 15)
"""Fifths and ninths both lowered and raised: what "alt" stands for (common practice, no source)."""


def _changed(rest: str) -> tuple[int, ...] | None:
    """A known kind with degrees altered, added, left out or held up; None for what is not read to its end."""
    for kind in sorted(QUALITIES, key=len, reverse=True):
        if rest.startswith(kind):
            result = _with_changes(set(QUALITIES[kind]), rest[len(kind) :])
            if result is not None:
                return tuple(sorted(result))
    return None


def _with_changes(tones: set[int], changes: str) -> set[int] | None:
    """Tones with every change of a chord symbol made; None for what is not read to its end."""
    at = 0
    while at < len(changes):
        match = CHANGE.match(changes, at)
        if match is None:
            return None
        at = match.end()
        word, sign, number, whole = match.groups()
        if whole == "alt":
            tones = set(ALTERED)
        elif word == "sus" or whole in ("sus4", "sus2"):
            step = {"2": 2, "4": 5}.get((whole or "")[3:] or number)
            if step is None or sign:
                return None
            tones = (tones - {3, 4}) | {step}
        elif int(number) not in DEGREE_STEPS or (not word and not sign):
            return None
        elif word in ("no", "omit"):
            tones = _without(tones, int(number), sign)
        else:
            tones = _with(tones, int(number), sign, changes)
    return tones


ACCIDENTALS = {"": 0, "b": -1, "#": 1}


def _without(tones: set[int], degree: int, sign: str) -> set[int]:
    """Tones without a degree, whatever sort of third or fifth it is."""
    return tones - ({3, 4} if degree == 3 else {6, 7, 8} if degree == 5 else {DEGREE_STEPS[degree] + ACCIDENTALS[sign]})


def _with(tones: set[int], degree: int, sign: str, changes: str) -> set[int]:
    """Tones with a degree added, or altered: it takes the place of the fifth, or of the plain ninth."""
    replaced = {6, 7, 8} if degree == 5 else {14} if degree == 9 and sign else set()
    added = {DEGREE_STEPS[degree] + ACCIDENTALS[sign]}
    if degree == 9 and sign:  # both altered ninths stand beside each other
        added |= {step for step, name in ((13, "b9"), (15, "#9")) if name in changes}
    return (tones - replaced) | added


def moved_chord(name: str, semitones: int, key: Key | None = None) -> str:
    """Return a chord symbol on another pitch, spelled as in a key; what nobody can read stays as it is."""
    if semitones % 12 == 0:
        return name
    upper, slash, lower = name.partition("/") if "6/9" not in name else (name, "", "")
    try:
        parts = [_pitch_class(part, name) for part in ([upper, lower] if slash else [upper])]
    except ChordError:
        return name
    moved = [spelled_name((pitch + semitones) % 12 + 60, key) + rest for pitch, rest in parts]
    return slash.join(moved)


def _pitch_class(text: str, name: str) -> tuple[int, str]:
    match = NAME.fullmatch(text.strip())
    if match is None:
        raise _unreadable(name)
    letter, sign, rest = match.groups()
    shift = {"": 0, "#": 1, "♯": 1, "b": -1, "♭": -1}[sign]
    return (LETTERS[letter] + shift) % 12, rest


def _unreadable(name: str) -> ChordError:
    return ChordError(f"{name!r} is no chord.", "Write a root and a kind, as in Em, C7, F#m7b5 or D/F#.")
