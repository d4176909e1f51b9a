"""A score as plain JSON values, and back. Fields at their default are left out."""

from collections.abc import Sequence
from dataclasses import fields
from typing import Any

from notcher.core.formats.atomic import FileError, held_against
from notcher.core.formats.older import doubt_from_text
from notcher.core.score import (
    Attack,
    BeatMap,
    Chord,
    Doubt,
    DoubtKind,
    End,
    Excluded,
    Mark,
    Note,
    Phrase,
    PitchCurve,
    Result,
    Revision,
    Score,
    Stroke,
    Tone,
    Tuning,
    Vibrato,
)

_NOTE_DEFAULTS = {field.name: field.default for field in fields(Note)}
IN_FILES = {"attack": "strike"}
"""Fields that files call by another name; those of `events.json` are a contract."""
_ENUMS = {"attack": Attack, "end": End, "tone": Tone, "stroke": Stroke}


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
        "pulse": {"anchors": [list(anchor) for anchor in score.beat_map.anchors], "meter": list(score.beat_map.meter)},
        "chords": [{"start_s": chord.start_s, "name": chord.name} for chord in score.chords],
        "phrases": [
            {
                "start_s": phrase.start_s,
                "end_s": phrase.end_s,
                "name": phrase.name,
                "section": phrase.section,
                "near_fret": phrase.near_fret,
            }
            for phrase in score.phrases
        ],
        "practice": [
            {"start_s": mark.start_s, "end_s": mark.end_s, "pace": mark.pace, "result": str(mark.result)}
            for mark in score.marks
        ],
        "asides": [{"onset_s": heard.onset_s, "midi": heard.midi} for heard in score.excluded],
        "notes": [_note_to_data(note) for note in score.notes],
    }


def _note_to_data(note: Note) -> dict[str, Any]:
    data: dict[str, Any] = {}
    for name, default in _NOTE_DEFAULTS.items():
        value = getattr(note, name)
        if value == default:
            continue
        if isinstance(value, PitchCurve):
            value = [list(point) for point in value.points]
        elif isinstance(value, Vibrato):
            value = {"from_s": value.from_s, "rate_hz": value.rate_hz, "extent_cents": value.extent_cents}
        elif isinstance(value, Doubt):
            value = _doubt_to_data(value)
        elif name in _ENUMS:
            value = str(value)
        data[IN_FILES.get(name, name)] = value
    return data


def _doubt_to_data(doubt: Doubt) -> dict[str, Any]:
    return {
        "kind": str(doubt.kind),
        "amount": doubt.amount,
        "tone": None if doubt.tone is None else str(doubt.tone),
        "place": None if doubt.place is None else list(doubt.place),
        "text": doubt.text,
    }


def _doubt_from_data(data: dict[str, Any] | str) -> Doubt | None:
    """A doubt as a value; older documents told it as a sentence."""
    if isinstance(data, str):
        return doubt_from_text(data)
    place, tone = data.get("place"), data.get("tone")
    return Doubt(
        DoubtKind(data["kind"]),
        data.get("amount", 0.0),
        None if tone is None else Tone(tone),
        None if place is None else (place[0], place[1]),
        data.get("text", ""),
    )


def score_from_data(data: dict[str, Any], *, file_name: str) -> Score:
    """Return the score of data that fits the schema. Raises: FileError for values that no solo can have."""
    try:
        tuning, beat_map = data["tuning"], data["pulse"]
        score = Score(
            tuning=Tuning(tuple(tuning["open_midi"]), tuning["capo"], tuning["offset_cents"]),
            beat_map=BeatMap(
                tuple((t, b) for t, b in beat_map["anchors"]), (beat_map["meter"][0], beat_map["meter"][1])
            ),
            chords=tuple(Chord(chord["start_s"], chord["name"]) for chord in data["chords"]),
            phrases=tuple(Phrase(**phrase) for phrase in data["phrases"]),
            title=data["title"],
            marks=tuple(
                Mark(mark["start_s"], mark["end_s"], mark["pace"], Result(mark["result"]))
                for mark in data.get("practice", ())
            ),
            excluded=tuple(Excluded(heard["onset_s"], heard["midi"]) for heard in data.get("asides", ())),
        )
        return score.with_notes(_note_from_data(note) for note in data["notes"])
    except ValueError as problem:
        raise FileError(f"{file_name!r} is damaged: {problem}.", "Restore the file from a copy.") from problem


def _note_from_data(data: dict[str, Any]) -> Note:
    values = dict(data)
    for name, in_files in IN_FILES.items():
        if in_files in values:
            values[name] = values.pop(in_files)
    if "doubt" in values:
        values["doubt"] = _doubt_from_data(values["doubt"])
    if "curve" in values:
        values["curve"] = PitchCurve(tuple((t, bend) for t, bend in values["curve"]))
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
            {
                "name": revision.name,
                "saved_at": revision.saved_at,
                "score": score_to_data(revision.score, recording=None),
            }
            for revision in revisions
        ],
    }


def revisions_from_data(data: dict[str, Any], *, file_name: str) -> tuple[Revision, ...]:
    """Return the kept states of data that fits the schema. Raises: FileError."""
    return tuple(
        Revision(
            revision["name"],
            revision["saved_at"],
            score_from_data(held_against(revision["score"], "score", file_name), file_name=file_name),
        )
        for revision in data["revisions"]
    )
