"""How things are called: what practitioners disagree about, chosen once and obeyed by every sentence."""

from dataclasses import dataclass
from enum import StrEnum


class StringNames(StrEnum):
    """How a string is called."""

    NUMBERS = "numbers"  # 1 is the highest
    LETTERS = "letters"  # by its open note


class NoteNames(StrEnum):
    """How a pitch is called."""

    LETTERS = "letters"
    H_FOR_B = "H for B"  # B is called H, B flat is called B
    SYLLABLES = "do re mi"


class BendNames(StrEnum):
    """What a bend is measured in."""

    STEPS = "steps"  # a whole step is two frets
    TONES = "tones"  # the same size by another word
    FRETS = "frets"
    SOUNDS = "sounds like fret"  # the fret on the same string that its top sounds like


@dataclass(frozen=True, slots=True)
class Naming:
    """One instructor's words. decimal_mark: between a number's whole and its parts."""

    strings: StringNames = StringNames.NUMBERS
    notes: NoteNames = NoteNames.LETTERS
    bends: BendNames = BendNames.STEPS
    decimal_mark: str = "."


USUAL = Naming()
"""Strings and notes by numbers and letters, bends in steps: what files and scripts always use."""
