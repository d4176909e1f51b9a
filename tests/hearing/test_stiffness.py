"""Which string a note sounds like: the stretch of its partials."""

import numpy as np
import pytest

from lead_cases import make_case, render_case
from notcher.core.hearing import RATE
from notcher.core.hearing.stiffness import believable, measured_stiffness, string_costs
from notcher.core.neck import Sounding, place
from notcher.core.score import STANDARD, Note, Score, midi_to_hz
from notcher.core.sound import Clip, resampled
from notcher.core.synthesis import render
from notcher.core.synthesis.string_model import STIFFNESS


def measured(clip: Clip, score: Score) -> np.ndarray:
    sound = resampled(clip.samples[:, 0], from_rate=clip.sample_rate, to_rate=RATE)
    return np.array(
        [measured_stiffness(sound, n.onset_s, n.offset_s, midi_to_hz(score.fretted_midi(n))) for n in score.notes]
    )


def scale(*places: tuple[int, int]) -> Score:
    return Score(tuple(Note(0.5 * i, 0.5 * i + 0.4, *where) for i, where in enumerate(places)))


@pytest.mark.outside(
    what="partials of a stiff string",
    source="H. Fletcher, JASA 36, 1964: k f sqrt(1 + B k²)",
    tolerance="10 % of B",
    why="B is a small difference of frequencies",
    kind="derivation",
)
@pytest.mark.parametrize("stiffness", [2e-5, 1e-4, 4e-4])
def test_stretched_partials_give_their_coefficient_back(stiffness: float) -> None:
    """Partials at k f sqrt(1 + B k^2): H. Fletcher, JASA 36, 1964."""
    times_s, hertz = np.arange(RATE) / RATE, 233.0
    sound = sum(
        np.sin(2 * np.pi * k * hertz * np.sqrt((1 + stiffness * k**2) / (1 + stiffness)) * times_s) / k
        for k in range(1, 20)
    )
    found = measured_stiffness(0.2 * np.asarray(sound, dtype=np.float32), 0.1, 0.9, hertz)
    # a tenth: a hundredth of what separates two plain strings at one pitch
    assert found == pytest.approx(stiffness, rel=0.1)
    assert np.isnan(measured_stiffness(np.zeros(RATE, dtype=np.float32), 0.1, 0.9, hertz))
    assert np.isnan(measured_stiffness(np.asarray(sound), 0.1, 0.15, hertz))


def test_each_fret_adds_a_sixth_of_an_octave() -> None:
    # B goes with 1 / L^2 (Fletcher 1964), and L with 2^(-fret / 12)
    score = scale((3, 5), (3, 11), (3, 17))
    found = measured(render(score), score)
    assert found[1] / found[0] == pytest.approx(2.0, rel=0.15)
    assert found[0] == pytest.approx(STIFFNESS[3] * 2 ** (5 / 6), rel=0.2)


def test_strings_are_told_apart_where_the_sound_can_be_believed() -> None:
    low = [(2, 10 + f) for f in (0, 2, 3, 5, 3, 2, 0, 2, 3, 5, 3, 2, 0)]
    score = scale(*low)
    stiffness = measured(render(score), score)
    midi = np.array([score.fretted_midi(n) for n in score.notes])
    costs = string_costs(stiffness, midi, [2] * midi.size, STANDARD)
    assert all(cost is not None and cost[1] < min(cost[0], cost[2]) for cost in costs)
    # as a soft cost it decides where the hand alone would not mind
    assert place([Sounding(0, 1, 69)], STANDARD)[0].place.string != 3
    assert place([Sounding(0, 1, 69, string_costs=(2, 2, 0, 2, 2, 2))], STANDARD)[0].place.string == 3


def test_samples_played_at_another_speed_are_not_believed() -> None:
    case = make_case(3, length_s=20.0)
    steady = case.score.with_notes(n for n in case.score.notes if not n.curve.points and n.vibrato is None)
    stiffness = measured(render_case(case), steady)
    midi = np.array([steady.fretted_midi(n) for n in steady.notes])
    strings = [n.string for n in steady.notes]
    assert not believable(stiffness, midi, strings, STANDARD)
    assert string_costs(stiffness, midi, strings, STANDARD) == [None] * midi.size
