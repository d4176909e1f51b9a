"""Whether Notcher keeps working: kills, damaged files, full disks, lost devices and displays, hours of looping, random
acts.

./dev bench endure [PART ...] [--seed N] [--small]

Parts: kills, files, troubles, ledger, strangers, clock, server, acts; all by default. Each writes its section of
docs/benchmarks/endure.md.
"""

from __future__ import annotations

import argparse
import json
import os
import re
import subprocess
import sys
import tempfile
import time
from collections import Counter
from collections.abc import Callable
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import numpy as np

PAGE = Path(__file__).parents[1] / "docs" / "benchmarks" / "endure.md"
HEAD = """# What Notcher endures

`./dev bench endure`. Each part is seeded and drives the program as a person does: keys, clicks and files that are
delivered. "Wrong" counts what may not be: a traceback, a damaged file, a record or an older edit that is gone.
"""
ACTS_IN_A_WALK = 1_000
Section = tuple[str, int]
"""A part's lines, and how much was wrong."""


def kills(seed: int, small: bool) -> Section:
    """Kill the program at random moments."""
    import endure_kills

    with tempfile.TemporaryDirectory() as folder:
        told = endure_kills.kills(Path(folder), seed=seed, count=20 if small else 200)
    lost = np.array(told.lost_s or [0.0])
    cut = np.array(told.takes_lost_s or [0.0])
    at = ", ".join(f"{count} while {what}" for what, count in sorted(told.kills.items()))
    lines = [
        f"{told.kills.total()} kills (SIGKILL) at a random moment within five seconds of work: {at}. Every life",
        "goes on where the one before was cut off; half of the solos have a file of their own, half were never saved.",
        "",
        "| | |",
        "| --- | --- |",
        f"| the next start offered unsaved work / opened the file | "
        f"{told.opened['unsaved work']} / {told.opened['file']} |",
        f"| lives whose last edit came back | {told.kills.total() - len(told.lost_s)} |",
        f"| lives that lost edits; the oldest edit lost | {len(told.lost_s)}; {lost.max():.2f} s old (2 s) |",
        f"| rows of the ledger seen in the window / gone / oldest of these | "
        f"{told.rows} / {len(told.rows_lost_s)} / {max(told.rows_lost_s, default=0.0):.2f} s |",
        f"| takes cut off / the most that was cut away | {told.takes_cut} / {cut.max():.2f} s |",
        f"| saves in these lives; files damaged | {told.saves}; {told.files_lost} |",
        f"| wrong | {len(told.faults)} |",
        "",
        *(f"- {fault}" for fault in told.faults[:20]),
    ]
    return "\n".join(lines), len(told.faults)


def files(seed: int, small: bool) -> Section:
    """Damage files of every kind and read them."""
    import mutations_bench

    begun = time.monotonic()
    totals, bad = mutations_bench.damage(seed, 10_000 if small else 100_000)
    whole = mutations_bench.write_page(totals, bad, seed, time.monotonic() - begun)
    wrong = sum(whole[word] for word in mutations_bench.WRONG)
    lines = [
        f"{whole.total()} damaged files of {len(totals)} kinds, each read by what reads it: {whole['read']} are read,",
        f"{whole['refused']} refused in one sentence, {wrong} anything else. By kind: [mutations.md](mutations.md).",
        "",
        f"Wrong: {wrong}",
    ]
    return "\n".join(lines), wrong


def troubles(_seed: int, _small: bool) -> Section:
    """What happens to computers."""
    import endure_troubles

    lines, wrong = ["| what happens | holds | what is said |", "| --- | --- | --- |"], 0
    with tempfile.TemporaryDirectory() as folder:
        for name, (what, _meet) in endure_troubles.TROUBLES.items():
            held, said = endure_troubles.meet(name, Path(folder) / name)
            wrong += not held
            lines.append(f"| {what} | {'yes' if held else '**no**'} | {'<br>'.join(dict.fromkeys(said))} |")
            print(lines[-1], flush=True)
    lines += [
        "",
        "Held each time: a sentence is said, what lay on the disk is as it was, nothing half-written is left, the work",
        "goes on, and once the trouble is over everything is written. Disks are small file systems of the bench's own,",
        "filled, closed for writing, or with files that may not grow.",
        "",
        f"Wrong: {wrong}",
    ]
    return "\n".join(lines), wrong


