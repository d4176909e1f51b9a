"""The tab held against the recording: what agrees, what does not, in cents and milliseconds and in the trade's words.

Thresholds are common practice (no source): listeners accept a bend within 10 to 15 cents, 30 cents flat is heard as
flat; onsets are compared to 50 ms, as in note transcription (C. Raffel et al., "mir_eval", ISMIR 2014).
"""

from bisect import bisect_left
from collections.abc import Hashable
from dataclasses import dataclass, replace

import numpy as np

from notcher.core.arrays import FloatArray
from notcher.core.hearing import Draft, PitchTrack, support
from notcher.core.hearing.shape import measured_curve
from notcher.core.proving.pairing import closest_pairs
from notcher.core.score import (
    LEGATO_ATTACKS,
    Attack,
    Note,
    Phrase,
    PitchCurve,
    Score,
    Tone,
    Vibrato,
    bend_name,
    midi_to_name,
    snapped_bend,
)

REACH_S = 0.3
ONSET_S = 0.05
FLAT_SEMITONES = 0.3
OTHER_FRET_SEMITONES, OTHER_FRET_SHARE = 0.6, 0.6
LEAST_BEND = 0.35
LEAST_FRAMES = 4
HEARD_SHARE = 0.6
SURE, ATTACK_SURE = 0.5, 0.9
STRAY_BESIDE, SAME_AS_BESIDE, TOGETHER_S = 0.6, 0.5, 0.06
START_CENTS, WIDE_CENTS, LEAST_WAVE_S = 80.0, 15.0, 0.4
SAME_S = 0.06
SHORTEST_TOLD_S = 0.12  # a run's notes are too short to tell a soft pick from a strong finger
STEP_WORDS = {
    0.5: "the quarter bend",
    1.0: "the half step",
    2.0: "the whole step",
    3.0: "the step and a half",
    4.0: "two steps",
}
OPEN = ("missing", "pitch", "bend", "onset", "strike")
"""What a finding can say besides that the note agrees."""


@dataclass(frozen=True, slots=True)
class Reached:
    """Where a note's pitch is at its start, its top or its end: cents over the fret, claimed and measured."""

    where: str
    claimed_cents: float
    measured_cents: float


@dataclass(frozen=True, slots=True)
class Finding:
    """One note of the tab: its status, what was claimed and measured in cents over the fret, and the verdict.

    status: agrees, or one of `OPEN`. claimed_cents, measured_cents: where the note's pitch goes, its top when bent;
    None when nothing was measured. onset_error_ms: late is positive, None when no attack was heard. doubt: 0..1.
    settled: how a person has dealt with it: "slip", "checked" or "". reached: start, top and end, where measured.
    partner: index of the heard note that goes with it. vibrato: what was heard, if any.
    """

    index: int
    status: str
    claimed_cents: float
    measured_cents: float | None
    onset_error_ms: float | None
    verdict: str
    doubt: float
    settled: str = ""
    reached: tuple[Reached, ...] = ()
    partner: int | None = None
    vibrato: Vibrato | None = None

    @property
    def open(self) -> bool:
        """Whether someone has to look at it."""
        return self.status != "agrees" and not self.settled


@dataclass(frozen=True, slots=True)
class Unwritten:
    """A note that was heard and that nobody wrote. partner: its index among the heard notes."""

    onset_s: float
    fretted_midi: float
    doubt: float
    partner: int = -1


@dataclass(frozen=True, slots=True)
class Proof:
    """All findings, worst first, and what was heard but not written, worst first."""

    notes: tuple[Finding, ...]
    unwritten: tuple[Unwritten, ...]

    @property
    def proved(self) -> bool:
        """Whether nothing is left open."""
        return not any(finding.open for finding in self.notes) and not self.unwritten

    def left_open(self, score: Score) -> dict[Phrase, int]:
        """Return how many findings of each phrase are open; at 0 it is proved."""
        times_s = [score.notes[finding.index].onset_s for finding in self.notes if finding.open]
        times_s = sorted(times_s + [unwritten.onset_s for unwritten in self.unwritten])
        return {
            phrase: bisect_left(times_s, phrase.end_s) - bisect_left(times_s, phrase.start_s)
            for phrase in score.phrases
            if not phrase.section
        }


