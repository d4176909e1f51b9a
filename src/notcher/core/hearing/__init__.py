"""From sound to notes: pitch, attacks, segments, curves, tuning, beat map, and the draft that joins them."""

from notcher.core.hearing.analysis import Analysis
from notcher.core.hearing.beats import beat_map_from_taps, find_beats
from notcher.core.hearing.draft import Draft, HearingError, draft, first_phrases, written
from notcher.core.hearing.evidence import (
    Evidence,
    Measured,
    evidence,
    measured_gesture,
    snapped_note,
    snapped_to_evidence,
)
from notcher.core.hearing.harmony import CHROMA_HOP_S, proposed_chords
from notcher.core.hearing.pairing import closest_pairs
from notcher.core.hearing.pitch import EMPTY_TRACK, HOP_S, RATE, PitchTrack, track_pitch
from notcher.core.hearing.pitch_paths import Hint
from notcher.core.hearing.rehearing import heard_again, rest_heard, steered
from notcher.core.hearing.support import support
from notcher.core.hearing.tuning import SURE_OF_TUNING, TuningEvidence, TuningProposal, offset_cents, propose_tunings
from notcher.core.hearing.unclaimed import NOTHING_UNCLAIMED, Unclaimed, UnclaimedSounds, with_claim

__all__ = [
    "CHROMA_HOP_S",
    "EMPTY_TRACK",
    "HOP_S",
    "NOTHING_UNCLAIMED",
    "RATE",
    "SURE_OF_TUNING",
    "Analysis",
    "Draft",
    "Evidence",
    "HearingError",
    "Hint",
    "Measured",
    "PitchTrack",
    "TuningEvidence",
    "TuningProposal",
    "Unclaimed",
    "UnclaimedSounds",
    "beat_map_from_taps",
    "closest_pairs",
    "draft",
    "evidence",
    "find_beats",
    "first_phrases",
    "heard_again",
    "measured_gesture",
    "offset_cents",
    "propose_tunings",
    "proposed_chords",
    "rest_heard",
    "snapped_note",
    "snapped_to_evidence",
    "steered",
    "support",
    "track_pitch",
    "with_claim",
    "written",
]
