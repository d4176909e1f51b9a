"""How each heard note was struck, what kind of tone it has, how it ends."""

from dataclasses import dataclass, replace

import numpy as np

from notcher.core.hearing.notes import SegmentedTrack
from notcher.core.hearing.onsets import OnsetCurve, pick_peaks
from notcher.core.hearing.pitch import HOP_S, PitchTrack
from notcher.core.hearing.segments import Segment
from notcher.core.hearing.shape import Shape
from notcher.core.hearing.trust import Kinds, kinds, sureness
from notcher.core.score import (
    FLAT,
    Attack,
    Doubt,
    DoubtKind,
    End,
    PitchCurve,
    Reading,
    Tone,
    Vibrato,
    read_curve,
)

TAP_SEMITONES = 5
RAKE_SPAN_S, CLICK_THRESHOLD, CLICKS_APART_S = 0.095, 0.08, 0.014
RINGS_S = 0.6
CHOKED_BEND, CHOKE_REST_S = 0.8, 0.12
SWELL_FRAMES = 24  # 140 ms
LINK_S = 0.06
UNSURE = (0.3, 0.7)
SLID = 0.6  # in a band the frets between are heard by their partials, not in the pitch
SQUEAL_SEMITONES, USUAL_MIDI = 24, 62  # the fourth partial squeals most easily (common practice, no source)


@dataclass(frozen=True, slots=True)
class Heard:
    """A note without a place yet.

    fretted_midi: of a natural harmonic the pitch that sounds, for where it is touched is the neck's to say.
    uncertain: what the name of its tone or attack is in doubt about.
    """

    onset_s: float
    offset_s: float
    fretted_midi: int
    attack: Attack
    curve: PitchCurve
    vibrato: Vibrato | None
    voicing: float
    plateau_cents: float
    sureness: float = 1.0
    end: End = End.STOPS
    tone: Tone = Tone.NORMAL
    raked: bool = False
    slid_in: bool = False
    uncertain: Doubt | None = None

    @property
    def duration_s(self) -> float:
        return self.offset_s - self.onset_s

    @property
    def reading(self) -> Reading:
        """What the curve is called."""
        return read_curve(self.curve, self.vibrato, self.duration_s)


def heard_notes(segmented: SegmentedTrack, onsets: OnsetCurve, *, alone: bool = True) -> list[Heard]:
    """Name attack, tone and end of each note of a track, in time order. alone: no drums among the clicks."""
    found: list[Heard] = []
    told, sure = kinds(segmented.features), sureness(segmented.features)
    nexts = [*(cut.first for cut in segmented.cuts[1:]), segmented.track.times_s.size]
    for index, (cut, shape, following) in enumerate(zip(segmented.cuts, segmented.shapes, nexts, strict=True)):
        previous = found[-1] if found else None
        kind = _kind(told, index, cut, shape, previous)
        note = _heard(cut, shape, previous, segmented.track, kind, float(sure[index]))
        # a bend that only makes room for the next note is not choked
        made_room = note.end is End.CHOKED and (following - cut.last) * HOP_S < CHOKE_REST_S
        found.append(replace(note, end=End.STOPS) if made_room else note)
    return _with_rakes(found, onsets) if alone else found


@dataclass(frozen=True, slots=True)
class _Kind:
    """Tone and attack of one note as judged, and what is in doubt about them."""

    tone: Tone
    attack: Attack
    uncertain: Doubt | None


def _kind(told: Kinds, index: int, cut: Segment, shape: Shape, previous: Heard | None) -> _Kind:
    chances = {
        Tone.PALM_MUTE: told.muted[index],
        Tone.NATURAL_HARMONIC: told.harmonic[index],
        Tone.SQUEAL_HARMONIC: told.squeal[index],
        Tone.DEAD: told.dead[index],
    }
    tone = max(chances, key=lambda tone: chances[tone]) if cut.struck else Tone.NORMAL
    chance = float(chances.get(tone, 0.0))
    unsure = tone is not Tone.NORMAL and UNSURE[0] < chance < UNSURE[1]
    doubt = Doubt(DoubtKind.TONE, chance, tone=tone) if unsure else None
    tone = tone if chance > 0.5 else Tone.NORMAL
    slid = float(told.slid[index])
    leads = previous is not None and cut.first * HOP_S - previous.offset_s < LINK_S
    legato = (
        leads and tone is Tone.NORMAL and abs(shape.fretted_midi - previous.fretted_midi) > 1 if previous else False
    )
    if legato and UNSURE[0] < slid < UNSURE[1]:
        doubt = Doubt(DoubtKind.SLID, slid)
    attack = Attack.SLIDE if legato and (cut.slid or slid > SLID) else _attack(cut)
    return _Kind(tone, attack, doubt)


