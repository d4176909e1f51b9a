"""The instructor's whole day in a real window under a window manager; run by test_the_day under Xvfb.

See `day_walk`: keys and clicks go to whatever has the focus, and each part of the day checks what came of it.
"""

import os
import sys
from pathlib import Path

os.environ["QT_QPA_PLATFORM"] = "xcb"
sys.path.insert(0, str(Path(__file__).parents[2] / "bench"))

from PyQt6.QtWidgets import QApplication

from day_walk import Day, laid_out
from notcher.painting.theme import load_fonts


def main(which: str, folder: Path) -> None:
    app = QApplication(sys.argv)
    load_fonts()
    assert app.platformName() == "xcb"
    day = Day(app, laid_out(folder / "desk"), folder / which)
    steps = day.walk() if which == "day" else day.walk_other_days()
    dear = [step.name for step in steps if step.lesson and step.acts > 3]
    assert not dear, f"more than three acts in every lesson: {dear}"
    if which == "others":
        assert day.keys_a_note <= 1.8
    print(f"{len(steps)} steps done")


if __name__ == "__main__":
    main(sys.argv[1], Path(sys.argv[2]))
