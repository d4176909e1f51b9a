"""What a student plays now over what is written: how far a bend is from its target, how wide the vibrato; a bend gym.

Limits of hearing, beside the tolerance that is taught:
- pitch: C. Wier, W. Jesteadt and D. Green, "Frequency discrimination as a function of frequency and sensation level",
  JASA 61, 1977: log10 of the just noticeable difference in hertz is 0.026 sqrt(f) - 0.533 at 40 dB (from memory);
- order of two onsets: I. Hirsh, "Auditory perception of temporal order", JASA 31, 1959: about 20 ms.
"""

from collections import deque
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from notcher.core.score import Note, Score

HELD_S, STILL_CENTS = 0.22, 30.0  # a plateau: so long, within so much
VIBRATO_S = 0.7  # over which its width is taken
LEAST_BEND = 0.35  # semitones above the fret, from which a push is one
LAST_BENDS = 10  # as many as are remembered


def limen_cents(hertz: float) -> float:
    """Return the just noticeable difference of a pure tone's pitch, cents."""
    just_hz = 10 ** (0.026 * np.sqrt(hertz) - 0.533)
    return float(1200 * np.log2((hertz + just_hz) / hertz))


def written_at(score: Score, time_s: float) -> tuple[Note, float] | None:
    """Return the note that is written at a time, the highest of several, and the pitch its curve has there, MIDI."""
    notes = [note for note in score.notes if note.onset_s <= time_s < note.offset_s]
    if not notes:
        return None
    note = max(notes, key=score.sounding_midi)
    return note, score.sounding_midi(note) + float(note.curve.at(np.array([time_s - note.onset_s]))[0])


def target_midi(score: Score, note: Note) -> float:
    """Return the pitch that a note is to reach: of a bend its top, else its fret."""
    size = note.reading.bend_semitones
    return score.sounding_midi(note) + (size if size > LEAST_BEND else 0.0)


class Mirror:
    """Keeps what was played lately. trace: (time in the recording, MIDI or nan), the newest last."""

    def __init__(self, keep: int = 4_000) -> None:
        self.trace: deque[tuple[float, float]] = deque(maxlen=keep)

    def clear(self) -> None:
        self.trace.clear()

    def hear(self, time_s: float, midi: float | None) -> None:
        """Take what sounds at a time; one before the last begins the stretch anew."""
        if self.trace and time_s < self.trace[-1][0] - 0.05:
            self.trace.clear()
        self.trace.append((time_s, np.nan if midi is None else midi))

    def off_cents(self, score: Score) -> tuple[Note, float] | None:
        """Return the written note and how far what sounds now is from its target, cents; flat is negative.

        An octave off is the other hand's error, not the bend's: it is folded.
        """
        if not self.trace or np.isnan(self.trace[-1][1]):
            return None
        time_s, midi = self.trace[-1]
        written = written_at(score, time_s)
        if written is None:
            return None
        off = midi - target_midi(score, written[0])
        return written[0], 100 * (off - 12 * round(off / 12))

    @property
    def vibrato_cents(self) -> float | None:
        """How wide the pitch swings around its middle now, ± cents; None while it is still or moves elsewhere."""
        if not self.trace:
            return None
        now_s = self.trace[-1][0]
        midi = np.array([value for time_s, value in self.trace if time_s > now_s - VIBRATO_S])
        if midi.size < 12 or np.isnan(midi).any():
            return None
        swing = midi - np.linspace(np.median(midi[: midi.size // 2]), np.median(midi[midi.size // 2 :]), midi.size)
        half = 100 * float(np.percentile(swing, 95) - np.percentile(swing, 5)) / 2
        crossings = int(np.count_nonzero(np.diff(np.sign(swing))))
        return half if half > 5 and crossings >= 4 else None


@dataclass(frozen=True, slots=True)
class Landing:
    """One bend of the gym: what was asked, semitones, and how far off it landed, cents."""

    size: float
    cents: float


class BendGym:
    """Asks for bends of given sizes from one fretted pitch and keeps how the last ten landed. seed: of the order."""

    def __init__(self, base_midi: float, sizes: Sequence[float], *, seed: int = 1) -> None:
        if not sizes or min(sizes) <= 0:
            raise ValueError("a gym asks for bends upward")
        self.base_midi, self._sizes = base_midi, tuple(sizes)
        self._dice = np.random.default_rng(seed)
        self.landed: deque[Landing] = deque(maxlen=LAST_BENDS)
        self.size = self._sizes[0]
        self._lately: deque[tuple[float, float]] = deque()
        self._over = False  # this bend was taken: it is let down first

    def ask_next(self) -> None:
        """Ask for another size, in the gym's own order."""
        self.size = float(self._dice.choice([size for size in self._sizes if size != self.size] or [self.size]))

    def hear(self, time_s: float, midi: float | None) -> Landing | None:
        """Take what sounds at a time; return how a bend landed, once it is held."""
        bent = None if midi is None else midi - self.base_midi
        if bent is None or bent < LEAST_BEND:
            if self._over:
                self._over = False
                self.ask_next()
            self._lately.clear()
            return None
        self._lately.append((time_s, bent))
        while self._lately and self._lately[0][0] < time_s - HELD_S:
            self._lately.popleft()
        bends = np.array([value for _, value in self._lately])
        steady = self._lately[-1][0] - self._lately[0][0] >= 0.85 * HELD_S
        if self._over or not steady or 100 * float(np.ptp(bends)) > STILL_CENTS:
            return None
        self._over = True
        landing = Landing(self.size, 100 * (float(np.median(bends)) - self.size))
        self.landed.append(landing)
        return landing

    @property
    def by_size(self) -> dict[float, tuple[float, ...]]:
        """The last ten by their size, cents off."""
        sizes = sorted({landing.size for landing in self.landed})
        return {size: tuple(bend.cents for bend in self.landed if bend.size == size) for size in sizes}
