"""How solos are heard that this project neither composed nor played: `./dev bench hearing --cases DIR`.

DIR holds NAME.wav with NAME.truth.json: "notes" (onset, offset, string, fret, attack, techniques, bend_semitones),
"tuning" (midi, string 1 first), "split" (cases are reported by it), "f0" (pairs of seconds and hertz, 0 for silence).
Nothing is tuned on such cases. Writes docs/benchmarks/hearing-other-hands.md and a picture.
"""

from __future__ import annotations

import itertools
import json
import os
import sys
from collections import Counter
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, field
from pathlib import Path

import mir_eval
import numpy as np
from matplotlib.figure import Figure

from notcher.core.hearing import Draft, draft
from notcher.core.hearing.note_contour import measured_curve
from notcher.core.hearing.pitch import HOP_S
from notcher.core.proving import Status, prove
from notcher.core.score import (
    FLAT,
    LEGATO_ATTACKS,
    Attack,
    End,
    Note,
    Score,
    Tone,
    Tuning,
    Vibrato,
    midi_to_hz,
    techniques,
)
from notcher.core.sound import read_clip
from solo_facts import Facts, facts, table

REPORT = Path(__file__).parents[1] / "docs" / "benchmarks" / "hearing-other-hands.md"
NO_NOTE, NOTHING = "no note", "nothing"
TECHNIQUES = (
    *("bend", "prebend", "release", "curl", "vibrato", "slide", "slide_in", "slide_out", "hammer", "pull", "trill"),
    *("tap", "palm_mute", "staccato", "whammy", "natural_harmonic", "unison_bend", "oblique_bend", "double_stop"),
    "chord",
)
BENDS = {"bend", "prebend", "curl"}
SAME = {"dip": "whammy", "dive": "whammy"}
NODES = {12: 12, 7: 19, 5: 24, 19: 19, 24: 24, 4: 28, 9: 28, 16: 28}
"""Semitones over the open string of a natural harmonic touched at a fret: the partials 2, 3, 4 and 5."""
WEAK = """
## Where it is weak, and what was tried

- Through a band hardly anything is known of how a note ends (staccato), and slides off the neck drown in it. Tried:
  the level's break as for a guitar alone (the band's level hides it). A third of what is invented there is the
  band's own; what is least sure is put aside as the band's.
- Hammers, pulls and taps of quick figures: each note is judged by itself and by what the hand could reach.
- Slides were told by stairs of the curve (only slow hands show them), the evenness of the move (bends .60 +- .07 of
  their way in the middle half of the time, slides .52 +- .06: too close), and by a network that hears the slide. Kept:
  that network, since it is also shown bends on their way, together with a state of the decoder for each kind of slide.
- The end of a note: a knee of two slopes and a share of the note were tried; kept is the level seen through 17 ms,
  which falls suddenly where a hand stops it. Nine in ten ends before a gap are within 30 ms.
- Notes that the band or a driven delay repeats are written where the lead rests. Tried: echoes by pitch, lag and level
  of the notes (three notes in one solo of six, and false friends where a rhythm repeats a pitch); how far a note's
  partials lie from the middle of the picture (four notes in six solos). Neither paid for itself.
- Taps and one-fret slides: what moves a semitone quickly is a hammer or a slide by the ear alone.
- Places: the boxes of the likeliest scales, a hand that stays until the line rests, told places that pull together, and
  another player's weights for each solo (the best of eleven in hindsight: .12) were tried; also the boxes of each
  line's own scale (.147, and worse at home). Which of several sound places a player took is not in the notes; a told
  place costs one drag.
- Meter: solos whose dotted beats are halved sound like two to the beat. Bars of a band begin where its chords change.
- Tuning: nine of the solos hold no note that tells; they are called a guess.
- Palm mutes: the network alone takes a bright driven sound for an open string; how steadily it fades tells.
- Bends that are never let down and begin bent cannot be told from the fret they sound like.
- Two strings: of the moments at which two sound, nineteen in twenty are followed on both. What is lost are pushes that
  are over in 60 ms, and quick bends under a held string, which read as the fret above; that a string is bent rather
  than hammered under one that is held wins oblique bends (.64 -> .74).
- What comes again was tried as evidence: the chance of a pick, and of a slide, pooled over the turns of a lick, as a
  mean (pulls .83 -> .79) and as a sum (.73). Hands do not strike a lick the same way twice.
- A tremolo is one figure: its pace speaks for strokes that are hardly heard. Sweeps need none: .95 to 1.00 by
  themselves.
"""
MARKS = (0.0, 0.3, 0.6, 0.9, 1.01)
GRACE_S = 0.02


