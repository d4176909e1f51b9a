"""How well is heard what was never learned from: `./dev bench left_out --weights DIR`.

DIR/NAME/moment.npz is what `./dev train moment --without NAME --into DIR/NAME` has learned without the composer or the
maker of sound NAME; solos of just these are heard with it, and beside it with the weights that ship. Solos of the
project's own composers, so both figures are higher than a stranger's; their difference is what matters.
Writes docs/benchmarks/left-out.md.
"""

from __future__ import annotations

import argparse
import os
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from functools import partial
from pathlib import Path

import numpy as np

from lead_cases import EVERYTHING, Case, make_case, sounding_midi
from makers import MAKERS, recorded
from notcher.core.hearing import draft, moments
from notcher.core.hearing.network import patch_network
from notcher.core.score import LEGATO_ATTACKS, Attack, techniques
from notcher.core.sound import Clip
from other_hands import Heard, compared, technique_f1
from second_composer import second_case

PAGE = Path(__file__).parents[1] / "docs" / "benchmarks" / "left-out.md"
SEEDS = range(700, 706)
TOLD = ("bend", "prebend", "release", "curl", "vibrato", "slide", "hammer", "pull", "slide_in", "slide_out",
        "staccato", "palm_mute", "natural_harmonic")  # fmt: skip
LENGTH_S = 30.0
STEP_S = 0.01


def first_case(seed: int, *, length_s: float = LENGTH_S) -> Case:
    """A solo by the composer of `lead_cases`, out of its whole vocabulary."""
    return make_case(seed, length_s=length_s, licks=EVERYTHING)


COMPOSERS: dict[str, Callable[..., Case]] = {"licks": first_case, "walk": second_case}


def home_case(composer: str, maker: str, seed: int) -> tuple[Case, Clip]:
    """Return a solo and its recording: effect, band and its level all by the seed."""
    case = COMPOSERS[composer](seed, length_s=LENGTH_S)
    return case, recorded(case, MAKERS[maker](case, seed), seed)


def truth_of(case: Case, split: str) -> dict:
    """Return what was played as other hands' cases tell it; see `other_hands`."""
    score, notes = case.score, []
    for index, note in enumerate(score.notes):
        names = set(techniques(score, index))
        legato = note.attack in {*LEGATO_ATTACKS, Attack.TAP}
        notes.append(
            {
                "onset": note.onset_s, "offset": note.offset_s, "string": note.string, "fret": note.fret,
                "attack": note.attack.value if legato else "pick", "techniques": sorted(names - {"vibrato"}),
                "bend_semitones": note.reading.bend_semitones, "vibrato": note.vibrato is not None,
            }
        )  # fmt: skip
    times_s = np.arange(0, score.notes[-1].offset_s, STEP_S)
    hertz = np.zeros(times_s.size)
    for note in score.notes:
        inside = (times_s >= note.onset_s) & (times_s < note.offset_s)
        since = times_s[inside] - note.onset_s
        wave = note.vibrato.at(since) if note.vibrato is not None else 0.0
        midi = sounding_midi(score, note) + note.curve.at(since) + wave + score.tuning.offset_cents / 100
        hertz[inside] = 440 * 2 ** ((midi - 69) / 12)
    f0 = np.stack([times_s, hertz], axis=1)
    return {"notes": notes, "tuning": list(score.tuning.open_midi), "split": split, "f0": f0.tolist()}


def judged(weights: Path | None, part: tuple[str, str, int]) -> Heard:
    """Hear one solo with what is learned in a folder, None for what ships."""
    composer, maker, seed = part
    moments.patch_network = patch_network if weights is None else partial(patch_network, folder=weights)
    case, clip = home_case(composer, maker, seed)
    return compared(draft(clip), truth_of(case, "band" if clip.samples.shape[1] == 2 else "alone"))


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--weights", type=Path, required=True)
    options = parser.parse_args()
    lines = [
        "# Left-out composers and makers of sound",
        "",
        "Made by `./dev bench left_out --weights DIR`: the network that hears attacks and tones is taught without one",
        "composer or one maker of sound, and hears solos of just that one; beside it, in brackets, the weights that",
        "ship, taught on all of them. Seeds from 700 on, never learned from. Techniques: the mean F1 of "
        + ", ".join(name.replace("_", " ") for name in TOLD) + ".",
        "",
        "| left out | note F1 alone | in a band | techniques alone | in a band | hammer, pull | palm mute | harmonic |",
        "| --- | --- | --- | --- | --- | --- | --- | --- |",
    ]  # fmt: skip
    with ProcessPoolExecutor(max(1, (os.cpu_count() or 2) // 2)) as pool:
        for name in (*MAKERS, *COMPOSERS):
            parts = [
                (composer, maker, seed)
                for seed in SEEDS
                for composer in COMPOSERS
                for maker in MAKERS
                if name in (composer, maker)
            ]
            cells = []
            for weights in (options.weights / name, None):
                heard = list(pool.map(partial(judged, weights), parts))
                alone, band = ([case for case in heard if case.split == split] for split in ("alone", "band"))
                row = [float(np.mean([case.f1 for case in some])) if some else np.nan for some in (alone, band)]
                row += [float(np.nanmean([technique_f1(some, n) for n in TOLD])) for some in (alone, band)]
                row += [np.nanmean([technique_f1(heard, n) for n in ("hammer", "pull")])]
                row += [technique_f1(heard, n) for n in ("palm_mute", "natural_harmonic")]
                cells.append(row)
            lines.append(f"| {name} | " + " | ".join(f"{a:.2f} ({b:.2f})" for a, b in zip(*cells, strict=True)) + " |")
            print(lines[-1], flush=True)
    PAGE.write_text("\n".join([*lines, ""]), "utf-8")


if __name__ == "__main__":
    main()
