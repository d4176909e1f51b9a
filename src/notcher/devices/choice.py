"""Which devices this machine has."""

from PyQt6.QtCore import QObject
from PyQt6.QtMultimedia import QMediaDevices

from notcher.devices.guitar_input import GuitarInput
from notcher.devices.loudspeaker import Loudspeaker
from notcher.devices.qt_guitar_input import QtGuitarInput
from notcher.devices.qt_loudspeaker import QtLoudspeaker
from notcher.devices.simulated_guitarist import SimulatedGuitarist
from notcher.devices.simulated_loudspeaker import SimulatedLoudspeaker


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