@dataclass
class Heard:
    """What one case gave."""

    split: str
    f1: float
    hits: dict[str, tuple[int, int, int]] = field(default_factory=dict)
    bends: int = 0
    bends_right: int = 0
    sounding_s: float = 0.0
    unwritten_s: float = 0.0
    marks: list[tuple[float, bool]] = field(default_factory=list)
    sound: str = ""
    accused: int = 0
    proved: int = 0
    facts: Facts | None = None
    second: list[tuple[bool, bool]] = field(default_factory=list)
    """Of each heard note that stands near a true onset and reads it wrong: whether it has, and is right in, a second
    reading."""
    claimed: Counter[tuple[str, str]] = field(default_factory=Counter)
    """How often a technique that was played was written as which."""


def true_score(truth: dict) -> Score:
    """Return what was played as a score; how the pitch moves is read off the true curve."""
    times_s, hertz = np.array(truth["f0"]).T
    detune = truth.get("detune_cents", 0.0) or 0.0
    with np.errstate(divide="ignore"):
        midi = np.where(hertz > 0, 69 + 12 * np.log2(np.maximum(hertz, 1) / 440.0), np.nan)
    notes = []
    for row in truth["notes"]:
        names = set(row["techniques"])
        grid = np.arange(row["onset"], row["offset"], HOP_S)
        fretted = truth["tuning"][row["string"] - 1] + row["fret"]
        deviation = np.interp(grid, times_s, midi) - fretted - detune / 100
        moves = names & {*BENDS, "release", "whammy"}
        curve, wave = FLAT, None
        if grid.size and not np.isnan(deviation).all() and np.nanmax(np.abs(deviation)) < 9:
            curve, wave = measured_curve(deviation, struck=False)
        said = row["vibrato"] if isinstance(row["vibrato"], dict) else None
        if said is not None:
            from_s = wave.from_s if wave is not None else 0.15
            wave = Vibrato(from_s, said["rate_hz"], said["extent_cents"])
        tone = next((tone for tone in (Tone.PALM_MUTE, Tone.NATURAL_HARMONIC) if tone in names), Tone.NORMAL)
        notes.append(
            Note(
                max(0.0, row["onset"]), max(row["offset"], row["onset"] + 0.03), row["string"], row["fret"],
                Attack.REPICK if "repick" in names else Attack(row["attack"]), curve if moves else FLAT,
                wave if row["vibrato"] else None,
                End.SLIDES_AWAY if "slide_out" in names else End.STOPS, tone, slid_in="slide_in" in names,
            )
        )  # fmt: skip
    return Score((), Tuning(tuple(truth["tuning"]), 0, detune)).with_notes(notes)


def _true_labels(note: dict) -> set[str]:
    attack = {note["attack"]} & {"hammer", "pull", "slide", "tap"}
    return {SAME.get(name, name) for name in note["techniques"]} | attack | ({"vibrato"} if note["vibrato"] else set())


def _true_midi(note: dict, tuning: list[int]) -> int:
    over = NODES.get(note["fret"]) if "natural_harmonic" in note["techniques"] else None
    return tuning[note["string"] - 1] + (note["fret"] if over is None else over)


def _drafted_midi(score: Score, index: int) -> float:
    note = score.notes[index]
    return score.sounding_midi(note) if "natural_harmonic" in techniques(score, index) else score.fretted_midi(note)


def _drafted_labels(score: Score, index: int) -> set[str]:
    attack = score.notes[index].attack
    struck = {attack.value} if attack in {*LEGATO_ATTACKS, Attack.TAP} else set()
    return {SAME.get(name, name) for name in techniques(score, index)} | struck


def heard(path: Path) -> Heard:
    """Draft one case and compare."""
    return compared(draft(read_clip(path)), json.loads(path.with_suffix(".truth.json").read_text()))


