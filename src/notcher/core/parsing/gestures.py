"""A curve as words: "bend 1½ over 200 ms, hold, release" to a curve, as typed by an instructor.

Each comma starts a step. Sizes are in steps (¼ ½ 1 1½ 2, or 1/2, 1.5, "1 1/2"), times in ms or s. A size without a word
is a bend.
"""

import re
from dataclasses import dataclass

from notcher.core.errors import NotcherError
from notcher.core.score import FLAT, PitchCurve, Side, Vibrato
from notcher.core.words.bends import IN_STEPS, SEMITONES_PER_STEP

RISE_S = 0.15  # an unhurried bend (common practice, no source)
HOLD_SHARE = 0.35  # a third is held before it comes down (common practice, no source)
LEAST_PREBEND, HELD_SEMITONES = 0.2, 0.05  # semitones: less is a careless finger; less is still
SIGNS = {"¼": " 1/4", "½": " 1/2", "¾": " 3/4"}
_NUMBER = r"(?P<whole>\d+(?:\.\d+)?)?\s*(?P<part>\d+/\d+)?"
_TIME = re.compile(r"(?:over|for|after|in)\s+(\d+(?:\.\d+)?)\s*(ms|s)\b")
BELOW = "below"
WORDS = "bend, pre-bend, start … below, hold, release, curl, dip, dive, return, vibrato, flat"


class GestureError(NotcherError):
    """Words that no curve can be read from."""


@dataclass(frozen=True, slots=True)
class Gesture:
    """A curve and the vibrato on it, if any."""

    curve: PitchCurve
    vibrato: Vibrato | None = None


def gesture_from_text(text: str, *, duration_s: float) -> Gesture:
    """Read a curve from words.

    duration_s: the note's length; steps without a time share what is left. Raises: GestureError.
    """
    steps = [step.strip().lower() for step in text.split(",") if step.strip()]
    if not steps:
        raise GestureError("Nothing was typed.", 'Type for instance "bend 1½ over 200 ms, hold, release".')
    points: list[tuple[float, float]] = []
    vibrato = None
    for step in steps:
        now_s, level = points[-1] if points else (0.0, 0.0)
        if step in ("no bend", "flat"):
            points = []
            continue
        word, rest = _word(step)
        span_s = _seconds(step)
        if word == "vibrato":
            vibrato = _vibrato(rest, now_s)
        elif word == "start":
            points = [(0.0, -_size(rest, step))]
        elif word == "prebend":
            points = [(0.0, _size(rest, step))]
        elif word == "hold":
            points = _begun(points)
            points.append((now_s + (HOLD_SHARE * duration_s if span_s is None else span_s), level))
        else:
            points = _moved(_begun(points), word, rest, span_s, duration_s, step)
    curve = PitchCurve(tuple((round(time_s, 4), bend) for time_s, bend in points)) if points else FLAT
    if points and points[-1][0] > duration_s + 1e-6:
        raise GestureError(
            f"These steps take {points[-1][0] * 1000:.0f} ms, but the note lasts only {duration_s * 1000:.0f} ms.",
            "Shorten them, or lengthen the note first.",
        )
    return Gesture(curve, vibrato)


def _begun(points: list[tuple[float, float]]) -> list[tuple[float, float]]:
    return points or [(0.0, 0.0)]


def _moved(
    points: list[tuple[float, float]], word: str, rest: str, span_s: float | None, duration_s: float, step: str
) -> list[tuple[float, float]]:
    """Add what a step that moves the pitch does."""
    now_s, _ = points[-1]
    span_s = min(RISE_S, duration_s / 3) if span_s is None else span_s
    if word == "bend":
        return [*points, (now_s + span_s, _size(rest, step))]
    if word in ("release", "return"):
        size = _size(rest, step) if _has_size(rest) else 0.0
        return [*points, (now_s + span_s, -size if BELOW in rest else size)]
    if word == "curl":
        start_s = max(now_s, duration_s - 2 * span_s)
        before = [(start_s, 0.0)] if start_s > now_s else []
        return [*points, *before, (start_s + span_s, _size(rest, step) if _has_size(rest) else 0.5)]
    if word == "dip":
        size = _size(rest, step) if _has_size(rest) else 1.0
        start_s = max(now_s, 0.3 * duration_s)
        before = [(start_s, 0.0)] if start_s > now_s else []
        return [*points, *before, (start_s + span_s, -size), (start_s + 2 * span_s, 0.0)]
    size = _size(rest, step) if _has_size(rest) else 6.0  # dive
    return [*points, (now_s + span_s, -size)]


def _word(step: str) -> tuple[str, str]:
    match = re.match(r"(start|pre-?bend|bend|hold|release|return|curl|dip|dive|vibrato|flat)\b(.*)", step)
    if match is None and re.match(r"[\d.¼½¾]", step):
        return "bend", _TIME.sub("", step)
    if match is None:
        raise GestureError(f"{step!r} is no step of a curve.", f"Use {WORDS}.")
    return match[1].replace("-", ""), _TIME.sub("", match[2])


def _seconds(step: str) -> float | None:
    match = _TIME.search(step)
    if match is None:
        return None
    return float(match[1]) / (1000 if match[2] == "ms" else 1)


def _plain(rest: str) -> str:
    for sign, written in SIGNS.items():
        rest = rest.replace(sign, written)
    return rest.strip()


def _has_size(rest: str) -> bool:
    return bool(re.search(r"\d", _plain(rest)))


def _size(rest: str, step: str) -> float:
    """Return a size in semitones."""
    match = re.search(
        _NUMBER + r"\s*$", _plain(rest).removesuffix(BELOW).strip().removesuffix("steps").removesuffix("step").strip()
    )
    whole, part = (match["whole"], match["part"]) if match is not None else (None, None)
    if whole is None and part is None:
        raise GestureError(f"{step!r} does not say how far.", f"Give a size in steps: {' '.join(IN_STEPS.values())}.")
    steps = float(whole or 0)
    if part:
        above, below = part.split("/")
        steps += float(above) / max(float(below), 1)
    if not 0 < steps <= 12:
        raise GestureError(f"No string bends by {steps:g} steps.", "Give a size from ¼ to 3 steps.")
    return steps * SEMITONES_PER_STEP


def _vibrato(rest: str, from_s: float) -> Vibrato:
    """Read "5.5 hz 30 cents"; either may be left out."""
    rate = re.search(r"(\d+(?:\.\d+)?)\s*hz", rest)
    extent = re.search(r"(\d+(?:\.\d+)?)\s*cents?", rest)
    try:
        return Vibrato(
            from_s, float(rate[1]) if rate else 5.5, float(extent[1]) if extent else 25.0,
            next((side for side in Side if side in rest.split()), Side.ABOVE),
        )  # fmt: skip
    except ValueError as problem:
        raise GestureError("No finger makes this vibrato.", "Give 4 to 8 Hz and 10 to 80 cents.") from problem
