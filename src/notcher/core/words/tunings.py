"""A tuning and what speaks for it, in sentences."""

from notcher.core.hearing import TuningEvidence
from notcher.core.score import USUAL_TUNINGS, Tuning
from notcher.core.words.naming import USUAL, Naming
from notcher.core.words.numbers import figure, many
from notcher.core.words.pitches import FLATS, note_name, pitch_class_name


def evidence_words(evidence: TuningEvidence, tuning: Tuning, naming: Naming = USUAL) -> str:
    """Return why a tuning was proposed."""
    texts = [_lowest_words(evidence, tuning, naming)]
    if evidence.harmonics:
        texts.append(f"{evidence.touchable} of {many(evidence.harmonics, 'natural harmonic')} lie on its open strings")
    return "; ".join(texts)


def _lowest_words(evidence: TuningEvidence, tuning: Tuning, naming: Naming) -> str:
    lowest, open_low = evidence.lowest_midi, min(tuning.open_midi)
    if lowest is None:
        return "no note heard"
    first = f"lowest note {note_name(lowest, naming)}"
    if evidence.below:
        lie = "lies" if evidence.below == 1 else "lie"
        return f"{first}: {many(evidence.below, 'note')} {lie} below the open {note_name(open_low, naming)}"
    at = "is the open lowest string" if lowest == open_low else f"is fret {lowest - open_low:.0f} of the lowest string"
    return f"{first} {at}; {many(evidence.open_strings, 'note')} could be open strings"


NAMES = {
    "standard": "Standard tuning",
    "half-down": "Half a step down",
    "whole-down": "A whole step down",
    "three-half-down": "A step and a half down",
    "two-whole-down": "Two whole steps down",
    "drop-d": "Drop D",
    "drop-c-sharp": "Drop C#",
    "drop-c": "Drop C",
    "drop-b": "Drop B",
    "double-drop-d": "Double drop D",
    "dadgad": "DADGAD",
    "open-d": "Open D",
    "open-d-minor": "Open D minor",
    "open-e": "Open E",
    "open-e-minor": "Open E minor",
    "open-g": "Open G",
    "open-g-minor": "Open G minor",
    "open-a": "Open A",
    "open-c": "Open C",
    "fourths": "All fourths",
    "seven-standard": "7 strings, standard",
    "seven-half-down": "7 strings, half a step down",
    "seven-drop-a": "7 strings, drop A",
    "eight-standard": "8 strings, standard",
    "eight-half-down": "8 strings, half a step down",
    "eight-drop-e": "8 strings, drop E",
}


def tuning_name(name: str) -> str:
    """Return how a tuning that has a name is called."""
    return NAMES.get(name, name)


def named_tuning(tuning: Tuning) -> str:
    """Return how a tuning is called, whatever its capo; empty for one without a name."""
    found = (name for name, usual in USUAL_TUNINGS.items() if usual.open_midi == tuning.open_midi)
    return tuning_name(next(found, ""))


def strings_said(tuning: Tuning, naming: Naming = USUAL) -> str:
    """Return the open strings as players say them: from the lowest, without octaves."""
    return " ".join(pitch_class_name(FLATS[round(midi) % 12], naming) for midi in reversed(tuning.open_midi))


def tuning_words(tuning: Tuning, naming: Naming = USUAL) -> str:
    """Return a tuned neck in one or two lines: name, open strings and capo; how far it is off concert pitch."""
    name, said = named_tuning(tuning), strings_said(tuning, naming)
    words = f"{name} ({said})" if name and name != said.replace(" ", "") else f"{name or said}"
    if tuning.capo:
        words += f", capo at fret {tuning.capo}"
    cents = figure(abs(tuning.offset_cents), 1, naming=naming)
    sharp = "sharp" if tuning.offset_cents > 0 else "flat"
    return f"{words}\n{cents} cents {sharp} of A = 440 Hz" if abs(tuning.offset_cents) >= 0.05 else words
