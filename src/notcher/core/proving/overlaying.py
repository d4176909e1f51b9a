"""A tab without times laid over a recording: every written note gets the moment at which it was played.

What is written and what was heard are paired in order by their pitches alone (see `aligning`): nothing is believed of
the times in the tab, but where it has a rhythm the player's own time is a smooth line through that rhythm, and the
pairing is made once more near it. What has no partner is looked for in the measured pitch between its neighbours.
"""

from collections.abc import Callable
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np

from notcher.core.arrays import FloatArray
from notcher.core.errors import CancelCheck, never_cancelled
from notcher.core.hearing import Draft
from notcher.core.hearing.contour import runs
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
from notcher.core.proving.flow import LEAST_ANCHORS, Flow
from notcher.core.proving.versions import NothingInCommonError, anchors_of, check_common
from notcher.core.score import BeatMap, Doubt, DoubtKind, Note, Score, retimed, with_times

REACH_S = 0.6  # farther from the line is another note
LEAST_S, LEAST_FRAMES, NEAR_S = 0.03, 4, 0.045  # shorter is no note; fewer frames are chance; as an onset is late
SAME_TAKE_S = 0.03  # from the straight line between two transfers of one take
SHORT_S = 0.15  # a note of which nothing was heard is so long at most


@dataclass(frozen=True, slots=True, eq=False)
class LaidOver:
    """A tab at the times of a recording. shift: semitones by which the recording sounds higher than the tab said.

    not_found: ids of the notes that were not found in it; their times are guessed. unwritten: the notes that were
    heard and nobody wrote.
    """

    score: Score
    shift: int
    not_found: tuple[str, ...]
    unwritten: tuple[Note, ...]


