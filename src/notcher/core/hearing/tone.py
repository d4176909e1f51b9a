"""How each heard note was struck, what kind of tone it has, how it ends."""

from dataclasses import dataclass, replace

import numpy as np

from notcher.core.arrays import FloatArray
from notcher.core.hearing.moments import TONES
from notcher.core.hearing.note_contour import NoteContour
from notcher.core.hearing.notes import SegmentedTrack
from notcher.core.hearing.onsets import OnsetCurve, pick_peaks
from notcher.core.hearing.pitch import HOP_S, PitchTrack
from notcher.core.hearing.segments import Segment
from notcher.core.hearing.trust import sureness
from notcher.core.score import (
    CARELESS_SEMITONES,
    FLAT,
    Attack,
    Doubt,
    DoubtKind,
    End,
    GestureName,
    PitchCurve,
    Tone,
    Vibrato,
    read_curve,
)

TAP_SEMITONES = 5  # farther than the fretting hand stretches from its first finger
HAND_SEMITONES, STRETCH_SEMITONES, TAPPED_BACK = 5, 6, 3  # what four fingers span; a tap is pulled off again
CELL_LENGTHS, CELL_PITCHES, CELL_S, CELL_UNPICKED = (3, 4, 6), 3, 0.22, 0.5
"""Tapped cells are of three, four or six, quick, and hardly picked."""
UNPICKED = (Attack.HAMMER, Attack.PULL, Attack.SLIDE, Attack.TAP)
RAKE_SPAN_S, CLICK_THRESHOLD, CLICKS_APART_S = 0.095, 0.08, 0.014
"""A rake is over in a tenth of a second; its clicks are soft and close."""
RINGS_S = 0.6  # longer is left to ring, shorter was stopped
DEAD_FRAMES, DEAD_DB = 16, 22.0  # 93 ms
CHOKED_BEND, CHOKE_REST_S = 0.8, 0.12  # most of a semitone up; cut off while it was held
SWELL_FRAMES = 24  # 140 ms
LINK_S = 0.06  # a gap that a finger leaves
SAME_ONSET_S = 0.02  # as one stroke over strings
MUTED, DEAD = TONES.index(Tone.PALM_MUTE), TONES.index(Tone.DEAD)
STRETCH_S = 0.7  # neighbours within it are judged together
CURL_SEMITONES = 0.3  # most of the quarter tone that a curl is, above a careless finger
FADE_FRAMES, ATTACK_FRAMES, LEAST_FADE_FRAMES = 26, 8, 5  # 150 ms, 46 ms, 29 ms
FADE_WEIGHT, FADE_USUAL, FADE_MOST = 0.08, 22.0, 53.0  # nats, dB a second; an amp that holds the level tells nothing
DEAD_FADE, DEAD_WEIGHT = 150.0, 0.02  # a dead note is gone before a muted one has fallen by half
TONE_WEIGHT, TONE_MOST = 0.8, 5.0  # the network is never so sure of a mute on a sound that it has not learned
UNSURE = (0.3, 0.7)  # between these it is told and doubted
SLID = 0.6  # more likely than not, with some room
SQUEAL_SEMITONES, USUAL_MIDI = 24, 62  # the fourth partial squeals most easily (common practice, no source)


@dataclass(frozen=True, slots=True)
class HeardNote:
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
    others: "tuple[HeardAlternatives, ...]" = ()

    @property
    def duration_s(self) -> float:
        return self.offset_s - self.onset_s

    @property
    def reading(self) -> GestureName:
        """What the curve is called."""
        return read_curve(self.curve, self.vibrato, self.duration_s)


@dataclass(frozen=True, slots=True)
class HeardAlternatives:
    """Another reading: nats that it is behind, the stretch it explains, its notes, which of them stands for this."""

    cost_delta: float
    begins_s: float
    ends_s: float
    notes: tuple[HeardNote, ...]
    at: int


