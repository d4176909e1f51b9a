"""What a draft says of a whole solo, held against its truth: tempo, meter, tuning, scale; and how often it must be told
where the hand is."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from notcher.core.hearing import Draft
from notcher.core.neck import Place, Sounding, place
from notcher.core.score import Attack, Meter, Tone, Tuning
from notcher.core.theory import likely_scales

TEMPO_SHARE = 0.04
RIGHT_SHARE, MOST_TOLD = 0.95, 60
SCALES = {
    "minor_pent": "minor pentatonic", "major_pent": "major pentatonic", "minor": "natural minor",
    "harm_minor": "harmonic minor", "mel_minor": "melodic minor", "hw_dim": "half-whole", "wh_dim": "whole-half",
}  # fmt: skip
"""Names of the truths that are not ours."""
TWINS = {"major": 0, "major pentatonic": 0, "natural minor": 3, "minor pentatonic": 3, "blues": 3}
"""Semitones up to the major root with the same notes: relative and pentatonic twins count as one."""
SYMMETRIC = {"half-whole": (0, 3), "whole-half": (2, 3), "whole tone": (0, 2)}
"""Semitones up to a half-whole scale of the same notes, and after how many such a scale is itself again."""


@dataclass
class Facts:
    """Of one case: what was right, in the order of the table's columns, and the places that had to be told."""

    tempo: bool
    meter: bool
    tuning: bool
    scale_first: bool
    scale_of_two: bool
    notes: int
    free: int
    first_told: int
    told: int


def _family(tonic: int, scale: str) -> tuple[str, int]:
    if scale in TWINS:
        return "diatonic", (tonic + TWINS[scale]) % 12
    if scale in SYMMETRIC:
        up, period = SYMMETRIC[scale]
        return "whole tone" if scale == "whole tone" else "octatonic", (tonic + up) % period
    return scale, tonic % 12


def _kind(meter: Meter | None) -> str:
    if meter is None:
        return ""
    return "compound" if meter.unit == 8 and meter.beats % 3 == 0 else str(meter.beats)


def _truth_kind(text: str) -> str:
    beats, unit = text.split("/")
    return "compound" if unit == "8" and int(beats) % 3 == 0 else beats


def _soundings(truth: dict) -> tuple[list[Sounding], list[Place]]:
    """The true pitches, to be placed; what is only touched is given."""
    soundings, wanted = [], []
    for note in truth["notes"]:
        where = Place(note["string"], note["fret"])
        midi = truth["tuning"][where.string - 1] + where.fret
        harmonic = "natural_harmonic" in note["techniques"]
        soundings.append(
            Sounding(
                note["onset"], max(note["offset"], note["onset"] + 0.02), midi,
                Attack(note["attack"]), note["bend_semitones"], Tone.NATURAL_HARMONIC if harmonic else Tone.NORMAL,
                lock=where if harmonic else None,
            )
        )  # fmt: skip
        wanted.append(where)
    return soundings, wanted


def _told_places(truth: dict) -> tuple[int, int, int]:
    """Return how many notes are placed rightly with nothing told and with the first told, and the places to be told
    until most are: always the first wrong one."""
    soundings, wanted = _soundings(truth)
    tuning = Tuning(tuple(truth["tuning"]))

    def agreed(told: set[int]) -> list[bool]:
        given = [replace(some, lock=wanted[at]) if at in told else some for at, some in enumerate(soundings)]
        return [found.place == where for found, where in zip(place(given, tuning), wanted, strict=True)]

    free, told = sum(agreed(set())), {0}
    right = agreed(told)
    first = sum(right)
    while sum(right) < RIGHT_SHARE * len(right) and len(told) < MOST_TOLD:
        told.add(right.index(False))
        right = agreed(told)
    return free, first, len(told)


def facts(found: Draft, truth: dict) -> Facts:
    """Compare one draft."""
    score = found.score
    tempo = score.beat_map.tempo_bpm
    notes = [note for note in score.notes if note.tone is not Tone.DEAD]
    scales = likely_scales(
        [score.fretted_midi(note) + note.reading.bend_semitones for note in notes], [n.duration_s for n in notes]
    )
    true = _family(truth["key_pc"], SCALES.get(truth["scale"], truth["scale"]))
    right = [_family(guess.tonic, guess.scale) == true for guess in scales[:2]]
    return Facts(
        bool(tempo and abs(tempo / truth["tempo"] - 1) < TEMPO_SHARE),
        _kind(score.beat_map.meter) == _truth_kind(truth["meter"]),
        list(found.tunings[0].tuning.open_midi) == truth["tuning"],
        right[:1] == [True],
        any(right),
        len(truth["notes"]),
        *_told_places(truth),
    )


def table(rows: dict[str, list[Facts]]) -> list[str]:
    """Return the page's lines; rows: by the name of their cases."""
    lines = [
        "## The whole solo",
        "",
        "Tempo within 4 % (no answer is wrong); meter: compound, or its number of beats; tuning ranked first; scale:",
        "the truth or a relative or pentatonic twin is ranked first, is one of two. Places, of true pitches: as the",
        "truth has them with nothing told, with the first note told; and the places a note to be told until 95 % are.",
        "",
        "| cases | tempo | meter | tuning | scale | of two | places | first told | told a note |",
        "| --- | --- | --- | --- | --- | --- | --- | --- | --- |",
    ]
    for name, some in rows.items():
        shares = np.mean([(f.tempo, f.meter, f.tuning, f.scale_first, f.scale_of_two) for f in some], axis=0)
        places = np.sum([(f.free, f.first_told, f.told) for f in some], axis=0) / sum(f.notes for f in some)
        figures = [*(f"{share:.2f}" for share in shares), *(f"{share:.3f}" for share in places)]
        lines.append(f"| {name} | {' | '.join(figures)} |")
    return [*lines, ""]
