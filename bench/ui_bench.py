"""How smoothly the tab pans and zooms: `./dev bench ui`; writes docs/benchmarks/ui.md.

A ten-minute solo of 3,000 notes, every one with a curve and evidence under it, drawn offscreen at 1280 x 800.
"""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import replace
from functools import partial
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import numpy as np
from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtGui import QPixmap
from PyQt6.QtWidgets import QApplication

from notcher.core.formats import AutosaveStore, Document
from notcher.core.hearing import HOP_S, Draft, Measured, PitchTrack
from notcher.core.score import (
    Attack,
    BeatMap,
    Note,
    Phrase,
    PitchCurve,
    Score,
    Selection,
    Vibrato,
    bent_curve,
    midi_to_hz,
)
from notcher.core.score.rhythm import written_times
from notcher.core.sound import Clip, read_clip, write_clip
from notcher.demo import demo_audio
from notcher.painting.theme import PAPER, load_fonts
from notcher.ui.benches.prove.prove_bench import ProveBench
from notcher.ui.playback.sources import PlaybackSource
from notcher.ui.state.jobs import Jobs
from notcher.ui.state.session import Session
from notcher.ui.tab.tab_view import TabView
from notcher.ui.widgets.style import apply_theme
from simulated_program import simulated_program

PAGE = Path(__file__).parents[1] / "docs" / "benchmarks" / "ui.md"
MINUTES, NOTES = 10, 3_000
FRAMES = 240
WINDOW_WITH = """
import os, re, sys
from pathlib import Path
from PyQt6.QtCore import QTimer
from notcher.ui.shell import application
begin = application.Loading.begin
def watched(loading):
    begin(loading)
    def look():
        program = loading.program
        if program is not None and program.session.heard is not None and not program.busy:
            print(*re.findall(r"Vm(?:HWM|RSS):\\s+(\\d+)", Path("/proc/self/status").read_text()), flush=True)
            os._exit(0)
    loading.looking = QTimer(loading._window)
    loading.looking.timeout.connect(look)
    loading.looking.start(500)
application.Loading.begin = watched
application.run(sys.argv[1])
"""


def long_solo() -> tuple[Score, PitchTrack]:
    dice = np.random.default_rng(1)
    notes = []
    step_s = 60.0 * MINUTES / NOTES
    for number in range(NOTES):
        kind, span_s = number % 6, 0.93 * step_s
        curve = bent_curve(2.0, span_s) if kind == 2 else PitchCurve()
        wave = Vibrato(0.05, 5.5, 30) if kind == 4 else None
        attack = Attack.HAMMER if kind == 3 else Attack.PICK
        place = (int(dice.integers(1, 6)), int(dice.integers(5, 16)))
        notes.append(Note(number * step_s, number * step_s + span_s, *place, attack, curve, wave))
    phrases = tuple(Phrase(at, at + 4.8, f"Phrase {number}") for number, at in enumerate(np.arange(0, 600, 5.0)))
    score = Score(tuple(notes), beat_map=BeatMap.steady(100, 0), phrases=phrases)
    times_s = np.arange(0, 60.0 * MINUTES, HOP_S)
    midi = np.full(times_s.size, np.nan)
    for note in notes:
        span = slice(*np.searchsorted(times_s, [note.onset_s, note.offset_s]))
        midi[span] = score.fretted_midi(note) + note.curve.at(times_s[span] - note.onset_s) + 0.03
    hertz = midi_to_hz(0) * 2 ** (midi / 12)
    return score, PitchTrack(times_s, hertz, np.ones(times_s.size), np.zeros(times_s.size))


def felt() -> list[str]:
    """Rows of what is waited for, from a process in which nothing else was opened before."""
    command = [sys.executable, str(Path(__file__).parent / "felt.py")]
    told = subprocess.run(command, capture_output=True, text=True, check=True)
    return [line for line in told.stdout.splitlines() if line.startswith("|")]


def chosen(score: Score, at: int) -> Selection:
    return Selection((score.notes[at].id,), score.notes[at].id)


def timed(app: QApplication, view: TabView, act: Callable[[int], None]) -> tuple[float, float]:
    """Milliseconds of one frame, its input and its whole repaint: median and 95th percentile."""
    target = QPixmap(view.size())
    spent = []
    for number in range(FRAMES):
        begun = time.perf_counter()
        act(number)
        view.render(target)
        spent.append(1000 * (time.perf_counter() - begun))
        app.processEvents()
    return float(np.median(spent)), float(np.percentile(spent, 95))


