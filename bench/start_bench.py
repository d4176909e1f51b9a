"""How soon the window is there: `./dev bench start`; writes docs/benchmarks/start.md.

Seven starts of Notcher and seven of a bare window of the same toolkit, one after the other in turn, until each has been
painted; the middle ones are compared. So are `notcher --help` and `notcher --version` with Python that does nothing.
Python may keep its bytecode, as it does for whoever installs a program.
"""

from __future__ import annotations

import os
import subprocess
import sys
import time
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ.pop("PYTHONDONTWRITEBYTECODE", None)

PAGE = Path(__file__).parents[1] / "docs" / "benchmarks" / "start.md"
TURNS = 7
CACHES = Path("/proc/sys/vm/drop_caches")
BARE = """
import os, sys
from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QApplication, QMainWindow
class Bare(QMainWindow):
    def paintEvent(self, event):
        QTimer.singleShot(0, lambda: os._exit(0))
app = QApplication(sys.argv[:1])
window = Bare()
window.resize(1280, 800)
window.show()
app.exec()
"""
OURS = """
import os, sys
from notcher import cli
from notcher.ui.shell import application
run = application.run
application.run = lambda file: run(file, lambda: os._exit(0))
cli.main([])
"""
DEMO = """
import os, time
from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QApplication
from notcher.ui.shell import application
seen = []
def look():
    for widget in QApplication.allWidgets():
        if type(widget).__name__ == "TabView" and widget._content.score.notes:
            print(time.perf_counter() - seen[0], flush=True)
            os._exit(0)
def painted():
    seen.append(time.perf_counter())
    painted.timer = QTimer()
    painted.timer.timeout.connect(look)
    painted.timer.start(10)
application.run("demo", painted)
"""


def seconds(*words: str) -> float:
    """How long a process runs."""
    begun = time.perf_counter()
    subprocess.run([sys.executable, *words], check=True, capture_output=True)
    return time.perf_counter() - begun


def middles(*commands: tuple[str, ...]) -> list[float]:
    """The middle time of each command, run in turn."""
    times = [[seconds(*command) for command in commands] for _ in range(TURNS)]
    return [sorted(row)[TURNS // 2] for row in zip(*times, strict=True)]


def cold(*commands: tuple[str, ...]) -> list[float] | None:
    """The time of each command when nothing of it is in memory; None where that cannot be arranged."""
    found = []
    for command in commands:
        try:
            subprocess.run(["sync"], check=True)
            CACHES.write_text("3\n", "ascii")
        except OSError:
            return None
        found.append(seconds(*command))
    return found


def main() -> None:
    bare, ours = ("-c", BARE), ("-c", OURS)
    seconds(*bare)
    seconds(*ours)
    toolkit, first_paint = middles(bare, ours)
    nothing, help_text, version = middles(("-c", "pass"), ("-m", "notcher", "--help"), ("-m", "notcher", "--version"))
    notes = sorted(
        float(subprocess.run([sys.executable, "-c", DEMO], check=True, capture_output=True, text=True).stdout)
        for _ in range(3)
    )[1]
    once = cold(bare, ours)
    cold_words = "not measured here" if once is None else f"{once[1] / once[0]:.1f} ×"
    PAGE.write_text(
        f"""# How soon the window is there

Made by `./dev bench start`, warm, the middle of {TURNS} alternating starts, offscreen, on {os.cpu_count()} cores.

| what | against | ratio | wanted |
| --- | --- | --- | --- |
| first paint: menus, strip, the three ways in | a bare window of the toolkit | {first_paint / toolkit:.1f} × | 3 × |
| the same, nothing of it in memory | the same, cold | {cold_words} | – |
| `notcher --help` | Python that does nothing | {help_text / nothing:.1f} × | 2 × |
| `notcher --version` | Python that does nothing | {version / nothing:.1f} × | 2 × |

The demo's first notes stand in the tab {notes:.1f} s after the first paint (wanted: 2 s).
A bare window takes {1000 * toolkit:.0f} ms, Python that does nothing {1000 * nothing:.0f} ms.
""",
        "utf-8",
    )
    print(PAGE.read_text("utf-8"))


if __name__ == "__main__":
    main()
