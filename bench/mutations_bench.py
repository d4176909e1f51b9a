"""Damaged files by the ten thousand: each is read, or refused in one sentence; nothing else may come out of a reader.

./dev bench mutations [--count N] [--seed N]
"""

import argparse
import contextlib
import faulthandler
import os
import resource
import sys
import tempfile
import time
from collections import Counter
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

import numpy as np

from mutations import mutated, targets
from notcher.core.errors import NotcherError
from notcher.core.formats import Document, read_document, write_document
from notcher.core.formats.exports import EXPORTS
from notcher.core.sheets import PageMaker

HERE = Path(__file__).parents[1]
OUT = HERE / "docs" / "benchmarks" / "mutations.md"
MOST_MEMORY = 6 * 2**30
SLOW_S, STUCK_S = 5.0, 900
WRONG = ("escaped", "slow", "not the same again")
"""What must not come of a damaged file."""


def run(seed: int, count: int) -> tuple[dict[str, Counter[str]], list[str]]:
    """Damage and read; return by kind of file how often what came of it, and what should not have."""
    resource.setrlimit(resource.RLIMIT_AS, (MOST_MEMORY, MOST_MEMORY))
    faulthandler.dump_traceback_later(STUCK_S, exit=True)  # a reader that never ends ends the bench, and says where
    dice, outcomes, bad = np.random.default_rng(seed), {}, []
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        kinds = targets(folder)
        for number in range(count):
            target = kinds[number % len(kinds)]
            path = folder / f"b.{target.ending}"
            path.write_bytes(mutated(target, dice))
            begun = time.monotonic()
            try:
                result = target.read(path)
                outcome = "read"
                if isinstance(result, Document) and (
                    number % 5 == 0 or target.schema
                ):  # what was read can be saved and read again
                    write_document(result, folder / "c.notch")
                    if read_document(folder / "c.notch").score != result.score:
                        outcome = "not the same again"
                    for export in EXPORTS.values():
                        with contextlib.suppress(NotcherError):
                            export.made(result.score, result.track)
                    if target.schema:
                        PageMaker().pages(result.score)
            except NotcherError:
                outcome = "refused"
            except BaseException as problem:
                outcome = "escaped"
                bad.append(f"seed {seed}, number {number}, {target.name}: {type(problem).__name__}: {problem}"[:300])
            if time.monotonic() - begun > SLOW_S:
                outcome = "slow"
                bad.append(f"seed {seed}, number {number}, {target.name}: {time.monotonic() - begun:.0f} s")
            outcomes.setdefault(target.name, Counter())[outcome] += 1
    return outcomes, bad


def damage(seed: int, count: int) -> tuple[dict[str, Counter[str]], list[str]]:
    """Damage and read on all cores; see `run`."""
    workers = os.cpu_count() or 1
    seeds = range(seed * 1000, seed * 1000 + workers * 8)
    totals: dict[str, Counter[str]] = {}
    bad: list[str] = []
    with ProcessPoolExecutor(workers) as pool:
        for outcomes, found in pool.map(run, seeds, [count // len(seeds)] * len(seeds)):
            bad += found
            for name, counts in outcomes.items():
                totals.setdefault(name, Counter()).update(counts)
    return totals, bad


def write_page(totals: dict[str, Counter[str]], bad: list[str], seed: int, took_s: float) -> Counter[str]:
    """Write docs/benchmarks/mutations.md; return all outcomes."""
    words = ["read", "refused", *WRONG]
    lines = ["| file | " + " | ".join(words) + " |", "| --- |" + " ---: |" * len(words)]
    for name, counts in totals.items():
        lines.append(f"| {name} | " + " | ".join(str(counts[word]) for word in words) + " |")
    whole = sum(totals.values(), Counter())
    lines.append("| **all** | " + " | ".join(f"**{whole[word]}**" for word in words) + " |")
    text = "\n".join(
        [
            "# Damaged files",
            "",
            f"{whole.total()} files damaged by seed {seed}: bits, bytes, lengths, values and names changed,",
            "parts of archives taken out, swapped or damaged inside a whole archive, array headers and values changed.",
            "Each is read, or refused in one sentence. Escaped: anything else came out of the reader. Slow: more than",
            f"{SLOW_S:.0f} s. Not the same again: read, saved, and read otherwise. Memory is limited to",
            f"{MOST_MEMORY / 2**30:.0f} GB. Took {took_s:.0f} s on {os.cpu_count()} cores.",
            "",
            *lines,
            "",
            *(f"- {line}" for line in bad[:40]),
        ]
    )
    OUT.write_text(text.rstrip() + "\n", "utf-8")
    print(text)
    return whole


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--count", type=int, default=100_000)
    parser.add_argument("--seed", type=int, default=1)
    options = parser.parse_args()
    begun = time.monotonic()
    totals, bad = damage(options.seed, options.count)
    whole = write_page(totals, bad, options.seed, time.monotonic() - begun)
    return 1 if any(whole[word] for word in WRONG) else 0


if __name__ == "__main__":
    sys.exit(main())
