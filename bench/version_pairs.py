"""Two versions of one solo with known differences: another tempo curve, key and sound, a tenth of the notes changed."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from notcher.core.proving import Differs
from notcher.core.score import FLAT, Attack, BeatMap, Note, Score, Tone, Tuning, bent_curve, sounding_with, with_times

CHANGED = 0.1
PLAIN = (Tone.NORMAL, Tone.PALM_MUTE)
KEYS = (-3, -2, -1, 1, 2, 3)
TEMPO_SPREAD, TEMPO_SWING_S = 0.12, 9.0  # how far a player's tempo wanders, and how slowly


@dataclass(frozen=True)
class Changed:
    """One change: its kind, when it is in the first version, the ids of the notes it concerns."""

    kind: Differs
    at_s: float
    first: str = ""
    second: str = ""


@dataclass(frozen=True)
class VersionPair:
    """first, second: as played. changes: what is not the same. rhythm: nothing that was left as it was may be told."""

    first: Score
    second: Score
    changes: tuple[Changed, ...]
    shift: int


def version_pair(true: Score, seed: int, *, key: int | None = None) -> VersionPair:
    """Change a tenth of a solo's notes, then play it in another key and at another player's tempo."""
    dice = np.random.default_rng([seed, 71])
    notes, changes = _changed(true, dice)
    shift = int(dice.choice(KEYS)) if key is None else key
    opens = tuple(midi + shift for midi in true.tuning.open_midi)
    second = replace(true, notes=(), phrases=(), sections=(), tuning=Tuning(opens, true.tuning.capo)).with_notes(notes)
    at = wandering(dice, max(note.offset_s for note in true.notes) + 2.0)
    moved = with_times(second, at)
    if true.beat_map.known:
        anchors = tuple((at(time_s), quarter) for time_s, quarter in true.beat_map.anchors)
        moved = replace(moved, beat_map=replace(true.beat_map, anchors=anchors))
    return VersionPair(true, moved, tuple(changes), shift)


def wandering(dice: np.random.Generator, length_s: float):  # type: ignore[no-untyped-def]
    """A player's time: from seconds here to seconds there, the tempo wandering slowly around one that is another."""
    grid = np.arange(0.0, length_s + 10, 0.05)
    waves = sum(
        dice.normal(0, 0.5) * np.sin(2 * np.pi * grid / (TEMPO_SWING_S * dice.uniform(0.7, 2.0)) + dice.uniform(0, 6.3))
        for _ in range(4)
    )
    rate = float(dice.uniform(0.85, 1.2)) * np.exp(TEMPO_SPREAD * waves)
    there = np.concatenate([[0.3], 0.3 + np.cumsum(rate[:-1]) * 0.05])
    return lambda time_s: float(np.interp(time_s, grid, there))


def _changed(true: Score, dice: np.random.Generator) -> tuple[list[Note], list[Changed]]:
    notes: dict[int, list[Note]] = {at: [note] for at, note in enumerate(true.notes)}
    changes: list[Changed] = []
    free = [
        at
        for at, note in enumerate(true.notes)
        if note.attack is Attack.PICK
        and note.tone in PLAIN
        and not _is_joined(true, at)
        and not sounding_with(true, at)
    ]
    count = round(CHANGED * len(true.notes))
    chosen = dice.choice(free, size=min(count, len(free)), replace=False) if free else []
    for at in sorted(int(index) for index in chosen):
        note = true.notes[at]
        kind = _kind(note, dice)
        if kind is Differs.LEFT_OUT:
            notes[at] = []
            changes.append(Changed(kind, note.onset_s, first=note.id))
        elif kind is Differs.ADDED:
            middle = (note.onset_s + note.offset_s) / 2
            short = replace(note, offset_s=middle - 0.01, curve=FLAT, vibrato=None)
            more = Note(middle, note.offset_s, note.string, _other_fret(note, dice))
            notes[at] = [short, more]
            changes.append(Changed(kind, middle, second=more.id))
        elif kind is Differs.BEND:
            size = 1.0 if round(note.reading.bend_semitones) != 1 else 2.0
            size = 0.0 if dice.random() < 0.3 else size
            curve = bent_curve(size, note.duration_s) if size else FLAT
            notes[at] = [replace(note, curve=curve, vibrato=None)]
            changes.append(Changed(kind, note.onset_s, note.id, note.id))
        else:
            notes[at] = [replace(note, fret=_other_fret(note, dice))]
            changes.append(Changed(kind, note.onset_s, note.id, note.id))
    return [note for row in notes.values() for note in row], changes


def _kind(note: Note, dice: np.random.Generator) -> Differs:
    kinds = [Differs.PITCH, Differs.PITCH, Differs.LEFT_OUT]
    if note.duration_s > 0.4 and not note.bent:
        kinds.append(Differs.ADDED)
    if note.bent and note.duration_s > 0.3:
        kinds += [Differs.BEND] * 2
    return kinds[int(dice.integers(len(kinds)))]


def _other_fret(note: Note, dice: np.random.Generator) -> int:
    ways = [step for step in (-3, -2, -1, 1, 2, 3) if 1 <= note.fret + step <= 21]
    return note.fret + int(dice.choice(ways))


def _is_joined(score: Score, at: int) -> bool:
    """Whether the note runs into the next one on its string: what follows from it would be another gesture."""
    note = score.notes[at]
    return any(note.leads_to(other) and other.attack is not Attack.PICK for other in score.notes[at + 1 : at + 4])


def without_times(score: Score, *, rhythm: bool) -> Score:
    """A tab as it is written by hand. rhythm: in its proportions, over even beats; else notes stand evenly apart."""
    if rhythm:
        return score
    notes, at_s, before_s = [], 0.0, -1.0
    for note in score.notes:
        if before_s >= 0 and note.onset_s - before_s > 0.02:
            at_s += 0.25
        before_s = note.onset_s
        share = 0.24 / note.duration_s
        curve = type(note.curve)(tuple((t * share, bend) for t, bend in note.curve.points))
        wave = None if note.vibrato is None else replace(note.vibrato, from_s=note.vibrato.from_s * share)
        notes.append(replace(note, onset_s=at_s, offset_s=at_s + 0.24, curve=curve, vibrato=wave))
    return replace(score, notes=(), beat_map=BeatMap(), phrases=(), chords=()).with_notes(notes)
