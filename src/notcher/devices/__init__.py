"""Loudspeaker, guitar input, footswitch, voice: each a real one and a simulated one behind one small interface."""

from notcher.devices.choice import find_guitar_input, find_loudspeaker, find_voice, wake_voice
from notcher.devices.footswitch import Footswitch, KeyFootswitch, MidiFootswitch, find_footswitch
from notcher.devices.guitar_input import GuitarInput
from notcher.devices.loudspeaker import Loudspeaker, SampleSource
from notcher.devices.plugged import PluggedInput, PluggedLoudspeaker
from notcher.devices.qt_guitar_input import QtGuitarInput
from notcher.devices.qt_loudspeaker import QtLoudspeaker
from notcher.devices.simulated_guitarist import SimulatedGuitarist
from notcher.devices.simulated_loudspeaker import SimulatedLoudspeaker
from notcher.devices.sound_server import Plugged, SoundServer
from notcher.devices.voice import Voice, WrittenVoice

__all__ = [
    "Footswitch",
    "GuitarInput",
    "KeyFootswitch",
    "Loudspeaker",
    "MidiFootswitch",
    "Plugged",
    "PluggedInput",
    "PluggedLoudspeaker",
    "QtGuitarInput",
    "QtLoudspeaker",
    "SampleSource",
    "SimulatedGuitarist",
    "SimulatedLoudspeaker",
    "SoundServer",
    "Voice",
    "WrittenVoice",
    "find_footswitch",
    "find_guitar_input",
    "find_loudspeaker",
    "find_voice",
    "wake_voice",
]
