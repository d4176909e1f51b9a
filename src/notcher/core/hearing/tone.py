"""How each heard note was struck, what kind of tone it has, how it ends."""

from dataclasses import dataclass, replace

import numpy as np

from notcher.core.hearing.notes import VoiceNotes
from notcher.core.hearing.onsets import OnsetCurve, pick_peaks
from notcher.core.hearing.pitch import HOP_S, PitchTrack
from notcher.core.hearing.segments import Segment
from notcher.core.hearing.shape import Shape
from notcher.core.hearing.trust import damped, sureness
from notcher.core.score import FLAT, Curve, End, Reading, Strike, Tone, Vibrato, read_curve

TAP_SEMITONES = 5
REPICK_GAP_S, REPICK_SEMITONES, REPICK_BEND = 0.07, 0.3, 0.8
RAKE_SPAN_S, CLICK_THRESHOLD = 0.12, 0.33
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
    sureness: float = 1.0
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


def heard_notes(voice: VoiceNotes, onsets: OnsetCurve, *, alone: bool = True) -> list[Heard]:
    """Name strike, tone and end of each note of a voice, in time order. alone: no drums among the clicks."""
    found: list[Heard] = []
    told = zip(voice.cuts, voice.shapes, sureness(voice.features), damped(voice.features), strict=True)
    for cut, shape, sure, is_muted in told:
        previous = found[-1] if found else None
        found.append(_heard(cut, shape, previous, voice.track, muted=bool(is_muted and cut.struck), sure=float(sure)))
    return _with_rakes(found, onsets) if alone else found


def _heard(cut: Segment, shape: Shape, previous: Heard | None, track: PitchTrack, *, muted: bool, sure: float) -> Heard:
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
        sure,
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


def _with_rakes(found: list[Heard], onsets: OnsetCurve) -> list[Heard]:
    """Mark notes that two or more clicks, belonging to no note, lead into."""
    strikes = pick_peaks(onsets.click, threshold=CLICK_THRESHOLD) * HOP_S
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
