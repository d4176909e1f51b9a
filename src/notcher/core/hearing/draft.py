"""From a recording to a drafted score: the whole way, in the order a person would go."""

import math
from collections.abc import Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from notcher.core.arrays import FloatArray
from notcher.core.errors import CancelCheck, Cancelled, NotcherError, Progress, never_cancelled, no_progress
from notcher.core.hearing.analysis import Analysis, analyse
from notcher.core.hearing.attacks import PEAK_THRESHOLD
from notcher.core.hearing.beats import find_beats
from notcher.core.hearing.echo import find_echo, without_echo
from notcher.core.hearing.evidence import Measured
from notcher.core.hearing.notes import resting_share, segmented_tracks
from notcher.core.hearing.onsets import pick_peaks
from notcher.core.hearing.partials import rise_db
from notcher.core.hearing.pitch import HOP_S, RATE, PitchTrack
from notcher.core.hearing.pitch_paths import Hint
from notcher.core.hearing.stiffness import LEAST_S, believable, measured_stiffness, string_costs
from notcher.core.hearing.tone import HeardNote, heard_notes
from notcher.core.hearing.tuning import TuningProposal, propose_tunings
from notcher.core.hearing.unison import UnisonBend
from notcher.core.neck import EQUAL_COST, Place, Placed, Sounding, nearest_place, place, places, reached_place, strokes
from notcher.core.patterns import phrases_of
from notcher.core.score import (
    FLAT,
    LAST_FRET,
    LEGATO_ATTACKS,
    LINK_S,
    Aside,
    Attack,
    Doubt,
    DoubtKind,
    End,
    Excluded,
    Note,
    NoteAlternative,
    PitchCurve,
    Score,
    Tone,
    Tuning,
    between_sizes,
    derived_id,
    midi_to_hz,
    with_derived_ids,
    with_times,
)
from notcher.core.score.rhythm import played_late_s
from notcher.core.sound import Clip, banded, focused, has_middle, is_wide, peak_dbfs, peak_level, resampled
from notcher.core.theory import likely_scales

SHORTEST_S = 0.3  # nothing shorter holds a phrase
SILENT_DBFS = -60.0  # quieter is the noise of an input
DOUBT_BELOW, WEAK_PITCH = 0.6, 0.6  # so sure or less is said to be doubtful
BAND_BELOW, SHORT_BAND_BELOW, BAND_SHORT_S = 0.05, 0.3, 0.2
"""What is less sure than this through a band is hardly ever the lead; where it is shorter than so many seconds."""
TEMPERATURE = 2.0  # nats of the decoding's costs that make a factor of e in what is likely; from the tuning set
AROUND = 8  # notes that another reading can reach
Band = tuple[float, float]
USUAL_REST, SPOKEN_REST = 0.45, 0.3  # seconds of silence that end a phrase; that end a spoken one
EARLY_S = 10.0  # how much is heard before the first phrase is shown
LATELY_S, FAINT_DB, FAINT_UNSURE_DB = 1.0, 21.0, 15.0
"""Against the last second's level: fainter is the room or another player."""
SHORTEST_WRITTEN_S = 0.06  # every voiced stretch of this length is written, however unlikely it is
LEAST_SURE = 0.3  # what is more likely wrong than this is not written
LEAST_BEND, UNISON_REACH, MEET_S = 0.4, 1.3, 0.04  # semitones, semitones, seconds
RESTRUCK_DB = -1.5  # the tuning set: 12 in 13 that are struck again grow by more, 11 in 12 that ring on by less
STROKE_S, UNISON_OFF = 0.06, 0.6  # seconds, semitones: what belongs to a unison bend
TELLS_OF_TUNING = 0.7  # so sure a tuning may move notes
OVERTONES = (19, 24, 28, 31)  # semitones of the partials 3 to 6 over the first
ENOUGH_TO_TELL = 24  # notes measured before a sound that tells nothing is given up
LEAST_FOR_BEATS, FITTING_S, OFF_BEAT_S = 12, 0.03, 0.075
"""Three bars of four; what playing spreads; half a thirty-second."""


class HearingError(NotcherError):
    """There is no lead to hear."""


