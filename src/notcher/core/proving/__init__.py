"""Tab to sound, so that a claim can be heard beside the recording; and the claim held against what was heard."""

from notcher.core.proving.proof import OPEN, Finding, Proof, Unwritten, prove
from notcher.core.proving.string_model import driven, render

__all__ = ["OPEN", "Finding", "Proof", "Unwritten", "driven", "prove", "render"]
