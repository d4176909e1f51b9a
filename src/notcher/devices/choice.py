"""Which devices this machine has."""

import contextlib
import shutil
import subprocess

from PyQt6.QtCore import QObject
from PyQt6.QtMultimedia import QMediaDevices

from notcher.devices.guitar_input import GuitarInput
from notcher.devices.loudspeaker import Loudspeaker
from notcher.devices.qt_guitar_input import QtGuitarInput
from notcher.devices.qt_loudspeaker import QtLoudspeaker
from notcher.devices.simulated_guitarist import SimulatedGuitarist
from notcher.devices.simulated_loudspeaker import SimulatedLoudspeaker
from notcher.devices.voice import Voice, WrittenVoice


def find_loudspeaker(parent: QObject | None = None) -> Loudspeaker:
    """Return the real loudspeaker, or the simulated one where there is none."""
    if QMediaDevices.audioOutputs():
        return QtLoudspeaker(parent)
    return SimulatedLoudspeaker(parent)


def find_guitar_input(parent: QObject | None = None) -> GuitarInput:
    """Return the real input, or the simulated guitarist where there is none."""
    if QMediaDevices.audioInputs():
        return QtGuitarInput(parent)
    return SimulatedGuitarist(parent)


def wake_voice() -> None:
    """Start the machine's speech service where there is one; takes seconds, and may be done in any thread."""
    service = shutil.which("speech-dispatcher")
    if service is not None:
        with contextlib.suppress(OSError, subprocess.SubprocessError):
            subprocess.run([service, "--spawn"], timeout=WAKE_S, capture_output=True, check=False)


WAKE_S = 8.0  # a sound server starts within this, or never


def find_voice(parent: QObject | None = None) -> Voice:
    """Return the machine's voice where it has one, else one that writes; see `wake_voice` for what takes long."""
    from notcher.devices.qt_voice import QtVoice, engines  # slow to load, and most sittings need none

    for engine in engines():
        voice = QtVoice(engine, parent)
        if voice.ready:
            return voice
        voice.deleteLater()
    return WrittenVoice(parent)
