"""How fast the tab is played: `./dev bench playing`; writes docs/benchmarks/playing.md.

Times real time, the middle of five runs, of the demo's solo on the string model, through amps, and of its band.
"""

from __future__ import annotations

import time
from collections.abc import Callable
from contextlib import suppress
from functools import partial
from pathlib import Path
from statistics import median

import numpy as np

from notcher.core.errors import Cancelled
from notcher.core.mixing import Loop, make_loop
from notcher.core.score import Note, Score
from notcher.core.sound import Clip
from notcher.core.synthesis import backing, coloured, render
from notcher.demo import demo_score

PAGE = Path(__file__).parents[1] / "docs" / "benchmarks" / "playing.md"
RUNS, RATE, ASKED = 5, 44_100, 30


def speed(seconds: float, work: Callable[[], object]) -> float:
    """How many seconds of sound are made in one, the middle of some runs after one to warm up."""
    work()
    took = []
    for _ in range(RUNS):
        begun = time.perf_counter()
        work()
        took.append(time.perf_counter() - begun)
    return seconds / median(took)


def seam_step() -> tuple[float, float]:
    """The largest step from sample to sample at a loop's seam, and the largest anywhere in the loop."""
    clip = render(demo_score(), sample_rate=RATE)
    phrase = demo_score().phrases[0]
    loop = make_loop(clip, phrase.start_s, phrase.end_s, pace=0.5, count_in=False)
    length = loop.length
    steps = np.abs(np.diff(loop.read(0, 3 * length)[:, 0]))
    return max(float(steps[at - 4 : at + 4].max()) for at in (length, 2 * length)), float(steps.max())


def pace_change_s(pace: float) -> float:
    """Seconds until a loop that is entered at another pace can be heard, the middle of some runs."""
    clip = render(demo_score(), sample_rate=RATE)
    clip = Clip(np.repeat(clip.samples, 2, axis=1), RATE)
    took = []
    for run in range(RUNS):
        loop = Loop(clip, 2.0, 11.0, pace=pace, at_s=3.0 + run)
        heard: list[float] = []
        begun = time.perf_counter()
        with suppress(Cancelled):
            loop.prepare(partial(_note_time, heard), heard.__len__)  # no more than its beginning
        took.append(heard[0] - begun)
    return median(took)


def _note_time(times_s: list[float], _share: float) -> None:
    times_s.append(time.perf_counter())


def main() -> None:
    score = demo_score()
    length_s = max(note.offset_s for note in score.notes) + 0.5
    rows = (
        ("the lead on the bare string", lambda: render(score)),
        ("the lead through a driven amp", lambda: coloured(render(score).samples[:, 0], "driven", sample_rate=RATE)),
        ("the band: strummed chords, bass, drums", lambda: backing(score, duration_s=length_s)),
        ("the click alone", lambda: backing(score, duration_s=length_s, parts=("click",))),
    )
    many = Score(tuple(Note(0.1 * i, 0.1 * i + 0.09, 1 + i % 6, 5 + i % 8) for i in range(3000)))
    seam, largest = seam_step()
    lines = [
        "# Playing the tab",
        "",
        "Made by `./dev bench playing` on two cores: seconds of sound made in one second, the middle of five runs. The",
        f"demo's solo lasts {length_s:.0f} s; {ASKED} times real time are asked for.",
        "",
        "| what is played | × real time |",
        "| --- | --- |",
    ]
    for name, work in rows:
        lines.append(f"| {name} | {speed(length_s, work):.0f} |")
        print(lines[-1], flush=True)
    lines.append(f"| five minutes of ten notes a second | {speed(300.0, lambda: render(many)):.0f} |")
    print(lines[-1], flush=True)
    lines += [
        "",
        "A phrase of the demo looped at half pace: the largest step from sample to sample at its seam is",
        f"{seam:.4f} of full scale; the largest inside the loop is {largest:.4f}.",
    ]
    print(lines[-1])
    slowest = max((pace_change_s(pace), pace) for pace in (0.25, 0.5, 0.75, 1.2))
    lines += [
        "",
        f"Another pace while nine stereo seconds go round is heard after {1000 * slowest[0]:.0f} ms at the most (at "
        f"{slowest[1]:.0%}; wanted: 300 ms), from where the loop is, without a count-in.",
    ]
    print(lines[-1])
    PAGE.write_text("\n".join([*lines, ""]), "utf-8")


if __name__ == "__main__":
    main()
