"""Written time: each note on the nearest of a beat's usual grids, and how it is counted."""

from dataclasses import dataclass

import numpy as np

from notcher.core.arrays import FloatArray
from notcher.core.score.score import Score

DIVISIONS = 12
"""Parts of a beat: fits halves, thirds, quarters and sixths."""
GRIDS = ((3, 0.0), (2, 0.35))
"""Step of each grid in parts, and what choosing it costs (parts, per note): fours before sixes when both fit."""
WORDS = {3: "e", 6: "&", 9: "a", 4: "trip", 8: "let"}


@dataclass(frozen=True, slots=True)
class WrittenTime:
    """A note's onset and length in parts of a beat; onset counts from the bar that holds the first note."""

    onset: int
    length: int


def written_times(score: Score) -> tuple[list[WrittenTime], int]:
    """Quantise every note; how early or late it was played stays in the score.

    Returns: one value a note, and the beat (a bar's first) that onset 0 stands for.
    Raises: ValueError when the score has no pulse.
    """
    onsets = score.pulse.beat_at(np.array([note.onset_s for note in score.notes]))
    ends = score.pulse.beat_at(np.array([note.offset_s for note in score.notes]))
    if onsets.size == 0:
        return [], 0
    per_bar = score.pulse.meter[0]
    first_beat = int(np.floor((onsets[0] + 0.25) / per_bar) * per_bar)
    starts = _snapped((onsets - first_beat) * DIVISIONS)
    stops = np.rint((ends - first_beat) * DIVISIONS / 3).astype(int) * 3
    result = []
    for index, start in enumerate(starts):
        later = starts[starts > start]
        until = int(later.min()) if later.size else max(int(stops[index]), int(start) + 3)
        # a note fills the time to the next unless it stops clearly before: then a rest is written
        gap = until - stops[index]
        stop = int(stops[index]) if gap >= 3 and stops[index] - start >= 3 else until
        result.append(WrittenTime(int(start), max(1, min(stop, until) - int(start))))
    return result, first_beat


def _snapped(positions: FloatArray) -> FloatArray:
    """Put the onsets of each beat on the grid that fits them best, order kept."""
    snapped = np.zeros(positions.size, dtype=np.int64)
    beats = np.floor((positions + 1.0) / DIVISIONS).astype(int)
    for beat in np.unique(beats):
        inside = beats == beat
        errors = {
            step: float(np.sum(np.abs(positions[inside] - np.rint(positions[inside] / step) * step) + price))
            for step, price in GRIDS
        }
        step = min(errors, key=lambda grid: errors[grid])
        snapped[inside] = np.maximum(np.rint(positions[inside] / step) * step, 0)
    return np.maximum.accumulate(snapped)


def count_word(onset: int, *, beats_per_bar: int) -> str:
    """Return how a written onset is counted: "1", "e", "&", "a", "trip", "let"; "." off these."""
    beat, part = divmod(onset, DIVISIONS)
    return str(beat % beats_per_bar + 1) if part == 0 else WORDS.get(part, ".")
