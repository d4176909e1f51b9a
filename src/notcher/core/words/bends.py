"""What the size of a bend is called."""

from functools import lru_cache

from notcher.core.score import Note, between_sizes, snapped_bend
from notcher.core.words.naming import USUAL, BendNames, Naming

SEMITONES_PER_STEP = 2.0
IN_STEPS: dict[float, str] = {
    0.5: "¼", 1.0: "½", 1.5: "¾", 2.0: "1", 2.5: "1¼", 3.0: "1½", 3.5: "1¾", 4.0: "2", 5.0: "2½", 6.0: "3",
}  # fmt: skip
IN_FRETS: dict[float, str] = {
    0.5: "½", 1.0: "1", 1.5: "1½", 2.0: "2", 2.5: "2½", 3.0: "3", 3.5: "3½", 4.0: "4", 5.0: "5", 6.0: "6",
}  # fmt: skip
UNITS = {
    BendNames.STEPS: ("step", "steps"),
    BendNames.TONES: ("tone", "tones"),
    BendNames.FRETS: ("fret", "frets"),
    BendNames.SOUNDS: ("fret", "frets"),
}
GOALS = {
    BendNames.STEPS: {
        0.5: "the quarter bend",
        1.0: "the half step",
        1.5: "three quarters of a step",
        2.0: "the whole step",
        2.5: "a step and a quarter",
        3.0: "the step and a half",
    },
    BendNames.TONES: {
        0.5: "the quarter tone",
        1.0: "the half tone",
        1.5: "three quarters of a tone",
        2.0: "the whole tone",
        2.5: "a tone and a quarter",
        3.0: "the tone and a half",
    },
    BendNames.FRETS: {
        0.5: "half a fret",
        1.0: "the one fret",
        1.5: "a fret and a half",
        2.0: "the two frets",
        2.5: "two frets and a half",
        3.0: "the three frets",
    },
}
GOALS[BendNames.SOUNDS] = GOALS[BendNames.FRETS]
IN_FRETS_FOR = (BendNames.FRETS, BendNames.SOUNDS)


@lru_cache(maxsize=4_096)  # a drawing asks for each at every frame
def bend_name(semitones: float, naming: Naming = USUAL, *, fret: int | None = None) -> str:
    """Return a size as it is written beside a note: ¼ ½ 1 1½ 2 …; a minus for what falls below the fret.

    What lies between the sizes is told as measured: 122¢.

    fret: of the note, for a naming that tells which fret the top sounds like: =15, =12½ for a quarter step over 12.
    """
    if between_sizes(semitones):
        return f"{semitones * 100:.0f}¢"
    if naming.bends is BendNames.SOUNDS and fret is not None and semitones > 0:
        halves = round(2 * (fret + snapped_bend(semitones)))
        return f"={halves // 2}{'½' if halves % 2 else ''}"
    sizes = IN_FRETS if naming.bends in IN_FRETS_FOR else IN_STEPS
    return ("−" if semitones < 0 else "") + sizes[abs(snapped_bend(semitones))]


def bend_size(semitones: float, naming: Naming = USUAL) -> str:
    """Return a size with its unit: 1½ steps, ½ tone, 2 frets, 122 cents."""
    if between_sizes(semitones):
        return f"{semitones * 100:.0f} cents"
    singular, plural = UNITS[naming.bends]
    whole = 1.0 if naming.bends in IN_FRETS_FOR else 2.0
    return f"{bend_name(semitones, naming)} {plural if abs(snapped_bend(semitones)) > whole else singular}"


def sizes_around(semitones: float, naming: Naming = USUAL) -> str:
    """Return the named sizes that a bend lies between: ½ and ¾ step."""
    below = max((known for known in IN_STEPS if known <= semitones), default=0.0)
    above = min((known for known in IN_STEPS if known > semitones), default=None)
    return f"{bend_name(below, naming) if below else 'none'} and " + (
        "more" if above is None else bend_size(above, naming)
    )


MARKED = 0.25  # semitones; less is no bend


def bent_words(note: Note, naming: Naming = USUAL) -> str:
    """Return whether a note is bent, and how far: not bent, bent 1½ steps."""
    size = note.reading.bend_semitones
    return "not bent" if abs(size) < MARKED else f"bent {bend_size(size, naming)}"


def bend_goal(semitones: float, naming: Naming = USUAL) -> str:
    """Return what a bend aims at, in a sentence: the whole step."""
    if between_sizes(semitones):
        return f"the {semitones * 100:.0f} cents"
    return GOALS[naming.bends].get(abs(snapped_bend(semitones)), bend_size(semitones, naming))


def sounding_fret(fret: float) -> str:
    """Return a height on the neck as a player would say it: on a fret, or so much above it."""
    if fret < 0:
        return f"{-fret:.1f} frets below the open string"
    whole = int(fret + 0.1)
    rest = fret - whole
    if rest < 0.1:
        return f"fret {whole}"
    shares = {0.25: "a quarter", 0.33: "a third", 0.5: "half a fret", 0.67: "two thirds", 0.75: "three quarters"}
    return f"{shares[min(shares, key=lambda share: abs(share - rest))]} above fret {whole}"
