"""One solo in two recordings: laid over each other through tempo and key, and what was played otherwise, note by note.

The pitch lines are laid over each other by dynamic time warping (see `warping`), their notes are paired in order (see
`aligning`), and the second player's own time is a locally weighted line through what was paired (see `flow`). What the
notes say differs is held against what was measured before it is told: where one recording holds what the other's tab
claims, the tab is wrong and not the player.
"""

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from enum import StrEnum

import numpy as np

from notcher.core.arrays import FloatArray
from notcher.core.errors import CancelCheck, Cancelled, NotcherError, never_cancelled
from notcher.core.hearing import Measured
from notcher.core.proving.aligning import (
    SAME_SEMITONES,
    Pair,
    TimeMap,
    Tones,
    aligned,
    likeliest_shift,
    same_pitch,
    tones_of,
    with_neighbours,
)
from notcher.core.proving.flow import Flow
from notcher.core.proving.warping import frame_for, line_of_notes, line_of_track, warped
from notcher.core.score import FLAT, LEGATO_ATTACKS, Attack, Note, Score, retimed, sounding_with, with_times

REACH_S, CLOSE_S = 0.6, 0.35  # so far from where it should come a note may lie, at first and at last
LATE_S, LATE_BEATS = 0.09, 0.25  # less is the same rhythm
HELD_SHARE = 0.6  # of a note's frames that are as claimed
ATTACK_S, BEFORE_S = 0.06, 0.07  # past the pick; before it
LEAST_FRAMES = 4  # fewer are chance
LEAST_COMMON, OVER_CHANCE = 0.3, 0.12  # of the notes; beyond what any two solos share
BEND_SEMITONES = 0.6  # more than two players' intonation
LONG_S = 0.1  # shorter is no proof of a pitch
GRID_S, AGREE_SHARE = 0.01, 0.7  # finer than an onset's tolerance; most of a stretch
OCTAVE = 12.0  # semitones
SURE = 0.7  # more likely than not, with room
SURE_BESIDE, SURE_BESIDE_SHORT = 0.9, 0.97
"""Of what is heard beside another string and is less sure than this, half is nothing (the tuning set: 47 of 98)."""
LEAST_S = 0.03  # shorter is no note
PART_S, PART_NEAR_S, PART_SURE = 0.13, 0.06, 0.4  # of a chord that is broken
BESIDE = 3  # pairs on each side, in whose time a note is early or late


class NothingInCommonError(NotcherError):
    """Two recordings that do not hold the same music."""

    def __init__(self) -> None:
        super().__init__(
            "These two have next to nothing in common.",
            "Choose another version of the same solo, or cut both to the stretch that is the same.",
        )


@dataclass(frozen=True, slots=True, eq=False)
class Version:
    """A solo as it is written, and what was measured of it, if it was heard. attacks_s: shape (n,), seconds."""

    score: Score
    measured: Measured | None = None
    attacks_s: FloatArray = field(default_factory=lambda: np.zeros(0))


class Differs(StrEnum):
    """In what a note of one version is not the other's."""

    LEFT_OUT = "left out"  # in the first only
    ADDED = "added"  # in the second only
    PITCH = "pitch"
    BEND = "bend"
    TIME = "time"
    PLACE = "place"
    STRUCK = "struck"


@dataclass(frozen=True, slots=True)
class Difference:
    """first, second: the note in each score, None where it has none. amount: semitones, or seconds for `TIME`.

    certainty: of the notes it rests on, 0..1; what is less sure than `SURE` may be the ear's fault.
    """

    kind: Differs
    first: int | None
    second: int | None
    amount: float = 0.0
    certainty: float = 1.0

    @property
    def sure(self) -> bool:
        return self.certainty >= SURE


@dataclass(frozen=True, slots=True, eq=False)
class Comparison:
    """Two versions laid over each other. shift: semitones by which the second sounds higher. pairs: of notes.

    to_second: when moments of the first come in the second.
    """

    first: Version
    second: Version
    shift: int
    pairs: tuple[Pair, ...]
    differences: tuple[Difference, ...]
    to_second: TimeMap
    to_first: TimeMap

    def second_over_first(self) -> Score:
        """Return the second score at the times of the first, so that both can be read over one axis."""
        bare = replace(self.second.score, phrases=(), sections=(), variants=(), excluded=(), chords=())
        return with_times(bare, self.to_first)


