"""events.json: what was heard, note by note, for other programs; also the pitch curve as CSV."""

import os
from collections.abc import Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

import numpy as np

from notcher.core.formats.files.atomic import (
    LARGEST_JSON,
    FileError,
    atomic_write,
    checked_json,
    json_bytes,
    read_bytes,
)
from notcher.core.formats.import_result import check_note_count
from notcher.core.hearing import PitchTrack
from notcher.core.neck import Place, Placed, Sounding
from notcher.core.neck.placing import place_long
from notcher.core.patterns import phrases_of
from notcher.core.score import (
    HARMONIC_TONES,
    NO_BEAT_MAP,
    Attack,
    BeatMap,
    End,
    Note,
    PitchCurve,
    Score,
    Tone,
    Tuning,
    Vibrato,
    meter_from_text,
    techniques,
    with_derived_ids,
)
from notcher.core.score.beat_map import TEMPO_RANGE
from notcher.core.score.edits import read_otherwise
from notcher.core.score.limits import LAST_S, MOST_NOTES, NAME_CHARS, fitting

ALONGSIDE = 8  # notes that can have a say in what a note is called
_IN_EVENTS = {"tapped_harmonic": "natural_harmonic"}
"""Names that the contract does not have, and what stands for them."""
_ENDS = {"choked": End.CHOKED, "slide_out": End.SLIDES_AWAY}
_TONES = {
    "natural_harmonic": Tone.NATURAL_HARMONIC,
    "squeal_harmonic": Tone.SQUEAL_HARMONIC,
    "palm_mute": Tone.PALM_MUTE,
    "dead": Tone.DEAD,
}


@dataclass(frozen=True, slots=True)
class Recording:
    """What the notes were heard in."""

    file: str = ""
    duration_s: float = 0.0
    sample_rate: int = 0


def events_data(score: Score, recording: Recording, tunings: Sequence[tuple[Tuning, float]] = ()) -> dict[str, Any]:
    """Return what events.json holds, rounded to what the ear can tell: 0.1 ms, 0.1 cent.

    tunings: that could be this recording's and how likely each is, the likeliest first.
    """
    beat_map = score.beat_map
    first, tempo = beat_map.first_beat_s, beat_map.tempo_bpm
    if tempo is None or first is None or not (TEMPO_RANGE[0] <= tempo <= TEMPO_RANGE[1] and abs(first) <= LAST_S):
        first = tempo = None  # beats that no steady pulse tells
    return {
        "format": "notcher-events",
        "version": 1,
        "recording": {
            "file": recording.file,
            "duration_s": round(recording.duration_s, 4),
            "sample_rate": recording.sample_rate,
        },
        "tuning": {
            "open_midi": list(score.tuning.open_midi),
            "offset_cents": round(score.tuning.offset_cents, 1),
            **({"capo": score.tuning.capo} if score.tuning.capo else {}),
        },
        **({"tunings": [{"open_midi": list(t.open_midi), "p": round(p, 4)} for t, p in tunings]} if tunings else {}),
        "pulse": {
            "tempo_bpm": None if tempo is None else round(tempo, 3),
            "first_beat_s": None if first is None else round(first, 4),
            "meter": None if tempo is None else str(beat_map.meter),
        },
        "notes": [_note_data(score, index) for index in range(len(score.notes))],
    }


def _note_data(score: Score, index: int) -> dict[str, Any]:
    note = score.notes[index]
    wave = note.vibrato
    return {
        "id": note.id,
        "onset_s": round(note.onset_s, 4),
        "offset_s": round(note.offset_s, 4),
        "string": note.string,
        "fret": note.fret,
        "fretted_midi": score.fretted_midi(note),
        "strike": str(note.attack),
        "techniques": _techniques(score, index),
        "bend_semitones": round(note.reading.bend_semitones, 3),
        "curve": [[round(time_s, 4), round(bend, 3)] for time_s, bend in note.curve.points],
        "vibrato": None
        if wave is None
        else {
            "rate_hz": round(wave.rate_hz, 2),
            "extent_cents": round(wave.extent_cents, 1),
            "from_s": round(wave.from_s, 3),
        },
        "confidence": round(note.certainty, 3),
        **({"alternatives": _alternatives(score, index)} if note.readings else {}),
    }


def _techniques(score: Score, index: int) -> list[str]:
    return [_IN_EVENTS.get(name, name) for name in techniques(score, index)]


