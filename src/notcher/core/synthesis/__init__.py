"""Tab to sound: the string model, its amplifier, the backing band, a simulated performer."""

from notcher.core.synthesis.amp import COLOURS, coloured, driven
from notcher.core.synthesis.backing import PARTS, backing, click
from notcher.core.synthesis.performer import SKILLS, Skill, performed
from notcher.core.synthesis.string_model import render

__all__ = [
    "COLOURS",
    "PARTS",
    "SKILLS",
    "Skill",
    "backing",
    "click",
    "coloured",
    "driven",
    "performed",
    "render",
]
