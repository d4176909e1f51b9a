"""What a solo means, held against what was planted or composed: `./dev bench meaning [--cases DIR]`.

Writes docs/benchmarks/meaning.md. The seeds of the planted solos were set aside while the finder was built.
"""

from __future__ import annotations

import argparse
import json
import time
from collections import Counter
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, field, replace
from pathlib import Path

import numpy as np

from notcher.core.formats import patterns_lines
from notcher.core.patterns import Kind, Patterns, boundaries, patterns
from notcher.core.score import BeatMap, Meter, Score
from notcher.core.score.rhythm import TICKS, written_times
from notcher.core.theory import ranked_keys
from notcher.demo import demo_score
from planted_shapes import KINDS, Planted, noisy, planted_solo

PAGE = Path(__file__).parents[1] / "docs" / "benchmarks" / "meaning.md"
TUNED, SET_ASIDE = range(0, 40), range(1_000, 1_060)
FOUND = 0.7  # of a planted playing's notes


def statements(found: Patterns) -> list[tuple[str, tuple[tuple[int, int], ...]]]:
    """Every reference that is said: its kind and its pairs of notes."""
    return [
        (shape.kind.value, occurrence.pairs)
        for shape in found.shapes
        for occurrence in shape.occurrences[1:]
        if shape.kind is not Kind.RHYTHM
    ]


def recalled(planted: Planted, said: list[tuple[str, tuple[tuple[int, int], ...]]], at: dict[int, int]) -> bool:
    """Whether some references tell most notes of every later playing out of an earlier one."""
    told = {(earlier, later) for _, pairs in said for earlier, later in pairs}
    explained = {later for _, later in told}
    later = [at[number] for playing in planted.playings[1:] for number in playing if number in at]
    return sum(number in explained for number in later) >= FOUND * len(later)


def holds(pairs: tuple[tuple[int, int], ...], kind: str, true: Score, back: dict[int, int]) -> bool:
    """Whether a reference is true of what was really played: one vector for all its notes but a wrong one or two."""
    known = [(true.notes[back[a]], true.notes[back[b]]) for a, b in pairs if a in back and b in back]
    if len(known) < 0.7 * len(pairs):
        return False
    midi = [true.fretted_midi(b) - true.fretted_midi(a) for a, b in known]
    if kind == "sequence":  # tonal: each note a step or so on, all the same way
        return max(midi) - min(midi) <= 2
    return Counter(midi).most_common(1)[0][1] >= len(known) - max(1, round(0.15 * len(known)))


def shapes(seeds: range, *, noise: bool) -> tuple[dict[str, list[bool]], list[bool], float, list[float]]:
    found: dict[str, list[bool]] = {kind: [] for kind in KINDS}
    right, seconds, saved = [], 0.0, []
    for seed in seeds:
        true, planted = planted_solo(seed)
        score, at = noisy(true, seed) if noise else (true, {n: n for n in range(len(true.notes))})
        begun = time.perf_counter()
        told = patterns(score)
        seconds += time.perf_counter() - begun
        said, back = statements(told), {new: old for old, new in at.items()}
        for plant in planted:
            found[plant.kind].append(recalled(plant, said, at))
        right += [holds(pairs, kind, true, back) for kind, pairs in said]
        saved.append(told.to_learn / told.count)
    return found, right, seconds / len(seeds), saved


def true_cases(folder: Path) -> list[tuple[Score, dict]]:
    from other_hands import true_score

    cases = []
    for path in sorted(folder.glob("*.truth.json")):
        truth = json.loads(path.read_text("utf-8"))
        beat_map = BeatMap.steady(truth["tempo"], truth["first_beat_s"], Meter(*map(int, truth["meter"].split("/"))))
        cases.append((replace(true_score(truth), beat_map=beat_map), truth))
    return cases


