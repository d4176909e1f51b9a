"""Tapped cells, and which notes lead into each other."""

import pytest

from notcher.core.hearing.tone import HeardNote, _cells, _leads
from notcher.core.score import FLAT, Attack


def line(*pitches: int, length_s: float = 0.1, gap_s: float = 0.0, picked: int = 1) -> list[HeardNote]:
    """Quick notes one after another, the first few picked and the others not."""
    step_s = length_s + gap_s
    return [
        HeardNote(at * step_s, at * step_s + length_s, midi, Attack.PICK if at < picked else Attack.HAMMER, FLAT, None,
                  0.9, 0.0)
        for at, midi in enumerate(pitches)
    ]  # fmt: skip


# what a finger leaves between two legato notes is far shorter than a rest (common practice, no source)
@pytest.mark.parametrize(("gap_s", "leads"), [(0.0, True), (0.05, True), (0.1, False)])
def test_a_note_leads_into_the_next_over_a_short_gap(gap_s: float, leads: bool) -> None:
    before, note = line(60, 65, gap_s=gap_s)
    assert _leads(before, note) is leads


def test_a_cell_of_three_pitches_wider_than_a_hand_goes_round() -> None:
    assert _cells(line(*(72, 60, 64) * 3)) == [(0, 9)]
    assert _cells(line(*(72, 60, 72) * 3)) == [], "two pitches are a trill"
    assert _cells(line(*(62, 60, 64) * 3)) == [], "a hand reaches that"
    assert _cells(line(*(72, 60, 64) * 3, length_s=0.3)) == [], "too slow"
    assert _cells(line(*(72, 60, 64) * 3, picked=9)) == [], "each is picked"
