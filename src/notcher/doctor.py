"""What works on this machine, in ten lines, and what to install for the rest: `notcher doctor`."""

import importlib.metadata
import os
import re
import shutil
import sys
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from notcher import __version__
from notcher.core.errors import fault_words

LEAST_FREE_MB = 500  # of disk: a long recording with its evidence, twice over
WORKS, SIMULATED, MISSING = "ok", "without", "missing"


@dataclass(frozen=True, slots=True)
class CheckResult:
    """One line. state: it works; it is done without, or simulated; or it is missing and needed. remedy: what to do."""

    what: str
    state: str
    told: str
    remedy: str = ""

    @property
    def line(self) -> str:
        return f"{self.what:12} {self.state:8} {self.told}{f'. {self.remedy}' if self.remedy else ''}"


def _version() -> CheckResult:
    python = ".".join(map(str, sys.version_info[:3]))
    return CheckResult("version", WORKS, f"Notcher {__version__}, Python {python}")


def _packages() -> CheckResult:
    """Whether every package is there that the installation asks for."""
    try:
        wanted = importlib.metadata.requires("notcher") or []
    except importlib.metadata.PackageNotFoundError:
        return CheckResult("packages", SIMULATED, "run from a checkout, not installed", "./dev demo sets everything up")
    names = [match[0] for line in wanted if (match := re.match(r"[\w.-]+", line))]
    missing = []
    for name in names:
        try:
            importlib.metadata.version(name)
        except importlib.metadata.PackageNotFoundError:
            missing.append(name)
    if missing:
        return CheckResult("packages", MISSING, f"{', '.join(missing)} not installed", "Install Notcher again")
    return CheckResult("packages", WORKS, f"all {len(names)} installed")


def _display() -> CheckResult:
    for name in ("WAYLAND_DISPLAY", "DISPLAY"):
        if os.environ.get(name):
            return CheckResult("display", WORKS, f"{name} is {os.environ[name]}")
    remedy = "Start Notcher from a desktop; the commands for a terminal work without one"
    return CheckResult("display", SIMULATED, "no screen here", remedy)


def _loudspeaker() -> CheckResult:
    from PyQt6.QtMultimedia import QMediaDevices

    outputs = QMediaDevices.audioOutputs()
    if outputs:
        return CheckResult("loudspeaker", WORKS, QMediaDevices.defaultAudioOutput().description())
    return CheckResult(
        "loudspeaker", SIMULATED, "none found, simulated in silence", "Plug one in, or start a sound server"
    )


def _guitar() -> CheckResult:
    from PyQt6.QtMultimedia import QMediaDevices

    inputs = QMediaDevices.audioInputs()
    if inputs:
        return CheckResult("guitar input", WORKS, QMediaDevices.defaultAudioInput().description())
    return CheckResult(
        "guitar input", SIMULATED, "none found, a simulated guitarist plays", "Plug in an audio interface"
    )


def _voice() -> CheckResult:
    from notcher.devices.qt_voice import engines

    spoken = [engine for engine in engines() if engine != "mock"]
    if spoken and shutil.which("speech-dispatcher"):
        return CheckResult("voice", WORKS, ", ".join(spoken))
    remedy = "Install speech-dispatcher and speech-dispatcher-espeak-ng"
    return CheckResult("voice", SIMULATED, "none: what is said is written", remedy)


def _footswitch() -> CheckResult:
    pedals = sorted(Path("/dev/snd").glob("midi*")) if Path("/dev/snd").is_dir() else []
    if pedals:
        return CheckResult("footswitch", WORKS, f"MIDI at {', '.join(pedal.name for pedal in pedals)}")
    return CheckResult("footswitch", SIMULATED, "no MIDI device: the keys F9 and F10 do its work")


def _fonts() -> CheckResult:
    from notcher.painting.theme import load_fonts

    try:
        load_fonts()
    except RuntimeError as problem:
        return CheckResult("fonts", MISSING, str(problem), "Install Notcher again")
    return CheckResult("fonts", WORKS, "Lato, Inter and Bravura are here")


def _disk() -> CheckResult:
    from platformdirs import user_data_dir

    folder = Path(user_data_dir("notcher"))
    there = next(place for place in (folder, *folder.parents) if place.exists())
    free_mb = shutil.disk_usage(there).free / 1e6
    if not os.access(there, os.W_OK):
        return CheckResult("disk", MISSING, f"{there} cannot be written", "Make it yours: the ledger is kept there")
    if free_mb < LEAST_FREE_MB:
        return CheckResult(
            "disk", MISSING, f"{free_mb:.0f} MB free at {there}", "Make room: recordings and takes are kept"
        )
    return CheckResult("disk", WORKS, f"{free_mb / 1000:.1f} GB free for the ledger in {folder}")


def _hearing() -> CheckResult:
    """Play two notes on the string model and hear them."""
    from notcher.core.hearing import draft
    from notcher.core.score import Note, Score
    from notcher.core.synthesis import render

    played = Score((Note(0.3, 1.3, 2, 8), Note(1.4, 2.4, 3, 9)))
    score = draft(render(played)).score
    pitches = [round(score.fretted_midi(note)) for note in score.notes]
    if pitches == [round(played.fretted_midi(note)) for note in played.notes]:
        return CheckResult("hearing", WORKS, "two notes were played and heard as they are")
    return CheckResult("hearing", MISSING, f"two notes were heard as {pitches}", "Please report it")


CHECKS: tuple[Callable[[], CheckResult], ...] = (
    _version, _packages, _display, _loudspeaker, _guitar, _voice, _footswitch, _fonts, _disk, _hearing,
)  # fmt: skip


def findings() -> list[CheckResult]:
    """Return what works here, one finding for each thing; whatever fails in an unknown way is told too."""
    os.environ["QT_QPA_PLATFORM"] = "offscreen"  # fonts and devices are asked for without a window
    from PyQt6.QtWidgets import QApplication

    app = QApplication.instance() or QApplication(["notcher"])
    check_results = []
    for check in CHECKS:
        name = check.__name__.strip("_")
        try:
            check_results.append(check())
        except Exception as problem:
            check_results.append(CheckResult(name, MISSING, fault_words(problem), "Please report it"))
    del app
    return check_results


def run() -> int:
    """Print what works; return 3 where something that is needed is missing."""
    from PyQt6.QtCore import qInstallMessageHandler

    qInstallMessageHandler(lambda *_: None)  # what the toolkit misses is told in a line of its own
    check_results = findings()
    print("\n".join(finding.line for finding in check_results))
    return 3 if any(finding.state == MISSING for finding in check_results) else 0
