"""Tempo and beats from the attacks.

Source: D. Ellis, "Beat tracking by dynamic programming", Journal of New Music Research 36, 2007: onset envelope,
autocorrelation weighted towards usual tempos, then the best chain of beats (eqs. 3, 5, 8).
"""

from collections.abc import Sequence

import numpy as np
from scipy import fft, ndimage

from notcher.core.arrays import FloatArray, IntArray
from notcher.core.hearing.harmony import chord_changes
from notcher.core.hearing.pitch import HOP_S
from notcher.core.hearing.pulse import pulses
from notcher.core.score import FOUR_FOUR, NO_BEAT_MAP, BeatMap, Meter, MeterChange

USUAL_BPM, SPREAD_OCTAVES = 105.0, 0.8  # log-normal prior of tempo, as listeners prefer it (D. Moelants, ICMPC 2002)
BPM_RANGE = (45.0, 200.0)  # what is counted slower is divided, faster is counted in twos
TIGHTNESS = 100.0  # Ellis, section 3
STRIDE = 2  # 12 ms are fine enough for a beat
STEP_S = STRIDE * HOP_S
STEADY_S = 0.045  # beats that stay this close to an even grid are called even
LEAST_S = 4.0  # two bars of a quick tempo
LEAST_METER_BEATS, WALTZ = 12, 0.2  # three bars of four; by how much every third must be alike beyond two and four
BARS, CHORDS_STAND_OUT = (3, 4), 2.5  # beats; standard errors by which a bar's first beat changes more than the others
LEAST_ONSETS = 8  # fewer fit any grid
NEAR = 3  # steps: 35 ms on each side of a beat


def find_beats(flux: FloatArray, onsets_s: FloatArray | None = None, harmony: FloatArray | None = None) -> BeatMap:
    """Propose where the beats are.

    flux: shape (n_frames,), onset evidence at the hearing hop. onsets_s: shape (n,), of the notes heard, which tell
    the beat from its half and its double; None where nobody has listened. harmony: of a band, see `chroma`; its chords
    change with the bars. Returns: no beat map when there is too little to go by.
    """
    if flux.size * HOP_S < LEAST_S or flux.max(initial=0.0) <= 0:
        return NO_BEAT_MAP
    envelope = ndimage.gaussian_filter1d(np.maximum(flux - ndimage.uniform_filter1d(flux, 175), 0), 2.0)[::STRIDE]
    if envelope.std() <= 0:
        return NO_BEAT_MAP
    envelope = envelope / envelope.std()
    period = _period(envelope)
    beats = _beats(envelope, period)
    if beats.size < 4:
        return NO_BEAT_MAP
    times_s, compound = beats * STEP_S, False
    if onsets_s is not None and onsets_s.size >= LEAST_ONSETS:
        times_s, compound = _as_felt(times_s, onsets_s)
    near = np.clip(np.rint(times_s / STEP_S).astype(np.int64), 0, envelope.size - 1)
    strength = ndimage.maximum_filter1d(envelope, 2 * NEAR + 1)[near]
    changes = None if harmony is None else chord_changes(harmony, times_s)
    return _as_beat_map(times_s, strength, changes, compound=compound)


def _as_felt(times_s: FloatArray, onsets_s: FloatArray) -> tuple[FloatArray, bool]:
    """Return the beats that a chain of beats stands for, and whether they are divided in three."""
    numbers = np.arange(times_s.size, dtype=np.float64)
    slope = float(np.polyfit(numbers, times_s, 1)[0])
    far = np.array([-1e3, 1e3])  # before and after the chain at its mean pace
    along_s = np.concatenate([times_s[:1] + far[:1] * slope, times_s, times_s[-1:] + far[1:] * slope])
    along = np.concatenate([[far[0]], numbers, [numbers[-1] + far[1]]])
    best = pulses(np.interp(onsets_s, along_s, along), slope)[0]
    count = np.arange(np.ceil(-best.phase / best.ratio), np.floor((numbers[-1] - best.phase) / best.ratio) + 1)
    return np.interp(count * best.ratio + best.phase, along, along_s), best.compound


def beat_map_from_taps(times_s: Sequence[float], meter: Meter = FOUR_FOUR) -> BeatMap:
    """Return the even beat map that fits an instructor's taps best, one a felt beat, the first on a bar's first.

    times_s: rising, seconds. Raises: ValueError for fewer than two taps or a tempo no one plays.
    """
    if len(times_s) < 2:
        raise ValueError("a beat needs two taps")
    slope, start = np.polyfit(np.arange(len(times_s)), np.asarray(times_s), 1)
    return BeatMap.steady(60.0 / float(slope), float(start), meter)


