"""What the names of music stand for: chord symbols and their tones, scales, how a pitch is spelled in a key."""

from notcher.core.theory.chord_symbol import ChordError, ChordTones, chord_tones
from notcher.core.theory.scale import STEPS, LikelyScale, likely_scales
from notcher.core.theory.spelling import spelled, spelled_name

__all__ = [
    "STEPS",
    "ChordError",
    "ChordTones",
    "LikelyScale",
    "chord_tones",
    "likely_scales",
    "spelled",
    "spelled_name",
]
