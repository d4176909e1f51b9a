"""True tabs with planted errors: wrong frets, bends a half step short, shifted onsets, notes too few and too many."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from notcher.core.score import LEGATO_ATTACKS, Attack, Note, PitchCurve, Score, Tone, new_id

SHIFT_S = 0.1


@dataclass(frozen=True)
class Planted:
    """A tab with errors: what is wrong with which note, and the notes that were taken out."""

    score: Score
    wrong: dict[int, str]
    gone: tuple[Note, ...]


def plant(true: Score, seed: int, *, share: float = 0.05) -> Planted:
    """Return a true score with each kind of error planted in a share of its notes, never in neighbours."""
    dice = np.random.default_rng(seed)
    notes = list(true.notes)
    order = iter(dice.permutation(len(notes)).tolist())
    taken: set[int] = set()
    changed: dict[int, Note] = {}
    wrong: dict[str, str] = {}  # by the id of the note
    count = max(2, round(share * len(notes)))

    def some(fits: Callable[[int, Note], bool]) -> list[int]:
        found: list[int] = []
        while len(found) < count and (index := next(order, None)) is not None:
            if index not in taken and fits(index, notes[index]):
                taken.update({index - 1, index, index + 1})
                found.append(index)
        return found

    def change(index: int, kind: str, note: Note) -> None:
        changed[index] = note
        wrong[note.id] = kind

    def plain(_index: int, note: Note) -> bool:
        return note.attack is Attack.PICK and note.tone is Tone.NORMAL and 2 < note.fret < 21

    for index, note in enumerate(notes):
        size = note.reading.bend_semitones
        if "bend" in note.reading.names and size > 1.8 and index not in taken and dice.random() < 0.4:
            taken.update({index - 1, index, index + 1})
            short = PitchCurve(tuple((t, bend * (1 - 1 / size)) for t, bend in note.curve.points))
            change(index, "bend", replace(note, curve=short))
    for index in some(plain):
        change(index, "fret", replace(notes[index], fret=notes[index].fret + int(dice.choice([-1, 1, 2]))))
    for index in some(lambda i, n: plain(i, n) and n.duration_s > 0.12 and n.onset_s > 0.3):
        onset_s = notes[index].onset_s + SHIFT_S * float(dice.choice([-1, 1]))
        change(index, "onset", replace(notes[index], onset_s=onset_s, offset_s=notes[index].offset_s + SHIFT_S))
    gone = some(lambda i, n: plain(i, n) and (i + 1 == len(notes) or notes[i + 1].attack not in LEGATO_ATTACKS))
    result = [changed.get(index, note) for index, note in enumerate(notes) if index not in gone]
    for index in some(lambda _i, n: n.tone is Tone.NORMAL and n.duration_s > 0.1):
        host = notes[index]
        onset_s = host.onset_s + 0.45 * host.duration_s
        extra = Note(onset_s, host.offset_s, host.string % 6 + 1, max(1, (host.fret + 4) % 20), id=new_id())
        result.append(extra)
        wrong[extra.id] = "extra"
    score = true.with_notes(result)
    at = {index: wrong[note.id] for index, note in enumerate(score.notes) if note.id in wrong}
    return Planted(score, at, tuple(notes[index] for index in gone))
