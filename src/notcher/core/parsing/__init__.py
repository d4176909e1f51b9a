"""What a person types, read: a curve in words, a count, a beat, a day."""

from notcher.core.parsing.beats import BeatError, beat_map_from_text
from notcher.core.parsing.counts import CountError, count_from_text
from notcher.core.parsing.days import DayError, day_from_text
from notcher.core.parsing.gestures import GestureError, gesture_from_text

__all__ = [
    "BeatError",
    "CountError",
    "DayError",
    "GestureError",
    "beat_map_from_text",
    "count_from_text",
    "day_from_text",
    "gesture_from_text",
]