@dataclass(frozen=True, slots=True, eq=False)
class Draft:
    """What was heard: the score, the pitch it rests on, the tunings that would fit, the focus, what was listened to.

    strikes_s: shape (n,), rising, seconds: every moment where new energy came in.
    """

    score: Score
    track: PitchTrack
    tunings: tuple[TuningProposal, ...]
    focus: str
    analysis: Analysis | None = None
    attacks_s: FloatArray = field(default_factory=lambda: np.zeros(0))

    @property
    def measured(self) -> Measured:
        """What every claim about this recording is held against."""
        tracks = self.analysis.tracks if self.analysis is not None else (self.track,)
        return Measured(tracks, self.score.tuning.offset_cents)


def draft(
    clip: Clip,
    *,
    focus: str = "auto",
    band_hz: Band | None = None,
    tuning: Tuning | None = None,
    style: str = "position",
    hints: Sequence[Hint] = (),
    progress: Progress = no_progress,
    cancelled: CancelCheck = never_cancelled,
) -> Draft:
    """Hear a recording: lead, pitch, attacks, notes, tuning, places, beat map, phrases.

    band_hz: listen only to what lies between two frequencies. hints: where the instructor knows the lead to be.
    tuning: None lets the likeliest be taken; its cents offset is measured either way.
    Raises: HearingError when there is nothing to hear; Cancelled.
    """
    _check(clip)
    focus = side_of_lead(clip, cancelled=cancelled) if focus == "auto" else focus
    sound = hearing_sound(clip, focus, band_hz)
    progress(0.08)
    if cancelled():
        raise Cancelled
    analysis = analyse(*sound, progress=lambda share: progress(0.1 + 0.7 * share), cancelled=cancelled)
    del sound  # a long recording's sound is large
    return written(
        clip,
        analysis.steered(hints) if hints else analysis,
        focus=focus,
        tuning=tuning,
        style=style,
        progress=progress,
    )


def written(
    clip: Clip,
    analysis: Analysis,
    *,
    focus: str = "auto",
    tuning: Tuning | None = None,
    style: str = "position",
    progress: Progress = no_progress,
) -> Draft:
    """Write down what was listened to; see `draft`."""
    notes_heard, offset, rests = _heard(analysis)
    onsets_s = np.unique([round(note.onset_s, 2) for note in notes_heard])
    beat_map = find_beats(analysis.beat_flux, onsets_s, analysis.harmony)
    progress(0.9)
    harmonics = [note.fretted_midi for note in notes_heard if note.tone is Tone.NATURAL_HARMONIC]
    surely = [note for note in notes_heard if note.sureness > TELLS_OF_TUNING]
    fretted = [note.fretted_midi for note in surely if note.tone is not Tone.NATURAL_HARMONIC]
    scales = likely_scales(
        [note.fretted_midi + note.reading.bend_semitones for note in surely], [note.duration_s for note in surely]
    )
    proposals = propose_tunings(fretted, offset, harmonics=harmonics, scales=scales)
    neck = replace(tuning, offset_cents=round(offset, 1)) if tuning is not None else proposals[0].tuning
    low, high = min(neck.open_midi), max(neck.open_midi) + LAST_FRET
    any_lead = any(note.sureness >= DOUBT_BELOW for note in notes_heard)
    audible: list[HeardNote] = []
    aside: list[tuple[HeardNote, Aside]] = []
    for note, rings_under in zip(notes_heard, _ringing_under(notes_heard, analysis.sound, offset), strict=True):
        if not low <= note.fretted_midi <= high:
            aside.append((note, Aside.OFF_NECK))
        elif _rings_on(note, analysis.tracks[0]) or rings_under:
            aside.append((note, Aside.RINGS_ON))
        elif any_lead and not analysis.alone and note.sureness < _least_in_a_band(note):
            aside.append((note, Aside.BAND))
        else:
            audible.append(note)
    notes_heard = audible
    notes = _placed_notes(notes_heard, neck, style, analysis)
    title = clip.name.rsplit(".", 1)[0]
    excluded = tuple(_excluded(note, why, neck) for note, why in aside)
    doubt = _lead_doubt(notes_heard, rests)
    score = Score((), neck, beat_map, title=title, excluded=excluded, lead_doubt=doubt).with_notes(notes)
    score = _with_late_doubts(score)
    progress(1.0)
    attacks_s = pick_peaks(analysis.onsets.flux, threshold=PEAK_THRESHOLD) * HOP_S
    score = with_derived_ids(replace(score, phrases=phrases_of(score)))
    return Draft(score, analysis.tracks[0], proposals, focus, analysis, attacks_s)


