"""Drives a real window: open, draft, correct, undo, loop, prove, take, save, reopen. Run by test_window under Xvfb."""

import os
import sys
import time
from collections.abc import Callable
from pathlib import Path

os.environ["QT_QPA_PLATFORM"] = "xcb"

from PyQt6.QtCore import QSettings, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from notcher.core.formats import read_document
from notcher.devices import KeyFootswitch, SimulatedGuitarist, SimulatedLoudspeaker
from notcher.painting.theme import load_fonts
from notcher.ui.shell.program import Program
from notcher.ui.state.settings import Settings


def wait(app: QApplication, done: Callable[[], bool]) -> None:
    until = time.monotonic() + 30
    while not done():
        app.processEvents()
        time.sleep(0.005)
        assert time.monotonic() < until, "took too long"


def prove_and_take(app: QApplication, program: Program) -> None:
    """A wrong bend is found and corrected on the Prove bench; then a student's take of the phrase is recorded."""
    program.notch.edits.step(1)
    program.notch.edits.bend_by(1)
    program.commands.run("bench.prove")
    prove = program.prove
    wait(app, lambda: prove._score is program.session.score and prove.row is not None and prove.row.waiting)
    assert "short of the step and a half" in prove.verdict.text()
    QTest.keyClick(prove.list, Qt.Key.Key_Return)
    wait(app, lambda: program.player.playing)
    program.player.stop()
    QTest.keyClick(prove.list, Qt.Key.Key_C)
    wait(app, lambda: prove._score is program.session.score and "findings open" in prove.summary.text())
    assert "0 findings open" in prove.summary.text()
    program.footswitch.pressed.emit(2)  # its keys need an active window, and no one makes one active here
    wait(app, lambda: bool(program.teach.takes.takes) and program.recorder.state == "idle")
    assert "cents flat" in program.teach.takes.words.text()
    QTest.mouseClick(program.teach.takes.mark_button, Qt.MouseButton.LeftButton)
    assert program.session.document.marks


def main(recording: Path, folder: Path) -> None:
    app = QApplication(sys.argv)
    load_fonts()
    store = QSettings(str(folder / "real.ini"), QSettings.Format.IniFormat)
    guitarist = SimulatedGuitarist(skill="short of the top", speed=6.0)
    settings = Settings(store)
    settings.set("guitarist", "short of the top")
    program = Program(
        settings, SimulatedLoudspeaker(speed=6.0), guitar=guitarist, footswitch=KeyFootswitch(), state=folder / "state"
    )
    program.window.show()
    assert QTest.qWaitForWindowActive(program.window)
    assert app.platformName() == "xcb"
    program.opening.open_path(str(recording))
    wait(app, lambda: len(program.session.score.notes) == 6 and not program.jobs.busy)
    tab = program.notch.tab
    QTest.mouseClick(tab, Qt.MouseButton.LeftButton, pos=tab.note_rect(0).center().toPoint())
    QTest.keyClicks(tab, "7")
    assert program.session.score.notes[0].fret == 7
    program.session.undo_stack.undo()
    assert program.session.score.notes[0].fret == 12
    QTest.keyClicks(tab, "l")
    program.player.set_pace(0.5)
    QTest.mouseClick(program.reel.play_button, Qt.MouseButton.LeftButton)
    wait(app, lambda: program.player.playing and program.player.speaker.position > 4000)
    program.player.stop()
    prove_and_take(app, program)
    program.saving.save_to(folder / "real.notch")
    wait(app, lambda: not program.jobs.busy)
    assert read_document(folder / "real.notch").score == program.session.score
    program.window.close()
    print("whole path done")


if __name__ == "__main__":
    main(Path(sys.argv[1]), Path(sys.argv[2]))
