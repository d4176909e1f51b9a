"""Notes, places, techniques, doubts and findings in sentences: values in, words out, in the naming chosen."""

from notcher.core.words.advice import advice_words, headline, phrase_figures
from notcher.core.words.bends import bend_goal, bend_name, bend_size, bent_words, sounding_fret
from notcher.core.words.changes import changed_note_words, changed_words
from notcher.core.words.counts import bar_words, count_word
from notcher.core.words.doubts import doubt_words, reason_words
from notcher.core.words.findings import finding_facts, row_place, row_words, verdict_words, vibrato_words
from notcher.core.words.gestures import gesture_words
from notcher.core.words.naming import USUAL, BendNames, Naming, NoteNames, StringNames
from notcher.core.words.numbers import figure, half_steps, many, ordinal, pitch_words
from notcher.core.words.pitches import note_name, open_strings, pitch_class_name, place_name, string_letter, string_name
from notcher.core.words.readings import reading_words
from notcher.core.words.shapes import (
    boundary_reason_words,
    boundary_words,
    box_words,
    group_place_words,
    group_words,
    key_words,
    lick_words,
    many_frets,
    moved_words,
    outside_words,
    section_words,
    shape_words,
    statement,
)
from notcher.core.words.spoken import bend_said, fret_said, note_said, phrase_said, place_said, string_said
from notcher.core.words.techniques import ATTACKS, ENDS, TONES
from notcher.core.words.times import clock, day_words, hours, late_words, seconds
from notcher.core.words.tunings import evidence_words, named_tuning, strings_said, tuning_name, tuning_words
from notcher.core.words.versions import comparison_facts, comparison_words, difference_words

__all__ = [
    "ATTACKS",
    "ENDS",
    "TONES",
    "USUAL",
    "BendNames",
    "Naming",
    "NoteNames",
    "StringNames",
    "advice_words",
    "bar_words",
    "bend_goal",
    "bend_name",
    "bend_said",
    "bend_size",
    "bent_words",
    "boundary_reason_words",
    "boundary_words",
    "box_words",
    "changed_note_words",
    "changed_words",
    "clock",
    "comparison_facts",
    "comparison_words",
    "count_word",
    "day_words",
    "difference_words",
    "doubt_words",
    "evidence_words",
    "figure",
    "finding_facts",
    "fret_said",
    "gesture_words",
    "group_place_words",
    "group_words",
    "half_steps",
    "headline",
    "hours",
    "key_words",
    "late_words",
    "lick_words",
    "many",
    "many_frets",
    "moved_words",
    "named_tuning",
    "note_name",
    "note_said",
    "open_strings",
    "ordinal",
    "outside_words",
    "phrase_figures",
    "phrase_said",
    "pitch_class_name",
    "pitch_words",
    "place_name",
    "place_said",
    "reading_words",
    "reason_words",
    "row_place",
    "row_words",
    "seconds",
    "section_words",
    "shape_words",
    "sounding_fret",
    "statement",
    "string_letter",
    "string_name",
    "string_said",
    "strings_said",
    "tuning_name",
    "tuning_words",
    "verdict_words",
    "vibrato_words",
]
