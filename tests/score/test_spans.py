"""One rule for which notes lie in a stretch, one function for what a note sounds."""

import math
from itertools import pairwise

import numpy as np
import pytest

from notcher.core.score import EDGE_S, Note, Phrase, Score, Tone, Vibrato, bent_curve, excerpt, sounding_with


@pytest.mark.parametrize("off_s", [-1.5 * EDGE_S, -0.5 * EDGE_S, 0.0, 0.5 * EDGE_S])
def test_a_note_at_a_border_belongs_to_one_of_two_phrases_by_every_way_of_asking(off_s: float) -> None:
    first, second = Phrase(0.0, 2.0, "a"), Phrase(2.0, 4.0, "b")
    score = Score((Note(0.0, 0.5, 1, 5), Note(2.0 + off_s, 2.6, 1, 7)), phrases=(first, second))
    held = [phrase for phrase in (first, second) if 1 in score.notes_of(phrase)]
    assert len(held) == 1, "no note is in two phrases, none in neither"
    assert held == [second if off_s > -EDGE_S else first]
    assert score.phrase_at(score.notes[1].onset_s) == held[0]
    assert held[0].holds(score.notes[1].onset_s)
    cut = excerpt(score, held[0].start_s, held[0].end_s)
    assert len(cut.notes) == len(score.notes_of(held[0]))


def test_every_note_of_adjoining_stretches_is_counted_once() -> None:
    dice = np.random.default_rng(3)
    onsets = np.sort(dice.uniform(0, 20, 200))
    score = Score(tuple(Note(float(t), float(t) + 0.05, 1, 5) for t in onsets))
    borders = [0.0, *np.sort(dice.uniform(0, 20, 12)).tolist(), 21.0]
    counts = [len(score.notes_between(start_s, end_s)) for start_s, end_s in pairwise(borders)]
    assert sum(counts) == 200


def test_what_a_note_sounds_is_its_fret_its_bend_and_its_wave() -> None:
    wave = Vibrato(0.5, 5.0, 30.0)
    note = Note(1.0, 3.0, 2, 12, curve=bent_curve(2, 2.0), vibrato=wave)
    score = Score((note,))
    times_s = np.array([0.0, 0.4, 0.5, 1.1])
    # the wave stands on the curve: up by 30 cents times 1 - cos, fully grown 150 ms after its start
    risen = 0.3 * (1 - math.cos(2 * math.pi * 5.0 * 0.6))
    assert score.pitch_at(note, times_s) == pytest.approx([71, 73, 73, 73 + risen])


# N. Fletcher and T. Rossing, "The Physics of Musical Instruments", 2nd ed. 1998, ch. 9: a string touched at half of its
# length sounds its octave, at a third its twelfth
@pytest.mark.outside(
    what="a string touched at a half and a third",
    source="N. Fletcher, T. Rossing, ch. 9",
    tolerance="1e-6 semitones",
    why="floating point",
    kind="derivation",
)
def test_harmonics_sound_what_the_string_is_left_with() -> None:
    tapped = Note(0.0, 1.0, 1, 5, tone=Tone.TAPPED_HARMONIC)
    natural = Note(1.0, 2.0, 1, 7, tone=Tone.NATURAL_HARMONIC)
    score = Score((tapped, natural))
    assert float(score.pitch_at(tapped)) == 64 + 5 + 12
    assert float(score.pitch_at(natural)) == pytest.approx(64 + 12 * math.log2(3))


def test_strings_are_heard_together_from_sixty_milliseconds_on() -> None:
    held, short = Note(0.0, 1.0, 1, 5), Note(0.95, 1.5, 2, 5)
    assert sounding_with(Score((held, short)), 0) == ()
    longer = Note(0.9, 1.5, 2, 5)
    assert sounding_with(Score((held, longer)), 0) == (longer,)