def _least_in_a_band(note: HeardNote) -> float:
    return BAND_BELOW if note.duration_s > BAND_SHORT_S else SHORT_BAND_BELOW


def _excluded(note: HeardNote, why: Aside, neck: Tuning) -> Excluded:
    """What is none of the solo's, and the note that it would be, at its place or as near as the neck reaches."""
    where = reached_place(note.fretted_midi, neck)
    certainty = float(np.clip(note.sureness, 0.02, 0.99))
    written = Note(
        note.onset_s, note.offset_s, where.string, where.fret, note.attack, note.curve, note.vibrato, note.end,
        note.tone, certainty=certainty, id=derived_id("aside", note.onset_s, note.fretted_midi),
    )  # fmt: skip
    return Excluded(note.onset_s, float(note.fretted_midi), why, written)


def _lead_doubt(notes: Sequence[HeardNote], rests: float) -> Doubt | None:
    """Why a recording probably holds no lead; the instructor decides. rests: see `resting_share`."""
    surest = max((note.sureness for note in notes), default=0.0)
    if rests < SPOKEN_REST:
        return Doubt(DoubtKind.NEVER_RESTS, round(rests, 3))
    return Doubt(DoubtKind.NO_PITCH, round(surest, 3)) if surest < DOUBT_BELOW else None


def first_phrases(
    clip: Clip, *, style: str = "position", cancelled: CancelCheck = never_cancelled
) -> tuple[Draft, float] | None:
    """Hear the beginning of a long recording, so that there is something to look at while the rest is heard.

    Returns: the draft of its first whole phrases, and the time up to which it can stand; None when the recording is
    short or nothing is heard so soon. Raises: Cancelled.
    """
    side = clip.samples[:, 0]
    loud = 0.05 * max(peak_level(side), 1e-9)
    start_s = max(0.0, int(np.argmax((side > loud) | (side < -loud))) / clip.sample_rate - 0.5) if side.size else 0.0
    if clip.duration_s < 2 * EARLY_S + start_s:
        return None
    try:
        early = shifted(draft(clip.cut(start_s, start_s + EARLY_S), style=style, cancelled=cancelled), start_s)
    except HearingError:
        return None
    if early.score.lead_doubt is not None:
        return None
    until_s = early.score.phrases[-1].start_s if len(early.score.phrases) > 1 else start_s + EARLY_S - 1.0
    notes = tuple(note for note in early.score.notes if note.offset_s <= until_s)
    phrases = tuple(phrase for phrase in early.score.phrases if phrase.end_s <= until_s)
    return replace(early, score=replace(early.score, notes=notes, phrases=phrases)), until_s


def shifted(original: Draft, by_s: float) -> Draft:
    """Return a draft of a cut-out part with every time moved later by `by_s` seconds, into the whole recording."""
    if by_s == 0:
        return original
    score = original.score
    moved = with_times(replace(score, beat_map=score.beat_map.moved(by_s)), lambda time_s: time_s + by_s)
    track = replace(original.track, times_s=original.track.times_s + by_s)
    return replace(original, score=moved, track=track, attacks_s=original.attacks_s + by_s)


def side_of_lead(clip: Clip, *, cancelled: CancelCheck = never_cancelled) -> str:
    """Return on which side the lead plays where the sides have nothing in common: "left" or "right"; else "auto".

    A few seconds of each are heard, and the side counts on which more is surely a lead. Raises: Cancelled.
    """
    if clip.channels != 2 or not is_wide(clip) or has_middle(clip):
        return "auto"
    loud = np.flatnonzero(np.abs(clip.samples).max(axis=1) > 0.05 * float(np.abs(clip.samples).max()))
    start_s = float(loud[0] / clip.sample_rate)
    part, surest = clip.cut(start_s, start_s + EARLY_S), {}
    for side in ("left", "right"):
        if float(np.abs(focused(part, side)).max()) == 0:
            continue
        notes, _, _ = _heard(analyse(*hearing_sound(part, side), cancelled=cancelled))
        surest[side] = sum(note.sureness * note.duration_s for note in notes)
    return max(surest, key=lambda side: surest[side]) if surest else "auto"