Known = dict[Hashable, Finding]
"""What was found of notes before, by all that a finding rests on."""


def prove(score: Score, heard: Draft, *, known: Known | None = None) -> Proof:
    """Hold a score against what was heard in its recording.

    known: findings of the same draft and tuning, kept from one call to the next; only what an edit changed is measured
    again, and what is new is added to it.
    """
    partner = _partners(score, heard.score)
    known = {} if known is None else known
    findings = []
    for index, note in enumerate(score.notes):
        case = _case(score, index, heard, partner.get(index))
        key = (note, case.partner, case.beside, score.tuning)
        if key not in known:
            known[key] = _finding(score, case, heard)
        findings.append(replace(known[key], index=index))
    taken = set(partner.values())
    unwritten = [
        Unwritten(note.onset_s, heard.score.fretted_midi(note), round(note.certainty, 3), index)
        for index, note in enumerate(heard.score.notes)
        if index not in taken
        and note.certainty >= SURE
        and not _written_over(score, heard, note)
        and not _is_excluded(score, note.onset_s, heard.score.sounding_midi(note))
    ]
    return Proof(
        tuple(sorted(findings, key=lambda finding: (-finding.doubt, finding.index))),
        tuple(sorted(unwritten, key=lambda unwritten: (-unwritten.doubt, unwritten.onset_s))),
    )


def _partners(score: Score, heard: Score) -> dict[int, int]:
    """Pair claimed notes with heard ones, the closest in time and pitch first; each belongs to one pair."""
    pairs = []
    for index, note in enumerate(score.notes):
        base = score.sounding_midi(note)
        start = score.pitch_at(note)
        near = range(heard.first_after(note.onset_s - REACH_S), heard.first_after(note.onset_s + REACH_S))
        for at in near:
            other = heard.notes[at]
            apart = min(abs(base - heard.sounding_midi(other)), abs(start - heard.pitch_at(other)) + 0.2)
            late_s = abs(other.onset_s - note.onset_s)
            if late_s < ONSET_S * 2 or apart < 0.5:  # far off in time only the same pitch is the same note
                pairs.append((late_s / REACH_S + min(apart, 3) / 3, index, at))
    return closest_pairs(pairs)


def evidence(score: Score, note: Note, heard: Draft, *, around_s: float = 0.0) -> tuple[FloatArray, FloatArray]:
    """Return what the recording did under a note: seconds after its onset, semitones from its fret.

    Of several strings that sound, the one that keeps closest to the claim. around_s: how far to look before the onset
    and past the end. Returns: shape (n,) each, NaN where nothing was heard.
    """
    track = _nearest_track(score, note, heard, 0.0)
    span = track.span(note.onset_s - around_s, note.offset_s + around_s)
    base = heard.score.tuning.offset_cents / 100 + score.sounding_midi(note)
    return track.times_s[span] - note.onset_s, np.asarray(track.midi[span] - base)


def _deviation(score: Score, note: Note, heard: Draft, shift_s: float) -> FloatArray:
    """Semitones that the recording lay over a note's fret, frame by frame; NaN where nothing was heard."""
    track = _nearest_track(score, note, heard, shift_s)
    base = heard.score.tuning.offset_cents / 100 + score.sounding_midi(note)
    return np.asarray(track.midi[_span(note, track, shift_s)] - base)


def _nearest_track(score: Score, note: Note, heard: Draft, shift_s: float) -> PitchTrack:
    others = heard.analysis.tracks[1:] if heard.analysis is not None else ()
    base = heard.score.tuning.offset_cents / 100 + score.sounding_midi(note)

    def fits(track: PitchTrack) -> int:
        found = track.midi[_span(note, track, shift_s)] - base
        return int(np.sum(np.abs(found - _claimed(note, found.size)) < OTHER_FRET_SEMITONES))

    return max((heard.track, *others), key=fits)


