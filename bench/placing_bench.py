"""How well and how fast the solver places notes: `./dev bench placing`; writes docs/benchmarks/placing.md."""

from __future__ import annotations

import time
from collections import defaultdict
from pathlib import Path

import numpy as np

from lead_cases import make_case
from method_shapes import Shape, shapes
from notcher.core.neck import Place, Sounding, place, place_score, places
from notcher.core.score import STANDARD, Attack
from notcher.demo.solo import demo_score

PAGE = Path(__file__).parents[1] / "docs" / "benchmarks" / "placing.md"
LEGATO = (Attack.HAMMER, Attack.PULL, Attack.TAP, Attack.SLIDE)


def soundings(shape: Shape, *, lock_first: bool) -> list[Sounding]:
    bends = dict(shape.bends)
    attacks = shape.attacks or (Attack.PICK,) * len(shape.line)
    found = []
    for index, (where, attack) in enumerate(zip(shape.line, attacks, strict=True)):
        onset_s = (index // shape.together) * shape.step_s
        following = attacks[index + 1] if index + 1 < len(attacks) else Attack.PICK
        end_s = onset_s + shape.step_s * (1.0 if following in LEGATO else 0.95)
        lock = Place(*where) if lock_first and index == 0 else None
        found.append(Sounding(onset_s, end_s, STANDARD.midi(*where), attack, bends.get(index, 0.0), lock=lock))
    return found


def agreed(shape: Shape, *, lock_first: bool = True) -> tuple[int, int]:
    found = place(soundings(shape, lock_first=lock_first), STANDARD)
    return sum(tuple(placed.place) == where for placed, where in zip(found, shape.line, strict=True)), len(shape.line)


def lowest_fret(shape: Shape) -> int:
    """The naive answer: each note on its lowest fret."""
    lowest = [min(places(STANDARD.midi(*where), STANDARD), key=lambda p: p.fret) for where in shape.line]
    return sum(tuple(a) == b for a, b in zip(lowest, shape.line, strict=True))


def nearest(shape: Shape) -> int:
    """The other naive answer: from the first place on, each note at the place nearest to the one before."""
    here, right = shape.line[0], 1
    for where in shape.line[1:]:
        options = places(STANDARD.midi(*where), STANDARD)
        here = min(options, key=lambda p: abs(p.fret - here[1]) + abs(p.string - here[0]))
        right += tuple(here) == where
    return right


def main() -> None:
    rows: dict[str, list[int]] = defaultdict(lambda: [0, 0, 0, 0, 0])
    for shape in shapes():
        counts = (*agreed(shape), agreed(shape, lock_first=False)[0], lowest_fret(shape), nearest(shape))
        rows[shape.name] = [a + b for a, b in zip(rows[shape.name], counts, strict=True)]
    total = np.sum(list(rows.values()), axis=0)
    lines = [
        "# Placing",
        "",
        "Made by `./dev bench placing`. Scales, arpeggios, double stops and licks as method books teach them (common",
        "practice, no source; `bench/method_shapes.py`) at three places of the neck: the share of notes that land on",
        "the taught place, with the first note locked and without; beside it two naive answers.",
        "",
        "| shape | notes | first locked | nothing locked | lowest fret | nearest place |",
        "| --- | --- | --- | --- | --- | --- |",
    ]
    for name, (right, notes, free, low, near) in (*rows.items(), ("**all**", total)):
        lines.append(
            f"| {name} | {notes} | {right / notes:.2f} | {free / notes:.2f} | {low / notes:.2f} | {near / notes:.2f} |"
        )
    demo = demo_score()
    found = place_score(demo)
    same = sum((a.string, a.fret) == (b.string, b.fret) for a, b in zip(demo.notes, found.notes, strict=True))
    lines += ["", f"The demo's solo, nothing locked: {same} of {len(demo.notes)} notes as composed.", ""]
    for count in (40, 1_500):
        score = make_case(3, length_s=count / 2.2).score
        score = score.with_notes(score.notes[:count])
        begun = time.perf_counter()
        place_score(score)
        lines.append(f"{len(score.notes)} notes: {(time.perf_counter() - begun) * 1000:.0f} ms.")
    print("\n".join(lines))
    PAGE.write_text("\n".join([*lines, ""]), "utf-8")


if __name__ == "__main__":
    main()
