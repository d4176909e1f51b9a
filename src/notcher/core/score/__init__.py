"""The model: a note is a place, an attack, a pitch curve and an end; a score is notes, tuning, beats, structure."""

from notcher.core.score.beat_map import NO_BEAT_MAP, BeatMap
from notcher.core.score.context import sounding_with, techniques
from notcher.core.score.doubt import BY_HAND, Doubt, DoubtKind
from notcher.core.score.excerpt import excerpt, retimed
from notcher.core.score.gesture import (
    BEND_SIZES,
    CARELESS_SEMITONES,
    Reading,
    bent_curve,
    held_semitones,
    read_curve,
    snapped_bend,
)
from notcher.core.score.note import LAST_FRET, LINK_S, TOGETHER_S, Note
from notcher.core.score.pitch_curve import FLAT, PitchCurve, Vibrato
from notcher.core.score.practice import Mark, Result
from notcher.core.score.revision import Change, ChangeKind, Revision, changes
from notcher.core.score.score import EDGE_S, EMPTY_SCORE, Chord, Excluded, Phrase, Score
from notcher.core.score.tuning import STANDARD, TUNINGS, Tuning, TuningError, midi_to_hz, tuning_from_text
from notcher.core.score.vocabulary import HARMONIC_PARTIALS, LEGATO_ATTACKS, Attack, End, Stroke, Tone

__all__ = [
    "BEND_SIZES",
    "BY_HAND",
    "CARELESS_SEMITONES",
    "EDGE_S",
    "EMPTY_SCORE",
    "FLAT",
    "HARMONIC_PARTIALS",
    "LAST_FRET",
    "LEGATO_ATTACKS",
    "LINK_S",
    "NO_BEAT_MAP",
    "STANDARD",
    "TOGETHER_S",
    "TUNINGS",
    "Attack",
    "BeatMap",
    "Change",
    "ChangeKind",
    "Chord",
    "Doubt",
    "DoubtKind",
    "End",
    "Excluded",
    "Mark",
    "Note",
    "Phrase",
    "PitchCurve",
    "Reading",
    "Result",
    "Revision",
    "Score",
    "Stroke",
    "Tone",
    "Tuning",
    "TuningError",
    "Vibrato",
    "bent_curve",
    "changes",
    "excerpt",
    "held_semitones",
    "midi_to_hz",
    "read_curve",
    "retimed",
    "snapped_bend",
    "sounding_with",
    "techniques",
    "tuning_from_text",
]