def _period(envelope: FloatArray) -> float:
    """Frames from beat to beat: the strongest lag of the autocorrelation under a log-normal prior (Ellis, eq. 8)."""
    length = fft.next_fast_len(2 * envelope.size, real=True)
    correlation = fft.irfft(np.abs(fft.rfft(envelope, length)) ** 2, length)[: envelope.size]
    lags = np.arange(1, min(correlation.size, round(60 / BPM_RANGE[0] / STEP_S) * 2 + 2))
    bpm = 60.0 / (lags * STEP_S)
    prior = np.exp(-0.5 * (np.log2(bpm / USUAL_BPM) / SPREAD_OCTAVES) ** 2)
    allowed = (bpm >= BPM_RANGE[0]) & (bpm <= BPM_RANGE[1])
    # a beat is backed by what happens two beats on as well
    double = np.interp(2 * lags, np.arange(correlation.size), correlation)
    strength = np.where(allowed, prior * (correlation[lags] + 0.5 * double), -np.inf)
    return float(lags[int(np.argmax(strength))])


def _beats(envelope: FloatArray, period: float) -> IntArray:
    """Return the frames of the best chain of beats (Ellis, eqs. 3 and 5)."""
    total = envelope.copy()
    before = np.full(envelope.size, -1, dtype=np.int64)
    reach = np.arange(-round(2 * period), -round(period / 2))
    penalty = -TIGHTNESS * np.log(-reach / period) ** 2
    for frame in range(-int(reach[0]), envelope.size):
        options = total[frame + reach] + penalty
        best = int(np.argmax(options))
        if options[best] > 0:
            total[frame] += options[best]
            before[frame] = frame + reach[best]
    frame = int(np.argmax(total[-round(2 * period) :])) + total.size - round(2 * period)
    chain = []
    while frame >= 0:
        chain.append(frame)
        frame = int(before[frame])
    return np.array(chain[::-1])


def _as_beat_map(
    times_s: FloatArray, strength: FloatArray, changes: FloatArray | None = None, *, compound: bool = False
) -> BeatMap:
    """An even beat map where one fits, else one anchor a beat; bars start where chords change, or on strong beats."""
    numbers = np.arange(times_s.size, dtype=np.float64)
    slope, start = np.polyfit(numbers, times_s, 1, w=np.sqrt(np.maximum(strength, 0.05)))
    even = float(np.median(np.abs(times_s - (start + slope * numbers)))) < STEADY_S
    by_chords = None if changes is None else _bar_of_chords(changes)
    bar, downbeat = by_chords if by_chords is not None else _bar_of_accents(strength)
    meter = Meter(3 * bar, 8) if compound else Meter(bar, 4)
    if even:
        first = start + slope * downbeat
        first -= bar * slope * np.floor(first / (bar * slope))
        return BeatMap.steady(60.0 / float(slope), float(first), meter)
    quarters = (numbers - downbeat) * meter.beat_quarters
    anchors = tuple((float(t), float(q)) for q, t in zip(quarters, times_s, strict=True))
    return BeatMap(anchors, (MeterChange(1, meter),))


def _bar_of_chords(changes: FloatArray) -> tuple[int, int] | None:
    """Return the beats to a bar and its first one, if chords change mostly at every third or at every fourth beat.

    changes: see `chord_changes`. Source: M. Goto, Journal of New Music Research 30, 2001 (see `harmony`).
    """
    spread = float(changes.std())
    if changes.size < LEAST_METER_BEATS or spread <= 0:
        return None
    bar_counts = []
    for bar in BARS:
        means = np.array([changes[phase::bar].mean() for phase in range(bar)])
        first = int(np.argmax(means))
        stands_out = float(means[first] - np.delete(means, first).mean()) / spread
        bar_counts.append((stands_out * np.sqrt(changes.size / bar), bar, first))
    surest, bar, first = max(bar_counts)
    return (bar, first) if surest > CHORDS_STAND_OUT else None


def _bar_of_accents(strength: FloatArray) -> tuple[int, int]:
    bar = _beats_per_bar(strength)
    return bar, int(np.argmax([strength[phase::bar].mean() for phase in range(min(bar, strength.size))]))


def _beats_per_bar(strength: FloatArray) -> int:
    """Three where every third beat is alike and every second or fourth is not, else four.

    Source: J. Brown, "Determination of the meter of musical scores by autocorrelation", JASA 94, 1993.
    """
    accent = strength - strength.mean()
    energy = float(np.mean(accent**2))
    if strength.size < LEAST_METER_BEATS or energy <= 0:
        return 4
    alike = {lag: float(np.mean(accent[lag:] * accent[:-lag])) / energy for lag in (2, 3, 4)}
    return 3 if alike[3] > WALTZ and alike[3] > max(alike[2], alike[4]) + WALTZ else 4
