"""Solos with shapes planted into them, by plain arithmetic that shares nothing with the finder.

A line walks at random; into it go licks that come again in a named way. `noisy` then does what a draft does: some notes
wrong, lost or added, all times a little off.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from notcher.core.score import BeatMap, Note, Score

OPEN = (64, 59, 55, 50, 45, 40)
SCALES = ((0, 3, 5, 7, 10), (0, 2, 4, 5, 7, 9, 11), (0, 2, 3, 5, 7, 8, 10), (0, 2, 4, 7, 9))
LENGTHS = (0.25, 0.25, 0.5, 0.5, 0.5, 1.0, 0.75, 1.5)
KINDS = ("exact", "other_ending", "along_neck", "across_strings", "octave", "cell", "sequence")
Row = tuple[float, int, int]
"""Beat, string, fret."""


@dataclass(frozen=True)
class Planted:
    """kind; the numbers of the first playing's notes and of every other one's, each in order."""

    kind: str
    playings: tuple[tuple[int, ...], ...]


def places_of(midi: int) -> list[tuple[int, int]]:
    return [(string + 1, midi - low) for string, low in enumerate(OPEN) if 0 <= midi - low <= 19]


class _Line:
    def __init__(self, dice: np.random.Generator) -> None:
        self.dice, self.rows, self.beat = dice, [], 0.0
        scale, tonic = SCALES[int(dice.integers(len(SCALES)))], int(dice.integers(12))
        self.pitches = [midi for midi in range(45, 80) if (midi - tonic) % 12 in scale]
        self.at, self.home = len(self.pitches) // 2, int(dice.integers(3, 9))

    def place(self, midi: int) -> tuple[int, int]:
        return min(places_of(midi), key=lambda place: (abs(place[1] - self.home - 1.5), place[0]))

    def lick(self, count: int) -> list[tuple[float, int, int]]:
        """(length, string, fret) of a new lick, no step of it like the one before in both time and size."""
        found = []
        for _ in range(count):
            step = int(self.dice.choice([-4, -3, -2, -1, 1, 2, 3, 4]))
            if not 3 <= self.at + step < len(self.pitches) - 3:
                step = -step
            self.at = int(np.clip(self.at + step, 0, len(self.pitches) - 1))
            found.append((float(self.dice.choice(LENGTHS)), *self.place(self.pitches[self.at])))
        return found

    def play(self, lick: list[tuple[float, int, int]]) -> tuple[int, ...]:
        first = len(self.rows)
        for length, string, fret in lick:
            self.rows.append((self.beat, length, string, fret))
            self.beat += length
        return tuple(range(first, len(self.rows)))

    def fill(self) -> None:
        self.play(self.lick(int(self.dice.integers(3, 9))))
        if self.dice.random() < 0.6:
            self.beat = float(np.ceil(self.beat)) + float(self.dice.choice([0.0, 0.5, 1.0]))


def _moved(
    lick: list[tuple[float, int, int]], kind: str, dice: np.random.Generator
) -> list[tuple[float, int, int]] | None:
    if kind == "along_neck":
        by = int(dice.choice([-5, -3, -2, 2, 3, 5, 7]))
        moved = [(length, string, fret + by) for length, string, fret in lick]
    elif kind == "across_strings":
        by = int(dice.choice([-1, 1]))
        moved = []
        for length, string, fret in lick:
            if not 1 <= string + by <= 6:
                return None
            up = 5 * -by  # fourths, as the guitar is tuned but for one pair of strings
            moved.append((length, string + by, OPEN[string - 1] + fret + up - OPEN[string + by - 1]))
    elif kind == "octave":
        moved = []
        for length, string, fret in lick:
            options = [place for place in places_of(OPEN[string - 1] + fret + 12) if place[1] >= 5]
            if not options:
                return None
            moved.append((length, *min(options, key=lambda place: abs(place[1] - 12))))
    else:
        moved = list(lick)
    return moved if all(0 <= fret <= 22 for _, _, fret in moved) else None


def planted_solo(seed: int, *, shapes: int = 8, tempo: float | None = None) -> tuple[Score, list[Planted]]:
    """A solo of some 200 notes with shapes planted, and what was planted."""
    dice = np.random.default_rng(seed)
    line, planted = _Line(dice), []
    waiting: list[tuple[str, list[tuple[float, int, int]], tuple[int, ...]]] = []
    line.fill()
    for number in range(shapes):
        kind = KINDS[(seed + number) % len(KINDS)]
        if kind == "cell":
            size, length = int(dice.integers(2, 6)), float(dice.choice([0.25, 0.5, 1 / 3]))
            cell = [(length, s, f) for _, s, f in line.lick(size)]
            if len({(s, f) for _, s, f in cell}) == size:
                planted.append(Planted(kind, tuple(line.play(cell) for _ in range(int(dice.integers(3, 6))))))
        elif kind == "sequence":
            size, length = int(dice.integers(3, 6)), float(dice.choice([0.25, 0.5, 1 / 3]))
            shape = [0, *(int(step) for step in dice.choice([-3, -2, -1, 1, 2, 3], size - 1))]
            way, turns = int(dice.choice([-1, 1])), int(dice.integers(3, 5))
            start = int(np.clip(line.at, 8, len(line.pitches) - 9))
            degrees = [[start + turn * way + step for step in shape] for turn in range(turns)]
            if (
                len(set(np.diff([*shape, way]))) > 1
                and min(map(min, degrees)) >= 0
                and max(map(max, degrees)) < len(line.pitches)
            ):
                playings = [line.play([(length, *line.place(line.pitches[at])) for at in turn]) for turn in degrees]
                planted.append(Planted(kind, tuple(playings)))
        else:
            lick = line.lick(int(dice.integers(6, 11)))
            waiting.append((kind, lick, line.play(lick)))
            if kind == "other_ending":  # playings are told by the rests around them
                line.beat = float(np.ceil(line.beat)) + 1.0
        line.fill()
        if kind in ("exact", "cell"):
            line.beat = float(np.ceil(line.beat)) + 1.0
        if len(waiting) > 1 or (waiting and number == shapes - 1):
            kind, lick, first = waiting.pop(0)
            again = _moved(lick, kind, dice)
            if again is None:
                continue
            line.beat = float(np.ceil(line.beat)) + 1.0
            if kind == "other_ending":
                common = len(lick) - 2
                line.play([*again[:common], *line.lick(2)])
                last = len(line.rows) - 2
                planted.append(Planted(kind, (first[:common], tuple(range(last - common, last)))))
                line.beat = float(np.ceil(line.beat)) + 1.0
            else:
                planted.append(Planted(kind, (first, line.play(again))))
            line.fill()
    beats_s = 60.0 / (tempo or float(dice.integers(80, 150)))
    notes = [
        Note(0.5 + beat * beats_s, 0.5 + (beat + 0.92 * length) * beats_s, string, fret)
        for beat, length, string, fret in line.rows
    ]
    return Score(tuple(notes), beat_map=BeatMap.steady(60 / beats_s, 0.5)), planted


def noisy(score: Score, seed: int, *, wrong: float = 0.03, spread_s: float = 0.02) -> tuple[Score, dict[int, int]]:
    """The solo as a draft would have it, and for each note that is left which one of the new solo it is."""
    dice = np.random.default_rng(seed)
    notes: list[tuple[Note, int | None]] = []
    for number, note in enumerate(score.notes):
        off = float(dice.uniform(-spread_s, spread_s))
        onset_s = max(0.0, note.onset_s + off)
        string, fret, chance = note.string, note.fret, float(dice.random())
        if chance < wrong / 3:
            continue
        if chance < 2 * wrong / 3:
            fret = max(0, fret + int(dice.choice([-2, -1, 1, 2])))
        notes.append((Note(onset_s, max(note.offset_s, onset_s + 0.03), string, fret), number))
        if 2 * wrong / 3 <= chance < wrong:
            middle_s = (note.onset_s + note.offset_s) / 2
            notes.append((Note(middle_s, note.offset_s + 0.001, string, min(24, fret + 2)), None))
    ordered = sorted(notes, key=lambda row: (row[0].onset_s, row[0].string))
    kept = {number: at for at, (_, number) in enumerate(ordered) if number is not None}
    return score.with_notes(note for note, _ in ordered), kept
