"""What a phrase is found by: key, degrees, hand, techniques, speed, chords, and its line for "like this one"."""

from dataclasses import dataclass

import numpy as np

from notcher.core.arrays import FloatArray, IntArray
from notcher.core.neck import position_fret
from notcher.core.score import EDGE_S, BeatMap, Phrase, Score, excerpt, techniques
from notcher.core.theory import DEGREES, LikelyScale, read_chord, scale_of

LEAST_SPAN_S = 0.1  # a single note has no rate
SHARED = 0.1  # of a phrase's time that a chord sounds under it, to count
ROOTS = ("1", "b2", "2", "b3", "3", "4", "b5", "5", "b6", "6", "b7", "7")
"""Degrees of a chord's root over the key's tonic, by semitones."""


@dataclass(frozen=True, slots=True, eq=False)
class MelodicLine:
    """steps: shape (n - 1,), semitones from each reached pitch to the next. lengths: shape (n - 1,), seconds."""

    steps: IntArray
    lengths: FloatArray


@dataclass(frozen=True, slots=True, eq=False)
class Features:
    """See `models.PhraseRow`; words here are sets."""

    key: LikelyScale
    hand_fret: int
    notes_per_s: float
    degrees: frozenset[str]
    techniques: frozenset[str]
    functions: frozenset[str]
    chords: tuple[str, ...]
    line: MelodicLine


def line_of(score: Score) -> MelodicLine:
    """Return the line of a score's notes; strings struck together are one moment, its highest pitch the line's."""
    moments: list[tuple[float, int]] = []
    for note in score.notes:
        reached = round(score.sounding_midi(note) + note.reading.bend_semitones)
        if moments and note.onset_s - moments[-1][0] < EDGE_S:
            moments[-1] = (moments[-1][0], max(moments[-1][1], reached))
        else:
            moments.append((note.onset_s, reached))
    pitches = np.array([pitch for _, pitch in moments], dtype=np.int64)
    onsets_s = np.array([onset_s for onset_s, _ in moments])
    return MelodicLine(np.clip(np.diff(pitches), -100, 100), np.diff(onsets_s))


def features(score: Score, phrase: Phrase, keys: list[LikelyScale]) -> Features:
    """Return what a phrase with notes is found by. keys: of the whole solo, ranked."""
    inside = score.notes_of(phrase)
    notes = [score.notes[at] for at in inside]
    key = scale_of(score, notes, keys) or keys[0]
    reached = [round(score.sounding_midi(note) + note.reading.bend_semitones) for note in notes]
    span_s = max(notes[-1].onset_s - notes[0].onset_s, LEAST_SPAN_S)
    chords = _chords(score, phrase)
    shift = score.tuning.shift  # chords are called as on the neck
    roots = [tones.root for name in chords if (tones := read_chord(name)) is not None]
    return Features(
        key,
        position_fret(notes),
        (len(notes) - 1) / span_s,
        frozenset(DEGREES[(midi - key.tonic) % 12] for midi in reached),
        frozenset(name for at in inside for name in techniques(score, at)),
        frozenset(ROOTS[(root + shift - key.tonic) % 12] for root in roots),
        chords,
        line_of(score.with_notes(notes)),
    )


def _chords(score: Score, phrase: Phrase) -> tuple[str, ...]:
    """The chords that sound under a phrase for more than a moment."""
    edges = [chord.start_s for chord in score.chords] + [np.inf]
    length_s = phrase.end_s - phrase.start_s
    texts = []
    for chord, end_s in zip(score.chords, edges[1:], strict=True):
        shared_s = min(end_s, phrase.end_s) - max(chord.start_s, phrase.start_s)
        if shared_s > SHARED * length_s:
            texts.append(chord.name)
    return tuple(dict.fromkeys(texts))


def alone(score: Score, phrase: Phrase) -> Score:
    """Return a phrase as a score of its own from second 0 on, with its chords and the beats around it."""
    part = excerpt(score, phrase.start_s, phrase.end_s)
    length_s = phrase.end_s - phrase.start_s
    anchors = part.beat_map.anchors
    if part.beat_map.known:
        first, last = (part.beat_map.quarter(time_s) for time_s in (0.0, length_s))
        quarters = np.arange(np.floor(first) - 1, np.ceil(last) + 2)
        times_s = part.beat_map.time_at(quarters)
        anchors = tuple((float(t), float(q)) for t, q in zip(times_s, quarters, strict=True))
    beat_map: BeatMap = BeatMap(anchors, part.beat_map.meters) if part.beat_map.known else part.beat_map
    return Score(part.notes, score.tuning, beat_map, part.chords, title=phrase.name, key=score.key_at(phrase.start_s))
