"""A tuning and what speaks for it, in sentences."""

from notcher.core.hearing import TuningEvidence
from notcher.core.score import Tuning
from notcher.core.words.naming import USUAL, Naming
from notcher.core.words.numbers import figure, many
from notcher.core.words.pitches import note_name, open_strings


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
    "standard": "standard", "half-down": "half a step down", "whole-down": "a step down", "drop-d": "lowest string to D"
}  # fmt: skip


def tuning_name(name: str) -> str:
    """Return how a tuning that has a name is called."""
    return NAMES.get(name, name)


def tuning_words(tuning: Tuning, naming: Naming = USUAL) -> str:
    """Return a tuned neck in two lines: its open strings, and how far off concert pitch it is."""
    cents = figure(tuning.offset_cents, 1, naming=naming, signed=True)
    return f"{open_strings(tuning, naming)}, from the highest\n{cents} cents from A = 440 Hz"