def heard_notes(segmented: SegmentedTrack, onsets: OnsetCurve, *, alone: bool = True) -> list[HeardNote]:
    """Name attack, tone and end of each note of a track, in time order. alone: no drums among the clicks."""
    notes: list[HeardNote] = []
    sure, tones = sureness(segmented.features), _in_stretches(segmented, alone=alone)
    nexts = [*(cut.first for cut in segmented.cuts[1:]), segmented.track.times_s.size]
    for index, (cut, shape, following) in enumerate(zip(segmented.cuts, segmented.shapes, nexts, strict=True)):
        previous = notes[-1] if notes else None
        kind = _kind(tones[index], float(segmented.judged.slid[index]), cut, shape, previous, alone=alone)
        note = _heard(cut, shape, previous, segmented.track, kind, float(sure[index]))
        # a bend that only makes room for the next note is not choked
        made_room = note.end is End.CHOKED and (following - cut.last) * HOP_S < CHOKE_REST_S
        note = replace(note, end=End.STOPS) if made_room else note
        notes.append(replace(note, others=_otherwise(segmented, index, note, kind)))
    notes = _with_taps(notes)
    return _with_rakes(notes, onsets) if alone else notes


@dataclass(frozen=True, slots=True)
class _Kind:
    """Tone and attack of one note as judged, and what is in doubt about them."""

    tone: Tone
    attack: Attack
    uncertain: Doubt | None


def _otherwise(segmented: SegmentedTrack, index: int, note: HeardNote, kind: _Kind) -> tuple[HeardAlternatives, ...]:
    """The other readings of a note; what is struck at the same moment has the same tone."""
    heard_alternatives = []
    for other in segmented.others[index]:
        notes: list[HeardNote] = []
        for cut, shape in zip(other.cuts, other.shapes, strict=True):
            same = cut.struck and abs(cut.first * HOP_S - note.onset_s) < SAME_ONSET_S
            plain = Attack.SLIDE if cut.slid and not cut.struck else _attack(cut)
            own = _Kind(kind.tone if same else Tone.NORMAL, plain, None)
            notes.append(_heard(cut, shape, notes[-1] if notes else None, segmented.track, own, note.sureness))
        heard_alternatives.append(
            HeardAlternatives(other.cost_delta, other.first * HOP_S, other.last * HOP_S, tuple(notes), other.at)
        )
    return tuple(heard_alternatives)


def _in_stretches(segmented: SegmentedTrack, *, alone: bool) -> FloatArray:
    """How likely each note is of each kind of tone, (n_notes, len(TONES)); a hand that mutes does so for a while."""
    own = np.log(np.clip(segmented.judged.tones, 1e-4, 1.0))
    if alone:
        begun = [cut.first for cut in segmented.cuts]
        ends = [*begun[1:], segmented.track.times_s.size]
        level_db = segmented.track.level_db
        fades = np.array([_fade(level_db[cut.first : cut.own_last]) for cut in segmented.cuts])
        fade = np.array([_fade(level_db[a:b]) for a, b in zip(begun, ends, strict=True)])
        muted_logit = TONE_WEIGHT * np.clip(own[:, MUTED] - own[:, 0], -TONE_MOST, TONE_MOST)
        own[:, MUTED] = own[:, 0] + muted_logit + FADE_WEIGHT * np.clip(fades - FADE_USUAL, 0, FADE_MOST)
        own[:, DEAD] += DEAD_WEIGHT * np.clip(fade - DEAD_FADE, 0, DEAD_FADE)
    onsets_s = np.array([cut.first for cut in segmented.cuts]) * HOP_S
    struck = np.array([cut.struck for cut in segmented.cuts])
    muted = own[:, MUTED] - own[:, 0]
    result = own.copy()
    for index in np.flatnonzero(struck):
        beside = np.flatnonzero(struck & (np.abs(onsets_s - onsets_s[index]) < STRETCH_S))
        beside = beside[beside != index]
        if beside.size:
            result[index, MUTED] += float(np.clip(muted[beside], -3, 3).sum()) / (beside.size + 1)
    shares = np.exp(result)
    return np.asarray(shares / shares.sum(axis=1, keepdims=True))


def _is_bent(shape: NoteContour) -> bool:
    """Whether a finger bends the string: an open string, whose harmonics are touched, has no such finger."""
    return any(bend > CURL_SEMITONES for _, bend in shape.curve.points)


