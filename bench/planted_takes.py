"""Takes with one to three faults planted, and whether the report names them: `./dev bench planted_takes`.

Writes docs/benchmarks/planted-takes.md. The truth is what was planted; nothing of the report is stored. Seeds are fresh
at each run unless they are given, and the page says which.
"""

from __future__ import annotations

import sys
import time
from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np
from scipy import signal

from lead_cases import make_case
from notcher.core.proving import Matter, TakeReport, advice, hear_take
from notcher.core.score import Note, Phrase, PitchCurve, Score, Tone, Vibrato, excerpt, retimed
from notcher.core.sound import Clip
from notcher.core.synthesis import Skill, performed, render

PAGE = Path(__file__).parents[1] / "docs" / "benchmarks" / "planted-takes.md"
TAKES, PACE, BEGIN_S, LENGTH_S = 200, 0.7, 1.5, 16.0
STEADY = Skill("steady", spread_ms=5.0, flat_spread_cents=4.0)
Planted = tuple[str, int]  # which fault, at which written note; -1 for none in particular
Notes = list[tuple[Note, int | None]]


@dataclass(frozen=True)
class Fault:
    """name: as the page tells it. matters: what may name it. plant: changes the notes, returns at which, or None."""

    name: str
    matters: tuple[Matter, ...]
    plant: Callable[[Notes, Score, np.random.Generator], int | None]


def _pick(notes: Notes, fits: Callable[[Note, Note], bool], written: Score, dice: np.random.Generator) -> int | None:
    """The place of a note that fits, by what was played and what is written; not the first or the last two."""
    places = [
        at for at, (note, source) in enumerate(notes)
        if source is not None and 1 < at < len(notes) - 2 and fits(note, written.notes[source])
    ]  # fmt: skip
    return int(dice.choice(places)) if places else None


def _plain(note: Note, claim: Note) -> bool:
    return claim.tone is Tone.NORMAL and not claim.bent and claim.vibrato is None and not claim.curve.points


def _missed(notes: Notes, written: Score, dice: np.random.Generator) -> int | None:
    at = _pick(notes, lambda note, claim: _plain(note, claim) and note.duration_s > 0.12, written, dice)
    return None if at is None else notes.pop(at)[1]


def _wrong(notes: Notes, written: Score, dice: np.random.Generator) -> int | None:
    at = _pick(
        notes, lambda note, claim: _plain(note, claim) and 2 < note.fret < 20 and note.duration_s > 0.12, written, dice
    )
    if at is not None:
        notes[at] = (replace(notes[at][0], fret=notes[at][0].fret + int(dice.choice([-2, -1, 1, 2]))), notes[at][1])
        return notes[at][1]
    return None


def _extra(notes: Notes, written: Score, dice: np.random.Generator) -> int | None:
    at = _pick(notes, lambda note, claim: _plain(note, claim) and note.duration_s > 0.4, written, dice)
    if at is None:
        return None
    note, source = notes[at]
    middle_s = note.onset_s + 0.5 * note.duration_s
    notes[at] = (retimed(note, note.onset_s, middle_s), source)
    notes.insert(at + 1, (Note(middle_s, note.offset_s, note.string, max(1, note.fret - 3)), None))
    return source


def _bend(cents: float) -> Callable[[Notes, Score, np.random.Generator], int | None]:
    def plant(notes: Notes, written: Score, dice: np.random.Generator) -> int | None:
        def fits(note: Note, claim: Note) -> bool:
            return claim.bent and claim.reading.bend_semitones >= 1 and note.duration_s > 0.3

        at = _pick(notes, fits, written, dice)
        if at is None:
            return None
        note, source = notes[at]
        top = max(level for _, level in note.curve.points)
        points = tuple((when, level * (top + cents / 100) / top) for when, level in note.curve.points)
        notes[at] = (replace(note, curve=PitchCurve(points)), source)
        return source

    return plant


def _held(notes: Notes, written: Score, dice: np.random.Generator) -> int | None:
    at = _pick(notes, lambda note, claim: _plain(note, claim) and note.duration_s > 0.3, written, dice)
    if at is None:
        return None
    note, source = notes[at]
    notes[at] = (replace(note, curve=PitchCurve(((0.0, 0.4), (note.duration_s, 0.4)))), source)
    return source


