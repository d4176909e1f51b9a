"""A folder of recordings drafted one and two at a time: `./dev bench batch`; writes docs/benchmarks/batch.md."""

from __future__ import annotations

import multiprocessing
import tempfile
import time
from dataclasses import replace
from pathlib import Path

from notcher.batch import Drafted, draft_folder, recordings_in, undrafted
from notcher.core.sound import write_clip
from notcher.core.synthesis import render
from second_composer import second_case

PAGE = Path(__file__).parents[1] / "docs" / "benchmarks" / "batch.md"
FILES, LENGTH_S, ASKED = 8, 60.0, 1.8
COUNTED = 20_000_000


def timed(folder: Path, out: Path, jobs: int) -> tuple[float, list[Drafted]]:
    begun = time.monotonic()
    done = list(draft_folder(undrafted(recordings_in(folder), folder, out), folder, out, jobs=jobs))
    return time.monotonic() - begun, done


def counted(numbers: int) -> int:
    """Plain arithmetic, which needs nothing but a core."""
    return sum(number * number for number in range(numbers))


def plain_scaling() -> float:
    """How many times as fast two processes do plain arithmetic as one, here and now."""
    begun = time.monotonic()
    counted(COUNTED)
    one_s = time.monotonic() - begun
    with multiprocessing.get_context("spawn").Pool(2) as pool:
        pool.map(counted, [1, 1], 1)  # both are up
        begun = time.monotonic()
        pool.map(counted, [COUNTED, COUNTED], 1)
        return 2 * one_s / (time.monotonic() - begun)


def main() -> None:
    with tempfile.TemporaryDirectory() as scratch:
        folder = Path(scratch) / "evening"
        folder.mkdir()
        for seed in range(FILES):
            case = second_case(900 + seed, length_s=LENGTH_S)
            clip = render(replace(case.score, title=f"solo {seed}"))
            write_clip(clip, folder / f"solo {seed}.flac", kind="FLAC")
        rows, took = [], {}
        for jobs in (1, 2):
            took[jobs], done = timed(folder, Path(scratch) / f"out {jobs}", jobs)
            assert len(done) == FILES
            assert not any(drafted.problem for drafted in done)
            peak = max(drafted.peak_mb for drafted in done)
            sound_s = sum(drafted.length_s for drafted in done)
            rows.append(f"| {jobs} | {took[jobs]:.1f} | {sound_s / took[jobs]:.1f} | {peak:.0f} | {jobs * peak:.0f} |")
        reference = plain_scaling()
        again_s, done = timed(folder, Path(scratch) / "out 2", 2)
        assert not done
    lines = [
        "# A folder of recordings",
        "",
        f"Made by `./dev bench batch`: {FILES} solos of a minute on the string model, each heard on one core, in a",
        "process of its own that ends with it, so that memory is that of as many recordings as there are jobs.",
        "",
        "| at a time | seconds | times real time | most of one process, MB | of all at once, MB |",
        "| --- | --- | --- | --- | --- |",
        *rows,
        "",
        f"**Two at a time are {took[1] / took[2]:.2f} times as fast as one (asked: {ASKED}, on two cores);",
        f"plain arithmetic, in the same run: {reference:.2f} times.** What is heard with is loaded once for all.",
        f"All drafted already: {again_s:.2f} s.",
        "",
    ]
    print("\n".join(lines))
    PAGE.write_text("\n".join(lines), "utf-8")


if __name__ == "__main__":
    main()
