"""What handing out takes: `./dev bench formats`, writes docs/benchmarks/formats.md.

A pack and a film of the demo against the time that they last, each format written and read; how damaged files fare
stands in mutations.md.
"""

import io
import os
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import av
from PyQt6.QtWidgets import QApplication

from notcher.core.formats import EXPORTS, export, read_import
from notcher.core.hearing import EMPTY_TRACK
from notcher.core.sound import read_clip
from notcher.core.teaching import PackChoices, write_pack
from notcher.demo import demo_audio, demo_score
from notcher.painting.film import phrase_film
from notcher.painting.theme import load_fonts

PAGE = Path(__file__).parents[1] / "docs" / "benchmarks" / "formats.md"
ASKED_FILM = 3.0


def seconds(work: Callable[[], object]) -> float:
    begin = time.perf_counter()
    work()
    return time.perf_counter() - begin


def main() -> None:
    app = QApplication.instance() or QApplication(["formats"])
    load_fonts()
    score, clip = demo_score(), read_clip(demo_audio("mix"))
    rows = []
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        for ending, known in EXPORTS.items():
            path = folder / f"solo{ending}"
            wrote = seconds(lambda path=path: export(score, path, EMPTY_TRACK))  # type: ignore[misc]
            read = "" if ending == ".csv" else f"{1000 * seconds(lambda path=path: read_import(path)):.0f}"  # type: ignore[misc]
            rows.append(f"| {known.name} | {1000 * wrote:.0f} | {read} | {path.stat().st_size / 1024:.0f} |")
        choices = PackChoices(tuple(phrase.id for phrase in score.phrases[:3]))
        loops: list[float] = []
        took = seconds(
            lambda: loops.extend(loop.seconds for loop in write_pack(folder / "p.zip", score, clip, choices))
        )
        pack = f"{len(loops)} loops of {sum(loops):.0f} s in {took:.1f} s: {sum(loops) / took:.1f} × real time"
    films = []
    for phrase in score.phrases[:3]:
        made: list[bytes] = []
        took = seconds(lambda phrase=phrase, made=made: made.append(phrase_film(score, clip, phrase, (0.5, 0.7, 1.0))))  # type: ignore[misc]
        with av.open(io.BytesIO(made[0])) as container:
            lasts = float(container.duration or 0) / 1e6
        films.append(f"| {phrase.name} | {lasts:.0f} | {took:.1f} | {lasts / took:.1f} | {len(made[0]) / 1024:.0f} |")
    lines = [
        "# Handing out",
        "",
        "`./dev bench formats`, on the demo; how damaged files fare stands in [mutations.md](mutations.md).",
        "",
        "| format | written, ms | read, ms | kB |",
        "| --- | ---: | ---: | ---: |",
        *rows,
        "",
        f"A pack of three phrases at three rungs, recording, tab and band: {pack}.",
        "",
        f"Films, 1280 × 720 at 30 a second, against their length (asked: {ASKED_FILM:.0f} × on two cores):",
        "",
        "| phrase | lasts, s | made in, s | × real time | kB |",
        "| --- | ---: | ---: | ---: | ---: |",
        *films,
    ]
    PAGE.write_text("\n".join(lines) + "\n", encoding="utf-8")
    print("\n".join(lines))
    del app


if __name__ == "__main__":
    main()
