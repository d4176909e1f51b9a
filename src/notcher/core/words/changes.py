"""What changed between two states of a solo, in sentences."""

from enum import StrEnum

from notcher.core.score import Attack, Change, ChangeKind, End, Note, Tone, Tuning
from notcher.core.words.bends import bend_name
from notcher.core.words.naming import USUAL, Naming
from notcher.core.words.pitches import place_name
from notcher.core.words.techniques import ATTACKS, ENDS, FIELDS, TONES, technique_name
from notcher.core.words.times import seconds


def changed_note_words(note: Note | None, change: Change, tuning: Tuning, naming: Naming = USUAL) -> str:
    """Return a note of a change in a few words: where, how bent, and what differs of the rest; a dash for none."""
    if note is None:
        return "–"
    words = [
        place_name(tuning, note.string, note.fret, naming),
        *(technique_name(name) for name in note.reading.names),
    ]
    if note.bent:
        words.append(bend_name(note.reading.bend_semitones, naming))
    if change.kind is ChangeKind.RETIMED:
        words.append(f"{seconds(note.onset_s, 3, naming)} to {seconds(note.offset_s, 3, naming)}")
    words += [f"{FIELDS[name]} {_value_words(getattr(note, name))}" for name in change.fields]
    return ", ".join(words)


def _value_words(value: StrEnum | bool | int | None) -> str:
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, Attack):
        return ATTACKS[value]
    if isinstance(value, Tone):
        return TONES[value]
    if isinstance(value, End):
        return ENDS[value]
    return "none" if value is None else str(value)