def hearing_sound(clip: Clip, focus: str, band_hz: Band | None = None) -> tuple[FloatArray, FloatArray | None]:
    """Return what is listened to, at the hearing rate and without a delay's repeats.

    Shapes (n_samples,), mono. The second is the centre of the stereo picture, where the lead was taken out of it; else
    None.
    """
    small = Clip(resampled(clip.samples, from_rate=clip.sample_rate, to_rate=RATE), RATE, clip.name)
    sound = focused(small, focus)
    whole = focused(small, "mid") if is_wide(small) else None
    del small  # a long recording's sound is large
    if band_hz is not None:
        sound = banded(sound, RATE, band_hz)
    echo = find_echo(sound)
    return (without_echo(sound, echo) if echo is not None else sound), whole


def _heard(analysis: Analysis) -> tuple[list[HeardNote], float, float]:
    """Return the notes of all tracks in time order, the cents they lie off concert pitch, and how many of them rest."""
    segmented, offset = segmented_tracks(analysis)
    all_notes: list[HeardNote] = []
    # solos measured rest in 70 to 95 of 100 notes, speech in 20
    rests = resting_share(segmented[0], offset) if segmented else 1.0
    trust = min(1.0, rests / USUAL_REST) ** 2
    for number, part in enumerate(segmented):
        notes = heard_notes(part, analysis.onsets, alone=analysis.alone)
        notes = [replace(note, sureness=trust * note.sureness) for note in notes] if trust < 1 else notes
        if number == 0:
            notes = [_as_hinted(note, analysis.hints) for note in notes]
        sure = [
            note
            for note in notes
            if note.sureness >= LEAST_SURE or (number == 0 and note.duration_s >= SHORTEST_WRITTEN_S)
        ]
        all_notes += sure if number == 0 else [note for note in sure if _is_independent_note(note, all_notes)]
    all_notes = [
        _converged(_pushed_up(note, all_notes, analysis.pushes, offset / 100), all_notes) for note in all_notes
    ]
    return sorted(all_notes, key=lambda note: (note.onset_s, -note.fretted_midi)), offset, rests


def _as_hinted(note: HeardNote, hints: Sequence[Hint]) -> HeardNote:
    """A note where the instructor has said that the lead is: it is written, however unlikely it sounds."""
    middle_s = (note.onset_s + note.offset_s) / 2
    hinted = any(
        hint.start_s <= middle_s <= hint.end_s and hint.low_midi - 1 <= note.fretted_midi <= hint.high_midi + 1
        for hint in hints
    )
    return replace(note, sureness=max(note.sureness, DOUBT_BELOW)) if hinted else note


def _pushed_up(note: HeardNote, others: list[HeardNote], pushes: Sequence[UnisonBend], off: float) -> HeardNote:
    """The lower string of a unison bend: its curve is the push, and it sounds on as long as the string that is held.

    off: semitones that the recording lies off concert pitch.
    """
    for push in pushes:
        begins = abs(note.onset_s - push.begin_s) < STROKE_S
        if not (begins and abs(note.fretted_midi - (push.from_midi - off)) < UNISON_OFF):
            continue
        under = [
            other
            for other in others
            if abs(other.onset_s - note.onset_s) < STROKE_S
            and abs(other.fretted_midi - (push.held_midi - off)) < UNISON_OFF
        ]
        size, rise_s = push.size, max(MEET_S, push.end_s - note.onset_s)
        end_s = max((other.offset_s for other in under), default=note.offset_s)
        curve = PitchCurve(((0.0, 0.0), (round(rise_s, 4), round(size, 3))))
        return replace(note, offset_s=max(end_s, note.onset_s + rise_s + MEET_S), curve=curve, vibrato=None)
    return note


