"""A student's take against the tab: what was missed, when notes came, how bends landed, how vibrato ran.

The take is laid over the tab by dynamic time warping, the tab is retimed to it, and the retimed tab is proved against
the take like any other: one mechanism says what is wrong with a note. Timing is told three ways: bias against the beat,
spread around the player's own flow, and where that flow sags. The flow is a locally weighted line through the onsets
(W. Cleveland, "Robust locally weighted regression", JASA 74, 1979).
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np

from notcher.core.arrays import FloatArray, IntArray
from notcher.core.errors import CancelCheck, NotcherError, Progress, never_cancelled, no_progress
from notcher.core.hearing import Draft, HearingError, closest_pairs, draft, evidence
from notcher.core.proving.flow import Drift, Flow, drifts_of
from notcher.core.proving.practice import Result
from notcher.core.proving.proof import Finding, MissedNote, Proof, Status, prove
from notcher.core.proving.warping import frame_for, line_of_notes, line_of_track, warped
from notcher.core.score import (
    CARELESS_SEMITONES,
    EDGE_S,
    NO_BEAT_MAP,
    Attack,
    BeatMap,
    Note,
    Phrase,
    Score,
    Side,
    Tone,
    Vibrato,
    excerpt,
    retimed,
    snapped_bend,
    sounding_with,
)
from notcher.core.sound import Clip

REACH_S, SAME_SEMITONES = 0.3, 0.6  # farther is another note; nearer than the next fret
SLACK_S, SLACK_SHARE = 2.0, 0.25  # before and after the stretch; of its length
STILL_SEMITONES = 0.02  # less than pitch can be measured
SWINGS_S = (0.08, 0.4)  # 12.5 to 2.5 Hz: no hand is faster or slower
LEAST_SWINGS, GROWING_S, ENDING_S = 5, 0.1, 0.05  # fewer give no spread; a vibrato grows, and ends with the note
SPREAD_OF_MEDIAN = 1.4826
"""Median deviation of a normal spread of 1 (F. Hampel, "The influence curve", JASA 69, 1974)."""


NOT_PLAYED = (Status.MISSING, Status.PITCH)


class TakeError(NotcherError):
    """A take that cannot be held against the tab."""


LEAST_WAVE_S, ADDED_CENTS = 0.35, 15.0  # two swings of a slow vibrato; what listeners accept of a held pitch
SETTLED_S, HELD_SHARE, LEAST_HELD_FRAMES = 0.05, 0.6, 8  # after the attack; of the note; 45 ms
LEAST_HELD, LEAST_HELD_S = 4, 0.2  # notes that tell how it is tuned; a shorter one holds no pitch
MOST_HELD_CENTS = 90.0  # more is another note
FOOT, LEAST_SHAKEN = 8.0, 20  # percent of a wave that lies at its foot; frames, three swings
SAME_MOMENT_S = 1e-3  # two strings struck at once are one step
ON_THE_WAY, RINGS_S = 0.6, 0.1  # semitones around a bend's path; after a note's end
NEAR_STEPS = 3  # that tell the tempo on each side of one
LEAST_STEPS = 5  # notes, to tell what is usual
HESITATION_S, HESITATION_SPREADS = 0.045, 4.0  # and so many times what is usual (ears: 20 ms, Hirsh 1959)


@dataclass(frozen=True, slots=True)
class Thresholds:
    """When a phrase is clean and when it is missed (common practice, no source); anything between is shaky.

    clean_share, missed_share: of the notes that were not played right. spread_ms: around the player's own flow.
    bend_cents: how far off the middle one of the bends may land.
    """

    clean_share: float = 0.05
    missed_share: float = 0.25
    spread_ms: float = 35.0
    bend_cents: float = 25.0


@dataclass(frozen=True, slots=True)
class Played:
    """One written note in a take. index: in the score. finding: of the retimed tab.

    late_ms: against the beat, None when the beat is not known or the note was not struck. uneven_ms: against the
    player's own flow. landed_cents: of a bend, flat is negative. held_cents: of a note that is not bent, how far it is
    held off the other such notes of the take. hesitates_ms: later than the notes around it, or earlier, where that
    stands out. added_wave: a vibrato that is not written.
    """

    index: int
    finding: Finding
    late_ms: float | None = None
    uneven_ms: float | None = None
    bend: float = 0.0
    landed_cents: float | None = None
    wave: Vibrato | None = None
    wave_uneven: float | None = None
    held_cents: float | None = None
    hesitates_ms: float | None = None
    added_wave: Vibrato | None = None

    @property
    def right(self) -> bool:
        """Whether the written note was played, however its bend landed and whenever it came."""
        return self.finding.status not in NOT_PLAYED


@dataclass(frozen=True, slots=True)
class PhraseReport:
    """How one phrase went. bias_ms: late is positive; None when the beat of the take is not known."""

    phrase: Phrase
    notes: tuple[Played, ...]
    extra: tuple[MissedNote, ...]
    drifts: tuple[Drift, ...]
    bias_ms: float | None
    spread_ms: float | None
    verdict: Result

    @property
    def missed(self) -> tuple[Played, ...]:
        return tuple(played for played in self.notes if played.finding.status is Status.MISSING)

    @property
    def wrong(self) -> tuple[Played, ...]:
        return tuple(played for played in self.notes if played.finding.status is Status.PITCH)

    @property
    def bends(self) -> tuple[Played, ...]:
        return tuple(played for played in self.notes if played.landed_cents is not None)


@dataclass(frozen=True, slots=True, eq=False)
class TakeReport:
    """A take, heard and held against the tab. aligned: the practised notes at the times of the take.

    indices: the score's index of each aligned note. pace: what was practised, of the recorded tempo.
    """

    heard: Draft
    aligned: Score
    indices: tuple[int, ...]
    pace: float
    phrases: tuple[PhraseReport, ...]

    @property
    def verdict(self) -> Result:
        """The worst of the phrases'."""
        order = (Result.CLEAN, Result.SHAKY, Result.MISSED)
        return max((phrase_report.verdict for phrase_report in self.phrases), key=order.index, default=Result.MISSED)