def _hesitates(notes: Notes, written: Score, dice: np.random.Generator) -> int | None:
    at = _pick(notes, lambda note, claim: note.duration_s > 0.2, written, dice)
    if at is None:
        return None
    note, source = notes[at]
    before, other = notes[at - 1]
    notes[at - 1] = (retimed(before, before.onset_s, max(before.offset_s, before.onset_s + 0.05)), other)
    notes[at] = (retimed(note, note.onset_s + 0.07, max(note.offset_s, note.onset_s + 0.13)), source)
    return source


def _drift(change: float) -> Callable[[Notes, Score, np.random.Generator], int | None]:
    def plant(notes: Notes, written: Score, dice: np.random.Generator) -> int | None:
        first, last = notes[0][0].onset_s, notes[-1][0].offset_s
        begin, end = first + 0.25 * (last - first), first + 0.75 * (last - first)

        def moved(time_s: float) -> float:
            inside = float(np.clip(time_s - begin, 0.0, end - begin))
            return time_s + inside * (1 / (1 + change) - 1)

        for at, (note, source) in enumerate(notes):
            notes[at] = (retimed(note, moved(note.onset_s), moved(note.offset_s)), source)
        return -1

    return plant


def _still(notes: Notes, written: Score, dice: np.random.Generator) -> int | None:
    at = _pick(
        notes,
        lambda note, claim: claim.vibrato is not None and note.duration_s - claim.vibrato.from_s > 0.6,
        written,
        dice,
    )
    if at is None:
        return None
    notes[at] = (replace(notes[at][0], vibrato=None), notes[at][1])
    return notes[at][1]


def _waved(notes: Notes, written: Score, dice: np.random.Generator) -> int | None:
    at = _pick(notes, lambda note, claim: _plain(note, claim) and note.duration_s > 0.6, written, dice)
    if at is None:
        return None
    notes[at] = (replace(notes[at][0], vibrato=Vibrato(0.1, 5.5, 35.0)), notes[at][1])
    return notes[at][1]


FAULTS = (
    Fault("a note missed", (Matter.MISSING, Matter.NOTHING_HEARD), _missed),
    Fault("a wrong fret", (Matter.WRONG, Matter.MISSING), _wrong),
    Fault("a note too many", (Matter.EXTRA,), _extra),
    Fault("a bend 35 cents flat", (Matter.BEND,), _bend(-35.0)),
    Fault("a bend 35 cents sharp", (Matter.BEND,), _bend(35.0)),
    Fault("a note held 40 cents sharp", (Matter.HELD, Matter.BEND), _held),
    Fault("a hesitation of 70 ms", (Matter.HESITATION,), _hesitates),
    Fault("half of it dragged by 12 %", (Matter.DRIFT,), _drift(-0.12)),
    Fault("half of it rushed by 12 %", (Matter.DRIFT,), _drift(0.12)),
    Fault("a vibrato left out", (Matter.NO_VIBRATO,), _still),
    Fault("a vibrato added", (Matter.ADDED_VIBRATO,), _waved),
)


def noisy(clip: Clip, dice: np.random.Generator) -> Clip:
    """A pickup's hum and hiss, 40 dB below the guitar."""
    times_s = np.arange(clip.samples.shape[0]) / clip.sample_rate
    noise = 0.006 * dice.standard_normal(times_s.size) + 0.004 * np.sin(2 * np.pi * 50 * times_s)
    return Clip((clip.samples[:, 0] + noise).astype(np.float32)[:, None], clip.sample_rate)


def by_phone(clip: Clip, dice: np.random.Generator) -> Clip:
    """A telephone on the table: 200 to 6,000 Hz, a room, noise 35 dB below, clipped at its peaks."""
    sos = signal.butter(4, (200, 6_000), "bandpass", fs=clip.sample_rate, output="sos")
    room = dice.standard_normal(round(0.3 * clip.sample_rate))
    room *= 0.006 * np.exp(-np.arange(room.size) / (0.08 * clip.sample_rate))
    sound = signal.sosfilt(sos, clip.samples[:, 0] + signal.fftconvolve(clip.samples[:, 0], room)[: len(clip.samples)])
    sound = sound / np.abs(sound).max() + 0.01 * dice.standard_normal(sound.size)
    return Clip(np.clip(0.9 * sound, -0.7, 0.7).astype(np.float32)[:, None], clip.sample_rate)


SOUNDS: dict[str, Callable[[Clip, np.random.Generator], Clip]] = {
    "clean": lambda clip, _dice: clip, "noisy guitar": noisy, "by telephone": by_phone,
}  # fmt: skip


