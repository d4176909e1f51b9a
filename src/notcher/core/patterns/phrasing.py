"""Where one phrase ends and the next begins: every boundary with its reasons.

Each gap between two strokes is scored by what a listener goes by: the rest in it and how long the note before it is
held (proximity in time), where it lies in the bar, whether a lick that came before begins again (parallelism), and
whether the line has come to rest (closure). The phrases are those boundaries whose scores, less what an unlikely length
costs, add up to the most; found by dynamic programming over all ways to cut.

Source: D. Temperley, "The Cognition of Basic Musical Structures", 2001, ch. 3: gap scores, a preferred length,
parallelism, and the search; closure as in E. Narmour, "The Analysis and Cognition of Basic Melodic Structures", 1990:
durational cumulation (a note longer than the one before it). Both from memory; the weights are ours.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np
from scipy import ndimage

from notcher.core.arrays import FloatArray, IntArray
from notcher.core.patterns.cutting import best_cuts
from notcher.core.patterns.events import USUAL_BEAT_S
from notcher.core.score import Note, Phrase, Score
from notcher.core.score.together import TOGETHER_S

AROUND = 4  # strokes on each side, of which the usual length is told
ON_BEAT = 0.12  # of a beat
AGAIN_STROKES = 5  # fewer strokes come again by chance
TOLD = 0.2  # what is worth less is no reason


class BoundaryReason(StrEnum):
    """Why a phrase begins where it does."""

    FIRST = "first"
    REST = "rest"
    LONG_NOTE = "long note"
    AGAIN = "again"  # something that came before begins again
    BAR = "bar"
    FOUR_BARS = "four bars"  # of a line or section: after a multiple of so many bars
    EIGHT_BARS = "eight bars"


@dataclass(frozen=True, slots=True)
class Weights:
    """What each cue is worth, in the units of the cost of a boundary; set by hand, not fitted."""

    rest: float = 6.0  # of a rest that is long: alone it outweighs everything against it
    rest_beats: float = 0.3  # at which a rest is worth two thirds of that
    lifted_beats: float = 0.12  # of silence that are only a finger's
    held: float = 1.0  # an octave in length: the note before is twice as long as its neighbours
    most_held: float = 2.0
    again: float = 1.5
    bar: float = 0.5
    off_beat: float = 0.4
    cost: float = 2.2
    usual_beats: float = 6.0
    length: float = 0.4  # of a phrase that is twice or half as long
    longest_beats: float = 16.0
    beyond: float = 0.25  # of each beat more: nobody plays on without end
    usual_strokes: float = 8.0
    strokes: float = 0.2  # twice or half as many


@dataclass(frozen=True, slots=True)
class Boundary:
    """Where a phrase begins: the index of its first note, what the place is worth, and why, the strongest first."""

    first: int
    worth: float
    reasons: tuple[BoundaryReason, ...]


def boundaries(score: Score, weights: Weights | None = None) -> tuple[Boundary, ...]:
    """Return where the phrases of a solo begin, in time order; nothing for no note."""
    weights = weights or Weights()
    notes = score.notes
    if not notes:
        return ()
    firsts = strokes(notes)
    position = _beats(score, firsts)
    cues = _cues(score, firsts, position[:-1], weights)
    worth = sum(cues.values(), np.zeros(firsts.size))
    cuts = _best_cuts(worth - weights.cost, position, weights)
    result = [Boundary(int(firsts[0]), 0.0, (BoundaryReason.FIRST,))]
    for cut in cuts:
        strongest = sorted(((float(cue[cut]), name) for name, cue in cues.items() if cue[cut] > TOLD), reverse=True)
        result.append(Boundary(int(firsts[cut]), float(worth[cut]), tuple(name for _, name in strongest)))
    return tuple(result)


def phrases_of(score: Score, cuts: Sequence[Boundary] | None = None) -> tuple[Phrase, ...]:
    """Cut a solo into phrases, numbered in order. cuts: its boundaries, where they are known already."""
    notes = score.notes
    begins = [boundary.first for boundary in (boundaries(score) if cuts is None else cuts)]
    if not begins:
        return ()
    return tuple(
        Phrase(notes[first].onset_s, _end_s(notes[first:last]), f"Phrase {number}")
        for number, (first, last) in enumerate(zip(begins, [*begins[1:], len(notes)], strict=True), start=1)
    )


def _end_s(notes: Sequence[Note]) -> float:
    return max(note.offset_s for note in notes)


def strokes(notes: Sequence[Note]) -> IntArray:
    """Return the index of the first note of each onset, shape (n_onsets,): what is struck together is one."""
    onsets_s = np.array([note.onset_s for note in notes])
    begins = [0]
    for at in range(1, onsets_s.size):
        if onsets_s[at] - onsets_s[begins[-1]] > TOGETHER_S:
            begins.append(at)
    return np.array(begins)


def _beats(score: Score, firsts: IntArray) -> FloatArray:
    """Where each stroke is, and the end of the last one, in felt beats; shape (n_strokes + 1,)."""
    times_s = np.array([score.notes[at].onset_s for at in firsts] + [_end_s(score.notes)])
    if not score.beat_map.known:
        return times_s / USUAL_BEAT_S
    return score.beat_map.felt_at(score.beat_map.quarter_at(times_s))


def _cues(score: Score, firsts: IntArray, position: FloatArray, weights: Weights) -> dict[BoundaryReason, FloatArray]:
    """What each cue is worth before each stroke; shape (n_strokes,) each, 0 before the first."""
    rest, lengths = _rest_and_length(score, firsts, position)
    return {
        BoundaryReason.REST: weights.rest
        * (1.0 - np.exp(-np.maximum(rest - weights.lifted_beats, 0.0) / weights.rest_beats)),
        BoundaryReason.LONG_NOTE: weights.held * np.clip(lengths, 0.0, weights.most_held),
        BoundaryReason.BAR: _in_the_bar(score, position, weights),
        BoundaryReason.AGAIN: weights.again * _begins_again(score, firsts),
    }


def _rest_and_length(score: Score, firsts: IntArray, position: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Before each stroke: the silence in beats, and by how many octaves the note before is longer than is usual."""
    if firsts.size < 2:
        return np.zeros(firsts.size), np.zeros(firsts.size)
    ends_s = np.maximum.accumulate([note.offset_s for note in score.notes])[firsts[1:] - 1]
    onsets_s = np.array([score.notes[at].onset_s for at in firsts])
    length = np.maximum(np.diff(position), 1e-9)
    silence = np.maximum(onsets_s[1:] - ends_s, 0.0) * length / np.diff(onsets_s)
    around = ndimage.median_filter(length, 2 * AROUND + 1, mode="nearest")
    return np.concatenate([[0.0], silence]), np.concatenate([[0.0], np.log2(length / around)])


