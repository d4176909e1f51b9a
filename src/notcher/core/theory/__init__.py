"""What the names of music stand for: chord symbols and their tones, scales, how a pitch is spelled in a key."""

from notcher.core.theory.chord_symbol import ChordError, ChordTones, chord_tones
from notcher.core.theory.scale import MINOR_FIVE, fitting_minor_five
from notcher.core.theory.spelling import spelled, spelled_name

__all__ = ["MINOR_FIVE", "ChordError", "ChordTones", "chord_tones", "fitting_minor_five", "spelled", "spelled_name"]
