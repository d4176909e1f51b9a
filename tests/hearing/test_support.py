"""A soft note under a band is borne out; one that nobody played is not."""

from dataclasses import replace
from types import SimpleNamespace

import numpy as np
import pytest

from band import with_band
from lead_cases import make_case, render_case
from notcher.core.hearing import Draft, draft, support
from notcher.core.hearing.salience import LOW_MIDI, PER_SEMITONE, PITCHES, SALIENCE_HOP_S
from notcher.core.proving import Mention, prove
from notcher.core.score import LEGATO_ATTACKS, Note, Score, bent_curve


@pytest.fixture(scope="module")
def buried() -> tuple[Score, Draft]:
    """A set-aside solo of a sampled guitar, as loud as its band."""
    case = make_case(103, length_s=20.0)
    return case.score, draft(with_band(case, render_case(case), lead_db=0), tuning=case.score.tuning)


@pytest.mark.slow
def test_true_notes_are_borne_out_and_shifted_ones_are_not(buried: tuple[Score, Draft]) -> None:
    score, heard = buried
    assert heard.analysis is not None
    offset = heard.score.tuning.offset_cents

    def share(by: int, later_s: float = 0.0) -> float:
        found = []
        for note in score.notes:
            if note.duration_s > 0.1 and 3 <= note.fret <= 20 and note.attack in LEGATO_ATTACKS:
                moved = replace(
                    note, fret=note.fret + by, onset_s=note.onset_s + later_s, offset_s=note.offset_s + later_s
                )
                told = support(score, moved, heard.analysis, offset_cents=offset)
                found.append(told is not None and told.enough)
        assert len(found) > 10
        return float(np.mean(found))

    assert share(0) > 0.85
    assert max(share(1), share(-1)) < 0.12


def test_a_true_tab_is_not_accused_through_a_band(buried: tuple[Score, Draft]) -> None:
    score, heard = buried
    proof = prove(score, heard)
    assert sum(finding.open for finding in proof.notes) <= 0.03 * len(score.notes)
    soft = [finding for finding in proof.notes if Mention.SOFT in finding.mentions]
    assert soft, "some were not followed, and are there all the same"
    assert all(soft_note.status == "agrees" and soft_note.measured_cents is None for soft_note in soft)


@pytest.mark.slow
def test_a_note_past_the_end_or_too_short_tells_nothing(buried: tuple[Score, Draft]) -> None:
    score, heard = buried
    assert heard.analysis is not None
    for change in ({"onset_s": 500.0, "offset_s": 501.0}, {"offset_s": score.notes[0].onset_s + 0.03}):
        assert support(score, replace(score.notes[0], **change), heard.analysis, offset_cents=0.0) is None


def strength_of(*lines: tuple[float, float], seconds: float = 2.0) -> SimpleNamespace:
    """What a recording's analysis says of steady pitches: (MIDI number, strength)."""
    strength = np.full((round(seconds / SALIENCE_HOP_S), PITCHES), 0.01, dtype=np.float32)
    for midi, how_strong in lines:
        strength[:, round((midi - LOW_MIDI) * PER_SEMITONE)] = how_strong
    return SimpleNamespace(strength=strength)


@pytest.mark.parametrize("step", [-3, -2, -1, 1, 2, 3])
def test_a_stronger_neighbour_leaves_a_note_without_support(step: int) -> None:
    note = Note(0.5, 1.5, 2, 10)  # A4
    alone = support(Score(), note, strength_of((69, 1.0)), offset_cents=0.0)  # type: ignore[arg-type]
    beside = support(Score(), note, strength_of((69, 1.0), (69 + step, 2.0)), offset_cents=0.0)  # type: ignore[arg-type]
    assert alone is not None
    assert beside is not None
    assert (alone.stands_out, beside.stands_out) == (1.0, 0.0)


def test_a_bend_is_looked_for_where_it_goes() -> None:
    note = Note(0.5, 1.5, 2, 10, curve=bent_curve(2, 1.0, rise_s=0.2))
    analysis = strength_of()
    frames = np.arange(analysis.strength.shape[0])
    midi = np.clip(69 + note.curve.at(np.maximum(frames * SALIENCE_HOP_S - 0.5, 0.0)), 69, 71)
    analysis.strength[frames, np.rint((midi - LOW_MIDI) * PER_SEMITONE).astype(int)] = 1.0
    found = support(Score(), note, analysis, offset_cents=0.0)  # type: ignore[arg-type]
    assert found is not None
    assert found.stands_out > 0.9