def _in_the_bar(score: Score, position: FloatArray, weights: Weights) -> FloatArray:
    """A phrase begins on a bar rather than on a beat, and on a beat rather than between two."""
    if not score.beat_map.known:
        return np.zeros(position.size)
    nearest = np.rint(position)
    _, beats = score.beat_map.bars_and_beats(nearest)
    on_beat = np.abs(position - nearest) < ON_BEAT
    worth = np.where(on_beat, np.where(beats == 1, weights.bar, 0.0), -weights.off_beat)
    worth[:1] = 0.0
    return worth


def _begins_again(score: Score, firsts: IntArray) -> FloatArray:
    """1 where a lick of some strokes begins whose pitches come elsewhere as well, but not the stroke before it."""
    steps = [
        (score.fretted_midi(score.notes[at]), score.notes[at].string, round(score.notes[at].reading.bend_semitones))
        for at in firsts
    ]
    places: dict[tuple[object, ...], list[int]] = {}
    for at in range(len(steps) - AGAIN_STROKES + 1):
        places.setdefault(tuple(steps[at : at + AGAIN_STROKES]), []).append(at)
    result = np.zeros(len(steps))
    for same in places.values():
        if len(same) > 1 and min(np.diff(same)) >= AGAIN_STROKES:
            before = {steps[at - 1] if at else None for at in same}
            if len(before) > 1:
                result[same] = 1.0
    return result


def _best_cuts(worth: FloatArray, position: FloatArray, weights: Weights) -> list[int]:
    """The strokes before which to cut, so that worth less the cost of each phrase's length is most."""
    begins = np.where(np.arange(worth.size) > 0, worth, 0.0)

    def of_phrase(end: int) -> FloatArray:
        beats = np.maximum(position[end] - position[:end], 0.25)
        cost = weights.length * np.log2(beats / weights.usual_beats) ** 2
        cost += weights.beyond * np.maximum(beats - weights.longest_beats, 0.0)
        cost += weights.strokes * np.log2((end - np.arange(end)) / weights.usual_strokes) ** 2
        return np.asarray(begins[:end] - cost)

    return best_cuts(worth.size, of_phrase)
