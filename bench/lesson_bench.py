"""What teaching at the guitar takes: `./dev bench lesson`, writes docs/benchmarks/lesson.md.

The mirror: from a delivered block of input to the finished repaint, devices excluded; its error against bends that are
known. The loop: how soon another pace is heard, how far its pitch is off, how long until all of it is there.
"""

import os
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import librosa
import numpy as np
from PyQt6.QtWidgets import QApplication

from notcher.core.formats import Document
from notcher.core.mixing import Loop
from notcher.core.score import BeatMap, Note, Phrase, Score, bent_curve
from notcher.core.sound import Clip
from notcher.core.synthesis import render
from notcher.core.teaching import Mirror, stand_lines
from notcher.demo.solo import demo_score
from notcher.ui.shell.program import Program
from notcher.ui.state.shell import Bench
from simulated_program import simulated_program

PAGE = Path(__file__).parents[1] / "docs" / "benchmarks" / "lesson.md"
RATE = 44_100
ASKED_MS, ASKED_HEARD_MS, ASKED_CENTS, ASKED_WHOLE_S = 60, 300, 5, 2


def wait(app: QApplication, done: Callable[[], bool], *, seconds: float = 30.0) -> None:
    until = time.monotonic() + seconds
    while not done():
        app.processEvents()
        time.sleep(0.001)
        if time.monotonic() > until:
            sys.exit("the window took too long")


def bends() -> Score:
    """Bends of three sizes on three strings, each held for a second."""
    places = ((2, 12, 2), (3, 14, 1), (2, 15, 3), (3, 12, 2), (1, 15, 2), (2, 13, 1))
    notes = tuple(
        Note(1.6 * at, 1.6 * at + 1.4, string, fret, curve=bent_curve(size, 1.4, rise_s=0.25))
        for at, (string, fret, size) in enumerate(places)
    )
    return Score(notes, beat_map=BeatMap.steady(120, 0.0), phrases=(Phrase(0.0, 1.6 * len(notes), "Bends"),))


def mirror_times(app: QApplication, program: Program) -> list[float]:
    """Milliseconds from a delivered block to the picture that shows it."""
    view, desk = program.teach.mirror, program.teaching.mirror
    times: list[float] = []
    while len(times) < 300 and desk.on:
        time.sleep(0.012)
        before = len(view.mirror.trace)
        begun = time.perf_counter()
        desk.listen()
        if len(view.mirror.trace) != before or view.mirror.trace.maxlen == before:
            view.repaint()
            times.append(1000 * (time.perf_counter() - begun))
        app.processEvents()
    return times


def mirror_error() -> tuple[float, float]:
    """Cents between what the mirror says of held bends and what was made: the middle and the ninetieth of a hundred."""
    from notcher.core.hearing.live import live_pitch, samples_needed

    score, off = bends(), []
    sound = render(score, sample_rate=RATE).samples[:, 0]
    for note in score.notes:
        for after_s in np.arange(0.5, 1.2, 0.02):
            end = round((note.onset_s + after_s) * RATE)
            found = live_pitch(sound[end - samples_needed(RATE) : end], RATE)
            if found is not None:
                mirror = Mirror()
                mirror.hear(note.onset_s + after_s, found.midi)
                told = mirror.off_cents(score)
                off.append(abs(told[1]) if told is not None else 1_200.0)
            else:
                off.append(1_200.0)
    return float(np.median(off)), float(np.percentile(off, 90))


def another_pace(groups: tuple[int, ...] = (2,)) -> tuple[float, float, float]:
    """Milliseconds until another pace can be heard, cents its pitch is off, seconds until all of it is there."""
    times = np.arange(8 * RATE) / RATE
    tones = sum(0.2 / n * np.sin(2 * np.pi * 220 * n * times) for n in (1, 2, 3)).astype(np.float32)
    loop = Loop(Clip(np.repeat(tones[:, None], sum(groups), axis=1), RATE, "", groups), 0.0, 8.0, pace=0.6, at_s=3.0)
    heard: list[float] = []
    begun = time.perf_counter()
    loop.prepare(lambda _share: heard.append(time.perf_counter() - begun))
    whole = time.perf_counter() - begun
    part = loop.read(0, 3 * RATE)[:, 0]
    pitch = librosa.yin(part, fmin=180, fmax=270, sr=RATE, frame_length=4096)
    cents = 1200 * np.log2(np.median(pitch[5:-5]) / 220.0)
    return 1000 * heard[0], abs(float(cents)), whole


def main() -> None:
    app = QApplication(sys.argv[:1])
    with tempfile.TemporaryDirectory() as folder:
        program = simulated_program(Path(folder))
        program.open(Document(bends()), None)
        program.show(Bench.TEACH)
        program.teaching.mirror.toggle()
        wait(app, lambda: program.guitar.recording)
        times = mirror_times(app, program)
        program.teaching.mirror.stop()
        program.open(Document(demo_score()), None)
        program.run("view.stand")
        stand = []
        for at in np.linspace(0, 50, 100):
            begun = time.perf_counter()
            program.teaching.stand.show_time(float(at))
            program.teaching.stand.repaint()
            stand.append(1000 * (time.perf_counter() - begun))
        program.saved()
        program.close()
    middle, worst = mirror_error()
    heard_ms, cents, whole_s = another_pace()
    mixed_ms, _, mixed_s = another_pace((1, 1, 2, 1))
    rows = [
        (
            f"a block of input to the finished picture of the mirror, middle (asked: {ASKED_MS} ms)",
            np.median(times),
            "ms",
        ),
        ("the same, ninety-ninth of a hundred", np.percentile(times, 99), "ms"),
        ("the sound it looks at", 1000 * (0.023 + 1 / 70), "ms"),
        ("what the mirror says of held bends, off what was made, middle", middle, "cents"),
        ("the same, ninetieth of a hundred", worst, "cents"),
        (f"until another pace is heard (asked: {ASKED_HEARD_MS} ms)", heard_ms, "ms"),
        (f"its pitch off (asked: {ASKED_CENTS})", cents, "cents"),
        (f"until all of an eight-second loop at 60 % is there (asked: {ASKED_WHOLE_S} s)", whole_s, "s"),
        ("until another pace of a mix of four parts is heard", mixed_ms, "ms"),
        ("until all of that is there; it sounds as it stays from the first", mixed_s, "s"),
        (f"a picture of the stand, middle of {len(stand)}", np.median(stand), "ms"),
        ("lines of the demo on the stand", float(len(stand_lines(demo_score()))), ""),
    ]
    lines = ["# Teaching at the guitar", "", "Made by `./dev bench lesson`; devices excluded.", "", "| what | |",
             "| --- | --- |", *(f"| {name} | {value:.1f} {unit} |" for name, value, unit in rows), ""]  # fmt: skip
    print("\n".join(lines))
    PAGE.write_text("\n".join(lines), "utf-8")


if __name__ == "__main__":
    main()