def hear_take(
    clip: Clip,
    score: Score,
    start_s: float,
    end_s: float,
    *,
    pace: float = 1.0,
    begin_s: float | None = None,
    thresholds: Thresholds | None = None,
    progress: Progress = no_progress,
    cancelled: CancelCheck = never_cancelled,
) -> TakeReport:
    """Hear a take of a stretch of a score and report on it.

    start_s, end_s: of the stretch, in the recording. begin_s: when in the take the stretch's first instant was due, its
    latency already taken off; None when there was no beat to follow.
    Raises: TakeError when the stretch holds no notes or the take holds no sound; Cancelled.
    """
    _practised(score, start_s, end_s, pace)  # refused before the long work, not after it
    try:
        drafted = draft(clip, tuning=score.tuning, progress=lambda share: progress(0.9 * share), cancelled=cancelled)
    except HearingError as problem:
        raise _no_guitar() from problem
    if not drafted.score.notes or drafted.score.lead_doubt is not None:
        raise _no_guitar()
    return report(score, start_s, end_s, drafted, pace=pace, begin_s=begin_s, thresholds=thresholds)


def _no_guitar() -> TakeError:
    return TakeError("No guitar was heard in this take.", "Check the input's level, then play it again.")


def report(
    score: Score,
    start_s: float,
    end_s: float,
    draft: Draft,
    *,
    pace: float = 1.0,
    begin_s: float | None = None,
    thresholds: Thresholds | None = None,
) -> TakeReport:
    """Report on a take that was heard already; see `hear_take`. Raises: TakeError when the stretch holds no notes."""
    written = _practised(score, start_s, end_s, pace)
    indices = tuple(score.notes_between(start_s, end_s))
    due_s, came_s = _anchors(written, draft, begin_s)
    flow = Flow(due_s, came_s, begin_s)
    aligned = _aligned(written, flow)
    proof = prove(aligned, draft)
    played = [
        _played(aligned, written, finding, draft, flow, begin_s, indices[finding.index])
        for finding in sorted(proof.notes, key=lambda finding: finding.index)
    ]
    played = _with_hesitations(_with_held(played, aligned, draft), aligned, written, draft, flow)
    limits = thresholds or Thresholds()
    plain = [phrase for phrase in score.phrases if phrase.start_s < end_s - EDGE_S and phrase.end_s > start_s + EDGE_S]
    phrases = plain or [Phrase(start_s, end_s, "This stretch")]
    drifts = drifts_of(flow, start_s, pace)
    reports = [
        _phrase(score, phrase, played, proof, flow, drifts, limits, start_s, pace, aligned) for phrase in phrases
    ]
    return TakeReport(
        draft, aligned, indices, pace, tuple(phrase_report for phrase_report in reports if phrase_report.notes)
    )


