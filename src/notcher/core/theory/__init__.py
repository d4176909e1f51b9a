"""What the names of music stand for: chord symbols and their tones, scales."""

from notcher.core.theory.chord_symbol import ChordError, ChordTones, chord_tones
from notcher.core.theory.scale import MINOR_FIVE, fitting_minor_five

__all__ = ["MINOR_FIVE", "ChordError", "ChordTones", "chord_tones", "fitting_minor_five"]