def _heard(cut: Segment, shape: Shape, previous: Heard | None, track: PitchTrack, kind: _Kind, sure: float) -> Heard:
    onset_s, offset_s = cut.first * HOP_S, cut.last * HOP_S
    damped = kind.tone in (Tone.PALM_MUTE, Tone.DEAD)
    note = Heard(
        onset_s,
        offset_s,
        shape.fretted_midi - (SQUEAL_SEMITONES if _high_for(shape, previous, kind.tone) else 0),
        kind.attack,
        FLAT if damped else shape.curve,
        None if damped else shape.vibrato,
        float(np.mean(track.voicing[cut.first : cut.own_last])),
        shape.plateau_cents,
        sure,
        _end(cut, shape, damped=damped),
        kind.tone,
        uncertain=kind.uncertain,
        slid_in=cut.from_nowhere,
    )
    if kind.tone is Tone.NORMAL and _swells(cut, track):
        return replace(note, attack=Attack.SWELL)
    return note


def _high_for(shape: Shape, previous: Heard | None, tone: Tone) -> bool:
    """Whether of a squeal the partial was followed and not the string: it lies far above what was played before."""
    usual = previous.fretted_midi if previous is not None else USUAL_MIDI
    return tone is Tone.SQUEAL_HARMONIC and shape.fretted_midi - usual > SQUEAL_SEMITONES / 2


def _end(cut: Segment, shape: Shape, *, damped: bool) -> End:
    length_s = (cut.last - cut.first) * HOP_S
    if cut.slides_away and not damped:
        return End.SLIDES_AWAY
    if cut.damped:
        bent = float(shape.curve.at(np.array([length_s]))[0])
        return End.CHOKED if bent >= CHOKED_BEND else End.STOPS
    return End.RINGS if length_s > RINGS_S else End.STOPS


def _swells(cut: Segment, track: PitchTrack) -> bool:
    """Whether a note fades in from silence: no attack, and its top only after a while."""
    level = track.level_db[cut.first : cut.last]
    before = track.level_db[max(0, cut.first - 12) : max(0, cut.first - 2)]
    if cut.step != 0 or level.size < 2 * SWELL_FRAMES or (before.size and before.max() > level.max() - 20):
        return False
    top = float(level[: 6 * SWELL_FRAMES].max())
    loud = int(np.argmax(level > top - 3))
    early = float(level[SWELL_FRAMES // 3])
    return loud >= SWELL_FRAMES and early < top - 6


def _attack(cut: Segment) -> Attack:
    if cut.repicked:
        return Attack.REPICK
    if cut.struck or cut.step == 0:
        return Attack.PICK
    if cut.step >= TAP_SEMITONES - 0.5:
        return Attack.TAP
    return Attack.HAMMER if cut.step > 0 else Attack.PULL


def _with_rakes(found: list[Heard], onsets: OnsetCurve) -> list[Heard]:
    """Mark notes that two or more clicks lead into; what was heard of the clicks themselves is no note."""
    clicks = pick_peaks(onsets.flux, threshold=CLICK_THRESHOLD, apart_s=CLICKS_APART_S) * HOP_S
    kept: list[Heard] = []
    for note in found:
        lead_in = clicks[(clicks < note.onset_s - 0.012) & (clicks > note.onset_s - RAKE_SPAN_S)]
        while kept and kept[-1].onset_s > note.onset_s - RAKE_SPAN_S and kept[-1].duration_s < RAKE_SPAN_S:
            if lead_in.size < 2 or note.attack is not Attack.PICK:
                break
            kept.pop()
        notes = np.array([other.onset_s for other in kept[-3:]])
        loose = [click for click in lead_in if notes.size == 0 or np.abs(notes - click).min() > 0.018]
        kept.append(replace(note, raked=True) if len(loose) >= 2 and note.attack is Attack.PICK else note)
    return kept
