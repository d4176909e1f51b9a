"""Loops that go on for hours: four on a simulated clock with changes of pace, and minutes through a real sound server.

The second runs in a process of its own under a sound server (`python bench/endure_loops.py FOLDER MINUTES`).
"""

from __future__ import annotations

import ctypes
import gc
import json
import os
import subprocess
import sys
import time
from dataclasses import dataclass
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import numpy as np
from PyQt6.QtCore import QCoreApplication
from PyQt6.QtWidgets import QApplication

sys.path.insert(0, str(Path(__file__).parents[1] / "tests" / "devices"))

from notcher.core.mixing import LoopPassage
from notcher.core.score import BeatMap
from notcher.core.sound import Clip
from notcher.devices.loudspeaker import Loudspeaker, SampleSource
from notcher.ui.playback.player import Player
from notcher.ui.shell.application import _return_memory
from notcher.ui.state.jobs import Jobs

RATE = 44_100
STEP_S, CHANGE_S = 0.25, 60.0
WINDOW_S, QUIET = 0.02, 0.1
PACES = (0.4, 0.5, 0.65, 0.8, 1.0, 1.2)
PAGE = os.sysconf("SC_PAGE_SIZE")


@dataclass
class Looped:
    """What came of looping: seconds that sounded, rounds, changes of pace, gaps, and MB that memory grew."""

    seconds: float
    rounds: int
    changes: int
    gaps: int
    growth_mb: float
    off_s: float = 0.0
    """The farthest that rounds counted and time passed were apart, in rounds."""


def memory_mb() -> float:
    """What this process holds now, without what the C library keeps in reserve (malloc_trim(3))."""
    gc.collect()
    ctypes.CDLL(None).malloc_trim(0)
    return int(Path("/proc/self/statm").read_text().split()[1]) * PAGE / 1e6


