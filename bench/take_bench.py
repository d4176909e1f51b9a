"""How well a student's take is judged: `./dev bench take`; writes docs/benchmarks/take.md.

Players with known faults perform seeded solos through the string model; the report must say what they did.
"""

from __future__ import annotations

import time
from collections import defaultdict
from dataclasses import replace
from pathlib import Path

import numpy as np

from effects import distorted
from lead_cases import make_case, render_case
from notcher.core.proving import hear_take
from notcher.core.proving.take import TakeReport
from notcher.core.score import Phrase, Score, excerpt
from notcher.core.synthesis import SKILLS, performed, render
from notcher.core.synthesis.performer import Performance, Skill

PAGE = Path(__file__).parents[1] / "docs" / "benchmarks" / "take.md"
TUNED, SET_ASIDE = range(20, 24), range(120, 124)
PACE, BEGIN_S, LENGTH_S = 0.7, 2.0, 30.0


def tally(written: Score, performance: Performance, report: TakeReport, sums: dict[str, list[float]]) -> None:
    """Compare a report with what was performed."""
    notes = [played for phrase in report.phrases for played in phrase.notes]
    first = report.indices[0]
    true_notes, taken = performance.score.notes, {source: at for at, source in enumerate(performance.sources)}
    late = []
    for played in notes:
        at = taken.get(played.index - first)
        note = written.notes[played.index - first]
        if at is None:
            sums["missed found"].append(not played.right)
            continue
        true = true_notes[at]
        late.append(true.onset_s - BEGIN_S - note.onset_s)
        if true.fret != note.fret:
            sums["wrong found"].append(not played.right)
            continue
        sums["right accused"].append(not played.right)
        if played.late_ms is not None:
            sums["onset ms"].append(abs(played.late_ms - 1000 * (true.onset_s - BEGIN_S - note.onset_s)))
        if played.landed_cents is not None:
            size = note.reading.bend_semitones
            landed = 100 * (abs(true.reading.bend_semitones) - abs(size))
            sums["bend cents"].append(abs(played.landed_cents - landed))
        if note.vibrato is not None and true.vibrato is not None and played.wave is not None:
            sums["wave Hz"].append(abs(played.wave.rate_hz - true.vibrato.rate_hz))
            sums["wave cents"].append(abs(played.wave.extent_cents - true.vibrato.extent_cents))
    bias = [phrase_report.bias_ms for phrase_report in report.phrases if phrase_report.bias_ms is not None]
    if bias and late:
        sums["bias ms"].append(abs(float(np.median(bias)) - 1000 * float(np.median(late))))


def one_take(seed: int, skill: Skill, *, dirty: bool) -> tuple[Score, Performance, TakeReport, float]:
    """Perform a seeded solo and report on it; also the seconds that took."""
    case = make_case(seed, length_s=LENGTH_S)
    score = case.score
    end_s = max(note.offset_s for note in score.notes) + 0.3
    score = Score(score.notes, score.tuning, score.beat_map, phrases=(Phrase(0.0, end_s, "all"),))
    written = excerpt(score, 0.0, end_s, pace=PACE)
    played = performed(written, skill, seed=seed, begin_s=BEGIN_S)
    sampled = replace(case, score=played.score)
    clip = distorted(render_case(sampled)) if dirty else render(played.score, seed=seed)
    begun = time.perf_counter()
    report = hear_take(clip, score, 0.0, end_s, pace=PACE, begin_s=BEGIN_S)
    return written, played, report, time.perf_counter() - begun


def main() -> None:
    lines = [
        "# Takes",
        "",
        "Made by `./dev bench take`. Seeded solos (20-23 were looked at, 120-123 never) are performed at 70 % by",
        "players with known faults, through the string model and through a sampled guitar with distortion and delay;",
        "the report is held against what was performed. Shares of missed and of wrong notes found, share of right",
        "notes accused; median error of each onset, of the bias, of where bends landed, of vibrato rate and width.",
        "",
        "| sound | part | player | missed | wrong | accused | onset | bias | bends | vibrato | verdicts |",
        "| --- | --- | --- | --- | --- | --- | --- | --- | --- | --- | --- |",
    ]
    for dirty in (False, True):
        for part, seeds in (("tuned on", TUNED), ("set aside", SET_ASIDE)):
            for skill in SKILLS.values():
                sums: dict[str, list[float]] = defaultdict(list)
                verdicts, seconds = [], 0.0
                for seed in seeds:
                    written, played, report, took = one_take(seed, skill, dirty=dirty)
                    tally(written, played, report, sums)
                    verdicts.append(str(report.verdict))
                    seconds += took

                def share(name: str, sums: dict[str, list[float]] = sums) -> str:
                    return f"{sum(sums[name]):.0f} of {len(sums[name])}" if sums[name] else "none"

                def middle(name: str, unit: str, sums: dict[str, list[float]] = sums) -> str:
                    return f"{np.median(sums[name]):.1f} {unit}" if sums[name] else "none"

                counts = ", ".join(f"{verdicts.count(v)} {v}" for v in dict.fromkeys(verdicts))
                sound = "sampled, distorted + delay" if dirty else "string model"
                lines.append(
                    f"| {sound} | {part} | {skill.name} | {share('missed found')} "
                    f"| {share('wrong found')} | {np.mean(sums['right accused']):.3f} | {middle('onset ms', 'ms')} "
                    f"| {middle('bias ms', 'ms')} | {middle('bend cents', 'cents')} "
                    f"| {middle('wave Hz', 'Hz')}, {middle('wave cents', 'cents')} | {counts} |"
                )
                print(lines[-1], f"{seconds / len(seeds):.1f} s a take", flush=True)
    PAGE.write_text("\n".join([*lines, ""]), "utf-8")


if __name__ == "__main__":
    main()
