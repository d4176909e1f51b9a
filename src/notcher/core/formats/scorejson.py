"""A score as plain JSON values, and back. Fields at their default are left out."""

from collections.abc import Sequence
from dataclasses import fields
from typing import Any

from notcher.core.formats.atomic import FileError, held_against
from notcher.core.score import (
    Aside,
    Chord,
    Curve,
    End,
    Mark,
    Note,
    Phrase,
    Pulse,
    Result,
    Revision,
    Score,
    Strike,
    Stroke,
    Tone,
    Tuning,
    Vibrato,
)

_NOTE_DEFAULTS = {field.name: field.default for field in fields(Note)}
_ENUMS = {"strike": Strike, "end": End, "tone": Tone, "stroke": Stroke}


def score_to_data(score: Score, *, recording: str | None) -> dict[str, Any]:
    """Return what score.json holds. recording: the name of the file that was heard, if any."""
    return {
        "format": "notcher-score",
        "version": 1,
        "title": score.title,
        "recording": None if recording is None else {"file": recording},
        "tuning": {
            "open_midi": list(score.tuning.open_midi),
            "capo": score.tuning.capo,
            "offset_cents": score.tuning.offset_cents,
        },
        "pulse": {"anchors": [list(anchor) for anchor in score.pulse.anchors], "meter": list(score.pulse.meter)},
        "chords": [{"start_s": chord.start_s, "name": chord.name} for chord in score.chords],
        "phrases": [
            {
                "start_s": one.start_s,
                "end_s": one.end_s,
                "name": one.name,
                "section": one.section,
                "near_fret": one.near_fret,
            }
            for one in score.phrases
        ],
        "practice": [
            {"start_s": one.start_s, "end_s": one.end_s, "pace": one.pace, "result": str(one.result)}
            for one in score.marks
        ],
        "asides": [{"onset_s": one.onset_s, "midi": one.midi} for one in score.asides],
        "notes": [_note_to_data(note) for note in score.notes],
    }


def _note_to_data(note: Note) -> dict[str, Any]:
    data: dict[str, Any] = {}
    for name, default in _NOTE_DEFAULTS.items():
        value = getattr(note, name)
        if value == default:
            continue
        if isinstance(value, Curve):
            value = [list(point) for point in value.points]
        elif isinstance(value, Vibrato):
            value = {"from_s": value.from_s, "rate_hz": value.rate_hz, "extent_cents": value.extent_cents}
        elif name in _ENUMS:
            value = str(value)
        data[name] = value
    return data


def score_from_data(data: dict[str, Any], *, file_name: str) -> Score:
    """Return the score of data that fits the schema. Raises: FileError for values that no solo can have."""
    try:
        tuning, pulse = data["tuning"], data["pulse"]
        score = Score(
            tuning=Tuning(tuple(tuning["open_midi"]), tuning["capo"], tuning["offset_cents"]),
            pulse=Pulse(tuple((t, b) for t, b in pulse["anchors"]), (pulse["meter"][0], pulse["meter"][1])),
            chords=tuple(Chord(one["start_s"], one["name"]) for one in data["chords"]),
            phrases=tuple(Phrase(**one) for one in data["phrases"]),
            title=data["title"],
            marks=tuple(
                Mark(one["start_s"], one["end_s"], one["pace"], Result(one["result"]))
                for one in data.get("practice", ())
            ),
            asides=tuple(Aside(one["onset_s"], one["midi"]) for one in data.get("asides", ())),
        )
        return score.with_notes(_note_from_data(note) for note in data["notes"])
    except ValueError as problem:
        raise FileError(f"{file_name!r} is damaged: {problem}.", "Restore the file from a copy.") from problem


def _note_from_data(data: dict[str, Any]) -> Note:
    values = dict(data)
    if "curve" in values:
        values["curve"] = Curve(tuple((t, bend) for t, bend in values["curve"]))
    if values.get("vibrato") is not None:
        wave = values["vibrato"]
        values["vibrato"] = Vibrato(wave["from_s"], wave["rate_hz"], wave["extent_cents"])
    for name, kind in _ENUMS.items():
        if values.get(name) is not None:
            values[name] = kind(values[name])
    return Note(**values)


def revisions_to_data(revisions: Sequence[Revision]) -> dict[str, Any]:
    """Return what revisions.json holds, in order."""
    return {
        "format": "notcher-revisions",
        "version": 1,
        "revisions": [
            {"name": one.name, "saved_at": one.saved_at, "score": score_to_data(one.score, recording=None)}
            for one in revisions
        ],
    }


def revisions_from_data(data: dict[str, Any], *, file_name: str) -> tuple[Revision, ...]:
    """Return the kept states of data that fits the schema. Raises: FileError."""
    return tuple(
        Revision(
            one["name"],
            one["saved_at"],
            score_from_data(held_against(one["score"], "score", file_name), file_name=file_name),
        )
        for one in data["revisions"]
    )
