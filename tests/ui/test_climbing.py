"""A loop that goes faster by itself, as it is heard: each round whole at one pace, the next begins where it ends."""

import itertools
from pathlib import Path

import numpy as np
import pytest
from pytestqt.qtbot import QtBot

from conftest import RATE
from hands import press, settled
from notcher.core.formats import Document, write_document
from notcher.core.score import Note, Phrase, Score
from notcher.core.sound import Clip
from notcher.devices import SimulatedLoudspeaker
from notcher.ui.shell.program import Program

PULSES, APART_S = 10, 0.1
"""In a round of one second: the first of them stands out."""


@pytest.fixture
def pulses(program: Program, tmp_path: Path) -> Program:
    """A recording of one short tone each tenth of a second, louder at the loop's beginning."""
    sound = np.zeros(4 * RATE, np.float32)
    ring = np.arange(round(0.02 * RATE)) / RATE
    for at in range(35):
        level = 0.9 if at % PULSES == 0 else 0.35
        begin = round((0.05 + APART_S * at) * RATE)
        sound[begin:][: ring.size] = level * np.sin(2 * np.pi * 1_760 * ring) * np.exp(-150 * ring)
    score = Score((Note(1.0, 1.5, 2, 5),), phrases=(Phrase(1.0, 2.0, "Pulses"),))
    path = tmp_path / "pulses.notch"
    write_document(Document(score, Clip(np.column_stack([sound, sound]), RATE)), path)
    program.open_path(str(path))
    settled(program)
    return program


@pytest.mark.slow
def test_a_loop_climbs_exactly_at_its_start(pulses: Program, qtbot: QtBot) -> None:
    speaker, player = pulses.speaker, pulses.player
    assert isinstance(speaker, SimulatedLoudspeaker)
    pulses.settings.set("up_after", 2.0)
    pulses.apply_settings()
    press("Home")
    press("L")
    press("Ctrl+E")  # no count-in
    for _ in range(6):
        press("Ctrl+Down")
    assert player.pace == pytest.approx(0.7)
    press("Space")
    qtbot.waitUntil(lambda: player.pace == pytest.approx(0.9), timeout=30_000)
    qtbot.wait(1_500)
    loud = speaker.heard()[:, 0]
    at = np.flatnonzero(np.abs(loud) > 0.08)
    begins = at[np.diff(at, prepend=-RATE) > 0.04 * RATE]
    heights = np.array([np.abs(loud[begin : begin + RATE // 50]).max() for begin in begins])
    firsts = np.flatnonzero(heights > 0.6)
    rounds = [begins[a:b] / RATE for a, b in itertools.pairwise(firsts)]
    assert len(rounds) >= 4
    assert {len(one) for one in rounds} == {PULSES}, "nothing repeated, nothing left out"
    lengths = [float(b[0] - a[0]) for a, b in itertools.pairwise(rounds)]
    paces = [0.7, 0.7, 0.8, 0.8]
    assert lengths[:4] == pytest.approx([1 / pace for pace in paces], abs=0.012), (
        "the stretcher moves an attack so much"
    )
    for one, pace in zip(rounds, paces, strict=False):
        assert np.diff(one) == pytest.approx(np.full(PULSES - 1, APART_S / pace), abs=0.012), "one pace in a round"
