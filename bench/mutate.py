"""Whether a mutation hurts: faults planted in `core`, and the tests nearest to each: `./dev mutate [ROOM]`.

Writes docs/benchmarks/mutants.md. Which tests run a line, and how long each takes, is measured once by coverage.py with
a context for each test; a fault is shown to those that run its line, the quickest first, at last to those that hold all
that comes out. They may fail or take far too long: then it is dead.
"""

from __future__ import annotations

import argparse
import hashlib
import json
import os
import re
import shutil
import signal
import sqlite3
import subprocess
import sys
import tempfile
import time
from collections import Counter
from collections.abc import Iterable
from concurrent.futures import ThreadPoolExecutor
from contextlib import closing
from dataclasses import dataclass, field
from pathlib import Path
from xml.etree import ElementTree

from coverage.numbits import numbits_to_nums

from mutants import Mutant, sampled

HERE = Path(__file__).parents[1]
CORE, KEPT = HERE / "src" / "notcher" / "core", HERE / "build" / "mutants"
PAGE, EQUIVALENT = HERE / "docs" / "benchmarks" / "mutants.md", HERE / "bench" / "equivalent_mutants.txt"
OUTSIDE = ("tests/ui", "tests/devices", "tests/test_desktop.py", "tests/test_installed.py", "tests/test_outside.py")
"""Tests that are far from core, or look at files and not at what they do."""
MOST_TESTS, MOST_S, SLOWEST = 400, 40.0, 4.0  # of a fault; times as long as they take without it
FEW = 20  # that run most of a constant's file, before all others of its room
WHOLE, MOST_WHOLE = "test_as_before", 2  # the tests that hold all that comes out; so many are asked
WANTED = 0.85
ROOT_TEST = "tests"


@dataclass
class Nearest:
    """Which tests run a line, and how long each takes. share: of the lines of core that any test runs."""

    tests: dict[tuple[str, int], set[str]] = field(default_factory=dict)
    seconds: dict[str, float] = field(default_factory=dict)
    share: float = 0.0

    def _quickest_first(self, tests: Iterable[str]) -> list[str]:
        return sorted(tests, key=lambda test: self.seconds.get(test, 1.0))

    def _of_most(self, part: str) -> list[str]:
        """The tests that run most lines of a file or folder for their time."""
        count = Counter(test for (file, _), ran in self.tests.items() if file.startswith(part) for test in ran)
        return sorted(count, key=lambda test: -count[test] / (0.2 + self.seconds.get(test, 1.0)))

    def of(self, mutant: Mutant) -> list[str]:
        """The tests that run a fault's line, the quickest first, then those that hold all that comes out."""
        name = mutant.file.relative_to(HERE).as_posix()
        tests = self._quickest_first(self.tests.get((name, mutant.line), ()))
        if tests:
            whole = [test for test in self.seconds if WHOLE in test and test in tests]  # as the work flows
        else:  # a constant is read when its file is imported: its own tests, and whoever runs most of the file
            room = Path(name).parts[3]
            own = self._quickest_first(test for test in self.seconds if test.startswith(f"tests/{room}/"))
            named = [test for test in own if test.startswith(f"tests/{room}/test_{Path(name).stem}.py")]
            most = self._of_most(name) or self._of_most(name.rpartition("/")[0])
            tests = list(dict.fromkeys([*named, *most[:FEW], *own]))
            whole = [test for test in tests if WHOLE in test]
        chosen, spent_s = [], 0.0
        for test in [test for test in tests if WHOLE not in test][:MOST_TESTS]:
            spent_s += self.seconds.get(test, 1.0)
            if chosen and spent_s > MOST_S:
                break
            chosen.append(test)
        return chosen + whole[:MOST_WHOLE]


def measured() -> Nearest:
    """Return what is measured of the tests of core, kept as long as neither they nor core change."""
    stamp = hashlib.sha256()
    for file in sorted([*CORE.rglob("*.py"), *(HERE / ROOT_TEST).rglob("*.py")]):
        stamp.update(file.read_bytes())
    stamped = KEPT / "stamp"
    if not stamped.exists() or stamped.read_text() != stamp.hexdigest():
        shutil.rmtree(KEPT, ignore_errors=True)
        KEPT.mkdir(parents=True)
        left_out = [f"--ignore={name}" for name in OUTSIDE]
        words = ["-q", "-n", "auto", "--dist", "loadfile", "--cov=notcher.core", "--cov-context=test",
                 "--cov-report=", f"--junitxml={KEPT / 'times.xml'}", *left_out, ROOT_TEST]  # fmt: skip
        surroundings = {**os.environ, "COVERAGE_FILE": str(KEPT / "coverage")}
        subprocess.run([sys.executable, "-m", "pytest", *words], cwd=HERE, env=surroundings, check=False)
        stamped.write_text(stamp.hexdigest())
    return _read()