def _span(note: Note, track: PitchTrack, shift_s: float) -> slice:
    return track.span(note.onset_s + shift_s, max(note.offset_s, note.onset_s + shift_s + 0.03))


def _claimed(note: Note, count: int) -> FloatArray:
    times_s = np.linspace(0, note.duration_s, max(count, 1), endpoint=False)[:count]
    wave = note.vibrato.at(times_s) if note.vibrato is not None else 0.0
    return np.asarray(note.curve.at(times_s) + wave)


@dataclass(frozen=True, slots=True)
class _Case:
    """One claimed note and the heard note that goes with it, if any."""

    index: int
    note: Note
    other: Note | None
    same_fret: bool
    partner: int | None
    alone: bool  # no band plays with it, so that attacks can be told
    beside: tuple[float, ...]  # other strings that sound with it: where, in semitones over its fret

    @property
    def late_s(self) -> float:
        return self.other.onset_s - self.note.onset_s if self.other is not None else 0.0

    @property
    def aim(self) -> float:
        """Where the claimed curve goes, in semitones: its held size."""
        return self.note.reading.bend_semitones

    @property
    def certainty(self) -> float:
        return self.other.certainty if self.other is not None else 0.7

    def found(self, status: str, measured: float | None, verdict: str, doubt: float) -> Finding:
        cents = None if measured is None else round(100 * measured, 1)
        late_ms = None if self.other is None else round(1000 * self.late_s, 1)
        settled = "slip" if self.note.slip else "checked" if self.note.checked else ""
        aim = round(100 * self.aim, 1)
        return Finding(self.index, status, aim, cents, late_ms, verdict, round(doubt, 3), settled, partner=self.partner)


def _case(score: Score, index: int, heard: Draft, partner: int | None) -> _Case:
    note, other = score.notes[index], heard.score.notes[partner] if partner is not None else None
    same = other is not None and abs(heard.score.sounding_midi(other) - score.sounding_midi(note)) < 0.5
    alone = heard.analysis is None or heard.analysis.alone
    return _Case(index, note, other, same, partner, alone, _beside(score, index))


def _finding(score: Score, case: _Case, heard: Draft) -> Finding:
    note, other, same = case.note, case.other, case.same_fret
    # a late note is measured from where it begins
    shift_s = case.late_s if abs(case.late_s) > ONSET_S else 0.0
    deviation = _deviation(score, note, heard, shift_s)
    known = ~np.isnan(deviation)
    claimed = _claimed(note, deviation.size)
    muted = note.tone in (Tone.PALM_MUTE, Tone.DEAD)
    fits = known & (np.abs(deviation - claimed) < OTHER_FRET_SEMITONES)
    if other is None and (muted or known.sum() < LEAST_FRAMES or fits.sum() < HEARD_SHARE * deviation.size):
        drowned = note.tone is not Tone.NORMAL and not case.alone  # a band hides what hardly rings
        if not drowned and _borne_out(score, case, heard):
            return case.found("agrees", None, "agrees; soft under the band", 0.3)
        return case.found("missing", None, "was not heard", 0.4 if drowned else 0.9)
    if known.sum() < LEAST_FRAMES or muted:
        return _timing(case, None)
    off = deviation[known] - claimed[known]
    if np.mean(np.abs(off) > OTHER_FRET_SEMITONES) > OTHER_FRET_SHARE and not same:
        frets = round(float(np.median(off)))
        sounds = midi_to_name(score.sounding_midi(note) + frets)
        verdict = f"sounds {sounds}, like fret {note.fret + frets}, where fret {note.fret} was claimed"
        return case.found("pitch", case.aim + float(np.median(off)), verdict, 0.6 + 0.4 * case.certainty)
    return _bent_or_timing(case, deviation)