def _alternatives(score: Score, index: int) -> list[dict[str, Any]]:
    """What else was heard in a note, as it would be called among its neighbours."""
    first = max(0, index - ALONGSIDE)
    around = replace(score, notes=score.notes[first : index + ALONGSIDE], phrases=(), sections=())
    rows = []
    for reading in score.notes[index].readings:
        note = replace(score.notes[index], readings=(reading,))
        notes = (*around.notes[: index - first], note, *around.notes[index - first + 1 :])
        otherwise = read_otherwise(replace(around, notes=notes), note.id)
        at = otherwise.position(note.id)
        note = otherwise.notes[at]
        rows.append(
            {
                "p": round(reading.p, 4),
                "strike": str(note.attack),
                "techniques": _techniques(otherwise, at),
                "bend_semitones": round(note.reading.bend_semitones, 3),
                "fretted_midi": otherwise.fretted_midi(note),
            }
        )
    return rows


def write_events(
    score: Score,
    path: str | os.PathLike[str],
    recording: Recording,
    tunings: Sequence[tuple[Tuning, float]] = (),
) -> None:
    """Write events.json; see `events_data`. Raises: FileError."""
    data = json_bytes(events_data(score, recording, tunings))
    checked_json(data, schema_name="events", file_name=Path(path).name)
    with atomic_write(path) as stream:
        stream.write(data)


def read_events(
    path: str | os.PathLike[str], *, style: str = "position", most: int = MOST_NOTES
) -> tuple[Score, Recording]:
    """Read events.json; notes without a place are given one, notes with string and fret stay where they are.

    most: notes that are wanted. Raises: FileError for more, and for anything else than valid events.
    """
    name = Path(path).name
    data = checked_json(read_bytes(path, most=LARGEST_JSON), schema_name="events", file_name=name)
    check_note_count(len(data["notes"]), most)
    try:
        tuning = Tuning(
            tuple(data["tuning"]["open_midi"]), data["tuning"].get("capo", 0), data["tuning"]["offset_cents"]
        )
        rows = sorted(data["notes"], key=lambda row: row["onset_s"])
        placed = place_long([_sounding(row) for row in rows], tuning, style=style)
        notes = [_note(row, where) for row, where in zip(rows, placed, strict=True)]
        score = Score(tuning=tuning, beat_map=_beat_map(data["pulse"])).with_notes(notes)
        score = score if all("id" in row for row in rows) else with_derived_ids(score)
    except ValueError as problem:
        raise FileError(f"{name!r} is damaged: {problem}.", "Correct it, or draft the recording again.") from problem
    recording = Recording(**{key: data["recording"][key] for key in Recording.__slots__})
    return replace(
        score, title=fitting(recording.file.rsplit(".", 1)[0], NAME_CHARS), phrases=phrases_of(score)
    ), recording


def _beat_map(data: dict[str, Any]) -> BeatMap:
    if data["tempo_bpm"] is None or data["first_beat_s"] is None:
        return NO_BEAT_MAP
    return BeatMap.steady(data["tempo_bpm"], data["first_beat_s"], meter_from_text(data["meter"] or "4/4"))


def _sounding(row: dict[str, Any]) -> Sounding:
    lock = Place(row["string"], row["fret"]) if "string" in row and "fret" in row else None
    attack = Attack(row.get("strike", "pick"))
    bend, tone = row.get("bend_semitones", 0.0), _tone(row)
    return Sounding(row["onset_s"], row["offset_s"], row["fretted_midi"], attack, bend, tone, lock)


def _tone(row: dict[str, Any]) -> Tone:
    names = row.get("techniques", ())
    return next((tone for name, tone in _TONES.items() if name in names), Tone.NORMAL)


def _note(row: dict[str, Any], placed: Placed) -> Note:
    names = row.get("techniques", ())
    wave = row.get("vibrato")
    return Note(
        row["onset_s"],
        row["offset_s"],
        placed.place.string,
        placed.place.fret,
        Attack(row.get("strike", "pick")),
        PitchCurve(tuple((t, bend) for t, bend in row.get("curve", ()))),
        None if wave is None else Vibrato(wave["from_s"], wave["rate_hz"], wave["extent_cents"]),
        next((_ENDS[name] for name in names if name in _ENDS), End.STOPS),
        _tone(row),
        "palm_mute" in names and _tone(row) in HARMONIC_TONES,
        raked="rake" in names,
        slid_in="slide_in" in names and row.get("strike") != "slide",
        finger=placed.finger,
        certainty=row.get("confidence", 1.0),
        id=row.get("id", ""),
    )


def write_pitch_csv(track: PitchTrack, path: str | os.PathLike[str]) -> None:
    """Write `time_s,hz` lines, 0 where no lead note sounds. Raises: FileError."""
    pitch = np.nan_to_num(track.pitch_hz, nan=0.0)
    lines = "\n".join(f"{t:.4f},{hz:.3f}" for t, hz in zip(track.times_s, pitch, strict=True))
    with atomic_write(path) as stream:
        stream.write(lines.encode("ascii") + b"\n")
