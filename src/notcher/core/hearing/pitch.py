"""The lead's pitch curve: difference function, several candidates a frame, one path through them.

Source: A. de Cheveigné and H. Kawahara, "YIN, a fundamental frequency estimator for speech and music", JASA 111, 2002
(eqs. 6 and 8); path decoding over candidates after M. Mauch and S. Dixon, "pYIN", ICASSP 2014.
"""

from dataclasses import dataclass

import numpy as np
from scipy import fft

from notcher.core.arrays import BoolArray, FloatArray, IntArray
from notcher.core.errors import CancelCheck, Cancelled, Progress, never_cancelled, no_progress
from notcher.core.hearing.viterbi import best_path
from notcher.core.sound.threads import threads
from notcher.core.sound.windows import stretch_of

RATE = 22_050
"""Sample rate of all hearing, hertz."""
HOP = 128  # 5.8 ms: ten frames in the shortest vibrato's quarter wave
HOP_S = HOP / RATE
WINDOW = 768  # 35 ms: two periods of the lowest string
LOWEST_HZ, HIGHEST_HZ = 58.0, 1_900.0  # a seventh string, and the highest fret bent up by four semitones
LONGEST_LAG = int(RATE / LOWEST_HZ) + 2  # one period of the lowest, and its neighbour for the parabola
SHORTEST_LAG = RATE / HIGHEST_HZ
USUAL_LAG = 90  # 245 Hz
CANDIDATES = 6  # octaves, fifths and the pitch itself are among the first six dips
BLOCK_FRAMES = 512  # a block stays in the cache: measured a third faster than 2,048
FLOOR_DB = -90.0  # sixteen bits end at -96
APERIODIC_LIMIT = 0.65  # candidates worse than this are noise
UNVOICED_COST = 0.42  # what silence costs a frame; a candidate's cost is its aperiodicity plus a bias
OCTAVE_BIAS = 0.06  # per octave below the highest pitch: of two periods that fit, the shorter is the pitch
JUMP_COST, JUMP_MOST = 0.06, 0.6  # per semitone from frame to frame, and its ceiling: a new note may be anywhere
SWITCH_COST = 0.25  # to start or stop sounding
QUIET_BELOW_PEAK_DB = 52.0  # what is so far below the loudest is the room


@dataclass(frozen=True, slots=True, eq=False)
class PitchTrack:
    """What the recording's lead did: one value a frame.

    times_s: shape (n_frames,), middle of each frame. pitch_hz: NaN where no lead note sounds. voicing: 0..1, how
    periodic the frame is. level_db: loudness, decibels below full scale.
    """

    times_s: FloatArray
    pitch_hz: FloatArray
    voicing: FloatArray
    level_db: FloatArray

    def __post_init__(self) -> None:
        sizes = {array.shape for array in (self.times_s, self.pitch_hz, self.voicing, self.level_db)}
        if len(sizes) != 1 or self.times_s.ndim != 1:
            raise ValueError("a track's arrays must have one length")

    @property
    def midi(self) -> FloatArray:
        """Pitch in semitones, A4 = 69 at 440 Hz; NaN where silent. Shape (n_frames,)."""
        return self.midi_at(slice(None))

    def midi_at(self, span: slice) -> FloatArray:
        """Return the pitch of some frames in semitones, A4 = 69 at 440 Hz; NaN where silent. Shape (n,)."""
        return np.asarray(69.0 + 12.0 * np.log2(self.pitch_hz[span] / 440.0))

    def span(self, start_s: float, end_s: float) -> slice:
        """Return the frames between two times."""
        first, last = np.searchsorted(self.times_s, [start_s, end_s])
        return slice(int(first), int(last))


EMPTY_TRACK = PitchTrack(*(np.zeros(0) for _ in range(4)))


