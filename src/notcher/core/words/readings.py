"""What else was heard in a note, in words."""

from notcher.core.score import LEGATO_ATTACKS, Attack, Note, NoteAlternative, Score, Tone
from notcher.core.words.bends import bend_size
from notcher.core.words.naming import USUAL, Naming
from notcher.core.words.numbers import many
from notcher.core.words.techniques import ATTACKS, TONES


def reading_words(reading: NoteAlternative, note: Note, score: Score, naming: Naming = USUAL) -> str:
    """Return a second reading of a note as it would be said: "hammered to fret 12 (21 %)"."""
    other = reading.notes[reading.at]
    texts = [_struck(reading, other)]
    string = "" if other.string == note.string else f"string {other.string}, "
    if other.string != note.string or other.fret != note.fret:
        texts.append(f"{string}fret {other.fret}")
    texts += _gesture(other, naming)
    if other.tone is not Tone.NORMAL:
        texts.append(TONES[other.tone])
    count = len(reading.notes) - reading.at
    if count > 1:
        texts.append(f"then {many(count - 1, 'note')} more")
    elif not _overlaps(note, other, reading):
        texts.append("as one with the next")
    return f"{', '.join(texts)} ({reading.p:.0%})"


def _struck(reading: NoteAlternative, note: Note) -> str:
    before = reading.notes[reading.at - 1] if reading.at else None
    word = "slides in from nowhere" if note.slid_in else ATTACKS[note.attack]
    if before is not None and note.attack in (*LEGATO_ATTACKS, Attack.TAP):
        word = f"{word} from fret {before.fret}"
    return word


def _gesture(note: Note, naming: Naming) -> list[str]:
    reading = note.reading
    names = [{"prebend": "pre-bend"}.get(name, name) for name in reading.names if name != "vibrato"]
    size = [bend_size(reading.bend_semitones, naming)] if note.bent else []
    return [" ".join([*names, *size])] if names else [] if not size else [f"bend {size[0]}"]


def _overlaps(note: Note, other: Note, reading: NoteAlternative) -> bool:
    """Whether a reading ends about where the note ends."""
    return abs(reading.begins_s + other.offset_s - note.duration_s) < 0.06
