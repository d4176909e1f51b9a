"""What changed between two states of a solo, in sentences."""

from enum import StrEnum

from notcher.core.score import Attack, ChangeKind, End, Note, NoteChange, Score, Tone, Tuning, changes
from notcher.core.words.bends import bend_size
from notcher.core.words.counts import bar_words
from notcher.core.words.naming import USUAL, Naming
from notcher.core.words.pitches import place_name
from notcher.core.words.techniques import ATTACKS, ENDS, FIELDS, TONES, technique_name
from notcher.core.words.times import clock, seconds

DONE = {
    ChangeKind.ADDED: "new: ",
    ChangeKind.REMOVED: "taken out: ",
    ChangeKind.MOVED: "at another place: ",
    ChangeKind.REBENT: "bent otherwise: ",
    ChangeKind.RETIMED: "at another time: ",
    ChangeKind.CHANGED: "played otherwise: ",
}


def changed_words(before: Score, after: Score, naming: Naming = USUAL) -> list[str]:
    """Return what is another in a later state of a solo, a line for each change, in the order of time."""
    return [_line(change, before, after, naming) for change in changes(before, after)]


def _line(change: NoteChange, before: Score, after: Score, naming: Naming) -> str:
    """Where in the solo, what was done, and the note before and now."""
    score, note = (after, change.after) if change.after is not None else (before, change.before)
    where = clock(note.onset_s, naming) if note is not None else ""
    if note is not None and score.beat_map.known:
        bar = score.beat_map.bar_at(score.beat_map.quarter(note.onset_s))
        where = f"{where}, {bar_words(bar)}"
    texts = [
        changed_note_words(changed, change, of.tuning, naming)
        for changed, of in ((change.before, before), (change.after, after))
        if changed is not None
    ]
    return f"{where}: {DONE[change.kind]}{' → '.join(texts)}"


def changed_note_words(note: Note | None, change: NoteChange, tuning: Tuning, naming: Naming = USUAL) -> str:
    """Return a note of a change in a few words: where, how bent, and what differs of the rest; a dash for none."""
    if note is None:
        return "–"
    words = [
        place_name(tuning, note.string, note.fret, naming),
        *(technique_name(name) for name in note.reading.names),
    ]
    if note.bent:
        words.append(bend_size(note.reading.bend_semitones, naming))
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
