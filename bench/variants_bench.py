"""Versions told apart, tabs laid over recordings, phrases eased and found: `./dev bench variants [--cases DIR]`.

Writes docs/benchmarks/variants.md. The pairs are made of composed solos and of other hands' truths, by seeds set aside.
"""

from __future__ import annotations

import argparse
import json
import tempfile
import time
from collections.abc import Callable, Iterable
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np

from lead_cases import Case
from makers import MAKERS
from notcher.core.catalogue.catalogue import Catalogue
from notcher.core.catalogue.query import query_from_text
from notcher.core.hearing import Draft, draft
from notcher.core.ledger.store import Ledger
from notcher.core.patterns import phrases_of
from notcher.core.proving import Comparison, Version, compared, laid_over
from notcher.core.score import BeatMap, Meter, Score, with_times
from notcher.core.sound import read_clip
from notcher.core.teaching import LEVELS, easier, over_easy, target_ids
from notcher.demo import demo_score
from second_composer import second_case
from version_pairs import VersionPair, version_pair, without_times

PAGE = Path(__file__).parents[1] / "docs" / "benchmarks" / "variants.md"
TUNED, SET_ASIDE = range(0, 8), range(500, 516)
NEAR_S, ONSET_S = 0.12, 0.05


@dataclass
class Told:
    """changes: and how many were listed as sure. equal: notes that are the same in both, and how many were accused.

    perhaps, suspected: the same, with what is listed as doubtful counted in.
    """

    changes: int = 0
    listed: int = 0
    equal: int = 0
    accused: int = 0
    perhaps: int = 0
    suspected: int = 0

    def __add__(self, other: Told) -> Told:
        return Told(*(a + b for a, b in zip(vars(self).values(), vars(other).values(), strict=True)))

    @property
    def row(self) -> str:
        changes, equal = max(1, self.changes), max(1, self.equal)
        return (
            f"{self.listed / changes:.3f} | {self.accused / equal:.3f} | {self.perhaps / changes:.3f} | "
            f"{self.suspected / equal:.3f} | {self.changes}"
        )


def judged(pair: VersionPair, found: Comparison) -> Told:
    """Hold what was told against what was changed, by when it is in the first version."""
    told = Told(changes=len(pair.changes))
    times_s = []
    for difference in found.differences:
        if difference.first is not None:
            times_s.append(found.first.score.notes[difference.first].onset_s)
        else:
            times_s.append(found.to_first(found.second.score.notes[difference.second].onset_s))
    taken = set()
    sure = [difference.sure for difference in found.differences]
    for change in pair.changes:
        near = [at for at, time_s in enumerate(times_s) if abs(time_s - change.at_s) < NEAR_S]
        told.listed += any(sure[at] for at in near)
        told.perhaps += bool(near)
        taken |= set(near)
    changed = {change.first for change in pair.changes} - {""}
    told.equal = sum(note.id not in changed for note in pair.first.notes)
    told.accused = sum(sure[at] for at in range(len(times_s)) if at not in taken)
    told.suspected = len(times_s) - len(taken)
    return told


def drafted(clip) -> Version:  # type: ignore[no-untyped-def]
    found = draft(clip)
    return Version(found.score, found.measured, found.attacks_s)


def composed(seed: int) -> tuple[Told, Told]:
    """A pair as written, and as two drafts of two sounds."""
    case = second_case(seed)
    pair = version_pair(case.score, seed)
    written = judged(pair, compared(Version(pair.first), Version(pair.second)))
    sounds = ("modelled", "summed") if seed % 2 else ("summed", "modelled")
    clips = (MAKERS[sounds[0]](case, seed), MAKERS[sounds[1]](replace(case, score=pair.second), seed + 1))
    return written, judged(pair, compared(*(drafted(clip) for clip in clips)))


def other_hand(path: Path) -> tuple[Told, Told]:
    """Another composer's recording and a changed version of it on strings of ours."""
    from other_hands import true_score

    true = true_score(json.loads(path.with_suffix(".truth.json").read_text()))
    seed = sum(map(ord, path.stem))
    pair = version_pair(true, seed)
    written = judged(pair, compared(Version(pair.first), Version(pair.second)))
    sound = MAKERS["summed" if seed % 2 else "modelled"](Case(seed, pair.second), seed)
    return written, judged(pair, compared(drafted(read_clip(path)), drafted(sound)))


