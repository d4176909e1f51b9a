"""The tab held against the recording: what agrees and what does not, in cents and milliseconds.

Thresholds are common practice (no source): listeners accept a bend within 10 to 15 cents, 30 cents flat is heard as
flat; onsets are compared to 50 ms, as in note transcription (C. Raffel et al., "mir_eval", ISMIR 2014).
"""

import math
from collections.abc import Hashable, Mapping
from dataclasses import dataclass, field, replace
from enum import StrEnum

import numpy as np

from notcher.core.errors import CancelCheck, Cancelled, never_cancelled
from notcher.core.hearing import Draft, closest_pairs, evidence, measured_gesture, support
from notcher.core.hearing.evidence import OTHER_FRET_SEMITONES, Evidence, claimed
from notcher.core.score import (
    CARELESS_SEMITONES,
    LEGATO_ATTACKS,
    Attack,
    Note,
    PitchCurve,
    Score,
    Tone,
    Vibrato,
    held_semitones,
    sounding_with,
)

REACH_S = 0.3  # a note further off in time is another note
ONSET_S = 0.05  # as mir_eval matches onsets
FLAT_SEMITONES = 0.3  # a quarter tone is heard by everyone, less is taste
OTHER_FRET_SHARE = 0.6  # of a note's frames
PARTIALS = (2, 3, 4, 5)  # what a band leaves of a note
UNSURE_BELOW = 0.6  # what is heard less surely than this accuses nobody whose claim is borne out
LEAST_FRAMES = 4  # fewer say nothing: 23 ms
HEARD_SHARE = 0.6  # more than half, and some
SURE, ATTACK_SURE = 0.5, 0.9  # as likely as not; nearly certain
STRAY_BESIDE, SAME_AS_BESIDE = 0.6, 0.5  # semitones
START_CENTS, WIDE_CENTS, LEAST_WAVE_S = 80.0, 15.0, 0.4  # most of a semitone; what trained ears tell; two swings
RELEASE_SEMITONES, RELEASE_DOUBT = 0.7, 0.5  # nearer to a half step than to nothing; as likely as not
SAME_S = 0.06  # what was said not to be the solo's is found again within this
SHORTEST_TOLD_S = 0.12  # a run's notes are too short to tell a soft pick from a strong finger


class Status(StrEnum):
    """What a finding says of a note."""

    AGREES = "agrees"
    MISSING = "missing"
    PITCH = "pitch"
    BEND = "bend"
    ONSET = "onset"
    ATTACK = "strike"  # so called by `prove --json`, as in events.json


class Settled(StrEnum):
    """How a person has dealt with a finding."""

    NOT = ""
    SLIP = "slip"
    CHECKED = "checked"


class Mention(StrEnum):
    """What is worth saying beside the status; what it is about stands in the finding."""

    SOFT = "soft"  # borne out under the band, not followed
    NO_OWN_ATTACK = "no own attack"  # none was heard through the band
    MAYBE_ATTACK = "maybe attack"  # another attack was heard, but not for sure
    STARTS_OFF = "starts off"  # the bend begins elsewhere than claimed
    RELEASED = "released"  # the bend is let down, where it was claimed to stay up
    HELD = "held"  # and the other way round
    NO_VIBRATO = "no vibrato"
    VIBRATO_UNCLAIMED = "vibrato unclaimed"


@dataclass(frozen=True, slots=True)
class Reached:
    """Where a note's pitch is at its start, its top or its end: cents over the fret, claimed and measured."""

    where: str
    claimed_cents: float
    measured_cents: float


@dataclass(frozen=True, slots=True)
class Finding:
    """One note of the tab, by its id and its place in the score: its status,
    what was claimed and measured in cents over its unbent pitch.

    claimed_cents, measured_cents: where the note's pitch goes, its top when bent; None when nothing was measured.
    onset_error_ms: late is positive, None when no attack was heard. doubt: 0..1. reached: start, top and end, where
    measured. partner: index of the heard note that goes with it. vibrato: what was heard, if any. heard_attack: how it
    was struck in truth, where that is in question; None when not at all.
    """

    index: int
    status: Status
    claimed_cents: float
    measured_cents: float | None
    onset_error_ms: float | None
    doubt: float
    settled: Settled = Settled.NOT
    reached: tuple[Reached, ...] = ()
    partner: int | None = None
    vibrato: Vibrato | None = None
    heard_attack: Attack | None = None
    mentions: tuple[Mention, ...] = ()
    note_id: str = ""

    @property
    def open(self) -> bool:
        """Whether someone has to look at it."""
        return self.status is not Status.AGREES and not self.settled

    @property
    def shift_s(self) -> float:
        """How much later than written the note is measured from: a late note begins where it was heard."""
        return _shift_s((self.onset_error_ms or 0.0) / 1000)


