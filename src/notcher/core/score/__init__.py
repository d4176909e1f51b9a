"""The model: a note is a place, a strike, a curve and an end; a score is notes, tuning, pulse and structure."""

from notcher.core.score.context import techniques
from notcher.core.score.curve import FLAT, Curve, Vibrato
from notcher.core.score.excerpt import excerpt, retimed
from notcher.core.score.gesture import BEND_NAMES, Reading, bend_name, bent_curve, read_curve, snapped_bend
from notcher.core.score.note import HARMONIC_PARTIALS, LAST_FRET, LEGATO_STRIKES, End, Note, Strike, Stroke, Tone
from notcher.core.score.practice import Mark, Result
from notcher.core.score.pulse import NO_PULSE, Pulse
from notcher.core.score.revision import Change, Revision, changes
from notcher.core.score.score import EMPTY_SCORE, Aside, Chord, Phrase, Score
from notcher.core.score.tuning import STANDARD, TUNINGS, Tuning, TuningError, midi_to_hz, midi_to_name, tuning_from_text

__all__ = [
    "BEND_NAMES",
    "EMPTY_SCORE",
    "FLAT",
    "HARMONIC_PARTIALS",
    "LAST_FRET",
    "LEGATO_STRIKES",
    "NO_PULSE",
    "STANDARD",
    "TUNINGS",
    "Aside",
    "Change",
    "Chord",
    "Curve",
    "End",
    "Mark",
    "Note",
    "Phrase",
    "Pulse",
    "Reading",
    "Result",
    "Revision",
    "Score",
    "Strike",
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
