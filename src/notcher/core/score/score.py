"""A whole solo as a value; every edit makes a new one."""

import math
from bisect import bisect_left
from collections import Counter
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from enum import StrEnum
from operator import gt
from typing import Any, TypeVar

import numpy as np

from notcher.core.arrays import FloatArray
from notcher.core.score.beat_map import NO_BEAT_MAP, BeatMap
from notcher.core.score.doubt import Doubt
from notcher.core.score.identity import derived_id, new_id
from notcher.core.score.key import Key
from notcher.core.score.limits import (
    CHORD_CHARS,
    LAST_S,
    MOST_EXCLUDED,
    MOST_NOTES,
    MOST_PARTS,
    NAME_CHARS,
    check_count,
    check_text,
)
from notcher.core.score.note import Note
from notcher.core.score.tuning import STANDARD, Tuning
from notcher.core.score.vocabulary import HARMONIC_PARTIALS, Tone

EDGE_S = 0.01
"""A note belongs to the stretch that begins up to two analysis frames (5.8 ms each) after its onset."""
HIGHEST_MIDI = 1_000.0  # of what was heard, either way: beyond every ear
SAME_CHORD_S = 0.1  # two chords cannot begin closer than this
TAPPED_HARMONIC_SEMITONES = 12.0
"""Tapped at half of the sounding length, twelve frets above the finger (Fletcher and Rossing 1998, ch. 9: nodes)."""


@dataclass(frozen=True, slots=True)
class Phrase:
    """A named stretch of the recording.

    near_fret: around which fret the instructor wants it played, if anywhere. key: where it is not the score's. id: see
    `identity`; phrases that say the same are equal, whichever they are. proved: a person has held all of it against the
    recording.
    """

    start_s: float
    end_s: float
    name: str = ""
    near_fret: int | None = None
    key: Key | None = None
    id: str = field(default="", compare=False)
    proved: bool = False

    def __post_init__(self) -> None:
        if not 0 <= self.start_s < self.end_s <= LAST_S:
            raise ValueError("a phrase must end after it starts, and within the hour")
        check_text(self.name, NAME_CHARS, "the name of a phrase")

    def holds(self, time_s: float) -> bool:
        """Whether what begins at a time belongs to it; the same rule as `Score.notes_between`."""
        return self.start_s - EDGE_S <= time_s < self.end_s - EDGE_S


@dataclass(frozen=True, slots=True)
class Section:
    """A part of the form, as in "second verse": it holds the phrases that begin in it. repeats: the id of a section it
    is the same as, if any."""

    start_s: float
    end_s: float
    name: str = ""
    repeats: str = ""
    id: str = field(default="", compare=False)

    def __post_init__(self) -> None:
        if not 0 <= self.start_s < self.end_s <= LAST_S:
            raise ValueError("a section must end after it starts, and within the hour")
        check_text(self.name, NAME_CHARS, "the name of a section")

    def holds(self, time_s: float) -> bool:
        """Whether what begins at a time belongs to it; the same rule as for a phrase."""
        return self.start_s - EDGE_S <= time_s < self.end_s - EDGE_S


@dataclass(frozen=True, slots=True)
class Variant:
    """Another way to play a phrase, as in "easier": notes that are derived from the score's, see `Note.source`.

    phrase: the id of the phrase whose notes it stands for. tuning: the neck it is for, where that is another one.
    """

    phrase: str
    name: str
    notes: tuple[Note, ...] = ()
    id: str = field(default="", compare=False)
    tuning: Tuning | None = None

    def __post_init__(self) -> None:
        check_text(self.name, NAME_CHARS, "the name of a variant")
        check_count(self.notes, MOST_NOTES, "notes")


@dataclass(frozen=True, slots=True)
class Chord:
    """A chord symbol and when it begins to sound; it lasts until the next. certainty: 0..1, below 1 where it was heard
    and nobody has said so."""

    start_s: float
    name: str
    certainty: float = 1.0

    def __post_init__(self) -> None:
        if not 0 <= self.certainty <= 1:
            raise ValueError("a chord's certainty lies between 0 and 1")
        if not abs(self.start_s) <= LAST_S:
            raise ValueError(f"no chord begins at {self.start_s} s")
        check_text(self.name, CHORD_CHARS, "a chord symbol")


