"""Edits of a solo that need no neck: cutting and joining notes, how they begin and end, the curve's points."""

from dataclasses import replace

import numpy as np

from notcher.core.score.beat_map import BeatMap
from notcher.core.score.note import Note
from notcher.core.score.pitch_curve import PitchCurve
from notcher.core.score.score import SAME_CHORD_S, Chord, Phrase, Score
from notcher.core.score.vocabulary import Attack, End

SHORTEST_S = 0.02


def split(score: Score, index: int, time_s: float) -> tuple[Score, int]:
    """Cut a note in two at a time; the second is struck again and keeps the curve from there on.

    Returns: the score and the second note's index. Raises: ValueError when the time is not inside the note.
    """
    note = score.notes[index]
    if not note.onset_s + SHORTEST_S < time_s < note.offset_s - SHORTEST_S:
        raise ValueError("the playhead is not inside this note")
    at_s = time_s - note.onset_s
    wave = note.vibrato
    begin = replace(
        note,
        offset_s=time_s,
        curve=_part(note.curve, 0.0, at_s),
        vibrato=wave if wave is not None and wave.from_s < at_s else None,
        end=End.STOPS,
    )
    rest = replace(
        note,
        onset_s=time_s,
        attack=Attack.PICK,
        curve=_part(note.curve, at_s, note.duration_s),
        vibrato=None if wave is None else replace(wave, from_s=max(0.0, wave.from_s - at_s)),
        raked=False,
    )
    changed = _swapped(score, index, begin, rest)
    return changed, changed.notes.index(rest)


def _part(curve: PitchCurve, start_s: float, end_s: float) -> PitchCurve:
    """A curve between two times, counted from the first; flat stays flat."""
    if not curve.points:
        return curve
    inside = [(t - start_s, b) for t, b in curve.points if start_s < t < end_s]
    first, last = (float(b) for b in curve.at(np.array([start_s, end_s])))
    points = [(0.0, first), *inside, (end_s - start_s, last)]
    return PitchCurve() if all(abs(b) < 1e-9 for _, b in points) else PitchCurve(tuple(points))


def _swapped(score: Score, index: int, *notes: Note) -> Score:
    return score.with_notes((*score.notes[:index], *notes, *score.notes[index + 1 :]))


def joined_with_next(score: Score, index: int) -> Score:
    """Make a note and the next one on its string one note.

    Raises: ValueError when no note follows on the string, or when it lies on another fret.
    """
    note = score.notes[index]
    following = next((i for i in range(index + 1, len(score.notes)) if score.notes[i].string == note.string), None)
    if following is None:
        raise ValueError("no note follows on this string")
    second = score.notes[following]
    if second.fret != note.fret:
        raise ValueError("only notes on one fret can become one; the next lies on another")
    shift_s = second.onset_s - note.onset_s
    curve = note.curve
    if note.curve.points or second.curve.points:
        first_end = float(note.curve.at(np.array([note.duration_s]))[0])
        points = [*(note.curve.points or ((0.0, 0.0),))]
        points += [(note.duration_s, first_end)] if points[-1][0] < note.duration_s else []
        points += [(t + shift_s, b) for t, b in second.curve.points if t + shift_s > points[-1][0] + 1e-4]
        curve = PitchCurve(tuple(points))
    wave = note.vibrato
    if wave is None and second.vibrato is not None:
        wave = replace(second.vibrato, from_s=second.vibrato.from_s + shift_s)
    whole = replace(note, offset_s=second.offset_s, curve=curve, vibrato=wave, end=second.end)
    return _swapped(score.without([following]), index, whole)


def with_onset(score: Score, index: int, onset_s: float) -> tuple[Score, int]:
    """Move a note's onset, its end kept; returns its new index. Raises: ValueError past its end."""
    note = score.notes[index]
    onset_s = max(0.0, onset_s)
    if note.offset_s - onset_s < SHORTEST_S:
        raise ValueError("the onset cannot pass the note's end")
    changed = replace(note, onset_s=onset_s)
    result = _swapped(score, index, changed)
    return result, result.notes.index(changed)


def with_end(score: Score, index: int, offset_s: float) -> Score:
    """Move a note's end. Raises: ValueError before its onset."""
    if offset_s - score.notes[index].onset_s < SHORTEST_S:
        raise ValueError("the end cannot pass the note's onset")
    return score.with_note(index, offset_s=offset_s)


