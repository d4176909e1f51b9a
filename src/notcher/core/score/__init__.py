"""The model: a note is a place, an attack, a curve and an end; a score is notes, tuning, beat map and structure."""

from notcher.core.score.beat_map import NO_BEAT_MAP, BeatMap
from notcher.core.score.context import techniques
from notcher.core.score.excerpt import excerpt, retimed
from notcher.core.score.gesture import BEND_NAMES, Reading, bend_name, bent_curve, read_curve, snapped_bend
from notcher.core.score.note import HARMONIC_PARTIALS, LAST_FRET, LEGATO_ATTACKS, Attack, End, Note, Stroke, Tone
from notcher.core.score.pitch_curve import FLAT, PitchCurve, Vibrato
from notcher.core.score.practice import Mark, Result
from notcher.core.score.revision import Change, Revision, changes
from notcher.core.score.score import EMPTY_SCORE, Chord, Excluded, Phrase, Score
from notcher.core.score.tuning import STANDARD, TUNINGS, Tuning, TuningError, midi_to_hz, midi_to_name, tuning_from_text

__all__ = [
    "BEND_NAMES",
    "EMPTY_SCORE",
    "FLAT",
    "HARMONIC_PARTIALS",
    "LAST_FRET",
    "LEGATO_ATTACKS",
    "NO_BEAT_MAP",
    "STANDARD",
    "TUNINGS",
    "Attack",
    "BeatMap",
    "Change",
    "Chord",
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
    "bend_name",
    "bent_curve",
    "changes",
    "excerpt",
    "midi_to_hz",
    "midi_to_name",
    "read_curve",
    "retimed",
    "snapped_bend",
    "techniques",
    "tuning_from_text",
]
