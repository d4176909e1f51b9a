"""A lick elsewhere: in another key, over another chord, in another tuning.

It keeps its shape where the neck has room for it, on the nearest of the frets that are right; else it is placed anew.
Over a chord of another kind its notes stay the degrees they were: the third becomes the third of the new chord.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from notcher.core.neck import PlaceError, place, places
from notcher.core.neck.placing import sounding_of
from notcher.core.score import FLAT, LAST_FRET, Key, Note, Phrase, Score, Tone, Tuning
from notcher.core.teaching.variations import NONE_REFUSED, Refused, Variation, Varied, Vary, derived, in_time
from notcher.core.theory import ChordTones, chord_tones, spelled_name

OCTAVE = 12  # semitones
FAMILIES = ({3, 4}, {6, 7, 8}, {9, 10, 11})
"""Thirds, fifths and sevenths (a sixth stands for a seventh), in semitones over the root."""
WIDE_BEND, WIDE_FROM = 3.3, 10  # semitones; below this fret no hand bends so far (common practice, no source)


@dataclass(frozen=True, slots=True)
class TransposeSpec:
    """Where a lick goes. semitones: of its pitch. from_chord, to_chord: where its degrees are to stay what they are.

    tuning: another neck; pitch_stays: on it the pitch is kept, else the frets are.
    """

    semitones: int = 0
    from_chord: str = ""
    to_chord: str = ""
    tuning: Tuning | None = None
    pitch_stays: bool = True


def over_chord(from_chord: str, to_chord: str) -> TransposeSpec:
    """Return the move from over one chord to over another: the nearest way from root to root. Raises: ChordError."""
    return TransposeSpec(_nearest_way(from_chord, to_chord), from_chord, to_chord)


def _nearest_way(from_chord: str, to_chord: str) -> int:
    """From root to root, semitones."""
    apart = (chord_tones(to_chord).root - chord_tones(from_chord).root) % OCTAVE
    return apart - OCTAVE if apart > OCTAVE // 2 else apart


def moved_lick(score: Score, phrase: Phrase, move: TransposeSpec, *, refused: Refused = NONE_REFUSED) -> Varied:
    """Return a phrase moved, and what had to be changed of it beyond the move.

    refused: changes that are not wanted; a note whose fitting to the chord is refused keeps its interval.
    Raises: ValueError for no notes; ChordError.
    """
    notes = [score.notes[at] for at in score.notes_of(phrase)]
    if not notes:
        raise ValueError("there are no notes in this phrase")
    if move.tuning is not None:
        return _on_other_neck(score, notes, move.tuning, pitch_stays=move.pitch_stays)
    steps, changes = _steps(score, notes, move, refused)
    shift = _shape_shift(score, notes, steps)
    if shift is not None:
        placed = {note.id: replace(note, fret=note.fret + steps[note.id] + shift) for note in notes}
        frets = move.semitones + shift
        changes += [Variation(Vary.SHAPE, note.id, (placed[note.id],), frets) for note in notes[:1] if frets]
    else:
        placed, more = _placed(score, notes, steps, score.tuning)
        changes += more
    variations = [replace(change, after=tuple(_of(placed, change))) for change in changes]
    result = [placed[note.id] for note in notes if note.id in placed]
    return Varied(in_time(score, [_free(derived(note)) for note in result]), tuple(variations))


def _of(placed: Mapping[str, Note], change: Variation) -> Sequence[Note]:
    return (placed[change.source],) if change.source in placed else ()


def _free(note: Note) -> Note:
    """Nothing that was told of the original's place holds elsewhere."""
    return replace(note, locked=False, checked=False, doubt=None, certainty=1.0)


# --- pitches ---
def _steps(
    score: Score, notes: Sequence[Note], move: TransposeSpec, refused: Refused
) -> tuple[dict[str, int], list[Variation]]:
    """By how many semitones each note goes, and which were fitted to the new chord."""
    steps = {note.id: move.semitones for note in notes}
    changes: list[Variation] = []
    if not move.to_chord:
        return steps, changes
    here, there = chord_tones(move.from_chord), chord_tones(move.to_chord)
    for note in notes:
        reached = round(score.fretted_midi(note) + note.reading.bend_semitones) - score.tuning.shift
        off = _fitted(reached, here, there)
        if off and (Vary.FITTED, note.id) not in refused:
            steps[note.id] += off
            changes.append(Variation(Vary.FITTED, note.id, amount=off))
    return steps, changes


def _fitted(midi: int, here: ChordTones, there: ChordTones) -> int:
    """By how many semitones a tone of one chord must go to be the same degree of the other, the roots laid together."""
    over = (midi - here.root) % OCTAVE
    mine, theirs = ({step % OCTAVE for step in chord.intervals} for chord in (here, there))
    if over not in mine or over in theirs:
        return 0
    for family in FAMILIES:
        if over in family and (same := family & theirs):
            return min((step - over for step in same), key=abs)
    return 0


