"""How late a take arrives: by clicks that come back through the input, or by claps along with them."""

import numpy as np
from scipy.signal import fftconvolve, find_peaks

from notcher.core.arrays import FloatArray
from notcher.core.errors import NotcherError
from notcher.core.sound import Clip
from notcher.core.synthesis.backing import click

LONGEST_S, EARLIEST_S = 1.8, -0.3
"""What a delay can be: sound servers and wireless links add up to more than a second (measured: 0.78); where a device
says too late what it plays, it comes before its time."""
CLICKS, APART_S, FIRST_S = 8, 0.8, 1.0  # even, for hands that clap along
GAPS_S = (0.62, 0.95, 0.71, 1.04, 0.83, 0.57, 0.9)  # uneven, so that no click is taken for its neighbour
SAME_S = 0.004  # delays within it are one
LOOP_SPREAD_MS, CLAP_SPREAD_MS = 3.0, 60.0  # a cable is even, hands are not
CLAP_LATEST_S = 0.35  # later ones are the next click's
LEAST_HEARD = 5  # a median of fewer is chance
LIKENESS = 0.35  # of a click through a loudspeaker with itself
FULL = 0.999  # of full scale: more does not fit
RISE, QUIET = 6.0, 1e-3  # times louder than before it; full scale is 1


class LatencyError(NotcherError):
    """The delay could not be measured."""


def calibration_clicks(sample_rate: int, *, even: bool = False) -> tuple[Clip, FloatArray]:
    """Return what to play for calibrating, two channels, and when its clicks sound, seconds.

    even: as hands need them that clap along.
    """
    apart_s = np.full(CLICKS - 1, APART_S) if even else np.array(GAPS_S)
    times_s = FIRST_S + np.concatenate([[0.0], np.cumsum(apart_s)])
    sound = np.zeros((round((float(times_s[-1]) + LONGEST_S) * sample_rate), 2), dtype=np.float32)
    for time_s in times_s:
        tick, at = click(sample_rate, high=True), round(float(time_s) * sample_rate)
        sound[at : at + tick.shape[0]] += 2 * tick
    return Clip(sound, sample_rate, "calibration"), times_s


def loop_back_delay_s(recorded: Clip, clicks_s: FloatArray) -> float:
    """Return how much later than they were played the clicks arrive at the input, seconds.

    recorded: begins when playing began. A click is found by its likeness to itself (a matched filter: G. Turin, "An
    introduction to matched filters", IRE Trans. IT 6, 1960), or, where a loudspeaker or an input has changed it too
    much, by its beginning; the delay is the one that most clicks agree on. Raises: LatencyError, which says what was
    heard, when too few do.
    """
    rate = recorded.sample_rate
    sound = recorded.mixed().astype(np.float64)
    peak = float(np.abs(sound).max()) if sound.size else 0.0
    if peak < QUIET:
        raise LatencyError(
            f"Nothing came back through the input: its loudest moment is {_dbfs(peak)}.",
            "Choose the input that the cable leads to, and turn it up.",
        )
    claps_s = clap_times_s(recorded)
    found = [_agreed(*_alike(sound, rate), clicks_s), _agreed(claps_s, np.ones_like(claps_s), clicks_s)]
    delays = max(found, key=len) if len(found[0]) < LEAST_HEARD else found[0]
    clipped = " The input is overdriven: turn it down." if peak >= FULL else ""
    return _steady(
        delays,
        LOOP_SPREAD_MS,
        f"Sound came in, at most {_dbfs(peak)}, but only {len(delays)} of {len(clicks_s)} clicks are heard in it."
        + clipped,
        "Lead the output into the input with a cable, or hold the microphone to the loudspeaker.",
    )


