"""Whether what was listened to bears out a note that somebody claims, where the followed lead does not hold it.

A soft note under a band is lost by who follows one line without knowing what to expect. Asked for its pitch at its
time, the strength of the pitches still answers: it is among the strongest there, it stands out from its neighbours, and
it began when it is said to have begun.
"""

from dataclasses import dataclass

import numpy as np

from notcher.core.arrays import FloatArray, IntArray
from notcher.core.hearing.analysis import Analysis
from notcher.core.hearing.salience import LOW_MIDI, PER_SEMITONE, SALIENCE_HOP_S
from notcher.core.score import Note, Score

SETTLED_S, BEFORE_S, BEGINNING_FRAMES = 0.03, 0.07, 8  # past the attack; before it; 93 ms from the beginning
LEAST_FRAMES, EVERY = 2, 32  # one frame may be chance; more than enough of a long note
NEIGHBOURS = (-3, -2, -1, 1, 2, 3)  # semitones; an octave away its own partials lie
STRONG, STANDS_OUT, ROSE = 0.7, 0.2, 0.2
"""Seeds 0 to 5 of the hearing's benchmark in a band: of true notes that were missed 19 in 20 pass all of this, of
planted ones fewer than 1 in 20."""


@dataclass(frozen=True, slots=True)
class Support:
    """How a claimed pitch fares against all others.

    share: its strength over that of the strongest pitches, 1 is level with them. stands_out: share of the frames in
    which no neighbour within three semitones is stronger. rise: how much stronger it is than just before its onset, 1
    is as strong as the recording's strong pitches.
    """

    share: float
    stands_out: float
    rise: float

    @property
    def enough(self) -> bool:
        """Whether the note is borne out."""
        return self.share >= STRONG and (self.stands_out >= STANDS_OUT or self.rise >= ROSE)


def support(score: Score, note: Note, analysis: Analysis, *, offset_cents: float) -> Support | None:
    """Return what speaks for a claimed note; None when it is too short to tell. offset_cents: of the recording."""
    strength = analysis.strength
    count = max(1, int((note.duration_s - SETTLED_S) / SALIENCE_HOP_S))
    frames = np.rint((note.onset_s + SETTLED_S) / SALIENCE_HOP_S).astype(np.int64) + np.arange(count)
    frames = frames[frames < strength.shape[0]]
    if frames.size < LEAST_FRAMES:
        return None
    midi = score.pitch_at(note, frames * SALIENCE_HOP_S - note.onset_s) + offset_cents / 100
    rows = np.rint((midi - LOW_MIDI) * PER_SEMITONE).astype(np.int64)
    own = _at(strength, frames, rows)
    beside = np.max([_at(strength, frames, rows + step * PER_SEMITONE) for step in NEIGHBOURS], axis=0)
    top = np.maximum(np.percentile(strength[frames], 99, axis=1), 1e-6)
    before = np.arange(frames[0] - round((SETTLED_S + BEFORE_S) / SALIENCE_HOP_S), frames[0] - 4)
    before = before[before >= 0]
    earlier = float(_at(strength, before, np.full(before.size, rows[0])).mean()) if before.size else 0.0
    loud = max(float(np.percentile(strength[::EVERY], 99)), 1e-6)
    rise = (float(own[:BEGINNING_FRAMES].mean()) - earlier) / loud
    return Support(float(np.median(own / top)), float(np.mean(own > beside)), rise)


def _at(strength: FloatArray, frames: IntArray, rows: IntArray) -> FloatArray:
    """Strength at a pitch, a fifth of a semitone either way allowed; shape (n_frames,)."""
    rows = np.clip(rows, 1, strength.shape[1] - 2)
    return np.asarray(np.max([strength[frames, rows + step] for step in (-1, 0, 1)], axis=0))
