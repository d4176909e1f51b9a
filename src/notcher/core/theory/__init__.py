"""What the names of music stand for: chord symbols and their tones, scales, how a pitch is spelled in a key."""

from notcher.core.theory.chord_symbol import ChordError, ChordTones, chord_tones, moved_chord
from notcher.core.theory.keys import Outside, outside_notes, ranked_keys, scale_of
from notcher.core.theory.scale import STEPS, LikelyScale, likely_scales
from notcher.core.theory.spelling import named_key, spelled, spelled_name
from notcher.core.theory.targets import DEGREES, Role, Target, degree, read_chord, share_on_beats, targets

__all__ = [
    "DEGREES",
    "STEPS",
    "ChordError",
    "ChordTones",
    "LikelyScale",
    "Outside",
    "Role",
    "Target",
    "chord_tones",
    "degree",
    "likely_scales",
    "moved_chord",
    "named_key",
    "outside_notes",
    "ranked_keys",
    "read_chord",
    "scale_of",
    "share_on_beats",
    "spelled",
    "spelled_name",
    "targets",
]