@dataclass(frozen=True, slots=True)
class MissedNote:
    """A note that was heard and that nobody wrote. partner: its index among the heard notes."""

    onset_s: float
    fretted_midi: float
    doubt: float
    partner: int = -1


@dataclass(frozen=True, slots=True)
class Proof:
    """All findings, worst first, and what was heard but not written, worst first.

    measured: the same findings by all that each rests on, for the next proof.
    """

    notes: tuple[Finding, ...]
    unwritten: tuple[MissedNote, ...]
    measured: Mapping[Hashable, Finding] = field(default_factory=dict, compare=False, repr=False)

    @property
    def proved(self) -> bool:
        """Whether nothing is left open."""
        return not any(finding.open for finding in self.notes) and not self.unwritten


def prove(
    score: Score, draft: Draft, *, before: Proof | None = None, cancelled: CancelCheck = never_cancelled
) -> Proof:
    """Hold a score against what was heard in its recording.

    before: a proof against the same draft; only what an edit changed since then is measured again. Raises: Cancelled.
    """
    partner = _partners(score, draft.score)
    measured_before = {} if before is None else before.measured
    measured: dict[Hashable, Finding] = {}
    findings = []
    for index, note in enumerate(score.notes):
        if cancelled():
            raise Cancelled
        case = _case(score, index, draft, partner.get(index))
        key = (note, case.partner, case.beside, score.tuning)
        measured[key] = measured_before.get(key) or _finding(score, case, draft)
        findings.append(replace(measured[key], index=index, note_id=note.id))
    matched = set(partner.values())
    unwritten = [
        MissedNote(note.onset_s, draft.score.fretted_midi(note), round(note.certainty, 3), index)
        for index, note in enumerate(draft.score.notes)
        if index not in matched
        and note.certainty >= SURE
        and not _written_over(score, draft, note)
        and not _is_excluded(score, note.onset_s, draft.score.sounding_midi(note))
    ]
    return Proof(
        tuple(sorted(findings, key=lambda finding: (-finding.doubt, finding.index))),
        tuple(sorted(unwritten, key=lambda unwritten: (-unwritten.doubt, unwritten.onset_s))),
        measured,
    )


def _partners(score: Score, drafted: Score) -> dict[int, int]:
    """Pair claimed notes with heard ones, the closest in time and pitch first; each belongs to one pair."""
    pairs = []
    for index, note in enumerate(score.notes):
        base = score.sounding_midi(note)
        start = float(score.pitch_at(note))
        near = range(drafted.first_after(note.onset_s - REACH_S), drafted.first_after(note.onset_s + REACH_S))
        for at in near:
            other = drafted.notes[at]
            apart = min(abs(base - drafted.sounding_midi(other)), abs(start - float(drafted.pitch_at(other))) + 0.2)
            late_s = abs(other.onset_s - note.onset_s)
            if late_s < ONSET_S * 2 or apart < 0.5:  # far off in time only the same pitch is the same note
                pairs.append((late_s / REACH_S + min(apart, 3) / 3, index, at))
    return closest_pairs(pairs)


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

    def found(
        self,
        status: Status,
        measured: float | None,
        doubt: float,
        *,
        heard_attack: Attack | None = None,
        mention: Mention | None = None,
    ) -> Finding:
        return Finding(
            self.index,
            status,
            round(100 * self.aim, 1),
            None if measured is None else round(100 * measured, 1),
            None if self.other is None else round(1000 * self.late_s, 1),
            round(doubt, 3),
            Settled.SLIP if self.note.slip else Settled.CHECKED if self.note.checked else Settled.NOT,
            partner=self.partner,
            heard_attack=heard_attack,
            mentions=() if mention is None else (mention,),
        )


def _case(score: Score, index: int, draft: Draft, partner: int | None) -> _Case:
    note, other = score.notes[index], draft.score.notes[partner] if partner is not None else None
    same = other is not None and abs(draft.score.sounding_midi(other) - score.sounding_midi(note)) < 0.5
    alone = draft.analysis is None or draft.analysis.alone
    return _Case(index, note, other, same, partner, alone, _beside(score, index))


def _shift_s(late_s: float) -> float:
    """How much later than written a note is measured from: within the onset's tolerance it is where it is written."""
    return late_s if abs(late_s) > ONSET_S else 0.0


