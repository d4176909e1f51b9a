"""The beats that are counted before music begins: a whole bar, then what its own bar has before the first note."""

from dataclasses import dataclass

import numpy as np

from notcher.core.arrays import BoolArray, FloatArray
from notcher.core.score.beat_map import BeatMap

WITHOUT_BEATS, APART_S = 4, 0.6  # clicks, and seconds between them, where no beats are known
EARLY_BEATS = 0.15  # so much before a beat music is ahead of it, and belongs to its bar
SAME_BEATS = 1e-6


@dataclass(frozen=True, eq=False)
class CountIn:
    """Clicks at the recorded tempo.

    clicks_s: shape (n,), seconds from its beginning. firsts: shape (n,), which of them are the first of a bar.
    length_s: seconds until the music begins.
    """

    clicks_s: FloatArray
    firsts: BoolArray
    length_s: float


def count_in_of(beat_map: BeatMap, start_s: float) -> CountIn:
    """Return what is counted before music that begins at a second of the recording.

    A player has to know where one is: the count begins a bar before the bar of the first note, and goes on through
    what that bar has before it, a lead-in's rest too (common practice, no source). Its beats are even, at the tempo
    that the music begins in.
    """
    if not beat_map.known:
        return CountIn(np.arange(WITHOUT_BEATS) * APART_S, np.arange(WITHOUT_BEATS) == 0, WITHOUT_BEATS * APART_S)
    start = beat_map.quarter(start_s)
    bar = beat_map.bar_at(start + EARLY_BEATS * beat_map.meter_at(start).beat_quarters)
    meter = beat_map.bar_meter(bar)
    into = (start - beat_map.bar_start(bar)) / meter.beat_quarters
    beats = np.arange(-meter.felt, np.ceil(into - SAME_BEATS))
    beat_s = 60.0 / beat_map.tempo_at(start_s)
    return CountIn((beats + meter.felt) * beat_s, beats % meter.felt == 0, (into + meter.felt) * beat_s)
