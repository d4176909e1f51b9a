"""A solo as an instructor says it: "fifteen, thirteen on the second string; fourteen on the third".

How strings, frets and bends are said aloud is common practice (no source).
"""

from collections.abc import Sequence

from notcher.core.score import Attack, End, Note, Score, Tone, between_sizes, snapped_bend
from notcher.core.words.bends import UNITS
from notcher.core.words.naming import USUAL, BendNames, Naming, StringNames
from notcher.core.words.pitches import string_letter

FIGURES = (
    "open", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve",
    "thirteen", "fourteen", "fifteen", "sixteen", "seventeen", "eighteen", "nineteen", "twenty", "twenty-one",
    "twenty-two", "twenty-three", "twenty-four",
)  # fmt: skip
ORDINALS = ("first", "second", "third", "fourth", "fifth", "sixth", "seventh", "eighth", "ninth")
STRUCK = {
    Attack.HAMMER: "hammer on to", Attack.PULL: "pull off to", Attack.TAP: "tap", Attack.SLIDE: "slide to",
    Attack.REPICK: "strike again", Attack.SWELL: "fade in",
}  # fmt: skip
SOUNDED = {
    Tone.NATURAL_HARMONIC: "as a harmonic", Tone.SQUEAL_HARMONIC: "as a pinch harmonic", Tone.TAPPED_HARMONIC:
    "as a tapped harmonic", Tone.PALM_MUTE: "muted with the palm", Tone.DEAD: "without pressing",
}  # fmt: skip
ENDED = {End.CHOKED: "choke it", End.SLIDES_AWAY: "slide away"}
SIZES = {
    0.5: "a quarter", 1.0: "a half", 1.5: "three quarters of a", 2.0: "a whole", 2.5: "one and a quarter",
    3.0: "one and a half", 3.5: "one and three quarters", 4.0: "two", 5.0: "two and a half", 6.0: "three",
}  # fmt: skip
IN_FRETS = {
    0.5: "half a fret", 1.0: "one fret", 1.5: "a fret and a half", 2.5: "two and a half frets",
    3.5: "three and a half frets",
}  # fmt: skip
PAUSE_S = 0.45  # after which a new sentence begins
MOST_IN_SENTENCE = 8  # notes: what an ear holds
VIBRATO = "with vibrato"


def fret_said(fret: int) -> str:
    """Return a fret in a word: fifteen, open."""
    return FIGURES[fret] if 0 <= fret < len(FIGURES) else str(fret)


def string_said(score: Score, string: int, naming: Naming = USUAL) -> str:
    """Return a string as it is said: the second string, the B string; the highest E apart from the lowest."""
    if naming.strings is StringNames.NUMBERS:
        return f"{ORDINALS[string - 1]} string"
    letter = string_letter(score.tuning, string, naming)
    twins = [other for other in range(1, score.tuning.strings + 1)
             if string_letter(score.tuning, other, naming).upper() == letter.upper()]  # fmt: skip
    which = "" if len(twins) == 1 else "high " if string == min(twins) else "low " if string == max(twins) else ""
    return f"{which}{letter.upper()} string"


def bend_said(semitones: float, naming: Naming = USUAL) -> str:
    """Return the size of a bend as it is said: a whole step, one and a half tones, three frets."""
    if between_sizes(semitones):
        return f"{semitones * 100:.0f} cents"
    size = abs(snapped_bend(semitones))
    if naming.bends in (BendNames.FRETS, BendNames.SOUNDS):
        return IN_FRETS.get(size, f"{fret_said(round(size))} frets")
    singular, plural = UNITS[naming.bends]
    return f"{SIZES[size]} {singular if size <= 2.0 else plural}"


def note_said(note: Note, naming: Naming = USUAL) -> str:
    """Return what is done at one note, without its string: "fifteen, bend a whole step, let it down, with vibrato"."""
    fret = fret_said(note.fret)
    struck = STRUCK.get(note.attack, "")
    if note.attack is Attack.REPICK:
        parts = [struck]
    else:
        parts = [f"{struck} {fret}" if struck else fret]
    names, size = note.reading.names, note.reading.bend_semitones
    if note.raked:
        parts.insert(0, "rake into")
    if note.slid_in:
        parts.insert(0, "slide in to")
    if "prebend" in names and note.attack is not Attack.REPICK:
        parts[-1] += f" already bent {bend_said(size, naming)}"
    elif "curl" in names:
        parts.append("bend it up a quarter tone at the end")
    elif "bend" in names:
        parts.append(f"bend {bend_said(size, naming)}")
    elif "dip" in names or "dive" in names:
        parts.append("dip the bar" if "dip" in names else "dive with the bar")
    if "release" in names:
        parts.append("let it down")
    if note.vibrato is not None:
        parts.append(VIBRATO)
    parts += [SOUNDED[note.tone]] if note.tone in SOUNDED else []
    parts += [ENDED[note.end]] if note.end in ENDED else []
    return ", ".join(parts).replace("rake into, ", "rake into ").replace("slide in to, ", "slide in to ")


def place_said(score: Score, note: Note, naming: Naming = USUAL) -> str:
    """Return one note with its string: "second string, fifteen, bend a whole step, let it down"."""
    return f"{string_said(score, note.string, naming)}, {note_said(note, naming)}"


def phrase_said(score: Score, indices: Sequence[int], naming: Naming = USUAL) -> list[str]:
    """Return notes in sentences, as an instructor groups them: frets by string, a breath where the music rests.

    "Fifteen, thirteen on the second string; fourteen on the third."
    """
    sentences: list[list[list[Note]]] = []
    count = 0
    before: Note | None = None
    for index in indices:
        note = score.notes[index]
        rests = before is not None and note.onset_s - before.offset_s > PAUSE_S
        if before is None or rests or count >= MOST_IN_SENTENCE:
            sentences.append([])
            count = 0
        groups = sentences[-1]
        if groups and groups[-1][-1].string == note.string:
            groups[-1].append(note)
        else:
            groups.append([note])
        before, count = note, count + 1
    return [_sentence(score, groups, naming) for groups in sentences]


def _sentence(score: Score, groups: Sequence[Sequence[Note]], naming: Naming) -> str:
    texts: list[str] = []
    for number, group in enumerate(groups):
        string = string_said(score, group[0].string, naming)
        if number and naming.strings is StringNames.NUMBERS:
            string = string.removesuffix(" string")
        frets = [note_said(note, naming) for note in group]
        plain = all("," not in words for words in frets)
        texts.append(f"{', '.join(frets) if plain else '; then '.join(frets)} on the {string}")
    words = "; ".join(texts)
    return f"{words[:1].upper()}{words[1:]}."
