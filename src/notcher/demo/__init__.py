"""The invented house band of a lightship off an invented coast, and the solo composed for it."""

from importlib.resources import files
from pathlib import Path

from notcher.demo.solo import TITLE, demo_score

__all__ = ["TITLE", "demo_audio", "demo_score"]


def demo_audio(kind: str = "mix") -> Path:
    """Return the path of the demo's recording: "mix" (stereo, with the band) or "lead" (the guitar alone)."""
    return Path(str(files("notcher.demo") / f"lantern-watch-{kind}.ogg"))