def proving(app: QApplication, score: Score, track: PitchTrack) -> tuple[list[tuple[str, float, float]], str]:
    """The Prove bench with all notes in its list: walking, and the longest the window stood still while proving."""
    session, jobs = Session(), Jobs()
    bench = ProveBench(session, jobs)
    bench.resize(1280, 560)
    bench.show()
    session.open(Document(score), None)
    bench.all_box.setChecked(True)
    session.take_evidence(Draft(score, track, (), "auto"))
    stood, seconds = waited(app, bench, score)
    target = QPixmap(bench.size())
    spent = []
    for number in range(FRAMES):
        begun = time.perf_counter()
        bench.list.selectRow(number)
        bench.render(target)
        spent.append(1000 * (time.perf_counter() - begun))
    after = score.with_note(score.notes[520].id, fret=3)
    session.edit("Move", after)
    stood_again, seconds_again = waited(app, bench, after)
    jobs.shut_down()
    bench.stop()
    row = ("next row of the Prove bench", float(np.median(spent)), float(np.percentile(spent, 95)))
    words = (
        f"Holding all {NOTES} notes against the recording takes {seconds:.1f} s beside the window, which stands still "
        f"for {1000 * stood:.0f} ms at the longest; after an edit {seconds_again:.1f} s and "
        f"{1000 * stood_again:.0f} ms."
    )
    return [row], words


def waited(app: QApplication, bench: ProveBench, score: Score) -> tuple[float, float]:
    """Let the bench prove a score; return the longest that the window stands still and the whole time, seconds."""
    begun, ended = time.perf_counter(), QTimer()
    ended.timeout.connect(lambda: app.quit() if bench._score is score else None)
    ended.start(5)
    with ticking() as turns_s:
        app.exec()
    ended.stop()
    return float(np.diff(turns_s).max()), time.perf_counter() - begun


def kept(score: Score, edits: list[Score]) -> tuple[float, float]:
    """Milliseconds until an edit lies on the disk: median and 95th percentile."""
    document, took = Document(score), []
    with tempfile.TemporaryDirectory() as name:
        journal = AutosaveStore(Path(name), document.id)
        journal.save_delta(document, None, None)
        for turn in range(FRAMES):
            begun = time.perf_counter()
            journal.save_delta(replace(document, score=edits[turn % len(edits)]), None, None)
            took.append(1000 * (time.perf_counter() - begun))
        journal.discard()
    return float(np.median(took)), float(np.percentile(took, 95))


def reference() -> float:
    """Milliseconds of a loop that never changes, so that machines can be told from one another."""
    begun, total = time.perf_counter(), 0
    for number in range(1_000_000):
        total += number & 7
    return 1000 * (time.perf_counter() - begun)


