"""Drives a real window: open, draft, correct, undo, loop, save, reopen. Run by test_window under Xvfb."""

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
from notcher.devices import SimulatedLoudspeaker
from notcher.ui.settings import Settings
from notcher.ui.theme import load_fonts
from notcher.ui.window import Window


def wait(app: QApplication, done: Callable[[], bool]) -> None:
    until = time.monotonic() + 30
    while not done():
        app.processEvents()
        time.sleep(0.005)
        assert time.monotonic() < until, "took too long"


def main(recording: Path, folder: Path) -> None:
    app = QApplication(sys.argv)
    load_fonts()
    store = QSettings(str(folder / "real.ini"), QSettings.Format.IniFormat)
    window = Window(Settings(store), SimulatedLoudspeaker())
    window.show()
    assert QTest.qWaitForWindowExposed(window)
    assert app.platformName() == "xcb"
    window.open_path(str(recording))
    wait(app, lambda: len(window.session.score.notes) == 6 and not window.jobs.busy)
    tab = window.notch.tab
    QTest.mouseClick(tab, Qt.MouseButton.LeftButton, pos=tab.note_rect(0).center().toPoint())
    QTest.keyClicks(tab, "7")
    assert window.session.score.notes[0].fret == 7
    window.session.undo_stack.undo()
    assert window.session.score.notes[0].fret == 12
    QTest.keyClicks(tab, "l")
    window.player.set_pace(0.5)
    QTest.mouseClick(window.reel.play_button, Qt.MouseButton.LeftButton)
    wait(app, lambda: window.player.playing and window.player.speaker.position > 4000)
    window.player.stop()
    assert window._save_to(folder / "real.notch")
    assert read_document(folder / "real.notch").score == window.session.score
    window.close()
    print("whole path done")


if __name__ == "__main__":
    main(Path(sys.argv[1]), Path(sys.argv[2]))
