"""Plays a counted-in loop through a sound server with a silent sink, by the player itself, and checks what arrives."""

import sys
import time

import numpy as np
from PyQt6.QtCore import QCoreApplication
from sound_server import RATE, heard_at, recorded_sink

from notcher.core.mixing import Levels
from notcher.core.score import BeatMap
from notcher.core.sound import Clip


def main() -> int:
    with recorded_sink() as take:
        app = QCoreApplication(sys.argv)
        from notcher.devices import find_loudspeaker
        from notcher.ui.playback.player import Player
        from notcher.ui.state.jobs import Jobs

        speaker, jobs = find_loudspeaker(), Jobs()
        assert not speaker.simulated, "the server's sink was not found"
        player, rounds = Player(speaker, jobs), []
        player.went_round.connect(lambda: rounds.append(player.time_s))
        tone = 0.5 * np.sin(2 * np.pi * 441 * np.arange(6 * RATE) / RATE).astype(np.float32)
        player.load(Clip(np.column_stack([tone, tone]), RATE), BeatMap.steady(120, 0.0))
        player.set_loop((2.0, 3.0))  # whole periods: the seam can be as smooth as the tone
        player.play()
        until = time.monotonic() + 20
        while len(rounds) < 3 and time.monotonic() < until:
            app.processEvents()
            time.sleep(0.005)
        assert len(rounds) == 3, f"it went round {len(rounds)} times in 20 s"
        player.levels = Levels(recording=0.5)
        before, late_s = player.stream, np.inf
        begun, given_s = time.monotonic(), (player._line.asked - speaker.position) / RATE
        player.set_pace(0.6)
        while time.monotonic() < begun + 2:
            app.processEvents()
            if player.stream is not before:  # by the server's own clock it is what is heard now
                late_s = min(late_s, time.monotonic() - begun)
            time.sleep(0.005)
        player.stop()
        jobs.shut_down()
        speaker.close()
    heard = heard_at(take)
    block = RATE // 100
    loud = np.abs(heard[: heard.size // block * block]).reshape(-1, block).max(axis=1) > 0.05
    begins = np.flatnonzero(loud & ~np.concatenate([[False], loud[:-1]])) / 100
    # four clicks, half a second apart at 120, then the loop on the next beat
    assert np.allclose(np.diff(begins[:5]), 0.5, atol=0.03), begins[:6]
    first = round(begins[4] * RATE) + RATE // 20
    body = heard[first : first + 3 * RATE]
    assert np.abs(np.diff(body)).max() < 1.2 * 0.5 * 2 * np.pi * 441 / RATE, "a seam clicks"
    levels = np.abs(body[: body.size // block * block]).reshape(-1, block).max(axis=1)
    assert levels.min() > 0.4, "a gap in the loop"
    late_s -= given_s  # of sound the server had already: nobody can change that
    assert 0.0 <= late_s < 0.3, f"another pace is heard {late_s:.3f} s after it was asked for"
    return 0


if __name__ == "__main__":
    sys.exit(main())
