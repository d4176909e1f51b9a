"""Which string a note sounds like: a stiff string's partials are stretched, and each string is stretched differently.

Partial k lies at k f sqrt(1 + B k^2) (H. Fletcher, "Normal vibration frequencies of a stiff piano string", JASA 36,
1964); B grows with the square of the fret's ratio, since it goes with one over the length squared. Telling strings by B
is the method of I. Barbancho, L. Tardón, S. Sammartino and A. Barbancho, "Inharmonicity-based method for the automatic
generation of guitar tablature", IEEE TASLP 20, 2012.
"""

from collections.abc import Sequence

import numpy as np
from scipy import fft

from notcher.core.arrays import FloatArray
from notcher.core.hearing.pitch import RATE
from notcher.core.score import Tuning

TYPICAL = (1.3e-5, 4.0e-5, 1.1e-4, 5e-5, 8e-5, 1.2e-4)
"""B of the open strings, highest first: Fletcher's formula for plain steel of 10, 13 and 17 thousandths of an inch on
648 millimetres; the wound ones by their cores (a usual light set; common practice, no source)."""
SIZE = 8_192  # 0.37 s: neighbours of partial 14 lie two bins apart
AFTER_ATTACK_S, LEAST_S, MOST_S = 0.03, 0.12, 0.35
"""Past the pick's noise; enough for the bins; before it has died away."""
FIRST_PARTIAL, LAST_PARTIAL, HIGHEST_HZ = 2, 14, 6_000.0  # the first is too low to be shifted, what is above is noise
LEAST_PARTIALS, MOST_STIFFNESS = 5, 2e-3  # three unknowns and two to check; ten times a wound string's
NEAR = 0.35  # of the distance to the next partial
OCTAVES_A_FRET = 1 / 6  # stiffness goes with the length squared: 2 octaves in 12 frets
PAIR_FRETS, LEAST_PAIRS = 4, 8  # nearer frets do not tell strings apart; fewer pairs are chance
NEAR_GROWTH, MOST_SCATTER = 0.05, 0.06  # octaves a fret
COST_AN_OCTAVE, MOST_OCTAVES = 0.3, 2.5  # the spread between sets of strings; beyond, all are as unlikely
LEAST_ON_STRING, OTHER_GAUGE = 4, 1.0  # notes; octaves of B that heavier or lighter strings make


def measured_stiffness(sound: FloatArray, onset_s: float, offset_s: float, pitch_hz: float) -> float:
    """Return B of one steady note; NaN when it is too short or too few partials stand out.

    sound: shape (n_samples,), at the hearing rate.
    """
    start_s = onset_s + AFTER_ATTACK_S
    part = sound[round(start_s * RATE) : round(min(offset_s, start_s + MOST_S) * RATE)]
    if part.size < LEAST_S * RATE or not np.isfinite(pitch_hz):
        return float("nan")
    level = np.log(np.abs(fft.rfft(part * np.hanning(part.size), SIZE)) + 1e-9)
    floor = float(np.median(level))
    squares: list[float] = []
    ratios: list[float] = []
    stiffness = 0.0
    for partial in range(FIRST_PARTIAL, LAST_PARTIAL + 1):
        hertz = partial * pitch_hz * np.sqrt(1 + stiffness * partial**2)
        if hertz > HIGHEST_HZ:
            break
        reach = max(2, round(NEAR * pitch_hz * SIZE / RATE / 2))
        middle = round(hertz * SIZE / RATE)
        peak = middle - reach + int(np.argmax(level[middle - reach : middle + reach + 1]))
        before, at, after = level[peak - 1 : peak + 2]
        bend = before - 2 * at + after
        if at < floor + 3 or bend >= 0:
            continue
        partial_hz = (peak + 0.5 * (before - after) / bend) * RATE / SIZE
        squares.append(float(partial**2))
        ratios.append((partial_hz / (partial * pitch_hz)) ** 2 - 1)
        if len(squares) >= 3:  # the next partial is looked for where those before point
            stiffness = float(np.clip(_slope(squares, ratios), 0, MOST_STIFFNESS))
    if len(squares) < LEAST_PARTIALS:
        return float("nan")
    result = _slope(squares, ratios)
    return result if 0 < result < MOST_STIFFNESS else float("nan")


def _slope(squares: Sequence[float], ratios: Sequence[float]) -> float:
    """B from (f_k / k f)^2 - 1 = c + B k^2; c allows for an error of the pitch itself. The median of all pairs' slopes.

    Source: H. Theil, "A rank-invariant method of linear and polynomial regression analysis", 1950.
    """
    x, y = np.array(squares), np.array(ratios)
    first, second = np.triu_indices(x.size, 1)
    return float(np.median((y[second] - y[first]) / (x[second] - x[first])))


def string_costs(
    stiffness: FloatArray, midi: FloatArray, strings: Sequence[int], tuning: Tuning
) -> list[tuple[float, ...] | None]:
    """Return what each string costs each note, by how unlike its sound is; None where nothing can be told.

    stiffness, midi: shape (n,), of notes in time order; NaN where not measured. strings: where the hand alone would put
    them. See `believable` for when nothing is told at all.
    """
    if not believable(stiffness, midi, strings, tuning):
        return [None] * midi.size
    measured = np.log2(stiffness)
    frets = midi[:, None] - np.array(tuning.open_midi)[None, :]
    expected = _open_strings(measured, frets, strings)[None, :] + OCTAVES_A_FRET * frets
    off = np.minimum(np.abs(measured[:, None] - expected), MOST_OCTAVES)
    return [
        tuple(float(c) for c in COST_AN_OCTAVE * (row - row.min())) if np.isfinite(row).all() else None for row in off
    ]


def believable(stiffness: FloatArray, midi: FloatArray, strings: Sequence[int], tuning: Tuning) -> bool:
    """Whether stiffness grows from fret to fret as on real strings: a sixth of an octave each, with little scatter.

    stiffness, midi: shape (n_notes,), the inharmonicity coefficient B, and semitones. A sampler's does not, since it
    plays one recorded string at another speed; a driven amplifier hides it.
    """
    if tuning.strings != len(TYPICAL):
        return False
    measured = np.log2(stiffness)
    growth, last = [], dict[int, int]()
    for index in np.flatnonzero(np.isfinite(measured)):
        string = strings[int(index)]
        before, last[string] = last.get(string), int(index)
        if before is not None and 1 <= abs(frets := midi[index] - midi[before]) <= PAIR_FRETS:
            growth.append((measured[index] - measured[before]) / frets)
    if len(growth) < LEAST_PAIRS:
        return False
    middle = float(np.median(growth))
    scatter = float(np.median(np.abs(np.array(growth) - middle)))
    return abs(middle - OCTAVES_A_FRET) < NEAR_GROWTH and scatter < MOST_SCATTER


def _open_strings(measured: FloatArray, frets: FloatArray, strings: Sequence[int]) -> FloatArray:
    """Log B of each open string: what the recording's own notes say, at most an octave from the usual."""
    usual = np.log2(np.array(TYPICAL))
    stiffness = usual.copy()
    for string in range(1, usual.size + 1):
        on = (np.array(strings) == string) & np.isfinite(measured)
        if on.sum() >= LEAST_ON_STRING:
            stiffness[string - 1] = float(np.median(measured[on] - OCTAVES_A_FRET * frets[on, string - 1]))
    return np.asarray(np.clip(stiffness, usual - OTHER_GAUGE, usual + OTHER_GAUGE))