def snapped_onset(onset_s: float, attacks_s: np.ndarray, direction: int) -> float:
    """Return the next attack that was heard, in a direction (-1 earlier, 1 later); the same time when there is none.

    strikes_s: shape (n,), rising, seconds.
    """
    later = attacks_s[attacks_s > onset_s + 1e-3] if direction > 0 else attacks_s[attacks_s < onset_s - 1e-3]
    if later.size == 0:
        return onset_s
    return float(later[0] if direction > 0 else later[-1])


def with_curve_point(score: Score, index: int, point: int, time_s: float, semitones: float) -> Score:
    """Drag one breakpoint of a note's curve; it stays between its neighbours and inside the note."""
    note = score.notes[index]
    points = list(note.curve.points)
    low = points[point - 1][0] + 0.005 if point > 0 else 0.0
    high = points[point + 1][0] - 0.005 if point + 1 < len(points) else note.duration_s
    points[point] = (float(np.clip(time_s, low, max(low, high))), semitones)
    return score.with_note(index, curve=PitchCurve(tuple(points)))


def with_new_curve_point(score: Score, index: int, time_s: float) -> tuple[Score, int]:
    """Add a breakpoint on a note's curve at a time after its onset; returns its number.

    Raises: ValueError when one lies there already or the time is outside the note.
    """
    note = score.notes[index]
    if not 0 <= time_s <= note.duration_s:
        raise ValueError("a curve's point lies inside its note")
    points = list(note.curve.points) or [(0.0, 0.0)]
    if any(abs(t - time_s) < 0.005 for t, _ in points):
        raise ValueError("the curve has a point there already")
    points.append((time_s, float(note.curve.at(np.array([time_s]))[0])))
    points.sort()
    changed = score.with_note(index, curve=PitchCurve(tuple(points)))
    return changed, [t for t, _ in points].index(time_s)


def without_curve_point(score: Score, index: int, point: int) -> Score:
    """Take one breakpoint away; the last one leaves a flat curve."""
    points = list(score.notes[index].curve.points)
    del points[point]
    flat = all(abs(bend) < 1e-9 for _, bend in points)
    return score.with_note(index, curve=PitchCurve() if flat else PitchCurve(tuple(points)))


def unchecked_where_changed(before: Score, after: Score) -> Score:
    """Return a changed score in which a note whose claim is new is no longer called checked."""
    if not any(note.checked for note in after.notes):
        return after
    known = {_claim(note) for note in before.notes}
    if all(not note.checked or _claim(note) in known for note in after.notes):
        return after
    return after.with_notes(
        replace(note, checked=False) if note.checked and _claim(note) not in known else note for note in after.notes
    )


def _claim(note: Note) -> tuple[object, ...]:
    """What a recording can speak for or against."""
    return (note.onset_s, note.offset_s, note.string, note.fret, note.attack, note.tone, note.curve, note.vibrato)


# --- lanes above the tab ---
def with_chord(score: Score, start_s: float, name: str) -> Score:
    """Write a chord at a time, in place of one that begins within a tenth of a second; an empty name takes it away."""
    kept = [chord for chord in score.chords if abs(chord.start_s - start_s) > SAME_CHORD_S]
    if name.strip():
        kept.append(Chord(start_s, name.strip()))
    return replace(score, chords=tuple(sorted(kept, key=lambda chord: chord.start_s)))


def with_beat_at(score: Score, beat: float, time_s: float) -> Score:
    """Drag one beat of the beat map to a time; the beats around it follow, far ones stay.

    Raises: ValueError when the beat map is not known, or would run backwards.
    """
    beat_map = score.beat_map
    if not beat_map.known:
        raise ValueError("there are no beats yet; tap them first")
    beat = float(round(beat))
    around = [beat - 5, beat - 4, beat - 1, beat + 1, beat + 4, beat + 5]
    anchors = {b: t for t, b in beat_map.anchors if abs(b - beat) > 1e-6}
    for at in around:
        anchors.setdefault(at, float(beat_map.time_at(np.array([at]))[0]))
    shift = time_s - float(beat_map.time_at(np.array([beat]))[0])
    for at in (beat - 1, beat + 1):  # half of the way for the neighbours, so that no single beat is squeezed
        anchors[at] += shift / 2
    anchors[beat] = time_s
    return replace(score, beat_map=BeatMap(tuple((t, b) for b, t in sorted(anchors.items())), beat_map.meter))


def with_phrase_near(score: Score, phrase: Phrase, fret: int | None) -> Score:
    """Wish a phrase to be played around a fret, or nowhere in particular."""
    phrases = tuple(replace(phrase, near_fret=fret) if phrase == phrase else phrase for phrase in score.phrases)
    return replace(score, phrases=phrases)
