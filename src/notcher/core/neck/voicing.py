"""A chord laid on the neck for strumming: one fret or none on each string."""

from functools import lru_cache
from itertools import product

from notcher.core.neck.fretboard import fret_position_mm
from notcher.core.score import Tuning
from notcher.core.theory.chord_symbol import ChordTones

HIGHEST_POSITION, FRETS_IN_HAND, FINGERS = 9, 4, 4
"""Rhythm players stay below the tenth fret, four frets for four fingers (common practice, no source)."""
LEAST_STRINGS = 3  # two tones name no chord

Voicing = tuple[int | None, ...]


@lru_cache(maxsize=256)
def voicing(chord: ChordTones, tuning: Tuning) -> Voicing:
    """Return the easiest full grip: a fret for each string from the highest on, None where it is not struck.

    The bass is the lowest string struck, no string between two others is left out, and at most four fingers hold it.
    Raises: ValueError when no hand can hold the chord.
    """
    voicings: list[tuple[float, Voicing]] = []
    for position in range(HIGHEST_POSITION + 1):
        frets = {0, *range(max(1, position), position + FRETS_IN_HAND)}
        choices = [
            [fret for fret in sorted(frets) if round(open_midi + fret) % 12 in chord.pitch_classes]
            for open_midi in tuning.open_midi
        ]
        # strings above the highest and below the lowest that is struck stay silent
        for first, last in _ranges(len(choices)):
            bass = [fret for fret in choices[last] if round(tuning.open_midi[last] + fret) % 12 == chord.bass]
            inner = choices[first:last]
            if not bass or not all(inner):
                continue
            for fretted in product(*inner, bass):
                grip = (*[None] * first, *fretted, *[None] * (len(choices) - 1 - last))
                cost = _cost(grip, chord, tuning)
                if cost is not None:
                    voicings.append((cost, grip))
    if not voicings:
        raise ValueError("no hand can hold this chord on this neck")
    return min(voicings, key=lambda grip: (grip[0], [fret if fret is not None else -1 for fret in grip[1]]))[1]


def _ranges(strings: int) -> list[tuple[int, int]]:
    """First and last struck string, counted from 0: the highest one may be left out, the low ones as need be."""
    return [(first, last) for first in range(2) for last in range(first + LEAST_STRINGS - 1, strings)]


def _cost(grip: Voicing, chord: ChordTones, tuning: Tuning) -> float | None:
    """How far a grip is from an easy, full chord; None for what a hand cannot do."""
    struck = [(string, fret) for string, fret in enumerate(grip) if fret is not None]
    pressed = [fret for _, fret in struck if fret > 0]
    low = min(pressed, default=0)
    barred = low > 0 and sum(fret == low for fret in pressed) > 1 and not any(fret == 0 for _, fret in struck)
    fingers = 1 + sum(fret > low for fret in pressed) if barred else len(pressed)
    pitches = [tuning.open_midi[string] + fret for string, fret in struck]
    if fingers > FINGERS or min(pitches) < pitches[-1]:
        return None
    sounding = {round(midi) % 12 for midi in pitches}
    missing = {(chord.root + step) % 12 for step in chord.intervals} - sounding
    fifth = (chord.root + 7) % 12
    lacks = sum(1.0 if tone == fifth and len(chord.intervals) > 3 else 6.0 for tone in missing)
    stretch_mm = fret_position_mm(max(pressed)) - fret_position_mm(low) if pressed else 0.0
    return lacks + 0.9 * (len(grip) - len(struck)) + 0.4 * low + 0.35 * fingers + stretch_mm / 60 + 0.5 * barred