def _borne_out(score: Score, case: _Case, heard: Draft) -> bool:
    """Whether a note that the followed lead does not hold is there all the same, under a band."""
    if case.alone or heard.analysis is None:
        return False
    found = support(score, case.note, heard.analysis, offset_cents=heard.score.tuning.offset_cents)
    return found is not None and found.enough


def _bent_or_timing(case: _Case, deviation: FloatArray) -> Finding:
    """The fret is right: hold the bend against its claim, then the rest."""
    note, other, aim = case.note, case.other, case.aim
    curve, wave = measured_curve(deviation, struck=note.attack not in LEGATO_ATTACKS)
    top = _top(curve.at(np.linspace(0, note.duration_s, 200)), aim)
    heard_bent = other is not None and case.same_fret and other.reading.bend_semitones != 0
    stray = bool(case.beside) and abs(top) < STRAY_BESIDE  # one string's pitch pulls at the other's
    if any(abs(top - other) < SAME_AS_BESIDE for other in case.beside) and abs(top - aim) > FLAT_SEMITONES:
        return _timing(case, None)  # what was followed is the other string
    if abs(aim) < LEAST_BEND and (stray or not heard_bent):
        top = 0.0  # a scrap of the next note is no bend: only what was heard as one is
    if max(abs(aim), abs(top)) >= LEAST_BEND and abs(top - aim) > FLAT_SEMITONES:
        doubt = min(0.98, (0.45 + 0.5 * min(1.0, abs(top - aim))) * (0.5 + 0.5 * case.certainty))
        found = case.found("bend", top, _bend_verdict(note, aim, top), doubt)
    else:
        found = _timing(case, top)
    reached = _reached(note, curve, top)
    return _with_mentions(replace(found, reached=reached, vibrato=wave), note)


def _reached(note: Note, curve: PitchCurve, top: float) -> tuple[Reached, ...]:
    ends = np.array([0.0, note.duration_s])
    claimed, measured = note.curve.at(ends), curve.at(ends)
    rows = (
        ("start", float(claimed[0]), float(measured[0])),
        ("top", note.reading.bend_semitones, top),
        ("end", float(claimed[1]), float(measured[1])),
    )
    return tuple(Reached(where, round(100 * a, 1), round(100 * b, 1)) for where, a, b in rows)


def _with_mentions(found: Finding, note: Note) -> Finding:
    """Mention what is no error but worth a look: where a bend begins, a vibrato more or less."""
    start = found.reached[0]
    above = start.measured_cents - start.claimed_cents
    words = []
    if found.status == "agrees" and found.claimed_cents > 0 and abs(above) > START_CENTS:
        words.append(f"starts {abs(above):.0f} cents {'above' if above > 0 else 'below'} the claim")
    if note.vibrato is not None and found.vibrato is None and note.duration_s - note.vibrato.from_s > LEAST_WAVE_S:
        words.append("no vibrato was heard")
    elif note.vibrato is None and found.vibrato is not None and found.vibrato.extent_cents >= WIDE_CENTS:
        wave = found.vibrato
        words.append(f"a vibrato of {wave.rate_hz:.1f} Hz, ±{wave.extent_cents:.0f} cents was heard, none claimed")
    if not words:
        return found
    doubt = max(found.doubt, 0.3) if found.status == "agrees" else found.doubt
    return replace(found, verdict="; ".join([found.verdict, *words]), doubt=doubt)


def _top(curve: FloatArray, aim: float) -> float:
    """The measured counterpart of a claimed size: the height that is reached for a while, up or down."""
    high, low = float(np.percentile(curve, 90)), float(np.percentile(curve, 10))
    if aim > 0:
        return high
    if aim < 0:
        return low
    return high if high >= -low else low


def _bend_verdict(note: Note, aim: float, top: float) -> str:
    short = abs(aim) - abs(top)
    if abs(aim) < LEAST_BEND:
        return f"is bent by {top * 100:.0f} cents ({bend_name(top)}), where no bend was claimed"
    goal = STEP_WORDS.get(abs(snapped_bend(aim)), f"{bend_name(aim)} steps")
    way = "stops" if short > 0 else "goes"
    reach = f"{abs(short) * 100:.0f} cents {'short of' if short > 0 else 'beyond'}"
    claim = _fret_words(float(round(note.fret + aim))).removeprefix("like ")
    return f"{way} {reach} {goal}: {_fret_words(note.fret + top)}, where {claim} was claimed"