def compared(found: Draft, truth: dict) -> Heard:
    """Hold a draft against a truth: C. Raffel et al., "mir_eval", ISMIR 2014; onset 50 ms, fretted pitch."""
    true, score = truth["notes"], found.score
    spans = np.array([[max(0.0, n["onset"]), max(n["offset"], n["onset"] + 0.01)] for n in true])
    pitches = np.array([midi_to_hz(_true_midi(n, truth["tuning"])) for n in true])
    ours = np.array([[n.onset_s, max(n.offset_s, n.onset_s + 0.01)] for n in score.notes])
    our_pitches = np.array([midi_to_hz(_drafted_midi(score, i)) for i in range(len(score.notes))])
    pairs = dict(
        mir_eval.transcription.match_notes(
            spans, pitches, ours, our_pitches, onset_tolerance=0.05, pitch_tolerance=50.0, offset_ratio=None
        )
    )
    told = [_drafted_labels(score, i) for i in range(len(score.notes))]
    labels = [_true_labels(note) for note in true]
    result = Heard(truth["split"], 2 * len(pairs) / (len(true) + len(score.notes)))
    for name in TECHNIQUES:
        both = sum(name in labels[i] and name in told[j] for i, j in pairs.items())
        result.hits[name] = both, sum(name in one for one in labels), sum(name in one for one in told)
    for i, one in enumerate(labels):
        if one & BENDS:
            result.bends += 1
            size = score.notes[pairs[i]].reading.bend_semitones if i in pairs else np.inf
            result.bends_right += abs(size - true[i]["bend_semitones"]) <= 0.25
    for i, one in enumerate(labels):
        for name in one & set(TECHNIQUES):
            ours_now = told[pairs[i]] if i in pairs else {NO_NOTE}
            instead = {name} if name in ours_now else (ours_now - one) & {*TECHNIQUES, NO_NOTE} or {NOTHING}
            result.claimed.update((name, other) for other in instead)
    right = set(pairs.values())
    result.marks = [(note.certainty, i in right) for i, note in enumerate(score.notes)]
    result.facts = facts(found, truth) if "key_pc" in truth else None
    result.sounding_s, result.unwritten_s = _unwritten(found, truth)
    result.sound = truth.get("soundfont", "")
    played = true_score(truth)
    result.proved = len(played.notes)
    result.accused = sum(finding.status is not Status.AGREES for finding in prove(played, found).notes)
    result.second = [
        (bool(note.readings), _right_in_a_reading(score, i, true, truth["tuning"]))
        for i, note in enumerate(score.notes)
        if i not in right
    ]
    return result


def _right_in_a_reading(score: Score, index: int, true: list[dict], tuning: list[int]) -> bool:
    """Whether a second reading of a note has a true note's onset to 50 ms and its fretted pitch."""
    note = score.notes[index]
    for reading in note.readings:
        other = reading.notes[reading.at]
        onset_s = note.onset_s + reading.begins_s + other.onset_s
        midi = score.tuning.midi(other.string, other.fret)
        if any(abs(row["onset"] - onset_s) < 0.05 and abs(_true_midi(row, tuning) - midi) < 0.5 for row in true):
            return True
    return False


def _unwritten(found: Draft, truth: dict) -> tuple[float, float]:
    """Seconds in which the drafted pitch is the true one, within 50 cents, and of these without any note."""
    track, curve = found.measured.tracks[0], np.array(truth["f0"])
    sounds = np.interp(track.times_s, curve[:, 0], curve[:, 1] > 0) > 0.5
    hertz = np.interp(track.times_s, curve[:, 0], curve[:, 1])
    with np.errstate(invalid="ignore", divide="ignore"):
        off = np.abs(track.midi - 69 - 12 * np.log2(np.where(sounds, hertz, np.nan) / 440.0))
    right = np.nan_to_num(off, nan=9.0) < 0.5
    covered = np.zeros(right.size, dtype=bool)
    for note in found.score.notes:
        covered |= (track.times_s >= note.onset_s - GRACE_S) & (track.times_s <= note.offset_s + GRACE_S)
    step = float(np.median(np.diff(track.times_s)))
    return float(right.sum()) * step, float((right & ~covered).sum()) * step


def technique_f1(cases: list[Heard], name: str) -> float:
    """Return the F1 of a technique over all notes; NaN where it was never played."""
    found = _f1(cases, name)
    return np.nan if found is None else found


def _f1(cases: list[Heard], name: str) -> float | None:
    both, true, ours = (sum(case.hits[name][k] for case in cases) for k in range(3))
    return 2 * both / (true + ours) if true else None