@dataclass(frozen=True, slots=True)
class Facts:
    """What is noted of a recording and of who asked for it, as words.

    player: of the take. version: which recording of the solo it is. pickup: which of the guitar's was played.
    """

    player: str = ""
    version: str = ""
    pickup: str = ""
    requested_by: str = ""

    def __post_init__(self) -> None:
        for text in (self.player, self.version, self.pickup, self.requested_by):
            check_text(text, NAME_CHARS, "a fact about the solo")


class Aside(StrEnum):
    """Why something that was heard is not the solo's."""

    SAID = ""  # the instructor says so
    RINGS_ON = "rings_on"
    OFF_NECK = "off_neck"
    BAND = "band"


@dataclass(frozen=True, slots=True)
class Excluded:
    """Something that was heard and is not the solo's: when, its pitch as a MIDI number, why, and as what note."""

    onset_s: float
    midi: float
    why: Aside = Aside.SAID
    note: Note | None = None

    def __post_init__(self) -> None:
        if not (abs(self.onset_s) <= LAST_S and abs(self.midi) <= HIGHEST_MIDI):
            raise ValueError(f"nothing was heard at {self.onset_s} s, pitch {self.midi}")


MIDST = 8
"""Notes to each side that an edit of one looks at, at most."""


def in_their_midst(score: "Score", note_ids: Sequence[str], change: Callable[["Score", str], "Score"]) -> "Score":
    """Return the score with each of some notes changed, one after the other: as it would be, in less time.

    A changed score is a new one of all notes; each change is made among the notes around, and all are put back once.
    """
    wanted = set(note_ids)
    places = [at for at, note in enumerate(score.notes) if note.id in wanted]
    if not places:
        return score
    first, end = max(0, min(places) - MIDST), max(places) + MIDST + 1
    result = score.with_notes(score.notes[first:end])
    for note_id in note_ids:
        result = change(result, note_id)
    return result.with_notes((*score.notes[:first], *result.notes, *score.notes[end:]))


def _note_order(note: Note) -> tuple[float, int]:
    return (note.onset_s, note.string)


Part = TypeVar("Part", Note, Phrase, Section, Variant)


