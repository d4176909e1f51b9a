"""Where notes stand on a staff, and which of them carry an accidental."""

from collections.abc import Sequence
from dataclasses import dataclass

from notcher.core.score import Key, Score
from notcher.core.score.notation import Bar
from notcher.core.score.rhythm import TICKS
from notcher.core.theory import spelled

LETTERS = "CDEFGAB"
MIDDLE_STEP = 7 * 4 + 6
"""B4, as written: the middle line under a treble clef."""
SIGNS = {-2: "DoubleFlat", -1: "Flat", 0: "Natural", 1: "Sharp", 2: "DoubleSharp"}
SHARPS, FLATS = (4, 1, 5, 2, -1, 3, 0), (0, 3, -1, 2, -2, 1, -3)
"""Where the signs of a key stand in a treble clef: F C G D A E B, and B E A D G C F."""


@dataclass(frozen=True, slots=True)
class Head:
    """A note's head: whose, on which step, with which accidental ("" for none)."""

    index: int
    step: int
    accidental: str = ""


def key_signs(key: Key | None) -> list[tuple[str, int]]:
    """Return the signs of a key and the steps they stand on."""
    fifths = 0 if key is None else key.fifths
    places, name = (SHARPS, "accidentalSharp") if fifths > 0 else (FLATS, "accidentalFlat")
    return [(name, step) for step in places[: abs(fifths)]]


def heads_of(score: Score, bars: Sequence[Bar], *, sounding: bool) -> dict[int, Head]:
    """Return every note's head, by its index. sounding: on the pitch it has, not the one the neck calls it by.

    An accidental holds to the end of its bar, and in its own octave only (G. Read,
    "Music Notation", 2nd ed. 1979, from memory)."""
    result: dict[int, Head] = {}
    for bar in bars:
        in_force: dict[tuple[str, int], int] = {}
        pieces = sorted((piece for voice in bar.voices for piece in voice), key=lambda piece: piece.start)
        at_s = score.beat_map.time(bar.start / TICKS)
        signed = _signature(_key(score, at_s, sounding))
        for piece in pieces:
            for index in piece.indices:
                if index in result:
                    continue
                letter, alter, octave = _written(score, index, sounding)
                now = in_force.get((letter, octave), signed.get(letter, 0))
                shown = SIGNS[max(-2, min(2, alter))] if alter != now else ""
                in_force[letter, octave] = alter
                step = 7 * octave + LETTERS.index(letter) - MIDDLE_STEP
                result[index] = Head(index, step, f"accidental{shown}" if shown else "")
    return result


def _signature(key: Key | None) -> dict[str, int]:
    fifths = 0 if key is None else key.fifths
    order = "FCGDAEB" if fifths > 0 else "BEADGCF"
    return dict.fromkeys(order[: abs(fifths)], 1 if fifths > 0 else -1)


def _key(score: Score, time_s: float, sounding: bool) -> Key | None:
    return score.sounding_key_at(time_s) if sounding else score.key_at(time_s)


def _written(score: Score, index: int, sounding: bool) -> tuple[str, int, int]:
    """Letter, sign and octave as written: an octave above what sounds, or above what the neck calls it."""
    note = score.notes[index]
    midi = score.sounding_midi(note) - (0 if sounding else score.tuning.shift)
    letter, alter, octave = spelled(midi, _key(score, note.onset_s, sounding))
    return letter, alter, octave + 1
