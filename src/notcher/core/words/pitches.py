"""What a pitch and a string are called."""

from notcher.core.score import Key, Tuning
from notcher.core.theory import spelled
from notcher.core.words.naming import USUAL, Naming, NoteNames, StringNames

FLATS = ("C", "Db", "D", "Eb", "E", "F", "Gb", "G", "Ab", "A", "Bb", "B")
"""Retuned strings are called by flats (common practice, no source): a neck is tuned down, not up."""
SYLLABLES = {"C": "do", "D": "re", "E": "mi", "F": "fa", "G": "sol", "A": "la", "B": "si"}


def note_name(midi: float, naming: Naming = USUAL, key: Key | None = None) -> str:
    """Return a pitch with its octave, middle C = C4 = 60, spelled as in a key."""
    letter, alter, octave = spelled(midi, key)
    return f"{pitch_class_name(letter + ('#' * alter if alter > 0 else 'b' * -alter), naming)}{octave}"


def pitch_class_name(letter: str, naming: Naming = USUAL) -> str:
    """A letter with its sign in the naming: B is H in one of them, and do re mi in another."""
    if naming.notes is NoteNames.H_FOR_B:
        return {"B": "H", "Bb": "B"}.get(letter, letter)
    if naming.notes is NoteNames.SYLLABLES:
        return SYLLABLES[letter[0]] + letter[1:]
    return letter


def string_letter(tuning: Tuning, string: int, naming: Naming = USUAL) -> str:
    """Return the string's open note; the highest in lower case, as players write it."""
    letter = pitch_class_name(FLATS[round(tuning.open_midi[string - 1]) % 12], naming)
    return letter.lower() if string == 1 else letter


def open_strings(tuning: Tuning, naming: Naming = USUAL) -> str:
    """Return the open strings with their octaves, highest first."""
    return " ".join(
        f"{pitch_class_name(FLATS[round(midi) % 12], naming)}{round(midi) // 12 - 1}" for midi in tuning.open_midi
    )


def string_name(tuning: Tuning, string: int, naming: Naming = USUAL) -> str:
    """Return what a string is called in a sentence: string 2, or B string."""
    if naming.strings is StringNames.LETTERS:
        return f"{string_letter(tuning, string, naming)} string"
    return f"string {string}"


def place_name(tuning: Tuning, string: int, fret: int, naming: Naming = USUAL) -> str:
    """Return a place on the neck: string 2, fret 12."""
    return f"{string_name(tuning, string, naming)}, fret {fret}"
