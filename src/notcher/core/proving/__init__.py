"""Tab to sound, so that a claim can be heard beside the recording; and the claim held against what was heard."""

from notcher.core.proving.amp import COLOURS, coloured, driven
from notcher.core.proving.backing import PARTS, backing, click
from notcher.core.proving.proof import OPEN, Finding, Proof, Unwritten, prove
from notcher.core.proving.string_model import render

__all__ = [
    "COLOURS",
    "OPEN",
    "PARTS",
    "Finding",
    "Proof",
    "Unwritten",
    "backing",
    "click",
    "coloured",
    "driven",
    "prove",
    "render",
]