def _fade(level_db: FloatArray) -> float:
    """How fast a note's level goes on falling from its loudest moment on, decibels a second.

    level_db: shape (n,), from its onset on. Plucked strings fall fast at first and then slowly, muted ones
    fast all along.
    """
    level = level_db[: min(FADE_FRAMES, level_db.size - 3)]
    level = level[int(np.argmax(level[:ATTACK_FRAMES])) if level.size else 0 :]
    if level.size < LEAST_FADE_FRAMES:
        return 0.0
    halves = level[: level.size // 2 + 1], level[level.size // 2 :]
    return -max(_slope(half) for half in halves) / HOP_S


def _slope(values: FloatArray) -> float:
    """Of the straight line nearest to values one step apart."""
    steps = np.arange(values.size) - (values.size - 1) / 2
    return float(steps @ values) / max(float(steps @ steps), 1e-9)


def _kind(
    tones: FloatArray, slid: float, cut: Segment, shape: NoteContour, previous: HeardNote | None, *, alone: bool
) -> _Kind:
    best = int(np.argmax(tones)) if cut.struck else 0
    tone, chance = TONES[best], float(tones[best])
    unsure = tone is not Tone.NORMAL and UNSURE[0] < chance < UNSURE[1]
    doubt = Doubt(DoubtKind.TONE, chance, tone=tone) if unsure else None
    tone = tone if chance > 0.5 and not (tone is Tone.NATURAL_HARMONIC and _is_bent(shape)) else Tone.NORMAL
    leads = previous is not None and cut.first * HOP_S - previous.offset_s < LINK_S
    legato = (
        leads and tone is Tone.NORMAL and abs(shape.fretted_midi - previous.fretted_midi) > 1 if previous else False
    )
    if legato and UNSURE[0] < slid < UNSURE[1]:
        doubt = Doubt(DoubtKind.SLID, slid)
    heard_slide = not alone and slid > SLID  # through a band the frets between are heard, not seen in the pitch
    attack = Attack.SLIDE if legato and (cut.slid or heard_slide) else _attack(cut)
    return _Kind(tone, attack, doubt)


def _heard(
    cut: Segment, shape: NoteContour, previous: HeardNote | None, track: PitchTrack, kind: _Kind, sure: float
) -> HeardNote:
    onset_s, offset_s = cut.first * HOP_S, cut.last * HOP_S
    tone = Tone.DEAD if kind.tone is Tone.PALM_MUTE and _stops_at_once(cut, track) else kind.tone
    damped = tone in (Tone.PALM_MUTE, Tone.DEAD)
    note = HeardNote(
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
        tone,
        uncertain=kind.uncertain,
        slid_in=cut.from_nowhere,
    )
    if kind.tone is Tone.NORMAL and _swells(cut, track):
        return replace(note, attack=Attack.SWELL)
    if note.attack is Attack.REPICK and not _begins_bent(note.curve):  # what is written straight was not held bent
        return replace(note, attack=Attack.PICK)
    return note


def _begins_bent(curve: PitchCurve) -> bool:
    return bool(curve.points) and curve.points[0][1] >= CARELESS_SEMITONES


def _high_for(shape: NoteContour, previous: HeardNote | None, tone: Tone) -> bool:
    """Whether of a squeal the partial was followed and not the string: it lies far above what was played before."""
    usual = previous.fretted_midi if previous is not None else USUAL_MIDI
    return tone is Tone.SQUEAL_HARMONIC and shape.fretted_midi - usual > SQUEAL_SEMITONES / 2


def _end(cut: Segment, shape: NoteContour, *, damped: bool) -> End:
    length_s = (cut.last - cut.first) * HOP_S
    if cut.slides_away and not damped:
        return End.SLIDES_AWAY
    if cut.damped:
        bent = float(shape.curve.at(np.array([length_s]))[0])
        return End.CHOKED if bent >= CHOKED_BEND else End.STOPS
    return End.RINGS if length_s > RINGS_S else End.STOPS


def _stops_at_once(cut: Segment, track: PitchTrack) -> bool:
    """Whether a muted note has hardly a pitch: it is over before a palm would let it ring."""
    level = track.level_db[cut.first : cut.first + DEAD_FRAMES]
    return cut.last - cut.first < DEAD_FRAMES and level.size > 2 and float(level.max() - level[-1]) > DEAD_DB


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


def _with_taps(notes: list[HeardNote]) -> list[HeardNote]:
    """Call a tap what the fretting hand cannot reach in a chain without a pick, and the top of a cell played around.

    A single leap that is not pulled off again is a pick that was missed: nobody taps a note just once on the way up.
    """
    result, begun = list(notes), 0
    for at in range(1, len(notes) + 1):
        if at < len(notes) and notes[at].attack in UNPICKED and _leads(notes[at - 1], notes[at]):
            continue
        chain = notes[begun:at]
        low = min(note.fretted_midi for note in chain)
        for number, note in enumerate(chain[1:], start=1):
            up = note.fretted_midi - chain[number - 1].fretted_midi
            back = note.fretted_midi - chain[number + 1].fretted_midi if number + 1 < len(chain) else 0
            reach = note.fretted_midi - low
            if up > 0 and reach > HAND_SEMITONES and note.attack is Attack.HAMMER and not any(note.reading.names):
                far = up >= TAP_SEMITONES or reach > STRETCH_SEMITONES
                if back >= TAPPED_BACK:
                    result[begun + number] = replace(note, attack=Attack.TAP)
                elif far:
                    result[begun + number] = replace(note, attack=Attack.PICK)
        begun = at
    for first, last in _cells(result):
        top = max(note.fretted_midi for note in result[first:last])
        for number in range(max(first, 1), last):
            note = result[number]
            if note.fretted_midi == top and result[number - 1].fretted_midi < top:
                result[number] = replace(note, attack=Attack.TAP)
    return result


def _cells(notes: list[HeardNote]) -> list[tuple[int, int]]:
    """Stretches in which a few quick notes of three pitches and more, wider than a hand, go round and round.

    Returns: the first note of each and the one after its last. Few of their notes are picked.
    """
    pitch = [note.fretted_midi for note in notes]
    quick = [
        note.duration_s < CELL_S and not any(note.reading.names) and (at == 0 or _leads(notes[at - 1], note))
        for at, note in enumerate(notes)
    ]
    stretches = []
    for period in CELL_LENGTHS:
        first = 0
        while first + period < len(notes):
            last = first + period
            even = all(quick[first + 1 : last])
            while even and last < len(notes) and quick[last] and pitch[last] == pitch[last - period]:
                last += 1
            cell = set(pitch[first : first + period])
            wide = max(cell) - min(cell) >= HAND_SEMITONES and len(cell) >= CELL_PITCHES
            unpicked = sum(note.attack in UNPICKED for note in notes[first + 1 : last])
            if last - first >= 2 * period - 1 and wide and unpicked >= CELL_UNPICKED * (last - first - 1):
                stretches.append((first, last))
                first = last
            else:
                first += 1
    return stretches


def _leads(before: HeardNote, note: HeardNote) -> bool:
    return note.onset_s - before.offset_s < LINK_S


def _with_rakes(raw_notes: list[HeardNote], onsets: OnsetCurve) -> list[HeardNote]:
    """Mark notes that two or more clicks lead into; what was heard of the clicks themselves is no note."""
    clicks = pick_peaks(onsets.flux, threshold=CLICK_THRESHOLD, apart_s=CLICKS_APART_S) * HOP_S
    raked: list[HeardNote] = []
    for note in raw_notes:
        lead_in = clicks[(clicks < note.onset_s - 0.012) & (clicks > note.onset_s - RAKE_SPAN_S)]
        while raked and raked[-1].onset_s > note.onset_s - RAKE_SPAN_S and raked[-1].duration_s < RAKE_SPAN_S:
            if lead_in.size < 2 or note.attack is not Attack.PICK:
                break
            raked.pop()
        notes = np.array([other.onset_s for other in raked[-3:]])
        loose = [click for click in lead_in if notes.size == 0 or np.abs(notes - click).min() > 0.018]
        raked.append(replace(note, raked=True) if len(loose) >= 2 and note.attack is Attack.PICK else note)
    return raked
