"""The window as a screen reader meets it, bench by bench; run by test_from_outside on a private bus, under Xvfb."""

import json
import os
import sys
import time
from pathlib import Path

os.environ["QT_QPA_PLATFORM"] = "xcb"
os.environ["QT_LINUX_ACCESSIBILITY_ALWAYS_ON"] = "1"
sys.path.insert(0, str(Path(__file__).parents[1]))

from PyQt6.QtCore import QProcess, QSettings
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from hands import press, question
from notcher.devices import KeyFootswitch, SimulatedGuitarist, SimulatedLoudspeaker, WrittenVoice
from notcher.painting.theme import load_fonts
from notcher.ui.shell.program import Program
from notcher.ui.state.settings import Settings

PAINTED = {
    "Hear": "Sound and pitch heard",
    "Notch": "Measured tab",
    "Teach": "Practice board",
}
"""Views that are painted, by bench: each says in words what is chosen in it."""
LIST_PARTS = ("list item", "table cell", "tree item", "table column header", "table row header", "menu item")
"""Empty where there is nothing to say: a cell of a table without a due day."""
ASKED, ANSWER_S = 3, 30.0


def looked(app: QApplication) -> list[dict[str, object]]:
    """What is seen from outside now. A bus that is just being started may leave a first caller without an answer."""
    for _ in range(ASKED):
        outside = QProcess()
        outside.start(sys.executable, [str(Path(__file__).with_name("look_from_outside.py"))])
        until = time.monotonic() + ANSWER_S
        while not (answered := outside.waitForFinished(5)) and time.monotonic() < until:
            app.processEvents()
        if answered:
            text = bytes(outside.readAllStandardOutput()).decode()
            assert text, bytes(outside.readAllStandardError()).decode()
            return list(json.loads(text))
        outside.kill()
        outside.waitForFinished()
    raise AssertionError("nothing is seen from outside")


def nameless(nodes: list[dict[str, object]]) -> list[str]:
    """What takes keys and has no name, or has no role that anybody knows."""
    keyed = (node for node in nodes if node["focusable"] and node["role"] not in LIST_PARTS)
    found = [f"{node['role']} ({node['description']})" for node in keyed if not str(node["name"]).strip()]
    return found + [str(node["name"]) for node in nodes if node["role"] in ("unknown", "invalid", "")]


def main(recording: Path, folder: Path) -> None:
    app = QApplication(["notcher"])
    load_fonts()
    settings = Settings(QSettings(str(folder / "outside.ini"), QSettings.Format.IniFormat))
    program = Program(
        settings, SimulatedLoudspeaker(), guitar=SimulatedGuitarist(), footswitch=KeyFootswitch(),
        voice=WrittenVoice(), state=folder / "state",
    )  # fmt: skip
    program.window.show()
    assert QTest.qWaitForWindowActive(program.window)
    wrong: dict[str, list[str]] = {"empty": nameless(looked(app))}
    program.open_path(str(recording))
    until = time.monotonic() + 30
    while program.busy or not program.score.notes:
        QTest.qWait(20)
        assert time.monotonic() < until
    for number, name in enumerate(("Hear", "Notch", "Prove", "Shapes", "Teach", "Sheets", "Students"), 1):
        press(f"Ctrl+{number}")
        QTest.qWait(300)
        nodes = looked(app)
        assert any(node["name"] == f"{name} bench" or node["name"] == name for node in nodes), f"{name} is not told"
        wrong[name] = nameless(nodes)
        painted = [node for node in nodes if str(node["name"]).startswith(PAINTED.get(name, "\0"))]
        if name in PAINTED and not any(node["description"] for node in painted):
            wrong[name].append(f"{PAINTED[name]} does not say what is chosen")
        if name == "Notch":
            told = next(str(node["description"]) for node in painted)
            assert "note 1 of 6" in told, told
            assert "string" in told, told
            assert any(node["focused"] and node["name"] == "Measured tab" for node in nodes), "the tab has the keys"
    press("Ctrl+7")
    press("R")
    question()
    wrong["a form"] = nameless(looked(app))
    press("Esc")
    print(json.dumps(wrong))
    assert not any(wrong.values()), wrong
    print("named throughout")
    program.saved()
    program.close()


if __name__ == "__main__":
    main(Path(sys.argv[1]), Path(sys.argv[2]))
