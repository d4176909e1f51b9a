"""How each heard note was struck, what kind of tone it has, how it ends."""

from dataclasses import dataclass, replace

import numpy as np

from notcher.core.arrays import FloatArray
from notcher.core.hearing.onsets import OnsetCurve, pick_peaks
from notcher.core.hearing.pitch import HOP_S, RATE, PitchTrack
from notcher.core.hearing.segments import STRIKE_THRESHOLD, Segment
from notcher.core.hearing.shape import Shape
from notcher.core.score import FLAT, Curve, End, Reading, Strike, Tone, Vibrato, midi_to_hz, read_curve

TAP_SEMITONES = 5
REPICK_GAP_S, REPICK_SEMITONES, REPICK_BEND = 0.07, 0.3, 0.8
DULL_DB, FADING_DB = 10.0, 8.0
"""A muted note is so much duller, or fades so much more in its first tenth of a second, than the recording's usual."""
MUTED_SCORE, OVERTONES_ABOVE = 1.0, 5.0
SETTLED_S, FADE_S, LOOK_S = 0.05, 0.09, 0.045
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

    @property
    def duration_s(self) -> float:
        return self.offset_s - self.onset_s

    @property
    def reading(self) -> Reading:
        """What the curve is called."""
        return read_curve(self.curve, self.vibrato, self.duration_s)


def heard_notes(
    cuts: list[Segment],
    shapes: list[Shape | None],
    track: PitchTrack,
    onsets: OnsetCurve,
    sound: FloatArray,
) -> list[Heard]:
    """Name strike, tone and end of each segment, in time order; segments without a pitch are left out.

    sound: shape (n_samples,), at the hearing rate.
    """
    found: list[Heard] = []
    muted = _muted(cuts, shapes, sound)
    for cut, shape, is_muted in zip(cuts, shapes, muted, strict=True):
        if shape is not None:
            previous = found[-1] if found else None
            found.append(_heard(cut, shape, previous, track, muted=is_muted))
    return _with_rakes(found, onsets)


def _heard(cut: Segment, shape: Shape, previous: Heard | None, track: PitchTrack, *, muted: bool) -> Heard:
    onset_s, offset_s = cut.first * HOP_S, cut.last * HOP_S
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
    ends_bent = float(previous.curve.at(np.array([previous.duration_s]))[0])
    starts_at = one.fretted_midi + float(one.curve.at(np.zeros(1))[0])
    same = abs(previous.fretted_midi + ends_bent - starts_at) < REPICK_SEMITONES
    near = one.onset_s - previous.offset_s < REPICK_GAP_S
    # the same pitch again and steady could as well be the next string's fret: only a fall gives the bend away
    falls = float(one.curve.at(np.array([one.duration_s]))[0]) < starts_at - one.fretted_midi - REPICK_SEMITONES
    if not (ends_bent >= REPICK_BEND and same and near and falls):
        return one
    up = one.fretted_midi - previous.fretted_midi
    points = tuple((t, bend + up) for t, bend in one.curve.points) or ((0.0, float(up)),)
    return replace(one, strike=Strike.REPICK, fretted_midi=previous.fretted_midi, curve=Curve(points))


def _muted(cuts: list[Segment], shapes: list[Shape | None], sound: FloatArray) -> list[bool]:
    """Which struck notes are damped by the hand: duller and faster to fade than is usual in this recording."""
    dull, fading = np.full(len(cuts), np.nan), np.full(len(cuts), np.nan)
    for index, (cut, shape) in enumerate(zip(cuts, shapes, strict=True)):
        if cut.struck and shape is not None and (cut.last - cut.first) * HOP_S >= SETTLED_S + LOOK_S:
            onset_s = cut.first * HOP_S
            dull[index] = -_overtones_db(_part(sound, onset_s + SETTLED_S, LOOK_S), shape.fretted_midi)
            early, late = (_level_db(_part(sound, onset_s + at_s, 0.02)) for at_s in (0.012, 0.012 + FADE_S))
            fading[index] = early - late
    if np.isnan(dull).all():
        return [False] * len(cuts)
    score = (dull - np.nanmedian(dull)) / DULL_DB + (fading - np.nanmedian(fading)) / FADING_DB
    return [bool(value > MUTED_SCORE) for value in np.nan_to_num(score)]


def _part(sound: FloatArray, at_s: float, length_s: float) -> FloatArray:
    first = round(at_s * RATE)
    return sound[first : first + round(length_s * RATE)]


def _level_db(part: FloatArray) -> float:
    return 10 * float(np.log10(np.mean(part**2) + 1e-9)) if part.size else -90.0


def _overtones_db(part: FloatArray, midi: float) -> float:
    """How much of a moment's energy lies above the fifth partial, decibels below all of it."""
    if part.size < 64:
        return -60.0
    power = np.abs(np.fft.rfft(part * np.hanning(part.size))) ** 2
    hertz = np.fft.rfftfreq(part.size, 1 / RATE)
    above = float(power[hertz > OVERTONES_ABOVE * midi_to_hz(midi)].sum())
    return 10 * float(np.log10((above + 1e-9) / (float(power.sum()) + 1e-9)))


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
