"""Tab to sound, so that a claim can be heard beside the recording; and the claim held against what was heard."""

from notcher.core.proving.amp import COLOURS, coloured, driven
from notcher.core.proving.backing import PARTS, backing, click
from notcher.core.proving.correcting import aside, corrected, written_in
from notcher.core.proving.doubts import Doubt, doubts
from notcher.core.proving.proof import OPEN, Finding, Proof, Reached, Unwritten, evidence, prove
from notcher.core.proving.string_model import render

__all__ = [
    "COLOURS",
    "OPEN",
    "PARTS",
    "Doubt",
    "Finding",
    "Proof",
    "Reached",
    "Unwritten",
    "aside",
    "backing",
    "click",
    "coloured",
    "corrected",
    "doubts",
    "driven",
    "evidence",
    "prove",
    "render",
    "written_in",
]
