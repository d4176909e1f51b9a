"""How well and how fast a recording is heard: `./dev bench hearing`; writes docs/benchmarks/hearing.md.

With `--cases DIR` solos of other hands instead: see `other_hands`.

Seeded solos played by a sampled guitar, alone and in a stereo band, are drafted by Notcher and followed by librosa's
pYIN with a plain segmentation, both scored by mir_eval in one run. Seeds from 100 on are set aside: nothing is tuned
on them; what the small networks learned from are other seeds again.
"""

from __future__ import annotations

import argparse
import itertools
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from pathlib import Path

import librosa
import mir_eval
import numpy as np
from matplotlib.figure import Figure

import other_hands
from band import with_band
from effects import distorted, reverberant
from lead_cases import (
    CLEAN,
    JAZZ,
    ONE_STRING,
    OTHER_SOUNDFONT,
    OVERDRIVEN,
    TWO_STRINGS,
    VOCABULARY,
    Case,
    make_case,
    render_case,
)
from notcher.core.hearing import RATE, draft
from notcher.core.score import Note, Score, Tone, midi_to_hz, techniques
from notcher.core.sound import Clip, focused, resampled, write_clip

FOLDER = Path(__file__).parents[1] / "docs" / "benchmarks"
TUNED, SET_ASIDE = range(0, 6), range(100, 106)
TECHNIQUES = ("bend", "prebend", "release", "vibrato", "slide", "hammer", "pull", "tap", "palm_mute")
ALL_TECHNIQUES = (
    *TECHNIQUES,
    *("curl", "dip", "dive", "trill", "staccato", "choked", "dead", "natural_harmonic", "squeal_harmonic", "rake"),
    *("swell", "slide_in", "slide_out", "double_stop", "unison_bend", "oblique_bend"),
)
CERTAINTIES = (0.0, 0.3, 0.5, 0.7, 0.8, 0.9, 0.95, 1.01)
LONG_MINUTES = (1, 2, 5, 10)
MEASURED_DRAFT = """
import re, sys
from pathlib import Path
from notcher.cli import main
main(["draft", sys.argv[1], "-o", sys.argv[2], "--quiet"])
print(re.search(r"VmHWM:\\s+(\\d+)", Path("/proc/self/status").read_text())[1])
"""


@dataclass
class Tally:
    """Sums over the cases of one kind."""

    f1: list[float] = field(default_factory=list)
    pitch: list[float] = field(default_factory=list)
    bend_error: list[float] = field(default_factory=list)
    hits: dict[str, list[int]] = field(default_factory=lambda: {name: [0, 0, 0] for name in ALL_TECHNIQUES})
    trust: list[tuple[float, bool]] = field(default_factory=list)
    seconds: float = 0.0
    sound_s: float = 0.0

    def technique_f1(self, name: str) -> float:
        both, added, missed = self.hits[name]
        return 2 * both / (2 * both + added + missed) if both + missed else float("nan")

    @property
    def speed(self) -> float:
        return self.sound_s / self.seconds if self.seconds else float("nan")


def true_pitch(score: Score, times_s: np.ndarray) -> np.ndarray:
    """Hertz of the lead at each time, 0 in rests; a muted note counts for its first tenth of a second."""
    hertz = np.zeros(times_s.size)
    for note in score.notes:
        end_s = min(note.offset_s, note.onset_s + 0.12) if note.tone is Tone.PALM_MUTE else note.offset_s
        inside = (times_s >= note.onset_s) & (times_s < end_s)
        since = times_s[inside] - note.onset_s
        midi = score.fretted_midi(note) + note.curve.at(since)
        if note.vibrato is not None:
            midi = midi + note.vibrato.at(since)
        hertz[inside] = 440 * 2 ** ((midi - 69) / 12)
    return hertz


def raw_pitch_accuracy(score: Score, times_s: np.ndarray, heard_hz: np.ndarray) -> float:
    """mir_eval's raw pitch accuracy at 25 cents."""
    true = true_pitch(score, times_s)
    arrays = mir_eval.melody.to_cent_voicing(times_s, true, times_s, np.nan_to_num(heard_hz))
    return float(mir_eval.melody.raw_pitch_accuracy(*arrays, cent_tolerance=25))


def matched(true: Score, spans: np.ndarray, hertz: np.ndarray) -> list[tuple[int, int]]:
    true_spans = np.array([[note.onset_s, note.offset_s] for note in true.notes])
    true_hertz = np.array([midi_to_hz(true.fretted_midi(note)) for note in true.notes])
    return mir_eval.transcription.match_notes(true_spans, true_hertz, spans, hertz, offset_ratio=None)


