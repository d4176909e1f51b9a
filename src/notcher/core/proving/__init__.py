"""Tab to sound, so that a claim can be heard beside the recording."""

from notcher.core.proving.string_model import driven, render

__all__ = ["driven", "render"]
