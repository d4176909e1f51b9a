"""The model: a note is a place, an attack, a pitch curve and an end; a score is notes, tuning, beats, structure."""

from notcher.core.score.beat_map import NO_BEAT_MAP, BeatMap, FeltBeat, MeterChange, Swing
from notcher.core.score.context import sounding_with, techniques
from notcher.core.score.doubt import BY_HAND, Doubt, DoubtKind
from notcher.core.score.excerpt import excerpt, only, retimed, with_times
from notcher.core.score.gesture import (
    CARELESS_SEMITONES,
    GestureName,
    bent_curve,
    held_semitones,
    read_curve,
    snapped_bend,
)
from notcher.core.score.identity import derived_id, new_id
from notcher.core.score.key import SCALES, Key, key_from_text
from notcher.core.score.meter import FOUR_FOUR, Meter, meter_from_text
from notcher.core.score.note import LAST_FRET, LINK_S, Note, NoteAlternative
from notcher.core.score.pitch_curve import FLAT, PitchCurve, Side, Vibrato
from notcher.core.score.revision import ChangeKind, NoteChange, Revision, changes
from notcher.core.score.score import (
    EDGE_S,
    EMPTY_SCORE,
    Aside,
    Chord,
    Excluded,
    Facts,
    Phrase,
    Score,
    Section,
    Variant,
    with_derived_ids,
)
from notcher.core.score.selection import NO_SELECTION, Selection
from notcher.core.score.together import TOGETHER_S, held_together, struck_together
from notcher.core.score.tuning import (
    STANDARD,
    TUNINGS,
    USUAL_TUNINGS,
    Tuning,
    TuningError,
    midi_to_hz,
    tuning_from_text,
)
from notcher.core.score.vocabulary import (
    HARMONIC_PARTIALS,
    HARMONIC_TONES,
    LEGATO_ATTACKS,
    Attack,
    End,
    PickStroke,
    Tone,
    partials_near,
)

__all__ = [
    "BY_HAND",
    "CARELESS_SEMITONES",
    "EDGE_S",
    "EMPTY_SCORE",
    "FLAT",
    "FOUR_FOUR",
    "HARMONIC_PARTIALS",
    "HARMONIC_TONES",
    "LAST_FRET",
    "LEGATO_ATTACKS",
    "LINK_S",
    "NO_BEAT_MAP",
    "NO_SELECTION",
    "SCALES",
    "STANDARD",
    "TOGETHER_S",
    "TUNINGS",
    "USUAL_TUNINGS",
    "Aside",
    "Attack",
    "BeatMap",
    "ChangeKind",
    "Chord",
    "Doubt",
    "DoubtKind",
    "End",
    "Excluded",
    "Facts",
    "FeltBeat",
    "GestureName",
    "Key",
    "Meter",
    "MeterChange",
    "Note",
    "NoteAlternative",
    "NoteChange",
    "Phrase",
    "PickStroke",
    "PitchCurve",
    "Revision",
    "Score",
    "Section",
    "Selection",
    "Side",
    "Swing",
    "Tone",
    "Tuning",
    "TuningError",
    "Variant",
    "Vibrato",
    "bent_curve",
    "changes",
    "derived_id",
    "excerpt",
    "held_semitones",
    "held_together",
    "key_from_text",
    "meter_from_text",
    "midi_to_hz",
    "new_id",
    "only",
    "partials_near",
    "read_curve",
    "retimed",
    "snapped_bend",
    "sounding_with",
    "struck_together",
    "techniques",
    "tuning_from_text",
    "with_derived_ids",
    "with_times",
]
