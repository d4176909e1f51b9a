"""How late a take arrives: by clicks that come back through the input, or by claps along with them."""

import numpy as np

from notcher.core.arrays import FloatArray
from notcher.core.errors import NotcherError
from notcher.core.sound import Clip
from notcher.core.synthesis.backing import click

LONGEST_S = 0.6  # no device is slower
CLICKS, APART_S, FIRST_S = 8, 0.8, 1.0  # further apart than the longest delay: a click is never its neighbour
LOOP_SPREAD_MS, CLAP_SPREAD_MS = 3.0, 60.0  # a cable is even, hands are not
LEAST_HEARD = 5  # a median of fewer is chance
LIKENESS = 0.35  # of a click through a loudspeaker with itself
RISE, QUIET = 6.0, 1e-3  # times louder than before it; full scale is 1


class LatencyError(NotcherError):
    """The delay could not be measured."""


def calibration_clicks(sample_rate: int) -> tuple[Clip, FloatArray]:
    """Return what to play for calibrating, two channels, and when its clicks sound, seconds."""
    times_s = FIRST_S + APART_S * np.arange(CLICKS)
    sound = np.zeros((round((float(times_s[-1]) + 1.0) * sample_rate), 2), dtype=np.float32)
    for time_s in times_s:
        tick, at = click(sample_rate, high=True), round(float(time_s) * sample_rate)
        sound[at : at + tick.shape[0]] += 2 * tick
    return Clip(sound, sample_rate, "calibration"), times_s


def loop_back_delay_s(recorded: Clip, clicks_s: FloatArray) -> float:
    """Return how much later than they were played the clicks arrive at the input, seconds.

    recorded: begins when playing began. The click is found by its likeness to itself (a matched filter: G. Turin, "An
    introduction to matched filters", IRE Trans. IT 6, 1960). Raises: LatencyError when it is not there, or not steady.
    """
    rate = recorded.sample_rate
    sound = recorded.mixed().astype(np.float64)
    tick = click(rate, high=True)[:, 0].astype(np.float64)
    tick /= np.linalg.norm(tick)
    delays = []
    for time_s in clicks_s:
        first = round(float(time_s) * rate)
        part = sound[first : first + round(LONGEST_S * rate) + tick.size]
        if part.size <= tick.size:
            continue
        alike = np.correlate(part, tick, "valid")
        power = np.sqrt(np.maximum(np.convolve(part**2, np.ones(tick.size), "valid"), 1e-12))
        best = int(np.argmax(np.abs(alike)))
        if power[best] > QUIET and abs(alike[best]) / power[best] > LIKENESS:
            delays.append(best / rate)
    remedy = "Lead the output into the input with a cable, or hold the microphone to the loudspeaker."
    return _steady(delays, LOOP_SPREAD_MS, "The clicks did not come back through the input.", remedy)


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
        near = late_s[(late_s > -APART_S / 2) & (late_s <= LONGEST_S - APART_S / 2 + 0.15)]
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
