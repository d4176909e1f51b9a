"""A solo as the pattern finders see it: one row a note, whole numbers where equality decides."""

from dataclasses import dataclass

import numpy as np

from notcher.core.arrays import BoolArray, FloatArray, IntArray
from notcher.core.score import Score, Tone

TIMING_TOLERANCE_S = (
    0.045  # two onsets that are each 20 ms off differ by so much (four standard deviations of an even 20 ms)
)
SPREAD_BEATS, LEAST_SLACK = 0.08, 0.06  # what hands spread; never stricter than that
USUAL_BEAT_S = 0.5  # where no beats are known


@dataclass(frozen=True, slots=True, eq=False)
class Events:
    """Arrays of shape (n_notes,). beats: onset in felt beats, as played. beat_s: a felt beat's length there, seconds.

    string, fret, midi, gesture: whole numbers; midi is the unbent pitch, gesture what is done to it that cannot be left
    out: how far it is bent, a harmonic, a dead note.
    """

    beats: FloatArray
    beat_s: FloatArray
    string: IntArray
    fret: IntArray
    midi: IntArray
    gesture: IntArray

    def __len__(self) -> int:
        return int(self.beats.size)

    def steps(self, span: int) -> "IntervalSteps":
        """How long it is from each note to the one so many notes on."""
        length = self.beats[span:] - self.beats[: self.beats.size - span]
        slack = SPREAD_BEATS + TIMING_TOLERANCE_S / self.beat_s[: length.size]
        # quick notes are told by their ratio: a spread as long as the note itself would allow anything
        return IntervalSteps(length, np.minimum(slack, np.maximum(0.6 * length, LEAST_SLACK)))


@dataclass(frozen=True, slots=True, eq=False)
class IntervalSteps:
    """length: beats from each note to a later one; slack: by how much another may differ from it; shape (n,) each."""

    length: FloatArray
    slack: FloatArray

    def alike(self, lag: int) -> BoolArray:
        """Whether each step takes as long as the one `lag` notes later, within what hands and ears allow.

        Returns: shape (n - lag,).
        """
        size = max(0, self.length.size - lag)
        allowed = np.minimum(self.slack[:size], self.slack[lag:])
        return np.asarray(np.abs(self.length[:size] - self.length[lag:]) <= allowed)


def events_of(score: Score) -> Events:
    """Read a solo note by note, in time order."""
    notes = score.notes
    onsets_s = np.array([note.onset_s for note in notes], dtype=np.float64)
    if score.beat_map.known and notes:
        beats = score.beat_map.felt_at(score.beat_map.quarter_at(onsets_s))
        after = score.beat_map.time_at(score.beat_map.quarter_of_felt(beats + 1.0))
        beat_s = after - onsets_s
    else:
        beats, beat_s = onsets_s / USUAL_BEAT_S, np.full(onsets_s.size, USUAL_BEAT_S)
    kinds = {tone: 100 * number for number, tone in enumerate(Tone)}
    kinds[Tone.PALM_MUTE] = kinds[Tone.NORMAL]  # how it is damped does not make another note of it
    return Events(
        beats,
        beat_s,
        np.array([note.string for note in notes], dtype=np.int32),
        np.array([note.fret for note in notes], dtype=np.int32),
        np.rint([score.fretted_midi(note) for note in notes]).astype(np.int32).reshape(-1),
        np.array([kinds[note.tone] + round(note.reading.bend_semitones) for note in notes], dtype=np.int32),
    )
