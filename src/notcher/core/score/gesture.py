"""The one reading of a curve's name: bend, pre-bend, release, curl, dip, dive, vibrato.

Thresholds are common practice (no source): a quarter bend is 50 cents; up to about a third of a semitone reads as a
careless finger; a curl is 20-70 cents in the last part of a note.
"""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from notcher.core.arrays import FloatArray
from notcher.core.score.pitch_curve import FLAT, PitchCurve, Vibrato

BEND_SIZES = (0.5, 1.0, 2.0, 3.0, 4.0, 5.0, 6.0)
"""Bends that are written, semitones: a quarter step, a half, then halves up to three steps."""
BETWEEN_SIZES, BETWEEN_WIDTH = (1.5, 2.5, 3.5), 0.15
"""¾, 1¼ and 1¾ of a step, semitones, and how near a bend lies that is called by any size.

Common practice (no source): listeners accept a bend that lands within 10 to 15 cents.
"""

CARELESS_SEMITONES = 0.35  # a finger that grips hard pulls so far
CURL_SEMITONES = (0.2, 0.7)  # around the quarter tone
CURL_STARTS_AFTER = 0.45  # share of the note's life
EQUAL_SEMITONES = 0.005  # less is not told in whole cents
HOLD_S = 0.04  # shorter than this, a peak is passed through and not held
STEP_S = 0.005  # finer than a frame of measured pitch


@dataclass(frozen=True, slots=True)
class GestureName:
    """What a curve is called, and its largest deviation held, in semitones (0 when it does not bend)."""

    names: tuple[str, ...]
    bend_semitones: float


def snapped_bend(semitones: float, *, between: bool = True) -> float:
    """Return the written size nearest to a measured one, in semitones, sign kept.

    between: also the sizes between the usual ones, for what was meant so; not for a bend that missed another.
    """
    size = abs(semitones)
    near = (known for known in BETWEEN_SIZES if between and abs(known - size) <= BETWEEN_WIDTH)
    nearest = next(near, None) or min(BEND_SIZES, key=lambda known: abs(known - size))
    return float(np.copysign(nearest, semitones))


def between_sizes(semitones: float) -> bool:
    """Return whether an upward bend is no written size: it is written as measured then, and doubtful."""
    off = min(abs(known - semitones) for known in (*BEND_SIZES, *BETWEEN_SIZES))
    return semitones > CARELESS_SEMITONES and off > BETWEEN_WIDTH + EQUAL_SEMITONES


@lru_cache(maxsize=20_000)  # values never change, and a drawing asks for each at every frame
def read_curve(curve: PitchCurve, vibrato: Vibrato | None, duration_s: float) -> GestureName:
    """Name what the pitch does between a note's onset and its end.

    curve, vibrato: the claim or a simplified measurement. duration_s: the note's length, seconds.
    Returns names out of: bend, prebend, release, curl, dip, dive, vibrato.
    """
    wave = ("vibrato",) if vibrato is not None and vibrato.from_s < duration_s else ()
    if not curve.points or duration_s <= 0:
        return GestureName(wave, 0.0)
    times_s = np.arange(0.0, duration_s + STEP_S / 2, STEP_S)
    semitones = curve.at(times_s)
    names = _upward_names(semitones) + _downward_names(semitones)
    up, down = _held(semitones)
    size = up if up >= -down else down
    if abs(size) < CURL_SEMITONES[0] or not names:
        size = 0.0
    return GestureName(names + wave, size)


def _upward_names(semitones: FloatArray) -> tuple[str, ...]:
    top = int(np.argmax(semitones))
    start, peak = float(semitones[0]), float(semitones[top])
    low_before = float(semitones[: top + 1].min())
    foot = int(np.flatnonzero(semitones[: top + 1] <= low_before + 0.05)[-1])
    rise, fall = peak - max(low_before, min(start, 0.0)), peak - max(float(semitones[top:].min()), 0.0)
    names: list[str] = []
    late = foot >= CURL_STARTS_AFTER * semitones.size
    if start >= CARELESS_SEMITONES and start >= peak - CARELESS_SEMITONES:
        names.append("prebend")
    elif CURL_SEMITONES[0] <= rise <= CURL_SEMITONES[1] and late and peak > 0.15:
        names.append("curl")
    elif rise >= CARELESS_SEMITONES and peak >= CARELESS_SEMITONES:
        names.append("bend")
    if names and names != ["curl"] and fall >= CARELESS_SEMITONES:
        names.append("release")
    # let down and pushed again: the second push is a bend of its own
    if names[:1] == ["prebend"] and "release" in names and _rises_again(semitones, top):
        names.append("bend")
    return tuple(names)


def _rises_again(semitones: FloatArray, top: int) -> bool:
    low = top + int(np.argmin(semitones[top:]))
    return float(semitones[low:].max() - semitones[low]) >= CARELESS_SEMITONES


def _downward_names(semitones: FloatArray) -> tuple[str, ...]:
    low = int(np.argmin(semitones))
    if semitones[low] > -CARELESS_SEMITONES:
        return ()
    comes_back = float(semitones[low:].max() - semitones[low]) >= CARELESS_SEMITONES
    return ("dip",) if comes_back else ("dive",)


def held_semitones(curve: PitchCurve, duration_s: float) -> tuple[float, float]:
    """Return the highest and the lowest deviation that a curve holds for `HOLD_S`, semitones, whatever it is called."""
    return _held(curve.at(np.arange(0.0, duration_s + STEP_S / 2, STEP_S)))


def _held(semitones: FloatArray) -> tuple[float, float]:
    span = max(1, min(round(HOLD_S / STEP_S), semitones.size))
    windows = np.lib.stride_tricks.sliding_window_view(semitones, span)
    return float(windows.min(axis=1).max()), float(windows.max(axis=1).min())


def bent_curve(
    size_semitones: float, duration_s: float, *, rise_s: float = 0.15, prebent: bool = False, released: bool = False
) -> PitchCurve:
    """Return the plain curve of a named gesture: up over `rise_s`, held, let down in the last third when released.

    size_semitones: 0 gives a flat curve. Raises: ValueError for a note without length.
    """
    if duration_s <= 0:
        raise ValueError("a note needs a length before it can be bent")
    if size_semitones == 0:
        return FLAT
    rise_s = min(rise_s, duration_s / 3)
    points = [(0.0, size_semitones)] if prebent else [(0.0, 0.0), (rise_s, size_semitones)]
    if released:
        points += [(duration_s * 0.55, size_semitones), (min(duration_s * 0.55 + rise_s, duration_s * 0.95), 0.0)]
    return PitchCurve(tuple(points))
