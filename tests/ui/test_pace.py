"""Another pace while it plays, by a delivered key: what sounds goes on, nothing twice and nothing left out."""

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

APART_S = 0.1


@pytest.fixture
def pulses(program: Program, tmp_path: Path) -> Program:
    """A recording of one short tone each tenth of a second, and a phrase over a part of it."""
    sound = np.zeros(6 * RATE, np.float32)
    ring = np.arange(round(0.02 * RATE)) / RATE
    for at in np.arange(0.05, 5.9, APART_S):
        sound[round(at * RATE) :][: ring.size] = 0.5 * np.sin(2 * np.pi * 1_760 * ring) * np.exp(-150 * ring)
    score = Score((Note(1.0, 1.5, 2, 5),), phrases=(Phrase(1.0, 3.0, "Pulses"),))
    path = tmp_path / "pulses.notch"
    write_document(Document(score, Clip(np.column_stack([sound, sound]), RATE)), path)
    program.open_path(str(path))
    settled(program)
    return program


def begins(speaker: SimulatedLoudspeaker) -> np.ndarray:
    """Seconds at which a pulse begins in what was heard."""
    loud = np.flatnonzero(np.abs(speaker.heard()[:, 0]) > 0.1)
    return loud[np.diff(loud, prepend=-RATE) > 0.05 * RATE] / RATE


@pytest.mark.slow
@pytest.mark.parametrize("looped", [False, True])
def test_another_pace_repeats_nothing_and_leaves_nothing_out(pulses: Program, qtbot: QtBot, looped: bool) -> None:
    """At 95 % a tenth of a second lasts 105 ms; the change itself lies between two pulses."""
    speaker, player = pulses.speaker, pulses.player
    assert isinstance(speaker, SimulatedLoudspeaker)
    if looped:
        press("Home")
        press("L")
        press("Ctrl+E")
    press("Space")
    qtbot.waitUntil(lambda: player.playing and len(begins(speaker)) > 4, timeout=10_000)
    press("Ctrl+Down")
    before = len(begins(speaker))
    qtbot.waitUntil(lambda: len(begins(speaker)) > before + 8, timeout=10_000)
    apart = np.diff(begins(speaker)[: before + 8])
    slow = APART_S / 0.95
    assert apart[: before - 1] == pytest.approx(np.full(before - 1, APART_S), abs=0.004)
    assert apart[-4:] == pytest.approx(np.full(4, slow), abs=0.006), "the stretcher moves an attack by so much"
    assert apart.min() > APART_S - 0.01, "nothing left out"
    assert apart.max() < slow + 0.01, "nothing twice, no hole"