def compared(first: Version, second: Version, *, cancelled: CancelCheck = never_cancelled) -> Comparison:
    """Lay two versions of a solo over each other and list what differs.

    Raises: NothingInCommonError; Cancelled.
    """
    a, b = tones_of(first.score), tones_of(second.score)
    if not len(a) or not len(b):
        raise NothingInCommonError
    shift = likeliest_shift(a, b, cancelled=cancelled)
    near_s = _warped(first, second, a.onset_s, shift)
    if cancelled():
        raise Cancelled
    pairs, _ = aligned(a, b, shift=shift, near_s=near_s, reach_s=REACH_S)
    flow = _flow(a, b, pairs, shift)
    near_s = np.array([flow.at(onset_s) for onset_s in a.onset_s.tolist()])
    pairs, _ = aligned(a, b, shift=shift, near_s=near_s, reach_s=CLOSE_S)
    pairs = with_neighbours(pairs, a, b, shift=shift, near_s=near_s)
    if cancelled():
        raise Cancelled
    check_common(a, b, pairs, shift)
    to_second = TimeMap(*anchors_of(a, b, pairs, shift))
    comparison = Comparison(first, second, shift, tuple(pairs), (), to_second, to_second.back)
    return replace(comparison, differences=tuple(_differences(comparison, near_s)))


# --- laying over ---
def _warped(first: Version, second: Version, onsets_s: FloatArray, shift: int) -> FloatArray:
    """When each note of the first should come in the second, by its pitch line."""
    lengths_s = [max(note.offset_s for note in version.score.notes) + 0.1 for version in (first, second)]
    frame_s = frame_for(*lengths_s)
    note_line = line_of_notes(first.score, frame_s=frame_s, length_s=lengths_s[0])
    if second.measured is not None and second.measured.tracks[0].times_s.size:
        other = line_of_track(second.measured.tracks[0], second.score, frame_s=frame_s)
    else:
        other = line_of_notes(second.score, frame_s=frame_s, length_s=lengths_s[1])
    path = warped(replace(note_line, midi=note_line.midi + shift), other)
    return np.asarray(np.interp(onsets_s, np.arange(path.size) * frame_s, path * frame_s))


def anchors_of(a: Tones, b: Tones, pairs: Sequence[Pair], shift: float) -> tuple[FloatArray, FloatArray]:
    """Moments that were paired for sure, rising in both; strings struck together are one moment."""
    first_s: list[float] = []
    second_s: list[float] = []
    for mine, theirs in pairs:
        if not same_pitch(a, b, (mine, theirs), shift):
            continue
        at, then = float(a.onset_s[mine]), float(b.onset_s[theirs])
        if not first_s or (at > first_s[-1] + 1e-3 and then > second_s[-1] + 1e-3):
            first_s.append(at)
            second_s.append(then)
    return np.array(first_s), np.array(second_s)


def _flow(a: Tones, b: Tones, pairs: Sequence[Pair], shift: float) -> Flow:
    return Flow(*anchors_of(a, b, pairs, shift), None)


def check_common(a: Tones, b: Tones, pairs: Sequence[Pair], shift: int) -> None:
    """Refuse what pairs no better than with the second version played backwards. Raises: NothingInCommonError."""
    least = min(len(a), len(b))
    common = sum(same_pitch(a, b, pair, shift) for pair in pairs) / least
    end_s = float(b.onset_s[-1])
    backwards = Tones(end_s - b.onset_s[::-1], b.start[::-1], b.goal[::-1], b.unbent[::-1], b.alone[::-1])
    by_chance, _ = aligned(a, backwards, shift=shift)
    chance = sum(same_pitch(a, backwards, pair, shift) for pair in by_chance) / least
    if common < LEAST_COMMON or common < min(chance + OVER_CHANCE, 0.8):
        raise NothingInCommonError


