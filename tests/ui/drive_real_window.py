"""An instructor's evening in a real window under a window manager: events go to whatever has the focus.

Open, read, correct ten things, undo all, redo all, loop and change the pace, phrases, prove, take, save, close, reopen.
Run by test_window under Xvfb.
"""

import os
import sys
import time
from collections.abc import Callable
from pathlib import Path

os.environ["QT_QPA_PLATFORM"] = "xcb"
sys.path.insert(0, str(Path(__file__).parents[1]))

from PyQt6.QtCore import QSettings
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from hands import answer, click, press
from notcher.core.formats import read_document
from notcher.core.mixing import Loop
from notcher.core.score import Note
from notcher.devices import KeyFootswitch, SimulatedGuitarist, SimulatedLoudspeaker
from notcher.painting.theme import load_fonts
from notcher.ui.shell.program import Program
from notcher.ui.state.settings import Settings
from notcher.ui.state.shell import Bench

CORRECTIONS = (
    "7",
    "W",
    "Right",
    "S",
    "D",
    "Right",
    "Z",
    "Right",
    "G",
    "Shift+C",
    "Right",
    "O",
    "P",
    "Right",
    "M",
    "/",
)
"""Ten corrections, and the walks between them."""
WALKS = "Right"


def wait(app: QApplication, done: Callable[[], bool], what: str) -> None:
    until = time.monotonic() + 30
    while not done():
        app.processEvents()
        time.sleep(0.005)
        assert time.monotonic() < until, f"took too long: {what}"


def made(folder: Path) -> Program:
    """A program as it starts; what it remembers lies in a folder."""
    settings = Settings(QSettings(str(folder / "real.ini"), QSettings.Format.IniFormat))
    settings.set("guitarist", "short of the top")
    guitarist = SimulatedGuitarist(skill="short of the top", speed=6.0)
    program = Program(
        settings, SimulatedLoudspeaker(speed=6.0), guitar=guitarist, footswitch=KeyFootswitch(), state=folder / "state"
    )
    program.window.show()
    assert QTest.qWaitForWindowActive(program.window)
    return program


def correct(program: Program) -> None:
    """Ten things are corrected, taken back and done again."""
    session = program.session
    states: list[tuple[Note, ...]] = [session.score.notes]
    for keys in CORRECTIONS:
        press(keys)
        if keys != WALKS:
            states.append(session.score.notes)
    steps = len(states) - 1
    assert steps >= 10
    assert len({repr(notes) for notes in states}) == steps + 1, "every one of them is a change"
    for notes in reversed(states[:-1]):
        press("Ctrl+Z")
        assert session.score.notes == notes
    for notes in states[1:]:
        press("Ctrl+Shift+Z")
        assert session.score.notes == notes
    for _ in range(steps):
        press("Ctrl+Z")
    assert session.score.notes == states[0]


def play(app: QApplication, program: Program) -> None:
    """The first phrase goes round, and goes on at another pace; the loop follows to the next phrase."""
    player = program.player
    press("Home")
    press("L")
    press("Space")
    wait(app, lambda: player.playing and player.time_s > program.score.phrases[0].start_s + 0.3, "the loop")
    press("Ctrl+Up")
    wait(app, lambda: isinstance(player.stream, Loop) and not player.stream.count_in.size, "the other pace")
    press("Down")
    wait(app, lambda: player.loop_span == spans(program)[1], "the next phrase")
    press("Space")
    assert not player.playing
    press("L")
    assert player.loop_span is None


def spans(program: Program) -> list[tuple[float, float]]:
    return [(phrase.start_s, phrase.end_s) for phrase in program.score.phrases]


def phrases(program: Program) -> None:
    """A phrase is split, named, and joined again."""
    before = spans(program)
    press("Home")
    press("Right")
    press("Ctrl+Shift+D")
    assert len(spans(program)) == len(before) + 1
    press("F2")
    answer("Answer")
    assert "Answer" in [phrase.name for phrase in program.score.phrases]
    press("Up")
    press("Ctrl+Shift+J")
    assert spans(program) == before


def prove_and_take(app: QApplication, program: Program) -> None:
    """A wrong bend is found and corrected on the Prove bench; then a student's take of the phrase is recorded."""
    prove = program.prove
    press("Home")
    press("Right")
    press("S")
    press("Ctrl+3")
    wait(app, lambda: prove._score is program.score and prove.row is not None and prove.row.waiting, "the row")
    assert "short of a step and a quarter" in prove.verdict.text()
    press("Return")
    wait(app, lambda: program.player.playing, "the stretch")
    press("Space")
    press("C")
    wait(app, lambda: prove._score is program.score and "0 findings open" in prove.summary.text(), "the proof")
    press("F8")
    wait(app, lambda: bool(program.teach.takes.takes) and program.teaching.recorder.state == "idle", "the take")
    assert program.bench is Bench.TEACH
    assert "cents flat" in program.teach.takes.words.text()
    click(program.window, program.teach.takes.mark_button)
    assert program.passes


def main(recording: Path, folder: Path) -> None:
    app = QApplication(sys.argv)
    load_fonts()
    program = made(folder)
    assert app.platformName() == "xcb"
    press("Ctrl+O")
    answer(str(recording))
    wait(app, lambda: len(program.score.notes) == 6 and not program.busy, "the draft")
    correct(program)
    play(app, program)
    phrases(program)
    prove_and_take(app, program)
    saved = folder / "real.notch"
    press("Ctrl+S")
    answer(str(saved))
    wait(app, lambda: program.session.path == saved and not program.busy, "the save")
    kept, takes = program.document, program.practice.takes
    passes = program.passes
    assert read_document(saved).score == kept.score
    press("Ctrl+Q")
    wait(app, lambda: not program.window.isVisible(), "the end")
    again = made(folder)
    click(again.window, again.window.ways_in.recent[0])
    wait(app, lambda: again.session.path == saved, "the document")
    assert again.score == kept.score
    press("Ctrl+5")
    wait(app, lambda: again.passes == passes, "the marks")
    assert again.practice.takes == takes
    press("Ctrl+Q")
    wait(app, lambda: not again.window.isVisible(), "the end")
    print("whole path done")


if __name__ == "__main__":
    main(Path(sys.argv[1]), Path(sys.argv[2]))
