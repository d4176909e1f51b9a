"""From sound to notes: pitch, strikes, segments, curves, tuning, pulse, and the draft that joins them."""

from notcher.core.hearing.draft import Draft, HearingError, draft
from notcher.core.hearing.evidence import snapped_to_evidence
from notcher.core.hearing.phrasing import phrases_of
from notcher.core.hearing.pitch import EMPTY_TRACK, HOP_S, RATE, PitchTrack, track_pitch
from notcher.core.hearing.pulse import find_pulse, pulse_from_taps
from notcher.core.hearing.shape import Shape, shape_of
from notcher.core.hearing.tuning import TuningProposal, offset_cents, propose_tunings

__all__ = [
    "EMPTY_TRACK",
    "HOP_S",
    "RATE",
    "Draft",
    "HearingError",
    "PitchTrack",
    "Shape",
    "TuningProposal",
    "draft",
    "find_pulse",
    "offset_cents",
    "phrases_of",
    "propose_tunings",
    "pulse_from_taps",
    "shape_of",
    "snapped_to_evidence",
    "track_pitch",
]