def _converged(note: HeardNote, others: list[HeardNote]) -> HeardNote:
    """A bend that was lost just below a pitch that sounds on has reached it: two strings in unison are one pitch."""
    if len(note.curve.points) < 2 or note.curve.points[-1][1] < LEAST_BEND:
        return note
    end = note.fretted_midi + note.curve.points[-1][1]
    for other in others:
        other_pitch = other.fretted_midi + float(other.curve.at(np.array([note.offset_s - other.onset_s]))[0])
        sounds_on = other.onset_s < note.offset_s - MEET_S and other.offset_s > note.offset_s + MEET_S
        if other is not note and sounds_on and 0 < other_pitch - end < UNISON_REACH:
            size, at_s = other_pitch - note.fretted_midi, note.offset_s - note.onset_s
            points = tuple(point for point in note.curve.points if point[0] < at_s)
            return replace(note, offset_s=other.offset_s, curve=PitchCurve((*points, (at_s + MEET_S, size))))
    return note


def _is_independent_note(note: HeardNote, others: list[HeardNote]) -> bool:
    """Whether a second string's note is no note of the first heard twice, nor an overtone of one struck with it."""
    return not any(
        (abs(note.fretted_midi - other.fretted_midi) < 1 or _is_overtone(note, other))
        and min(note.offset_s, other.offset_s) > max(note.onset_s, other.onset_s)
        for other in others
    )


def _is_overtone(note: HeardNote, other: HeardNote) -> bool:
    """Octaves are played on purpose; what lies on a higher partial, begins with the note and is sooner gone is not."""
    together = abs(note.onset_s - other.onset_s) < MEET_S and note.duration_s < other.duration_s / 2
    return together and note.fretted_midi - other.fretted_midi in OVERTONES


def _check(clip: Clip) -> None:
    if clip.duration_s < SHORTEST_S:
        raise HearingError(
            f"This recording lasts only {clip.duration_s * 1000:.0f} ms.", f"Open one of at least {SHORTEST_S:.1f} s."
        )
    peak = peak_dbfs(clip.samples)
    if peak < SILENT_DBFS:
        loudest = "it is digital silence" if np.isneginf(peak) else f"its loudest moment is {peak:.0f} dBFS"
        raise HearingError(f"No lead was heard: {loudest}.", "Open another recording, or record again with more level.")


def _rings_on(note: HeardNote, track: PitchTrack) -> bool:
    """Whether a note is what is left of others: an echo, a string ringing on, far below what was just played."""
    first, last = (round(time_s / HOP_S) for time_s in (note.onset_s, note.offset_s))
    if note.attack is Attack.SLIDE:  # a hand has led to it
        return False
    own = float(track.level_db[first : max(last, first + 1)].max(initial=-120.0))
    before = float(track.level_db[max(0, first - round(LATELY_S / HOP_S)) : first].max(initial=-120.0))
    return own < before - FAINT_DB or (own < before - FAINT_UNSURE_DB and note.sureness < LEAST_SURE)


def _ringing_under(notes: Sequence[HeardNote], sound: FloatArray, offset: float) -> list[bool]:
    """Whether each note is only the one before it, ringing on under one that is struck: its partials do not grow."""
    onset = np.array([note.onset_s for note in notes])
    ended = np.array([note.offset_s for note in notes])
    pitch = np.array([note.fretted_midi for note in notes])
    result = []
    for note in notes:
        same = np.abs(pitch - note.fretted_midi) < 1
        beside = ~same & (np.abs(onset - note.onset_s) < MEET_S)
        since = note.onset_s - ended
        goes_on = same & (onset < note.onset_s - MEET_S) & (since > -MEET_S) & (since < STROKE_S)
        hertz = midi_to_hz(note.fretted_midi, offset_cents=offset)
        rings = bool(beside.any() and goes_on.any()) and rise_db(sound, note.onset_s, hertz) < RESTRUCK_DB
        result.append(rings)
    return result


