"""A curve in words, as `parsing.gestures` reads them: "bend 1½ over 200 ms, hold, release"."""

from notcher.core.score import PitchCurve, Side, Vibrato
from notcher.core.words.bends import IN_STEPS, SEMITONES_PER_STEP

LEAST_PREBEND, HELD_SEMITONES = 0.2, 0.05  # semitones: more at the attack is pre-bent; less movement is holding
BELOW = "below"
NO_BEND = "no bend"


def gesture_words(curve: PitchCurve, vibrato: Vibrato | None) -> str:
    """Return a curve as words that `gesture_from_text` reads back to within two cents and a millisecond.

    A start within a tenth of a step of the fret is called no pre-bend, and a release that ends there a whole one.
    """
    steps: list[str] = []
    before_s, before = 0.0, 0.0
    for time_s, bend in curve.points:
        span = f"{(time_s - before_s) * 1000:.0f} ms"
        if time_s == 0:
            if bend <= -LEAST_PREBEND:
                steps.append(f"start {_size_words(-bend)} {BELOW}")
            elif bend >= LEAST_PREBEND:
                steps.append(f"pre-bend {_size_words(bend)}")
        elif abs(bend - before) < HELD_SEMITONES:
            steps.append(f"hold for {span}")
        elif before < bend < -HELD_SEMITONES:
            steps.append(f"return {_size_words(-bend)} {BELOW} over {span}")
        elif bend < -HELD_SEMITONES:
            steps.append(f"dive {_size_words(-bend)} over {span}")
        elif bend > before and bend < HELD_SEMITONES:
            steps.append(f"return over {span}")
        elif bend > before:
            steps.append(f"bend {_size_words(bend)} over {span}")
        else:
            steps.append(f"release{' ' + _size_words(bend) if bend > LEAST_PREBEND else ''} over {span}")
        before_s, before = time_s, bend
    if vibrato is not None:
        side = "" if vibrato.side is Side.ABOVE else f" {vibrato.side}"
        steps.append(f"vibrato {vibrato.rate_hz:.1f} Hz {vibrato.extent_cents:.0f} cents{side}")
    return ", ".join(steps) or NO_BEND


def _size_words(semitones: float) -> str:
    """A size in steps, with the written fraction where it is one."""
    name = IN_STEPS.get(round(semitones, 2))
    return name if name is not None else f"{semitones / SEMITONES_PER_STEP:.2f}"