def ledger(seed: int, small: bool) -> Section:
    """Cut the ledger off while it is made, brought up to a later version, or copied."""
    import endure_ledger

    with tempfile.TemporaryDirectory() as folder:
        counts, faults = endure_ledger.cut(Path(folder), cuts=20 if small else 200, seed=seed)
    lines = [
        f"{counts.total()} cuts at a random instant, three in four by a kill, the others by files that may not grow:",
        "",
        "| what was cut | times |",
        "| --- | --- |",
        *(f"| {what} | {count} |" for what, count in sorted(counts.items())),
        "",
        f"Refused afterwards, unable to keep a row, or with a copy that does not open: {len(faults)} (0).",
        "",
        f"Wrong: {len(faults)}",
        "",
        *(f"- {fault}" for fault in faults[:20]),
    ]
    return "\n".join(lines), len(faults)


def strangers(_seed: int, small: bool) -> Section:
    """Read small files that unfold into much, and files of very many notes; walk the tests of wicked text and links."""
    import endure_strangers

    names = ("blanks.notch", "lists.notch") if small else ()
    with tempfile.TemporaryDirectory() as folder:
        paths = endure_strangers.bombs(Path(folder), *names)
        for count in (20_000, 100_000):
            paths += endure_strangers.many_notes(Path(folder), count)
        outcomes = [endure_strangers.outcome(path) for path in paths]
    command = [sys.executable, "-m", "pytest", "-q", "-n0", *(str(TESTS / name) for name in MANNERS)]
    walked = subprocess.run(command, capture_output=True, text=True, check=False)
    wrong = sum(not told.bounded for told in outcomes) + bool(walked.returncode)
    lines = [
        f"Each is read by what reads it, in a process of its own: at most {endure_strangers.MOST_MB} MB and",
        f"{endure_strangers.MOST_S:.0f} s, whatever it holds.",
        "",
        "| file | bytes | MB held | seconds | what is said |",
        "| --- | ---: | ---: | ---: | --- |",
        *(f"| {told.name} | {told.size} | {told.mb:.0f} | {told.seconds:.1f} | {told.words} |" for told in outcomes),
        "",
        "One wicked title, name and remark through every view, file and page; ids that are paths; links, masks, owners",
        f"and leftovers of a killed save: {walked.stdout.strip().splitlines()[-1]} (`tests/strangers`,",
        "`tests/formats/test_manners.py`).",
        "",
        f"Wrong: {wrong}",
    ]
    return "\n".join(lines), wrong


TESTS = Path(__file__).parents[1] / "tests"
MANNERS = ("strangers", "formats/test_manners.py")


def clock(seed: int, small: bool) -> Section:
    """Hours of looping on a simulated clock."""
    import endure_loops

    looped = endure_loops.on_a_simulated_clock(0.3 if small else 4.0, seed)
    wrong = (looped.gaps > 0) + (looped.growth_mb >= 10) + (looped.off_s >= 2)
    lines = [
        f"{looped.seconds / 3600:.1f} hours of looping on a clock that goes on when it is told to, through the",
        f"player: {looped.rounds} rounds, {looped.changes} changes of pace, another stretch every ten minutes. Gaps",
        f"(20 ms without sound): {looped.gaps} (0). Memory held grew by {looped.growth_mb:.1f} MB after the first",
        f"half hour (10). Rounds counted and rounds due differ by {looped.off_s:.2f} a minute at most,",
        "the one that is cut included.",
        "",
        f"Wrong: {wrong}",
    ]
    return "\n".join(lines), wrong


def server(_seed: int, small: bool) -> Section:
    """Minutes of looping through a real sound server."""
    import endure_loops

    with tempfile.TemporaryDirectory() as folder:
        looped = endure_loops.through_a_server(Path(folder), 1.0 if small else 10.0)
    grew = looped.growth_mb
    wrong = (looped.gaps > 0) + (grew >= 10 and not small)
    lines = [
        f"{looped.seconds / 60:.1f} minutes through a sound server with a silent sink, recorded behind it:",
        f"{looped.rounds} rounds, {looped.changes} changes of pace. Gaps: {looped.gaps} (0). Memory held grew by",
        f"{grew:.1f} MB once every pace had been heard (10).",
        "",
        f"Wrong: {wrong}",
    ]
    return "\n".join(lines), wrong