def hear(case: Case, clip: Clip, tally: Tally) -> None:
    begun = time.perf_counter()
    heard = draft(clip)
    tally.seconds += time.perf_counter() - begun
    tally.sound_s += clip.duration_s
    score = heard.score
    spans = np.array([[note.onset_s, note.offset_s] for note in score.notes])
    hertz = np.array([midi_to_hz(score.fretted_midi(note)) for note in score.notes])
    pairs = matched(case.score, spans, hertz)
    tally.f1.append(2 * len(pairs) / (len(case.score.notes) + len(score.notes)))
    tally.pitch.append(raw_pitch_accuracy(case.score, heard.track.times_s, heard.track.pitch_hz))
    right = {b for _, b in pairs}
    tally.trust += [(note.certainty, index in right) for index, note in enumerate(score.notes)]
    for a, b in pairs:
        true, found = set(techniques(case.score, a)), set(techniques(score, b))
        for name in ALL_TECHNIQUES:
            tally.hits[name][0] += name in true and name in found
            tally.hits[name][1] += name in found and name not in true
            tally.hits[name][2] += name in true and name not in found
        if "bend" in true & found:
            sizes = [score.notes[i].reading.bend_semitones for score, i in ((case.score, a), (score, b))]
            tally.bend_error.append(abs(sizes[0] - sizes[1]) * 100)


def follow(case: Case, clip: Clip, tally: Tally) -> None:
    """The reference: pYIN on the same middle, a new note wherever the rounded pitch changes or an onset falls."""
    begun = time.perf_counter()
    sound = resampled(focused(clip, "auto"), from_rate=clip.sample_rate, to_rate=RATE)
    hertz, _, _ = librosa.pyin(sound, fmin=60, fmax=1700, sr=RATE, frame_length=2048, hop_length=256)
    onsets = librosa.onset.onset_detect(y=sound, sr=RATE, hop_length=256)
    midi = np.rint(69 + 12 * np.log2(hertz / 440))
    tally.seconds += time.perf_counter() - begun
    tally.sound_s += clip.duration_s
    breaks = np.union1d(np.flatnonzero(~(np.diff(midi) == 0)) + 1, onsets)
    spans, pitches = [], []
    for run in np.split(np.arange(midi.size), breaks):
        if run.size * 256 / RATE >= 0.05 and not np.isnan(midi[run[0]]):
            spans.append([run[0] * 256 / RATE, (run[-1] + 1) * 256 / RATE])
            pitches.append(midi_to_hz(midi[run[0]]))
    pairs = matched(case.score, np.array(spans), np.array(pitches)) if spans else []
    tally.f1.append(2 * len(pairs) / (len(case.score.notes) + len(spans)))
    tally.pitch.append(raw_pitch_accuracy(case.score, np.arange(midi.size) * 256 / RATE, hertz))


def in_band(lead_db: float) -> Callable[[Case], Clip]:
    """A stereo band; every other lead is driven."""

    def sound(case: Case) -> Clip:
        lead = render_case(case, program=CLEAN)
        return with_band(case, distorted(lead) if case.seed % 2 else lead, lead_db=lead_db)

    return sound


KINDS: dict[str, tuple[dict[str, float], Callable[[Case], Clip]]] = {
    "clean": (ONE_STRING, lambda case: render_case(case, program=CLEAN)),
    "dark guitar": (ONE_STRING, lambda case: render_case(case, program=JAZZ)),
    "room": (ONE_STRING, lambda case: reverberant(render_case(case, program=CLEAN))),
    "distorted + delay": (ONE_STRING, lambda case: distorted(render_case(case, program=CLEAN))),
    "band at +6 dB": (ONE_STRING, in_band(6)),
    "band at +3 dB": (ONE_STRING, in_band(3)),
    "band at 0 dB": (ONE_STRING, in_band(0)),
    "two strings": (TWO_STRINGS, lambda case: render_case(case, program=CLEAN)),
    "rarer techniques": (VOCABULARY, lambda case: render_case(case, program=CLEAN)),
}
if OTHER_SOUNDFONT.exists():  # a soundfont that is not needed for anything else: guitars of other makers
    KINDS |= {
        "other guitar": (ONE_STRING, lambda case: render_case(case, program=CLEAN, soundfont=OTHER_SOUNDFONT)),
        "other guitar, driven": (
            ONE_STRING,
            lambda case: render_case(case, program=OVERDRIVEN, soundfont=OTHER_SOUNDFONT),
        ),
    }