def told(report: TakeReport, score: Score) -> list[tuple[Matter, int]]:
    """Everything the report names, with the written note; all of it, not only the three things told first."""
    found: list[tuple[Matter, int]] = []
    for phrase in report.phrases:
        for one in advice(phrase, score, pace=PACE, most=99):
            notes = [played.index for played in one.notes] or [-1]
            found += [(one.matter, index) for index in notes]
    return found


SPEAK_OF_ALL = (Matter.CLEAN, Matter.SCATTER, Matter.BIAS, Matter.BENDS, Matter.NARROW_VIBRATO, Matter.UNEVEN_VIBRATO)
"""Not of one fault: how the whole was; counted neither as found nor as invented."""


def one_take(seed: int, sound: str) -> tuple[list[Planted], list[Planted], list[str]]:
    """Plant, perform and report; return what was planted, what of it was found, and what was invented."""
    dice = np.random.default_rng(seed)
    score = make_case(int(dice.integers(10**6, 10**7)), length_s=LENGTH_S).score
    end_s = max(note.offset_s for note in score.notes) + 0.3
    score = Score(score.notes, score.tuning, score.beat_map, phrases=(Phrase(0.0, end_s, "all"),))
    written = excerpt(score, 0.0, end_s, pace=PACE)
    performance = performed(written, STEADY, seed=seed, begin_s=BEGIN_S)
    notes: Notes = list(zip(performance.score.notes, performance.sources, strict=True))
    planted: list[Planted] = []
    wanted = int(dice.integers(1, 4))
    kinds = [FAULTS[at] for at in dice.permutation(len(FAULTS))]
    for fault in kinds:
        if len(planted) == wanted:
            break
        if fault.name.startswith("half") and any(name.startswith("half") for name, _ in planted):
            continue
        at = fault.plant(notes, written, dice)
        if at is not None and at not in [place for _, place in planted]:
            planted.append((fault.name, at))
    played = performance.score.with_notes(note for note, _ in sorted(notes, key=lambda row: row[0].onset_s))
    clip = SOUNDS[sound](render(played, seed=seed), dice)
    report = hear_take(clip, score, 0.0, end_s, pace=PACE, begin_s=BEGIN_S)
    rows = told(report, score)
    by_name = {fault.name: fault for fault in FAULTS}
    found: list[Planted] = []
    used: set[int] = set()
    for name, place in planted:
        for number, (matter, index) in enumerate(rows):
            near = place == -1 or index == -1 or abs(index - place) <= 1
            if matter in by_name[name].matters and near:
                used.add(number)
                found.append((name, place))
                break
    # what else a planted fault brings about at its own place is no invention
    places = [place for _, place in planted]
    invented = [
        str(matter) for number, (matter, index) in enumerate(rows)
        if number not in used and matter not in SPEAK_OF_ALL
        and not any(abs(index - place) <= 1 for place in places if index != -1)
        and not (matter is Matter.HESITATION and any(name.startswith("half") for name, _ in planted))
    ]  # fmt: skip
    return planted, found, invented


def main() -> None:
    first = int(sys.argv[1]) if len(sys.argv) > 1 else int(time.time()) % 10**6 * 1000
    count = int(sys.argv[2]) if len(sys.argv) > 2 else TAKES
    lines = [
        "# Planted takes", "",
        f"Made by `./dev bench planted_takes`: {count} takes a sound, seeds from {first} on, one to three faults",
        "planted in each; a fault counts as found where the report names its kind at its note or the next. Invented:",
        "what is named and was not planted, a take. Asked: found .95, invented .03.", "",
        "| sound | found | invented a take | " + " | ".join(fault.name for fault in FAULTS) + " |",
        "| --- | --- | --- |" + " --- |" * len(FAULTS),
    ]  # fmt: skip
    for sound in SOUNDS:
        planted, found, invented = Counter[str](), Counter[str](), Counter[str]()
        for seed in range(first, first + count):
            was, right, wrong = one_take(seed, sound)
            planted.update(name for name, _ in was)
            found.update(name for name, _ in right)
            invented.update(wrong)
        cells = " | ".join(f"{found[fault.name]} of {planted[fault.name]}" for fault in FAULTS)
        share, extra = found.total() / max(1, planted.total()), invented.total() / count
        lines.append(f"| {sound} | {share:.2f} | {extra:.2f} | {cells} |")
        print(lines[-1], dict(invented), flush=True)
    PAGE.write_text("\n".join([*lines, ""]), "utf-8")


if __name__ == "__main__":
    main()
