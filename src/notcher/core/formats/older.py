"""What older documents said otherwise: sentences that have become values."""

import re

from notcher.core.score import BY_HAND, Doubt, DoubtKind, Tone

_TONES = {
    "palm mute": Tone.PALM_MUTE,
    "natural harmonic": Tone.NATURAL_HARMONIC,
    "squeal harmonic": Tone.SQUEAL_HARMONIC,
    "dead note": Tone.DEAD,
}
_SENTENCES: tuple[tuple[str, DoubtKind, float], ...] = (
    (r"(\d+)% sure of this note: weak pitch", DoubtKind.WEAK_PITCH, 0.01),
    (r"(\d+)% sure of this note", DoubtKind.UNSURE, 0.01),
    (r"(\d+)% sure that it is a (.+)", DoubtKind.TONE, 0.01),
    (r"(\d+)% sure that it was slid to", DoubtKind.SLID, 0.01),
    (r"bend of (\d+) cents: between a quarter and a half step", DoubtKind.BETWEEN_SIZES, 1.0),
    (r"([+-]\d+) cents off its fret", DoubtKind.OFF_FRET, 1.0),
    (r"two places are as easy: also string (\d+) fret (\d+)", DoubtKind.EQUAL_PLACE, 1.0),
    (r"(\d+) ms (behind|ahead of) the pulse", DoubtKind.OFF_BEAT, 0.001),
)
"""How documents of version 1 told a doubt, what it is, and the unit of its number."""


def doubt_from_text(text: str) -> Doubt | None:
    """Return the doubt that an older document told as a sentence; one that is not known keeps its words."""
    if not text:
        return None
    if text == "marked by hand":
        return BY_HAND
    for pattern, kind, unit in _SENTENCES:
        found = re.fullmatch(pattern, text)
        if found is None:
            continue
        if kind is DoubtKind.EQUAL_PLACE:
            return Doubt(kind, place=(int(found[1]), int(found[2])))
        if kind is DoubtKind.TONE and found[2] not in _TONES:
            continue
        tone = _TONES[found[2]] if kind is DoubtKind.TONE else None
        early = kind is DoubtKind.OFF_BEAT and found[2] == "ahead of"
        return Doubt(kind, (-1 if early else 1) * unit * float(found[1]), tone)
    return Doubt(DoubtKind.OTHER, text=text)
