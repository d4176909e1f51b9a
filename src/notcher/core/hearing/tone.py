"""How each heard note was struck, what kind of tone it has, how it ends; strikes without a pitch."""

from dataclasses import dataclass, replace

import numpy as np

from notcher.core.arrays import FloatArray
from notcher.core.hearing.onsets import OnsetCurve, pick_peaks
from notcher.core.hearing.pitch import HOP_S, PitchTrack
from notcher.core.hearing.segments import STRIKE_THRESHOLD, Segment
from notcher.core.hearing.shape import Shape
from notcher.core.score import FLAT, Curve, End, Strike, Tone, Vibrato, read_curve

TAP_SEMITONES = 5
REPICK_GAP_S, REPICK_SEMITONES, REPICK_BEND = 0.07, 0.3, 0.8
MUTED_DB_S = 75.0  # a damped string loses this much a second; a ringing one less than 20
DEAD_S = 0.05
RAKE_SPAN_S = 0.12
RINGS_S = 0.6


@dataclass(frozen=True, slots=True)
class Heard:
    """A note without a place yet."""

    onset_s: float
    offset_s: float
    fretted_midi: int
    strike: Strike
    curve: Curve
    vibrato: Vibrato | None
    voicing: float
    plateau_cents: float
    end: End = End.STOPS
    tone: Tone = Tone.NORMAL
    raked: bool = False


def heard_notes(cuts: list[Segment], shapes: list[Shape | None], track: PitchTrack, onsets: OnsetCurve) -> list[Heard]:
    """Name strike, tone and end of each segment, in time order; segments without a pitch are left out."""
    found: list[Heard] = []
    for cut, shape in zip(cuts, shapes, strict=True):
        if shape is not None:
            previous = found[-1] if found else None
            found.append(_heard(cut, shape, previous, track))
    return _with_rakes(found, onsets)


def _heard(cut: Segment, shape: Shape, previous: Heard | None, track: PitchTrack) -> Heard:
    frames = slice(cut.first, cut.last)
    level = track.level_db[frames]
    onset_s, offset_s = cut.first * HOP_S, cut.last * HOP_S
    muted = cut.struck and _fall_db_s(level) > MUTED_DB_S
    one = Heard(
        onset_s,
        offset_s,
        shape.fretted_midi,
        _strike(cut),
        FLAT if muted else shape.curve,
        None if muted else shape.vibrato,
        float(np.mean(track.voicing[cut.first : cut.own_last])),
        shape.plateau_cents,
        End.RINGS if offset_s - onset_s > RINGS_S else End.STOPS,
        Tone.PALM_MUTE if muted else Tone.NORMAL,
    )
    return _repicked(one, previous) if cut.struck and previous is not None else one


def _strike(cut: Segment) -> Strike:
    if cut.struck or cut.step == 0:
        return Strike.PICK
    if cut.slid:
        return Strike.SLIDE
    if cut.step >= TAP_SEMITONES - 0.5:
        return Strike.TAP
    return Strike.HAMMER if cut.step > 0 else Strike.PULL


def _repicked(one: Heard, previous: Heard) -> Heard:
    """A strike at the top of a bend that is still held: same fret, the curve starts high."""
    ends_bent = float(previous.curve.at(np.array([previous.offset_s - previous.onset_s]))[0])
    starts_at = one.fretted_midi + float(one.curve.at(np.zeros(1))[0])
    same = abs(previous.fretted_midi + ends_bent - starts_at) < REPICK_SEMITONES
    near = one.onset_s - previous.offset_s < REPICK_GAP_S
    # the same pitch again and steady could as well be the next string's fret: only a fall gives the bend away
    falls = (
        float(one.curve.at(np.array([one.offset_s - one.onset_s]))[0]) < starts_at - one.fretted_midi - REPICK_SEMITONES
    )
    if not (ends_bent >= REPICK_BEND and same and near and falls):
        return one
    up = one.fretted_midi - previous.fretted_midi
    points = tuple((t, bend + up) for t, bend in one.curve.points) or ((0.0, float(up)),)
    return replace(one, strike=Strike.REPICK, fretted_midi=previous.fretted_midi, curve=Curve(points))


def _fall_db_s(level_db: FloatArray) -> float:
    """How fast a struck note loses level in its first tenth of a second, decibels a second."""
    top = int(np.argmax(level_db[:8])) if level_db.size >= 14 else 0
    part = level_db[top + 2 : top + 16]
    if part.size < 8:
        return 0.0
    return -float(np.polyfit(np.arange(part.size) * HOP_S, part, 1)[0])


def _with_rakes(found: list[Heard], onsets: OnsetCurve) -> list[Heard]:
    """Mark notes that two or more clicks, belonging to no note, lead into."""
    strikes = pick_peaks(onsets.click, threshold=STRIKE_THRESHOLD) * HOP_S
    starts = np.array([one.onset_s for one in found])
    if strikes.size == 0 or starts.size == 0:
        return found
    loose = strikes[np.min(np.abs(strikes[:, None] - starts[None, :]), axis=1) > 0.018]
    return [
        replace(one, raked=True)
        if one.strike is Strike.PICK and np.sum((loose < one.onset_s) & (loose > one.onset_s - RAKE_SPAN_S)) >= 2
        else one
        for one in found
    ]


def is_bent(one: Heard) -> bool:
    """Whether the note's curve would be written."""
    return bool(read_curve(one.curve, one.vibrato, one.offset_s - one.onset_s).names)