# --- places ---
def _shape_shift(score: Score, notes: Sequence[Note], steps: Mapping[str, int]) -> int | None:
    """By how many frets more than asked the shape must go to fit: 0, an octave down or up; None where it does not."""
    capo = score.tuning.capo

    def fits(note: Note, shift: int) -> bool:
        by = steps[note.id] + shift
        if by == 0:
            return True
        if note.tone is Tone.NATURAL_HARMONIC or note.fret <= capo:
            return False  # an open string and a harmonic stay where they are
        if note.reading.bend_semitones >= WIDE_BEND and note.fret + by < WIDE_FROM:
            return False
        return capo < note.fret + by <= LAST_FRET

    return next((shift for shift in (0, -OCTAVE, OCTAVE) if all(fits(note, shift) for note in notes)), None)


def _placed(
    score: Score, notes: Sequence[Note], steps: Mapping[str, int], tuning: Tuning
) -> tuple[dict[str, Note], list[Variation]]:
    """Every note at its pitch where the hand finds it; what lies off the neck goes there by an octave."""
    wanted: dict[str, float] = {}
    octaves: dict[str, int] = {}
    for note in notes:
        midi = score.sounding_midi(note) + steps[note.id]
        near = [octave for octave in (0, -OCTAVE, OCTAVE) if places(midi + octave, tuning)]
        if near:
            wanted[note.id], octaves[note.id] = midi + near[0], near[0]
    chosen = [note for note in notes if note.id in wanted]
    soundings = [
        replace(
            sounding_of(score, note),
            fretted_midi=wanted[note.id], lock=None, harmonic_midi=None, tone=_tone(note), near_fret=None,
        )
        for note in chosen
    ]  # fmt: skip
    try:
        placed = place(soundings, tuning)
    except PlaceError:
        return {}, [Variation(Vary.OUT_OF_NECK, note.id) for note in notes]
    moved = {
        note.id: replace(
            note, string=spot.place.string, fret=spot.place.fret, finger=spot.finger or None, tone=_tone(note),
            curve=note.curve if spot.place.fret > tuning.capo else FLAT,
        )
        for note, spot in zip(chosen, placed, strict=True)
    }  # fmt: skip
    changes = [
        Variation(Vary.PLACED, note.id, (moved[note.id],), octaves[note.id])
        if note.id in moved
        else Variation(Vary.OUT_OF_NECK, note.id)
        for note in notes
    ]
    return moved, changes


def _tone(note: Note) -> Tone:
    return Tone.NORMAL if note.tone is Tone.NATURAL_HARMONIC else note.tone


def _on_other_neck(score: Score, notes: Sequence[Note], tuning: Tuning, *, pitch_stays: bool) -> Varied:
    """A lick on a neck that is tuned otherwise: the same sound placed anew, or the same frets."""
    if pitch_stays:
        placed, changes = _placed(score, notes, {note.id: 0 for note in notes}, tuning)
        remaining = [placed[note.id] for note in notes if note.id in placed]
        same = [
            change
            for change in changes
            if change.kind is Vary.OUT_OF_NECK or (change.after and not _same_place(score, change))
        ]
        return Varied(in_time(score, [_free(derived(note)) for note in remaining]), tuple(same))
    remaining = [note for note in notes if note.string <= tuning.strings and note.fret >= tuning.capo]
    lost = [Variation(Vary.OUT_OF_NECK, note.id) for note in notes if note not in remaining]
    return Varied(in_time(score, [_free(derived(note)) for note in remaining]), tuple(lost))


def _same_place(score: Score, change: Variation) -> bool:
    note, after = score.note_of(change.source), change.after[0]
    return note is not None and (note.string, note.fret) == (after.string, after.fret)


ROMANS = {"i": 0, "ii": 2, "iii": 4, "iv": 5, "v": 7, "vi": 9, "vii": 11}
ORDINALS = {"first": "i", "second": "ii", "third": "iii", "fourth": "iv", "fifth": "v", "sixth": "vi", "seventh": "vii"}


def chord_from_words(text: str, from_chord: str) -> str:
    """Return the chord that is meant: by its name, or by its degree over another one of the same kind ("the fifth").

    Raises: ChordError.
    """
    word = text.removeprefix("over ").removeprefix("the ").strip().lower()
    degree = ORDINALS.get(word, word)
    if degree not in ROMANS:
        chord_tones(text)
        return text
    here = chord_tones(from_chord)
    root = spelled_name((here.root + ROMANS[degree]) % OCTAVE + 60)
    kind = from_chord.strip()[2 if from_chord.strip()[1:2] in ("#", "b", "♯", "♭") else 1 :].partition("/")[0]
    return root + kind


def semitones_to_key(now: Key, wanted: Key) -> int:
    """Return the nearest way from one key to another, semitones; relative scales count by their tonics."""
    return _nearest_way(now.tonic, wanted.tonic)
