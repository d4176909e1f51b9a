"""MIDI, written and read."""
