"""The ledger cut off while it is made, brought up or copied: by a kill at a random instant, or by a file that may not
grow. Nothing may be refused afterwards, and no copy may be a broken one.

    python bench/endure_ledger.py [--cuts N] [--seed N]
"""

import argparse
import os
import random
import resource
import shutil
import signal
import sys
import tempfile
import time
from collections import Counter
from collections.abc import Callable
from pathlib import Path

from notcher.core.ledger import LedgerError, Student, store
from notcher.core.ledger.record import Record
from notcher.core.ledger.store import Ledger, back_up, backups, revision_of

NEXT_STEP = """
import sqlalchemy as sa
from alembic import op

revision, down_revision, branch_labels, depends_on = "next", "0001", None, None


def upgrade() -> None:
    op.add_column("students", sa.Column("motto", sa.String, nullable=False, server_default="slowly"))
    op.create_table("mottos", sa.Column("id", sa.String, primary_key=True))
    op.execute("UPDATE students SET motto = name")
"""
"""A step that a later version might take."""
STUDENTS = 200
MOST_BYTES = 160_000
"""To what size a file may grow at most where it may not grow."""


def in_a_child(work: Callable[[], None], *, kill_after_s: float | None) -> bool:
    """Do some work in a process of its own; return whether it came to its end. kill_after_s: when it is killed."""
    child = os.fork()
    if child == 0:
        try:
            work()
        except LedgerError:
            os._exit(3)
        except BaseException:
            os._exit(4)
        os._exit(0)
    if kill_after_s is not None:
        time.sleep(kill_after_s)
        os.kill(child, signal.SIGKILL)
    return os.waitpid(child, 0)[1] == 0


def opens(path: Path) -> str:
    """Open a ledger, write into it and read; return what is wrong, empty for nothing."""
    try:
        back_up(path)
        ledger = Ledger(path)
        Record(ledger).put(Student("Ada"))
        names = [student.name for student in Record(ledger).read().present]
        ledger.close()
    except LedgerError as problem:
        return str(problem)
    return "" if "Ada" in names else "what was written is not there"


def seconds_of(work: Callable[[], None]) -> float:
    begun = time.monotonic()
    in_a_child(work, kill_after_s=None)
    return time.monotonic() - begun


def cut(folder: Path, *, cuts: int, seed: int) -> tuple[Counter[str], list[str]]:
    """Cut so many times. Returns: what was cut how often, and how it ended; what was wrong."""
    random_s = random.Random(seed)
    counts: Counter[str] = Counter()
    faults: list[str] = []
    whole, migrations = folder / "whole.sqlite", folder / "migrations"
    ledger = Ledger(whole)
    Record(ledger).put(*(Student(f"Student {number}") for number in range(STUDENTS)))
    ledger.close()
    shutil.copytree(store.MIGRATIONS, migrations)
    (migrations / "versions" / "next.py").write_text(NEXT_STEP, "utf-8")

    def made(path: Path) -> None:
        Ledger(path).close()

    def brought_up(path: Path) -> None:
        store.MIGRATIONS = migrations
        Ledger(path).close()

    def copied(path: Path) -> None:
        back_up(path)

    ways = {"made": made, "brought up": brought_up, "copied": copied}

    def fresh(way: str, number: int) -> Path:
        path = folder / f"{way} {number}" / "ledger.sqlite"
        path.parent.mkdir()
        if way != "made":
            shutil.copyfile(whole, path)
        return path

    lasts_s = {way: seconds_of(lambda way=way: ways[way](fresh(way, -1))) for way in ways}
    for number in range(cuts):
        way, full = random_s.choice(list(ways)), number % 4 == 3
        path, most = fresh(way, number), random_s.randrange(MOST_BYTES)

        def work(way: str = way, path: Path = path, most: int = most, full: bool = full) -> None:
            if full:
                signal.signal(signal.SIGXFSZ, signal.SIG_IGN)
                resource.setrlimit(resource.RLIMIT_FSIZE, (most, most))
            ways[way](path)

        ended = in_a_child(work, kill_after_s=None if full else random_s.uniform(0, 1.1 * lasts_s[way]))
        counts[f"{'no room' if full else 'kill'} while {way}: {'too late' if ended else 'cut off'}"] += 1
        before = store.MIGRATIONS
        store.MIGRATIONS = migrations if way == "brought up" else before
        if wrong := opens(path):
            faults.append(f"{way} {number}: {wrong}")
        for copy in backups(path):
            try:
                if revision_of(copy) is None:
                    faults.append(f"{way} {number}: an empty copy")
            except LedgerError as problem:
                faults.append(f"{way} {number}: {copy.name}: {problem}")
        store.MIGRATIONS = before
        shutil.rmtree(path.parent)
    return counts, faults


def main() -> int:
    parser = argparse.ArgumentParser()
    parser.add_argument("--cuts", type=int, default=200)
    parser.add_argument("--seed", type=int, default=0)
    options = parser.parse_args()
    with tempfile.TemporaryDirectory() as folder:
        counts, faults = cut(Path(folder), cuts=options.cuts, seed=options.seed)
    for what, count in sorted(counts.items()):
        print(f"{count} {what}")
    print(f"refused or wrong: {len(faults)}")
    print("\n".join(faults))
    return bool(faults)


if __name__ == "__main__":
    sys.exit(main())