def _read() -> Nearest:
    nearest = Nearest()
    with closing(sqlite3.connect(KEPT / "coverage")) as store:
        files = {number: _short(path) for number, path in store.execute("SELECT id, path FROM file")}
        contexts = dict(store.execute("SELECT id, context FROM context"))
        for file, context, bits in store.execute("SELECT file_id, context_id, numbits FROM line_bits"):
            test = contexts[context].partition("|")[0]
            for line in numbits_to_nums(bits):
                nearest.tests.setdefault((files[file], line), set()).update({test} if test else ())
    for case in ElementTree.parse(KEPT / "times.xml").iter("testcase"):
        path = case.get("classname", "").replace(".", "/")
        nearest.seconds[f"{path}.py::{case.get('name')}"] = float(case.get("time", 0.0))
    run = subprocess.run(
        [sys.executable, "-m", "coverage", "report", "--format=total", "--precision=1"],
        cwd=HERE, env={**os.environ, "COVERAGE_FILE": str(KEPT / "coverage")}, capture_output=True, text=True,
        check=False,
    )  # fmt: skip
    nearest.share = float(run.stdout.strip() or 0) / 100
    return nearest


def _short(path: str) -> str:
    return "src/" + path.partition("/src/")[2]


@dataclass(frozen=True)
class Fate:
    """What became of a fault. how: killed, out of time, survived, or not run by any test."""

    mutant: Mutant
    how: str
    tests: int = 0
    equivalent: str = ""

    @property
    def dead(self) -> bool:
        return self.how in ("killed", "out of time")


def fate_of(mutant: Mutant, nearest: Nearest, folder: Path) -> Fate:
    """Plant a fault in a copy of the source and run the tests nearest to it."""
    tests = nearest.of(mutant)
    if not tests:
        return Fate(mutant, "not run by any test")
    copy = Path(tempfile.mkdtemp(dir=folder))
    shutil.copytree(HERE / "src", copy / "src", copy_function=os.link, ignore=shutil.ignore_patterns("__pycache__"))
    planted = copy / mutant.file.relative_to(HERE)
    text = mutant.applied(mutant.file.read_text("utf-8"))
    planted.unlink()
    planted.write_text(text, "utf-8")
    longest_s = 15.0 + SLOWEST * sum(nearest.seconds.get(test, 1.0) for test in tests)
    surroundings = {**os.environ, "PYTHONPATH": str(copy / "src"), "PYTHONDONTWRITEBYTECODE": "1"}
    words = [sys.executable, "-m", "pytest", "-x", "-q", "-p", "no:randomly", "--no-header", *tests]
    process = subprocess.Popen(
        words, cwd=HERE, env=surroundings, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True,
        start_new_session=True,
    )  # fmt: skip
    try:
        said, _ = process.communicate(timeout=longest_s)
    except subprocess.TimeoutExpired:
        os.killpg(process.pid, signal.SIGKILL)
        process.communicate()
        return Fate(mutant, "out of time", len(tests))
    finally:
        shutil.rmtree(copy, ignore_errors=True)
    if process.returncode in (0, 5):
        return Fate(mutant, "survived", len(tests))
    if process.returncode == 4 and "not found: " in said:
        return Fate(mutant, "could not be tried", len(tests))
    return Fate(mutant, "killed", len(tests))


def excused() -> dict[str, str]:
    """What was read and found to change nothing that can be noticed: each fault's name, and why."""
    found = {}
    for line in EQUIVALENT.read_text("utf-8").splitlines() if EQUIVALENT.exists() else ():
        if line.strip() and not line.startswith("#"):
            name, _, why = line.partition(" :: ")
            found[name.strip()] = why.strip()
    return found


def name_of(mutant: Mutant) -> str:
    """A fault by its file, its line's text and what it does, so that other lines may move."""
    return f"{mutant.file.relative_to(CORE).as_posix()}: {mutant} in `{mutant.code}`"


