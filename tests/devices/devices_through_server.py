"""Inputs and loudspeakers come, go and are chosen while the program runs; run by test_real_devices with a server."""

import atexit
import os
import subprocess
import sys
import time
from collections.abc import Callable
from pathlib import Path

os.environ["QT_QPA_PLATFORM"] = "offscreen"
sys.path.insert(0, str(Path(__file__).parents[1]))
sys.path.insert(0, str(Path(__file__).parent))

import numpy as np
from PyQt6.QtCore import QSettings
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication
from sound_server import started

from hands import press, question
from notcher.devices import KeyFootswitch
from notcher.painting.theme import load_fonts
from notcher.ui.playback.devices_dialog import DevicesDialog
from notcher.ui.shell.program import Program
from notcher.ui.state.settings import Settings

WITHIN_S = 2.0


def pactl(*words: str) -> str:
    done = subprocess.run(["pactl", *words], capture_output=True, text=True, check=True)
    return done.stdout.strip()


def soon(what: str, holds: Callable[[], bool]) -> None:
    """What is plugged in or out is noticed within two seconds."""
    until = time.monotonic() + WITHIN_S
    while not holds():
        QTest.qWait(20)
        assert time.monotonic() < until, f"not within {WITHIN_S} s: {what}"


def main() -> None:
    server = started("module-null-sink sink_name=first rate=44100 channels=2")
    atexit.register(server.kill)
    app = QApplication(["notcher"])
    load_fonts()
    folder = Path(os.environ["XDG_RUNTIME_DIR"])
    settings = Settings(QSettings(str(folder / "s.ini"), QSettings.Format.IniFormat))
    program = Program(settings, footswitch=KeyFootswitch(), state=folder / "state")
    program.window.show()
    program.window.activateWindow()
    QTest.qWait(50)
    guitar, speaker = program.guitar, program.speaker
    assert guitar.simulated
    assert not speaker.simulated

    mic = pactl("load-module", "module-remap-source", "master=first.monitor", "source_name=mic")
    soon("an input is used once it is there", lambda: not guitar.simulated)
    assert "The input is" in program.said

    press("Ctrl+Space")
    finder = question()
    QTest.keyClicks(QApplication.focusWidget(), "devices")
    press("Return")
    soon("the finder closes", lambda: not finder.isVisible())
    dialog = question()
    assert isinstance(dialog, DevicesDialog)
    box = dialog.boxes["input"]
    names = [box.itemData(at) for at in range(box.count())]
    assert names == ["", "mic", "first.monitor"], names

    second = pactl("load-module", "module-null-sink", "sink_name=second", "rate=44100", "channels=2")
    out = dialog.boxes["output"]
    soon("a loudspeaker is in the list", lambda: out.findData("second") >= 0)
    for wanted, where in (("first.monitor", box), ("second", out)):
        where.setFocus()
        while where.currentData() != wanted:
            before = where.currentIndex()
            press("Down")
            assert where.currentIndex() != before, f"{wanted} cannot be chosen"
    assert (settings.device("input"), settings.device("output")) == ("first.monitor", "second")
    press("Esc")
    QTest.qWait(50)

    # the chosen monitor is heard
    assert guitar.start()
    tone = folder / "tone.wav"
    import soundfile

    seconds = np.arange(2 * 44_100) / 44_100
    soundfile.write(tone, 0.5 * np.sin(2 * np.pi * 440 * seconds), 44_100)
    player = subprocess.Popen(["paplay", "--device=first", str(tone)])
    until = time.monotonic() + 6
    while guitar.level < 0.2:
        QTest.qWait(20)
        assert time.monotonic() < until, "nothing is heard of the monitor"
    take = guitar.stop()
    player.wait()
    assert take.duration_s > 0.05

    pactl("unload-module", second)
    soon("the lost loudspeaker falls back", lambda: "went away" in program.said)
    assert not speaker.simulated
    pactl("unload-module", mic)
    QTest.qWait(300)
    assert guitar.description.startswith("what"), "the chosen one is still there"
    server.terminate()
    server.wait()
    print("devices come and go")
    app.processEvents()
    os._exit(0)


if __name__ == "__main__":
    main()