class SteppedLoudspeaker(Loudspeaker):
    """A loudspeaker whose time goes on when it is told to; counts the moments where nothing sounds."""

    description, simulated = "stepped loudspeaker", True

    def __init__(self) -> None:
        super().__init__()
        self._taken, self.gaps, self.seconds = 0, 0, 0.0
        self._quiet = True  # before the first sound

    def play(self, source: SampleSource) -> None:
        self._source, self._taken = source, 0

    def stop(self) -> None:
        self._source = None

    @property
    def position(self) -> int:
        return self._taken

    def go_on(self, seconds: float) -> None:
        """Let time pass."""
        if self._source is None:
            return
        count = round(seconds * self._source.sample_rate)
        part = self._source.read(self._taken, count)
        assert part.shape == (count, 2)
        assert np.isfinite(part).all()
        self._taken += count
        self.seconds += seconds
        window = round(WINDOW_S * self._source.sample_rate)
        level = np.abs(part[: count // window * window, 0]).reshape(-1, window).max(axis=1)
        for loud in level > QUIET:
            self.gaps += not loud and not self._quiet
            self._quiet = not loud

    def fell_silent(self) -> None:
        """What is silent from here on is wanted: another loop is made ready."""
        self._quiet = True


def steady(seconds: float) -> Clip:
    """Even noise: whatever is silent in it is a gap, and no seam can cancel it out as it does a plain tone."""
    wave = np.random.default_rng(4).uniform(-0.5, 0.5, round(seconds * RATE)).astype(np.float32)
    return Clip(np.column_stack([wave, wave]), RATE)


def on_a_simulated_clock(hours: float, seed: int) -> Looped:
    """Loop for hours of simulated time; another pace every minute, another stretch every ten."""
    app = QApplication.instance() or QApplication([])
    _return_memory()  # as the program does when it starts
    dice, speaker, jobs = np.random.default_rng(seed), SteppedLoudspeaker(), Jobs()
    player, rounds = Player(speaker, jobs), [0]
    player.count_in = False

    def went_round() -> None:
        rounds[0] += 1

    player.went_round.connect(went_round)
    player.load(steady(30.0), BeatMap.steady(120, 0.0))
    player.count_in = False
    passed_s, changes, settled_mb, off = 0.0, 0, 0.0, 0.0
    while passed_s < hours * 3600:
        if changes % 10 == 0 or not player.playing:  # another stretch: the player falls silent until it is ready
            speaker.fell_silent()
            start = 0.5 * int(dice.integers(0, 40))
            player.stop()
            player.set_loop((start, start + 0.5 * int(dice.integers(4, 18))))
            player.play()
            _until(app, jobs, player)
        player.set_pace(float(dice.choice([pace for pace in PACES if pace != player.pace])))
        _until(app, jobs, player)
        changes += 1
        assert player.loop_span is not None
        round_s = (player.loop_span[1] - player.loop_span[0]) / player.pace
        before, begun_s = rounds[0], passed_s
        while passed_s < begun_s + CHANGE_S:
            speaker.go_on(STEP_S)
            passed_s += STEP_S
            player._on_frame()
            if int(passed_s / STEP_S) % 20 == 0:
                app.processEvents()
        off = max(off, abs(rounds[0] - before - CHANGE_S / round_s))
        if passed_s >= 1800 and not settled_mb:
            settled_mb = _memory_without_loops(player)
    grown = _memory_without_loops(player) - settled_mb if settled_mb else 0.0
    jobs.shut_down()
    return Looped(speaker.seconds, rounds[0], changes, speaker.gaps, grown, off)


def _memory_without_loops(player: Player) -> float:
    """What is held once the loops that are kept ready are gone: how long these are is chance."""
    player.speaker.fell_silent()  # type: ignore[attr-defined]
    player.stop()
    player.load(player.clip, player.beat_map)
    return memory_mb()


def _until(app: QCoreApplication, jobs: Jobs, player: Player) -> None:
    """Let the loop be made; simulated time stands still meanwhile."""
    until = time.monotonic() + 60
    while (jobs.busy or player.stream is None or isinstance(player.stream, LoopPassage)) and time.monotonic() < until:
        app.processEvents()
        time.sleep(0.001)


def through_a_server(folder: Path, minutes: float) -> Looped:
    """Loop through a sound server of its own with changes of pace; what arrives there is recorded and looked at."""
    folder.mkdir(parents=True, exist_ok=True)
    runtime = folder / "run"
    runtime.mkdir(mode=0o700)
    environment = {**os.environ, "XDG_RUNTIME_DIR": str(runtime), "PULSE_SERVER": f"unix:{runtime}/pulse/native"}
    command = [sys.executable, __file__, str(folder), str(minutes)]
    done = subprocess.run(command, env=environment, stdout=subprocess.PIPE, text=True, check=True)
    return Looped(**json.loads(done.stdout.splitlines()[-1]))


def _served(minutes: float) -> Looped:
    from sound_server import heard_at, recorded_sink

    from notcher.devices import find_loudspeaker

    _return_memory()
    with recorded_sink() as take:
        app = QCoreApplication(sys.argv[:1])
        speaker, jobs = find_loudspeaker(), Jobs()
        assert not speaker.simulated, "the server's sink was not found"
        player, rounds = Player(speaker, jobs), [0]

        def went_round() -> None:
            rounds[0] += 1

        player.went_round.connect(went_round)
        player.load(steady(20.0), BeatMap.steady(120, 0.0))
        player.count_in = False
        player.set_loop((2.0, 6.0))
        player.play()
        begun, changes, settled_mb = time.monotonic(), 0, 0.0
        while (passed := time.monotonic() - begun) < 60 * minutes:
            app.processEvents()
            time.sleep(0.005)
            if passed > 15 * (changes + 1) and passed < 60 * minutes - 5:
                player.set_pace(PACES[changes % len(PACES)])
                changes += 1
            if passed > 0.2 * 60 * minutes and not settled_mb:  # every pace was heard by then
                settled_mb = memory_mb()
        grown = memory_mb() - settled_mb
        player.stop()
        time.sleep(1.0)
        jobs.shut_down()
        speaker.close()
    heard = heard_at(take)
    window = round(WINDOW_S * RATE)
    loud = np.abs(heard[: heard.size // window * window]).reshape(-1, window).max(axis=1) > QUIET
    body = loud[int(np.flatnonzero(loud)[0]) : int(np.flatnonzero(loud)[-1]) + 1]
    began = np.flatnonzero(~body[1:] & body[:-1])
    for at in began:
        length = int(np.argmax(body[at + 1 :]))
        print(f"gap at {(at + 1) * WINDOW_S:.2f} s, {length * WINDOW_S:.2f} s long", file=sys.stderr)
    gaps = int(began.size)
    return Looped(body.size * WINDOW_S, rounds[0], changes, gaps, grown)


if __name__ == "__main__":
    print(json.dumps(vars(_served(float(sys.argv[2])))))