@dataclass(frozen=True, slots=True)
class Score:
    """Notes in time order (then by string), tuning, beat map, chords, form, variants, key, what to overhear, facts.

    lead_doubt: why the recording probably holds no lead at all. Whatever in it has no id yet gets one; no two notes
    have the same.
    """

    notes: tuple[Note, ...] = ()
    tuning: Tuning = STANDARD
    beat_map: BeatMap = NO_BEAT_MAP
    chords: tuple[Chord, ...] = ()
    phrases: tuple[Phrase, ...] = ()
    title: str = ""
    excluded: tuple[Excluded, ...] = ()
    sections: tuple[Section, ...] = ()
    variants: tuple[Variant, ...] = ()
    key: Key | None = None
    lead_doubt: Doubt | None = None
    facts: Facts = Facts()

    def __post_init__(self) -> None:
        order = [_note_order(note) for note in self.notes]
        if any(map(gt, order, order[1:])):
            raise ValueError("notes must be in time order")
        if max((string for _, string in order), default=1) > self.tuning.strings:
            raise ValueError(f"a note lies on a string that this neck of {self.tuning.strings} does not have")
        check_text(self.title, NAME_CHARS, "a title")
        check_count(self.notes, MOST_NOTES, "notes")
        check_count(self.excluded, MOST_EXCLUDED, "sounds that are not its own")
        for name in ("chords", "phrases", "sections", "variants"):
            check_count(getattr(self, name), MOST_PARTS, name)
        for name in ("notes", "phrases", "sections", "variants"):
            object.__setattr__(self, name, _identified(getattr(self, name), name))
        ids = {section.id for section in self.sections}
        if any(section.repeats and section.repeats not in ids for section in self.sections):
            raise ValueError("a section repeats another one that is not there")
        variants = tuple(replace(variant, notes=_identified(variant.notes, "notes")) for variant in self.variants)
        object.__setattr__(self, "variants", variants)

    # --- identities ---
    def index_of(self, note_id: str) -> int | None:
        """Return where a note is; None when it is not there any more."""
        return next((index for index, note in enumerate(self.notes) if note.id == note_id), None)

    def position(self, note_id: str) -> int:
        """Return where a note is. Raises: ValueError when it is not there any more."""
        index = self.index_of(note_id)
        if index is None:
            raise ValueError("this note is not there any more")
        return index

    def note(self, note_id: str) -> Note:
        """Return the note with an id. Raises: ValueError when it is not there any more."""
        return self.notes[self.position(note_id)]

    def note_of(self, note_id: str) -> Note | None:
        """Return the note with an id; None when it is not there any more."""
        index = self.index_of(note_id)
        return None if index is None else self.notes[index]

    def phrase_of(self, phrase_id: str) -> Phrase | None:
        """Return the phrase with an id; None when it is not there any more."""
        return next((phrase for phrase in self.phrases if phrase.id == phrase_id), None)

    # --- pitch ---
    def fretted_midi(self, note: Note) -> float:
        """Return what the note's place sounds before any bend."""
        return self.tuning.midi(note.string, note.fret)

    def sounding_midi(self, note: Note) -> float:
        """Return what is heard of the unbent note.

        A natural harmonic sounds a partial of its open string, a tapped one the octave of its fret.
        """
        partial = note.partial or HARMONIC_PARTIALS.get(note.fret - self.tuning.capo, 0)
        if note.tone is Tone.NATURAL_HARMONIC and partial:
            return self.tuning.midi(note.string, self.tuning.capo) + 12 * math.log2(partial)
        if note.tone is Tone.TAPPED_HARMONIC:
            return self.fretted_midi(note) + TAPPED_HARMONIC_SEMITONES
        return self.fretted_midi(note)

    def pitch_at(self, note: Note, since_s: FloatArray | float = 0.0) -> FloatArray:
        """Return what is heard of a note at times after its onset: pitch curve and vibrato counted in, semitones.

        since_s: seconds, any shape, which is kept; past the curve's ends the pitch is level.
        """
        return np.asarray(self.sounding_midi(note) + note.deviation_at(since_s))

    def with_notes(self, notes: Iterable[Note]) -> "Score":
        """Return the score with other notes, put in order."""
        return replace(self, notes=tuple(sorted(notes, key=_note_order)))

    def with_note(self, note_id: str, **changes: Any) -> "Score":
        """Return the score with one note changed. Raises: ValueError for what no note can be."""
        return self.with_changed({note_id: replace(self.note(note_id), **changes)})

    def with_changed(self, changed: Mapping[str, Note]) -> "Score":
        """Return the score with some notes, by the ids of those whose place they take."""
        return self.with_notes(changed.get(note.id, note) for note in self.notes)

    def with_inserted(self, note: Note) -> "Score":
        return self.with_notes((*self.notes, note))

    def without(self, note_ids: Iterable[str]) -> "Score":
        """Return the score without some notes."""
        removed = set(note_ids)
        return replace(self, notes=tuple(note for note in self.notes if note.id not in removed))

    def first_after(self, time_s: float) -> int:
        """Return the index of the first note that starts at or after a time; len(notes) when there is none."""
        return bisect_left(self.notes, time_s, key=lambda note: note.onset_s)

    def notes_between(self, start_s: float, end_s: float) -> range:
        """Return the indices of the notes that belong to a stretch, each to one of two that adjoin; see `EDGE_S`."""
        return range(self.first_after(start_s - EDGE_S), self.first_after(end_s - EDGE_S))

    def notes_of(self, phrase: Phrase) -> range:
        """Return the indices of a phrase's notes."""
        return self.notes_between(phrase.start_s, phrase.end_s)

    def phrases_in(self, section: Section) -> tuple[Phrase, ...]:
        """Return the phrases that a section holds: those that begin in it."""
        return tuple(phrase for phrase in self.phrases if section.holds(phrase.start_s))

    def phrase_at(self, time_s: float) -> Phrase | None:
        """Return the innermost phrase that holds a time."""
        holding = [phrase for phrase in self.phrases if phrase.holds(time_s)]
        return min(holding, key=lambda phrase: phrase.end_s - phrase.start_s, default=None)

    def key_at(self, time_s: float) -> Key | None:
        """Return the key of the phrase at a time, else the score's."""
        phrase = self.phrase_at(time_s)
        return phrase.key if phrase is not None and phrase.key is not None else self.key

    def sounding_key_at(self, time_s: float) -> Key | None:
        """Return the key that is heard at a time: on a retuned neck another than the one it is called by."""
        key = self.key_at(time_s)
        return None if key is None else key.moved(self.tuning.shift)

    def variant_of(self, variant_id: str) -> Variant | None:
        """Return the variant with an id; None when it is not there any more."""
        return next((variant for variant in self.variants if variant.id == variant_id), None)

    def with_variant(self, variant: Variant) -> "Score":
        """Return the score with a phrase's notes as a variant has them; as recorded when the phrase is gone.

        A variant for another neck is alone on it: what else there is would lie elsewhere there.
        """
        phrase = self.phrase_of(variant.phrase)
        if phrase is None:
            return self
        if variant.tuning is not None:
            return replace(self, notes=(), tuning=variant.tuning).with_notes(variant.notes)
        inside = self.notes_of(phrase)
        notes = [note for index, note in enumerate(self.notes) if index not in inside]
        return self.with_notes([*notes, *variant.notes])

    def merge_variant_edit(self, variant: Variant, after: "Score") -> "Score":
        """Return the score once what `with_variant` gave was edited.

        What lies in the phrase is the variant's, the rest the score's own. Where the phrases themselves were edited, no
        note was.
        """
        phrase = after.phrase_of(variant.phrase)
        if phrase is None or after.phrases != self.phrases:
            return replace(after, notes=(), tuning=self.tuning).with_notes(self.notes)
        inside = after.notes_of(phrase)
        edited = replace(variant, notes=tuple(after.notes[at] for at in inside))
        variants = tuple(edited if other.id == variant.id else other for other in after.variants)
        if variant.tuning is not None:
            return replace(after, notes=(), tuning=self.tuning, variants=variants).with_notes(self.notes)
        mine = (self.notes[at] for at in self.notes_of(phrase))
        others = (note for at, note in enumerate(after.notes) if at not in inside)
        return replace(after, variants=variants).with_notes([*mine, *others])

    def chord_beginning_at(self, time_s: float) -> Chord | None:
        """Return the chord that begins within a tenth of a second of a time."""
        return next((chord for chord in self.chords if abs(chord.start_s - time_s) <= SAME_CHORD_S), None)

    def beat_or_note_start(self, time_s: float) -> float:
        """Return where what counts at a time began: its beat, else its note; the time itself before both."""
        if self.beat_map.known:
            return self.beat_map.beat_before(time_s)
        begun = self.first_after(time_s + EDGE_S) - 1
        return self.notes[begun].onset_s if begun >= 0 else time_s

    def chord_at(self, time_s: float) -> str:
        """Return the name of the chord that sounds at a time, empty before the first."""
        running = self.running_chord(time_s)
        return "" if running is None else running.name

    def running_chord(self, time_s: float) -> Chord | None:
        """Return the chord that sounds at a time, None before the first."""
        return next((chord for chord in reversed(self.chords) if chord.start_s <= time_s + 1e-9), None)