# --- what differs ---
def _differences(comparison: Comparison, near_s: FloatArray) -> list[Difference]:
    first, second = comparison.first, comparison.second
    partner = dict(comparison.pairs)
    result: list[Difference] = []
    late_s = [second.score.notes[theirs].onset_s - float(near_s[mine]) for mine, theirs in comparison.pairs]
    place_of = {mine: place for place, (mine, _) in enumerate(comparison.pairs)}  # pairs rise
    for at in range(len(first.score.notes)):
        if at in partner:
            place = place_of[at]
            beside = late_s[max(0, place - BESIDE) : place] + late_s[place + 1 : place + BESIDE + 1]
            usual_s = float(np.median(beside)) if beside else 0.0
            result += _of_pair(comparison, at, partner[at], late_s[place] - usual_s)
        elif not _sounds_in(comparison, at, of_first=True):
            sure = _alone_for_sure(comparison, at, of_first=True)
            result.append(Difference(Differs.LEFT_OUT, at, None, certainty=sure))
    matched = set(partner.values())
    for at in range(len(second.score.notes)):
        if at not in matched and not _sounds_in(comparison, at, of_first=False):
            sure = _alone_for_sure(comparison, at, of_first=False)
            result.append(Difference(Differs.ADDED, None, at, certainty=sure))

    def when_s(difference: Difference) -> float:
        if difference.first is not None:
            return first.score.notes[difference.first].onset_s
        assert difference.second is not None
        return comparison.to_first(second.score.notes[difference.second].onset_s)

    return sorted(result, key=when_s)


def _alone_for_sure(comparison: Comparison, index: int, *, of_first: bool) -> float:
    """How sure it is that a note without a partner was played; of what hands wrote it is.

    Two ears write one gesture as one note or as two: the way of a slide, the beginning of a bend. A short note that
    runs into a slide, or into one whose partner begins already where the short one does, may be such a part.
    """
    own, other = (comparison.first, comparison.second) if of_first else (comparison.second, comparison.first)
    note, at = own.score.notes[index], comparison.to_second if of_first else comparison.to_first
    if own.measured is None:
        return note.certainty
    if note.certainty < (SURE_BESIDE_SHORT if note.duration_s < LONG_S else SURE_BESIDE) and sounding_with(
        own.score, index
    ):
        return min(note.certainty, PART_SURE)
    if note.duration_s > PART_S:
        return note.certainty
    near = range(index + 1, min(index + 6, len(own.score.notes)))
    following = next((k for k in near if note.leads_to(own.score.notes[k])), None)
    if following is None:
        return note.certainty
    partner = dict(comparison.pairs) if of_first else {theirs: mine for mine, theirs in comparison.pairs}
    on_the_way = own.score.notes[following].attack is Attack.SLIDE
    begins_it = (
        following in partner and abs(other.score.notes[partner[following]].onset_s - at(note.onset_s)) < PART_NEAR_S
    )
    return min(note.certainty, PART_SURE) if on_the_way or begins_it else note.certainty


def _of_pair(comparison: Comparison, mine: int, theirs: int, late_s: float) -> list[Difference]:
    """In what two notes that stand for each other differ; nothing when in nothing that counts.

    late_s: by how much the second came late, in its player's own time.
    """
    first, second, shift = comparison.first, comparison.second, comparison.shift
    note, other = first.score.notes[mine], second.score.notes[theirs]
    start = second.score.pitch_at(other) - first.score.pitch_at(note) - shift
    unbent = second.score.sounding_midi(other) - first.score.sounding_midi(note) - shift
    goal = unbent + other.reading.bend_semitones - note.reading.bend_semitones
    wrong = min(abs(float(start)), abs(unbent), abs(goal)) > SAME_SEMITONES
    bent = not wrong and max(abs(goal), abs(unbent)) > BEND_SEMITONES
    if wrong or bent:
        end_s = max(note.offset_s, comparison.to_first(other.offset_s))
        agree, disagree = _lines(comparison, note.onset_s, end_s)
        borne_out = (
            _holds(second, first.score, note, other, shift)
            or _holds(first, second.score, other, note, -shift)
            or agree >= AGREE_SHARE
        )
        if not borne_out:
            kind, amount = (
                (Differs.PITCH, unbent) if wrong else (Differs.BEND, goal if abs(goal) > abs(unbent) else unbent)
            )
            sure = max(min(note.certainty, other.certainty), disagree)
            return [Difference(kind, mine, theirs, round(float(amount), 2), sure)]
    beat_s = 60.0 / second.score.beat_map.tempo_at(other.onset_s) if second.score.beat_map.known else 0.5
    if abs(late_s) > max(LATE_S, LATE_BEATS * beat_s):
        return [Difference(Differs.TIME, mine, theirs, round(late_s, 3), min(note.certainty, other.certainty))]
    if first.measured is None and second.measured is None:  # what a hand wrote, of which no draft guesses
        on_one_neck = shift == 0 and first.score.tuning == second.score.tuning
        if on_one_neck and (note.string, note.fret) != (other.string, other.fret):
            return [Difference(Differs.PLACE, mine, theirs)]
        if (note.attack in LEGATO_ATTACKS) != (other.attack in LEGATO_ATTACKS):
            return [Difference(Differs.STRUCK, mine, theirs)]
    return []