def _placed_notes(heard_notes: list[HeardNote], neck: Tuning, style: str, analysis: Analysis) -> tuple[Note, ...]:
    soundings = [_sounding(note) for note in heard_notes]
    placed = place(soundings, neck, style=style)
    if analysis.alone and (heavier := _with_string_costs(soundings, heard_notes, placed, neck, analysis)) is not None:
        placed = place(heavier, neck, style=style)
    notes = [
        _note(note, where, following)
        for note, where, following in zip(heard_notes, placed, [*heard_notes[1:], None], strict=False)
    ]
    notes = [
        replace(written, readings=_readings(note, written, neck, others=_about(heard_notes, at)))
        for at, (note, written) in enumerate(zip(heard_notes, notes, strict=True))
    ]
    # where a whole run could as well lie elsewhere, saying so once is enough
    before = [None, *(note.doubt for note in notes)]
    return tuple(
        replace(note, doubt=None if _equal(note.doubt) and _equal(doubt) else note.doubt, stroke=stroke)
        for doubt, note, stroke in zip(before, notes, strokes(notes), strict=False)
    )


def _about(notes: list[HeardNote], at: int) -> list[HeardNote]:
    return notes[max(0, at - AROUND) : at + AROUND]


def _equal(doubt: Doubt | None) -> bool:
    """Whether what is in doubt is only which of two equal places it is."""
    return doubt is not None and doubt.kind is DoubtKind.EQUAL_PLACE


def _with_string_costs(
    soundings: list[Sounding], notes: list[HeardNote], placed: list[Placed], neck: Tuning, analysis: Analysis
) -> list[Sounding] | None:
    """Return the notes with what each string costs by its sound; None when the sound does not tell strings apart."""
    midi = np.array([float(note.fretted_midi) for note in notes])
    strings = [where.place.string for where in placed]
    steady = [
        index
        for index, note in enumerate(notes)
        if note.curve == FLAT and note.vibrato is None and note.tone is Tone.NORMAL and note.duration_s > LEAST_S
    ]
    stiffness = np.full(midi.size, np.nan)
    for number, index in enumerate(steady):
        note = notes[index]
        hertz = midi_to_hz(midi[index], offset_cents=neck.offset_cents + note.plateau_cents)
        stiffness[index] = measured_stiffness(analysis.sound, note.onset_s, note.offset_s, hertz)
        if number == ENOUGH_TO_TELL and not believable(stiffness, midi, strings, neck):
            return None
    costs = string_costs(stiffness, midi, strings, neck)
    if not any(costs):
        return None
    return [replace(sounding, string_costs=cost) for sounding, cost in zip(soundings, costs, strict=True)]


def _sounding(note: HeardNote) -> Sounding:
    size = note.reading.bend_semitones
    harmonic = note.fretted_midi if note.tone is Tone.NATURAL_HARMONIC else None
    return Sounding(
        note.onset_s, note.offset_s, note.fretted_midi, note.attack, size, note.tone, harmonic_midi=harmonic
    )


def _note(note: HeardNote, placed: Placed, following: HeardNote | None) -> Note:
    runs_on = (
        following is not None and following.attack in LEGATO_ATTACKS and following.onset_s - note.offset_s < LINK_S
    )
    certainty, doubt = _certainty(note, placed)
    return Note(
        note.onset_s,
        note.offset_s,
        placed.place.string,
        placed.place.fret,
        note.attack,
        note.curve,
        note.vibrato,
        End.RUNS_ON if runs_on else note.end,
        note.tone,
        raked=note.raked,
        slid_in=note.slid_in,
        finger=placed.finger,
        certainty=certainty,
        doubt=doubt,
    )


