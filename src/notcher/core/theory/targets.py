"""What each note of a line is to the chord that sounds then: a chord tone, or which kind of other tone, and where it
lands.

Kinds of tones outside the chord as in S. Kostka and D. Payne, "Tonal Harmony", 4th ed. 2000, ch. 11 (from memory): a
passing tone is approached and left by step in one direction, a neighbour by step and back; what is approached by leap
and left by step into a chord tone leads into it (appoggiatura; here: approach). A step is two semitones at most. What
none of them explains and lies a seventh and more over the root is an extension: 9, 11, 13.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum
from itertools import pairwise

from notcher.core.score import Chord, Score
from notcher.core.theory.chord_symbol import ChordError, ChordTones, chord_tones

STEP = 2  # semitones
ON_CHANGE_S, ON_CHANGE_BEATS = 0.06, 0.12  # from the chord's beginning, either way
DEGREES = ("1", "b9", "9", "b3", "3", "11", "b5", "5", "b13", "13", "b7", "7")
"""Names of the semitones over a chord's root, where its symbol says nothing else (common practice, no source)."""


class Role(StrEnum):
    """What a note is to its chord; the names are those of `notcher patterns --json`."""

    CHORD_TONE = "chord_tone"
    EXTENSION = "extension"
    PASSING = "passing"
    NEIGHBOUR = "neighbour"
    APPROACH = "approach"
    BENT_INTO = "bent_into"


@dataclass(frozen=True, slots=True)
class Target:
    """One note under a chord. index: of the note. chord: as it was typed. degree: over the chord's root.
    lands_on_change: on the beat on which the chord changes, and in the new chord. strong: on a felt beat."""

    index: int
    chord: str
    degree: str
    role: Role
    lands_on_change: bool
    strong: bool = False

    @property
    def in_chord(self) -> bool:
        return self.role in (Role.CHORD_TONE, Role.BENT_INTO)


def targets(score: Score) -> tuple[Target, ...]:
    """Return what each note under a chord is to it, in time order; a name that means nothing is passed over.

    Chords are called as on the neck, so pitches are taken as on the neck too.
    """
    chords = {name: read_chord(name) for name in {chord.name for chord in score.chords}}
    tones: list[ChordTones | None] = []
    names: list[str] = []
    for note in score.notes:
        name = score.chord_at(note.onset_s + ON_CHANGE_S)  # what is a little early is heard with what comes
        names.append(name)
        tones.append(chords.get(name))
    reached = [midi - score.tuning.shift for midi in reached_midi(score)]
    inside = [
        chord is not None and pitch % 12 in chord.pitch_classes for chord, pitch in zip(tones, reached, strict=True)
    ]
    changes = _changes(score)
    result = []
    for index, chord in enumerate(tones):
        if chord is None:
            continue
        bent = round(score.notes[index].reading.bend_semitones) != 0
        if inside[index]:
            role = Role.BENT_INTO if bent else Role.CHORD_TONE
        else:
            role = _outside(reached, inside, index)
        lands = inside[index] and _on_change(score, index, changes)
        result.append(Target(index, names[index], degree(chord, reached[index]), role, lands, _strong(score, index)))
    return tuple(result)


def reached_midi(score: Score) -> list[int]:
    """Return the pitch that each note is bent to, or has when it is not bent; whole semitones, as it sounds."""
    return [round(score.sounding_midi(note)) + round(note.reading.bend_semitones) for note in score.notes]


def degree(chord: ChordTones, midi: int) -> str:
    """Return what a pitch is over a chord's root: "1", "b3", "11", "#11", "b7" …"""
    over = (midi - chord.root) % 12
    for interval in chord.intervals:
        if interval % 12 == over and interval in NAMED:
            return NAMED[interval]
    named = {3: "#9" if 4 in chord.intervals else "b3", 6: "b5" if 7 not in chord.intervals else "#11"}
    return named.get(over, DEGREES[over])


NAMED = {
    0: "1", 2: "2", 3: "b3", 4: "3", 5: "4", 6: "b5", 7: "5", 8: "#5", 9: "6", 10: "b7", 11: "7",
    13: "b9", 14: "9", 15: "#9", 17: "11", 18: "#11", 20: "b13", 21: "13",
}  # fmt: skip
"""A chord's own tones, by their semitones over its root."""


def read_chord(name: str) -> ChordTones | None:
    """Return a chord's tones; None for a name that means nothing."""
    try:
        return chord_tones(name)
    except ChordError:
        return None


def _outside(reached: Sequence[int], inside: Sequence[bool], index: int) -> Role:
    """What a tone outside its chord does between its neighbours."""
    before = reached[index] - reached[index - 1] if index else None
    after = reached[index + 1] - reached[index] if index + 1 < len(reached) else None
    into = after is not None and 0 < abs(after) <= STEP and inside[index + 1]
    out_of = before is not None and 0 < abs(before) <= STEP
    if before is not None and after is not None and out_of and 0 < abs(after) <= STEP:
        if before * after > 0:
            return Role.PASSING
        if before == -after:
            return Role.NEIGHBOUR
    return Role.APPROACH if into else Role.EXTENSION


def _changes(score: Score) -> list[tuple[Chord, float]]:
    """The chords that differ from the one before, and how near to their beginning a note is on it, seconds."""
    return [
        (chord, max(ON_CHANGE_S, ON_CHANGE_BEATS * _beat_s(score, chord.start_s)))
        for before, chord in pairwise(score.chords)
        if chord.name != before.name
    ]


def _on_change(score: Score, index: int, changes: Sequence[tuple[Chord, float]]) -> bool:
    """Whether a note begins on the beat on which its chord does, and another one sounded before."""
    onset_s = score.notes[index].onset_s
    return any(
        abs(onset_s - chord.start_s) <= near_s and chord.name == score.chord_at(onset_s + near_s)
        for chord, near_s in changes
    )


def _beat_s(score: Score, time_s: float) -> float:
    return 60.0 / score.beat_map.tempo_at(time_s) if score.beat_map.known else 0.5


def _strong(score: Score, index: int) -> bool:
    """Whether a note begins on a felt beat."""
    if not score.beat_map.known:
        return False
    onset_s = score.notes[index].onset_s
    near_s = ON_CHANGE_BEATS * _beat_s(score, onset_s)
    return bool(score.beat_map.beats_between(onset_s - near_s, onset_s + near_s))


def share_on_beats(target_list: Sequence[Target]) -> float | None:
    """Return which share of the notes on beats are in their chord; None where no note under a chord is on one."""
    strong = [target.in_chord for target in target_list if target.strong]
    return sum(strong) / len(strong) if strong else None
