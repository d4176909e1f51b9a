"""A lesson of thirty minutes as it is heard: every click and every round where the plan says, by one delivered key."""

import time
from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot
from scipy.signal import butter, sosfiltfilt

from hands import press, settled
from notcher.core.formats import Document, write_document
from notcher.core.score import BeatMap, Note, Phrase, Score, count_in_of
from notcher.core.sound import Clip
from notcher.core.teaching import REST_S, Plan
from notcher.devices import simulated_loudspeaker
from notcher.ui.shell.program import Program

RATE, SPEED = 8_000, 40.0
APART_S = 0.02  # asked: an ear tells two sounds apart from about here on (Hirsh 1959)
LOW_HZ, CLICK_HZ = 400.0, 700.0
"""The recording sounds below, clicks above."""


def solo() -> Score:
    """Three phrases of four notes, the first with a lead-in of one beat."""
    starts = (1.5, 6.0, 10.0)
    notes = [Note(start + 0.5 * at, start + 0.5 * at + 0.45, 2, 5 + at) for start in starts for at in range(5)]
    spans = tuple(
        Phrase(start, start + 2.5, name) for start, name in zip(starts, ("Call", "Answer", "End"), strict=True)
    )
    return Score(tuple(notes), beat_map=BeatMap.steady(120, 0.0), phrases=spans, title="Three")


def recording(score: Score) -> Clip:
    times_s = np.arange(14 * RATE) / RATE
    inside = sum(((phrase.start_s <= times_s) & (times_s < phrase.end_s)) for phrase in score.phrases)
    return Clip((0.4 * inside * np.sin(2 * np.pi * 150 * times_s)).astype(np.float32)[:, None], RATE)


def begins(sound: np.ndarray, quiet_s: float) -> np.ndarray:
    """Seconds at which a sound leaves a silence of so long."""
    loud = np.flatnonzero(np.abs(sound) > 0.05)
    return loud[np.diff(loud, prepend=-RATE) > quiet_s * RATE] / RATE


def due(score: Score, plan: Plan) -> tuple[list[float], list[float]]:
    """When clicks and rounds are to be heard, by the plan's own figures: talk, then rounds of count-in, sound, rest."""
    by_id = {phrase.id: phrase for phrase in score.phrases}
    clicks, rounds, now_s = [], [], 0.0
    for step in plan.steps:
        start_s = by_id[step.phrases[0]].start_s
        counted = count_in_of(score.beat_map, start_s)
        now_s += step.parts.talk_s
        for _ in range(step.rounds):
            if step.parts.count_in_s:
                clicks += (now_s + counted.clicks_s / step.pace).tolist()
                assert step.parts.count_in_s / step.rounds == pytest.approx(counted.length_s / step.pace)
            now_s += step.parts.count_in_s / step.rounds
            rounds.append(now_s)
            now_s += step.parts.sound_s / step.rounds + REST_S
        now_s += step.break_s
    assert now_s == pytest.approx(60 * plan.planned_minutes)
    return clicks, rounds


@pytest.mark.slow
def test_every_click_and_round_of_thirty_minutes_is_where_the_plan_says(
    program: Program, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(simulated_loudspeaker, "KEPT_S", 3_600)
    score, path = solo(), tmp_path / "three.notch"
    write_document(Document(score, recording(score)), path)
    program.open_path(str(path))
    settled(program)
    qtbot.waitUntil(lambda: QApplication.focusWidget() is not None, timeout=5_000)
    press("Ctrl+5")
    press("P")
    settled(program)
    plan = program.teach.plan.plan
    assert plan is not None
    assert plan.planned_minutes == pytest.approx(30, rel=0.05)
    program.player.speaker._speed = SPEED  # type: ignore[attr-defined]
    program.teaching.runner._clock = lambda: SPEED * time.monotonic()
    press("Shift+Return")
    qtbot.waitUntil(lambda: not program.teaching.runner.runs, timeout=150_000)
    heard = program.player.speaker.heard()[:, 0]  # type: ignore[attr-defined]
    clicks, rounds = due(program.score, plan)

    def band(kind: str, hertz: float) -> np.ndarray:
        return sosfiltfilt(butter(4, hertz, kind, fs=RATE, output="sos"), heard)

    found = begins(band("highpass", CLICK_HZ), 0.1)
    assert found.size >= 0.98 * len(clicks)
    late = [float(np.abs(found - at).min()) for at in clicks]
    assert max(late) < APART_S
    low = begins(band("lowpass", LOW_HZ), 0.6)
    late = [float(np.abs(low - at).min()) for at in rounds]
    assert max(late) < APART_S
    (lesson,) = program.ledger.book.lessons.values()
    assert lesson.minutes == pytest.approx(plan.planned_minutes, rel=0.05), "its real minutes"
    assert "Call to End at 50 %" in lesson.did or "Call to Answer at 50 %" in lesson.did