def page(fates: list[Fate], nearest: Nearest, *, seed: int, room: str, seconds: float | None) -> str:
    """Return the page of a run. seconds: that it took, if it was a whole one."""
    counted = [fate for fate in fates if not fate.equivalent]
    dead = sum(fate.dead for fate in counted)
    took = "" if seconds is None else f"; {seconds / 60:.0f} minutes"
    rooms: dict[str, Counter[bool]] = {}
    for fate in counted:
        rooms.setdefault(fate.mutant.file.relative_to(CORE).parts[0], Counter())[fate.dead] += 1
    lines = [
        "# Whether a mutation hurts",
        "",
        f"Made by `./dev mutate{f' {room}' if room else ''} --count {len(fates)} --seed {seed}`: small faults planted "
        "one at a time, each shown to the tests that run its line (coverage.py, a context for each test), the quickest "
        f"first, {MOST_S:.0f} s of them at most, and {MOST_WHOLE} of those that hold all that comes "
        "out; the tests that need a window are left out. Operators: comparisons, "
        "arithmetic, and/or, not, numbers, least/most, conditions, returns, calls.",
        "",
        f"**{dead} of {len(counted)} die: {dead / max(1, len(counted)):.0%}** (asked {WANTED:.0%}); "
        f"{len(fates) - len(counted)} more were read and change nothing that can be noticed. These tests run "
        f"{nearest.share:.1%} of the lines of core{took}. Where the survivors of a seed were read, it flatters: "
        "another seed says what the tests are worth.",
        "",
        "| room | planted | dead | |",
        "| --- | --- | --- | --- |",
        *(f"| {name} | {sum(counts.values())} | {counts[True]} | {counts[True] / sum(counts.values()):.0%} |"
          for name, counts in sorted(rooms.items())),
        "",
        "## What survived",
        "",
        *(f"- {name_of(fate.mutant)} (line {fate.mutant.line}; {fate.how}, {fate.tests} tests)"
          for fate in counted if not fate.dead),
        "",
        "## Read, and no fault",
        "",
        *(f"- {name_of(fate.mutant)}: {fate.equivalent}" for fate in fates if fate.equivalent),
        "",
    ]  # fmt: skip
    return "\n".join(lines)


def main() -> int:
    words = argparse.ArgumentParser(prog="./dev mutate", description=__doc__)
    words.add_argument("room", nargs="?", default="", help="of core; all of it where nothing is said")
    words.add_argument("--count", type=int, default=200)
    words.add_argument("--seed", type=int, default=1)
    words.add_argument(
        "--again", action="store_true", help="take what died in an earlier run as dead, and what is excused as read"
    )
    words.add_argument("--jobs", type=int, default=os.cpu_count() or 1)
    options = words.parse_args()
    files = [file for file in (CORE / options.room).rglob("*.py") if "migrations" not in file.parts]
    if not files:
        print(f"There is no room {options.room!r} in core.", file=sys.stderr)
        return 2
    nearest, excuses, begun = measured(), excused(), time.monotonic()
    fates_file = KEPT / "fates.json"
    dead = set(json.loads(fates_file.read_text("utf-8"))) if options.again and fates_file.exists() else set()
    mutants = sampled(files, options.count, options.seed)
    fates: list[Fate] = []
    KEPT.mkdir(parents=True, exist_ok=True)
    with ThreadPoolExecutor(options.jobs) as pool, tempfile.TemporaryDirectory(dir=HERE / "build") as folder:

        def tried(mutant: Mutant) -> Fate:
            if f"{name_of(mutant)}:{mutant.line}" in dead:
                return Fate(mutant, "killed")
            if options.again and name_of(mutant) in excuses:
                return Fate(mutant, "survived")
            return fate_of(mutant, nearest, Path(folder))

        for fate in pool.map(tried, mutants):
            why = "" if fate.dead else excuses.get(name_of(fate.mutant), "")
            fates.append(Fate(fate.mutant, fate.how, fate.tests, why))
            print(f"{len(fates):4} {fate.how:12} {name_of(fate.mutant)}:{fate.mutant.line}", flush=True)
    dead |= {f"{name_of(fate.mutant)}:{fate.mutant.line}" for fate in fates if fate.dead}
    fates_file.write_text(json.dumps(sorted(dead), indent=0), "utf-8")
    seconds = None if options.again else time.monotonic() - begun
    text = page(fates, nearest, seed=options.seed, room=options.room, seconds=seconds)
    if not options.room:
        PAGE.write_text(text, "utf-8")
    share = re.search(r"\*\*(.*?)\*\*", text)
    print(share[1] if share else "")
    return 0


if __name__ == "__main__":
    sys.exit(main())