def report(cases: list[Heard]) -> str:
    """Return the page."""
    splits = sorted({case.split for case in cases})
    by = {split: [case for case in cases if case.split == split] for split in splits}
    lines = [
        "# Solos from other hands",
        "",
        "Made by `./dev bench hearing --cases DIR`: solos by another composer, another renderer and other sounds.",
        "Nothing was fitted to them, but their totals were looked at when a change was kept: fresh ones may be lower.",
        "Note F1 as in hearing.md (there the solos are our own); unwritten: of the",
        "time whose pitch was rightly followed, the part without any note; bends: true ones whose size is within 25",
        "cents.",
        "",
        "![what was written for what was played](hearing-other-hands.png)",
        "",
        "Accused: notes of the true tab that proving does not let stand.",
        "",
        "| cases | number | note F1 | unwritten | bends within 25 cents | accused |",
        "| --- | --- | --- | --- | --- | --- |",
    ]
    apart = {f"{split}, sound {font}": [case for case in some if case.sound == font]
             for split, some in by.items() for font in sorted({case.sound for case in some}) if font}  # fmt: skip
    for split, some in (by | apart).items():
        lost = sum(case.unwritten_s for case in some) / max(1e-9, sum(case.sounding_s for case in some))
        right = sum(case.bends_right for case in some) / max(1, sum(case.bends for case in some))
        f1 = float(np.mean([case.f1 for case in some]))
        accused = sum(case.accused for case in some) / max(1, sum(case.proved for case in some))
        lines.append(f"| {split} | {len(some)} | {f1:.3f} | {100 * lost:.2f} % | {right:.2f} | {accused:.3f} |")
    told = {name: [case.facts for case in some if case.facts] for name, some in ({**by, "all": cases}).items()}
    lines += ["", *table(told)]
    lines += ["## Techniques", "", "F1 over all notes, those not matched counted as missed.", ""]
    lines += [f"| technique | {' | '.join(splits)} |", "| --- |" + " --- |" * len(splits)]
    for name in TECHNIQUES:
        values = [_f1(by[split], name) for split in splits]
        if any(value is not None for value in values):
            shown = " | ".join("–" if value is None else f"{value:.2f}" for value in values)
            lines.append(f"| {name.replace('_', ' ')} | {shown} |")
    lines += [
        "",
        "## How far the marks can be trusted",
        "",
        "| marked | notes | mean mark | right |",
        "| --- | --- | --- | --- |",
    ]
    marks = [mark for case in cases for mark in case.marks]
    second = [row for case in cases for row in case.second]
    for low, high in itertools.pairwise(MARKS):
        inside = [(sure, right) for sure, right in marks if low <= sure < high]
        if inside:
            mean, right = np.mean(inside, axis=0)
            lines.append(f"| {low:.2f}–{min(high, 1.0):.2f} | {len(inside)} | {mean:.2f} | {right:.2f} |")
    sure = [right for mark, right in marks if mark >= MARKS[-2]]
    lines += [
        "",
        f"Of {len(marks)} notes {len(sure) / max(1, len(marks)):.0%} are marked {MARKS[-2]} and more; of those",
        f"{np.mean(sure):.1%} are right.",
        f"Of {len(second)} notes that are wrong {np.mean([has for has, _ in second]):.0%} have a second reading; in",
        f"{np.mean([right for _, right in second]):.0%} one of them is right.",
    ]
    return "\n".join(lines) + "\n" + WEAK


def picture(cases: list[Heard]) -> None:
    """Draw of each technique that was played what was written for it; each row sums to one."""
    columns = (*TECHNIQUES, NOTHING, NO_NOTE)
    counts = sum((case.claimed for case in cases), Counter())
    table = np.array([[counts[name, other] for other in columns] for name in TECHNIQUES], dtype=float)
    shares = table / np.maximum(table.sum(axis=1, keepdims=True), 1)
    figure = Figure(figsize=(11, 9), layout="constrained")
    axes = figure.subplots()
    axes.imshow(shares, cmap="Blues", vmin=0, vmax=1)
    words = [name.replace("_", " ") for name in columns]
    axes.set_xticks(range(len(columns)), words, rotation=60, ha="right")
    axes.set_yticks(range(len(TECHNIQUES)), words[: len(TECHNIQUES)])
    axes.set_xlabel("written")
    axes.set_ylabel("played")
    for row, column in zip(*np.nonzero(table), strict=True):
        ink = "white" if shares[row, column] > 0.6 else "black"
        axes.text(column, row, f"{table[row, column]:.0f}", ha="center", va="center", color=ink, fontsize=8)
    figure.savefig(REPORT.with_suffix(".png"), dpi=80)


def main(folder: Path) -> None:
    """Run all cases of a folder and write the page and the picture."""
    paths = [path for path in sorted(folder.glob("*.wav")) if path.with_suffix(".truth.json").exists()]
    if not paths:
        sys.exit(f"No NAME.wav with NAME.truth.json in {folder}.")
    with ProcessPoolExecutor(max(1, (os.cpu_count() or 2) // 2)) as pool:
        cases = list(pool.map(heard, paths))
    REPORT.write_text(report(cases), "utf-8")
    picture(cases)
    print(REPORT.read_text("utf-8"))