def _holds(version: Version, score: Score, claim: Note, there: Note, shift: float) -> bool:
    """Whether a recording does, where one of its notes is, what another score claims."""
    if version.measured is None or there.duration_s < LONG_S:
        return False
    moved = retimed(claim, there.onset_s, there.offset_s)
    return _share_held(version.measured, score, moved, shift) >= HELD_SHARE


def _sounds_in(comparison: Comparison, index: int, *, of_first: bool) -> bool:
    """Whether a note that has no partner sounds in the other recording all the same, and begins there."""
    own, other = comparison.first, comparison.second
    at, shift = comparison.to_second, comparison.shift
    if not of_first:
        own, other, at, shift = other, own, comparison.to_first, -shift
    if other.measured is None:
        return False
    note = own.score.notes[index]
    start_s = at(note.onset_s)
    end_s = max(at(note.offset_s), start_s + LEAST_S)
    if start_s < 0:
        return False
    span = (note.onset_s, note.offset_s) if of_first else (start_s, end_s)
    supported = _share_held(other.measured, own.score, retimed(note, start_s, end_s), shift) >= HELD_SHARE
    if not (supported or _lines(comparison, *span)[0] >= AGREE_SHARE):
        return False
    struck = bool(np.any(np.abs(other.attacks_s - start_s) < ATTACK_S))
    before = replace(retimed(note, max(0.0, start_s - BEFORE_S), max(start_s, 1e-3)), curve=FLAT, vibrato=None)
    return struck or _share_held(other.measured, own.score, before, shift) < 0.5


def _lines(comparison: Comparison, start_s: float, end_s: float) -> tuple[float, float]:
    """For which share of a stretch of the first both recordings do the same, and for which they surely do not.

    Whatever was written of it; (0, 0) where too little was measured. An octave apart is no proof of either: it may be
    the ear's.
    """
    first, second = comparison.first.measured, comparison.second.measured
    if first is None or second is None:
        return 0.0, 0.0
    times_s = np.arange(start_s, end_s, GRID_S)
    mine, theirs = _pitches(first, times_s), _pitches(second, comparison.to_second.at(times_s))
    voiced = ~np.isnan(mine).all(axis=0) & ~np.isnan(theirs).all(axis=0)
    if np.count_nonzero(voiced) < max(LEAST_FRAMES, 0.5 * times_s.size):
        return 0.0, 0.0
    apart = np.abs(theirs[:, None, voiced] - mine[None, :, voiced] - comparison.shift)
    apart = np.where(np.isnan(apart), np.inf, apart)
    same = apart.min(axis=(0, 1)) < SAME_SEMITONES
    off_octave = np.abs((np.minimum(apart, 1e3) + OCTAVE / 2) % OCTAVE - OCTAVE / 2)
    other = np.where(np.isinf(apart), np.inf, off_octave).min(axis=(0, 1)) >= SAME_SEMITONES
    return float(same.mean()), float(other.mean())


def _pitches(measured: Measured, times_s: FloatArray) -> FloatArray:
    """Each string's measured pitch at some moments, in concert pitch; shape (n_tracks, n_times)."""
    rows = []
    for track in measured.tracks:
        at = np.clip(np.searchsorted(track.times_s, times_s), 0, max(0, track.times_s.size - 1))
        rows.append(
            track.midi[at] - measured.offset_cents / 100 if track.times_s.size else np.full(times_s.size, np.nan)
        )
    return np.array(rows)


def _share_held(measured: Measured, score: Score, claim: Note, shift: float) -> float:
    """Which share of a claim's time some measured string does what is claimed."""
    best = 0.0
    for track in measured.tracks:
        span = track.span(claim.onset_s, claim.offset_s)
        times_s = track.times_s[span] - claim.onset_s
        if times_s.size < LEAST_FRAMES:
            continue
        wanted = score.pitch_at(claim, times_s) + shift + measured.offset_cents / 100
        matching = np.abs(track.midi_at(span) - wanted) < SAME_SEMITONES
        best = max(best, float(matching.mean()))
    return best