def onsets_right(true: Score, written: Score, heard: Draft) -> tuple[int, int]:
    """How many notes of a tab lie within 50 ms of where they were played, of how many."""
    found = laid_over(written, heard).score
    by_id = {note.id: note for note in found.notes}
    right = sum(abs(by_id[note.id].onset_s - note.onset_s) <= ONSET_S for note in true.notes)
    return right, len(true.notes)


def overlaid(path: Path | int) -> dict[str, tuple[int, int]]:
    """A tab without times, and one with its rhythm over even beats, each over its recording."""
    if isinstance(path, int):
        case = second_case(path)
        true, heard = case.score, draft(MAKERS["summed" if path % 2 else "modelled"](case, path))
    else:
        from other_hands import true_score

        truth = json.loads(path.with_suffix(".truth.json").read_text())
        true, heard = true_score(truth), draft(read_clip(path))
        meter = Meter(*map(int, truth["meter"].split("/")))
        true = replace(true, beat_map=BeatMap.steady(truth["tempo"], truth["first_beat_s"], meter))
    result = {"no times": onsets_right(true, without_times(true, rhythm=False), heard)}
    if true.beat_map.known:
        result["rhythm"] = onsets_right(true, evenly(true), heard)
    return result


def evenly(score: Score) -> Score:
    """The same over even beats, as a notation program would have it."""
    quarters = score.beat_map.quarter_at
    first = min(0.0, float(quarters(np.array([0.0]))[0]))

    def at(time_s: float) -> float:
        return 0.5 * (float(quarters(np.array([time_s]))[0]) - first) + 1e-6 * time_s

    moved = with_times(score, at)
    return replace(moved, beat_map=BeatMap.steady(120, -0.5 * first))


@dataclass
class Eased:
    """phrases, and how many of them are within their level's limits; targets, and how many of them are kept."""

    phrases: int = 0
    within: int = 0
    targets: int = 0
    kept: int = 0
    changes: int = 0
    notes: int = 0
    left: int = 0


def eased(score: Score, level: int, total: Eased) -> None:
    """Make every phrase of a solo easier, and measure what came of it."""
    if not score.phrases:
        score = replace(score, phrases=phrases_of(score))
    limits = LEVELS[level]
    for phrase in score.phrases:
        if not score.notes_of(phrase):
            continue
        made = easier(score, phrase, level)
        over = max(over_easy(score, made.notes), default=0.0)
        bend = max((note.reading.bend_semitones for note in made.notes), default=0.0)
        wanted = target_ids(score, phrase)
        total.phrases += 1
        total.within += over <= limits.over_mm + 1e-6 and bend <= limits.bend_semitones + 0.3
        total.targets += len(wanted)
        total.kept += len(wanted & {note.source for note in made.notes})
        total.changes += len(made.changes)
        total.notes += len(score.notes_of(phrase))
        total.left += len(made.notes)


def easing_lines(paths: list[Path]) -> list[str]:
    from other_hands import true_score

    composed_solos = [second_case(seed).score for seed in SET_ASIDE]
    others = [true_score(json.loads(path.with_suffix(".truth.json").read_text())) for path in paths]
    lines = [
        "",
        "## Easier variants",
        "",
        "Within the level's limits by the placing solver's own measure (asked: all), targets kept (asked: all).",
        "",
        "| solos | level | phrases | within the limits | targets kept | changes a phrase | notes left |",
        "| --- | --- | --- | --- | --- | --- | --- |",
    ]
    for name, solos in (("the demo", [demo_score()]), ("composed", composed_solos), ("other hands", others)):
        for level in LEVELS if solos else ():
            total = Eased()
            for score in solos:
                eased(score, level, total)
            lines.append(
                f"| {name} | {level} | {total.phrases} | {total.within / total.phrases:.3f} | "
                f"{total.kept / total.targets:.3f} | {total.changes / total.phrases:.1f} | "
                f"{total.left / total.notes:.0%} |"
            )
    return lines


PHRASES, ROUNDS = 2_000, 5
LINES = ("A minor pentatonic bends", "fast around fret 12", "over the fourth b3 5", "no vibrato legato", "phrase 3")