def reliability(trust: list[tuple[float, bool]]) -> list[str]:
    """Of the notes marked so sure, how many were right."""
    certainty, right = (np.array(column, dtype=float) for column in zip(*trust, strict=True))
    rows = ["| marked | notes | mean mark | right |", "| --- | --- | --- | --- |"]
    for low, high in itertools.pairwise(CERTAINTIES):
        inside = (certainty >= low) & (certainty < high)
        if inside.any():
            marks = f"{low:.2f}–{min(high, 1):.2f}"
            rows.append(f"| {marks} | {inside.sum()} | {certainty[inside].mean():.2f} | {right[inside].mean():.2f} |")
    return rows


def speed() -> list[str]:
    """Whole drafts and pYIN on the same two sounds, one after another, nothing else running."""
    case = make_case(0)
    alone = render_case(case)
    rows = ["| sound | whole draft | pYIN alone | times as fast |", "| --- | --- | --- | --- |"]
    for name, clip in (("guitar alone", alone), ("stereo mix", with_band(case, alone, lead_db=3))):
        ours, theirs = Tally(), Tally()
        for _ in range(3):
            hear(case, clip, ours)
        follow(case, clip, theirs)
        rows.append(
            f"| {name} | {ours.speed:.0f} × real time | {theirs.speed:.1f} × | {ours.speed / theirs.speed:.0f} |"
        )
        print(rows[-1], flush=True)
    return rows


def offsets() -> tuple[float, float]:
    """Mean and largest error of the cents off concert pitch, over cases detuned by a known amount.

    What the samples themselves lie off is measured by librosa's YIN on single plain notes, and allowed for.
    """
    plain = Case(0, Score(tuple(Note(i, i + 0.8, 2, fret) for i, fret in enumerate(range(3, 16)))))
    sound = render_case(plain)
    heard = librosa.yin(sound.samples[:, 0], fmin=150, fmax=900, sr=sound.sample_rate, hop_length=441)
    own = []
    for i, note in enumerate(plain.score.notes):
        nominal = midi_to_hz(plain.score.fretted_midi(note))
        own.append(1200 * np.log2(np.median(heard[100 * i + 30 : 100 * i + 70]) / nominal))
    errors = []
    for seed, cents in zip(SET_ASIDE, (-40, -23, -8, 8, 23, 40), strict=True):
        case = make_case(seed)
        detuned = replace(case, score=replace(case.score, tuning=replace(case.score.tuning, offset_cents=cents)))
        found = draft(render_case(detuned)).score.tuning.offset_cents
        errors.append(abs(found - cents - float(np.median(own))))
    return float(np.mean(errors)), float(np.max(errors))


def long_recordings() -> list[str]:
    """Seconds and memory of `notcher draft` for long stereo mixes, from start to finish of the process."""
    rows, spent = ["| stereo mix | draft | × real time | most memory |", "| --- | --- | --- | --- |"], []
    with tempfile.TemporaryDirectory() as folder:
        for minutes in LONG_MINUTES:
            case = make_case(100, length_s=60.0 * minutes - 3)
            path = Path(folder) / "long.flac"
            write_clip(with_band(case, render_case(case), lead_db=3), path)
            # the process itself says how much it took: what a parent sees begins with the parent's own memory
            command = [sys.executable, "-c", MEASURED_DRAFT, str(path), f"{folder}/o.json"]
            begun = time.perf_counter()
            told = subprocess.run(command, check=True, capture_output=True, text=True).stdout
            seconds, megabytes = time.perf_counter() - begun, int(told.split()[0]) / 1024
            spent.append(seconds)
            rows.append(f"| {minutes} min | {seconds:.1f} s | {60 * minutes / seconds:.0f} | {megabytes:.0f} MB |")
            print(rows[-1])
    slope = float(np.polyfit(LONG_MINUTES, spent, 1)[0])
    return [
        *rows,
        "",
        f"Each further minute takes {slope:.1f} s, {60 / slope:.0f} × real time; the rest is the start of the process.",
    ]


