"""An easier variant of a phrase that keeps its rhythm and its targets.

In the order in which an instructor goes (common practice, no source): what only adorns is left out; a bend that is too
wide becomes the fret it is bent to; a run that is too quick is thinned to its strong notes; what the hand does not
reach is put where it does. What a level allows stands in `LEVELS`.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np

from notcher.core.neck import Placed, PlaceError, place
from notcher.core.neck.fretboard import Place, places
from notcher.core.neck.placing import Sounding, sounding_of
from notcher.core.score import (
    FLAT,
    LAST_FRET,
    LEGATO_ATTACKS,
    LINK_S,
    TOGETHER_S,
    Attack,
    End,
    Note,
    Phrase,
    Score,
    Tone,
)
from notcher.core.teaching.variations import NONE_REFUSED, Refused, Variation, Varied, Vary, derived, in_time
from notcher.core.theory import targets

OCTAVE = 12  # semitones
LET_DOWN_SEMITONES = 0.6  # how far a bend must come back to be a second note
MIDDLE = 0.5  # of a beat: the "and"
ON_BEAT = 0.12  # of a beat


@dataclass(frozen=True, slots=True)
class Level:
    """What one level asks of a hand at most (common practice, no source).

    bend_semitones: of a bend. over_mm: how far a finger stretches beyond its easy reach. notes_per_s: in a run.
    vibrato_cents: a wider one is left out.
    """

    bend_semitones: float
    over_mm: float
    notes_per_s: float
    vibrato_cents: float


LEVELS: dict[int, Level] = {
    1: Level(bend_semitones=3.0, over_mm=28.0, notes_per_s=10.0, vibrato_cents=40.0),
    2: Level(bend_semitones=2.0, over_mm=14.0, notes_per_s=7.0, vibrato_cents=25.0),
    3: Level(bend_semitones=1.0, over_mm=0.0, notes_per_s=4.5, vibrato_cents=0.0),
}
"""By level: a little easier, easier, easiest."""
SLACK_SEMITONES = 0.3  # by which a bend may measure more than it is written


def easier(score: Score, phrase: Phrase, level: int, *, refused: Refused = NONE_REFUSED) -> Varied:
    """Return a phrase made easier, and every change with its reason, each note's in the order in which it was made.

    refused: changes that are not wanted, by kind and note. Raises: ValueError for a level that is none, or no notes.
    """
    if level not in LEVELS:
        raise ValueError(f"there are levels 1 to {len(LEVELS)}")
    inside = score.notes_of(phrase)
    if not inside:
        raise ValueError("there are no notes in this phrase")
    work = _Work(score, [score.notes[at] for at in inside], LEVELS[level], refused, target_ids(score, phrase))
    for step in (work.drop_garnish, work.plain_bends, work.thin_runs, work.shorten_reaches):
        step()
    return Varied(in_time(score, [derived(note) for note in work.notes]), tuple(work.changes))


def target_ids(score: Score, phrase: Phrase) -> frozenset[str]:
    """Return the ids of the notes of a phrase that everything leads to.

    Tones of the chord on a beat or where it changes, and the last note; without chords what rings long on a beat. No
    garnish is a target.
    """
    inside = score.notes_of(phrase)
    notes = [score.notes[at] for at in inside if not score.notes[at].garnish]
    if not notes:
        return frozenset()
    by_index = {target.index: target for target in targets(score)}
    chosen = {
        score.notes[at].id
        for at in inside
        if (target := by_index.get(at)) is not None
        and target.in_chord
        and (target.strong or target.lands_on_change)
        and not score.notes[at].garnish
    }
    if not chosen:
        usual_s = float(np.median([note.duration_s for note in notes]))
        chosen = {note.id for note in notes if note.duration_s > usual_s and beat_worth(score, note) > 1}
    return frozenset(chosen | {notes[-1].id})


def beat_worth(score: Score, note: Note) -> int:
    """Return how strong the place of a note in the bar is: 4 on its first beat, 3 on a beat, 2 between two, else 1."""
    beat_map = score.beat_map
    if not beat_map.known:
        return 1
    felt = beat_map.felt(beat_map.quarter(note.onset_s))
    nearest = round(felt)
    if abs(felt - nearest) < ON_BEAT:
        return 4 if beat_map.bar_and_beat(nearest)[1] == 1 else 3
    return 2 if abs(felt - np.floor(felt) - MIDDLE) < ON_BEAT else 1


class _Work:
    """The notes as they are so far; `id` of each is that of the original's note it stands for."""

    def __init__(
        self, score: Score, notes: Sequence[Note], level: Level, refused: Refused, locked: frozenset[str]
    ) -> None:
        self.score, self.notes, self.level, self.refused, self.kept = score, list(notes), level, refused, locked
        self.changes: list[Variation] = []

    def _allowed(self, kind: Vary, note: Note) -> bool:
        return (kind, note.id) not in self.refused

    def _change(self, kind: Vary, note: Note, after: Sequence[Note], amount: float = 0.0) -> None:
        at = next(number for number, other in enumerate(self.notes) if other is note)
        self.notes[at : at + 1] = list(after)
        self.notes.sort(key=lambda other: (other.onset_s, other.string))
        self.changes.append(Variation(kind, note.id, tuple(after), amount))

    # --- garnish ---
    def drop_garnish(self) -> None:
        for note in list(self.notes):
            if note.garnish and note.id not in self.kept and self._allowed(Vary.GARNISH, note):
                self._change(Vary.GARNISH, note, ())
                continue
            plain = self._plainer(note)
            if plain != note and self._allowed(Vary.PLAINER, note):
                self._change(Vary.PLAINER, note, (plain,))
        self._join_legato()

    def _plainer(self, note: Note) -> Note:
        wave = note.vibrato
        wide = wave is not None and wave.extent_cents > self.level.vibrato_cents
        return replace(
            note,
            tone=Tone.NORMAL if note.tone is Tone.SQUEAL_HARMONIC else note.tone,
            raked=False,
            slid_in=False,
            vibrato=None if wide else wave,
            end=End.STOPS if note.end is End.SLIDES_AWAY else note.end,
        )

    # --- bends ---
    def plain_bends(self) -> None:
        for note in list(self.notes):
            size = note.reading.bend_semitones
            if size <= self.level.bend_semitones + SLACK_SEMITONES or not self._allowed(Vary.BEND, note):
                continue
            after = self._as_frets(note, round(size))
            if after:
                self._change(Vary.BEND, note, after, size)
        self._join_legato()

    def _as_frets(self, note: Note, frets: int) -> list[Note]:
        """The fret that a note is bent to; where it is let down again the fret it comes back to, pulled off."""
        where = self._target_place(note, frets)
        if where is None:
            return []
        attack = Attack.PICK if note.attack is Attack.REPICK else note.attack
        wave = note.vibrato
        target = replace(
            note, string=where.string, fret=where.fret, curve=FLAT, finger=None, attack=attack, vibrato=wave
        )
        times_s = np.linspace(0.0, note.duration_s, 60)
        bend = note.curve.at(times_s)
        high = np.flatnonzero(bend > bend.max() - LET_DOWN_SEMITONES)
        released = bend[-1] < bend.max() - LET_DOWN_SEMITONES and where.string == note.string
        if not released or note.fret <= self.score.tuning.capo:
            return [target]
        turn_s = note.onset_s + float(times_s[min(high[-1] + 1, times_s.size - 1)])
        if turn_s - note.onset_s < 0.05 or note.offset_s - turn_s < 0.05:
            return [target]
        back = replace(
            note, onset_s=turn_s, curve=FLAT, vibrato=None, attack=Attack.PULL, finger=None, stroke=None, starts_at=None
        )
        return [replace(target, offset_s=turn_s, vibrato=None), back]

    def _target_place(self, note: Note, frets: int) -> Place | None:
        """Where the top of a bend is fretted: on its string, or where the neck ends on the next one."""
        if note.fret + frets <= LAST_FRET:
            return Place(note.string, note.fret + frets)
        candidates = places(self.score.fretted_midi(note) + frets, self.score.tuning)
        return min(candidates, key=lambda where: abs(where.fret - note.fret), default=None)

    # --- runs ---
    def thin_runs(self) -> None:
        least_s = 1.0 / self.level.notes_per_s
        protected: set[str] = set()
        while True:
            starts = self._strokes()
            quick = [
                (first, second) for first, second in pairwise(starts) if second[0].onset_s - first[0].onset_s < least_s
            ]
            if not quick:
                break
            weak = [
                (self._worth(stroke, starts), stroke)
                for pair in quick
                for stroke in pair
                if stroke is not starts[0] and not any(note.id in self.kept | protected for note in stroke)
            ]
            if not weak:
                break
            _, stroke = min(weak, key=lambda row: (row[0], row[1][0].onset_s))
            refused = [note for note in stroke if not self._allowed(Vary.THIN, note)]
            if refused:
                protected |= {note.id for note in stroke}
                continue
            self._leave_out(stroke, starts, 1.0 / self._nearest_s(stroke, starts))
        self._join_legato()

    def _strokes(self) -> list[list[Note]]:
        strokes: list[list[Note]] = []
        for note in sorted(self.notes, key=lambda note: (note.onset_s, note.string)):
            if strokes and note.onset_s - strokes[-1][0].onset_s <= TOGETHER_S:
                strokes[-1].append(note)
            else:
                strokes.append([note])
        return strokes

    def _worth(self, stroke: list[Note], starts: list[list[Note]]) -> tuple[int, float]:
        """What a stroke is worth: its place in the bar, then how long it rings, then how far it is from the next."""
        return max(beat_worth(self.score, note) for note in stroke), max(note.duration_s for note in stroke)

    def _nearest_s(self, stroke: list[Note], starts: list[list[Note]]) -> float:
        return max(min(abs(other[0].onset_s - stroke[0].onset_s) for other in starts if other is not stroke), 1e-3)

    def _leave_out(self, stroke: list[Note], starts: list[list[Note]], rate: float) -> None:
        """Take a stroke away; the one before it sounds on in its time."""
        at = starts.index(stroke)
        end_s = max(note.offset_s for note in stroke)
        before = starts[at - 1][-1]
        for note in stroke:
            self._change(Vary.THIN, note, (), rate)
        if stroke[0].onset_s - before.offset_s + LINK_S > 0 and not before.bent:
            place_of = next(number for number, other in enumerate(self.notes) if other is before)
            longer = replace(before, offset_s=max(before.offset_s, end_s))
            self.notes[place_of] = longer
            self._follow(before, longer)

    def _follow(self, before: Note, after: Note) -> None:
        """What a change has made is another note by now."""
        self.changes = [
            replace(change, after=tuple(after if note is before else note for note in change.after))
            for change in self.changes
        ]

    def _join_legato(self) -> None:
        """What was slurred from a note that is gone is slurred from the one before it, or picked."""
        last: dict[int, Note] = {}
        for note in list(self.notes):
            before = last.get(note.string)
            if note.attack in LEGATO_ATTACKS or note.attack is Attack.REPICK:
                attack = _struck_after(before, note)
                if attack is not note.attack:
                    place_of = next(number for number, other in enumerate(self.notes) if other is note)
                    changed = replace(note, attack=attack)
                    self.notes[place_of] = changed
                    self._follow(note, changed)
                    note = changed
            last[note.string] = note

    # --- reach ---
    def shorten_reaches(self) -> None:
        """Place what is left where the hand reaches it: all of it anew where that helps, single notes an octave off."""
        fixed: set[str] = {note.id for note in self.notes if not self._allowed(Vary.REACH, note)}
        worst = self._over(self.notes)
        if max(worst, default=0.0) <= self.level.over_mm:
            return
        again = self._placed_again(self.notes, fixed)
        if again is not None and max(self._over(again), default=0.0) < max(worst):
            for note, other, far in zip(list(self.notes), again, worst, strict=True):
                if (note.string, note.fret) != (other.string, other.fret):
                    self._change(Vary.REACH, note, (other,), far)
        for _ in range(len(self.notes)):
            over = self._over(self.notes)
            too_far = [
                (far, at) for at, far in enumerate(over) if far > self.level.over_mm and self.notes[at].id not in fixed
            ]
            if not too_far:
                return
            far, at = max(too_far)
            if not self._brought_near(at, far):
                fixed.add(self.notes[at].id)

    def _brought_near(self, at: int, far: float) -> bool:
        """Put one note where the hand reaches it: elsewhere, an octave off, or away where it is no target."""
        note = self.notes[at]
        ways: list[Note] = []
        for octave in (0, -OCTAVE, OCTAVE):
            for where in places(self.score.fretted_midi(note) + octave, self.score.tuning):
                if (where.string, where.fret) != (note.string, note.fret) and not self._taken(at, where.string):
                    ways.append(replace(note, string=where.string, fret=where.fret, finger=None))
            near = [(self._worst_with(at, way), number, way) for number, way in enumerate(ways)]
            fits = [row for row in near if row[0] <= self.level.over_mm]
            if fits:
                self._change(Vary.REACH, note, (min(fits)[2],), far)
                self._join_legato()
                return True
        if note.id not in self.kept and len(self.notes) > 1:
            self._change(Vary.REACH, note, (), far)
            self._join_legato()
            return True
        return False

    def _worst_with(self, at: int, way: Note) -> float:
        """The longest stretch near a note if it were played so."""
        near = slice(max(0, at - 3), at + 4)
        notes = [way if number == at else note for number, note in enumerate(self.notes)][near]
        return max(self._over(notes), default=0.0)

    def _taken(self, at: int, string: int) -> bool:
        """Whether another note sounds on a string while one does."""
        note = self.notes[at]
        return any(other is not note and other.string == string and other.overlap_s(note) > 0 for other in self.notes)

    def _over(self, notes: Sequence[Note]) -> list[float]:
        return over_easy(self.score, notes)

    def _placed_again(self, notes: Sequence[Note], fixed: set[str]) -> list[Note] | None:
        soundings = [
            replace(sounding_of(self.score, note), lock=Place(note.string, note.fret) if note.id in fixed else None)
            for note in notes
        ]
        try:
            placed = place(soundings, self.score.tuning, style="easy")
        except PlaceError:
            return None
        return [
            replace(note, string=position.place.string, fret=position.place.fret, finger=position.finger or None)
            for note, position in zip(notes, placed, strict=True)
        ]


def _struck_after(before: Note | None, note: Note) -> Attack:
    """How a slurred note is struck after another one on its string."""
    if note.attack is Attack.TAP:
        return note.attack
    joined = before is not None and before.leads_to(note)
    if note.attack is Attack.REPICK:
        return note.attack if joined and before is not None and before.bent else Attack.PICK
    if not joined or before is None or before.fret == note.fret:
        return Attack.PICK
    if note.attack is Attack.SLIDE:
        return note.attack
    return Attack.HAMMER if note.fret > before.fret else Attack.PULL


def held(score: Score, notes: Sequence[Note]) -> list[Placed]:
    """Return how a hand holds notes where they are: fingers and hand positions by the placing solver."""
    soundings: list[Sounding] = [
        replace(sounding_of(score, note), lock=Place(note.string, note.fret)) for note in notes
    ]
    return place(soundings, score.tuning, style="easy") if soundings else []


def over_easy(score: Score, notes: Sequence[Note]) -> list[float]:
    """Return how far beyond an easy reach each note stretches the hand where it is, millimetres."""
    return [placed.over_mm for placed in held(score, notes)]