def _practised(score: Score, start_s: float, end_s: float, pace: float) -> Score:
    written = excerpt(score, start_s, end_s, pace=pace)
    if not written.notes:
        raise TakeError("There are no notes in this stretch.", "Choose a phrase of the tab to practise.")
    return written


# --- laying the take over the tab ---
def _anchors(written: Score, draft: Draft, begin_s: float | None) -> tuple[FloatArray, FloatArray]:
    """Return when notes were due (seconds into the stretch) and when they came (seconds in the take), both rising."""
    length_s, taken_s = max(note.offset_s for note in written.notes), float(draft.track.times_s[-1])
    frame_s = frame_for(length_s, taken_s)
    due_s, came_s = np.arange(0.0, length_s, frame_s), np.arange(0.0, taken_s, frame_s)
    path = warped(
        line_of_notes(written, frame_s=frame_s, length_s=length_s),
        line_of_track(draft.track, draft.score, frame_s=frame_s),
        allowed=_allowed(due_s, came_s, begin_s),
    )
    return _paired(written, draft.score, np.interp([n.onset_s for n in written.notes], due_s, path * frame_s))


def _allowed(due_s: FloatArray, came_s: FloatArray, begin_s: float | None) -> IntArray | None:
    """Where each moment may lie when it is known when the stretch was due; somewhere in the take at least."""
    if begin_s is None:
        return None
    slack_s = SLACK_S + SLACK_SHARE * due_s
    frames = [np.searchsorted(came_s, begin_s + due_s + side * slack_s) for side in (-1, 1)]
    return np.clip(np.column_stack(frames), 0, came_s.size - 1).astype(np.int64)


