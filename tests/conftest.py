"""Shared by all tests: no screen, own settings, a short solo with a known truth."""

import os
from collections import Counter
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

os.environ["QT_QPA_PLATFORM"] = "offscreen"
# what librosa compiles is kept by each worker for itself: two that write one cache at once can break each other's
os.environ["NUMBA_CACHE_DIR"] = str(
    Path(__file__).parents[1] / "build" / f"numba-{os.environ.get('PYTEST_XDIST_WORKER', 'alone')}"
)
os.environ["NUMBA_OPT"] = "0"  # compiling takes longer than what is compiled ever runs

import numpy as np
import pytest
from PyQt6.QtCore import QEvent, QSettings
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from hands import settled
from notcher.core.formats import Document, write_document
from notcher.core.hearing import draft
from notcher.core.score import Attack, BeatMap, Note, Phrase, Score, Vibrato, bent_curve
from notcher.core.sound import Clip, read_clip, write_clip
from notcher.core.synthesis import render
from notcher.demo import TITLE, demo_audio
from notcher.devices import KeyFootswitch, SimulatedGuitarist, SimulatedLoudspeaker, WrittenVoice
from notcher.painting.theme import load_fonts
from notcher.ui.shell.program import Program
from notcher.ui.shell.window import Window
from notcher.ui.state.settings import Settings
from notcher.ui.widgets.style import SCALE

RATE = 44_100


DRIVEN = {"test_the_day.py", "test_from_outside.py", "test_window.py", "test_every_key.py"}
"""A few tests that take minutes."""


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """What drives the whole program first, then files with most that takes long: none is left for the end.

    A file's tests stay together, and so do all that need librosa: a process compiles it for half a minute.
    """
    slow = Counter(item.path for item in items if item.get_closest_marker("slow"))
    items.sort(key=lambda item: (item.path.name not in DRIVEN, -slow[item.path]))
    needs_librosa = {path: "import librosa" in path.read_text("utf-8") for path in {item.path for item in items}}
    for item in items:
        item.add_marker(pytest.mark.xdist_group("librosa" if needs_librosa[item.path] else str(item.path)))


@pytest.fixture(scope="session")
def lick() -> Score:
    """Six notes on strings 2 and 3: picked, bent a step and released, hammered, slid to, with vibrato."""
    notes = (
        Note(0.5, 0.95, 3, 12),
        Note(1.0, 1.9, 3, 14, curve=bent_curve(2, 0.9, released=True)),
        Note(2.0, 2.3, 2, 12),
        Note(2.3, 2.7, 2, 15, Attack.HAMMER),
        Note(3.5, 3.9, 3, 9),
        Note(4.0, 5.2, 3, 12, vibrato=Vibrato(0.2, 5.5, 25)),
    )
    phrases = (Phrase(0.5, 2.7, "Ask"), Phrase(3.5, 5.2, "Reply"))
    return Score(notes, beat_map=BeatMap.steady(120, 0.5), phrases=phrases, title="Lick")


@pytest.fixture(scope="session")
def lick_clip(lick: Score) -> Clip:
    return render(lick, duration_s=6.0)


@pytest.fixture(scope="session")
def lick_file(lick_clip: Clip, tmp_path_factory: pytest.TempPathFactory) -> Path:
    path = tmp_path_factory.mktemp("lick") / "lick.wav"
    write_clip(lick_clip, path, kind="WAV")
    return path


@pytest.fixture(scope="session")
def demo() -> Document:
    """The demo as it is drafted when it is opened, heard once for all tests of a process."""
    clip = read_clip(demo_audio("lead"))
    found = draft(clip)
    return Document(replace(found.score, title=TITLE), clip, found.track, found.attacks_s)


@pytest.fixture
def settings(tmp_path: Path) -> Settings:
    """Of a user who has seen the tour."""
    seen = Settings(QSettings(str(tmp_path / "settings.ini"), QSettings.Format.IniFormat))
    seen.tell_once("tour")
    return seen


@pytest.fixture(autouse=True)
def swept() -> Iterator[None]:
    """Begin undressed, as a process does, and take away the windows that a test leaves.

    Every style change would dress them all again, and what is built into a dressed window is dressed part by part.
    """
    app = QApplication.instance()
    there = set(QApplication.topLevelWidgets()) if app is not None else set()
    if isinstance(app, QApplication) and app.styleSheet():
        app.setStyleSheet("")
        app.setProperty(SCALE, 0.0)
    yield
    if QApplication.instance() is not None:
        for widget in QApplication.topLevelWidgets():
            if isinstance(widget, Window) and widget not in there:
                widget.deleteLater()
        QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete.value)


@pytest.fixture
def program(qtbot: QtBot, settings: Settings, tmp_path: Path) -> Iterator[Program]:
    """The whole program in its real window, simulated devices, nothing open; nothing is left running after it."""
    load_fonts()
    devices = {"guitar": SimulatedGuitarist(), "footswitch": KeyFootswitch(), "voice": WrittenVoice()}
    made = Program(settings, SimulatedLoudspeaker(), state=tmp_path / "state", **devices)

    def give_up(_window: object = None) -> None:
        """What a test leaves unsaved is no question to anybody."""
        made.teaching.recorder.cancel()
        made.saved()

    qtbot.addWidget(made.window, before_close_func=give_up)
    made.window.show()
    yield made
    give_up()
    made.close()
    assert not made.jobs._threads


def sine(hertz: float, seconds: float, *, rate: int = RATE, level: float = 0.5) -> np.ndarray:
    """One channel of a plain tone, float32."""
    times = np.arange(round(seconds * rate)) / rate
    return (level * np.sin(2 * np.pi * hertz * times)).astype(np.float32)


@pytest.fixture
def opened(program: Program, lick: Score, lick_clip: Clip, tmp_path: Path) -> Program:
    """The lick with its recording, reopened from a document."""
    path = tmp_path / "lick.notch"
    write_document(Document(lick, lick_clip), path)
    program.open_path(str(path))
    settled(program)
    return program