def track_pitch(
    sound: FloatArray, *, progress: Progress = no_progress, cancelled: CancelCheck = never_cancelled
) -> PitchTrack:
    """Follow the one sounding pitch.

    sound: shape (n_samples,), at `RATE`. Raises: ValueError for another shape; Cancelled.
    """
    if sound.ndim != 1:
        raise ValueError("pitch is tracked in one channel")
    frames = max(1, 1 + sound.shape[0] // HOP)
    span = WINDOW + LONGEST_LAG
    # a frame's time is the middle of what it compares, (WINDOW + lag) / 2 after its start; taken at a usual lag
    windows = np.lib.stride_tricks.sliding_window_view
    lags = np.zeros((frames, CANDIDATES), dtype=np.float32)
    costs = np.full((frames, CANDIDATES), np.inf, dtype=np.float32)
    level_db = np.empty(frames, dtype=np.float32)
    for first in range(0, frames, BLOCK_FRAMES):
        if cancelled():
            raise Cancelled
        last = min(first + BLOCK_FRAMES, frames)
        begin = first * HOP - (WINDOW + USUAL_LAG) // 2
        part = stretch_of(sound, begin, begin + (last - first - 1) * HOP + span)
        # energy of any window is a difference of two running sums
        sums = np.concatenate([[0.0], np.cumsum(np.square(part, dtype=np.float64))])
        running = windows(sums, LONGEST_LAG + 1)
        energy = (running[WINDOW::HOP] - running[:-WINDOW:HOP]).astype(np.float32)
        lags[first:last], costs[first:last], level_db[first:last] = _candidates(windows(part, span)[::HOP], energy)
        progress(0.8 * last / frames)
    quiet = level_db < max(-75.0, float(level_db.max()) - QUIET_BELOW_PEAK_DB)
    path = _best_path(lags, costs, quiet)
    voiced = path >= 0
    rows = np.arange(frames)
    chosen = np.where(voiced, path, 0)
    pitch_hz = np.where(voiced, RATE / np.maximum(lags[rows, chosen], 1e-3), np.nan)
    voicing = np.where(voiced, 1.0 - np.clip(costs[rows, chosen], 0, 1), 0.0)
    progress(1.0)
    return PitchTrack(
        rows * HOP_S, pitch_hz.astype(np.float64), voicing.astype(np.float64), level_db.astype(np.float64)
    )


def _candidates(frames: FloatArray, energy: FloatArray) -> tuple[FloatArray, FloatArray, FloatArray]:
    """Return the lags (samples) and aperiodicities of the best dips, and the level, of each frame.

    energy: shape (n_frames, LONGEST_LAG + 1), of the window that begins at each lag.
    """
    difference = _normalised_difference(frames, energy)
    level_db = 10 * np.log10(np.maximum(energy[:, 0] / WINDOW, 10 ** (FLOOR_DB / 10)))
    inner = difference[:, 1:-1]
    dips = (inner < difference[:, :-2]) & (inner <= difference[:, 2:]) & (inner < APERIODIC_LIMIT)
    dips[:, : int(SHORTEST_LAG) - 1] = False
    # at short lags the dip falls between samples: compare interpolated depths, or high notes lose to their suboctave
    bend = difference[:, :-2] - 2 * inner + difference[:, 2:]
    slope = difference[:, :-2] - difference[:, 2:]
    depth = np.maximum(inner - slope**2 / np.maximum(8 * bend, 1e-9), 0.0)
    ranked = np.where(dips, depth + _lag_bias(np.arange(1, inner.shape[1] + 1))[None, :], np.inf)
    best = np.argpartition(ranked, CANDIDATES, axis=1)[:, :CANDIDATES]
    valid = np.isfinite(np.take_along_axis(ranked, best, axis=1))
    costs = np.where(valid, np.take_along_axis(depth, best, axis=1), np.inf)
    return _refined(difference, best + 1), costs, level_db


def _normalised_difference(frames: FloatArray, energy: FloatArray) -> FloatArray:
    """YIN's eq. 8 for lags 0..LONGEST_LAG by FFT."""
    size = fft.next_fast_len(WINDOW + LONGEST_LAG, real=True)  # long enough that nothing wraps round
    whole = fft.rfft(frames, size, axis=1, workers=threads())
    window = fft.rfft(frames[:, :WINDOW], size, axis=1, workers=threads())
    correlation = fft.irfft(whole * window.conj(), size, axis=1, workers=threads())[:, : LONGEST_LAG + 1]
    difference = np.maximum(energy[:, :1] + energy - 2.0 * correlation, 0.0)
    running = np.cumsum(difference[:, 1:], axis=1)
    difference[:, 1:] *= np.arange(1, LONGEST_LAG + 1) / np.maximum(running, 1e-9)
    difference[:, 0] = 1.0
    return np.asarray(difference)


def _lag_bias(lag: FloatArray | IntArray) -> FloatArray:
    return np.asarray(OCTAVE_BIAS * np.log2(np.maximum(lag, SHORTEST_LAG) / SHORTEST_LAG))


def _refined(difference: FloatArray, lag: IntArray) -> FloatArray:
    """Sharpen integer lags: a parabola through the dip, then through the dip at the largest multiple of the period."""
    fine = _parabola(difference, lag)
    multiple = np.clip(np.floor((LONGEST_LAG - 3) / np.maximum(fine, 1)), 1, 6)
    # an error of a third of a sample at one period must not reach the neighbouring dip at the multiple
    for step in (2.0, 4.0, 6.0):
        count = np.minimum(multiple, step)
        far = np.clip(np.rint(fine * count).astype(np.int64), 2, LONGEST_LAG - 2)
        around = np.stack([np.take_along_axis(difference, far + shift, axis=1) for shift in (-1, 0, 1)])
        far = far + np.argmin(around, axis=0) - 1
        far = np.clip(far, 2, LONGEST_LAG - 2)
        better = _parabola(difference, far) / count
        fine = np.where(np.abs(better / np.maximum(fine, 1e-3) - 1) < 0.012, better, fine)
    return fine


def _parabola(difference: FloatArray, lag: IntArray) -> FloatArray:
    before, at, after = (np.take_along_axis(difference, lag + shift, axis=1) for shift in (-1, 0, 1))
    bend = before - 2 * at + after
    shift = np.where(bend > 1e-12, 0.5 * (before - after) / np.where(bend > 1e-12, bend, 1.0), 0.0)
    return np.asarray(lag + np.clip(shift, -1, 1))


def _best_path(lags: FloatArray, costs: FloatArray, quiet: BoolArray) -> IntArray:
    """Return the candidate of each frame on the cheapest path, -1 where silence is cheaper (Viterbi)."""
    count = lags.shape[1]
    semitones = 12 * np.log2(np.maximum(lags, 1e-3))
    local = np.minimum(costs + _lag_bias(lags), 1e3).astype(np.float64)
    # silence pays the bias of the frame's best candidate too, so low notes are not silenced by it
    bias = np.take_along_axis(_lag_bias(lags), local.argmin(axis=1)[:, None], axis=1)[:, 0]
    local = np.column_stack([local, np.where(quiet, 0.0, UNVOICED_COST + bias)])
    local[quiet, :count] += 1.0
    switch = np.full((count + 1, count + 1), SWITCH_COST)
    switch[count, count] = 0.0

    def move(at: IntArray) -> FloatArray:
        cost = np.repeat(switch[None], at.size, axis=0)
        leap = np.abs(semitones[at][:, None, :] - semitones[at - 1][:, :, None])
        cost[:, :count, :count] = np.minimum(JUMP_COST * leap, JUMP_MOST)
        return cost

    path = best_path(local, move)
    return np.where(path == count, -1, path)