def acts(seed: int, small: bool) -> Section:
    """Random acts in a real window, in walks of their own side by side."""
    walks = range(seed * 10, seed * 10 + (1 if small else 5))
    started = []
    with tempfile.TemporaryDirectory() as folder:
        told = []
        waiting = list(walks)
        while waiting or started:
            while waiting and len(started) < (os.cpu_count() or 1):
                walk = waiting.pop(0)
                inside = f"openbox & exec {sys.executable} {__file__} --walk {walk} --folder {folder}/{walk}"
                command = ["xvfb-run", "-a", "-s", "-screen 0 1920x1080x24", "sh", "-c", inside]
                home = {**os.environ, "QT_QPA_PLATFORM": "xcb"}
                with (Path(folder) / f"{walk}.txt").open("wb") as out:
                    started.append((walk, subprocess.Popen(command, env=home, stdout=out, stderr=out)))
            time.sleep(0.5)
            for walk, process in list(started):
                if process.poll() is not None:
                    started.remove((walk, process))
                    text = (Path(folder) / f"{walk}.txt").read_text("utf-8", errors="replace")
                    found = re.findall(r"^walked (\{.*\})$", text, re.MULTILINE)
                    told.append(json.loads(found[-1]) if found else {"faults": [f"walk {walk} ended: {text[-600:]}"]})
                    print(f"walk {walk}: {told[-1]['faults'] or 'nothing wrong'}", flush=True)
    kinds: Counter[str] = sum((Counter(one.get("kinds", {})) for one in told), Counter())
    stretches = [stretch for one in told for stretch in one.get("stretches", [])]
    faults = [fault for one in told for fault in one["faults"]]
    longest = max(((one.get("longest_ms", 0.0), one.get("slowest", "")) for one in told), default=(0.0, ""))
    back, again = sum(s[1] for s in stretches), sum(s[2] for s in stretches)
    wrong = len(faults) + 2 * len(stretches) - back - again
    lines = [
        f"{kinds.total()} random acts by delivered events in a real window (Xvfb, a window manager), in {len(told)}",
        "walks: " + ", ".join(f"{count} × {kind}" for kind, count in kinds.most_common()) + ";",
        f"{sum(one.get('asked', 0) for one in told)} answers to what was asked,"
        f" {sum(one.get('changed', 0) for one in told)} changes of the solo, each checked.",
        "",
        f"Exceptions, faults in the log, warnings of the toolkit, invalid scores: {len(faults)} (0). All undone",
        f"by its key after every 500 acts, {len(stretches)} times, {sum(s[0] for s in stretches)} steps: the",
        f"start came back {back} times, and all done again gave the end {again} times. Until the window",
        "had dealt with an act: "
        f"{np.median([one['median_ms'] for one in told if 'median_ms' in one]):.0f} ms in the middle,"
        f" {longest[0]:.0f} ms at most ({longest[1]}; two walks side by side).",
        "",
        f"Wrong: {wrong}",
        "",
        *(f"- {fault[:200]}" for fault in faults[:20]),
    ]
    return "\n".join(lines), wrong


def walk(seed: int, folder: Path) -> None:
    """One walk, in this process; its outcome is printed."""
    from endure_acts import random_acts

    folder.mkdir(parents=True, exist_ok=True)
    os.chdir(folder)
    told = random_acts(folder, seed=seed, acts=ACTS_IN_A_WALK)
    took_ms = 1000 * np.array(told.took_s)
    outcome = {
        "kinds": told.kinds, "faults": told.faults, "stretches": told.stretches, "asked": told.asked,
        "changed": told.changed, "median_ms": float(np.median(took_ms)), "longest_ms": float(took_ms.max()),
        "slowest": told.slowest[1],
    }  # fmt: skip
    print("walked " + json.dumps(outcome), flush=True)


PARTS: dict[str, tuple[str, Callable[[int, bool], Section]]] = {
    "kills": ("Killed", kills),
    "files": ("Damaged files", files),
    "troubles": ("Disks, files, clocks, devices, displays", troubles),
    "ledger": ("The ledger cut off", ledger),
    "strangers": ("Files of strangers", strangers),
    "clock": ("Four hours of looping", clock),
    "server": ("Ten minutes on a sound server", server),
    "acts": ("Random acts", acts),
}


def written(sections: dict[str, str]) -> None:
    """Put sections into the page, beside those of other runs."""
    text = PAGE.read_text("utf-8") if PAGE.exists() else ""
    found = dict(re.findall(r"^## ([^\n]+)\n\n(.*?)(?=^## |\Z)", text, re.MULTILINE | re.DOTALL))
    found |= sections
    parts = [f"## {title}\n\n{found[title].strip()}\n" for title, _part in PARTS.values() if title in found]
    PAGE.write_text("\n".join([HEAD, *parts]), "utf-8")


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("parts", nargs="*", metavar="PART", choices=[*PARTS, []])
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--small", action="store_true", help="a tenth of everything, to try it out")
    parser.add_argument("--walk", type=int, help=argparse.SUPPRESS)
    parser.add_argument("--folder", type=Path, help=argparse.SUPPRESS)
    options = parser.parse_args()
    if options.walk is not None:
        walk(options.walk, options.folder)
        return 0
    wrong = 0
    for name in options.parts or PARTS:
        title, part = PARTS[name]
        print(f"## {title}", flush=True)
        section, amiss = part(options.seed, options.small)
        print(section, flush=True)
        wrong += amiss
        if not options.small:
            written({title: section})
    return 1 if wrong else 0


if __name__ == "__main__":
    sys.exit(main())
