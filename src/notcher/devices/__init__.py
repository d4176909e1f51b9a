"""The loudspeaker, real or simulated, behind one small interface."""

from notcher.devices.choice import find_loudspeaker
from notcher.devices.loudspeaker import Loudspeaker, Source
from notcher.devices.qt_loudspeaker import QtLoudspeaker
from notcher.devices.simulated_loudspeaker import SimulatedLoudspeaker

__all__ = ["Loudspeaker", "QtLoudspeaker", "SimulatedLoudspeaker", "Source", "find_loudspeaker"]