def _paired(written: Score, played: Score, near_s: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Pair written notes with heard ones of the same pitch near where the warp puts them, the closest first."""
    pairs = []
    for index, note in enumerate(written.notes):
        start = float(written.pitch_at(note))
        first, last = (played.first_after(float(near_s[index]) + reach) for reach in (-REACH_S, REACH_S))
        for at in range(first, last):
            other = played.notes[at]
            same = abs(played.sounding_midi(other) - written.sounding_midi(note)) < SAME_SEMITONES
            if same or abs(float(played.pitch_at(other)) - start) < SAME_SEMITONES:
                pairs.append((abs(other.onset_s - float(near_s[index])), index, at))
    partner = closest_pairs(pairs)
    due_s: list[float] = []
    came_s: list[float] = []
    for index in sorted(partner):
        played_s = played.notes[partner[index]].onset_s
        due = written.notes[index].onset_s
        if not came_s or (played_s > came_s[-1] and due > due_s[-1]):  # two strings at once are one moment
            due_s.append(due)
            came_s.append(played_s)
    return np.array(due_s), np.array(came_s)


def _aligned(written: Score, flow: Flow) -> Score:
    """The practised notes at the times at which this player played."""
    notes = []
    for note in written.notes:
        onset_s = max(0.0, flow.at(note.onset_s))
        length_s = note.duration_s * flow.slope(note.onset_s)
        notes.append(retimed(note, onset_s, onset_s + length_s))
    phrases = tuple(
        replace(phrase, start_s=begin, end_s=end)
        for phrase in written.phrases
        if (end := flow.at(phrase.end_s)) > (begin := max(0.0, flow.at(phrase.start_s)))
    )
    beat_map = _played_beats(written, flow)
    return replace(written, phrases=phrases, chords=(), beat_map=beat_map).with_notes(notes)


def _played_beats(written: Score, flow: Flow) -> BeatMap:
    """The beats where this player put them."""
    if not written.beat_map.known:
        return NO_BEAT_MAP
    length_s = max(note.offset_s for note in written.notes)
    first, last = (written.beat_map.quarter(time_s) for time_s in (0.0, length_s))
    beats = np.arange(np.floor(first), np.ceil(last) + 1)
    anchors = [
        (flow.at(float(due)), float(beat)) for due, beat in zip(written.beat_map.time_at(beats), beats, strict=True)
    ]
    rising = all(a[0] < b[0] for a, b in pairwise(anchors))
    return replace(written.beat_map, anchors=tuple(anchors)) if rising and len(anchors) > 1 else NO_BEAT_MAP


# --- what is said of each note ---
def _played(
    aligned: Score, written: Score, finding: Finding, draft: Draft, flow: Flow, begin_s: float | None, index: int
) -> Played:
    note, due_s = aligned.notes[finding.index], written.notes[finding.index].onset_s
    came_s = draft.score.notes[finding.partner].onset_s if finding.partner is not None else None
    late_ms = None if came_s is None or begin_s is None else 1000 * (came_s - begin_s - due_s)
    uneven_ms = None if came_s is None else 1000 * (came_s - flow.at(due_s))
    size = note.reading.bend_semitones
    landed = None
    right = finding.status not in NOT_PLAYED
    pushed = size >= CARELESS_SEMITONES and {"bend", "prebend"} & set(note.reading.names)
    if (
        pushed
        and finding.measured_cents is not None
        and right
        and note.tone is Tone.NORMAL
        and not _in_unison(aligned, finding)
    ):
        top = _shaken_top(aligned, note, draft) if note.vibrato is not None else None
        landed = round((finding.measured_cents if top is None else top) - finding.claimed_cents, 1)
    uneven = None
    if note.vibrato is not None:  # a wave too uneven to be called a vibrato is one all the same
        under = evidence(aligned, note, draft.measured)
        begun_s = (finding.vibrato or note.vibrato).from_s + GROWING_S
        settled = (under.times_s > begun_s) & (under.times_s < note.duration_s - ENDING_S)
        uneven = wave_unevenness(under.times_s[settled], under.semitones[settled])
    return Played(
        index,
        finding,
        late_ms,
        uneven_ms,
        snapped_bend(size) if landed is not None else 0.0,
        landed,
        finding.vibrato if note.vibrato is not None else None,
        uneven,
        added_wave=_added_wave(note, finding) if right else None,
    )


def _shaken_top(aligned: Score, note: Note, draft: Draft) -> float | None:
    """Where a bend that is shaken lands, cents over its fret: where the finger rests, at the wave's foot if it goes up
    from there; None where too little is heard."""
    wave = note.vibrato
    under = evidence(aligned, note, draft.measured)
    begun_s = wave.from_s if wave is not None else 0.0
    inside = (under.times_s > begun_s) & (under.times_s < note.duration_s - ENDING_S) & ~np.isnan(under.semitones)
    if wave is None or inside.sum() < LEAST_SHAKEN:
        return None
    share = {Side.ABOVE: FOOT, Side.AROUND: 50.0, Side.BELOW: 100.0 - FOOT}[wave.side]
    return 100 * float(np.percentile(under.semitones[inside], share))


def _added_wave(note: Note, finding: Finding) -> Vibrato | None:
    """A vibrato that was played and is not written, on a note that is long enough to tell."""
    wave = finding.vibrato
    long = note.duration_s >= LEAST_WAVE_S and not note.bent
    return wave if wave is not None and note.vibrato is None and long and wave.extent_cents >= ADDED_CENTS else None


def _with_held(played: Sequence[Played], aligned: Score, draft: Draft) -> list[Played]:
    """Tell of each note that is not bent how far it is held off the others: how the guitar is tuned is no fault."""
    off = {
        at: cents
        for at, note in enumerate(played)
        if _is_held(claim := aligned.notes[note.finding.index], note)
        and (cents := _held_cents(aligned, claim, draft)) is not None
        and abs(cents) <= MOST_HELD_CENTS
    }
    tuning = float(np.median(list(off.values()))) if len(off) >= LEAST_HELD else 0.0
    return [
        replace(note, held_cents=round(off[at] - tuning, 1)) if at in off else note for at, note in enumerate(played)
    ]


def _held_cents(aligned: Score, note: Note, draft: Draft) -> float | None:
    """How far a note is held from its fret, in its first part: later it may be on its way to the next."""
    under = evidence(aligned, note, draft.measured)
    first_s, last_s = SETTLED_S, max(SETTLED_S + LEAST_HELD_S / 2, HELD_SHARE * note.duration_s)
    inside = (under.times_s >= first_s) & (under.times_s <= last_s) & ~np.isnan(under.semitones)
    return 100 * float(np.median(under.semitones[inside])) if inside.sum() >= LEAST_HELD_FRAMES else None


def _is_held(note: Note, played: Played) -> bool:
    plain = note.tone is Tone.NORMAL and abs(note.reading.bend_semitones) < CARELESS_SEMITONES and not note.slid_in
    return plain and note.vibrato is None and played.right and note.duration_s >= LEAST_HELD_S


def _with_hesitations(
    played: Sequence[Played], aligned: Score, written: Score, draft: Draft, flow: Flow
) -> list[Played]:
    """Tell of a note that comes late or early in one place: the step to it stands out from the player's other steps."""
    came = [
        (at, written.notes[note.finding.index].onset_s, draft.score.notes[note.finding.partner].onset_s)
        for at, note in enumerate(played)
        if note.finding.partner is not None
        and note.right
        and aligned.notes[note.finding.index].attack not in (Attack.SLIDE, Attack.SWELL)  # begin somewhere on the way
    ]
    came.sort(key=lambda row: row[1])
    came = came[:1] + [row for before, row in pairwise(came) if row[1] > before[1] + SAME_MOMENT_S]
    if len(came) < LEAST_STEPS:
        return list(played)
    due, took = (np.diff([row[column] for row in came]) for column in (1, 2))
    steps = np.array([_standing_out(due, took, at) for at in range(due.size)])
    usual_s = SPREAD_OF_MEDIAN * float(np.median(np.abs(steps)))
    least_s = max(HESITATION_S, HESITATION_SPREADS * usual_s)
    result = list(played)
    before = 0.0
    for (at, _, _), step in zip(came[1:], steps.tolist(), strict=True):
        if abs(step) >= least_s and before * step >= 0:  # the way back to the beat is no second one
            result[at] = replace(result[at], hesitates_ms=round(1000 * step, 1))
            before = step
        else:
            before = 0.0
    return result


def _in_unison(aligned: Score, finding: Finding) -> bool:
    """Whether another string is held at the pitch that a bend goes to: which of the two was followed is not known."""
    note = aligned.notes[finding.index]
    goal = aligned.sounding_midi(note) + note.reading.bend_semitones
    return any(
        abs(aligned.sounding_midi(other) - goal) < 2 * SAME_SEMITONES for other in sounding_with(aligned, finding.index)
    )


def wave_unevenness(times_s: FloatArray, semitones: FloatArray) -> float | None:
    """Return how much the swings of a vibrato differ in length: their spread over their mean; None for too few.

    times_s, semitones: shape (n,), NaN where nothing was heard.
    """
    from scipy import signal  # slow to load, and few takes have vibrato

    voiced = ~np.isnan(semitones)
    if voiced.sum() < 20:
        return None
    times, wave = times_s[voiced], semitones[voiced]
    depth = float(np.percentile(wave, 95) - np.percentile(wave, 5))
    if depth < STILL_SEMITONES:
        return None
    # the wave's feet, where the finger is at rest, are the ends of its swings
    feet, _ = signal.find_peaks(-wave, prominence=0.3 * depth)
    if feet.size <= LEAST_SWINGS:
        return None
    before, at, after = wave[feet - 1], wave[feet], wave[feet + 1]
    bow = np.maximum(before - 2 * at + after, 1e-9)
    exact = times[feet] + np.clip(0.5 * (before - after) / bow, -1, 1) * float(np.median(np.diff(times)))
    swings = np.diff(exact)
    swings = swings[(swings > SWINGS_S[0]) & (swings < SWINGS_S[1])]
    return float(np.std(swings) / np.mean(swings)) if swings.size >= LEAST_SWINGS else None


def _is_of_a_note(aligned: Score, sound: MissedNote) -> bool:
    """Whether a sound is the way of a bend that stopped elsewhere than written, or a note that still rings."""
    for note in aligned.notes:
        above = sound.fretted_midi - aligned.sounding_midi(note)
        on_the_way = note.bent and note.onset_s < sound.onset_s < note.offset_s
        rings = abs(above) < ON_THE_WAY and 0 <= sound.onset_s - note.offset_s < RINGS_S
        if rings or (on_the_way and -ON_THE_WAY < above < note.reading.bend_semitones + ON_THE_WAY):
            return True
    return False


def _standing_out(due: FloatArray, took: FloatArray, at: int) -> float:
    """How much longer a step took than at the tempo of the steps before it and of those after it, seconds: the smaller
    of both, for where the tempo itself changes nothing hesitates."""
    ratios = took / due
    around = [
        part for part in (ratios[max(0, at - NEAR_STEPS) : at], ratios[at + 1 : at + 1 + NEAR_STEPS]) if part.size
    ]
    off = [float(took[at] - np.median(part) * due[at]) for part in around]
    return 0.0 if not off or min(off) < 0 < max(off) else min(off, key=abs)


# --- what is said of each phrase ---
def _phrase(
    score: Score,
    phrase: Phrase,
    played: Sequence[Played],
    proof: Proof,
    flow: Flow,
    drifts: Sequence[Drift],
    limits: Thresholds,
    start_s: float,
    pace: float,
    aligned: Score,
) -> PhraseReport:
    inside = score.notes_of(phrase)
    notes = tuple(note for note in played if note.index in inside)
    begin, end = (flow.at((time_s - start_s) / pace) for time_s in (phrase.start_s, phrase.end_s))
    extra = tuple(
        unwritten
        for unwritten in proof.unwritten
        if begin - 0.1 <= unwritten.onset_s < end and not _is_of_a_note(aligned, unwritten)
    )
    late = [played.late_ms for played in notes if played.late_ms is not None and played.right]
    uneven = [played.uneven_ms for played in notes if played.uneven_ms is not None and played.right]
    bias = float(np.median(late)) if late else None
    spread = SPREAD_OF_MEDIAN * float(np.median(np.abs(uneven))) if len(uneven) > 2 else None
    overlapping = tuple(drift for drift in drifts if drift.start_s < phrase.end_s and drift.end_s > phrase.start_s)
    phrase_report = PhraseReport(phrase, notes, extra, overlapping, bias, spread, Result.SHAKY)
    return replace(phrase_report, verdict=verdict(phrase_report, limits))


def verdict(phrase_report: PhraseReport, limits: Thresholds) -> Result:
    """Return clean, shaky or missed by the thresholds. Clean bears no drift, and extra notes count as faults."""
    count = max(1, len(phrase_report.notes))
    faults = len(phrase_report.missed) + len(phrase_report.wrong)
    if faults / count > limits.missed_share:
        return Result.MISSED
    landed = [abs(bend.landed_cents) for bend in phrase_report.bends if bend.landed_cents is not None]
    clean = (
        (faults + len(phrase_report.extra)) / count <= limits.clean_share
        and not phrase_report.drifts
        and (phrase_report.spread_ms or 0.0) <= limits.spread_ms
        and max(landed, default=0.0) <= limits.bend_cents
        and all(abs(played.held_cents or 0.0) <= limits.bend_cents for played in phrase_report.notes)
        and all(played.hesitates_ms is None for played in phrase_report.notes)
    )
    return Result.CLEAN if clean else Result.SHAKY


def judged(report: TakeReport, limits: Thresholds) -> TakeReport:
    """Return the report with every phrase's verdict by other thresholds."""
    return replace(
        report,
        phrases=tuple(
            replace(phrase_report, verdict=verdict(phrase_report, limits)) for phrase_report in report.phrases
        ),
    )
