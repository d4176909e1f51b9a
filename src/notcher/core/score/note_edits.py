"""What is said of the selected notes: how they are struck, sound and end, and how their pitch moves.

Each takes a score and what is selected, and returns the score with that said. Raises: ValueError for what no note is.
"""

from collections.abc import Iterable
from dataclasses import replace

import numpy as np

from notcher.core.score.doubt import BY_HAND
from notcher.core.score.edits import accepted
from notcher.core.score.gesture import bent_curve
from notcher.core.score.pitch_curve import FLAT, PitchCurve, Vibrato
from notcher.core.score.score import Score
from notcher.core.score.selection import Selection
from notcher.core.score.vocabulary import HARMONIC_PARTIALS, HARMONIC_TONES, PickStroke, Tone, partials_near

BEND_SIZES = (0.0, 0.5, 1.0, 1.5, 2.0, 2.5, 3.0, 4.0)  # semitones
USUAL_BEND, USUAL_CURL, CURL_FROM = 2.0, 0.5, 0.6  # semitones, semitones, share of the note
USUAL_VIBRATO = (5.5, 25.0)  # hertz, cents (common practice, no source)
RESTS_AFTER_S = 0.15  # into a note without a curve, before a vibrato begins (common practice, no source)
STROKE_ORDER = (None, PickStroke.DOWN, PickStroke.UP)


def with_tone(score: Score, chosen: Selection, tone: Tone) -> Score:
    """Give the notes a tone; the same again takes it back."""
    note = chosen.note(score)
    if tone is Tone.PALM_MUTE and note.tone in HARMONIC_TONES:  # which can be muted besides
        return chosen.changed(score, muted=not note.muted)
    if tone in HARMONIC_TONES and note.palm_muted and note.tone is Tone.PALM_MUTE:
        return chosen.changed(score, tone=tone, muted=True)
    if note.tone is tone:
        return chosen.changed(score, tone=Tone.PALM_MUTE if note.palm_muted and tone in HARMONIC_TONES else Tone.NORMAL,
                              muted=False, partial=0)  # fmt: skip
    return chosen.changed(score, tone=tone, muted=note.muted and tone in HARMONIC_TONES, partial=0)


def with_next_partial(score: Score, chosen: Selection) -> Score:
    """Let a natural harmonic sound the next partial that has a node near its fret.

    Raises: ValueError where the note is none, or only one lies there.
    """
    note = chosen.note(score)
    touched = note.fret - score.tuning.capo
    near = partials_near(touched)
    if note.tone is not Tone.NATURAL_HARMONIC:
        raise ValueError("the note is no natural harmonic")
    usual = HARMONIC_PARTIALS.get(touched, near[0] if near else 0)
    if len({usual, *near}) < 2:
        raise ValueError("only one harmonic lies at this fret")
    now = note.partial or usual
    following = near[(near.index(now) + 1) % len(near)] if now in near else near[0]
    return chosen.changed(score, partial=0 if following == usual else following)


def toggled(score: Score, chosen: Selection, field: str) -> Score:
    """Switch a yes-or-no of the notes, as it is not of the first: garnish, slip, raked, slid_in."""
    return chosen.changed(score, **{field: not getattr(chosen.note(score), field)})


def with_next_stroke(score: Score, chosen: Selection) -> Score:
    """Give the notes the next pick stroke: down, up, none."""
    at = STROKE_ORDER.index(chosen.note(score).stroke)
    return chosen.changed(score, stroke=STROKE_ORDER[(at + 1) % len(STROKE_ORDER)])


def with_doubt_switched(score: Score, chosen: Selection) -> Score:
    """Mark the notes as doubtful by hand, or take the doubt off."""
    return chosen.changed(score, doubt=None if chosen.note(score).doubt else BY_HAND)


def with_strokes(score: Score, strokes: Iterable[PickStroke | None]) -> Score:
    """Write pick strokes for all notes of the solo, one for each."""
    return score.with_notes(replace(note, stroke=stroke) for note, stroke in zip(score.notes, strokes, strict=True))


def accepted_notes(score: Score, chosen: Selection) -> Score:
    """Take the notes as they are: out of the doubts, and where they lie."""
    return score.with_changed({note.id: accepted(note) for note in chosen.notes(score)})


def bent_by(score: Score, chosen: Selection, direction: int) -> Score:
    """Make the bend the next larger or smaller size; an unbent note is bent by a whole step first."""
    note = chosen.note(score)
    now = int(np.argmin(np.abs(np.array(BEND_SIZES) - max(0.0, note.reading.bend_semitones))))
    size = BEND_SIZES[max(0, min(now + direction, len(BEND_SIZES) - 1))]
    if now == 0 and direction > 0:
        size = USUAL_BEND
    names = note.reading.names
    curve = bent_curve(size, note.duration_s, prebent="prebend" in names, released="release" in names)
    return chosen.changed(score, curve=curve)


def bent_how(score: Score, chosen: Selection, *, prebent: bool = False, released: bool = False) -> Score:
    """Switch between bent and pre-bent, or between held and let down, the size kept."""
    note = chosen.note(score)
    names, size = note.reading.names, note.reading.bend_semitones or USUAL_BEND
    prebent, released = ("prebend" in names) != prebent, ("release" in names) != released
    return chosen.changed(score, curve=bent_curve(size, note.duration_s, prebent=prebent, released=released))


def curled(score: Score, chosen: Selection) -> Score:
    """Push the string a little before the note ends, or take that back."""
    note = chosen.note(score)
    start_s, end_s = CURL_FROM * note.duration_s, 0.95 * note.duration_s
    curve = PitchCurve(((0.0, 0.0), (start_s, 0.0), (end_s, USUAL_CURL)))
    return chosen.changed(score, curve=FLAT if "curl" in note.reading.names else curve)


def shaken(score: Score, chosen: Selection) -> Score:
    """Give the notes a vibrato from where the first has come to rest, or take it off."""
    note = chosen.note(score)
    rest_s = note.curve.points[-1][0] if note.curve.points else RESTS_AFTER_S
    wave = None if note.vibrato is not None else Vibrato(min(rest_s, 0.5 * note.duration_s), *USUAL_VIBRATO)
    return chosen.changed(score, vibrato=wave)