def _finding(score: Score, case: _Case, draft: Draft) -> Finding:
    note, other, same = case.note, case.other, case.same_fret
    under = evidence(score, note, draft.measured, shift_s=_shift_s(case.late_s))
    deviation = under.semitones
    voiced = ~np.isnan(deviation)
    claim = claimed(note, deviation.size)
    muted = note.tone in (Tone.PALM_MUTE, Tone.DEAD)
    fits = voiced & (np.abs(deviation - claim) < OTHER_FRET_SEMITONES)
    if other is None and (muted or voiced.sum() < LEAST_FRAMES or fits.sum() < HEARD_SHARE * deviation.size):
        drowned = note.tone is not Tone.NORMAL and not case.alone  # a band hides what hardly rings
        if not drowned and _supported_by_spectrum(score, case, draft):
            return case.found(Status.AGREES, None, 0.3, mention=Mention.SOFT)
        return case.found(Status.MISSING, None, 0.4 if drowned else 0.9)
    if voiced.sum() < LEAST_FRAMES or muted:
        return _timing(case, None)
    off = deviation[voiced] - claim[voiced]
    if np.mean(np.abs(off) > OTHER_FRET_SEMITONES) > OTHER_FRET_SHARE and not same:
        above = float(np.median(off))
        # through a band a partial of what is claimed may be all that was followed
        partial = (
            not case.alone and min(abs(above - 12 * math.log2(times)) for times in PARTIALS) < OTHER_FRET_SEMITONES
        )
        unsure = other is None or other.certainty < UNSURE_BELOW
        if partial or (unsure and _supported_by_spectrum(score, case, draft)):
            return case.found(Status.AGREES, None, 0.3, mention=Mention.SOFT)
        return case.found(Status.PITCH, case.aim + above, 0.6 + 0.4 * case.certainty)
    return _bent_or_timing(case, under)


def _supported_by_spectrum(score: Score, case: _Case, draft: Draft) -> bool:
    """Whether a note that the followed lead does not hold is there all the same, under a band."""
    if case.alone or draft.analysis is None:
        return False
    measured = support(score, case.note, draft.analysis, offset_cents=draft.score.tuning.offset_cents)
    return measured is not None and measured.enough


def _bent_or_timing(case: _Case, under: Evidence) -> Finding:
    """The fret is right: hold the bend against its claim, then the rest."""
    note, other, aim = case.note, case.other, case.aim
    curve, wave = measured_gesture(note, under)
    top = _top(curve, note.duration_s, aim)
    heard_bent = other is not None and case.same_fret and other.reading.bend_semitones != 0
    stray = bool(case.beside) and abs(top) < STRAY_BESIDE  # one string's pitch pulls at the other's
    if any(abs(top - beside) < SAME_AS_BESIDE for beside in case.beside) and abs(top - aim) > FLAT_SEMITONES:
        return _timing(case, None)  # what was followed is the other string
    if abs(aim) < CARELESS_SEMITONES and (stray or not heard_bent):
        top = 0.0  # a scrap of the next note is no bend: only what was heard as one is
    if max(abs(aim), abs(top)) >= CARELESS_SEMITONES and abs(top - aim) > FLAT_SEMITONES:
        doubt = min(0.98, (0.45 + 0.5 * min(1.0, abs(top - aim))) * (0.5 + 0.5 * case.certainty))
        finding = case.found(Status.BEND, top, doubt)
    elif (mention := _other_end(note, other if case.same_fret else None, curve)) is not None:
        finding = case.found(Status.BEND, top, RELEASE_DOUBT, mention=mention)
    else:
        finding = _timing(case, top)
    reached = _reached(note, curve, top)
    return _with_mentions(replace(finding, reached=reached, vibrato=wave), note)


def _other_end(note: Note, other: Note | None, curve: PitchCurve) -> Mention | None:
    """Whether a bend is let down otherwise than claimed, by more than the ear forgives and in both readings."""
    if other is None or not note.bent:
        return None
    claimed, heard = (abs(float(of.at(np.array([note.duration_s]))[0])) for of in (note.curve, curve))
    again = "release" in other.reading.names
    if abs(claimed - heard) < RELEASE_SEMITONES or again == ("release" in note.reading.names):
        return None
    return Mention.RELEASED if again and heard < claimed else Mention.HELD if heard > claimed and not again else None