def blocking(app: QApplication) -> list[str]:
    """How long the whole window stands still for an edit of half the notes, the rest unwritten, and of all."""
    halves = [edited(app, count) for count in (NOTES // 2, NOTES)]
    return [f"| {name} | {halves[0][name]:.0f} ms | {halves[1][name]:.0f} ms |" for name in halves[0]]


def edited(app: QApplication, count: int) -> dict[str, float]:
    """The longest that the window stands still for each of some edits, milliseconds; count: notes that are written."""
    score, track = long_solo()
    score, found = score.with_notes(score.notes[:count]), {}
    with tempfile.TemporaryDirectory() as scratch:
        program = simulated_program(Path(scratch))
        session, notch = program.session, program.notch
        session.open(Document(score, None, track), None)
        session.take_evidence(Draft(score, track, (), "auto"))
        stand(app, lambda: None)

        def select_all() -> None:
            session.select(session.score.notes[0].id)
            session.select(session.score.notes[count - 1].id, extend=True)

        for name, act in (
            ("a fret typed, proved again beside", lambda: notch.editor.type_fret(7)),
            ("accept a phrase", partial(program.commands.run, "phrase.accept")),
            ("select all", select_all),
            ("accept all", partial(program.commands.run, "note.accept")),
            ("undo that", session.undo_stack.undo),
            ("play the tab instead, rendered beside", lambda: program.sources.choose(PlaybackSource.TAB)),
            ("an edit while that is rendered", lambda: notch.editor.type_fret(9)),
        ):
            found[name] = stand(app, act)
        begun = time.perf_counter()
        written_times(session.score)
        found["written times of all (not in the window's way)"] = 1000 * (time.perf_counter() - begun)
        session.mark_saved(session.document, session.undo_stack.index())
        program.close()
    return found


def stand(app: QApplication, act: Callable[[], object]) -> float:
    """The longest that the window stands still from an act on, for a second and a half, milliseconds."""
    QTimer.singleShot(100, act)
    QTimer.singleShot(1600, app.quit)
    with ticking() as turns_s:
        app.exec()
    return 1000 * float(np.diff(turns_s).max())


@contextmanager
def ticking() -> Iterator[list[float]]:
    """When a timer that asks every millisecond gets its turn in the event loop; a key would wait as long."""
    turns_s, timer = [time.perf_counter()], QTimer()
    timer.setTimerType(Qt.TimerType.PreciseTimer)
    timer.timeout.connect(lambda: turns_s.append(time.perf_counter()))
    timer.start(1)
    yield turns_s
    timer.stop()


def memory() -> str:
    """What ten minutes of stereo take in the window: the demo's band over and over, heard to the end."""
    with tempfile.TemporaryDirectory() as scratch:
        band = read_clip(demo_audio())
        turns = -(-60 * MINUTES * band.sample_rate // band.samples.shape[0])
        samples = np.tile(band.samples, (turns, 1))[: 60 * MINUTES * band.sample_rate]
        long = Path(scratch) / "long.wav"
        write_clip(Clip(samples, band.sample_rate), long, kind="WAV")
        homes = dict.fromkeys(("HOME", "XDG_STATE_HOME", "XDG_CONFIG_HOME", "XDG_DATA_HOME"), scratch)
        command = [sys.executable, "-c", WINDOW_WITH, str(long)]
        told = subprocess.run(command, capture_output=True, text=True, check=True, env={**os.environ, **homes})
    most, after = (int(number) * 1024 / 1e6 for number in told.stdout.split())
    return (
        f"{MINUTES} minutes of {band.channels} channels at {band.sample_rate} Hz, opened in the window and heard to "
        f"the end: {most:.0f} MB at most, {after:.0f} MB afterwards (asked: 700)."
    )


def main() -> None:
    app = QApplication([])
    load_fonts()
    apply_theme(app, PAPER, 1.0)
    view = TabView()
    view.resize(1280, 500)
    score, track = long_solo()
    view.show_measured(Measured((track,)), 60.0 * MINUTES)
    view.show_score(score, chosen(score, 0))
    view.show()
    app.processEvents()
    rows = []
    for name, span_s in (("8 s in view", 8.0), ("one minute in view", 60.0), ("everything in view", 600.0)):
        view.show_span(100.0 if span_s < 600 else 0.0, 100.0 + span_s if span_s < 600 else 600.0)
        step_s = span_s / 60  # a quick drag: the whole view goes by in a second
        rows.append((f"pan, {name}", *timed(app, view, lambda n, s=step_s: view.go_to(100.0 + n * s % 400))))
        rows.append((f"zoom, {name}", *timed(app, view, lambda n: view.zoom(1.03 if n % 40 < 20 else 1 / 1.03))))
        rows.append((f"playhead, {name}", *timed(app, view, lambda n: view.show_playhead(100 + n / 60, follow=True))))
        rows.append((f"select, {name}", *timed(app, view, lambda n: view.show_selected(chosen(score, 500 + n % 30)))))
    edits = [score.with_note(score.notes[520].id, fret=5 + n % 12) for n in range(12)]
    view.show_span(100.0, 108.0)
    rows.append(("edit, 8 s in view", *timed(app, view, lambda n: view.show_score(edits[n % 12], chosen(score, 520)))))
    more, words = proving(app, score, track)
    rows += [*more, ("an edit written to the journal, off the UI thread", *kept(score, edits))]
    lines = [
        "# The tab on screen",
        "",
        f"Made by `./dev bench ui`. {MINUTES} minutes, {NOTES} notes with curve and evidence, offscreen, 1280 × 500:",
        "milliseconds of one frame from input to painted picture, over 240 frames. 60 frames a second leave 16.7 ms.",
        "",
        "| what | median | 95th percentile |",
        "| --- | --- | --- |",
        *(f"| {name} | {middle:.1f} ms | {late:.1f} ms |" for name, middle, late in rows),
        "",
        words,
        "",
        f"How long the whole window stands still (two frames are 33 ms; a loop of a million additions takes "
        f"{reference():.0f} ms here):",
        "",
        f"| edit | {NOTES // 2} notes written, as many not | {NOTES} notes |",
        "| --- | --- | --- |",
        *blocking(app),
        "",
        memory(),
        "",
        "As felt, in the window with the demo and its recording: the longest that the window's thread is away.",
        "",
        "| what | in the middle | at most | asked |",
        "| --- | --- | --- | --- |",
        *felt(),
        "",
    ]
    print("\n".join(lines))
    PAGE.write_text("\n".join(lines), "utf-8")


if __name__ == "__main__":
    main()