def laid_over_again(score: Score, draft: Draft, *, cancelled: CancelCheck = never_cancelled) -> LaidOver:
    """Lay a tab with its times over another transfer of the same take: later, slower, at another pitch.

    All its times are moved by one straight line, the median of the slopes and offsets of what was paired; where that
    does not hold it is another take, and the tab is laid over it note by note, see `laid_over`.
    Source: H. Theil, "A rank-invariant method of linear and polynomial regression analysis", 1950.
    Raises: NothingInCommonError; Cancelled.
    """
    laid = laid_over(score, draft, timed=True, cancelled=cancelled)
    now_s = {note.id: note.onset_s for note in laid.score.notes}
    pairs = [(note.onset_s, now_s[note.id]) for note in score.notes if note.id not in laid.not_found]
    x, y = (np.array(side) for side in zip(*pairs, strict=True))
    far = max(1, x.size // 2)
    slope = float(np.median((y[far:] - y[:-far]) / np.maximum(x[far:] - x[:-far], 1e-3))) if x.size > far else 1.0
    offset = float(np.median(y - slope * x))
    off_s = np.abs(y - slope * x - offset)
    if not 0.5 < slope < 2.0 or np.median(off_s) > SAME_TAKE_S:
        return laid

    def at(time_s: float) -> float:
        return slope * time_s + offset

    first_s = min((note.onset_s for note in score.notes), default=0.0)
    if at(first_s) < 0:
        return laid
    anchors = tuple((at(time_s), quarter) for time_s, quarter in score.beat_map.anchors)
    tuning = laid.score.tuning
    moved = with_times(replace(score, notes=(), tuning=tuning), at)
    notes = [retimed(note, at(note.onset_s), at(note.offset_s)) for note in score.notes]
    straight = replace(moved, beat_map=replace(score.beat_map, anchors=anchors)).with_notes(notes)
    return replace(laid, score=straight, not_found=())


def laid_over(
    written: Score, draft: Draft, *, timed: bool = False, cancelled: CancelCheck = never_cancelled
) -> LaidOver:
    """Lay a tab over a recording that was heard. Ids stay; strings and frets stay, and the neck is tuned to the sound.

    timed: the tab's times are in the proportions of a playing, also where it has no beats.
    Raises: NothingInCommonError when the tab is of other music; Cancelled.
    """
    if not written.notes or not draft.score.notes:
        raise NothingInCommonError
    own = {note.id for note in draft.score.notes}
    draft = _with_restrikes(draft)
    a, b = tones_of(written), tones_of(draft.score)
    shift = likeliest_shift(a, b, cancelled=cancelled)
    pairs = _paired(a, b, shift, rhythm=timed or written.beat_map.known)
    check_common(a, b, pairs, shift)
    partner = {mine: theirs for mine, theirs in pairs if same_pitch(a, b, (mine, theirs), shift)}
    anchors = anchors_of(a, b, list(partner.items()), shift)
    moved = _moved(written, draft, shift, *anchors)
    notes, not_found = _placed_in_time(moved, draft, partner, shift)
    matched_ids = {draft.score.notes[at].id for at in partner.values()}
    unwritten = tuple(note for note in draft.score.notes if note.id not in matched_ids and note.id in own)
    return LaidOver(moved.with_notes(notes), shift, not_found, unwritten)


def _with_restrikes(draft: Draft) -> Draft:
    """Let what was struck while a note sounds be a note as well, a doubtful one: the tab knows whether it is."""
    notes = draft.score.notes
    onsets_s = np.array([note.onset_s for note in notes])
    more: list[Note] = []
    for attack_s in draft.attacks_s.tolist():
        if np.abs(onsets_s - attack_s).min() < NEAR_S:
            continue
        at = int(np.searchsorted(onsets_s, attack_s)) - 1
        for note in notes[max(0, at - 3) : at + 1]:
            if note.onset_s + NEAR_S < attack_s < note.offset_s - NEAR_S and not note.bent:
                more.append(replace(retimed(note, attack_s, note.offset_s), certainty=0.0, id=""))
    return replace(draft, score=draft.score.with_notes([*notes, *more]))


def _paired(a: Tones, b: Tones, shift: int, *, rhythm: bool) -> list[Pair]:
    """rhythm: the times of the first are in the proportions of a rhythm."""
    pairs, _ = aligned(a, b, shift=shift)
    first_s, second_s = anchors_of(a, b, pairs, shift)
    if rhythm and first_s.size >= LEAST_ANCHORS:
        scale = _tempo_ratio(first_s, second_s)  # a flow bends time by half at most
        flow = Flow(first_s * scale, second_s, None)
        near_s = np.array([flow.at(onset_s * scale) for onset_s in a.onset_s.tolist()])
        pairs, _ = aligned(a, b, shift=shift, near_s=near_s, reach_s=REACH_S)
        first_s, second_s = anchors_of(a, b, pairs, shift)
    if first_s.size == 0:
        raise NothingInCommonError
    return with_neighbours(pairs, a, b, shift=shift, near_s=TimeMap(first_s, second_s).at(a.onset_s))


def _tempo_ratio(first_s: FloatArray, second_s: FloatArray) -> float:
    """How much longer the second takes, on the whole."""
    return float(np.median(np.diff(second_s) / np.maximum(np.diff(first_s), 1e-3)))


def _moved(written: Score, draft: Draft, shift: int, first_s: FloatArray, second_s: FloatArray) -> Score:
    """The score with everything in it at about its time, on a neck that sounds as the recording does."""
    to_recording = TimeMap(first_s, second_s)

    def at(time_s: float) -> float:
        return max(0.0, to_recording(time_s))

    tuning = written.tuning
    opens = tuple(midi + shift for midi in tuning.open_midi)
    tuned = replace(tuning, open_midi=opens, offset_cents=draft.score.tuning.offset_cents)
    base = replace(written, notes=(), tuning=tuned)
    notes = [_spread(note, at) for note in written.notes]
    moved = with_times(base, lambda time_s: at(time_s) + 1e-6 * time_s).with_notes(notes)  # no span may be empty
    return replace(moved, beat_map=_beats(written.beat_map, draft.score.beat_map, at, first_s))


def _spread(note: Note, at: Callable[[float], float]) -> Note:
    onset_s = at(note.onset_s)
    return retimed(note, onset_s, max(at(note.offset_s), onset_s + LEAST_S))


def _beats(written: BeatMap, draft: BeatMap, at: Callable[[float], float], first_s: FloatArray) -> BeatMap:
    """The written beats where they were played; those that were heard where none were written."""
    if not written.known:
        return draft
    quarters = written.quarter_at(first_s[[0, -1]])
    beats = np.arange(np.floor(quarters[0]), np.ceil(quarters[1]) + 1)
    anchors = [(at(float(time_s)), float(beat)) for time_s, beat in zip(written.time_at(beats), beats, strict=True)]
    rising = anchors[:1]
    for pair in anchors[1:]:
        if pair[0] > rising[-1][0] + 1e-3:
            rising.append(pair)
    return replace(written, anchors=tuple(rising)) if len(rising) > 1 else draft


def _placed_in_time(
    score: Score, draft: Draft, partner: dict[int, int], shift: int
) -> tuple[list[Note], tuple[str, ...]]:
    """Each note at the moment its partner was heard, or where its pitch was measured between its neighbours."""
    notes: list[Note] = []
    not_found: list[str] = []
    matched = sorted(partner)
    for at, note in enumerate(score.notes):
        if at in partner:
            there = draft.score.notes[partner[at]]
            notes.append(retimed(note, there.onset_s, there.offset_s))
            continue
        low_s, high_s = _between(draft, partner, matched, at)
        begun = _measured_s(score, draft, note, low_s, high_s)
        if begun is None:
            not_found.append(note.id)
            doubt = Doubt(DoubtKind.NOT_FOUND)
            onset_s = float(np.clip(note.onset_s, low_s, max(low_s, high_s - LEAST_S)))
            offset_s = max(min(note.offset_s, onset_s + SHORT_S), onset_s + LEAST_S)
            notes.append(replace(retimed(note, onset_s, offset_s), doubt=doubt, certainty=0.0))
        else:
            notes.append(retimed(note, *begun))
    return notes, tuple(not_found)


def _between(draft: Draft, partner: dict[int, int], matched: list[int], at: int) -> tuple[float, float]:
    """Between which moments a note without a partner must have begun."""
    place = int(np.searchsorted(matched, at))
    before = draft.score.notes[partner[matched[place - 1]]].onset_s + LEAST_S if place else 0.0
    end_s = float(draft.track.times_s[-1]) if draft.track.times_s.size else before + 1.0
    after = draft.score.notes[partner[matched[place]]].onset_s if place < len(matched) else end_s
    return before, max(after, before + LEAST_S)


def _measured_s(score: Score, draft: Draft, note: Note, low_s: float, high_s: float) -> tuple[float, float] | None:
    """When a pitch was measured between two moments: the stretch of it that begins nearest to where it should."""
    start = float(score.pitch_at(note)) + draft.score.tuning.offset_cents / 100
    spans: list[tuple[float, float]] = []
    for track in draft.measured.tracks:
        span = track.span(low_s, high_s)
        times_s = track.times_s[span]
        for first, last in runs(np.abs(track.midi_at(span) - start) < SAME_SEMITONES):
            if last - first >= LEAST_FRAMES:
                spans += _cut_at_attacks(float(times_s[first]), float(times_s[last - 1]), draft.attacks_s)
    return min(spans, key=lambda stretch: abs(stretch[0] - note.onset_s), default=None)


def _cut_at_attacks(start_s: float, end_s: float, attacks_s: FloatArray) -> list[tuple[float, float]]:
    """A stretch of one pitch as the notes that were struck in it."""
    inside = attacks_s[(attacks_s > start_s + LEAST_S) & (attacks_s < end_s - LEAST_S)].tolist()
    edges = [start_s, *inside, end_s]
    return [(begin, end) for begin, end in pairwise(edges) if end - begin >= LEAST_S / 2]
