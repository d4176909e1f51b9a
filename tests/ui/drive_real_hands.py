"""What a real keyboard and mouse do in a real window: the wheel over fields, keys while the window is busy.

Run by test_obeys under Xvfb and a window manager.
"""

import os
import sys
import time
from pathlib import Path

os.environ["QT_QPA_PLATFORM"] = "xcb"
sys.path.insert(0, str(Path(__file__).parents[1]))

from PyQt6.QtCore import QPoint, QSettings
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QAbstractSpinBox, QApplication, QComboBox, QScrollArea, QWidget

from hands import press, settled
from notcher.devices import KeyFootswitch, SimulatedGuitarist, SimulatedLoudspeaker
from notcher.painting.theme import load_fonts
from notcher.ui.shell.program import Program
from notcher.ui.state.settings import Settings
from real_hands import WHEEL_DOWN, RealHands

BUSY_S = 1.2


def made(folder: Path, lick: Path) -> Program:
    settings = Settings(QSettings(str(folder / "real.ini"), QSettings.Format.IniFormat))
    program = Program(
        settings, SimulatedLoudspeaker(), guitar=SimulatedGuitarist(), footswitch=KeyFootswitch(), state=folder / "s"
    )
    program.window.resize(1200, 620)
    program.window.show()
    assert QTest.qWaitForWindowActive(program.window)
    program.open_path(str(lick))
    settled(program)
    return program


def point_at(hands: RealHands, widget: QWidget) -> None:
    at = widget.mapToGlobal(widget.rect().center())
    hands.move(at.x(), at.y())
    QTest.qWait(60)


def turn_over_every_field(program: Program, hands: RealHands) -> int:
    """The wheel over each field that lies in something that scrolls: nothing in it changes, what scrolls does."""
    turned = 0
    for bench in range(1, 8):
        press(f"Ctrl+{bench}")
        settled(program)
        before = program.score
        for field in program.window.findChildren(QWidget):
            area = _area(field)
            if not isinstance(field, QAbstractSpinBox | QComboBox) or area is None or not field.isVisible():
                continue
            bar = area.verticalScrollBar()
            assert bar is not None
            if not bar.maximum():
                continue
            field.setProperty("looked", True)
            area.ensureWidgetVisible(field)
            bar.setValue(min(bar.value(), bar.maximum() - 1))
            shows, at = field.text() if isinstance(field, QAbstractSpinBox) else field.currentText(), bar.value()
            point_at(hands, field)
            hands.click(WHEEL_DOWN)
            QTest.qWait(60)
            assert (field.text() if isinstance(field, QAbstractSpinBox) else field.currentText()) == shows
            assert bar.value() > at, f"{field.accessibleName()} of bench {bench} holds the wheel back"
            turned += 1
        assert program.score == before
    return turned


def _area(widget: QWidget) -> QScrollArea | None:
    parent = widget.parentWidget()
    while parent is not None and not isinstance(parent, QScrollArea):
        parent = parent.parentWidget()
    return parent


def type_while_busy(program: Program, hands: RealHands) -> None:
    """A figure that comes after the window was busy is left out and said so; the next one is written."""
    press("Ctrl+2")
    settled(program)
    tab = program.notch.tab
    at = tab.mapToGlobal(QPoint(tab.width() - 20, 8))
    hands.move(at.x(), at.y())
    before = program.score
    hands.key("Right")
    hands.key("Left")
    settled(program)
    hands.key("7")
    time.sleep(BUSY_S)  # the window does nothing meanwhile
    QTest.qWait(200)
    settled(program)
    assert program.score == before
    assert "while the window was busy" in program.said, program.said
    hands.key("7")
    QTest.qWait(100)
    settled(program)
    assert program.score != before


def main(lick: Path, folder: Path) -> None:
    app = QApplication(["notcher"])
    load_fonts()
    program, hands = made(folder, lick), RealHands()
    turned = turn_over_every_field(program, hands)
    assert turned >= 3, turned
    type_while_busy(program, hands)
    program.session.undo_stack.setClean()
    print(f"the window obeys: {turned} fields")
    program.window.close()
    app.processEvents()
    os._exit(0)


if __name__ == "__main__":
    main(Path(sys.argv[1]), Path(sys.argv[2]))