def rhythm(cases: list[tuple[Score, dict]]) -> tuple[float, float]:
    """Shares of notes whose place and whose value are the true ones, with the true beats."""
    places, values = [], []
    for score, truth in cases:
        size = score.beat_map.meter.beat_quarters * TICKS
        order = sorted(
            range(len(truth["notes"])), key=lambda n: (max(0, truth["notes"][n]["onset"]), truth["notes"][n]["string"])
        )
        for time_, number in zip(written_times(score), order, strict=True):
            note = truth["notes"][number]
            places.append(abs(time_.onset / size - note["beat"]) < 0.02)
            values.append(abs(time_.length / size - note["beats"]) < 0.02)
    return float(np.mean(places)), float(np.mean(values))


def phrase_f1(cases: list[tuple[Score, dict]], begins: object) -> float:
    hit = told = true = 0
    for score, truth in cases:
        first: dict[int, float] = {}
        for note in truth["notes"]:
            first[note["phrase"]] = min(first.get(note["phrase"], 1e9), note["onset"])
        wanted = sorted(first.values())[1:]
        said = begins(score)  # type: ignore[operator]
        half_s, left = 30.0 / truth["tempo"], list(wanted)
        for at in said:
            near = min(left, key=lambda other: abs(other - at), default=None)
            if near is not None and abs(near - at) <= half_s:
                left.remove(near)
                hit += 1
        told, true = told + len(said), true + len(wanted)
    return 2 * hit / (told + true)


@dataclass
class OnDrafts:
    """Of drafts, over all notes that the draft has right: place and value as written with the program's own beats (one
    shift for a whole solo allowed), and whether the true key is named first, among the first two."""

    places: list[bool] = field(default_factory=list)
    values: list[bool] = field(default_factory=list)
    first: list[bool] = field(default_factory=list)
    of_two: list[bool] = field(default_factory=list)


def drafted(path: Path) -> Score:
    from notcher.core.hearing import draft
    from notcher.core.sound import read_clip

    return draft(read_clip(path.with_name(path.name.replace(".truth.json", ".wav")))).score


def on_drafts(folder: Path) -> OnDrafts:
    told = OnDrafts()
    paths = sorted(folder.glob("*.truth.json"))
    with ProcessPoolExecutor(2) as pool:
        for path, score in zip(paths, pool.map(drafted, paths), strict=True):
            truth = json.loads(path.read_text("utf-8"))
            _key_right(score, truth, told.first, told.of_two)
            if score.beat_map.known:
                _rhythm_right(score, truth, told)
            else:
                told.places += [False] * len(truth["notes"])
                told.values += [False] * len(truth["notes"])
    return told


def _rhythm_right(score: Score, truth: dict, told: OnDrafts) -> None:
    """Beats are compared in the truth's felt beats: of a solo whose beat is halved or doubled nothing is right."""
    times = written_times(score)
    size = Meter(*map(int, truth["meter"].split("/"))).beat_quarters * TICKS
    rows = []
    for note, when in zip(score.notes, times, strict=True):
        near = [row for row in truth["notes"] if abs(row["onset"] - note.onset_s) < 0.05]
        if near:
            row = min(near, key=lambda row: abs(row["onset"] - note.onset_s))
            rows.append((when.onset / size - row["beat"], when.length / size, row["beats"]))
    shift = Counter(round(4 * off) / 4 for off, _, _ in rows).most_common(1)[0][0] if rows else 0.0
    told.places += [abs(off - shift) < 0.02 for off, _, _ in rows]
    told.values += [abs(length - true) < 0.02 for _, length, true in rows]


SCALES = {"minor_pent": "minor pentatonic", "minor": "natural minor", "harm_minor": "harmonic minor",
          "hw_dim": "half-whole"}  # fmt: skip


def _key_right(score: Score, truth: dict, first: list[bool], of_two: list[bool]) -> None:
    from solo_facts import _family

    wanted = _family(truth["key_pc"], SCALES.get(truth["scale"], truth["scale"]))
    named = list(dict.fromkeys(_family(key.tonic, key.scale) for key in ranked_keys(score)))
    first.append(named[:1] == [wanted])
    of_two.append(wanted in named[:2])


def by_model(score: Score) -> list[float]:
    return [score.notes[boundary.first].onset_s for boundary in boundaries(score)][1:]


