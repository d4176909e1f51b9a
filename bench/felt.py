"""What a person waits for in the window: a bench opened for the first time, a theme, slowed sound, another pace."""

from __future__ import annotations

import gc
import os
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from statistics import median

import numpy as np
from PyQt6.QtWidgets import QApplication

from notcher.ui.shell.program import Program
from simulated_program import simulated_program

BENCHES = ("hear", "prove", "shapes", "teach", "sheets", "ledger")
TIMES, LOOK_S = 3, 1.5
PACES = (0.95, 0.9, 0.85, 0.8, 0.75, 0.7)
BUSY = "while True: pass"


def felt_rows(app: QApplication) -> list[str]:
    """Rows of a table: what, milliseconds in the middle and at most, what was asked."""
    openings: dict[str, list[float]] = {name: [] for name in BENCHES}
    themes: list[float] = []
    for _ in range(TIMES):
        with _demo(app) as program:
            for name in BENCHES:
                openings[name].append(_still(app, lambda name=name: program.run(f"bench.{name}"), LOOK_S))
            themes += [_still(app, lambda: program.run("view.theme"), 0.3) for _ in range(4)]
    sounds = {busy: [_first_sound(app, busy=busy) for _ in range(TIMES)] for busy in (False, True)}
    jumps = {busy: _jumps(app, busy=busy) for busy in (False, True)}
    rows = [(f"{name} opened for the first time", took, "150") for name, took in openings.items()]
    rows.append(("another theme", themes, "200"))
    for busy, beside in ((False, ""), (True, ", one core taken")):
        rows.append((f"first slowed sound of a loop{beside}", sounds[busy], "300"))
        rows.append((f"what another pace repeats or leaves out{beside}", jumps[busy], "none to be heard"))
    return [f"| {what} | {median(took):.0f} ms | {max(took):.0f} ms | {asked} |" for what, took, asked in rows]


@contextmanager
def _demo(app: QApplication) -> Iterator[Program]:
    with tempfile.TemporaryDirectory() as folder:
        program = simulated_program(Path(folder))
        program.opening.open_demo()
        _until(app, lambda: program.session.heard is not None and not program.busy)
        gc.collect()
        gc.freeze()
        yield program
        program.saved()
        program.close()
        gc.unfreeze()


def _until(app: QApplication, true: Callable[[], bool], *, longest_s: float = 60.0) -> None:
    until = time.monotonic() + longest_s
    while not true() and time.monotonic() < until:
        app.processEvents()
        time.sleep(0.001)


def _still(app: QApplication, act: Callable[[], object], look_s: float) -> float:
    """The longest that the window's thread is away, from an act on, milliseconds."""
    begun = time.perf_counter()
    act()
    app.processEvents()
    longest, end = time.perf_counter() - begun, begun + look_s
    while time.perf_counter() < end:
        begun = time.perf_counter()
        app.processEvents()
        longest = max(longest, time.perf_counter() - begun)
        time.sleep(0.001)
    return 1000 * longest


@contextmanager
def _taken(busy: bool) -> Iterator[None]:
    """One core is taken by a process that never rests."""
    if not busy:
        yield
        return
    process = subprocess.Popen([sys.executable, "-c", BUSY], env=os.environ)
    yield
    process.kill()
    process.wait()


def _first_sound(app: QApplication, *, busy: bool) -> float:
    """Milliseconds from Play to the sound of a loop at a pace that was not heard before."""
    with _demo(app) as program, _taken(busy):
        player = program.player
        player.set_count_in(False)
        player.set_pace(0.6)
        player.set_loop((0.6, 5.6))
        begun = time.perf_counter()
        player.play()
        _until(app, lambda: player.playing)
        return 1000 * (time.perf_counter() - begun)


def _jumps(app: QApplication, *, busy: bool) -> list[float]:
    """By how much the second that sounds is off where one pace takes over from another, milliseconds, each change."""
    with _demo(app) as program, _taken(busy):
        player, off = program.player, []
        player.set_count_in(False)
        player.set_loop((0.6, 5.6))
        player.play()
        _until(app, lambda: player.playing)
        for pace in PACES:
            _still(app, lambda: None, 0.7)
            before, turn = player.stream, player._turn
            player.set_pace(pace)
            _until(app, lambda before=before: player.stream is not before)
            after = player._turn
            assert before is not None
            assert turn is not None
            assert after is not None
            assert player.stream is not None
            was_s = before.time_at(turn.local(after.begin))
            is_s = player.stream.time_at(after.offset)
            off.append(1000 * float(np.abs(is_s - was_s)))
        player.stop()
    return off


if __name__ == "__main__":
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    print("\n".join(felt_rows(QApplication([]))))
