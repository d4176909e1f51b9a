"""Which keys a solo and its phrases are likely in."""

from collections.abc import Sequence
from enum import StrEnum

import numpy as np

from notcher.core.score import Note, Score
from notcher.core.theory.scale import LikelyScale, likely_scales
from notcher.core.theory.targets import reached_midi

TWINS = {"major": 0, "major pentatonic": 0, "natural minor": 3, "minor pentatonic": 3, "blues": 3}
"""Semitones up to the major root with the same notes: relative and pentatonic twins, of which one is named."""
FAITH = 0.5  # how much of the whole solo's opinion a phrase shares


def ranked_keys(score: Score) -> list[LikelyScale]:
    """Return the solo's keys as they sound, the likeliest first; of twins the likelier, with the weight of both."""
    scales: dict[object, LikelyScale] = {}
    for key in likely_scales(*_line(score, score.notes)):
        family: object = (key.tonic, key.scale)
        if key.scale in TWINS:
            family = (key.tonic + TWINS[key.scale]) % 12
        scale = scales.get(family)
        scales[family] = (
            key if scale is None else LikelyScale(scale.tonic, scale.scale, min(1.0, scale.weight + key.weight))
        )
    return sorted(scales.values(), key=lambda key: -key.weight)


def scale_of(score: Score, notes: Sequence[Note], keys: Sequence[LikelyScale]) -> LikelyScale | None:
    """Return the scale that some notes of a solo are likeliest in; None for no note.

    keys: the whole solo's, which a short phrase leans on.
    """
    if not notes:
        return keys[0] if keys else None
    whole = {(key.tonic, key.scale): key.weight for key in keys}

    def faith(key: LikelyScale) -> float:
        return float(np.log(key.weight + 1e-12) + FAITH * np.log(whole.get((key.tonic, key.scale), 1e-4) + 1e-4))

    return max(likely_scales(*_line(score, notes)), key=faith)


def _line(score: Score, notes: Sequence[Note]) -> tuple[list[float], list[float]]:
    reached = [score.sounding_midi(note) + note.reading.bend_semitones for note in notes]
    return reached, [note.duration_s for note in notes]


class Outside(StrEnum):
    """What a note that is not of the scale does there."""

    LEADS_IN = "leads in"  # by a half step, to the next note, which is of the scale
    PASSES = "passes"  # by half steps from one note of the scale to another
    FROM_OUTSIDE = "from outside"


def outside_notes(score: Score, key: LikelyScale) -> tuple[tuple[int, Outside], ...]:
    """Return the notes that reach no pitch of a scale, by index, and what each does.

    Source: chromatic passing and approach tones as in S. Kostka and D. Payne, "Tonal Harmony", 4th ed. 2000, ch. 11
    (from memory).
    """
    reached = reached_midi(score)
    inside = [pitch % 12 in key.pitch_classes for pitch in reached]
    result = []
    for at, pitch in enumerate(reached):
        if inside[at]:
            continue
        into = at + 1 < len(reached) and inside[at + 1] and abs(reached[at + 1] - pitch) == 1
        out_of = at > 0 and inside[at - 1] and abs(reached[at - 1] - pitch) == 1
        passes = into and out_of and reached[at - 1] != reached[at + 1]
        result.append((at, Outside.PASSES if passes else Outside.LEADS_IN if into else Outside.FROM_OUTSIDE))
    return tuple(result)
