"""Numbers in sentences."""

from notcher.core.words.naming import USUAL, Naming


def figure(value: float, decimals: int = 0, *, naming: Naming = USUAL, signed: bool = False) -> str:
    """Return a number with so many decimals; signed: with a plus where it is above zero."""
    text = f"{value:+.{decimals}f}" if signed else f"{value:.{decimals}f}"
    return text.replace(".", naming.decimal_mark)


def half_steps(semitones: float) -> str:
    """Return how far a pitch lies from another one: a half step higher, 3 half steps lower, an octave higher."""
    count = round(abs(semitones))
    size = "an octave" if count == 12 else "a half step" if count == 1 else many(count, "half step")
    return f"{size} {'higher' if semitones > 0 else 'lower'}"


def many(count: int, word: str, plural: str = "") -> str:
    """Return a count and its word: 1 note, 2 notes."""
    return f"{count} {word if count == 1 else plural or f'{word}s'}"


def ordinal(number: int) -> str:
    """Return a place in a row: 1st, 2nd, 3rd, 11th."""
    ending = {1: "st", 2: "nd", 3: "rd"}.get(number % 10, "th") if number % 100 not in (11, 12, 13) else "th"
    return f"{number}{ending}"


def pitch_words(semitones: float, naming: Naming = USUAL) -> str:
    """Return how far a sound was moved: sounds as recorded; sounds half a step and 5 cents higher."""
    cents = round(100 * semitones)
    if not cents:
        return "It sounds as recorded."
    steps, rest = divmod(abs(cents), 100)
    texts = [many(steps, "half step")] if steps else []
    texts += [f"{rest} cents"] if rest else []
    return f"It sounds {' and '.join(texts)} {'higher' if cents > 0 else 'lower'} than recorded."
