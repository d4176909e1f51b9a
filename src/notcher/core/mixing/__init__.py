"""What is heard together: loops with a count-in, levels and sides, what is played along with."""

from notcher.core.mixing.accompaniment import ALONG, Accompaniment, accompaniment
from notcher.core.mixing.handover import Handover, Turn
from notcher.core.mixing.levels import Levels, Pan
from notcher.core.mixing.loop import Loop, LoopPassage, Silence, counted_in, make_loop
from notcher.core.mixing.mix import Channel, MissingPart, matrix, missing_parts, mixed, of_recording
from notcher.core.mixing.mix_words import missing_part_words

__all__ = [
    "ALONG",
    "Accompaniment",
    "Channel",
    "Handover",
    "Levels",
    "Loop",
    "LoopPassage",
    "MissingPart",
    "Pan",
    "Silence",
    "Turn",
    "accompaniment",
    "counted_in",
    "make_loop",
    "matrix",
    "missing_part_words",
    "missing_parts",
    "mixed",
    "of_recording",
]
