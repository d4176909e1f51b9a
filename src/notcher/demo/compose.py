"""Makes the demo's recordings from its score: `./dev compose`.

The lead is the string model through an amp, the band is the backing of the chord and beat lanes.
"""

from pathlib import Path

import numpy as np

from notcher.core.formats import Document, write_document
from notcher.core.sound import Clip, write_clip
from notcher.core.synthesis import backing, driven, render
from notcher.demo.solo import demo_score

RATE = 44_100
LEAD_GAIN_IN, LEAD_GAIN = 1.6, 0.62  # into the amp, into the mix


def main() -> None:
    """Write both recordings and the true score beside this file."""
    score = demo_score()
    dry = render(score, sample_rate=RATE)
    lead = driven(dry.samples[:, 0], gain=LEAD_GAIN_IN)
    folder = Path(__file__).parent
    write_clip(Clip(lead[:, None] * np.float32(0.9), RATE), folder / "lantern-watch-lead.ogg", kind="OGG")
    write_document(Document(score), folder / "lantern-watch-as-composed.notch")
    band = backing(score, duration_s=lead.size / RATE, sample_rate=RATE).samples[: lead.size]
    mix = band + np.float32(LEAD_GAIN) * np.repeat(lead[:, None], 2, axis=1)
    mix *= 0.85 / np.max(np.abs(mix))
    write_clip(Clip(mix.astype(np.float32), RATE), folder / "lantern-watch-mix.ogg", kind="OGG")


if __name__ == "__main__":
    main()