def with_derived_ids(score: Score) -> Score:
    """Return the score with ids that follow from what it says, the same at every reading; see `identity`."""

    def told(name: str, parts: Iterable[Part], facts: Callable[[Part], tuple[object, ...]]) -> tuple[Part, ...]:
        counts: Counter[tuple[object, ...]] = Counter()
        result = []
        for part in parts:
            counts[facts(part)] += 1
            result.append(replace(part, id=derived_id(name, *facts(part), counts[facts(part)])))
        return tuple(result)

    def microseconds(time_s: float) -> int:
        return round(1e6 * time_s)

    sections = told("section", score.sections, lambda part: (microseconds(part.start_s), microseconds(part.end_s)))
    new_ids = {old.id: new.id for old, new in zip(score.sections, sections, strict=True)}
    return replace(
        score,
        notes=told("note", score.notes, lambda part: (microseconds(part.onset_s), part.string, part.fret)),
        phrases=told("phrase", score.phrases, lambda part: (microseconds(part.start_s), microseconds(part.end_s))),
        sections=tuple(replace(part, repeats=new_ids.get(part.repeats, "")) for part in sections),
    )


def _identified(parts: tuple[Part, ...], name: str) -> tuple[Part, ...]:
    """The parts, each with an id. Raises: ValueError when two have the same."""
    ids = [part.id for part in parts]
    if not all(ids):
        parts = tuple(part if part.id else replace(part, id=new_id()) for part in parts)
        ids = [part.id for part in parts]
    if len(set(ids)) != len(ids):
        raise ValueError(f"two of the {name} have the same id")
    return parts


EMPTY_SCORE = Score()