def _alike(sound: FloatArray, rate: int) -> tuple[FloatArray, FloatArray]:
    """When something like a click sounds, seconds, rising; and how strong it is."""
    tick = click(rate, high=True)[:, 0].astype(np.float64)
    tick /= np.linalg.norm(tick)
    if sound.size <= tick.size:
        return np.zeros(0), np.zeros(0)
    alike = np.abs(fftconvolve(sound, tick[::-1], "valid"))
    power = np.sqrt(np.maximum(fftconvolve(sound**2, np.ones(tick.size), "valid"), 1e-12))
    likeness = np.where(power > QUIET, alike / power, 0.0)
    peaks, _ = find_peaks(likeness * alike, distance=round(SAME_S * rate))
    peaks = peaks[likeness[peaks] > LIKENESS]
    return np.asarray(peaks / rate), alike[peaks]


def _agreed(times_s: FloatArray, strength: FloatArray, clicks_s: FloatArray) -> list[float]:
    """The delays by which the most clicks are met, one of each click; of several such by the strongest."""
    late_s = times_s[None, :] - clicks_s[:, None]
    possible = np.sort(late_s[(late_s >= EARLIEST_S) & (late_s <= LONGEST_S)])
    best: list[float] = []
    most = (0, 0.0)
    for delay_s in possible.tolist():
        off_s = np.abs(late_s - delay_s)
        nearest = np.argmin(off_s, axis=1) if off_s.size else np.zeros(0, dtype=int)
        near = [(row, at) for row, at in enumerate(nearest.tolist()) if off_s[row, at] <= 0.5 * SAME_S]
        worth = (len(near), float(sum(strength[at] for _, at in near)))
        if worth > most:
            most, best = worth, [float(late_s[row, at]) for row, at in near]
    return best


def _dbfs(peak: float) -> str:
    return f"{20 * np.log10(peak):.0f} dBFS" if peak > 0 else "silence"


def clap_delay_s(recorded: Clip, clicks_s: FloatArray) -> float:
    """Return how much later than the clicks the claps arrive, seconds: the machine's delay and the hands' together.

    recorded: begins when playing began. Hands tend to be some 20 to 50 ms ahead of a click (B. Repp, "Sensorimotor
    synchronization", Psychonomic Bulletin & Review 12, 2005), so a cable measures better.
    Raises: LatencyError when fewer than five claps are heard, or they scatter.
    """
    claps_s = clap_times_s(recorded)
    delays = []
    for time_s in clicks_s:
        late_s = claps_s - float(time_s)
        near = late_s[(late_s > -APART_S / 2) & (late_s <= CLAP_LATEST_S)]
        if near.size:
            delays.append(float(near[np.argmin(np.abs(near))]))
    return _steady(
        delays, CLAP_SPREAD_MS, "Too few claps were heard.", "Clap once with each click, close to the input."
    )


def clap_times_s(recorded: Clip) -> FloatArray:
    """Return when claps, or single hard strokes on damped strings, begin; seconds, rising."""
    rate = recorded.sample_rate
    hop = max(1, rate // 500)
    sound = recorded.mixed()
    frames = sound[: sound.size // hop * hop].reshape(-1, hop)
    level = np.sqrt(np.mean(frames.astype(np.float64) ** 2, axis=1))
    if level.size < 30 or float(level.max()) < QUIET:
        return np.zeros(0)
    windows = np.lib.stride_tricks.sliding_window_view(np.pad(level, (25, 0), mode="edge"), 25)
    before = np.maximum(np.median(windows[: level.size], axis=1), 0.01 * float(level.max()))
    loud = (level > RISE * before) & (level > 0.15 * float(level.max()))
    starts = np.flatnonzero(loud & ~np.concatenate([[False], loud[:-1]]))
    claps: list[int] = []
    for start in starts.tolist():
        if not claps or (start - claps[-1]) * hop > 0.15 * rate:
            claps.append(start)
    return np.array(claps) * hop / rate


def _steady(delays: list[float], most_ms: float, problem: str, remedy: str) -> float:
    if len(delays) < LEAST_HEARD:
        raise LatencyError(problem, remedy)
    middle = float(np.median(delays))
    spread_ms = 1000 * float(np.median(np.abs(np.array(delays) - middle)))
    if spread_ms > most_ms:
        raise LatencyError(
            f"The delay is not steady: it scatters by {spread_ms:.0f} ms.", "Close other programs, and measure again."
        )
    return middle
