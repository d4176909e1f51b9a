"""Where a lick comes again, note for note, and where a cell moves along the neck."""

from collections.abc import Sequence

LICK_NOTES = 5  # fewer equal intervals are chance
CELL_NOTES, LEAST_CELLS, FURTHEST = range(3, 9), 3, 4
"""A cell is of three to eight notes, three times, moved four semitones at most."""
EVEN_SHARE = 0.35  # how far the lengths of two playings may part


def repeats(midi: Sequence[float], onsets_s: Sequence[float], attacks: Sequence[str]) -> dict[int, int]:
    """Return for each note of a repeated lick the same note where the lick came first.

    midi, onsets_s, attacks: one a note, in time order. A lick is five notes and more of the same pitches and attacks in
    about the same rhythm.
    """
    first_seen: dict[tuple[tuple[float, str], ...], int] = {}
    result: dict[int, int] = {}
    for first in range(len(midi) - LICK_NOTES + 1):
        lick = tuple((midi[first + i], str(attacks[first + i])) for i in range(LICK_NOTES))
        earlier = first_seen.setdefault(lick, first)
        if first - earlier >= LICK_NOTES and _alike(onsets_s, earlier, first):
            for i in range(LICK_NOTES):
                result.setdefault(first + i, result.get(earlier + i, earlier + i))
    return result


def moved_cells(midi: Sequence[float]) -> dict[int, int]:
    """Return for each note of a cell that moves on by equal steps the same note of the first cell.

    midi: one a note, in time order. A cell has three to eight notes and comes three times and more on end, each time so
    many semitones away, at most four: a shape that moves along the neck on its strings.
    """
    result: dict[int, int] = {}
    for size in CELL_NOTES:
        run = 0
        for index in range(size, len(midi)):
            step = midi[index] - midi[index - size]
            before = midi[index - 1] - midi[index - 1 - size] if index > size else None
            run = run + 1 if 0 < abs(step) <= FURTHEST and step == before else 1
            if run >= (LEAST_CELLS - 1) * size:
                first = index - run + 1 - size
                for at in range(first + size, index + 1):
                    result.setdefault(at, first + (at - first) % size)
    return result


def _alike(onsets_s: Sequence[float], first: int, second: int) -> bool:
    spans = [onsets_s[at + LICK_NOTES - 1] - onsets_s[at] for at in (first, second)]
    return abs(spans[0] - spans[1]) <= EVEN_SHARE * max(spans)
