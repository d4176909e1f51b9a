"""Written time: each note on a division of its beat, and how it is counted; what was played early or late stays known.

The division of every beat is chosen by dynamic programming over the grids lead players use, so that a run of triplets
stays triplets although single beats of it would fit another grid as well. Source of the method: H. Takeda, T.
Nishimoto and S. Sagayama, "Rhythm and tempo recognition of music performance from a probabilistic approach", ISMIR
2004; what each grid costs is common practice, no source.
"""

from dataclasses import dataclass, replace

import numpy as np

from notcher.core.arrays import FloatArray
from notcher.core.score.note import TOGETHER_S
from notcher.core.score.score import Score

DIVISIONS = 120
"""Parts of a beat: fits halves, thirds, quarters, fifths, sixths and eighths."""


@dataclass(frozen=True, slots=True)
class Grid:
    """Where notes may lie in a beat: parts, what choosing it costs, what each empty place costs."""

    name: str
    parts: tuple[int, ...]
    price: float
    empty: float


GRIDS = (
    Grid("whole", (0,), 0.0, 0.0),
    Grid("halves", (0, 60), 0.3, 0.0),
    Grid("swing", (0, 80), 1.0, 0.0),
    Grid("fourths", (0, 30, 60, 90), 0.6, 0.1),
    Grid("thirds", (0, 40, 80), 0.9, 0.4),
    Grid("sixths", (0, 20, 40, 60, 80, 100), 1.8, 0.7),
    Grid("fifths", (0, 24, 48, 72, 96), 2.2, 1.2),
    Grid("eighths", (0, 15, 30, 45, 60, 75, 90, 105), 2.2, 0.7),
)
SPREAD_S = 0.022  # how far from the grid a clean player's onsets lie
WORST = 9.0  # no single note speaks louder than three spreads
CHANGE = 1.2  # from beat to beat to another grid
CROWDED = 6.0  # two strokes on one place
AROUND_NOTES = 24


@dataclass(frozen=True, slots=True)
class WrittenTime:
    """A note's onset and length in parts of a beat, and the grid of its beat.

    onset counts from the bar that holds the first note.
    """

    onset: int
    length: int
    grid: Grid = GRIDS[0]


def written_times(score: Score) -> tuple[list[WrittenTime], int]:
    """Write every note on a grid; how early or late it was played stays in the score.

    Returns: one value a note, and the beat (a bar's first) that onset 0 stands for.
    Raises: ValueError when the score has no beat map.
    """
    onsets_s = np.array([note.onset_s for note in score.notes])
    onsets = score.beat_map.beat_at(onsets_s)
    ends = score.beat_map.beat_at(np.array([note.offset_s for note in score.notes]))
    if onsets.size == 0:
        return [], 0
    per_bar = score.beat_map.meter[0]
    first_beat = int(np.floor((onsets[0] + 0.25) / per_bar) * per_bar)
    starts, grids = _on_grids(onsets - first_beat, _beat_s(score, onsets), onsets_s)
    stops = np.rint((ends - first_beat) * 4).astype(int) * (DIVISIONS // 4)
    result = []
    for index, start in enumerate(starts):
        later = starts[starts > start]
        until = int(later.min()) if later.size else max(int(stops[index]), int(start) + DIVISIONS // 4)
        # a note fills the time to the next unless it stops clearly before: then a rest is written
        gap, short = until - stops[index], stops[index] - start
        stop = int(stops[index]) if gap >= DIVISIONS // 4 and short >= DIVISIONS // 4 else until
        result.append(WrittenTime(int(start), max(1, min(stop, until) - int(start)), grids[index]))
    return result, first_beat


def played_late_s(score: Score) -> FloatArray:
    """How late each note was played against where it is written, in seconds; early is negative.

    Returns: shape (n_notes,). Raises: ValueError when the score has no beat map.
    """
    times, first_beat = written_times(score)
    beats = np.array([first_beat + time.onset / DIVISIONS for time in times])
    return np.array([note.onset_s for note in score.notes]) - score.beat_map.time_at(beats)


def counted(score: Score, index: int) -> tuple[WrittenTime, float]:
    """Return where one note is written, and how late it was played in seconds (early is negative).

    Only its surroundings are looked at, so that it is quick in a long solo. Raises: ValueError without a beat map.
    """
    first = max(0, index - AROUND_NOTES)
    part = replace(score, notes=score.notes[first : index + AROUND_NOTES + 1])
    times, first_beat = written_times(part)
    time = times[index - first]
    beat = first_beat + time.onset / DIVISIONS
    late_s = score.notes[index].onset_s - float(score.beat_map.time_at(np.array([beat]))[0])
    return time, late_s


def _beat_s(score: Score, beats: FloatArray) -> FloatArray:
    """Length of the beat around each position, seconds."""
    return np.asarray(score.beat_map.time_at(np.floor(beats) + 1) - score.beat_map.time_at(np.floor(beats)))


def _on_grids(onsets: FloatArray, beat_s: FloatArray, onsets_s: FloatArray) -> tuple[np.ndarray, list[Grid]]:
    """Return the onset of each note in parts of a beat, order kept, and the grid of its beat."""
    # a note just before a beat belongs to it
    home = np.floor(onsets + np.minimum(0.08, 0.03 / beat_s)).astype(int)
    beats = np.arange(home.min(), home.max() + 1)
    members = [np.flatnonzero(home == beat) for beat in beats]
    options = [
        [_fitted((onsets[inside] - beat) * DIVISIONS, beat_s[inside], onsets_s[inside], grid) for grid in GRIDS]
        for beat, inside in zip(beats, members, strict=True)
    ]
    costs = np.array([[cost for cost, _ in row] for row in options])
    change = CHANGE * (1 - np.eye(len(GRIDS)))
    change[:, 0] = change[0, :] = 0  # a beat with one note on it says nothing about the grid
    total, came_from = costs[0], []
    for row in costs[1:]:
        walk = total[:, None] + change
        came_from.append(walk.argmin(axis=0))
        total = walk.min(axis=0) + row
    choice = [int(total.argmin())]
    for back in reversed(came_from):
        choice.append(int(back[choice[-1]]))
    starts, grids = np.zeros(onsets.size, dtype=np.int64), [GRIDS[0]] * onsets.size
    for beat, inside, row, chosen in zip(beats, members, options, choice[::-1], strict=True):
        starts[inside] = beat * DIVISIONS + row[chosen][1]
        for index in inside:
            grids[index] = GRIDS[chosen]
    return np.maximum.accumulate(np.maximum(starts, 0)), grids


def _fitted(parts: FloatArray, beat_s: FloatArray, onsets_s: FloatArray, grid: Grid) -> tuple[float, np.ndarray]:
    """What a grid costs for the notes of one beat, and where it puts them (parts, shape as given)."""
    places = np.array([*grid.parts, DIVISIONS])
    nearest = places[np.abs(parts[:, None] - places).argmin(axis=1)] if parts.size else np.zeros(0, dtype=np.int64)
    error_s = (parts - nearest) / DIVISIONS * beat_s
    cost = float(np.minimum((error_s / SPREAD_S) ** 2 / 2, WORST).sum())
    crowded = (np.diff(nearest) == 0) & (np.diff(onsets_s) > TOGETHER_S)
    empty = len(set(grid.parts) - set(nearest.tolist())) if parts.size else 0
    return cost + CROWDED * float(crowded.sum()) + grid.price + grid.empty * empty, nearest
