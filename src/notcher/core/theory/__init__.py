"""What the names of music stand for: chord symbols and their tones."""

from notcher.core.theory.chord_symbol import ChordError, ChordTones, chord_tones

__all__ = ["ChordError", "ChordTones", "chord_tones"]
