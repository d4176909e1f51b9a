"""Notcher as the benches open it: on devices that are simulated, with settings and a state of its own."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QSettings
from PyQt6.QtTest import QTest

from notcher.devices import KeyFootswitch, SimulatedGuitarist, SimulatedLoudspeaker, WrittenVoice
from notcher.painting.theme import load_fonts
from notcher.ui.shell.program import Program
from notcher.ui.state.settings import Settings


def simulated_program(folder: Path, *, speed: float = 1.0, **given: object) -> Program:
    """Start Notcher in a folder and show its window at 1280 x 800, in front.

    speed: how many times as fast as real ones the loudspeaker sounds and the guitarist plays. given: what `Program`
    gets instead of a simulated device, or besides.
    """
    load_fonts()
    settings = Settings(QSettings(str(folder / "settings.ini"), QSettings.Format.IniFormat))
    settings.set("latency_ms", 0.0)
    parts: dict[str, object] = {
        "settings": settings, "speaker": SimulatedLoudspeaker(speed=speed),
        "guitar": SimulatedGuitarist(latency_s=0.0, speed=speed), "footswitch": KeyFootswitch(),
        "voice": WrittenVoice(), "state": folder / "state", **given,
    }  # fmt: skip
    program = Program(**parts)  # type: ignore[arg-type]
    program.window.resize(1280, 800)
    program.window.show()
    QTest.qWaitForWindowActive(program.window)
    return program
