"""A player with faults that are known: performs any tab with a named skill, for trying out and for tests."""

from dataclasses import dataclass, replace

import numpy as np

from notcher.core.arrays import FloatArray
from notcher.core.score import CARELESS_SEMITONES, Note, PitchCurve, Score, Vibrato, retimed

SHORTEST_S, JOINED_S = 0.045, 0.03  # no hand is shorter; a gap this small is joined
WAVE_STEP_S = 0.01  # ten points in a swing and more


@dataclass(frozen=True, slots=True)
class Skill:
    """How a player plays. spread_ms: of the onsets. late_ms: all of them (rushing is negative).

    sag: share by which the tempo falls off in the middle third. flat_cents, flat_spread_cents: by how much bends stay
    short. missed, wrong, extra: shares of the notes left out, played a fret off, or added. wave: share of the written
    vibrato's width. wave_uneven: spread of its swings' length over their mean.
    """

    name: str
    spread_ms: float = 6.0
    late_ms: float = 0.0
    sag: float = 0.0
    flat_cents: float = 0.0
    flat_spread_cents: float = 4.0
    missed: float = 0.0
    wrong: float = 0.0
    extra: float = 0.0
    wave: float = 1.0
    wave_uneven: float = 0.0


SKILLS = {
    skill.name: skill
    for skill in (
        Skill("steady hand"),
        Skill("in a hurry", spread_ms=14.0, late_ms=-35.0),
        Skill("short of the top", flat_cents=45.0, flat_spread_cents=12.0),
        Skill("loses the thread", spread_ms=22.0, missed=0.2, wrong=0.08, extra=0.04),
        Skill("slows in the middle", spread_ms=12.0, sag=0.14),
        Skill("narrow and nervous wave", wave=0.4, wave_uneven=0.2),
    )
}
"""Invented players; the sizes of their faults are common practice, no source."""


@dataclass(frozen=True, slots=True)
class Performance:
    """What was played, and for each note of it the index of the written one; None for one that nobody wrote."""

    score: Score
    sources: tuple[int | None, ...]


def performed(score: Score, skill: Skill, *, seed: int = 1, begin_s: float = 0.0) -> Performance:
    """Return what a player of a skill makes of a tab: the truth to hold a report against.

    begin_s: where the tab's zero comes to lie.
    """
    dice = np.random.default_rng(seed)
    length_s = max((note.offset_s for note in score.notes), default=1.0)
    played: list[tuple[Note, int | None]] = []
    for index, note in enumerate(score.notes):
        chance, shift = dice.random(3), dice.normal(0, skill.spread_ms / 1000)
        onset_s, offset_s = (begin_s + skill.late_ms / 1000 + _sagged(t, length_s, skill.sag) for t in _ends(note))
        onset_s = max(0.0, onset_s + shift)
        moved = retimed(note, onset_s, max(offset_s, onset_s + SHORTEST_S))
        moved = _bent(moved, skill, float(dice.normal()), dice)
        if chance[0] < skill.missed:
            continue
        if chance[1] < skill.wrong and 1 < moved.fret < 23:
            moved = replace(moved, fret=moved.fret + int(dice.choice([-1, 1])))
        played.append((moved, index))
        if chance[2] < skill.extra and moved.duration_s > 0.3 and moved.string < score.tuning.strings:
            middle_s = (moved.onset_s + moved.offset_s) / 2
            played.append((Note(middle_s, moved.offset_s, moved.string + 1, max(1, moved.fret - 2)), None))
    in_order = sorted(_untangled(played), key=lambda played: (played[0].onset_s, played[0].string))
    whole = replace(score, phrases=(), chords=()).with_notes(note for note, _ in in_order)
    return Performance(whole, tuple(source for _, source in in_order))


def _ends(note: Note) -> tuple[float, float]:
    return note.onset_s, note.offset_s


def _sagged(time_s: float, length_s: float, sag: float) -> float:
    """Time that runs slower by a share in the middle third; it is not caught up again."""
    third = length_s / 3
    return time_s + sag * float(np.clip(time_s - third, 0, third))


def _bent(note: Note, skill: Skill, luck: float, dice: np.random.Generator) -> Note:
    size = note.reading.bend_semitones
    curve, wave = note.curve, note.vibrato
    if abs(size) >= CARELESS_SEMITONES:
        short = (skill.flat_cents + skill.flat_spread_cents * luck) / 100
        curve = PitchCurve(tuple((time_s, bend * (1 - short / abs(size))) for time_s, bend in curve.points))
    if wave is not None:
        wave = replace(wave, extent_cents=wave.extent_cents * skill.wave)
        if skill.wave_uneven > 0:
            curve, wave = _nervous(curve, wave, note.duration_s, skill.wave_uneven, dice), None
    return replace(note, curve=curve, vibrato=wave)


def _nervous(curve: PitchCurve, wave: Vibrato, length_s: float, uneven: float, dice: np.random.Generator) -> PitchCurve:
    """The curve with a wave on it whose swings differ in length."""
    swings = max(1, int(np.ceil((length_s - wave.from_s) * wave.rate_hz)) + 2)
    lengths = np.maximum(0.4, 1 + uneven * dice.normal(size=swings)) / wave.rate_hz
    edges = np.concatenate([[0.0], np.cumsum(lengths)])
    times_s: FloatArray = np.arange(0.0, length_s, WAVE_STEP_S)
    turns = np.interp(np.maximum(times_s - wave.from_s, 0), edges, np.arange(edges.size))
    grown = np.clip((times_s - wave.from_s) / 0.15, 0, 1) * wave.extent_cents / 100
    values = curve.at(times_s) + grown * wave.swung(turns)
    return PitchCurve(tuple(zip(times_s.tolist(), values.tolist(), strict=True)))


def _untangled(notes: list[tuple[Note, int | None]]) -> list[tuple[Note, int | None]]:
    """On one string a note ends where the next begins, and none begins before the one before it has sounded."""
    last: dict[int, int] = {}
    result: list[tuple[Note, int | None]] = []
    for note, source in sorted(notes, key=lambda played: played[0].onset_s):
        at = last.get(note.string)
        if at is not None:
            before, its_source = result[at]
            if note.onset_s < before.onset_s + SHORTEST_S:
                continue
            if before.offset_s > note.onset_s - JOINED_S:
                result[at] = (retimed(before, before.onset_s, note.onset_s), its_source)
        last[note.string] = len(result)
        result.append((note, source))
    return result