def catalogue_lines() -> list[str]:
    """2,000 phrases of composed solos in a catalogue of their own, and how long looking through them takes."""
    with tempfile.TemporaryDirectory() as folder:
        catalogue = Catalogue(Ledger(Path(folder) / "ledger.sqlite"))
        seed = 0
        while catalogue.size < PHRASES:
            score = second_case(seed).score
            file = Path(folder) / f"{seed}.notch"
            catalogue.put(file, str(seed), replace(score, title=f"Solo {seed}"), modified_ns=seed, size=1)
            seed += 1
        words = [_milliseconds(lambda line=line: catalogue.search(query_from_text(line))) for line in LINES]
        example = catalogue.music([7])[7]
        alike = _milliseconds(lambda: catalogue.like(example))
        found = catalogue.like(example)
        both = _milliseconds(lambda: catalogue.like(example, query_from_text("fast")))
        begun = time.perf_counter()
        sum(range(1_000_000))
        machine = 1000 * (time.perf_counter() - begun)
        return [
            "",
            "## The lick catalogue",
            "",
            f"{catalogue.size} phrases (asked: searched in 200 ms): by words {max(words):.0f} ms at most of "
            f"{len(words)} lines, like one {alike:.0f} ms, like one and fast {both:.0f} ms; a sum of a million numbers "
            f"{machine:.0f} ms. The phrase itself is {'the first' if found[0].id == 7 else 'not the first'} of those "
            "that are like it.",
        ]


def _milliseconds(act: Callable[[], object]) -> float:
    spent = []
    for _ in range(ROUNDS):
        begun = time.perf_counter()
        act()
        spent.append(1000 * (time.perf_counter() - begun))
    return float(np.median(spent))


def summed_up(rows: Iterable[Told]) -> Told:
    total = Told()
    for row in rows:
        total = total + row
    return total


def shares(found: list[dict[str, tuple[int, int]]]) -> str:
    said = []
    for kind in ("no times", "rhythm"):
        rows = [one[kind] for one in found if kind in one]
        if rows:
            right, count = (sum(column) for column in zip(*rows, strict=True))
            said.append(f"{kind} {right / count:.3f} ({count} notes)")
    return ", ".join(said)


def main(folder: Path | None, *, quick: bool) -> None:
    paths = sorted(folder.glob("*.wav")) if folder is not None else []
    paths = [path for path in paths if path.with_suffix(".truth.json").exists()]
    lines = ["# Variants, versions, tabs over recordings", "", "Made by `./dev bench variants --cases DIR`.", ""]
    with ProcessPoolExecutor(2) as pool:
        tuned = list(pool.map(composed, TUNED))
        apart = [] if quick else list(pool.map(composed, SET_ASIDE))
        others = list(pool.map(other_hand, paths))
        laid = list(pool.map(overlaid, TUNED if quick else SET_ASIDE))
        laid_others = list(pool.map(overlaid, paths))
    lines += [
        "## The same solo in another version",
        "",
        "Another tempo curve, key and sound, a tenth of the notes changed (asked: .95 of the changes listed, .03 of",
        "the equal notes accused).",
        "",
        "| pairs | changes listed | equal notes accused | listed, also as doubtful | accused, also as doubtful "
        "| changes |",
        "| --- | --- | --- | --- | --- | --- |",
    ]
    for name, rows in (
        ("composed, used while building", tuned),
        ("composed, set aside", apart),
        ("other hands", others),
    ):
        for which, kind in enumerate(("as written", "two drafts")):
            if rows:
                lines.append(f"| {name}, {kind} | {summed_up(row[which] for row in rows).row} |")
    lines += ["", "## A tab without times over its recording", "", "Onsets within 50 ms (asked: .97).", ""]
    lines.append(f"- composed: {shares(laid)}")
    if laid_others:
        lines.append(f"- other hands: {shares(laid_others)}")
    lines += [*easing_lines(paths), *catalogue_lines()]
    text = "\n".join(lines) + "\n"
    print(text)
    if not quick:
        PAGE.write_text(text)


if __name__ == "__main__":
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--cases", type=Path, help="a folder of NAME.wav and NAME.truth.json")
    parser.add_argument("--quick", action="store_true", help="the seeds used while building only; writes nothing")
    options = parser.parse_args()
    main(options.cases, quick=options.quick)
