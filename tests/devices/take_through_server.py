"""Starts a sound server whose silent sink is also its input; then, through the real devices:

the delay is measured by clicks, and the loudspeaker plays a guitarist whom the input records as a take.
"""

import os
import sys
import time
from collections.abc import Callable

from PyQt6.QtCore import QCoreApplication
from sound_server import started

from notcher.core.proving import Take, Thresholds
from notcher.core.score import BeatMap, Note, Phrase, Score, bent_curve, excerpt
from notcher.core.sound import Clip, write_clip
from notcher.core.synthesis import SKILLS, performed, render

RATE = 44_100


def wait(app: QCoreApplication, done: Callable[[], bool], *, seconds: float = 40) -> None:
    until = time.monotonic() + seconds
    while not done():
        app.processEvents()
        time.sleep(0.005)
        assert time.monotonic() < until, "took too long"


def song() -> Score:
    notes = tuple(
        Note(0.5 * at, 0.5 * at + 0.45, string, fret, curve=bent_curve(size, 0.45, rise_s=0.12))
        for at, (string, fret, size) in enumerate(
            [(3, 12, 0), (3, 14, 2), (2, 12, 0), (2, 15, 3), (1, 12, 0), (2, 15, 0)]
        )
    )
    return Score(notes, beat_map=BeatMap.steady(120, 0.0), phrases=(Phrase(0.0, 3.0, "Six"),))


def main() -> int:
    server = started(
        "module-null-sink sink_name=nul rate=32000 channels=2",
        "module-remap-source master=nul.monitor source_name=mic",
    )
    try:
        app = QCoreApplication(sys.argv)
        from PyQt6.QtCore import QObject

        from notcher.devices import find_guitar_input, find_loudspeaker
        from notcher.ui.benches.teach.take_recorder import TakeRecorder
        from notcher.ui.state.jobs import Jobs

        owner = QObject()
        speaker, guitar, jobs = find_loudspeaker(), find_guitar_input(), Jobs(owner)
        assert not speaker.simulated
        assert not guitar.simulated, "the server's source was not found"
        recorder = TakeRecorder(speaker, guitar, jobs)
        delays, takes, trouble = [], [], []
        recorder.delay_measured.connect(delays.append)
        recorder.taken.connect(takes.append)
        recorder.notice.connect(trouble.append)
        speaker.lost.connect(trouble.append)  # in the window the player says it
        recorder.measure_delay(claps=False)
        wait(app, lambda: bool(delays or trouble))
        assert not trouble, trouble
        print(f"delay {1000 * delays[0]:.1f} ms, input at {guitar.sample_rate} Hz")
        assert 0 < delays[0] < 0.6

        # the "recording" to play along with is a guitarist: what comes back is his take
        score = song()
        played = performed(excerpt(score, 0.0, 3.0), SKILLS["steady hand"], seed=3).score
        guitarist = render(played, sample_rate=RATE, duration_s=3.4)
        recorder.record(
            score,
            Clip(guitarist.samples, RATE),
            Take("1", "Take 1", (score.phrases[0].id,), 0.0, score.phrases[0].end_s, 1.0, "recording"),
            latency_s=delays[0],
            thresholds=Thresholds(),
            document_id="watch",
        )
        wait(app, lambda: bool(takes or trouble))
        assert not trouble, trouble
        phrase_report = takes[0].report.phrases[0]
        print(
            f"{phrase_report.verdict}, bias {phrase_report.bias_ms} ms, spread {phrase_report.spread_ms} ms, "
            f"missed {len(phrase_report.missed)}"
        )
        if os.environ.get("KEEP_TAKE"):
            write_clip(takes[0].clip, os.environ["KEEP_TAKE"], kind="WAV")
        # the count-in's clicks come back with the guitar; every note is there, on the beat once the delay is off
        assert not phrase_report.missed
        assert not phrase_report.wrong
        assert abs(phrase_report.bias_ms) < 25

        # the server dies while a take runs: said, and what was played until then is heard or refused in words
        recorder.record(
            score, Clip(guitarist.samples, RATE),
            Take("2", "Take 2", (score.phrases[0].id,), 0.0, score.phrases[0].end_s, 1.0, "recording"),
            latency_s=delays[0], thresholds=Thresholds(), document_id="watch",
        )  # fmt: skip
        wait(app, lambda: recorder.state == "recording" and guitar.position > 0.5 * guitar.sample_rate)
        server.kill()
        wait(app, lambda: bool(trouble) and recorder.state == "idle")
        print(trouble)
        assert any("went away" in sentence or "stopped answering" in sentence for sentence in trouble)
        jobs.shut_down()
        speaker.close()
        guitar.close()
    finally:
        server.kill()
        server.wait()
    return 0


if __name__ == "__main__":
    sys.exit(main())