def _fret_words(fret: float) -> str:
    """A height as a player would say it: on a fret, or so much above one."""
    if fret < 0:
        return f"like {-fret:.1f} frets below the open string"
    whole = int(np.floor(fret + 0.1))
    rest = fret - whole
    if rest < 0.1:
        return f"like fret {whole}"
    shares = {0.25: "a quarter", 0.33: "a third", 0.5: "half a fret", 0.67: "two thirds", 0.75: "three quarters"}
    return f"{shares[min(shares, key=lambda share: abs(share - rest))]} above fret {whole}"


def _timing(case: _Case, measured: float | None) -> Finding:
    """What is left to say when the pitch is right: when it begins, and how it was struck."""
    note, other, late_s = case.note, case.other, case.late_s
    legato = note.attack in LEGATO_ATTACKS
    if other is None:
        if legato or note.attack is Attack.SWELL:
            return case.found("agrees", measured, "agrees", 0.125)
        doubled = any(abs(other) < SAME_AS_BESIDE for other in case.beside)
        if not case.alone and not doubled:
            return case.found("agrees", measured, "agrees; no strike of its own was heard through the band", 0.3)
        return case.found("strike", measured, "was not struck here: its pitch was sounding already", 0.5)
    if abs(late_s) > ONSET_S:
        words = f"begins {abs(late_s) * 1000:.0f} ms {'later' if late_s > 0 else 'earlier'} than claimed"
        return case.found("onset", measured, words, min(0.95, 0.45 + 2 * abs(late_s)))
    tapped = note.attack is Attack.TAP  # a tap is a blow too: nothing in the sound tells it from a pick for sure
    damped = tapped or other.tone in (Tone.PALM_MUTE, Tone.DEAD)
    told = other.certainty > ATTACK_SURE and note.duration_s >= SHORTEST_TOLD_S
    if legato != (other.attack in LEGATO_ATTACKS) and told and not damped:
        words = f"{'was struck again' if legato else 'was slurred'}, where {note.attack} was claimed"
        if not case.alone:
            return case.found("agrees", measured, f"agrees; maybe {words}", 0.25)
        return case.found("strike", measured, words, 0.4)
    return case.found("agrees", measured, "agrees", 0.25 * (1 - other.certainty))


def _beside(score: Score, index: int) -> tuple[float, ...]:
    """The other strings that are claimed to sound along with a note: semitones over its fret."""
    note = score.notes[index]
    return tuple(
        score.sounding_midi(other) + other.reading.bend_semitones - score.sounding_midi(note)
        for other in score.notes[max(0, index - 4) : index + 5]
        if other.string != note.string
        and min(other.offset_s, note.offset_s) - max(other.onset_s, note.onset_s) > TOGETHER_S
    )


def _is_excluded(score: Score, onset_s: float, midi: float) -> bool:
    """Whether the instructor has said that this is not the solo's."""
    return any(
        abs(heard_note.onset_s - onset_s) < SAME_S and abs(heard_note.midi - midi) < 0.6
        for heard_note in score.excluded
    )


def _written_over(score: Score, heard: Draft, note: Note) -> bool:
    """Whether a heard note lies inside a claimed one of the same sounding pitch: nothing new is in it."""
    pitch = heard.score.pitch_at(note)
    for other in score.notes[: score.first_after(note.onset_s + 0.02)]:
        if other.offset_s > note.onset_s + 0.03 and note.onset_s - other.onset_s < 12:
            claimed = score.pitch_at(other, note.onset_s - other.onset_s)
            if abs(claimed - pitch) < 0.6 and note.attack in LEGATO_ATTACKS:
                return True
    return False