def _reached(note: Note, curve: PitchCurve, top: float) -> tuple[Reached, ...]:
    ends = np.array([0.0, note.duration_s])
    claimed, measured = note.curve.at(ends), curve.at(ends)
    rows = (
        ("start", float(claimed[0]), float(measured[0])),
        ("top", note.reading.bend_semitones, top),
        ("end", float(claimed[1]), float(measured[1])),
    )
    return tuple(Reached(where, round(100 * a, 1), round(100 * b, 1)) for where, a, b in rows)


def _with_mentions(finding: Finding, note: Note) -> Finding:
    """Mention what is no error but worth a look: where a bend begins, a vibrato more or less."""
    start = finding.reached[0]
    mentions = list(finding.mentions)
    bent = finding.status is Status.AGREES and finding.claimed_cents > 0
    if bent and abs(start.measured_cents - start.claimed_cents) > START_CENTS:
        mentions.append(Mention.STARTS_OFF)
    if note.vibrato is not None and finding.vibrato is None and note.duration_s - note.vibrato.from_s > LEAST_WAVE_S:
        mentions.append(Mention.NO_VIBRATO)
    elif note.vibrato is None and finding.vibrato is not None and finding.vibrato.extent_cents >= WIDE_CENTS:
        mentions.append(Mention.VIBRATO_UNCLAIMED)
    if len(mentions) == len(finding.mentions):
        return finding
    doubt = max(finding.doubt, 0.3) if finding.status is Status.AGREES else finding.doubt
    return replace(finding, mentions=tuple(mentions), doubt=doubt)


def _top(curve: PitchCurve, duration_s: float, aim: float) -> float:
    """The measured counterpart of a claimed size, told by the same reading: the furthest that is held, up or down."""
    up, down = held_semitones(curve, duration_s)
    if aim > 0:
        return up
    if aim < 0:
        return down
    return up if up >= -down else down


def _timing(case: _Case, measured: float | None) -> Finding:
    """What is left to say when the pitch is right: when it begins, and how it was struck."""
    note, other, late_s = case.note, case.other, case.late_s
    legato = note.attack in LEGATO_ATTACKS
    if other is None or (not case.alone and other.certainty < UNSURE_BELOW):  # in a band such an onset tells nothing
        if legato or note.attack is Attack.SWELL:
            return case.found(Status.AGREES, measured, 0.125)
        doubled = any(abs(beside) < SAME_AS_BESIDE for beside in case.beside)
        if not case.alone and not doubled:
            return case.found(Status.AGREES, measured, 0.3, mention=Mention.NO_OWN_ATTACK)
        return case.found(Status.ATTACK, measured, 0.5)
    if abs(late_s) > ONSET_S:
        return case.found(Status.ONSET, measured, min(0.95, 0.45 + 2 * abs(late_s)))
    tapped = note.attack is Attack.TAP  # a tap is a blow too: nothing in the sound tells it from a pick for sure
    damped = tapped or other.tone in (Tone.PALM_MUTE, Tone.DEAD)
    certain = other.certainty > ATTACK_SURE and note.duration_s >= SHORTEST_TOLD_S
    if legato != (other.attack in LEGATO_ATTACKS) and certain and not damped:
        if not case.alone:
            return case.found(Status.AGREES, measured, 0.25, heard_attack=other.attack, mention=Mention.MAYBE_ATTACK)
        return case.found(Status.ATTACK, measured, 0.4, heard_attack=other.attack)
    return case.found(Status.AGREES, measured, 0.25 * (1 - other.certainty))


def _beside(score: Score, index: int) -> tuple[float, ...]:
    """The other strings that are claimed to sound along with a note: semitones over its fret."""
    unbent = score.sounding_midi(score.notes[index])
    return tuple(
        score.sounding_midi(other) + other.reading.bend_semitones - unbent for other in sounding_with(score, index)
    )


def _is_excluded(score: Score, onset_s: float, midi: float) -> bool:
    """Whether the instructor has said that this is not the solo's."""
    return any(
        abs(heard_note.onset_s - onset_s) < SAME_S and abs(heard_note.midi - midi) < 0.6
        for heard_note in score.excluded
    )


def _written_over(score: Score, draft: Draft, note: Note) -> bool:
    """Whether a heard note lies inside a claimed one of the same sounding pitch: nothing new is in it."""
    pitch = float(draft.score.pitch_at(note))
    # a held note is at most twelve seconds long
    for other in score.notes[score.first_after(note.onset_s - 12) : score.first_after(note.onset_s + 0.02)]:
        if other.offset_s > note.onset_s + 0.03:
            claim = float(score.pitch_at(other, note.onset_s - other.onset_s))
            if abs(claim - pitch) < 0.6 and note.attack in LEGATO_ATTACKS:
                return True
    return False