def _readings(note: HeardNote, written: Note, neck: Tuning, *, others: list[HeardNote]) -> tuple[NoteAlternative, ...]:
    """What else was heard in a note, on its string where that reaches; less likely than what is written.

    Where another string sounds along, nothing is offered: it would have to be read together with that.
    """
    alternatives: list[tuple[float, NoteAlternative]] = []
    signatures = {_as_said(written)}
    for other in note.others:
        inside = [
            heard_note
            for heard_note in others
            if heard_note.onset_s < other.ends_s - LINK_S and heard_note.offset_s > other.begins_s + LINK_S
        ]
        if any(
            heard_note is not two
            and heard_note.onset_s < two.offset_s - LINK_S
            and two.onset_s < heard_note.offset_s - LINK_S
            for heard_note in inside
            for two in inside
        ):
            continue
        begin_s = max(0.0, other.begins_s)
        notes = [_placed_beside(note_heard, written, neck, begin_s) for note_heard in other.notes]
        here = notes[other.at]
        same = here is None or (_as_said(here) in signatures and len(other.notes) == 1)
        if all(heard_note is not None for heard_note in notes) and not same and here is not None:
            signatures.add(_as_said(here))
            reading = NoteAlternative(
                0.0,
                begin_s - written.onset_s,
                other.ends_s - written.onset_s,
                tuple(heard_note for heard_note in notes if heard_note is not None),
                other.at,
            )
            alternatives.append((math.exp(-other.cost_delta / TEMPERATURE), reading))
    rivals = sum(weight for weight, _ in alternatives)
    share = min(1 / (1 + rivals), (1 - written.certainty) / max(rivals, 1e-9))
    return tuple(replace(reading, p=round(share * weight, 4)) for weight, reading in alternatives)


def _as_said(note: Note) -> tuple[object, ...]:
    """What a person would call a note: two readings that are called the same are one."""
    reading = note.reading
    return (
        note.string,
        note.fret,
        note.attack,
        note.slid_in,
        note.tone,
        note.end,
        reading.names,
        round(2 * reading.bend_semitones),
    )


def _placed_beside(heard_note: HeardNote, near: Note, neck: Tuning, origin_s: float) -> Note | None:
    """A note of another reading, on the string of the note where that has its pitch; None where it is nowhere."""
    if not places(heard_note.fretted_midi, neck):
        return None
    where = nearest_place(heard_note.fretted_midi, neck, Place(near.string, near.fret))
    onset_s = max(0.0, heard_note.onset_s - origin_s)
    facts = (
        near.onset_s,
        heard_note.onset_s,
        heard_note.offset_s,
        where,
        str(heard_note.attack),
        heard_note.curve.points,
    )
    return Note(
        onset_s,
        max(heard_note.offset_s - origin_s, onset_s + SHORTEST_WRITTEN_S / 2),
        where.string,
        where.fret,
        heard_note.attack,
        heard_note.curve,
        heard_note.vibrato,
        heard_note.end,
        heard_note.tone,
        slid_in=heard_note.slid_in,
        id=derived_id("reading", *facts),
    )


def _certainty(note: HeardNote, placed: Placed) -> tuple[float, Doubt | None]:
    """How sure the note is, and the first reason to doubt it."""
    certainty = float(np.clip(note.sureness, 0.02, 0.99))
    doubt = None
    if note.sureness < DOUBT_BELOW:
        doubt = Doubt(DoubtKind.WEAK_PITCH if note.voicing < WEAK_PITCH else DoubtKind.UNSURE, note.sureness)
    elif note.uncertain is not None:
        doubt = note.uncertain
    elif between_sizes(note.reading.bend_semitones):
        doubt = Doubt(DoubtKind.BETWEEN_SIZES, 100 * note.reading.bend_semitones)
    elif abs(note.plateau_cents) > 30:
        doubt = Doubt(DoubtKind.OFF_FRET, note.plateau_cents)
    elif len(placed.alternatives) > 1 and placed.alternatives[1].cost < EQUAL_COST:
        other = placed.alternatives[1].place
        doubt = Doubt(DoubtKind.EQUAL_PLACE, place=(other.string, other.fret))
    return certainty, doubt


def _with_late_doubts(score: Score) -> Score:
    """Doubt the notes that lie far from any place of the beat, where the beat map fits the others well."""
    if not score.beat_map.known or len(score.notes) < LEAST_FOR_BEATS:
        return score
    late_s = played_late_s(score)
    if float(np.median(np.abs(late_s))) > FITTING_S:
        return score
    return score.with_notes(
        replace(note, doubt=Doubt(DoubtKind.OFF_BEAT, float(late)))
        if abs(late) > OFF_BEAT_S and not note.doubt
        else note
        for note, late in zip(score.notes, late_s, strict=True)
    )