def by_rest(least_s: float) -> object:
    def begins(score: Score) -> list[float]:
        ends = np.maximum.accumulate([note.offset_s for note in score.notes])
        onsets = np.array([note.onset_s for note in score.notes])
        return onsets[1:][onsets[1:] - ends[:-1] > least_s].tolist()

    return begins


def _keys_and_drafts(cases: list[tuple[Score, dict]], folder: Path) -> list[str]:
    first: list[bool] = []
    of_two: list[bool] = []
    for score, truth in cases:
        _key_right(score, truth, first, of_two)
    told = on_drafts(folder)
    return [
        f"Key and scale from true notes: first {np.mean(first):.2f} (.80), among two {np.mean(of_two):.2f} (.95).",
        f"From drafts: first {np.mean(told.first):.2f}, among two {np.mean(told.of_two):.2f} (.90).",
        f"Drafts with the program's own beats: place {np.mean(told.places):.2f}, value {np.mean(told.values):.2f}",
        "(halved and doubled beats count as wrong throughout).",
    ]


def speed() -> str:
    """How long solos of growing length take, beside a loop that never changes."""
    long, _ = planted_solo(5, shapes=140)
    took = []
    for count in (750, 1_500, 3_000):
        score = long.with_notes(long.notes[:count])
        begun = time.perf_counter()
        patterns(score)
        took.append(f"{len(score.notes)} notes {time.perf_counter() - begun:.2f} s")
    begun, total = time.perf_counter(), 0
    for number in range(1_000_000):
        total += number & 7
    loop_s = time.perf_counter() - begun
    return f"{', '.join(took)} (asked: 3,000 in 2 s); a loop of a million additions {1000 * loop_s:.0f} ms."


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--cases", type=Path)
    options = parser.parse_args()
    lines = ["# What a solo means", "", "Made by `./dev bench meaning --cases DIR`.", "", "## What comes again", ""]
    lines += ["| solos | recall | precision | seconds a solo | left to learn |", "| --- | --- | --- | --- | --- |"]
    rows = []
    for name, seeds, noise in (
        ("planted, seeds used while building", TUNED, False),
        ("planted, set aside", SET_ASIDE, False),
        ("set aside, 3 % of the notes wrong, ± 20 ms", SET_ASIDE, True),
    ):
        found, right, seconds, saved = shapes(seeds, noise=noise)
        every = [hit for hits in found.values() for hit in hits]
        lines.append(f"| {name} | {np.mean(every):.2f} | {np.mean(right):.3f} | {seconds:.2f} | {np.mean(saved):.0%} |")
        rows.append((name, found))
    lines += ["", "| recall of | " + " | ".join(KINDS) + " |", "| --- |" + " --- |" * len(KINDS)]
    lines += [f"| {name} | " + " | ".join(f"{np.mean(f[k]):.2f}" for k in KINDS) + " |" for name, f in rows]
    lines += ["", speed()]
    long, _ = planted_solo(7, shapes=20)
    for name, score in (("The demo", demo_score()), ("An invented solo", long.with_notes(long.notes[:300]))):
        told = patterns_lines(score, patterns(score))
        lines += ["", f"{name}, {len(score.notes)} notes:", "", "```", *told, "```"]
    if options.cases:
        cases = true_cases(options.cases)
        place, value = rhythm(cases)
        single = {least: phrase_f1(cases, by_rest(least)) for least in (0.1, 0.15, 0.2, 0.28, 0.4)}
        best = max(single, key=single.__getitem__)
        lines += [
            "", "## Solos of another hand", "",
            f"{len(cases)} solos, true notes and true beats: place right {place:.3f} (asked .95),",
            f"value right {value:.3f} (.90).",
            f"Phrases, F1 within half a beat: {phrase_f1(cases, by_model):.3f} (asked .80); the best single cue,",
            f"a rest of {best:g} s and more, {single[best]:.3f}.",
            *_keys_and_drafts(cases, options.cases),
        ]  # fmt: skip
    print("\n".join(lines))
    PAGE.write_text("\n".join([*lines, ""]), "utf-8")


if __name__ == "__main__":
    main()