def plot(figures: dict[str, tuple[float, float, float, float]]) -> None:
    """Note F1 and pitch accuracy of the set-aside cases, ours above pYIN's."""
    figure = Figure(figsize=(9, 3.6))
    axes = figure.subplots(1, 2, sharey=True)
    names = list(figures)[::-1]
    rows = np.arange(len(names))
    for axis, (ours, theirs), title in zip(axes, ((0, 1), (2, 3)), ("note F1", "pitch within 25 cents"), strict=True):
        axis.barh(rows + 0.2, [figures[name][ours] for name in names], 0.38, color="#2a5d67", label="Notcher")
        axis.barh(
            rows - 0.2, [figures[name][theirs] for name in names], 0.38, color="#b9b2a3", label="pYIN, plainly cut"
        )
        axis.set_yticks(rows, names)
        axis.set_xlim(0, 1)
        axis.set_title(title, fontsize=10)
    axes[0].legend(loc="lower left", fontsize=8)
    figure.tight_layout()
    figure.savefig(FOLDER / "hearing.png", dpi=110)


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--seeds", type=int, default=6, help="cases of each part, at most 6")
    parser.add_argument("--cases", type=Path, metavar="DIR", help="NAME.wav with NAME.truth.json, by other hands")
    parser.add_argument("--quick", action="store_true", help="without pYIN and the long recordings; writes nothing")
    parser.add_argument("--kinds", help="only kinds that contain this")
    options = parser.parse_args()
    if options.cases is not None:
        other_hands.main(options.cases)
        return
    lines = [
        "# Hearing",
        "",
        "Made by `./dev bench hearing`. Seeded solos through a sampled guitar (General MIDI soundfont), scored by",
        "mir_eval: note F1 (onset 50 ms, fretted pitch), raw pitch accuracy at 25 cents. Seeds 0-5 were looked at",
        "while tuning, 100-105 never; the small networks were taught on other seeds by `./dev train`. pYIN is",
        "librosa's, with a plain segmentation, on the same focused sound and in the same run (one case of each part).",
        "TimGM6mb, which plays most of these cases, is left out of all teaching, so it is a foreign sound here too.",
        "What counts is what is reached on somebody else's material: [other hands](hearing-other-hands.md), and of",
        "makers and composers left out of the teaching: [left-out.md](left-out.md).",
        "",
        "![note F1 and pitch accuracy, set-aside cases](hearing.png)",
        "",
        "| sound | part | note F1 | pYIN's | pitch within 25 cents | pYIN's | bend error, median | technique F1 |",
        "| --- | --- | --- | --- | --- | --- | --- | --- |",
    ]
    details, trust, figures = [], [], {}
    speeds = [] if options.quick else speed()
    for kind, (licks, sound) in KINDS.items():
        if options.kinds and options.kinds not in kind:
            continue
        for part, seeds in (("tuned on", TUNED), ("set aside", SET_ASIDE)):
            ours, theirs = Tally(), Tally()
            for seed in list(seeds)[: options.seeds]:
                case = make_case(seed, licks=licks)
                clip = sound(case)
                hear(case, clip, ours)
                if seed % 100 == 0 and not options.quick:  # pYIN is slow: one case will do
                    follow(case, clip, theirs)
            known = [f for f in (ours.technique_f1(name) for name in TECHNIQUES) if not np.isnan(f)]
            theirs_f1, theirs_pitch = (float(np.mean(v)) if v else float("nan") for v in (theirs.f1, theirs.pitch))
            lines.append(
                f"| {kind} | {part} | {np.mean(ours.f1):.3f} | {theirs_f1:.3f} | {np.mean(ours.pitch):.3f} "
                f"| {theirs_pitch:.3f} | {np.median(ours.bend_error or [np.nan]):.1f} cents | {np.mean(known):.2f} |"
            )
            print(lines[-1], flush=True)
            details.append(
                f"| {kind} | {part} | "
                + ", ".join(
                    f"{name.replace('_', ' ')} {ours.technique_f1(name):.2f}"
                    for name in ALL_TECHNIQUES
                    if not np.isnan(ours.technique_f1(name))
                )
                + " |"
            )
            if options.quick:
                print(details[-1], f"{ours.speed:.0f}x", flush=True)
            if part == "set aside":
                trust += ours.trust
                figures[kind] = (float(np.mean(ours.f1)), theirs_f1, float(np.mean(ours.pitch)), theirs_pitch)
    table = reliability(trust)
    if options.quick:
        print("\n".join(table))
        return
    mean_error, largest_error = offsets()
    lines += [
        "",
        "## Speed",
        "",
        "Decoding to events, 40 s of sound, on two cores, beside pYIN on the same sound in the same run.",
        "",
        *speeds,
        "",
        f"Cents off concert pitch, six set-aside cases detuned by 8 to 40 cents: {mean_error:.1f} cents mean error, "
        f"{largest_error:.1f} at most.",
        "",
        "## Long recordings",
        "",
        *long_recordings(),
        "",
        "## How far the marks can be trusted",
        "",
        "Of the notes of the set-aside cases marked so sure, the share that matches a true note (onset 50 ms, pitch).",
        "",
        *table,
        "",
        "## Techniques",
        "",
        "F1 over notes that both have.",
        "",
        "| sound | part | F1 |",
        "| --- | --- | --- |",
        *details,
        "",
    ]
    plot(figures)
    FOLDER.mkdir(parents=True, exist_ok=True)
    (FOLDER / "hearing.md").write_text("\n".join(lines), "utf-8")


if __name__ == "__main__":
    main()
