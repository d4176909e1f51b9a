"""Dynamic time warping of a played pitch curve onto a written one.

H. Sakoe and S. Chiba, "Dynamic programming algorithm optimization for spoken word recognition", IEEE Trans. ASSP 26,
1978; begun and ended anywhere in the take as in M. Müller, "Information Retrieval for Music and Motion", 2007, ch. 4.4;
onsets as decaying ramps beside the pitch as in S. Ewert, M. Müller and P. Grosche, ICASSP 2009.
"""

from dataclasses import dataclass

import numpy as np

from notcher.core.arrays import FloatArray, IntArray
from notcher.core.hearing import PitchTrack
from notcher.core.score import Score

FRAME_S = 0.02  # finer than an onset's tolerance
FAR_SEMITONES = 3.0  # farther is as wrong
SILENCE_COST, ONSET_WEIGHT, STAND_COST = 0.45, 0.4, 0.06  # against a semitone's distance of one
FADE_S = 0.12  # a note that decays is not compared
MOST_CELLS = 25_000_000  # 200 MB; longer pairs are cut


@dataclass(frozen=True, slots=True, eq=False)
class NoteLine:
    """What sounds, frame by frame: pitch (semitones, NaN where silent) and how lately a note began (1 falling to 0)."""

    midi: FloatArray
    lately: FloatArray


def line(midi: FloatArray, onsets_s: FloatArray, *, frame_s: float) -> NoteLine:
    """Return a line of a pitch curve. midi: shape (n,). onsets_s: shape (m,), seconds from the first frame."""
    lately = np.zeros(midi.size)
    reach = round(4 * FADE_S / frame_s)
    ramp = np.exp(-np.arange(reach) * frame_s / FADE_S)
    for onset_s in onsets_s:
        first = round(float(onset_s) / frame_s)
        if 0 <= first < midi.size:
            part = lately[first : first + reach]
            np.maximum(part, ramp[: part.size], out=part)
    return NoteLine(np.asarray(midi, dtype=np.float64), lately)


def line_of_notes(score: Score, *, frame_s: float, length_s: float) -> NoteLine:
    """Return the line that a score claims, from second 0 on."""
    times_s = np.arange(0.0, length_s, frame_s)
    claimed = np.full(times_s.size, np.nan)
    for note in score.notes:
        part = slice(round(note.onset_s / frame_s), round(note.offset_s / frame_s))
        claimed[part] = score.pitch_at(note, times_s[part] - note.onset_s)
    return line(claimed, np.array([note.onset_s for note in score.notes]), frame_s=frame_s)


def line_of_track(track: PitchTrack, score: Score, *, frame_s: float) -> NoteLine:
    """Return the line that was measured, in concert pitch. score: what was heard in it."""
    times_s = np.arange(0.0, float(track.times_s[-1]), frame_s)
    nearest = np.minimum(np.searchsorted(track.times_s, times_s), track.times_s.size - 1)
    midi = track.midi[nearest] - score.tuning.offset_cents / 100
    return line(midi, np.array([note.onset_s for note in score.notes]), frame_s=frame_s)


def frame_for(first_s: float, second_s: float) -> float:
    """Return how long frames are in which two lines are laid over each other: longer for whole long solos."""
    return FRAME_S * max(1.0, float(np.sqrt(1.1 * first_s * second_s / FRAME_S**2 / MOST_CELLS)))


def warped(written: NoteLine, played: NoteLine, *, allowed: IntArray | None = None) -> FloatArray:
    """Return where in the take each written frame is played.

    allowed: shape (n_written, 2), first and last played frame that each may lie at; None for anywhere.
    Returns: shape (n_written,), played frames, never falling. Raises: ValueError when a line is empty or too long.
    """
    rows, columns = written.midi.size, played.midi.size
    if rows == 0 or columns == 0:
        raise ValueError("there is nothing to lay over each other")
    if rows * columns > MOST_CELLS:
        raise ValueError("the two lines are too long to be laid over each other at this frame rate")
    total = np.empty((rows, columns), dtype=np.float32)
    for row in range(rows):
        cost = _cost(written, row, played, allowed)
        if row == 0:
            total[0] = cost  # the take may begin anywhere
            continue
        above = total[row - 1]
        reached = np.minimum(above + STAND_COST, np.concatenate([[np.inf], above[:-1]])) + cost
        # standing still on a written frame while the take goes on: a running sum that may begin at any column
        run = np.cumsum(cost.astype(np.float64) + STAND_COST)
        total[row] = np.minimum.accumulate(reached - run) + run
    return _path(total, written, played, allowed)


def _cost(written: NoteLine, row: int, played: NoteLine, allowed: IntArray | None) -> FloatArray:
    """How unlike one written frame every played one is."""
    pitch, other = written.midi[row], played.midi
    if np.isnan(pitch):
        cost = np.where(np.isnan(other), 0.0, SILENCE_COST)
    else:
        apart = np.minimum(np.abs(other - pitch), FAR_SEMITONES) / FAR_SEMITONES
        cost = np.where(np.isnan(other), SILENCE_COST, apart)
    cost = cost + ONSET_WEIGHT * np.abs(played.lately - written.lately[row])
    if allowed is not None:
        first, last = allowed[row]
        cost[: max(0, int(first))] = 1e6
        cost[int(last) + 1 :] = 1e6
    return np.asarray(cost, dtype=np.float32)


def _path(total: FloatArray, written: NoteLine, played: NoteLine, allowed: IntArray | None) -> FloatArray:
    """Trace the cheapest way back; a written frame lies in the middle of all played frames it stands on."""
    row, column = total.shape[0] - 1, int(np.argmin(total[-1]))
    firsts, lasts = np.zeros(total.shape[0]), np.zeros(total.shape[0])
    lasts[row] = column
    cost = _cost(written, row, played, allowed)
    while True:
        firsts[row] = column
        if row == 0:
            break
        here = total[row, column]
        across = total[row, column - 1] + cost[column] + STAND_COST if column else np.inf
        down = total[row - 1, column] + cost[column] + STAND_COST
        both = total[row - 1, column - 1] + cost[column] if column else np.inf
        if across <= min(down, both) and abs(across - here) <= 1e-3 + 1e-4 * abs(here):
            column -= 1
            continue
        column -= both <= down
        row -= 1
        lasts[row] = column
        cost = _cost(written, row, played, allowed)
    return np.asarray(np.maximum.accumulate((firsts + lasts) / 2))
