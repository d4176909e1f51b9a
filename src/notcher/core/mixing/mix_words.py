"""Why a part of the mix cannot be heard, or cannot be softer, in a sentence."""

from notcher.core.mixing.mix import MissingPart

SENTENCES = {
    MissingPart.NO_RECORDING: "There is no recording in this solo.",
    MissingPart.NO_PICTURE: "The lead cannot be taken out: this recording has no sides to tell it by.",
    MissingPart.NO_NOTES: "There are no notes yet: the tab is silent.",
    MissingPart.NO_BEATS: "There are no beats yet: neither band nor click can play. Tap them on the Hear bench.",
    MissingPart.NO_CHORDS: "There are no chords yet: the band has nothing to play.",
}


def missing_part_words(missing: MissingPart) -> str:
    """Return why a volume cannot act."""
    return SENTENCES[missing]
